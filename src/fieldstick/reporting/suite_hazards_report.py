"""The hazards of whole suites: for a person, and as JSON."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING, Any

from fieldstick.reporting.document import BLANK, Labelled, Mark, Ruled, said, sentence
from fieldstick.reporting.findings import Finding
from fieldstick.reporting.relation_words import text_words
from fieldstick.reporting.words import counted

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.reporting.document import Block
    from fieldstick.runs.suite_hazards import KeptHazard, SuiteHazards
    from fieldstick.suites.suite import Suite

FORMAT = 1

LONGEST_MARKED = 400
"""Code points of an expression that is drawn whole; of a longer one the piece alone."""


def suite_hazards_report(found: SuiteHazards, suites: Sequence[Suite]) -> Iterator[Block]:
    """Yield each hazard with its place, then allowances that nothing needs, and the verdict."""
    for each in found.open:
        yield from _of_hazard(each)
    accepted = [each for each in found.hazards if each.note is not None]
    for each in accepted:
        yield said(("accepted ", "quiet"), f"  {each.address}  {each.kind}  ", (f"{_place(each)}", "quiet"))
        yield Labelled("note", each.note or "no reason is given")
    if accepted:
        yield BLANK
    for idle in found.idle:
        yield said(("idle     ", "warn"), (f"  {idle.address}", "strong"), f"  {idle.file}:{idle.line}")
        yield Labelled("because", f"it allows '{idle.hazard}', and there is no such hazard: leave the allow out")
        yield BLANK
    yield sentence(verdict(found, suites), "warn" if found.open or found.idle else "good")


def verdict(found: SuiteHazards, suites: Sequence[Suite]) -> str:
    """Say in words and numbers what was found."""
    patterns = counted(sum(len(suite.judged) for suite in suites), "pattern or operation", "patterns and operations")
    parts = counted(sum(len(suite.parts) for suite in suites), "part")
    where = f"in {patterns} and {parts} of {counted(len(suites), 'suite')}"
    accepted = len(found.hazards) - len(found.open)
    words = f"{counted(len(found.open), 'hazard') if found.open else 'No hazard'} {where}"
    words += f"; {accepted:,} accepted" if accepted else ""
    return words + (f"; {counted(len(found.idle), 'allow')} that nothing needs" if found.idle else "") + "."


def _place(each: KeptHazard) -> str:
    return f"{each.file}:{each.line}:{each.column}"


def _of_hazard(each: KeptHazard) -> Iterator[Block]:
    yield said(("hazard   ", "warn"), (f"  {each.address}", "strong"), f"  {each.kind}  {_place(each)}")
    whole = len(each.expression) <= LONGEST_MARKED
    text = each.expression if whole else each.source[:LONGEST_MARKED]
    span = each.span if whole else (0, len(text))
    yield Ruled(text, (Mark(*span, kind="match", tone="warn"),))
    yield Labelled("because", each.reason)
    if each.text is not None:
        then = f"; with the remedy {each.then}" if each.then else ""
        yield Labelled("shown by", f"{text_words(each.text)} {each.now}{then}")
    yield Labelled("instead", each.remedy)
    if each.shown_by:
        shown = "shows" if len(each.shown_by) == 1 else "show"
        yield Labelled("samples", f"{', '.join(each.shown_by)} {shown} it: with the remedy they come out otherwise")
    elif each.then:
        yield Labelled("samples", "no sample shows it")
    if each.used_by:
        yield Labelled("used by", ", ".join(each.used_by))
    yield BLANK


def suite_hazards_as_json(found: SuiteHazards) -> str:
    """Write the hazards as JSON; spans are code-point offsets, lines and columns count from 1."""
    data: dict[str, Any] = {
        "format": FORMAT,
        "hazards": [
            {
                "kind": each.kind,
                "address": each.address,
                "file": each.file,
                "line": each.line,
                "column": each.column,
                "source": each.source,
                "expression": each.expression,
                "span": list(each.span),
                "reason": each.reason,
                "remedy": each.remedy,
                "text": each.text,
                "now": each.now,
                "then": each.then,
                "shown_by": list(each.shown_by),
                "used_by": list(each.used_by),
                "accepted": each.note is not None,
                "note": each.note,
            }
            for each in found.hazards
        ],
        "idle": [
            {"address": each.address, "hazard": each.hazard, "file": each.file, "line": each.line}
            for each in found.idle
        ],
        "totals": {
            "hazards": len(found.open),
            "accepted": len(found.hazards) - len(found.open),
            "idle": len(found.idle),
        },
    }
    return json.dumps(data, ensure_ascii=False, indent=1) + "\n"


def findings_of_hazards(found: SuiteHazards) -> Iterator[Finding]:
    """Yield what is to be said of a place in a file: hazards as warnings, those that are accepted as notes."""
    for each in found.hazards:
        words = f"{each.address}: {each.reason}; {each.remedy}"
        if each.note is not None:
            words += f" (accepted: {each.note})" if each.note else " (accepted)"
        yield Finding("warning" if each.note is None else "note", each.kind, each.file, each.line, words, each.column)
    for idle in found.idle:
        words = f"{idle.address} allows '{idle.hazard}', and there is no such hazard"
        yield Finding("warning", "idle-allow", idle.file, idle.line, words)
