"""Finds and spells dates and times by their layouts: a day, a weekday before it, and a time of the day behind it."""

from __future__ import annotations

import datetime as dt
import re
from functools import lru_cache
from itertools import chain, product
from typing import TYPE_CHECKING, Any, NamedTuple

from fieldstick.drafting.calendar_words import MONTHS, WEEKDAYS
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence

FEWEST_FILLED = 8
"""Dates or times from which on it is no chance that all have two digits for a day or an hour."""


class Directive(NamedTuple):
    """A part of a layout as `strptime` has it: how it is found, and how it is spelled, which may be by its texts."""

    found: str
    spelled: str | Callable[[Sequence[str]], str]


def _one_or_two(texts: Sequence[str], *, shown: bool = False) -> str:
    """Return what takes a number: two digits where all have as many and that is no chance, as a zero has `shown`."""
    shown = shown or len(texts) >= FEWEST_FILLED or begin_with_zero(texts)
    return r"\d{2}" if shown and all(len(each) == 2 for each in texts) else r"\d{1,2}"


def begin_with_zero(texts: Iterable[str]) -> bool:
    """Tell whether some text has a zero before its number: what writes it fills numbers up to two digits."""
    return any(each.startswith("0") for each in texts)


def _fraction(texts: Sequence[str]) -> str:
    sizes = {len(each) for each in texts}
    return rf"\d{{{sizes.pop()}}}" if len(sizes) == 1 else r"\d+"


def _letters(texts: Sequence[str]) -> str:
    """Return what takes names, short where all of them are, in capitals or small letters where all of them are."""
    short = all(len(each) == 3 for each in texts)
    for fits, letters in ((str.isupper, "A-Z"), (str.islower, "a-z")):
        if all(map(fits, texts)):
            return f"[{letters}]{'{3}' if short else '+'}"
    return f"[A-Z][a-z]{'{2}' if short else '+'}"


def _half(texts: Sequence[str]) -> str:
    capitals = [each.isupper() for each in texts]
    return "[AP]M" if all(capitals) else "[AaPp][Mm]" if any(capitals) else "[ap]m"


def _short_or_long(names: Sequence[str]) -> str:
    return "|".join(f"{each[:3]}(?:{each[3:]})?" if each[3:] else each for each in names)


_CAPITALS = "|".join(each[:3].upper() for each in MONTHS)

DIRECTIVES: dict[str, Directive] = {
    "Y": Directive(r"\d{4}", r"\d{4}"),
    "y": Directive(r"\d\d", r"\d{2}"),
    "m": Directive(r"(?:0?[1-9]|1[0-2])", _one_or_two),
    "d": Directive(r"(?:0?[1-9]|[12]\d|3[01])", _one_or_two),
    "B": Directive(f"(?:{_short_or_long(MONTHS)}|{_CAPITALS})", _letters),
    "A": Directive(f"(?:{_short_or_long(WEEKDAYS)})", _letters),
    "H": Directive(r"(?:[01]?\d|2[0-3])", _one_or_two),
    "I": Directive(r"(?:0?[1-9]|1[0-2])", _one_or_two),
    "M": Directive(r"[0-5]\d", r"\d{2}"),
    "S": Directive(r"[0-5]\d", r"\d{2}"),
    "f": Directive(r"\d{1,9}", _fraction),
    "p": Directive("(?:[AP]M|[ap]m)", _half),
    "z": Directive(r"[+-]\d{4}", r"[+-]\d{4}"),
    "j": Directive(r"\d{3}", r"\d{3}"),
}
"""The parts of layouts that are read here."""

_PARTS = compiled_later(r"%(\w)|([^%]+)")

