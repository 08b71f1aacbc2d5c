"""Why a sample fails, in two lines at the most: the words that `why` uses, for a report of many samples."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.drafting.context import MatchCase
from fieldstick.drafting.diagnosis import Stop, diagnose
from fieldstick.drafting.judge import KnownTexts, OwnJudge
from fieldstick.errors import SyntaxFault

if TYPE_CHECKING:
    from fieldstick.suites.suite import Pattern, Sample

LONGEST_TEXT = 2000
"""Code points of a text that is looked into; `why` itself takes longer ones."""

LIKELY_RESTRAINT = 1.3
"""Cost up to which a change that keeps a text out is worth a line: a tighter bound anywhere keeps some text out."""

STEPS = 25_000
"""Steps for which a change is looked for: some hundredths of a second, whatever else the machine does."""


class Brief(Struct, frozen=True):
    """Where a match stopped, None for a text that fits; and the likeliest change in words, None when none works."""

    stop: Stop | None
    change: str | None


def brief(pattern: Pattern, sample: Sample) -> tuple[Brief | None, int]:
    """Look into one sample, and return what was found and the steps that it took.

    None when there is nothing to add, as for a pattern made of others or a long text.
    """
    if pattern.filling is None or pattern.engine != "python" or len(sample.text) > LONGEST_TEXT:
        return None, 0
    if pattern.take not in ("first", "all"):
        return None, 0
    expression = pattern.filling.text(sample.values)
    try:
        case = MatchCase(expression, pattern.flags, pattern.reach, sample.text)
        known = KnownTexts(pattern, sample.text, samples=pattern.samples, values=sample.values)
        counting = known.harm if known.texts else None
        found = diagnose(case, counting, beside=known.beside, judge=OwnJudge(pattern), steps=STEPS)
    except SyntaxFault:
        return None, len(expression)
    if found.fits != (sample.kind == "negative"):
        return None, found.spent
    harmless = [
        repair.words
        for repair in found.repairs
        if not repair.breaks and (sample.kind == "positive" or repair.cost <= LIKELY_RESTRAINT)
    ]
    return Brief(found.stopped, harmless[0] if harmless else None), found.spent
