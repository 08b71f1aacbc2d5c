"""Splits made ready: a text cut up at each match of a pattern."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.matching.matcher import Matcher, prepare
from fieldstick.matching.rewriting import taking

if TYPE_CHECKING:
    from collections.abc import Mapping

    from fieldstick.suites.suite import Pattern
    from fieldstick.suites.uses import Split


class ReadySplit(Struct, frozen=True):
    """A split made ready."""

    ready: Matcher
    keep_separators: bool = False
    drop_empty: bool = False

    def pieces(self, text: str) -> tuple[str, ...]:
        """Cut a text up; one that the pattern does not fit is one piece.

        A match of nothing cuts between two characters; at the edges of the text it cuts nothing off. Raises
        BudgetSpent.
        """
        reading = self.ready.read(text)
        found: list[str] = []
        at = 0
        for match in reading.matches if reading.fits else ():
            start, end = match.place
            if start == end and start in (0, len(text)):
                continue
            found.append(text[at:start])
            if self.keep_separators and start < end:
                found.append(text[start:end])
            at = end
        found.append(text[at:])
        return tuple(piece for piece in found if piece or not self.drop_empty)


def prepare_split(split: Split, values: Mapping[str, str] | None = None) -> ReadySplit:
    """Make a split ready. Raises ExpressionError, EngineUnusable and UsageError as `prepare` does."""
    assert split.pattern is not None
    return ready_split(split.pattern, values or {}, split.keep_separators, split.drop_empty)


def ready_split(pattern: Pattern, values: Mapping[str, str], keep_separators: bool, drop_empty: bool) -> ReadySplit:
    """Make a pattern ready to cut at: at all its matches, unless it takes its last one or one by number."""
    known = {name: values[name] for name in pattern.parameters if name in values}
    return ReadySplit(prepare(taking(pattern, "all"), known), keep_separators, drop_empty)
