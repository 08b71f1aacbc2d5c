"""Why a sample fails, in two lines at the most: the words that `why` uses, for a report of many samples."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from fieldstick.drafting.diagnosis import Stop, diagnose
from fieldstick.drafting.repairs import Setting
from fieldstick.syntax.faults import SyntaxFault

if TYPE_CHECKING:
    from fieldstick.suites.suite import Pattern, Sample

LONGEST_TEXT = 2000
"""Code points of a text that is looked into; `why` itself takes longer ones."""

SECONDS = 0.15


@dataclass(frozen=True, slots=True)
class Brief:
    """Where a match stopped, None for a text that fits; and the likeliest change in words, None when none works."""

    stop: Stop | None
    change: str | None


def brief(pattern: Pattern, sample: Sample) -> Brief | None:
    """Look into one sample; None when there is nothing to add, as for a pattern made of others or a long text."""
    if pattern.filling is None or pattern.engine != "python" or len(sample.text) > LONGEST_TEXT:
        return None
    if pattern.take not in ("first", "all"):
        return None
    expression = pattern.filling.text(sample.values)
    try:
        found = diagnose(Setting(expression, pattern.flags, pattern.reach, sample.text), seconds=SECONDS)
    except SyntaxFault:
        return None
    if found.fits != (sample.kind == "negative"):
        return None
    return Brief(found.stopped, found.repairs[0].words if found.repairs else None)
