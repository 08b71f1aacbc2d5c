"""Pieces of several words and numbers that are one together: dates and times, addresses, identifiers and the like."""

from __future__ import annotations

import re
from itertools import product
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fieldstick.drafting.proposals import durations, moments, positions, versions
from fieldstick.drafting.proposals.spelling import cases_of_base_16
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence


class Special(Struct, frozen=True):
    """Pieces that are one together: the name of the field they make, how they are found and spelled, and its table.

    Where all have two digits for a day or an hour, however few they are, the table is the one `when_filled`. Some are
    `spelled_by` what their values are made of, and named by it, and are found where others show that there are such;
    dates and times of a `layout` are found and told by it. What `may_stay` is no field where all texts have the same.
    """

    name: str
    found: str
    spelled: str
    table: dict[str, Any]
    when_filled: dict[str, Any] | None = None
    spelled_by: Callable[[Sequence[str]], str] | None = None
    table_by: Callable[[Sequence[str]], dict[str, Any]] | None = None
    name_by: Callable[[Sequence[str]], str] | None = None
    layout: str = ""
    may_stay: bool = False

    def named_by(self, values: Sequence[str]) -> str:
        """Return what the field is called that some of it make."""
        return self.name if self.name_by is None else self.name_by(values)

    @property
    def numbers(self) -> int:
        """Of how many numbers it is made."""
        return moments.numbers_of(self.layout) if self.layout else self.spelled.count(r"\d")

    def told_by(self, values: Sequence[str]) -> tuple[str, dict[str, Any]]:
        """Return how some of it are spelled, and their table: by what all of them, or of many, have alike.

        Days and hours have two digits where all of many have, or one with a zero before it.
        """
        if self.layout:
            return moments.told_by(self.layout, values)
        if self.spelled_by is not None:
            return self.spelled_by(values), self.table if self.table_by is None else self.table_by(values)
        filled = self.spelled.replace("{1,2}", "{2}")
        if not all(map(re.compile(filled).fullmatch, values)):
            return self.spelled, self.table
        if self.when_filled is not None:
            return filled, self.when_filled
        shown = len(values) >= moments.FEWEST_FILLED or moments.begin_with_zero(values)
        return filled if shown else self.spelled, self.table


_MONTH = "(?:Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec)"
_MONTH_NUMBER, _DAY_NUMBER = r"(?:0[1-9]|1[0-2])", r"(?:0[1-9]|[12]\d|3[01])"
_WEEKDAY = "(?:Mon|Tue|Wed|Thu|Fri|Sat|Sun)"


def _with_fraction(before: str, behind: str = "") -> Callable[[Sequence[str]], str]:
    """Return what spells values that have a fraction of a second, or some of them, between what is spelled already."""

    def spelled(values: Sequence[str]) -> str:
        sizes = {*map(_digits_of_fraction, values)}
        several = sizes - {0}
        if not several:
            return before + behind
        is_same = len(several) == 1 and (len(values) >= moments.FEWEST_FILLED or several <= _USUAL_DIGITS)
        fraction = rf"\.\d{{{several.pop()}}}" if is_same else r"\.\d{1,9}"
        return before + (f"(?:{fraction})?" if 0 in sizes else fraction) + behind

    return spelled


_FRACTION = compiled_later(r":\d\d\.(\d+)")


def _digits_of_fraction(moment: str) -> int:
    found = _FRACTION.search(moment)
    return len(found[1]) if found is not None else 0


_USUAL_DIGITS = {3, 6, 7, 9}
"""Digits of milliseconds, microseconds, tenths of these and nanoseconds, of which a clock always writes as many."""

_DAY_AND_MINUTE = r"\d{4}-\d{2}-\d{2}%s\d{2}:\d{2}"
_SECONDS = r":\d\d(?:\.\d{1,9})?"


MOST_DIGITS_READ = 6
"""Digits of a fraction of a second that a layout reads."""


def _with_offset_apart(values: Sequence[str]) -> dict[str, Any]:
    """Return the table of timestamps with a blank before the offset, which is no part of ISO 8601."""
    fractions = [*map(_digits_of_fraction, values)]
    if max(fractions) > MOST_DIGITS_READ or (0 in fractions and any(fractions)):
        return {}
    return {"type": "timestamp", "layout": f"%Y-%m-%d %H:%M:%S{'.%f' * any(fractions)} %z"}


