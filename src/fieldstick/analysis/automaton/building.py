"""Builds the program of an expression out of its tree, from its end to its start.

Every node is built before what follows it (its *continuation*), and there are two of these: one for where nothing has
been taken since the innermost repeat began its turn, one for where something has. A turn that takes nothing leaves its
repeat, as in Python's engine; a turn that took something may be followed by another. So no special case is left.

**Groups that give nothing back** (atomic ones, possessive repeats) commit to the first way through that there is.
What they hold is built several times in step, in *variants*: the last goes from any state to the end of the group and
on to anything, so that "the earlier choice leads through the group" is a look-ahead, and every other variant takes a
later choice only where it does not hold for the earlier ones. That is the meaning of such a group, exactly.
"""

from __future__ import annotations

from functools import reduce
from typing import TYPE_CHECKING

from msgspec import structs

from fieldstick.analysis.automaton.program import (
    Accept,
    Ahead,
    Anything,
    Behind,
    Check,
    Choice,
    Here,
    Mark,
    OutOfReach,
    Program,
    State,
    Take,
)
from fieldstick.analysis.character_sets import characters_of
from fieldstick.syntax.characters import EVERYTHING, NOTHING
from fieldstick.syntax.parser import scoped
from fieldstick.syntax.tree import (
    SINGLE,
    Alternation,
    Anchor,
    Aside,
    Backreference,
    Call,
    Character,
    CharClass,
    Conditional,
    FlagSetting,
    Group,
    Look,
    Node,
    Repeat,
    Sequence,
    Shorthand,
    walk,
    without_asides,
)
from fieldstick.syntax.widths import width

if TYPE_CHECKING:
    from collections.abc import Callable
    from collections.abc import Sequence as Sequence_

    from fieldstick.analysis.automaton.program import Place
    from fieldstick.engines.protocol import Reach
    from fieldstick.syntax.characters import CharacterSet
    from fieldstick.syntax.parser import Parsed

MOST_STATES = 40_000
"""States that an expression may have once its counted repeats are spelled out."""

MOST_BUILDS = 100_000
"""Nodes that are built for one expression, each as often as its repeats ask for."""

_Onward = tuple[int, ...]
"""A continuation: the state to go on to in each variant. Outside what gives nothing back there is one variant."""

_Flags = frozenset[str]

_PLACES: dict[str, Place] = {
    "text-start": "text-start",
    "text-end": "text-end",
    "boundary": "boundary",
    "not-boundary": "not-boundary",
}


def program_of(
    parsed: Parsed, reach: Reach = "whole", *, with_groups: bool = True, marked: Sequence_[Node] = ()
) -> Program:
    """Build the program of an expression.

    Reach is built in: before the expression anything may stand (`anywhere`), as little as possible; after it anything
    (`start`, `anywhere`). Without groups nothing is marked, but where a node of `marked` is come to, by its
    place among them.

    Raises OutOfReach with the construct that stands in the way.
    """
    return _program(_Builder(with_groups, marked), parsed, reach)


def trial_program_of(parsed: Parsed, reach: Reach = "whole", *, most_turns: int | None = None) -> Program:
    """Build a program of all that an engine which goes back may try in vain: it has at least those ways.

    What is looked ahead for is a way that ends; a look-behind is passed by; a reference is what its group asks for, and
    a conditional either of its options. Alternatives of one character each are one class, as the engine has them. A
    repeat of more than `most_turns` turns is taken for an endless one.

    Raises OutOfReach as `program_of` does, for other notation and for repeats too large.
    """
    return _program(_TrialBuilder(parsed, most_turns), parsed, reach)


def _program(builder: _Builder, parsed: Parsed, reach: Reach) -> Program:
    with_groups = builder.with_groups
    if builder.spelled_out(parsed.tree) > MOST_STATES:
        raise _too_large()
    end = builder.add(Accept() if reach == "whole" else Anything())
    end = builder.add(Mark(1, end)) if with_groups else end
    try:
        start = builder.build(parsed.tree, parsed.flags, (end,), (end,))[0]
    except RecursionError:
        raise OutOfReach("groups that are nested too deeply") from None
    start = builder.add(Mark(0, start)) if with_groups else start
    if reach == "anywhere":
        start = builder.after_anything(start, lazy=True)
    return Program(builder.all_states(), start, len(parsed.groups), tuple(builder.behind), builder.hidden_group)