_WITHOUT_YEAR = "%d %B"
_WEEKDAY_BEFORE = ("%A ", "%A, ")
# What is longer comes before what it begins with; months and days may change places where both are numbers.
_DAYS = (
    "%d/%m/%Y",
    "%d-%m-%Y",
    "%d.%m.%Y",
    "%Y/%m/%d",
    "%Y.%m.%d",
    "%d %B %Y",
    "%d. %B %Y",
    "%d-%B-%Y",
    "%d/%B/%Y",
    "%d%B%Y",
    "%d-%B-%y",
    "%B %d, %Y",
    "%B %d %Y",
    _WITHOUT_YEAR,
)
_SHORT_DAYS = ("%d/%m/%y", "%d.%m.%y", "%d-%m-%y")
"""Days that numbers may be by chance."""
_ALWAYS_FILLED = "%d.%m.%y"
"""Numbers of a version are parted by points: days are only those of two digits each."""
_JOINS = (" ", ", ", " - ", "-", "T")
_TIMES = (
    *(f"{time}{half}" for time, half in product(("%I:%M:%S", "%I:%M"), (" %p", "%p"))),
    *(f"{time}{zone}" for time, zone in product(("%H:%M:%S.%f", "%H:%M:%S", "%H:%M"), (" %z", ""))),
)
_DIGITS_ALONE = ("%Y%m%d%H%M%S", "%Y%m%d%H%M", "%Y%m%d")
_LAID_OUT = dict(zip((14, 12, 8), _DIGITS_ALONE, strict=True))
"""Moments of digits alone, which other numbers may be by chance, and by how many digits they have."""

_DAY_OF_YEAR, _HOUR_AND_MINUTE = "%Y-%j", "%Hh%M"
_ALONE = {_DAY_OF_YEAR: (r"\d{4}-\d{3}", 5), _HOUR_AND_MINUTE: (r"\d\dh\d\d", 3)}
"""Moments that others are rarely by chance, what may be one, and from how many on they are."""

_SWAPPED = {"%d/%m/%Y": "%m/%d/%Y", "%d-%m-%Y": "%m-%d-%Y", "%d/%m/%y": "%m/%d/%y", "%d-%m-%y": "%m-%d-%y"}
"""Days by the layout whose month stands in the place of the day."""

LAYOUTS: tuple[str, ...] = (
    *(
        f"{weekday}{day}{rest}"
        for weekday, day, rest in product(
            ("", *_WEEKDAY_BEFORE),
            (*_DAYS, *_SHORT_DAYS),
            ("", *(f"{join}{time}" for join, time in product(_JOINS, _TIMES))),
        )
    ),
    *_DIGITS_ALONE,
    *_ALONE,
)
"""All layouts that are read here; where a month may stand in the place of the day, that of the day first."""


_PLACES = {"w": _WEEKDAY_BEFORE, "d": _DAYS, "j": _JOINS, "t": _TIMES}
_PLACES_IN_DOUBT = {**_PLACES, "d": _SHORT_DAYS}
"""What may stand in the places of a moment, in their order, by the letter of each."""


def name_of(layout: str) -> str:
    """Return what a field of a layout is called: the same as one of ISO 8601."""
    return "time" if layout == _HOUR_AND_MINUTE else "at" if "%M" in layout else "day"


def numbers_of(layout: str) -> int:
    """Return of how many numbers what has a layout is made."""
    return sum(part not in ("", *"ABp") for part, _ in _PARTS.findall(layout))


def _found(layout: str, each: str = "{}") -> str:
    """Return what finds moments of a layout, `each` part put into something, as a group.

    A month that may be the day is looked for as one.
    """
    either = any(day in layout for day in _SWAPPED)
    found = ""
    for part, stays in _PARTS.findall(layout):
        named = "d" if part == "m" and either else part
        found += each.format(DIRECTIVES[named].found) if named else re.escape(stays)
    # A number before a month with another behind it is none of its days.
    return rf"{found}(?! +\d{{1,2}}(?![:\d]))" if layout == _WITHOUT_YEAR else found


def _one_of(layouts: Sequence[str], name: str) -> str:
    return "|".join(f"(?P<{name}{number}>{_found(each)})" for number, each in enumerate(layouts))


