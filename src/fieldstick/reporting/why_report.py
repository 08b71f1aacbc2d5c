"""Why a text fits or does not, for a person and as JSON."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fieldstick.drafting.applying import written_change
from fieldstick.drafting.written import Written
from fieldstick.reporting.document import BLANK, Changed, Labelled, Mark, Ruled, said
from fieldstick.reporting.words import counted

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping

    from fieldstick.drafting.applying import WrittenChange
    from fieldstick.drafting.context import Repair
    from fieldstick.drafting.diagnosis import Diagnosis, Stop
    from fieldstick.errors import SyntaxFault
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


class Answer(Struct, frozen=True):
    """Why a text fits or does not: the diagnosis of the expression that decides, and what is known beside it.

    `fits` tells whether the whole pattern does, `marks` are those of the captured fields. `words` and `field` say which
    field is refused, and why. `path` leads to the member that decides, `known` names the sample that the text is.
    """

    found: Diagnosis
    fits: bool
    marks: tuple[Mark, ...] = ()
    words: str | None = None
    field: str | None = None
    path: tuple[tuple[str, str], ...] = ()
    known: str | None = None
    parts: Mapping[tuple[int, int], str] = {}
    homes: Mapping[str, str] = {}
    """The file, and where it is known the line, of each part."""
    part_texts: Mapping[str, str] = {}
    """What each part reads."""
    differs: str | None = None
    """How what is captured differs from what the sample asks for that the text is."""
    column: str | None = None
    """The column of a form whose cell the text is."""
    gave_up: str | None = None
    """Why the text was given up, where it was."""

    @property
    def written(self) -> Written:
        """The expression as its writer wrote it."""
        return Written(self.found.case.expression, self.parts)

    def written_change(self, repair: Repair) -> WrittenChange:
        """Return what a repair changes of what the writer wrote: the pattern's own text, or that of a part."""
        return written_change(self.found.case.expression, self.parts, self.part_texts, repair.case.expression)

    @property
    def is_as_meant(self) -> bool:
        """Whether the text is a sample of which came what is meant to."""
        return self.known is not None and self.fits == self.known.startswith("positive")


def answer_report(answer: Answer) -> Iterator[Block]:
    """Yield what the text is known as, which member decides, its ruler, the reason and the changes that would help."""
    found, stop = answer.found, answer.found.stopped
    if answer.column is not None:
        yield said((f"  {answer.column}", "strong"))
    if answer.known is not None:
        meant = "it is meant to fit" if answer.known.startswith("positive") else "it is meant not to fit"
        yield Labelled("known", f"this text is a {answer.known}: {meant}", indent=2)
    for combination, member in answer.path:
        came = "decides" if answer.fits or combination != "any_of" else "came furthest, and none fits"
        yield said((f"  {_COMBINED[combination]}: '{member}' {came}", "quiet"))
    if found.fault is not None:
        yield from _unread(answer, found.fault)
    elif stop is None:
        if found.case.text or answer.marks:
            yield Ruled(found.case.text, answer.marks, indent=2)
        if answer.words is not None:
            yield Labelled("because", answer.words, indent=2)
        elif found.fits:
            inner = f" '{answer.path[-1][1]}'" if answer.path else ""
            verdict = "it fits" if answer.fits or not answer.path else f"it does not fit, since{inner} does"
            yield Labelled(verdict, _where(found), indent=2)
            if answer.differs is not None:
                yield Labelled("but", answer.differs, indent=2)
        else:
            yield Labelled("it does not fit", "the engine finds no match where the notation asks for one", indent=2)
    else:
        yield Ruled(found.case.text, stop_marks(stop), indent=2)
        if answer.fits:
            yield Labelled("it fits", "since no member does", indent=2)
        yield Labelled("stopped", stop_words(stop), indent=2)
        if stop.expression[0] < stop.expression[1]:
            place, part = answer.written.place(stop.expression)
            words = "this piece of the expression:"
            if part is not None:
                words = f"{found.case.expression[slice(*stop.expression)]} in the part '{part}'{_home(answer, part)}:"
            yield Labelled("asked by", words, indent=2)
            yield Ruled(answer.written.text, (Mark(*place, kind="match", tone="warn"),), indent=2)
    yield BLANK
    if answer.words is not None and not found.repairs:
        yield said(("  the expression matches; change the value, or what the field allows", "quiet"))
    else:
        yield from _repairs(answer)


