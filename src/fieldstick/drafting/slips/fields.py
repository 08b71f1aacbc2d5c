"""Fields that refuse what was captured: their bounds, layout, marks or list changed, or the value in the text."""

from __future__ import annotations

import datetime as dt
import math
from decimal import Decimal
from difflib import get_close_matches
from typing import TYPE_CHECKING, Any

from msgspec.structs import replace

from fieldstick.drafting.context import FieldChange, Repair
from fieldstick.drafting.judge import changed_pattern, with_field
from fieldstick.errors import FieldstickError
from fieldstick.matching.prepare import prepare
from fieldstick.suites.fieldtypes import FieldTableError, Unconverted, field_spec

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator

    from fieldstick.drafting.context import MatchCase
    from fieldstick.drafting.judge import KnownTexts
    from fieldstick.matching.result import Result
    from fieldstick.suites.fieldtypes import FieldSpec
    from fieldstick.suites.model import FieldTable
    from fieldstick.suites.suite import Pattern

LAYOUTS = (
    "%d.%m.%Y", "%d.%m.%y", "%d/%m/%Y", "%m/%d/%Y", "%Y/%m/%d", "%Y.%m.%d", "%Y%m%d", "%d-%m-%Y", "%d %B %Y",
    "%d %b %Y", "%B %d, %Y", "%H:%M", "%H.%M", "%H:%M:%S", "%H%M", "%I:%M %p", "%Y-%m-%d %H:%M", "%Y-%m-%d %H:%M:%S",
    "%d.%m.%Y %H:%M", "%d.%m.%Y %H:%M:%S", "%d/%m/%Y %H:%M", "%d/%b/%Y:%H:%M:%S", "%Y%m%dT%H%M%S",
)  # fmt: skip
"""Ways of writing dates and times that are tried."""

MOST = 5


def field_repairs(pattern: Pattern, case: MatchCase, reading: Result, known: KnownTexts) -> tuple[Repair, ...]:
    """Return changes of a field that refuses a value, or of the value, after which the text fits, likeliest first."""
    name = reading.unfit.field if reading.unfit is not None else None
    captured = reading.fields.get(name) if name is not None else None
    if name is None or captured is None:
        return ()
    group, table = _table_of(pattern, name)
    if table is None:
        return ()
    base = changed_pattern(pattern, case)
    found: list[Repair] = []
    for keys, words, cost in _changes(table, captured.text):
        try:
            changed = with_field(base, FieldChange(group, keys))
            works = prepare(changed).read_or_give_up(case.text).fits
        except (FieldstickError, ValueError):
            continue
        if works:
            change = FieldChange(group, keys)
            found.append(Repair(words, case, known.harm(case, changed) if known.texts else None, cost, change))
    for value, words, cost in _values(table, captured.text):
        start, end = captured.place
        text = case.text[:start] + value + case.text[end:]
        if prepare(base).read_or_give_up(text).fits:
            found.append(Repair(words, replace(case, text=text), None, cost))
    return tuple(sorted(found, key=lambda each: (bool(each.breaks), each.cost))[:MOST])


def _table_of(pattern: Pattern, name: str) -> tuple[str, FieldTable | None]:
    for group, table in pattern.fields.items():
        if name in (group, table.name):
            return group, table
    return name, None


def _changes(table: FieldTable, text: str) -> Iterator[tuple[dict[str, Any], str, float]]:
    """Yield keys of a field's table with values that may let a text in, in words, and how far-fetched each is."""
    try:
        spec = field_spec(table)
    except FieldTableError:
        return
    try:
        value = spec.convert(text)
    except Unconverted:
        yield from _conversions(table, spec, text)
        return
    shown = spec.shown(value)
    try:
        below = spec.least is not None and spec.before(value, spec.least)
        above = spec.most is not None and spec.before(spec.most, value)
    except Unconverted:
        # One names an offset from UTC, the other does not.
        yield {"least": None, "most": None}, f"hold {shown} against no bounds", 1.4
        return
    if below:
        yield {"least": value}, f"allow {shown}: least = {spec.plain(value)}", 1.0
        rounded = _beyond(value, down=True)
        if rounded is not None and rounded != value:
            yield {"least": rounded}, f"allow {shown}: least = {spec.plain(rounded)}", 1.1
        yield {"least": None}, f"allow {shown}: no least", 1.4
    if above:
        yield {"most": value}, f"allow {shown}: most = {spec.plain(value)}", 1.0
        rounded = _beyond(value, down=False)
        if rounded is not None and rounded != value:
            yield {"most": rounded}, f"allow {shown}: most = {spec.plain(rounded)}", 1.1
        yield {"most": None}, f"allow {shown}: no most", 1.4
    if spec.one_of and value not in spec.one_of:
        listed = [*(table.one_of or ()), value if spec.type in ("integer", "decimal") else text]
        yield {"one_of": listed}, f"add '{text}' to what it may be (one_of)", 1.0