def _written(days: Sequence[str], prefix: str) -> str:
    """Return what finds days of some layouts, with all that may stand before and behind them."""
    weekday, join, time = (_one_of(_PLACES[name], f"{prefix}{name}") for name in "wjt")
    day = _one_of(days, f"{prefix}d")
    return f"(?:{weekday})?(?:{day})(?:(?:{join})(?:{time}))?"


_BEFORE, _BEHIND = r"(?<![\w.:-])", r"(?![\w-]|\.\d|:\w)"
FOUND = _written(_DAYS, "m")
"""What finds moments that are such beyond doubt; `layout_of` tells their layout."""
_IN_NAME, _WITHIN_NAME = r"(?<![^\W_]|:)(?<!\d[.-])", r"(?![^\W_]|:\w|[.-]\d)"
"""What parts moments of digits alone from what stands beside them, which may be the other words of a name."""
_OF_DIGITS = "|".join(rf"\d{{{size}}}" for size in _LAID_OUT)
_EACH_ALONE = "|".join(found for found, _ in _ALONE.values())
_DOUBTFUL = compiled_later(
    rf"{_BEFORE}(?:{_written(_SHORT_DAYS, 'n')}){_BEHIND}(?!\.\w)"
    rf"|{_IN_NAME}(?P<digits>{_OF_DIGITS}){_WITHIN_NAME}"
    rf"|{_BEFORE}(?P<alone>{_EACH_ALONE}){_BEHIND}"
)
_NUMBERS = compiled_later(
    rf"{_BEFORE}\d{{1,3}}([-/.])\d{{1,3}}\1\d{{1,3}}(?:{_BEHIND}|(?=[T-]\d\d:\d))"
    rf"|{_IN_NAME}(?:{_OF_DIGITS}){_WITHIN_NAME}"
    rf"|{_BEFORE}(?P<alone>{_EACH_ALONE}){_BEHIND}"
)

FEWEST_IN_DOUBT = 2
"""Texts from which on numbers that may all be days are days."""


def layout_of(found: re.Match[str]) -> str:
    """Return the layout of a moment that was found beyond doubt."""
    return _layout_of(found, "m", _PLACES)


def _layout_of(found: re.Match[str], prefix: str, places: Mapping[str, Sequence[str]]) -> str:
    return "".join(
        layout
        for name, layouts in places.items()
        for number, layout in enumerate(layouts)
        if found[f"{prefix}{name}{number}"] is not None
    )


def in_doubt(text: str, shown: frozenset[str]) -> Iterator[tuple[int, int, str]]:
    """Yield where days of numbers alone stand in a text, as far as they are shown to be such, and their layouts."""
    for found in _DOUBTFUL.finditer(text):
        digits, alone = found["digits"], found["alone"]
        layout = (
            _LAID_OUT[len(digits)] if digits else _alone(alone) if alone else _layout_of(found, "n", _PLACES_IN_DOUBT)
        )
        if _mark_of(layout) in shown:
            yield *found.span(), layout


def _mark_of(layout: str) -> str:
    """Return what parts the numbers of a day, or which digits alone it is."""
    return layout if layout in _DIGITS_ALONE or layout in _ALONE else layout[layout.index("%d") + 2]


def _alone(text: str) -> str:
    return _HOUR_AND_MINUTE if "h" in text else _DAY_OF_YEAR


def shown_by(texts: Sequence[str]) -> frozenset[str]:
    """Return what parts the numbers of some texts that may all be days by it, and which digits alone may all be."""
    told: dict[str, list[bool]] = {}
    for text in texts:
        for number in _NUMBERS.finditer(text):
            mark = number[1] or (_alone(number[0]) if number["alone"] else _LAID_OUT[len(number[0])])
            told.setdefault(mark, []).append(_is_day(number[0], mark))
    fewest = min(FEWEST_IN_DOUBT, len(texts))
    return frozenset(
        mark
        for mark, days in told.items()
        if len(days) >= (_ALONE[mark][1] if mark in _ALONE else fewest) and all(days)
    )


