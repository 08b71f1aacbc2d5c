"""Texts that make an expression take long: found in its automaton, confirmed by running the engine.

What the automaton holds of ways is at least what the engine may try; what the engine leaves out, for it sees sooner
than that that a text cannot fit, is found out by running it: nothing is said that this does not confirm. How the cost
grows is told by budgets that a text of linear cost is thousands of times away from, or by how it grows when the text
is doubled.
"""

from __future__ import annotations

import math
import time
from collections.abc import Callable
from itertools import product
from typing import TYPE_CHECKING, Literal

from msgspec import Struct

from fieldstick.analysis.automaton.alphabet import Alphabet
from fieldstick.analysis.automaton.ambiguity import (
    MOST_STEPS,
    Graph,
    doubling,
    failing_ends,
    multiplying,
    ways_of,
)
from fieldstick.analysis.automaton.building import trial_program_of
from fieldstick.analysis.automaton.program import OutOfReach
from fieldstick.analysis.automaton.threads import Automaton
from fieldstick.engines.budget import run_within, timer_usable
from fieldstick.engines.probing import compiled_by_engine, method_of
from fieldstick.errors import BudgetSpent
from fieldstick.lean import compiled_later
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import Repeat, walk
from fieldstick.syntax.widths import width

if TYPE_CHECKING:
    import re
    from collections.abc import Iterator

    from fieldstick.analysis.automaton.ambiguity import Pumped, Word
    from fieldstick.analysis.automaton.asked import Reading
    from fieldstick.syntax.parser import Parsed

Kind = Literal["linear", "polynomial", "exponential", "unknown"]

MOST_TURNS = 48
"""Turns of a pump within which ways that double each time have spent any budget."""

BUDGET_MS = 60
"""Milliseconds of the processor's time that a text may take before it counts as taking forever."""

MOST_MS = 500
"""Milliseconds of the processor's time that a text may take whose growth is measured."""

MOST_COUNTED = 12
"""Turns of a counted repeat above which it is taken for an endless one, where all its turns are too many to look at."""

MOST_TRIED = 8
"""Texts of an expression, each with some ends, that are tried."""

MOST_ENDS = 12
"""Characters that are tried as an end."""

MOST_DEGREE = 100

MANY_TURNS = 2
"""Turns of a counted repeat of what takes more or less from which on its ways are counted."""

VERY_MANY_WAYS = 20_000_000
"""Beginnings of ways through a short text that no engine goes through in its budget."""

LONGEST_TRIED = 200_000
"""Code points of the longest text that growth is measured on."""

LEAST_SECONDS = 0.004
"""A text that takes less is doubled before its growth is measured."""

MOST_SECONDS = 0.1
"""A text that takes more is not doubled any more."""

_SETTLED = 0.45
"""By how much the measured power may lie below the one that is told."""

_Run = Callable[[str], "re.Match[str] | None"]
"""The engine, given a text."""


class Danger(Struct, frozen=True):
    """How the cost of an expression grows with the text, at worst.

    `kind` is `linear`, `polynomial` (the cost is as the length to the power of `degree`, 2 or more), `exponential`, or
    `unknown`, with the `reason`. `pieces` are each a text and one to be repeated after it, `suffix` what ends it all.
    """

    kind: Kind
    degree: int | None = None
    pieces: tuple[tuple[str, str], ...] = ()
    suffix: str = ""
    reason: str = ""

    def text(self, turns: int) -> str:
        """Return a text whose cost grows so with the number of turns. Empty where none is known."""
        return "".join(before + pump * turns for before, pump in self.pieces) + self.suffix


def danger_of(reading: Reading, *, least_degree: int = 2) -> Danger:
    """Return how the cost of an expression grows. Raises SyntaxFault for what is no expression.

    What grows with a power below `least_degree` is not confirmed by running, and told as linear.
    """
    return danger_of_parsed(parse(reading.expression, reading.flags), reading, least_degree=least_degree)


def danger_of_parsed(parsed: Parsed, reading: Reading, *, least_degree: int = 2, steps: int = MOST_STEPS) -> Danger:
    """See `danger_of`, for an expression that was read already; `steps` bound what is looked at."""
    compiled = compiled_by_engine(reading.expression, reading.flags)
    if compiled is None:
        return Danger("unknown", reason="the engine refuses the expression")
    run = method_of(compiled, reading.reach)
    try:
        graph = Graph(Automaton(trial_program_of(parsed, reading.reach)), steps)
        told = _worst(run, graph, least_degree)
        if told.kind != "exponential" and _has_bounded_choice(parsed):
            return _within_bounds(run, graph) or told
        return told
    except OutOfReach as error:
        found = _when_endless(run, parsed, reading, least_degree, steps) or _probed(run, _characters(parsed))
        return found or Danger("unknown", reason=str(error))


