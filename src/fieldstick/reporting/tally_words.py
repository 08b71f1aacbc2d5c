"""What work on data came to, in words."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.matching.result import DID_NOT_MATCH
from fieldstick.matching.tally import DOES_NOT_FIT
from fieldstick.reporting.words import counted

if TYPE_CHECKING:
    from fieldstick.matching.tally import Tally

MOST_REASONS = 5
"""Reasons that are told apart; the rest are counted together."""

MOST_PLACES = 3

NO_WHOLE_TEXT = "no text fits as a whole; --reach anywhere looks for the pattern within each"


def tally_words(label: str, tally: Tally, *, unit: str = "text", made: str | None = "row") -> str:
    """Say how many texts were read, fitted and did not, and why not; `made` is what the fitting ones gave."""
    start = f"{label}: " if label else ""
    if tally.read == 0:
        return f"{start}nothing to read: the sources hold no {unit}"
    given = f" and gave {counted(tally.rows, made)}" if made is not None and tally.rows != tally.fit else ""
    fit = f"{tally.fit:,} {'fits' if tally.fit == 1 else 'fit'}{given}"
    words = f"{start}read {counted(tally.read, unit)}: {fit}"
    if not tally.missed:
        return words
    reasons = ", ".join(each for each in _reasons(tally) if each)
    words += f"; {tally.missed:,} {'does' if tally.missed == 1 else 'do'} not"
    return f"{words}: {reasons}" if reasons else words


def whole_words(reach: str, tally: Tally) -> str | None:
    """Say that a pattern may be looked for within texts, where as a whole none fits for want of a match; else None."""
    unmatched = set(tally.misses) <= {(DID_NOT_MATCH, None), (DOES_NOT_FIT, None)}
    if reach != "whole" or not tally.read or tally.fit or not unmatched:
        return None
    return NO_WHOLE_TEXT


def _reasons(tally: Tally) -> list[str]:
    found = []
    by_count = sorted(tally.misses.items(), key=lambda each: (-each[1], each[0][1] or ""))
    for (reason, field), count in by_count[:MOST_REASONS]:
        if reason != DOES_NOT_FIT:
            found.append(f"{count:,} {_reason(reason, field)}")
    rest = sum(count for _, count in by_count[MOST_REASONS:])
    if rest:
        found.append(f"{rest:,} for other reasons")
    return found


def _reason(reason: str, field: str | None) -> str:
    if reason == DID_NOT_MATCH:
        return "without a match"
    if reason == "field-invalid":
        return f"where '{field}' is no value that it may have"
    return "given up"


def given_up_words(tally: Tally) -> str | None:
    """Name the texts that spent their budget; None when none did."""
    if not tally.given_up:
        return None
    places = ", ".join(f"{source}:{number}" for source, number in tally.gave_up[:MOST_PLACES])
    more = " …" if tally.given_up > MOST_PLACES else ""
    return (
        f"{counted(tally.given_up, 'text')} given up, since reading took longer than the budget: {places}{more}; "
        "fieldstick why looks for the reason"
    )