def _too_large() -> OutOfReach:
    return OutOfReach(f"repeats that make more than {MOST_STATES:,} states when they are spelled out")


class _Builder:
    """The states made so far; None for one whose place is kept."""

    def __init__(self, with_groups: bool, marked: Sequence_[Node] = ()) -> None:
        self.with_groups = with_groups
        self._slot_of = {node: slot for slot, node in enumerate(marked)}
        self.states: list[State | None] = []
        self.behind: list[int] = []
        """The first state of each look-behind."""
        self.hidden_group: tuple[int, int] | None = None
        self._looking = 0
        self._looking_behind = False
        self._built: dict[tuple[Node, _Onward, _Onward], _Onward] = {}
        self._least: dict[Node, int] = {}
        self._builds = 0
        self._anything: int | None = None
        self._behind_of: dict[Node, int] = {}

    def all_states(self) -> tuple[State, ...]:
        """Return the states, each of which has been made."""
        made = tuple(state for state in self.states if state is not None)
        assert len(made) == len(self.states)
        return made

    def add(self, state: State | None) -> int:
        """Add a state and return its number. Raises OutOfReach when there are too many."""
        if len(self.states) >= MOST_STATES:
            raise _too_large()
        self.states.append(state)
        return len(self.states) - 1

    def spelled_out(self, node: Node) -> int:
        """Return how many characters all repeats ask for, spelled out: there are at least so many states."""
        match node:
            case Repeat():
                return self.spelled_out(node.item) * self._turns_made(node)
            case Sequence():
                return sum(map(self.spelled_out, node.items))
            case Alternation():
                return sum(map(self.spelled_out, node.options))
            case Group() | Look():
                return self.spelled_out(node.body)
            case _:
                return int(isinstance(node, SINGLE))

    def _turns_made(self, node: Repeat) -> int:
        return max(node.least, 1) if node.most is None else node.most

    def after_anything(self, start: int, *, lazy: bool) -> int:
        """Return a state before which anything may be taken."""
        loop = self.add(None)
        taken = self.add(Take(EVERYTHING, loop))
        self.states[loop] = Choice((start, taken) if lazy else (taken, start))
        return loop

    def build(self, node: Node, flags: _Flags, empty: _Onward, taken: _Onward) -> _Onward:
        """Build a node before its continuations: `empty` for when nothing is taken yet, `taken` for after that."""
        if empty != taken and self._takes_at_least(node) > 0:
            empty = taken
        key = (node, empty, taken)
        known = self._built.get(key)
        if known is None:
            self._builds += 1
            if self._builds > MOST_BUILDS:
                raise OutOfReach("repeats in repeats that are too large when they are spelled out", node.span)
            known = self._made(node, flags, empty, taken)
            if node in self._slot_of:
                known = self._marked(self._slot_of[node], known)
            self._built[key] = known
        return known

    def _made(self, node: Node, flags: _Flags, empty: _Onward, taken: _Onward) -> _Onward:
        match node:
            case Sequence():
                for item in reversed(without_asides(node.items)):
                    same = empty == taken
                    after = self.build(item, flags, taken, taken)
                    empty, taken = (after if same else self.build(item, flags, empty, taken)), after
                return empty
            case Alternation():
                return self._chosen([self.build(each, flags, empty, taken) for each in node.options])
            case Repeat():
                return self._repeat(node, flags, empty, taken)
            case Group():
                return self._group(node, scoped(flags, node), empty, taken)
            case Anchor():
                return tuple(self.add(Check(_place(node, flags), "ascii" in flags, each)) for each in empty)
            case Look():
                return self._look(node, flags, empty)
            case Aside() | FlagSetting():
                return empty
            case _ if isinstance(node, SINGLE):
                characters = characters_of(node, flags)
                return tuple(self.add(Take(characters, each)) for each in taken)
            case _:
                raise OutOfReach(_named(node), node.span)

    def _takes_at_least(self, node: Node) -> int:
        known = self._least.get(node)
        if known is None:
            known = self._least[node] = 0 if isinstance(node, Backreference | Conditional) else width(node)[0]
        return known

    def _chosen(self, options: list[_Onward]) -> _Onward:
        """Make the choice between options in each variant: see the head of this module."""
        return tuple(self.add(self._choice_state(options, variant)) for variant in range(len(options[0])))

    def _choice_state(self, options: list[_Onward], variant: int) -> Choice:
        if variant == len(options[0]) - 1:
            return Choice(tuple(option[variant] for option in options))
        guarded = []
        for number, option in enumerate(options):
            earlier = [before[-1] for before in options[:number]]
            guarded.append(reduce(lambda then, start: self.add(Ahead(start, True, then)), earlier, option[variant]))
        return Choice(tuple(guarded))

    def _repeat(self, node: Repeat, flags: _Flags, empty: _Onward, taken: _Onward) -> _Onward:
        if node.mode != "possessive":
            return self._turns(node, empty, taken, lambda e, t: self.build(node.item, flags, e, t))

        def turn(e: _Onward, t: _Onward) -> _Onward:
            return self._committed(
                node.item, e, t, lambda inner_e, inner_t: self.build(node.item, flags, inner_e, inner_t)
            )

        if self.with_groups:
            self._hide_groups(node.item)
        return self._committed(node.item, empty, taken, lambda e, t: self._turns(node, e, t, turn))

    def _turns(
        self, node: Repeat, empty: _Onward, taken: _Onward, turn: Callable[[_Onward, _Onward], _Onward]
    ) -> _Onward:
        if node.most is None:
            first, later = self._endless(node, empty, taken, turn)
        else:
            first, later = self._at_most(node, node.most - node.least, empty, taken, turn)
        for _ in range(node.least):
            same = first == later
            after = turn(later, later)
            first, later = (after if same else turn(first, later)), after
        return first

    def _endless(
        self, node: Repeat, empty: _Onward, taken: _Onward, turn: Callable[[_Onward, _Onward], _Onward]
    ) -> tuple[_Onward, _Onward]:
        """Build `item*`: entered with nothing taken yet, and with something taken."""
        loop = tuple(self.add(None) for _ in taken)
        options = self._either(node, turn(taken, loop), taken)
        for variant, number in enumerate(loop):
            self.states[number] = self._choice_state(options, variant)
        if empty == taken:
            return loop, loop
        return self._chosen(self._either(node, turn(empty, loop), empty)), loop

    def _at_most(
        self, node: Repeat, turns: int, empty: _Onward, taken: _Onward, turn: Callable[[_Onward, _Onward], _Onward]
    ) -> tuple[_Onward, _Onward]:
        """Build `item{0,turns}` likewise."""
        first, later = empty, taken
        for number in range(turns):
            if number == turns - 1 and empty != taken:
                first = self._chosen(self._either(node, turn(empty, later), empty))
            later = self._chosen(self._either(node, turn(taken, later), taken))
        return (later if empty == taken else first), later

    @staticmethod
    def _either(node: Repeat, again: _Onward, on: _Onward) -> list[_Onward]:
        return [on, again] if node.mode == "lazy" else [again, on]

    def _group(self, node: Group, flags: _Flags, empty: _Onward, taken: _Onward) -> _Onward:
        if node.kind == "atomic":
            return self._committed(node.body, empty, taken, lambda e, t: self.build(node.body, flags, e, t))
        if node.kind == "branch-reset":
            raise OutOfReach(_named(node), node.span)
        if node.number is None or not self.with_groups:
            return self.build(node.body, flags, empty, taken)
        if self._looking:
            self.hidden_group = self.hidden_group or node.span
            return self.build(node.body, flags, empty, taken)
        end_taken = self._marked(2 * node.number + 1, taken)
        end_empty = end_taken if empty == taken else self._marked(2 * node.number + 1, empty)
        return self._marked(2 * node.number, self.build(node.body, flags, end_empty, end_taken))

    def _marked(self, slot: int, onward: _Onward) -> _Onward:
        return (self.add(Mark(slot, onward[0])), *onward[1:])

    def _committed(
        self, node: Node, empty: _Onward, taken: _Onward, inner: Callable[[_Onward, _Onward], _Onward]
    ) -> _Onward:
        """Build what gives nothing of `node` back, with one variant more."""
        ends = (self._whatever_follows(),)
        return inner(empty + ends, taken + ends)[:-1]

    def _whatever_follows(self) -> int:
        if self._anything is None:
            self._anything = self.add(Anything())
        return self._anything

    def _look(self, node: Look, flags: _Flags, onward: _Onward) -> _Onward:
        if self._looking_behind:
            raise OutOfReach("look-around inside a look-behind", node.span)
        if node.ahead:
            self._looking += not node.negated
            end = (self._whatever_follows(),)
            start = self.build(node.body, flags, end, end)[0]
            self._looking -= not node.negated
            return tuple(self.add(Ahead(start, node.negated, each)) for each in onward)
        number = self._behind_of.get(node)
        if number is None:
            number = self._behind_of[node] = self._look_behind(node, flags)
        return tuple(self.add(Behind(number, node.negated, each)) for each in onward)

    def _look_behind(self, node: Look, flags: _Flags) -> int:
        """Build what a look-behind asks for, after anything; return its number."""
        with_groups, self.with_groups, self._looking_behind = self.with_groups, False, True
        end = (self.add(Here()),)
        start = self.build(node.body, flags, end, end)[0]
        self.with_groups, self._looking_behind = with_groups, False
        if with_groups and not node.negated:
            self._hide_groups(node.body)
        self.behind.append(self.after_anything(start, lazy=False))
        return len(self.behind) - 1

    def _hide_groups(self, node: Node) -> None:
        """Note that the groups of a node are not known.

        In a possessive repeat the engine keeps places of a turn that came to nothing (Python 3.11), so that what it
        gives follows no rule.
        """
        held = [each.span for each in walk(node) if isinstance(each, Group) and each.number is not None]
        self.hidden_group = self.hidden_group or (held[0] if held else None)


