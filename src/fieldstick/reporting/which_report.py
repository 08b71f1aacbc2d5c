"""Which patterns fit a text, or the texts of a source, for a person and as JSON."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.reporting.document import BLANK, Labelled, Ruled, said, table
from fieldstick.reporting.marks import marks_of
from fieldstick.reporting.why_report import stop_marks, stop_words
from fieldstick.reporting.words import counted

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.which import Fit, Found, Near, Shares
    from fieldstick.reporting.document import Block


MOST_NEAR = 2
"""Patterns that do not fit and are shown beside those that do."""


def found_report(found: Found, most: int) -> Iterator[Block]:
    """Yield the patterns that fit, each with its ruler, and where none does, those that came furthest."""
    for each in found.fits[:most]:
        yield said(("fits    ", "good"), (each.candidate.address, "strong"), (_about(each), "quiet"))
        yield Ruled(found.text, tuple(marks_of(each.reading)), indent=2)
        if each.reading.member is not None:
            yield Labelled("member", f"'{each.reading.member}' decided", indent=2)
        yield BLANK
    left = len(found.fits) - most
    if left > 0:
        yield said((f"  … {counted(left, 'pattern')} more; --show {len(found.fits)} shows all", "quiet"))
        yield BLANK
    for near in found.near[:most] if not found.fits else _far_come(found):
        yield from _near(found.text, near)
    yield said((_verdict(found), "good" if found.fits else "bad"))


def _far_come(found: Found) -> Iterator[Near]:
    """Yield patterns that do not fit and came through most of the text: what a slip keeps out may be meant."""
    for each in found.near[:MOST_NEAR]:
        if 2 * each.came > len(found.text):
            yield each


def _verdict(found: Found) -> str:
    asked = len(found.fits) + len(found.near)
    if found.fits:
        return f"{len(found.fits):,} of {counted(asked, 'pattern')} {'fits' if len(found.fits) == 1 else 'fit'}"
    return f"none of {counted(asked, 'pattern')} fits"


def _about(each: Fit) -> str:
    return f"  {each.candidate.pattern.about}" if each.candidate.pattern.about else ""


def _near(text: str, near: Near) -> Iterator[Block]:
    yield said(("came    ", "warn"), (near.candidate.address, "strong"))
    yield Ruled(text, stop_marks(near.stop) if near.stop is not None else (), indent=2)
    yield Labelled("stopped", stop_words(near.stop) if near.stop is not None else near.words, indent=2)
    yield BLANK


def shares_report(found: Shares, near: Found | None, most: int) -> Iterator[Block]:
    """Yield a row for each pattern that fits something, and a text that none fits, with what came furthest."""
    rows = []
    for each in found.ranked:
        assert each.first is not None
        where = f"{each.first[0]}:{each.first[1]}"
        rows.append((each.candidate.address, f"{each.fit:,}", f"{100 * each.fit / found.texts:.1f} %", where))
    if rows:
        yield table(("pattern", "texts", "share", "first"), rows)
        yield BLANK
    if near is not None and found.unknown is not None:
        yield said(("none    ", "bad"), (f"{found.unknown[0]}:{found.unknown[1]}", "quiet"))
        for each_near in near.near[: max(1, most // 3)]:
            yield from _near(near.text, each_near)
    silent = len(found.shares) - len(rows)
    words = f"{counted(found.texts, 'text')}: {found.none:,} that no pattern fits"
    yield said(
        (f"{words}; {counted(silent, 'pattern')} fit none" if silent else words, "bad" if found.none else "good")
    )


def found_as_data(found: Found, most: int) -> dict[str, Any]:
    """Return what came of a text as plain data; places are code-point offsets into it."""
    return {
        "text": found.text,
        "fits": [
            {
                "pattern": each.candidate.address,
                "member": each.reading.member,
                "place": list(each.reading.place) if each.reading.place is not None else None,
                "fields": {
                    name: None if field is None else {"text": field.text, "place": list(field.place)}
                    for name, field in each.reading.fields.items()
                },
            }
            for each in found.fits
        ],
        "furthest": [_near_data(each) for each in found.near[:most]],
    }


def _near_data(near: Near) -> dict[str, Any]:
    stop = near.stop
    stopped = None if stop is None else {"text": stop.text, "wanted": stop.wanted, "found": stop.found}
    return {"pattern": near.candidate.address, "stopped": stopped, "words": near.words or None}


def shares_as_data(found: Shares, near: Found | None, most: int) -> dict[str, Any]:
    """Return what came of a source as plain data."""
    unknown = None
    if found.unknown is not None and near is not None:
        source, line, text = found.unknown
        furthest = [_near_data(each) for each in near.near[:most]]
        unknown = {"source": source, "line": line, "text": text, "furthest": furthest}
    return {
        "texts": found.texts,
        "none": found.none,
        "patterns": [
            {"pattern": each.candidate.address, "fit": each.fit, "first": list(each.first[:2]) if each.first else None}
            for each in found.ranked
        ],
        "unknown": unknown,
    }