def _unread(answer: Answer, fault: SyntaxFault) -> Iterator[Block]:
    """Yield why the expression cannot be read, and where."""
    start = min(fault.span[0], len(answer.found.case.expression))
    place, part = answer.written.place((start, start + 1))
    yield Labelled("unread", f"the expression cannot be read: {fault}", indent=2)
    where = "" if part is None else f"in the part '{part}'{_home(answer, part)}:"
    if where:
        yield said((f"  {where}", "quiet"))
    yield Ruled(answer.written.text, (Mark(*place, kind="stop", tone="stop"),), indent=2)


def _home(answer: Answer, part: str) -> str:
    return f", {answer.homes[part]}" if part in answer.homes else ""


_COMBINED = {"any_of": "any of several", "all_of": "all of several", "none_of": "none of several"}


def _where(found: Diagnosis) -> str:
    if found.trace.spans is None:
        return "the whole text"
    start, end = found.trace.spans[0]
    if (start, end) == (0, len(found.case.text)):
        return "the expression matches the whole text"
    if start == end:
        return f"the expression matches nothing, at {start}"
    return f"the expression matches {start} to {end}"


def _repairs(answer: Answer) -> Iterator[Block]:
    found = answer.found
    which = f" '{answer.path[-1][1]}'" if answer.path else ""
    if answer.differs is not None:
        what, heading = "is captured as its sample asks", "after which it is captured as its sample asks"
    elif found.fits:
        what = f"would keep it out{f' of{which}' if which else ''}"
        heading = f"that {what}"
    else:
        what, heading = f"makes it fit{which}", f"that make it fit{which}"
    if not found.repairs:
        yield said((f"  no small change was found that {what}", "quiet"))
    else:
        all_the_same = " all the same" if answer.is_as_meant and answer.differs is None else ""
        yield said((f"  changes {heading}{all_the_same}", "strong"))
    for number, repair in enumerate(found.repairs, 1):
        yield from _repair(number, repair, answer)
    if not found.complete:
        yield said(("  there may be more: the search ended after its steps", "quiet"))


def _repair(number: int, repair: Repair, answer: Answer) -> Iterator[Block]:
    found = answer.found
    harm = ""
    if repair.harm is not None:
        broken, left = repair.harm
        harm = f"; breaks {counted(broken, 'other sample')}" if broken else "; breaks no other sample"
        harm += f", leaves {left} that is wrong" if left == 1 else f", leaves {left} that are wrong" if left else ""
    yield Labelled(f"  {number}", repair.words + harm, indent=2, gap=6, condensed=True)
    case = repair.case
    if case.text != found.case.text:
        yield Changed(found.case.text, case.text)
    elif case.expression != found.case.expression:
        change = answer.written_change(repair)
        if change.part is not None:
            yield said((f"        in the part '{change.part}'{_home(answer, change.part)}:", "quiet"))
        yield Changed(change.before, change.after, whole=True)


def answer_as_data(answer: Answer) -> dict[str, Any]:
    """Return an answer as plain data; each repair is a full setting, best first."""
    found, stop = answer.found, answer.found.stopped
    data: dict[str, Any] = {
        "fits": answer.fits,
        "stopped": None
        if stop is None
        else {"text": stop.text, "expression": list(stop.expression), "wanted": stop.wanted, "found": stop.found},
        "repairs": [_repair_data(each) for each in found.repairs],
    }
    if answer.path:
        data["members"] = [{"combination": combination, "member": member} for combination, member in answer.path]
    if found.fault is not None:
        data["fault"] = {"words": str(found.fault), "expression": found.fault.span[0]}
    for name in ("words", "field", "known", "differs", "column"):
        if getattr(answer, name) is not None:
            data[name] = getattr(answer, name)
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
    if repair.field is not None:
        keys = {key: _plain(each) for key, each in repair.field.keys.items()}
        data["field"] = {"name": repair.field.name, "keys": keys}
    if repair.harm is not None:
        data["breaks"] = repair.harm.breaks
        if repair.harm.leaves:
            data["leaves"] = repair.harm.leaves
    return data


def _plain(value: Any) -> Any:
    """Return a key's value as JSON has it: exact decimals and dates as texts."""
    if isinstance(value, list | tuple):
        return [_plain(each) for each in value]
    return value if value is None or isinstance(value, str | int | bool) else str(value)