def _timestamps() -> Iterator[Special]:
    """Yield timestamps of ISO 8601 as programs write them, those with more to them first."""
    until_minute = _DAY_AND_MINUTE % " "
    spelled = _with_fraction(rf"{until_minute}:\d{{2}}", r" [+-]\d{4}")
    found = rf"\d{{4}}-\d\d-\d\d \d\d:\d\d{_SECONDS} [+-]\d{{4}}"
    yield Special("at", found, spelled([]), {}, spelled_by=spelled, table_by=_with_offset_apart)
    for between, (zone, offset) in product(
        "T ", (("Z", "Z"), (r"[+-]\d\d:\d\d", r"[+-]\d{2}:\d{2}"), (r"[+-]\d{4}", r"[+-]\d{4}"), ("", ""))
    ):
        until_minute = _DAY_AND_MINUTE % between
        spelled = _with_fraction(rf"{until_minute}:\d{{2}}", offset)
        for seconds, digits, by in (
            # A comma before the fraction of a second is told from one between columns by what follows.
            (r":\d\d,\d{3}(?=[\s\]]|$)", r":\d{2},\d{3}", None),
            (_SECONDS, r":\d{2}", spelled),
            ("", "", None),
        ):
            found = rf"\d{{4}}-\d\d-\d\d{between}\d\d:\d\d{seconds}{zone}"
            yield Special("at", found, f"{until_minute}{digits}{offset}", {"type": "timestamp"}, spelled_by=by)


def _time_with_fraction(values: Sequence[str]) -> str:
    hours = r"\d{2}" if all(each[2] == ":" for each in values) else r"\d{1,2}"
    return _with_fraction(rf"{hours}:\d{{2}}:\d{{2}}")(values)


def _table_of_times(values: Sequence[str]) -> dict[str, Any]:
    """Return the table of times with a fraction, of which ISO 8601 has two digits for the hour."""
    if all(each[2] == ":" for each in values):
        return {"type": "time"}
    is_read = max(map(_digits_of_fraction, values)) <= MOST_DIGITS_READ
    return {"type": "time", "layout": "%H:%M:%S.%f"} if is_read else {}


def _stamps_in_names() -> Iterator[Special]:
    """Yield days and timestamps as names of files have them, without a blank, or a colon for the most part."""
    day, spelled = r"\d{4}-\d\d-\d\d", r"\d{4}-\d{2}-\d{2}"
    for rest, digits, layout in (
        (r"_\d\d-\d\d-\d\d", r"_\d{2}-\d{2}-\d{2}", "_%H-%M-%S"),
        (r"_\d\d:\d\d:\d\d", r"_\d{2}:\d{2}:\d{2}", "_%H:%M:%S"),
        (r"T(?:[01]\d|2[0-3])[0-5]\d[0-5]\d", r"T\d{6}", "T%H%M%S"),
    ):
        yield Special("at", day + rest, spelled + digits, {"type": "timestamp", "layout": f"%Y-%m-%d{layout}"})
    found = rf"(?:19|20)\d\d_{_MONTH_NUMBER}_{_DAY_NUMBER}"
    yield Special("day", found, r"\d{4}_\d{2}_\d{2}", {"type": "date", "layout": "%Y_%m_%d"})


def _stamps_of_digits() -> Iterator[Special]:
    """Yield timestamps of fourteen digits, parted in the middle, where they can be such."""
    day, time = rf"(?:19|20)\d\d{_MONTH_NUMBER}{_DAY_NUMBER}", r"(?:[01]\d|2[0-3])[0-5]\d[0-5]\d"
    for between, zone in (("T", "Z"), ("T", ""), ("-", ""), ("_", ""), (" ", "")):
        spelled, layout = rf"\d{{8}}{between}\d{{6}}{zone}", f"%Y%m%d{between}%H%M%S{zone}"
        yield Special("at", f"{day}{between}{time}{zone}", spelled, {"type": "timestamp", "layout": layout})


