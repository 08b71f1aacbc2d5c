"""Changes of an expression together with a field that would refuse what is captured then, as a number with marks
between its thousands; and dates written otherwise in the text.
"""

from __future__ import annotations

import datetime as dt
from typing import TYPE_CHECKING

from msgspec.structs import replace

from fieldstick.drafting.context import Repair
from fieldstick.drafting.diagnosis import MOST_REPAIRS, diagnose
from fieldstick.drafting.judge import changed_pattern
from fieldstick.drafting.slips.fields import LAYOUTS, field_repairs
from fieldstick.errors import ExpressionError
from fieldstick.lean import compiled_later
from fieldstick.matching.prepare import prepare
from fieldstick.matching.result import FIELD_INVALID

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.drafting.context import MatchCase
    from fieldstick.drafting.judge import KnownTexts
    from fieldstick.matching.result import Result
    from fieldstick.suites.suite import Pattern

WITH_FIELD = 0.3
"""What a change costs more for each that a change of a field costs, which it needs."""

STEPS = 60_000
"""Steps of looking for changes that the expression alone would need."""

CUT_NUMBER = 0.5
"""What a change costs more after which a field of numbers takes part of a number of the text alone."""

REWRITTEN = 0.95
"""What it costs to write a date of the text as its field has it."""

NUMBERS, MOMENTS = ("integer", "decimal"), ("date", "timestamp")

_BEFORE, _BEHIND = compiled_later(r"(?:[\d+-]|\d[.,])\Z"), compiled_later(r"[.,]?\d")
_WRITTEN_OTHERWISE = compiled_later(
    r"(?<!\d)(?:\d{1,2}[./-]\d{1,2}[./-]\d{4}|\d{1,2}\.\d{1,2}\.\d{2}|\d{4}[./]\d{1,2}[./]\d{1,2}"
    r"|\d{1,2} [A-Z][a-z]{2,8} \d{4}|[A-Z][a-z]{2,8} \d{1,2}, \d{4})(?!\d)"
)


def with_fields_changed(
    pattern: Pattern, case: MatchCase, known: KnownTexts, found: Sequence[Repair], *, others: bool
) -> tuple[Repair, ...]:
    """Return changes that were found with those that work once a field is changed, too, likeliest first; there are such
    `others` where fields refused what changes that were tried would capture.

    What breaks known texts stands behind what does not, and so does what lets a field take part of a number.
    """
    if all(each.type in (None, "text") for each in pattern.fields.values()):
        return tuple(found)
    whole = [replace(each, cost=each.cost + CUT_NUMBER * _cuts_number(pattern, each.case)) for each in found]
    joint = _joint(pattern, case, known, {each.case for each in found}) if others else ()
    both = [*whole, *joint, *_rewritten(pattern, case)]
    return tuple(sorted(both, key=lambda each: (bool(each.breaks), each.cost))[:MOST_REPAIRS])


def _read(pattern: Pattern, case: MatchCase) -> Result | None:
    try:
        return prepare(changed_pattern(pattern, case)).read_or_give_up(case.text)
    except ExpressionError:
        return None


def _cuts_number(pattern: Pattern, case: MatchCase) -> bool:
    """Tell whether a field of numbers takes part of a number alone."""
    reading = _read(pattern, case)
    numbers = {name for name, table in pattern.fields.items() if table.type in NUMBERS}
    values = reading.fields.items() if reading is not None else ()
    places = [each.place for name, each in values if each is not None and name in numbers]
    text = case.text
    return any(_BEFORE.search(text, 0, start) or _BEHIND.match(text, end) for start, end in places)


def _joint(pattern: Pattern, case: MatchCase, known: KnownTexts, tried: set[MatchCase]) -> Iterator[Repair]:
    for each in diagnose(case, beside=known.beside, steps=STEPS).repairs:
        reading = _read(pattern, each.case) if each.case not in tried and each.case.text == case.text else None
        if reading is None or reading.unfit is None or reading.unfit.reason != FIELD_INVALID:
            continue
        others = field_repairs(pattern, each.case, reading, known)
        other = next((one for one in others if one.field is not None and one.field.keys.get("type") != "text"), None)
        if other is not None and other.field is not None:
            words = f"{each.words}; and of the field '{other.field.name}': {other.words}"
            yield replace(other, words=words, cost=each.cost + WITH_FIELD * other.cost)


def _rewritten(pattern: Pattern, case: MatchCase) -> Iterator[Repair]:
    """Yield the text with a date in it as a field has it."""
    layouts = {table.layout or "%Y-%m-%d" for table in pattern.fields.values() if table.type in MOMENTS}
    for found in _WRITTEN_OTHERWISE.finditer(case.text) if layouts else ():
        for new in dict.fromkeys(_as_laid_out(found[0], layouts)):
            made = replace(case, text=case.text[: found.start()] + new + case.text[found.end() :])
            reading = _read(pattern, made)
            if reading is not None and reading.fits:
                yield Repair(f"write the date as {new} in the text", made, None, REWRITTEN)
                return


def _as_laid_out(text: str, layouts: set[str]) -> Iterator[str]:
    for written in LAYOUTS:
        try:
            moment = dt.datetime.strptime(text, written)
        except ValueError:
            continue
        yield from (moment.strftime(layout) for layout in sorted(layouts))