@lru_cache(maxsize=1 << 12)
def _is_day(number: str, mark: str) -> bool:
    if mark in _DIGITS_ALONE:
        return "1900" <= number[:4] < "2100" and _is_laid_out(number, mark)
    if mark in _ALONE:
        return _is_laid_out(number, mark) and (mark != _DAY_OF_YEAR or "1900" <= number[:4] < "2100")
    filled = re.fullmatch(r"\d\d\W\d\d\W\d\d" if mark == "." else r"\d\d?\W\d\d?\W\d\d", number) is not None
    return filled and any(_is_laid_out(number, each) for each in (f"%d{mark}%m{mark}%y", f"%m{mark}%d{mark}%y"))


WITH_POINTS = ("%Y.%m.%d", "%d.%m.%Y")
"""Days that are written as some versions are."""

_THREE_NUMBERS = compiled_later(r"(?<![\w.])\d+\.\d+\.\d+(?![\w-]|\.\d)")


def has_three_numbers(text: str) -> bool:
    """Tell whether a text holds three numbers with points between that cannot be a day."""
    return not all(map(_is_day_with_points, _THREE_NUMBERS.findall(text)))


@lru_cache(maxsize=1 << 12)
def _is_day_with_points(number: str) -> bool:
    return any(_is_laid_out(number, day) for day in (*WITH_POINTS, _ALWAYS_FILLED))


def _is_laid_out(text: str, layout: str) -> bool:
    try:
        dt.datetime.strptime(text, layout)
    except ValueError:
        return False
    return True


@lru_cache
def _reader(layout: str) -> re.Pattern[str]:
    return re.compile(_found(layout, "({})"))


def told_by(layout: str, values: Sequence[str]) -> tuple[str, dict[str, Any]]:
    """Return how moments of a layout are spelled and their table: by what all of them have alike.

    The table has the one layout that all of them have, nothing where they may have two, or one has none.
    """
    if layout in _DIGITS_ALONE:
        return rf"\d{{{len(values[0])}}}", _table_of(layout, values)
    rows = [found.groups() for found in map(_reader(layout).fullmatch, values) if found is not None]
    columns = dict(zip((part for part, _ in _PARTS.findall(layout) if part), zip(*rows, strict=True), strict=True))
    # Day and month are written alike.
    shown = begin_with_zero(chain.from_iterable(columns.get(each, ()) for each in "dm"))
    spelled, exact = "", ""
    for part, stays in _PARTS.findall(layout):
        if not part:
            spelled, exact = spelled + re.escape(stays).replace(r"\ ", " ").replace(r"\-", "-"), exact + stays
            continue
        texts = columns[part]
        made = DIRECTIVES[part].spelled
        if made is _one_or_two:
            spelled += _one_or_two(texts, shown=_ALWAYS_FILLED in layout or (shown and part in "dm"))
        else:
            spelled += made if isinstance(made, str) else made(texts)
        is_short = part in "AB" and all(len(each) == 3 for each in texts)
        exact += f"%{part.lower() if is_short else part}"
    return spelled, _table_of(exact, values)


def _table_of(layout: str, values: Sequence[str]) -> dict[str, Any]:
    if layout == _HOUR_AND_MINUTE:
        return {"type": "time", "layout": layout}
    if "%y" not in layout.lower():
        # Without a year it is no value of a type.
        return {}
    swapped = [layout.replace(one, other) for one, other in _SWAPPED.items() if one in layout]
    fitting = [each for each in (layout, *swapped) if all(_is_laid_out(value, each) for value in values)]
    kind = "timestamp" if "%M" in layout else "date"
    return {"type": kind, "layout": fitting[0]} if len(fitting) == 1 else {}
