"""What the texts of a column would convert to: types with how many would not, the least and the most, how they lie."""

from __future__ import annotations

import datetime as dt
from collections import Counter
from decimal import Decimal
from typing import TYPE_CHECKING, Any

from msgspec import Struct, field

from fieldstick.lean import compiled_later
from fieldstick.suites.fieldtypes import FieldSpec, Unconverted

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.suites.model import FieldType

READINGS: tuple[tuple[str, FieldSpec], ...] = (
    ("integer", FieldSpec("integer")),
    ("integer with thousands parted by ,", FieldSpec("integer", group_mark=",")),
    ("decimal", FieldSpec("decimal")),
    ("decimal with a comma", FieldSpec("decimal", decimal_mark=",")),
    ("date", FieldSpec("date")),
    ("date as %d.%m.%Y", FieldSpec("date", layout="%d.%m.%Y")),
    ("date as %d/%m/%Y", FieldSpec("date", layout="%d/%m/%Y")),
    ("date as %m/%d/%Y", FieldSpec("date", layout="%m/%d/%Y")),
    ("time", FieldSpec("time")),
    ("timestamp", FieldSpec("timestamp")),
    ("timestamp as %Y-%m-%d %H:%M:%S", FieldSpec("timestamp", layout="%Y-%m-%d %H:%M:%S")),
    ("boolean", FieldSpec("boolean", true=("true", "yes", "y"), false=("false", "no", "n"))),
)
"""Types that are tried of every text, with the words for each; of those that take as many, the first is told."""

_LAYOUTS: tuple[tuple[str, FieldType, tuple[str, ...]], ...] = (
    ("9/9/9", "date", ("%Y/%m/%d", "%d/%m/%y", "%m/%d/%y")),
    ("9-9-9", "date", ("%d-%m-%Y", "%m-%d-%Y")),
    ("9.9.9", "date", ("%d.%m.%y", "%Y.%m.%d")),
    ("9 a 9", "date", ("%d %b %Y", "%d %B %Y")),
    ("9. a 9", "date", ("%d. %b %Y", "%d. %B %Y")),
    ("9-a-9", "date", ("%d-%b-%Y", "%d-%b-%y")),
    ("9a9", "date", ("%d%b%Y", "%d%b%y")),
    ("a 9, 9", "date", ("%b %d, %Y", "%B %d, %Y")),
    ("a 9/9/9", "date", ("%a %d/%m/%Y", "%a %m/%d/%Y", "%a %d/%m/%y", "%a %m/%d/%y")),
    ("a 9.9.9", "date", ("%a %d.%m.%Y", "%a %d.%m.%y")),
    ("a 9 a 9", "date", ("%a %d %b %Y", "%A %d %B %Y")),
    ("a, 9 a 9", "date", ("%a, %d %b %Y", "%A, %d %B %Y")),
    ("a, a 9, 9", "date", ("%a, %b %d, %Y", "%A, %B %d, %Y")),
    ("9:9", "time", ("%H:%M",)),
    ("9:9:9", "time", ("%H:%M:%S",)),
    ("9:9 a", "time", ("%I:%M %p",)),
    ("9:9a", "time", ("%I:%M%p",)),
    ("9:9:9 a", "time", ("%I:%M:%S %p",)),
    ("9-9-9 9:9", "timestamp", ("%d-%m-%Y %H:%M", "%m-%d-%Y %H:%M")),
    ("9-9-9 9:9:9", "timestamp", ("%d-%m-%Y %H:%M:%S", "%m-%d-%Y %H:%M:%S")),
    ("9.9.9 9:9", "timestamp", ("%d.%m.%Y %H:%M", "%d.%m.%y %H:%M", "%Y.%m.%d %H:%M")),
    ("9.9.9 9:9:9", "timestamp", ("%d.%m.%Y %H:%M:%S", "%d.%m.%y %H:%M:%S", "%Y.%m.%d %H:%M:%S")),
    ("9/9/9 9:9", "timestamp", ("%d/%m/%Y %H:%M", "%m/%d/%Y %H:%M", "%Y/%m/%d %H:%M", "%d/%m/%y %H:%M")),
    (
        "9/9/9 9:9:9",
        "timestamp",
        ("%d/%m/%Y %H:%M:%S", "%m/%d/%Y %H:%M:%S", "%Y/%m/%d %H:%M:%S", "%d/%m/%y %H:%M:%S"),
    ),
    ("9/9/9 9:9:9 a", "timestamp", ("%d/%m/%Y %I:%M:%S %p", "%m/%d/%Y %I:%M:%S %p")),
    ("9/9/9 9:9 a", "timestamp", ("%d/%m/%Y %I:%M %p", "%m/%d/%Y %I:%M %p")),
    ("9 a 9 9:9:9", "timestamp", ("%d %b %Y %H:%M:%S", "%d %B %Y %H:%M:%S")),
    ("9 a 9 9:9", "timestamp", ("%d %b %Y %H:%M", "%d %B %Y %H:%M")),
    ("9 a 9, 9:9", "timestamp", ("%d %b %Y, %H:%M", "%d %B %Y, %H:%M")),
    ("9-a-9 9:9:9", "timestamp", ("%d-%b-%Y %H:%M:%S", "%d-%b-%y %H:%M:%S")),
    ("9-a-9 9:9", "timestamp", ("%d-%b-%Y %H:%M", "%d-%b-%y %H:%M")),
    ("a 9, 9 9:9", "timestamp", ("%b %d, %Y %H:%M", "%B %d, %Y %H:%M")),
    ("a 9, 9 9:9 a", "timestamp", ("%b %d, %Y %I:%M %p", "%B %d, %Y %I:%M %p")),
    ("9/a/9:9:9:9 +9", "timestamp", ("%d/%b/%Y:%H:%M:%S %z",)),
    ("a a 9 9:9:9 9", "timestamp", ("%a %b %d %H:%M:%S %Y",)),
    ("a, 9 a 9 9:9:9 +9", "timestamp", ("%a, %d %b %Y %H:%M:%S %z",)),
)
"""Layouts by what texts look like that may have them: a 9 for each run of digits, an `a` for one of letters."""