def _stamps_without_year() -> Iterator[Special]:
    """Yield times with a day that has no year, which are no values of a type, and those of a day in six digits."""
    day, month, time = _DAY_NUMBER, _MONTH_NUMBER, r"\d\d:\d\d:\d\d"
    for mark, (fraction, digits) in product(
        ("-", r"\.", "/"),
        ((r"\.\d{6}", r"\.\d{6}"), (r"\.\d{3}", r"\.\d{3}"), (r",\d{3}(?=[\s\]]|$)", r",\d{3}"), ("", "")),
    ):
        found = rf"(?:{month}{mark}{day}|{day}{mark}{month}) {time}{fraction}"
        yield Special("at", found, rf"\d{{2}}{mark}\d{{2}} \d{{2}}:\d{{2}}:\d{{2}}{digits}", {})
    found = rf"\d\d{month}{day} (?:[01]\d|2[0-3])[0-5]\d[0-5]\d(?= )"
    yield Special("at", found, r"\d{6} \d{6}", {"type": "timestamp", "layout": "%y%m%d %H%M%S"})
    for mark in "-_":
        found = rf"(?:19|20)\d\d{month}{day}{mark}\d{{1,2}}:\d{{1,2}}:\d{{1,2}}"
        spelled = rf"\d{{8}}{mark}\d{{1,2}}:\d{{1,2}}:\d{{1,2}}"
        table = {"type": "timestamp", "layout": f"%Y%m%d{mark}%H:%M:%S"}
        # What comes behind another colon has no zeros before it: it is no fraction of a second.
        yield Special("at", rf"{found}:\d{{1,3}}", rf"{spelled}:\d{{1,3}}", {})
        yield Special("at", found, spelled, table)


def _stamps_with_weekdays() -> Iterator[Special]:
    """Yield timestamps of C's asctime."""
    time, spelled = r"\d\d:\d\d:\d\d", r"\d{2}:\d{2}:\d{2}"
    table = {"type": "timestamp", "layout": "%a %b %d %H:%M:%S %Y"}
    found = rf"{_WEEKDAY} {_MONTH} [ \d]\d {time} \d{{4}}"
    yield Special("at", found, rf"[A-Z][a-z]{{2}} [A-Z][a-z]{{2}} [ \d]\d {spelled} \d{{4}}", table)


def _times_of_half_a_day() -> Iterator[Special]:
    """Yield times of twelve hours with what says which half of the day it is."""
    for (seconds, digits, layout), blank, half in product(
        ((r":\d\d", r":\d{2}", ":%S"), ("", "", "")), (" ", ""), ("[AP]M", "[ap]m")
    ):
        yield Special(
            "time",
            rf"\d{{1,2}}:\d\d{seconds}{blank}{half}",
            rf"\d{{1,2}}:\d{{2}}{digits}{blank}{half}",
            {"type": "time", "layout": f"%I:%M{layout}{blank}%p"},
        )


def _identifiers() -> Iterator[Special]:
    """Yield identifiers of 128 bits as RFC 9562 writes them."""
    for digits in ("0-9a-f", "0-9A-F"):
        spelled = "-".join(f"[{digits}]{{{size}}}" for size in (8, 4, 4, 4, 12))
        yield Special("id", spelled, spelled, {})


def _of_long_addresses(values: Sequence[str]) -> str:
    """Spell addresses of eight groups of base 16, of which zeros in a row may be left out (RFC 4291, section 2.2)."""
    cases = cases_of_base_16("".join(values))
    sizes = {len(group) for value in values for group in value.split(":")}
    group = f"[0-9{cases}]{{4}}" if sizes == {4} else f"[0-9{cases}]{{1,4}}"
    if not any("::" in value for value in values):
        return f"{group}(?::{group}){{7}}"
    before = "(?:::)?" * any(value.startswith("::") for value in values)
    behind = "(?:::)?" * any(value.endswith("::") for value in values)
    return f"{before}{group}(?:::?{group}){{{0 if before or behind else 1},7}}{behind}"


