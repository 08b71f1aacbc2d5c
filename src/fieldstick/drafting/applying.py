"""Where a repair goes: the text of the pattern or of a part as it was written, a key of the pattern or of a field."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fieldstick.drafting.written import Written, alike
from fieldstick.errors import UsageError

if TYPE_CHECKING:
    from collections.abc import Mapping

    from fieldstick.drafting.context import MatchCase, Repair
    from fieldstick.suites.suite import Pattern
    from fieldstick.syntax.tree import Span


class WrittenChange(Struct, frozen=True):
    """A change of an expression as its writer wrote it: of the part of that name, or of the pattern's own text."""

    part: str | None
    before: str
    after: str


def written_change(expression: str, parts: Mapping[Span, str], texts: Mapping[str, str], changed: str) -> WrittenChange:
    """Return a change of an expression with its parts filled in as one of the innermost text that holds all of it.

    `parts` are the spans of the parts with the groups put around them, `texts` what each part reads.
    """
    head = alike(expression, changed)
    tail = min(alike(expression[::-1], changed[::-1]), min(len(expression), len(changed)) - head)
    start, end = head, len(expression) - tail
    around = [
        (span, name) for span, name in parts.items() if span[0] + 3 <= start and end <= span[1] - 1 and name in texts
    ]
    grown = len(changed) - len(expression)
    for (first, last), name in sorted(around, key=lambda each: each[0][1] - each[0][0]):
        inner = {
            (one - first - 3, other - first - 3): each
            for (one, other), each in parts.items()
            if first < one and other < last
        }
        own = Written(expression[first + 3 : last - 1], inner)
        if own.text == texts[name]:
            return WrittenChange(name, texts[name], own.changed(changed[first + 3 : last - 1 + grown]))
    whole = Written(expression, parts)
    return WrittenChange(None, whole.text, whole.changed(changed))


def edited(document: str, pattern: Pattern, before: MatchCase, repair: Repair, change: WrittenChange | None) -> str:
    """Return a suite's text with a repair written to it. Raises UsageError where it cannot be.

    A part of another suite is changed there, by whoever owns it.
    """
    from fieldstick.suites.editing import with_expression, with_key, with_part

    table = ("patterns", pattern.name)
    if repair.field is not None:
        for key, value in repair.field.keys.items():
            document = with_key(document, (*table, "fields", repair.field.name), key, value)
    case = repair.case
    if case.text != before.text:
        raise UsageError("this changes the text, not the pattern; there is nothing to write to the suite")
    if case.expression != before.expression:
        assert change is not None
        if change.part is None:
            document = with_expression(document, pattern.name, change.after)
        else:
            document = with_part(document, change.part, change.after)
    settings: dict[str, Any] = {}
    if case.flags != before.flags:
        settings["flags"] = sorted(case.flags)
    if case.reach != before.reach:
        settings["reach"] = case.reach
    for key, value in settings.items():
        document = with_key(document, table, key, value)
    return document