def _characters(parsed: Parsed) -> list[str]:
    """Return a character for each class of them that an expression can tell apart; none for one too large."""
    try:
        program = trial_program_of(parsed, most_turns=MOST_COUNTED)
    except OutOfReach:
        return []
    return [character for character, _ in Alphabet([program]).examples]


def is_calm(reading: Reading, below_degree: int, *, steps: int = MOST_STEPS) -> bool:
    """Tell whether it is proven that the cost of an expression grows with a power below `below_degree`.

    Raises SyntaxFault for what is no expression.
    """
    try:
        # The worst of all comes first.
        found = next(multiplying(_graph_of(reading, steps)), None)
    except OutOfReach:
        return False
    return found is None or (found.degree is not None and found.degree + 1 < below_degree)


def is_doubling(reading: Reading) -> bool:
    """Tell whether an automaton says that the cost of an expression may double with each turn; the engine is not asked,
    and it is not where that takes many steps to tell.

    Raises SyntaxFault for what is no expression.
    """
    if not _REPEATED_GROUP.search(reading.expression):
        return False
    try:
        return next(doubling(_graph_of(reading, FEW_STEPS)), None) is not None
    except OutOfReach:
        return False


def _graph_of(reading: Reading, steps: int) -> Graph:
    """Return the places of an automaton, to be gone through in so many steps. Raises OutOfReach where they are few."""
    return Graph(Automaton(trial_program_of(parse(reading.expression, reading.flags), reading.reach)), steps)


FEW_STEPS = 50_000
"""Steps in which it is told of one of many expressions whether its cost doubles."""

_REPEATED_GROUP = compiled_later(r"\)\s*[*+{]")
"""Without one, no cost doubles."""


def _when_endless(run: _Run, parsed: Parsed, reading: Reading, least_degree: int, steps: int) -> Danger | None:
    """Return what is found, and confirmed, when long counted repeats are taken for endless ones."""
    try:
        graph = Graph(Automaton(trial_program_of(parsed, reading.reach, most_turns=MOST_COUNTED)), steps)
        told = _worst(run, graph, least_degree)
    except OutOfReach:
        return None
    return told if told.pieces else None


def _worst(run: _Run, graph: Graph, least_degree: int) -> Danger:
    """Return the worst that running the engine confirms."""
    best, doubtful = Danger("linear"), False
    for number, found in enumerate(multiplying(graph)):
        if number == MOST_TRIED or (best.degree or 0) >= (found.degree or MOST_DEGREE) + 1:
            break
        if found.degree is not None and found.degree + 1 < least_degree:
            break
        texts = list(_texts(graph, found))
        told = _confirmed(run, found, texts, least_degree)
        if told.kind == "linear":
            told = _confirmed(run, found, list(_other_ends(graph, texts)), least_degree)
        if told.kind == "exponential":
            return told
        doubtful = True
        if (told.degree or 0) > (best.degree or 0):
            best = told
    if best.kind == "linear" and doubtful:
        reason = "its ways multiply, but no text that was tried showed it"
        examples = [character for character, _ in graph.automaton.alphabet.examples]
        return _probed(run, examples) or Danger("unknown", reason=reason)
    return best


def _has_bounded_choice(parsed: Parsed) -> bool:
    """Tell whether there is a counted repeat of what takes more or less: its ways have a bound that may be high."""
    return any(
        (node.most or 0) >= MANY_TURNS and least != most
        for node in walk(parsed.tree)
        if isinstance(node, Repeat)
        for least, most in [width(node.item, parsed.widths)]
    )


def _within_bounds(run: _Run, graph: Graph) -> Danger | None:
    """Return a text of one character over and over with very many ways, though not without bound, if confirmed."""
    examples = graph.automaton.alphabet.examples
    for letter in range(graph.automaton.alphabet.size):
        if ways_of(graph, letter, MOST_TURNS) > VERY_MANY_WAYS:
            for suffix in ("", *(character for character, _ in examples)):
                text = Danger(
                    "exponential", None, (("", examples[letter][0]),), suffix, "up to the bounds of its repeats"
                )
                if _takes_forever(run, text):
                    return text
    return None


