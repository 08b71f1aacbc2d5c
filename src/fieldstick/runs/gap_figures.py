"""How much of each pattern its samples decide, in figures for a check; kept from before while nothing changed."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.cache import Remembered
from fieldstick.runs.hazard_notes import suite_key

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.suites.suite import Suite


class GapFigure(Struct, frozen=True):
    """What the samples of a pattern decide of what they could; `least` is the share that its suite asks for."""

    address: str
    file: str
    line: int
    asked: int
    decided: int
    least: float | None = None

    @property
    def share(self) -> float:
        """The share that is decided; 1 where nothing could be."""
        return self.decided / self.asked if self.asked else 1.0

    @property
    def falls_short(self) -> bool:
        """Whether its suite asks for more."""
        return self.least is not None and self.share < self.least


def gap_figures(suites: Sequence[Suite]) -> tuple[GapFigure, ...]:
    """Return the figures of every pattern that has samples."""
    kept = Remembered("gaps", ".")
    key = [[suite_key(suite), suite.decided_share] for suite in suites]
    found = kept.get(key, list[GapFigure], lambda: _found(suites))
    kept.save()
    return tuple(found)


def _found(suites: Sequence[Suite]) -> list[GapFigure]:
    from fieldstick.runs.gaps import gaps_of

    patterns = [(suite, pattern) for suite in suites for pattern in suite.patterns.values()]
    return [
        GapFigure(each.address, each.file, each.line, each.asked, each.decided, suite.decided_share)
        for (suite, _), each in zip(patterns, gaps_of(suites, patterns), strict=True)
        if not each.left_out
    ]