def _addresses() -> Iterator[Special]:
    """Yield addresses of interfaces (IEEE 802, six octets) and of hosts (RFC 4291; RFC 791, with a port or without)."""
    for digits in ("0-9a-f", "0-9A-F"):
        spelled = f"[{digits}]{{2}}(?::[{digits}]{{2}}){{5}}"
        yield Special("address", spelled, spelled, {})
    group = "[0-9A-Fa-f]{1,4}"
    long = rf"(?:{group}:){{7}}{group}|(?:{group}:){{1,7}}(?::{group}){{1,6}}|(?:{group}:){{1,7}}:|:(?::{group}){{1,7}}"
    # Names that are parted by two colons have letters beyond those of base 16, or no digit for the most part.
    yield Special("address", rf"(?=[A-Fa-f:]*\d)(?:{long})", "", {}, spelled_by=_of_long_addresses)
    host = r"\d{1,3}(?:\.\d{1,3}){3}"
    yield Special("address", rf"{host}:\d{{1,5}}", rf"{host}:\d{{1,5}}", {})
    yield Special("address", host, host, {})


def _of_listings() -> Iterator[Special]:
    """Yield what a listing of files (POSIX, ls) has: who may do what, and when something was changed last, which has
    a time if that was not long ago, and else a year.
    """

    def moment(values: Sequence[str]) -> str:
        several = {":" in each for each in values}
        time, year = r"\d{2}:\d{2}", r" {1,2}\d{4}"
        rest = f"(?: {time}|{year})" if len(several) > 1 else f" {time}" if several == {True} else year
        return rf"[A-Z][a-z]{{2}} [ \d]\d{rest}"

    def mode(values: Sequence[str]) -> str:
        return f"[-bcdlps][rwxsStT-]{{9}}{'[.+@]?' * any(len(each) > 10 for each in values)}"

    found = rf"{_MONTH} [ \d]\d (?:\d\d:\d\d| ?(?:19|20)\d\d)(?= )"
    yield Special("at", found, r"[A-Z][a-z]{2} [ \d]\d", {}, spelled_by=moment)
    found = r"(?=[-bcdlps]-{0,8}[rwxsStT])[-bcdlps](?:[r-][w-][xsS-]){2}[r-][w-][xtT-](?:[.+@](?=\s))?"
    yield Special("mode", found, "", {}, spelled_by=mode)


def _of_base_16() -> Iterator[Special]:
    """Yield numbers of base 16 with the sign of that before them."""

    def spelled(values: Sequence[str]) -> str:
        cases = cases_of_base_16("".join(each[2:] for each in values))
        sizes = {len(each) - 2 for each in values}
        is_same = len(sizes) == 1 and (len(values) >= moments.FEWEST_FILLED or sizes <= {4, 8, 12, 16})
        return f"0x[0-9{cases or 'a-f'}]{f'{{{sizes.pop()}}}' if is_same else '+'}"

    yield Special("hex", "0x[0-9A-Fa-f]+", "", {}, spelled_by=spelled, may_stay=True)