def _texts(graph: Graph, found: Pumped) -> Iterator[Danger]:
    """Yield texts that may show it: with every end that does not fit by the ways that multiply, or by any way."""
    examples = graph.automaton.alphabet.examples

    def spelled(word: Word) -> str:
        return "".join(examples[letter][0] for letter in word)

    pieces = tuple((spelled(before), spelled(pump)) for before, pump in found.pieces)
    every: frozenset[int] = frozenset({0})
    for before, pump in found.pieces:
        for letter in (*before, *pump):
            every = graph.after(every, letter)
    last = found.pieces[-1][1]
    told: set[str] = set()
    for nodes in (frozenset({found.node}), every):
        for end in failing_ends(graph, nodes, last):
            suffix = spelled(end)
            if suffix not in told:
                told.add(suffix)
                yield Danger("unknown", pieces=pieces, suffix=suffix)


def _other_ends(graph: Graph, texts: list[Danger]) -> Iterator[Danger]:
    """Yield the same texts with every other character at the end: what is looked ahead for may have to be there."""
    told = {each.suffix for each in texts}
    for each in texts[:1]:
        for character, _ in graph.automaton.alphabet.examples[:MOST_ENDS]:
            if character not in told:
                yield Danger("unknown", pieces=each.pieces, suffix=character)


def _probed(run: _Run, examples: list[str]) -> Danger | None:
    """Return a text of one character over and over that takes forever, with any end, if the engine shows one."""
    for character, end in product(examples[:MOST_ENDS], ["", *examples[:MOST_ENDS]]):
        text = Danger("exponential", None, (("", character),), end)
        if _takes_forever(run, text):
            return text
    return None


def _confirmed(run: _Run, found: Pumped, texts: list[Danger], least_degree: int) -> Danger:
    """Return what running the engine confirms."""
    wanted = None if found.degree is None else found.degree + 1
    for each in texts:
        if wanted is None and _takes_forever(run, each):
            return Danger("exponential", None, each.pieces, each.suffix)
    best = Danger("linear")
    for each in texts:
        degree = _measured(run, each, wanted)
        if degree >= max(least_degree, (best.degree or 1) + 1):
            best = Danger("polynomial", degree, each.pieces, each.suffix)
        if degree == wanted:
            break
    return best


def _takes_forever(run: _Run, text: Danger) -> bool:
    return any(_seconds(run, text.text(turns), BUDGET_MS) is None for turns in range(16, MOST_TURNS + 1, 8))


def _measured(run: _Run, text: Danger, most: int | None) -> int:
    """Return the power with which the cost grows when a text is doubled, as far as it is sure; 1 at the least.

    Doubling goes on while the power is below `most`, for short texts do not show it yet.
    """
    turns, power = 16, 1
    took = _seconds(run, text.text(turns), MOST_MS)
    while took is not None and len(text.text(turns)) * 2 <= LONGEST_TRIED and took < MOST_SECONDS:
        turns *= 2
        twice = _seconds(run, text.text(turns), MOST_MS)
        if twice is None:
            return most or power + 1
        if took >= LEAST_SECONDS and _power(took, twice) < (most or 0):
            # A processor that was busy meanwhile tells too little of it: what took least counts.
            took = min(took, _seconds(run, text.text(turns // 2), MOST_MS) or took)
            twice = min(twice, _seconds(run, text.text(turns), MOST_MS) or twice)
        if took >= LEAST_SECONDS:
            power = max(power, _power(took, twice))
            if most is not None and power >= most:
                return most
        took = twice
    return power


def _power(took: float, twice: float) -> int:
    """Return the power with which the cost grows, of a text and of one twice as long; 1 at the least."""
    return max(1, int(math.log2(max(twice / took, 1.0)) + _SETTLED))


def _seconds(run: _Run, text: str, budget_ms: int) -> float | None:
    """Return the processor time of a text in seconds; None when it spends the budget, or the engine breaks down."""
    begun = time.process_time()
    try:
        if timer_usable():
            run_within(budget_ms, run, text)
        else:
            run(text)
    except BudgetSpent:
        return None
    except (SystemError, MemoryError, RecursionError):
        return None
    return time.process_time() - begun