class _TrialBuilder(_Builder):
    """Builds all that may be tried: see `trial_program_of`."""

    def __init__(self, parsed: Parsed, most_turns: int | None) -> None:
        super().__init__(with_groups=False)
        self._most_turns = most_turns
        self._group_of = {
            node.number: node for node in walk(parsed.tree) if isinstance(node, Group) and node.number is not None
        }

    def _turns_made(self, node: Repeat) -> int:
        turns = super()._turns_made(node)
        return turns if self._most_turns is None else min(turns, self._most_turns)

    def _made(self, node: Node, flags: _Flags, empty: _Onward, taken: _Onward) -> _Onward:
        match node:
            case Repeat() if self._most_turns is not None and (node.most or node.least) > self._most_turns:
                endless = structs.replace(node, least=min(node.least, self._most_turns), most=None)
                return self._repeat(endless, flags, empty, taken)
            case Alternation():
                folded = _folded(node, flags)
                if folded is not None:
                    return tuple(self.add(Take(folded, each)) for each in taken)
            case Backreference() if node.number in self._group_of:
                return self.build(self._group_of[node.number].body, flags, empty, taken)
            case Conditional():
                then = self.build(node.then, flags, empty, taken)
                other = empty if node.otherwise is None else self.build(node.otherwise, flags, empty, taken)
                return self._chosen([then, other])
        return super()._made(node, flags, empty, taken)

    def _committed(
        self, node: Node, empty: _Onward, taken: _Onward, inner: Callable[[_Onward, _Onward], _Onward]
    ) -> _Onward:
        if any(isinstance(each, Look | Backreference | Conditional) for each in walk(node)):
            # Which way is committed to is not known exactly: all may be tried.
            return inner(empty, taken)
        return super()._committed(node, empty, taken, inner)

    def _look(self, node: Look, flags: _Flags, onward: _Onward) -> _Onward:
        if not node.ahead:
            return onward
        end = (self.add(Here()),)
        start = self.build(node.body, flags, end, end)[0]
        return tuple(self.add(Choice((start, each))) for each in onward)


def _folded(node: Alternation, flags: _Flags) -> CharacterSet | None:
    """Return the class that the engine makes of alternatives of one character each; None for others."""
    found = NOTHING
    for option in node.options:
        if not isinstance(option, Character | CharClass | Shorthand) or getattr(option, "negated", False):
            return None
        found |= characters_of(option, flags)
    return found


def _place(node: Anchor, flags: _Flags) -> Place:
    if node.name == "line-start":
        return "line-start" if "multiline" in flags else "text-start"
    if node.name == "line-end":
        return "line-end" if "multiline" in flags else "last-line-end"
    place = _PLACES.get(node.name)
    if place is None:
        raise OutOfReach(f"the anchor {node.spelling} of other engines", node.span)
    return place


def _named(node: Node) -> str:
    match node:
        case Backreference():
            return f"the reference {node.spelling}"
        case Conditional():
            return "a conditional group"
        case Call():
            return f"the call {node.spelling}"
        case _:
            return "notation of other engines"
