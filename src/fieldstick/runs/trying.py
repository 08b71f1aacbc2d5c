"""Reads the texts of a source with a draft, to see which fit and which do not."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.matching.result import GAVE_UP, Unfit

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable

    from fieldstick.matching.matcher import Matcher
    from fieldstick.matching.result import Result

CHUNK = 1000
"""Texts that are read at one go."""


class Tried(Struct, frozen=True):
    """A text with the source and the line (from 1) that it was read from, and what came of it."""

    source: str
    number: int
    result: Result

    @property
    def text(self) -> str:
        """The text."""
        return self.result.text

    @property
    def fits(self) -> bool:
        """Whether the pattern fits."""
        return self.result.fits

    @property
    def gave_up(self) -> bool:
        """Whether the text spent its budget."""
        return self.result.unfit is not None and self.result.unfit.reason == GAVE_UP

    @property
    def of_nothing(self) -> bool:
        """Whether the first match takes nothing out of a text that holds something."""
        place = self.result.place
        return self.fits and place is not None and place[0] == place[1] and self.text != ""


class TryTally(Struct):
    """Counts over all texts of a run; `nothing` are the fitting texts of which the match takes nothing."""

    texts: int = 0
    fit: int = 0
    nothing: int = 0
    gave_up: int = 0

    @property
    def missed(self) -> int:
        """The texts that do not fit; those given up are not among them."""
        return self.texts - self.fit - self.gave_up

    def add(self, tried: Tried) -> None:
        """Count a text."""
        self.texts += 1
        self.fit += tried.fits
        self.nothing += tried.of_nothing
        self.gave_up += tried.gave_up


def count(
    matcher: Matcher,
    chunks: Iterable[list[str]],
    tally: TryTally,
    *,
    may_take_nothing: bool = True,
    progress: Callable[[int], None] | None = None,
) -> None:
    """Count the texts of chunks; the same counts as reading them one by one gives.

    `may_take_nothing` tells that the pattern may fit by a match of nothing, which costs a closer look at each.
    """
    for chunk in chunks:
        tally.texts += len(chunk)
        if may_take_nothing:
            for text, rows in zip(chunk, matcher.rows(chunk, with_place=True), strict=True):
                if isinstance(rows, Unfit):
                    tally.gave_up += rows.reason == GAVE_UP
                else:
                    tally.fit += 1
                    tally.nothing += bool(rows and rows[0][0] == rows[0][1] and text)
        else:
            fits = matcher.fits(chunk)
            tally.fit += fits.count(True)
            tally.gave_up += fits.count(None)
        if progress is not None:
            progress(len(chunk))
