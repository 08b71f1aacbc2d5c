"""Machines of the two kinds that there are: one tells where the groups of an expression lie, one sorts by several."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.analysis.automaton.program import OutOfReach
from fieldstick.analysis.automaton.steps import HERE, MOST_REGISTERS, NIL, Finish, Onward
from fieldstick.analysis.automaton.threads import ACCEPTED, UNIVERSAL

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.analysis.automaton.languages import Language
    from fieldstick.analysis.automaton.steps import Moves
    from fieldstick.analysis.automaton.threads import Automaton


class TaggedMachine:
    """The threads of one expression in their order, each with the registers that hold its places.

    States of the same threads whose registers differ in number alone are one, come to by copies (Laurikari, "NFAs with
    tagged transitions", 2000; Trofimovich, "Tagged deterministic finite automata with lookahead", 2017).
    """

    def __init__(
        self, automaton: Automaton, least: int, required: Sequence[str] = (), *, restarts: bool = False
    ) -> None:
        if automaton.program.hidden_group is not None:
            raise OutOfReach("a capture group in look-around or in a possessive repeat", automaton.program.hidden_group)
        self.alphabet = automaton.alphabet
        self.slots = 2 * automaton.program.groups + 2
        self.least, self.required, self.restarts = least, required, restarts
        self._automaton = automaton
        self._known: dict[Any, tuple[Any, tuple[int, ...]]] = {}
        self.start = self._begun(automaton.first_context)

    def restart(self, letter: int) -> Any:
        """See `Machine.restart`; what stands before the character must not matter, as it does to look-behind."""
        return self._begun(self._automaton.next_context(self._automaton.first_context, letter))

    def _begun(self, context: int) -> Any:
        return self._settled(context, [(self._automaton.start, (NIL,) * self.slots)])[0]

    def step(self, state: Any, letter: int) -> Onward | Finish | None:
        """See `Machine.step`."""
        context, threads = state
        automaton = self._automaton
        reached: dict[int, tuple[int, ...]] = {}
        for thread, places in threads:
            for onward, marks in automaton.ways(thread, context, letter):
                if onward not in reached:
                    reached[onward] = _marked(places, marks) if marks else places
            if UNIVERSAL in reached or ACCEPTED in reached:
                break
        if not reached:
            return None
        if ACCEPTED in reached:
            return Finish(reached[ACCEPTED])
        first = next(iter(reached))
        if first == UNIVERSAL:
            return Finish(reached[first])
        onward_context = automaton.next_context(context, letter)
        return Onward(*self._settled(onward_context, list(reached.items())))

    def _settled(self, context: int, threads: list[tuple[int, tuple[int, ...]]]) -> tuple[Any, Moves]:
        """Return the state for threads whose places come from registers or HERE, and the moves into its registers."""
        sources: dict[int, int] = {}
        shape = []
        for thread, places in threads:
            shape.append((thread, tuple([p if p == NIL else sources.setdefault(p, len(sources)) for p in places])))
        key = (context, tuple(shape))
        known = self._known.get(key)
        if known is None:
            known = self._known[key] = self._numbered(context, shape, list(sources))
        state, registers = known
        return state, tuple([move for move in zip(registers, sources, strict=True) if move[0] != move[1]])

    @staticmethod
    def _numbered(
        context: int, shape: list[tuple[int, tuple[int, ...]]], sources: list[int]
    ) -> tuple[Any, tuple[int, ...]]:
        """Choose the registers of a new state: places that are in one stay there, others take the first free ones."""
        taken = {0, *sources}
        free = iter([each for each in range(len(sources) + len(taken)) if each not in taken])
        registers = tuple([next(free) if source == HERE else source for source in sources])
        if max(registers, default=0) >= MOST_REGISTERS:
            raise OutOfReach(f"more than {MOST_REGISTERS} places to be kept in mind")
        numbered = [(thread, tuple([p if p == NIL else registers[p] for p in each])) for thread, each in shape]
        return (context, tuple(numbered)), registers


def _marked(places: tuple[int, ...], marks: tuple[int, ...]) -> tuple[int, ...]:
    changed = list(places)
    for slot in marks:
        changed[slot] = HERE
    return tuple(changed)


class SortingMachine:
    """Which of several languages a text is in first: a state has the row of each, None where that no longer matters."""

    slots = 0
    restarts = False

    def restart(self, letter: int) -> Any:
        """See `Machine.restart`; there is none."""
        raise NotImplementedError

    def __init__(self, languages: Sequence[Language], least: int, required: Sequence[str] = ()) -> None:
        self._languages, self.least, self.required = languages, least, required
        self.alphabet = languages[0].alphabet
        self.start = tuple(language.first for language in languages)

    def step(self, state: Any, letter: int) -> Onward | Finish | None:
        """See `Machine.step`."""
        if letter == self.alphabet.end:
            return self._ended(state)
        reached: list[int | None] = [None] * len(state)
        hopeful = False
        for kind, (language, row) in enumerate(zip(self._languages, state, strict=True)):
            if row is None:
                continue
            after = language.afters(row, letter)[0]
            if language.is_hopeless(after):
                continue
            if language.is_universal(after):
                if not hopeful:
                    return Finish((), kind)
                reached[kind] = after
                break
            reached[kind], hopeful = after, True
        return Onward(tuple(reached)) if hopeful else None

    def _ended(self, state: Any) -> Finish | None:
        for kind, (language, row) in enumerate(zip(self._languages, state, strict=True)):
            if row is not None and language.accepts(row):
                return Finish((), kind)
        return None