SPECIAL: dict[str, Special] = {
    f"s{number}": each
    for number, each in enumerate(
        (
            *_timestamps(),
            Special(
                "at",
                rf"\d\d/{_MONTH}/\d{{4}}:\d\d:\d\d:\d\d [+-]\d{{4}}",
                r"\d{2}/[A-Z][a-z]{2}/\d{4}:\d{2}:\d{2}:\d{2} [+-]\d{4}",
                {"type": "timestamp", "layout": "%d/%b/%Y:%H:%M:%S %z"},
            ),
            *_stamps_in_names(),
            *_stamps_of_digits(),
            *_stamps_without_year(),
            *_stamps_with_weekdays(),
            *_identifiers(),
            *_addresses(),
            # Without a year it is no value of a type.
            Special("at", rf"{_MONTH} [ \d]\d \d\d:\d\d:\d\d", r"[A-Z][a-z]{2} [ \d]\d \d{2}:\d{2}:\d{2}", {}),
            *_of_listings(),
            *_of_base_16(),
            Special("day", r"\d{4}-\d\d-\d\d", r"\d{4}-\d{2}-\d{2}", {"type": "date"}),
            Special("day", r"\d{4}-W(?:0[1-9]|[1-4]\d|5[0-3])-[1-7]", r"\d{4}-W\d{2}-[1-7]", {"type": "date"}),
            Special("quarter", r"(?:19|20)\d\d-Q[1-4]", r"\d{4}-Q[1-4]", {}),
            Special(
                "position",
                positions.FOUND,
                positions.SPELLED,
                {},
                spelled_by=positions.spelled_of,
                name_by=positions.name_of,
            ),
            *_times_of_half_a_day(),
            Special(
                "time",
                r"\d\d?:\d\d:\d\d\.\d{1,9}",
                r"\d{1,2}:\d{2}:\d{2}",
                {},
                spelled_by=_time_with_fraction,
                table_by=_table_of_times,
            ),
            Special("time", r"\d\d:\d\d:\d\d,\d{3}(?=[\s\]]|$)", r"\d{2}:\d{2}:\d{2},\d{3}", {"type": "time"}),
            Special(
                "time",
                r"\d\d?:\d\d:\d\d",
                r"\d{1,2}:\d{2}:\d{2}",
                {"type": "time", "layout": "%H:%M:%S"},
                when_filled={"type": "time"},
            ),
            Special("time", r"\d\d:\d\d:\d\dZ", r"\d{2}:\d{2}:\d{2}Z", {"type": "time"}),
            Special("time", r"\d\d:\d\dZ", r"\d{2}:\d{2}Z", {"type": "time"}),
            # A scale, as 1:25,000, is no time.
            Special("time", r"\d\d?:\d\d(?!,\d{3}\b)", r"\d{1,2}:\d{2}", {"type": "time", "layout": "%H:%M"}),
        )
    )
}


_MOMENT = "moment"
_HOURS = r"\d\d?:\d\d(?!\d)"
_EACH = "|".join(
    (rf"(?P<{_MOMENT}>{moments.FOUND})", *(rf"(?P<{name}>{each.found})" for name, each in SPECIAL.items()))
)
DURATION, VERSION = "duration", "version"
SPECIAL[DURATION] = Special("duration", "", "", {}, spelled_by=durations.spelled_of)
SPECIAL[VERSION] = Special("version", "", "", {}, spelled_by=versions.spelled_of)
SPECIAL |= {each: Special(moments.name_of(each), "", "", {}, layout=each) for each in moments.LAYOUTS}
OF_THEIR_OWN = frozenset((DURATION, *positions.NAMES))
"""Names that say more than a word as `in` or `at` before the value does."""

_IN_NAME = rf"(?:(?<=[A-Za-z][_.-])|(?<=\d_))(?=(?:19|20)\d\d(?P<mark>[-_]?){_MONTH_NUMBER}(?P=mark){_DAY_NUMBER})"
"""Where a day begins that is part of a name, as of a file: it has the year first, and what can be a month and a day."""
# What all of them begin with is looked at first. A day with a time may stand behind a point, an identifier of 128 bits
# behind a hyphen, and a time behind one that follows another time or a letter.
FOUND = compiled_later(
    r"(?:(?<![\w.:-])|(?<=\.)(?=\d{4}-\d\d-\d\d[T_ ]\d\d[:-]\d\d)|(?<=-)(?=[0-9A-Fa-f]{8}(?:-[0-9A-Fa-f]{4}){3}-)"
    rf"|{_IN_NAME}|(?:(?<=:\d\d-)|(?<=[A-Za-z]-))(?={_HOURS}))"
    rf"(?=\d|[A-Z][a-z]{{2,8}},? |[A-Z]{{3}} |[A-Fa-f][0-9A-Fa-f]{{,3}}:|::[0-9A-Fa-f]"
    rf"|[0-9A-Fa-f]{{8}}-|[bcdlps-][r-][w-]|[NSEW] ?\d)(?:{_EACH})"
    rf"(?![^\W_]|-(?!{_HOURS}|[A-Za-z])|\.\d|:\w)"
)
"""What finds such pieces in a text, but for what others must show; its last group tells which it is."""


def kind_of(found: re.Match[str]) -> str:
    """Return the kind of a piece that was found."""
    kind = found.lastgroup or ""
    return moments.layout_of(found) if kind == _MOMENT else kind