_GROUPED: tuple[tuple[str, FieldSpec], ...] = (
    ("decimal with thousands parted by ,", FieldSpec("decimal", group_mark=",")),
    ("decimal with a comma, thousands parted by .", FieldSpec("decimal", decimal_mark=",", group_mark=".")),
)
"""Types of numbers of which some have both a point and a comma: beside those of `_PLAIN`, which are counted there."""

_PLAIN = ("decimal", "decimal with a comma")

EVERY_TEXT = len(READINGS)
"""How many types are tried of every text."""

READINGS += _GROUPED + tuple(
    (f"{kind} as {layout}", FieldSpec(kind, layout=layout)) for _, kind, layouts in _LAYOUTS for layout in layouts
)


def _by_look() -> dict[str, frozenset[int]]:
    """Return the numbers of the types by what texts look like that may be of them."""
    found, at = {}, EVERY_TEXT + len(_GROUPED)
    for look, _, layouts in _LAYOUTS:
        found[look] = frozenset(range(at, at + len(layouts)))
        at += len(layouts)
    return found


_BY_LOOK = _by_look()
_PLAIN_OF = {
    EVERY_TEXT + number: next(at for at, (name, _) in enumerate(READINGS) if name == plain)
    for number, plain in enumerate(_PLAIN)
}
"""For each type of numbers with both marks, that of those which have none."""

_BOTH_MARKS = frozenset(_PLAIN_OF)
_LOOKS = compiled_later(r"\d+|[^\W\d_]+|(?<= )[-+](?=\d{4}$)|(?<=:\d\d)[-+](?=\d{4}$)")

SURE_AFTER = 500
"""Texts after which a type that not half of them convert to is tried no longer."""

MOST_CACHED = 50_000
MOST_SAMPLED = 4_096
"""Values that tell how all of them lie: every one, then every other, and so on."""

BUCKETS = 10


class TypeCount(Struct):
    """How many texts convert to a type and how many do not, one that does not, the least and the most value."""

    name: str
    fit: int = 0
    missed: int = 0
    example: str | None = None
    least: Any = None
    most: Any = None
    sample: list[float] = field(default_factory=list)
    stride: int = 1
    passed: int = 0

    def take(self, value: Any, count: int) -> None:
        """Take in a value that so many texts have."""
        self.fit += count
        if isinstance(value, bool):
            return
        try:
            self.least = value if self.least is None or value < self.least else self.least
            self.most = value if self.most is None or self.most < value else self.most
        except TypeError:
            # A moment with an offset and one without have no order.
            return
        taken = (self.passed + count) // self.stride - self.passed // self.stride
        self.passed += count
        if taken:
            self.sample += [number_of(value)] * taken
        if len(self.sample) > 2 * MOST_SAMPLED:
            self.sample = self.sample[::2]
            self.stride *= 2

    def merge(self, other: TypeCount) -> None:
        """Take in what was counted further on."""
        self.fit += other.fit
        self.missed += other.missed
        self.example = self.example if self.example is not None else other.example
        for name, better in (("least", min), ("most", max)):
            mine, its = getattr(self, name), getattr(other, name)
            setattr(self, name, its if mine is None else mine if its is None else better(mine, its))
        self.sample += other.sample

    def buckets(self) -> list[int]:
        """Return how many of the sampled values lie in each of ten stretches between the least and the most."""
        if not self.sample or min(self.sample) == max(self.sample):
            return []
        low, high = min(self.sample), max(self.sample)
        found = [0] * BUCKETS
        for each in self.sample:
            found[min(int((each - low) / (high - low) * BUCKETS), BUCKETS - 1)] += 1
        return found


def number_of(value: Any) -> float:
    """Return where a value lies among others of its type."""
    if isinstance(value, int | Decimal):
        return float(value)
    if isinstance(value, dt.datetime):
        moment = value if value.tzinfo is not None else value.replace(tzinfo=dt.UTC)
        return moment.timestamp()
    if isinstance(value, dt.date):
        return float(value.toordinal())
    return value.hour * 3600.0 + value.minute * 60 + value.second if isinstance(value, dt.time) else 0.0


