"""Why a text fits or does not, for a person and as JSON."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.reporting.cells import Charset, clipped, visible
from fieldstick.reporting.layout import paragraph
from fieldstick.reporting.ruler import Line, Mark, Segment, draw
from fieldstick.reporting.words import counted

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.drafting.diagnosis import Diagnosis, Repair, Stop


def stop_marks(stop: Stop) -> list[Mark]:
    """Return the marks of a match that stopped: what held so far, and where it ended."""
    marks = [Mark(stop.text, stop.text + 1, kind="stop", tone="stop")]
    if stop.text > stop.start:
        marks.insert(0, Mark(stop.start, stop.text, kind="match", tone="match"))
    return marks


def stop_words(stop: Stop) -> str:
    """Say where a match stopped, what was wanted and what stood there."""
    return f"it stops at {stop.text}: wanted {stop.wanted}; found {stop.found}"


def diagnosis_as_text(
    found: Diagnosis, marks: Sequence[Mark], words: str | None, width: int, charset: Charset = Charset()
) -> Iterator[Line]:
    """Yield the text with its ruler, the reason and the changes that would help.

    `marks` are those of the captured fields of a text that fits; `words` say more than the trace can.
    """
    stop = found.stopped
    if stop is None:
        yield from _drawn(found.case.text, marks, width, charset)
        verdict = "it fits" if found.fits and words is None else "it does not fit"
        yield from paragraph(verdict if words is None else "because", words or _where(found), width, indent=2)
    else:
        yield from _drawn(found.case.text, stop_marks(stop), width, charset)
        yield from paragraph("stopped", visible(stop_words(stop), charset), width, indent=2)
        if stop.expression[0] < stop.expression[1]:
            yield from paragraph("asked by", "this piece of the expression:", width, indent=2)
            yield from _drawn(
                found.case.expression, [Mark(*stop.expression, kind="match", tone="warn")], width, charset
            )
    yield from _repairs(found, width, charset)


def _where(found: Diagnosis) -> str:
    if found.trace.spans is None:
        return "the whole text"
    start, end = found.trace.spans[0]
    if (start, end) == (0, len(found.case.text)):
        return "the expression matches the whole text"
    if start == end:
        return f"the expression matches nothing, at {start}"
    return f"the expression matches {start} to {end}"


def _drawn(text: str, marks: Sequence[Mark], width: int, charset: Charset) -> Iterator[Line]:
    for line in draw(text, marks, width - 2, charset):
        yield (Segment("  "), *line)


def _repairs(found: Diagnosis, width: int, charset: Charset) -> Iterator[Line]:
    yield ()
    if not found.repairs:
        what = "would keep it out" if found.fits else "makes it fit"
        yield (Segment(f"  no small change was found that {what}", "quiet"),)
        return
    yield (Segment("  changes that would keep it out" if found.fits else "  changes that make it fit", "strong"),)
    for number, repair in enumerate(found.repairs, 1):
        yield from _repair(number, repair, found, width, charset)


def _repair(number: int, repair: Repair, found: Diagnosis, width: int, charset: Charset) -> Iterator[Line]:
    broken = ""
    if repair.breaks is not None:
        broken = (
            "; breaks no other sample" if repair.breaks == 0 else f"; breaks {counted(repair.breaks, 'other sample')}"
        )
    yield from paragraph(f"  {number}", visible(repair.words + broken, charset), width, indent=2, gap=6)
    case = repair.case
    shown = case.expression if case.expression != found.case.expression else ""
    if case.text != found.case.text:
        shown = case.text
    if shown:
        before = found.case.text if case.text != found.case.text else found.case.expression
        yield (Segment(" " * 8), Segment(_around_change(before, shown, max(width - 9, 16), charset), "good"))


def _around_change(before: str, after: str, cells: int, charset: Charset) -> str:
    """Return the changed text, cut at its head when the change would else fall outside."""
    change = next((at for at, (one, other) in enumerate(zip(before, after, strict=False)) if one != other), 0)
    start = max(0, change - cells // 2) if len(after) > cells else 0
    lead = ("…" if charset.can_show("…") else "~") if start else ""
    return lead + clipped(after[start:], cells - len(lead), charset)


def diagnosis_as_data(found: Diagnosis, words: str | None, field: str | None) -> dict[str, Any]:
    """Return a diagnosis as plain data; each repair is a full setting, best first."""
    stop = found.stopped
    data: dict[str, Any] = {
        "fits": found.fits and words is None,
        "stopped": None
        if stop is None
        else {"text": stop.text, "expression": list(stop.expression), "wanted": stop.wanted, "found": stop.found},
        "repairs": [_repair_data(each) for each in found.repairs],
    }
    if words is not None:
        data["words"] = words
    if field is not None:
        data["field"] = field
    return data


def _repair_data(repair: Repair) -> dict[str, Any]:
    case = repair.case
    data: dict[str, Any] = {
        "words": repair.words,
        "expression": case.expression,
        "flags": sorted(case.flags),
        "reach": case.reach,
        "text": case.text,
    }
    return data if repair.breaks is None else data | {"breaks": repair.breaks}
