"""A chart that stands in a line of text."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Sequence

_LEVELS = "▁▂▃▄▅▆▇█"
_PLAIN_LEVELS = "_.-=oO8#"


def small_chart(values: Sequence[float | None], *, can_draw: bool) -> str:
    """Return values as a line of bars, the least lowest and the greatest highest; a blank where there is none."""
    known = [each for each in values if each is not None]
    levels = _LEVELS if can_draw else _PLAIN_LEVELS
    if not known:
        return " " * len(values)
    least, span = min(known), max(known) - min(known)
    top = len(levels) - 1
    return "".join(
        " " if each is None else levels[round((each - least) / span * top) if span else top // 2] for each in values
    )