_Converted = tuple[int, list[tuple[TypeCount, Any]]]
"""The types that a text converts to, a bit each, and those with its value."""

_EVERY = (1 << len(READINGS)) - 1
_NOTHING: _Converted = (0, [])


class ColumnTypes:
    """The types that the texts of a column would convert to; blank ones are none of them."""

    def __init__(self) -> None:
        self.counts = [TypeCount(name) for name, _ in READINGS]
        self.filled = 0
        self._tried = list(range(len(READINGS)))
        """The types that are tried still."""

        self._others_tried = True

        self._lacking = _EVERY
        """Those of which no text is known that does not convert: a bit each."""

        self._known: dict[str, _Converted] = {}

    def __getstate__(self) -> dict[str, Any]:
        return self.__dict__ | {"_known": {}}

    def add_many(self, texts: Sequence[str]) -> None:
        """Take texts in."""
        at = 0
        while at < len(texts):
            # Until it is known which types are worth it, few at a time: they are held against all of those.
            some = texts[at:] if self.filled > SURE_AFTER else texts[at : at + SURE_AFTER]
            self._add(some)
            at += len(some)
        for told in self.counts:
            told.missed = self.filled - told.fit

    def _add(self, texts: Sequence[str]) -> None:
        """Take texts in, then give up the types that are tried no longer."""
        for text, count in Counter(texts).items():
            if not text.strip():
                continue
            self.filled += count
            known = self._known.get(text)
            if known is None:
                known = self._converted(text) if self._tried else _NOTHING
                if len(self._known) < MOST_CACHED:
                    self._known[text] = known
            fitting, values = known
            for told, value in values:
                told.take(value, count)
            if self._lacking & ~fitting:
                self._note_example(text, fitting)
        if self.filled > SURE_AFTER:
            self._tried = [each for each in self._tried if 2 * self._of(each).fit >= self.filled]
            self._others_tried = any(each >= EVERY_TEXT for each in self._tried)

    def _converted(self, text: str) -> _Converted:
        """Return the types that a text converts to, as far as they are tried, and its value for each."""
        fitting, found = 0, []
        values = number_values(text)
        others = _may_be(text) if self._others_tried and not values else frozenset()
        for each in self._tried:
            if each >= EVERY_TEXT and each not in others:
                continue
            value = values[each] if each < len(values) else _value(READINGS[each][1], text)
            if value is not None:
                fitting |= 1 << each
                found.append((self.counts[each], value))
        for each, plain in _PLAIN_OF.items():
            fitting |= (fitting >> plain & 1) << each
        return fitting, found

    def _note_example(self, text: str, fitting: int) -> None:
        for index, told in enumerate(self.counts):
            if told.example is None and not fitting >> index & 1:
                told.example = text
        self._lacking &= fitting

    def merge(self, other: ColumnTypes) -> None:
        """Take in what was counted further on."""
        self.filled += other.filled
        for mine, its in zip(self.counts, other.counts, strict=True):
            mine.merge(its)
        self._lacking = sum(1 << index for index, each in enumerate(self.counts) if each.example is None)

    @property
    def best(self) -> TypeCount | None:
        """The type that most texts convert to; None where that is not half of them."""
        best = max(map(self._of, range(len(READINGS))), key=lambda each: each.fit)
        return best if self.filled and 2 * best.fit >= self.filled else None

    def _of(self, number: int) -> TypeCount:
        """Return what was counted of a type; with numbers that have no marks, where others have both."""
        told, plain = self.counts[number], _PLAIN_OF.get(number)
        if plain is None or not told.fit:
            return told
        both = TypeCount(told.name)
        both.merge(self.counts[plain])
        both.merge(told)
        both.missed, both.example = self.filled - both.fit, told.example
        return both


def _may_be(text: str) -> frozenset[int]:
    """Return the numbers of the types that are not tried of every text, of those that a text may be of."""
    text = text.strip()
    if len(text) > LONGEST or not any(map(str.isdecimal, text)):
        return frozenset()
    look = _LOOKS.sub(lambda found: "9" if found[0][0].isdecimal() else "a" if found[0].isalpha() else "+", text)
    if "." in look and "," in look:
        return _BOTH_MARKS
    return _BY_LOOK.get(look, frozenset())


_NUMBER = compiled_later(r"-?[0-9]{1,18}(\.[0-9]{1,18})?")


def number_values(text: str) -> tuple[Any, ...]:
    """Return what the first four types make of a number that is written plainly, at once; nothing of another text."""
    found = _NUMBER.fullmatch(text)
    if found is None:
        return ()
    number = Decimal(text)
    return (None, None, number, None) if found[1] else (int(text), int(text), number, number)


def _value(spec: FieldSpec, text: str) -> Any:
    if len(text) > LONGEST or not text.strip():
        return None
    try:
        return spec.convert(text.strip() if spec.type != "boolean" else text.strip().lower())
    except Unconverted:
        return None


LONGEST = 60
"""Code points up to which a text may be a value."""
