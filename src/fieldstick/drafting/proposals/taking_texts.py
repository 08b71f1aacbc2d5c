"""Tells which texts an expression takes, and of which that takes too long."""

from __future__ import annotations

import time
from typing import TYPE_CHECKING

from fieldstick.engines.probing import batch_of, fits, tried

if TYPE_CHECKING:
    from collections.abc import Sequence

MOST_TOGETHER = 200
"""Milliseconds of processor time that all texts may take an expression, which most often takes one or two."""

MOST_SLOW = 3
"""Texts that take an expression long, after which no more are tried."""


def taken_by(expression: str, texts: Sequence[str]) -> list[bool]:
    """Tell of each text whether an expression fits it as a whole: all at once, as long as none takes long."""
    return list(map(bool, told_by(expression, texts)))


def told_by(expression: str, texts: Sequence[str]) -> list[bool | None]:
    """Tell of each text whether an expression fits it; None where that takes long, and for all after a few such, or
    when all together have taken long.
    """
    found = batch_of(expression, frozenset(), "whole", texts, MOST_TOGETHER)
    if found is not None:
        return [each is not None for each in found]
    told: list[bool | None] = []
    slow, until = 0, time.process_time() + MOST_TOGETHER / 1000
    for text in texts:
        goes_on = slow < MOST_SLOW and time.process_time() < until
        told.append(tried(expression, frozenset(), "whole", text) if goes_on else None)
        slow += told[-1] is None
    return told


def takes(expression: str, text: str) -> bool:
    """Tell whether an expression fits a text as a whole."""
    return fits(expression, frozenset(), "whole", text)
