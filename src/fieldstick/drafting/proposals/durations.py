"""Reads and spells durations of several units: `2h14m`, `1m3.5s`, `2h 14min`, and those of ISO 8601, `PT2H14M`."""

from __future__ import annotations

from itertools import pairwise
from typing import TYPE_CHECKING, NamedTuple

from fieldstick.drafting.context import quantifier
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

UNITS = ("w", "d", "h", "min", "m", "sec", "s", "ms", "us", "µs", "ns")
"""Units, the longest first; of those that mean the same a text has one."""

_NUMBER, _UNIT = r"\d+(?:\.\d+)?", f"(?:{'|'.join(sorted(UNITS, key=len, reverse=True))})"
_AMOUNT = rf"\d+{_UNIT}"
ISO = r"P(?:\d+D)?T(?:\d+H)?(?:\d+M)?(?:\d+(?:\.\d+)?S)?(?<=[HMS])|P\d+[WD]"
"""A duration of ISO 8601, section 5.5.2, with a time in it, or of weeks or days alone."""

_SEVERAL = compiled_later(rf"(?<![\w.])(?:{_AMOUNT}(?: ?{_AMOUNT})* ?{_NUMBER}{_UNIT}|PT\d+[HMS][\dHMS.]*)(?![\w.])")
_ANY = compiled_later(rf"(?<![\w.:/-])(?:(?:{_AMOUNT} ?)*{_NUMBER}{_UNIT}|{ISO})(?![\w-]|\.\d|[:/]\w)")
_EACH = compiled_later(rf"({_NUMBER})({_UNIT}|[WDHMS])( ?T?)")

MOST_UNITS = 4
"""Different units up to which it is said which may follow which."""


class Amount(NamedTuple):
    """A number of a unit, and what stands between it and the next."""

    number: str
    unit: str
    between: str


def amounts_of(text: str) -> list[Amount] | None:
    """Return the amounts of a duration, None where their units are not ever smaller ones."""
    found = [Amount(*each) for each in _EACH.findall(text.removeprefix("P").removeprefix("T"))]
    order = [_rank(each.unit) for each in found]
    return found if found and all(one < other for one, other in pairwise(order)) else None


def _rank(unit: str) -> int:
    """Return where a unit stands among all, the longest first."""
    return UNITS.index(unit.lower())


def has_several(text: str) -> bool:
    """Tell whether a text holds a duration of more units than one, or of ISO 8601."""
    return any(amounts_of(each) for each in _SEVERAL.findall(text))


def durations_in(text: str) -> Iterator[tuple[int, int]]:
    """Yield where durations stand in a text, of one unit too."""
    for found in _ANY.finditer(text):
        if amounts_of(found[0]):
            yield found.span()


def spelled_of(values: Sequence[str]) -> str:
    """Return what takes durations: each unit after those that are larger, and at least one of them."""
    read = [amounts_of(each) or [] for each in values]
    units = sorted({each.unit for row in read for each in row}, key=_rank)
    if values[0].startswith("P"):
        return _of_iso(read, units)
    apart = {each.between for row in read for each in row[:-1]} or {""}
    between = " ?" if len(apart) > 1 else apart.pop()
    number = {unit: _number_of(read, unit) for unit in units}
    always = [unit for unit in units if all(any(each.unit == unit for each in row) for row in read)]
    if len(units) > MOST_UNITS and not always:
        any_unit = "|".join(sorted(units, key=len, reverse=True))
        one = rf"\d+(?:\.\d+)?(?:{any_unit})"
        return f"{one}(?:{between}{one})*"
    if always:
        first = units.index(always[0])
        before = "".join(f"(?:{number[unit]}{unit}{between})?" for unit in units[:first])
        return before + _from(units[first:], number, between, always)
    options = [_from(units[at:], number, between, ()) for at in range(len(units))]
    return f"(?:{'|'.join(options)})"


def _from(units: Sequence[str], number: dict[str, str], between: str, always: Sequence[str]) -> str:
    """Return what takes the first of some units, and any that follow."""
    parts = [f"{between}{number[unit]}{unit}" for unit in units[1:]]
    rest = [part if unit in always else f"(?:{part})?" for unit, part in zip(units[1:], parts, strict=True)]
    return f"{number[units[0]]}{units[0]}{''.join(rest)}"


def _of_iso(read: Sequence[Sequence[Amount]], units: Sequence[str]) -> str:
    """Return what takes durations of ISO 8601, of which those of a time stand behind a `T`."""
    number = {unit: _number_of(read, unit) for unit in units}
    # `M` stands for minutes alone: months have no `T` before them, and are not read.
    days, times = [unit for unit in units if unit in "WD"], [unit for unit in units if unit in "HMS"]
    options = [_from(times[at:], number, "", ()) for at in range(len(times))]
    with_days = [f"{number[unit]}{unit}" for unit in days]
    time = f"T(?:{'|'.join(options)})" if len(options) > 1 else f"T{''.join(options)}" if options else ""
    if not days:
        return f"P{time}"
    day = f"(?:{'|'.join(with_days)})" if len(with_days) > 1 else with_days[0]
    has_day = [any(each.unit in "WD" for each in row) for row in read]
    has_time = [any(each.unit in "HMS" for each in row) for row in read]
    if all(has_time):
        return f"P{day}{time}" if all(has_day) else f"P(?:{day})?{time}"
    return f"P{day}(?:{time})?" if all(has_day) and times else f"P(?:{day}(?:{time})?|{time})" if times else f"P{day}"


def _number_of(read: Sequence[Sequence[Amount]], unit: str) -> str:
    """Return what takes the numbers of a unit: as many digits as there are, one or two where both are."""
    numbers = [each.number for row in read for each in row if each.unit == unit]
    sizes = {len(each.split(".")[0]) for each in numbers}
    whole = r"\d" + quantifier(1, 2 if sizes <= {1, 2} else None)
    fractions = [len(each.split(".")[1]) for each in numbers if "." in each]
    if not fractions:
        return whole
    of_all = len(fractions) == len(numbers)
    digits = rf"\.\d{quantifier(min(fractions), max(fractions)) if of_all and len(set(fractions)) == 1 else '+'}"
    return whole + (digits if of_all else f"(?:{digits})?")
