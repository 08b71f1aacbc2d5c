"""Why a text fits or does not, for a person and as JSON."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.reporting.document import BLANK, Changed, Labelled, Mark, Ruled, said
from fieldstick.reporting.words import counted

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.drafting.diagnosis import Diagnosis, Repair, Stop
    from fieldstick.reporting.document import Block


def stop_marks(stop: Stop) -> tuple[Mark, ...]:
    """Return the marks of a match that stopped: what held so far, and where it ended."""
    stopped = Mark(stop.text, stop.text + 1, kind="stop", tone="stop")
    if stop.text > stop.start:
        return (Mark(stop.start, stop.text, kind="match", tone="match"), stopped)
    return (stopped,)


def stop_words(stop: Stop) -> str:
    """Say where a match stopped, what was wanted and what stood there."""
    return f"it stops at {stop.text}: wanted {stop.wanted}; found {stop.found}"


def diagnosis_report(found: Diagnosis, marks: Sequence[Mark], words: str | None) -> Iterator[Block]:
    """Yield the text with its ruler, the reason and the changes that would help.

    `marks` are those of the captured fields of a text that fits; `words` say more than the trace can.
    """
    text, stop = found.case.text, found.stopped
    if stop is None:
        if text or marks:
            yield Ruled(text, tuple(marks), indent=2)
        verdict = "it fits" if found.fits and words is None else "it does not fit"
        yield Labelled(verdict if words is None else "because", words or _where(found), indent=2)
    else:
        yield Ruled(text, stop_marks(stop), indent=2)
        yield Labelled("stopped", stop_words(stop), indent=2)
        if stop.expression[0] < stop.expression[1]:
            yield Labelled("asked by", "this piece of the expression:", indent=2)
            yield Ruled(found.case.expression, (Mark(*stop.expression, kind="match", tone="warn"),), indent=2)
    yield from _repairs(found)


def _where(found: Diagnosis) -> str:
    if found.trace.spans is None:
        return "the whole text"
    start, end = found.trace.spans[0]
    if (start, end) == (0, len(found.case.text)):
        return "the expression matches the whole text"
    if start == end:
        return f"the expression matches nothing, at {start}"
    return f"the expression matches {start} to {end}"


def _repairs(found: Diagnosis) -> Iterator[Block]:
    yield BLANK
    if not found.repairs:
        what = "would keep it out" if found.fits else "makes it fit"
        yield said((f"  no small change was found that {what}", "quiet"))
        return
    yield said(("  changes that would keep it out" if found.fits else "  changes that make it fit", "strong"))
    for number, repair in enumerate(found.repairs, 1):
        yield from _repair(number, repair, found)


def _repair(number: int, repair: Repair, found: Diagnosis) -> Iterator[Block]:
    broken = ""
    if repair.breaks is not None:
        broken = (
            "; breaks no other sample" if repair.breaks == 0 else f"; breaks {counted(repair.breaks, 'other sample')}"
        )
    yield Labelled(f"  {number}", repair.words + broken, indent=2, gap=6)
    case = repair.case
    if case.text != found.case.text:
        yield Changed(found.case.text, case.text)
    elif case.expression != found.case.expression:
        yield Changed(found.case.expression, case.expression)


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
