"""Asks Python's engine what it makes of an expression, a text, a character: what drafting claims is tried here."""

from __future__ import annotations

import re
import warnings
from collections.abc import Callable, Iterable, Iterator, Sequence
from functools import lru_cache
from typing import TYPE_CHECKING

from fieldstick.engines.budget import run_within, timer_usable
from fieldstick.errors import BudgetSpent

if TYPE_CHECKING:
    from fieldstick.engines.protocol import Reach

Test = Callable[[str], bool]
"""Tells whether one character is among those asked for."""

MILLISECONDS = 50
"""How long a text may take to be tried."""

_RE_FLAGS = {"ignore-case": re.IGNORECASE, "dotall": re.DOTALL, "ascii": re.ASCII, "multiline": re.MULTILINE}


def engine_flags(flags: frozenset[str]) -> int:
    """Return the engine's bits for flags, verbose left out."""
    bits = 0
    for name, bit in _RE_FLAGS.items():
        if name in flags:
            bits |= int(bit)
    return bits


def compiled_by_engine(expression: str, flags: frozenset[str]) -> re.Pattern[str] | None:
    """Compile an expression with the engine; None when it refuses."""
    bits = engine_flags(flags) | (re.VERBOSE if "verbose" in flags else 0)
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            return re.compile(expression, bits)
    except (re.error, ValueError, OverflowError, RecursionError):
        return None


@lru_cache(maxsize=4096)
def character_test(spelling: str, flags: frozenset[str]) -> Test:
    """Return a test for one character, answered by the engine itself, so that case folds as it does there."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        fits = re.compile(spelling, engine_flags(flags)).fullmatch
    known: dict[str, bool] = {}

    def test(character: str) -> bool:
        found = known.get(character)
        if found is None:
            found = known[character] = fits(character) is not None
        return found

    return test


def method_of(compiled: re.Pattern[str], reach: Reach) -> Callable[..., re.Match[str] | None]:
    """Return the engine's own method that looks for the first match within a reach."""
    return {"whole": compiled.fullmatch, "start": compiled.match, "anywhere": compiled.search}[reach]


def fits(expression: str, flags: frozenset[str], reach: Reach, text: str) -> bool:
    """Tell whether the engine matches; an expression it refuses, or a text that takes it long, does not fit."""
    return bool(tried(expression, flags, reach, text))


def tried(expression: str, flags: frozenset[str], reach: Reach, text: str) -> bool | None:
    """Tell whether the engine matches; None for a text that takes it long, or that it breaks down on."""
    compiled = compiled_by_engine(expression, flags)
    if compiled is None:
        return False
    method = method_of(compiled, reach)
    try:
        return (run_within(MILLISECONDS, method, text) if timer_usable() else method(text)) is not None
    except (BudgetSpent, SystemError, MemoryError):
        return None


def outcomes(expression: str, flags: frozenset[str], reach: Reach, texts: Iterable[str]) -> Iterator[object]:
    """Yield for each text the places of the first match and its groups; None for no match, "no end" where given up."""
    compiled = compiled_by_engine(expression, flags)
    method = method_of(compiled, reach) if compiled is not None else None
    for text in texts:
        if method is None:
            yield "refused"
            continue
        try:
            found = run_within(MILLISECONDS, method, text) if timer_usable() else method(text)
        except (BudgetSpent, SystemError, MemoryError):
            yield "no end"
        else:
            yield found.regs if found is not None else None


MOST_STARTS = 10_000
"""The characters of a text at which a match is looked for: between one and the next, a signal may have to wait."""


def matched_within(milliseconds: int, read: Callable[[], re.Match[str] | None]) -> re.Match[str] | None:
    """Return what matching finds; None for no match, or where that takes longer than so many milliseconds."""
    try:
        return run_within(milliseconds, read) if timer_usable() else read()
    except (BudgetSpent, SystemError, MemoryError, RecursionError):
        return None


def found_within(compiled: re.Pattern[str], text: str) -> tuple[int, int] | None:
    """Return where the first match anywhere in a text lies, begun within its first 10,000 characters.

    None for none, or where that takes long.
    """

    def look() -> re.Match[str] | None:
        found = compiled.search(text, 0, MOST_STARTS)
        # What ends where the search ended may go on.
        return compiled.match(text, found.start()) if found is not None and found.end() == MOST_STARTS else found

    found = matched_within(MILLISECONDS, look)
    return found.span() if found is not None else None


BATCH_MILLISECONDS = 1_000
"""How long many texts may take together."""


def batch_of(
    expression: str, flags: frozenset[str], reach: Reach, texts: Sequence[str], milliseconds: int = BATCH_MILLISECONDS
) -> list[tuple[tuple[int, int], ...] | None] | None:
    """Return for each text the places of the first match and its groups, None for no match.

    None for all where the engine refuses the expression, or they take too long together.
    """
    compiled = compiled_by_engine(expression, flags)
    if compiled is None:
        return None
    method = method_of(compiled, reach)

    def read() -> list[tuple[tuple[int, int], ...] | None]:
        return [found.regs if (found := method(text)) is not None else None for text in texts]

    try:
        return run_within(milliseconds, read) if timer_usable() else read()
    except (BudgetSpent, SystemError, MemoryError):
        return None