def _conversions(table: FieldTable, spec: FieldSpec, text: str) -> Iterator[tuple[dict[str, Any], str, float]]:
    if spec.type in ("integer", "decimal"):
        for mark, group in ((",", None), (".", None), (",", "."), (".", ","), (",", " "), (".", " "), (".", "'")):
            keys: dict[str, Any] = {"type": "decimal", "decimal_mark": mark}
            words = f"its decimal mark is '{mark}'"
            if group is not None:
                keys["group_mark"] = group
                words += f", and '{group}' parts thousands"
            if spec.type == "integer":
                if group is not None and mark not in text.replace(group, ""):
                    yield {"group_mark": group}, f"'{group}' parts thousands (group_mark)", 0.9
                words = f"it is a decimal; {words}"
            yield {**keys, "least": table.least, "most": table.most}, words, 1.0 + 0.2 * (group is not None)
    elif spec.type in ("date", "time", "timestamp"):
        for rank, layout in enumerate(LAYOUTS):
            try:
                moment = dt.datetime.strptime(text.rstrip(".,;"), layout)
            except ValueError:
                continue
            yield {"layout": layout}, f"it is written as {layout} ({moment:%Y-%m-%d %H:%M})", 1.0 + 0.01 * rank
        if spec.layout is not None:
            yield {"layout": None}, "it is written as ISO 8601 has it (no layout)", 0.95
        if spec.type == "timestamp":
            yield {"type": "date"}, "it is a date without a time", 1.2
    elif spec.type == "boolean":
        alike = [_begins_alike(text, each) for each in (spec.true, spec.false)]
        if alike[0] or not alike[1]:
            yield {"true": [*spec.true, text]}, f"'{text}' means true", 1.0
        if alike[1] or not alike[0]:
            yield {"false": [*spec.false, text]}, f"'{text}' means false", 1.05
    yield {key: None for key in table.given() if key not in ("type", "name")} | {"type": "text"}, "it is a text", 1.6


def _begins_alike(text: str, words: Iterable[str]) -> bool:
    """Tell whether a word is the beginning of a text but for case, or the other way round."""
    own = text.casefold()
    return any(own.startswith(each.casefold()) or each.casefold().startswith(own) for each in words if each and own)


def _beyond(value: Any, *, down: bool) -> Any:
    """Return a round number beyond a value: the next of its highest place, as 110 for 104."""
    if isinstance(value, bool) or not isinstance(value, int | Decimal) or value == 0:
        return None
    step = 10 ** max(0, math.floor(math.log10(abs(Decimal(value)))) - 1)
    return (math.floor if down else math.ceil)(value / step) * step


def _values(table: FieldTable, text: str) -> Iterator[tuple[str, str, float]]:
    """Yield values for the text that the field takes, each with words and how far-fetched it is."""
    try:
        spec = field_spec(table)
    except FieldTableError:
        return
    listed = [spec.plain(each) for each in spec.one_of]
    same = [each for each in listed if each.casefold() == text.strip().casefold()]
    for close in dict.fromkeys([*same, *get_close_matches(text, listed, 2, 0.6)]):
        yield close, f"write '{close}' in the text, which is one of what it may be", 0.8
    if spec.type == "decimal":
        for mark in ",.":
            if mark != spec.decimal_mark and mark in text:
                new = text.replace(mark, spec.decimal_mark)
                yield new, f"write '{spec.decimal_mark}' in the place of '{mark}' in the text", 1.3
    if spec.type in ("date", "timestamp") and spec.layout is None:
        parts = text[:10].split("-")
        if len(parts) == 3 and len(parts[0]) == 4:
            new = f"{parts[0]}-{parts[2]}-{parts[1]}{text[10:]}"
            yield new, f"day and month change places in the text: {new}", 1.2
