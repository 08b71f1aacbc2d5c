"""Reads and spells durations of several units: `2h14m`, `1m3.5s`, `2h 14min`, and those of ISO 8601, `PT2H14M`;
and such in words, `3 days 4 hours`.
"""

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

WORDS = (("week",), ("day",), ("hour", "hr"), ("minute", "min"), ("second", "sec"))
"""Units in words, the longest first, each with its abbreviation; they may end with an s."""

_WORDED = rf"{_NUMBER} (?:{'|'.join(each for unit in WORDS for each in unit)})s?"
_IN_WORDS = compiled_later(rf"(?<![\w.:/-]){_WORDED}(?:(?:,? and|,)? {_WORDED})*(?![\w-])")
_EACH_WORD = compiled_later(rf"({_NUMBER}) ([a-z]+?)(s?)((?:,? and|,)? |$)")

MOST_UNITS = 4
"""Different units up to which it is said which may follow which."""


class Amount(NamedTuple):
    """A number of a unit, and what stands between it and the next."""

    number: str
    unit: str
    between: str


def amounts_of(text: str) -> list[Amount] | None:
    """Return the amounts of a duration, None where their units are not ever smaller ones.

    A unit in words is told by the first word for it.
    """
    if _IN_WORDS.fullmatch(text):
        worded = [(number, _unit_of(word), between) for number, word, _, between in _EACH_WORD.findall(text)]
        ranks = [WORDS.index(unit) for _, unit, _ in worded]
        fine = all(one < other for one, other in pairwise(ranks))
        return [Amount(number, unit[0], between) for number, unit, between in worded] if fine else None
    found = [Amount(*each) for each in _EACH.findall(text.removeprefix("P").removeprefix("T"))]
    order = [_rank(each.unit) for each in found]
    return found if found and all(one < other for one, other in pairwise(order)) else None


def _unit_of(word: str) -> tuple[str, ...]:
    return next(unit for unit in WORDS if word in unit)


def _rank(unit: str) -> int:
    """Return where a unit stands among all, the longest first."""
    return UNITS.index(unit.lower())


def has_several(text: str) -> bool:
    """Tell whether a text holds a duration of more units than one, or of ISO 8601."""
    worded = (amounts_of(each) for each in _IN_WORDS.findall(text))
    return any(amounts_of(each) for each in _SEVERAL.findall(text)) or any(each and len(each) > 1 for each in worded)


def durations_in(text: str) -> Iterator[tuple[int, int]]:
    """Yield where durations stand in a text, of one unit too."""
    for found in sorted([*_ANY.finditer(text), *_IN_WORDS.finditer(text)], key=lambda each: each.start()):
        if amounts_of(found[0]):
            yield found.span()


def is_duration(text: str) -> bool:
    """Tell whether a text is a duration as a whole."""
    return (0, len(text)) in durations_in(text)


def spelled_of(values: Sequence[str]) -> str:
    """Return what takes durations: each unit after those that are larger, and at least one of them."""
    worded = [each for each in values if _IN_WORDS.fullmatch(each)]
    if worded:
        others = [each for each in values if each not in worded]
        return f"(?:{_of_words(worded)}|{spelled_of(others)})" if others else _of_words(worded)
    read = [amounts_of(each) or [] for each in values]
    units = sorted({each.unit for row in read for each in row}, key=_rank)
    if values[0].startswith("P"):
        return _of_iso(read, units)
    apart = {each.between for row in read for each in row[:-1]} or {""}
    return _of_units(read, {unit: unit for unit in units}, " ?" if len(apart) > 1 else apart.pop())


def _of_words(values: Sequence[str]) -> str:
    """Return what takes durations in words: each may end with an s where some do, but that which does not of many."""
    read = [amounts_of(each) or [] for each in values]
    seen = [each for value in values for each in _EACH_WORD.findall(value)]
    words, plural = {word for _, word, _, _ in seen}, {word for _, word, more, _ in seen if more}
    same = {word for number, word, more, _ in seen if not more and number != "1"}
    spelled: dict[str, str] = {}
    for unit in WORDS:
        some = [word for word in unit if word in words]
        known = [f"{word}s?" if word in plural or (plural and word not in same) else word for word in some]
        if known:
            spelled[unit[0]] = f" {known[0]}" if len(known) == 1 else f" (?:{'|'.join(known)})"
    apart = sorted({each.between for row in read for each in row[:-1]}) or [" "]
    return _of_units(read, spelled, apart[0] if len(apart) == 1 else f"(?:{'|'.join(apart)})")


def _of_units(read: Sequence[Sequence[Amount]], spelled: dict[str, str], between: str) -> str:
    """Return what takes amounts of units, the longest first, as each is spelled, with something between them."""
    units = [*spelled]
    number = {unit: f"{_number_of(read, unit)}{spelled[unit]}" for unit in units}
    always = [unit for unit in units if all(any(each.unit == unit for each in row) for row in read)]
    if len(units) > MOST_UNITS and not always:
        any_unit = "|".join(sorted(spelled.values(), key=len, reverse=True))
        one = rf"\d+(?:\.\d+)?(?:{any_unit})"
        return f"{one}(?:{between}{one})*"
    if always:
        first = units.index(always[0])
        before = "".join(f"(?:{number[unit]}{between})?" for unit in units[:first])
        return before + _from(units[first:], number, between, always)
    options = [_from(units[at:], number, between, ()) for at in range(len(units))]
    return f"(?:{'|'.join(options)})"


def _from(units: Sequence[str], number: dict[str, str], between: str, always: Sequence[str]) -> str:
    """Return what takes the first of some units, and any that follow."""
    parts = [f"{between}{number[unit]}" for unit in units[1:]]
    rest = [part if unit in always else f"(?:{part})?" for unit, part in zip(units[1:], parts, strict=True)]
    return f"{number[units[0]]}{''.join(rest)}"


def _of_iso(read: Sequence[Sequence[Amount]], units: Sequence[str]) -> str:
    """Return what takes durations of ISO 8601, of which those of a time stand behind a `T`."""
    number = {unit: f"{_number_of(read, unit)}{unit}" for unit in units}
    # `M` stands for minutes alone: months have no `T` before them, and are not read.
    days, times = [unit for unit in units if unit in "WD"], [unit for unit in units if unit in "HMS"]
    options = [_from(times[at:], number, "", ()) for at in range(len(times))]
    with_days = [number[unit] for unit in days]
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
