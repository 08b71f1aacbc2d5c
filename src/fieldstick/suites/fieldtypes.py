"""The types a field can have: how a captured text converts, and the bounds its value must keep.

Numbers are exact: an integer is an `int`, a decimal a `decimal.Decimal`. Dates and times follow ISO 8601
unless a `layout` in the notation of the C library's strftime is given.
"""

from __future__ import annotations

import datetime as dt
import re
from decimal import Decimal, InvalidOperation
from functools import cache
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fieldstick.errors import FieldstickError, hint

if TYPE_CHECKING:
    from collections.abc import Callable

    from fieldstick.suites.model import FieldTable, FieldType

Value = str | int | Decimal | bool | dt.date | dt.time | dt.datetime

GENERAL_KEYS = frozenset({"type", "name", "one_of"})
_BOUND_KEYS = frozenset({"least", "most"})
_SENTENCE_ENDS = tuple(".,;:!?…")

_SIGN = "[+\\-\N{MINUS SIGN}]?"
# A fraction stands after seconds alone: Python reads 06.10 as six hours and a tenth of a second.
_CLOCK = r"[0-9]{2}(?::?[0-9]{2}(?::?[0-9]{2}(?:[.,][0-9]+)?)?)?(?:[Zz]|[+-][0-9:]+)?"
_DAY = r"[0-9W-]{7,10}"
_MOMENT = rf"{_DAY}(?:[Tt ]{_CLOCK})?"


@cache
def _compiled(shape: str) -> re.Pattern[str]:
    """Return an expression, compiled when it is first needed: most commands have no use for one."""
    return re.compile(shape, re.ASCII)


class Unconverted(Exception):
    """A text that does not convert; its words complete the sentence "the field ..."."""


class FieldTableError(FieldstickError):
    """A field table that does not make sense; `key` is the key to blame."""

    def __init__(self, key: str, message: str) -> None:
        self.key = key
        super().__init__(message)


class FieldSpec(Struct, frozen=True):
    """What is asked of one field: its type, and its bounds as values of that type."""

    type: FieldType = "text"
    unit: str | None = None
    layout: str | None = None
    decimal_mark: str = "."
    group_mark: str | None = None
    true: tuple[str, ...] = ("true",)
    false: tuple[str, ...] = ("false",)
    least: Any = None
    most: Any = None
    one_of: tuple[Any, ...] = ()

    def value(self, text: str) -> Value:
        """Convert `text` and hold it against the bounds.

        Raises Unconverted with the reason in words.
        """
        value = self.convert(text)
        if self.least is not None and self.before(value, self.least):
            raise Unconverted(f"is {text}, below the least of {self.shown(self.least)}")
        if self.most is not None and self.before(self.most, value):
            raise Unconverted(f"is {text}, above the most of {self.shown(self.most)}")
        if self.one_of and value not in self.one_of and text not in self.one_of:
            listed = ", ".join(f"'{self.plain(each)}'" for each in self.one_of[:8])
            more = " …" if len(self.one_of) > 8 else ""
            raise Unconverted(f"is '{text}', not one of {listed}{more}")
        return value

    def convert(self, text: str) -> Value:
        """Convert `text` without regard to bounds; raises Unconverted.

        A mark that ends a sentence stays out of a number, date or time that it follows: `31.4.` is 31.4.
        """
        try:
            return _RULES[self.type].convert(self, text)
        except Unconverted:
            if not _RULES[self.type].in_sentences or text[-1:] not in _SENTENCE_ENDS:
                raise
            try:
                return _RULES[self.type].convert(self, text[:-1])
            except Unconverted:
                pass
            raise

    def shown(self, value: Any) -> str:
        """Write a value with its unit."""
        return f"{self.plain(value)}{' ' + self.unit if self.unit else ''}"

    @staticmethod
    def plain(value: Any) -> str:
        """Write a value without its unit; dates and times as ISO 8601."""
        if isinstance(value, bool):
            return "true" if value else "false"
        return value.isoformat() if hasattr(value, "isoformat") else str(value)

    def before(self, one: Any, other: Any) -> bool:
        """Tell whether one value is less than another.

        Raises Unconverted for moments of which one alone has an offset from UTC.
        """
        try:
            return bool(one < other)
        except TypeError:
            raise Unconverted(
                "and its bound cannot be compared: one names an offset from UTC, the other does not"
            ) from None


TEXT = FieldSpec()


def field_spec(table: FieldTable) -> FieldSpec:
    """Make the spec of a field table.

    Raises FieldTableError for a key that does not go with the type, or a bound that is no value of it.
    """
    allowed = GENERAL_KEYS | _RULES[table.type].keys
    for key in table.given():
        if key not in allowed:
            raise FieldTableError(key, f"'{key}' does not go with the type {table.type}{hint(key, allowed)}")
    bare = FieldSpec(
        type=table.type,
        unit=table.unit,
        layout=table.layout,
        decimal_mark=table.decimal_mark or ".",
        group_mark=table.group_mark,
        true=tuple(table.true or TEXT.true),
        false=tuple(table.false or TEXT.false),
    )
    _check_marks(bare)
    _check_layout(bare)
    least, most = (_bound(bare, key, getattr(table, key)) for key in ("least", "most"))
    if least is not None and most is not None and _out_of_order(least, most):
        raise FieldTableError("least", f"least is {bare.plain(least)}, above most, {bare.plain(most)}")
    one_of = tuple(_bound(bare, "one_of", each) for each in table.one_of or ())
    return FieldSpec(**{name: getattr(bare, name) for name in _BARE_KEYS}, least=least, most=most, one_of=one_of)


_BARE_KEYS = ("type", "unit", "layout", "decimal_mark", "group_mark", "true", "false")


def _check_marks(spec: FieldSpec) -> None:
    if spec.type == "decimal" and spec.group_mark == spec.decimal_mark:
        raise FieldTableError("group_mark", f"group_mark and decimal_mark are both '{spec.group_mark}'")
    both = set(spec.true) & set(spec.false)
    if spec.type == "boolean" and both:
        raise FieldTableError("true", f"'{min(both)}' is both true and false")


def _check_layout(spec: FieldSpec) -> None:
    if spec.layout is None:
        return
    try:
        dt.datetime.strptime("", spec.layout)
    except (ValueError, re.error) as error:
        # An empty text is not laid out so, which says nothing; what else is wrong is wrong with the layout.
        if "does not match format" not in str(error):
            words = str(error).partition(" in format")[0]
            raise FieldTableError("layout", f"layout is '{spec.layout}', which is none: {words}") from None


def _out_of_order(least: Any, most: Any) -> bool:
    try:
        return bool(most < least)
    except TypeError:
        raise FieldTableError(
            "least", "least and most cannot be compared: one names an offset from UTC, the other does not"
        ) from None


def _bound(spec: FieldSpec, key: str, given: Any) -> Any:
    """Return a bound as a value of the type; a text is read as the field itself would be."""
    if given is None:
        return None
    if isinstance(given, str):
        try:
            return spec.convert(given)
        except Unconverted as why:
            raise FieldTableError(key, f"{key}: the value {why}") from None
    if not _RULES[spec.type].has_value(given):
        raise FieldTableError(key, f"{key} is {spec.plain(given)}, which is no {spec.type}")
    return given


def _is_number(value: Any) -> bool:
    whole = isinstance(value, int) and not isinstance(value, bool)
    return whole or (isinstance(value, Decimal) and value.is_finite())


def _is_date(value: Any) -> bool:
    return isinstance(value, dt.date) and not isinstance(value, dt.datetime)


def _text(spec: FieldSpec, text: str) -> Value:
    return text


def _ungrouped(spec: FieldSpec, whole: str, text: str) -> str:
    if spec.group_mark is None or spec.group_mark not in whole:
        return whole
    first, *others = whole.split(spec.group_mark)
    if not 1 <= len(first.lstrip("+-\N{MINUS SIGN}")) <= 3 or any(len(each) != 3 for each in others):
        raise Unconverted(f"is '{text}', in which '{spec.group_mark}' does not part groups of three digits")
    return first + "".join(others)


def _integer(spec: FieldSpec, text: str) -> Value:
    digits = _ungrouped(spec, text, text)
    if not re.fullmatch(rf"{_SIGN}\d+", digits):
        raise Unconverted(f"is '{text}', which is no integer")
    try:
        return int(digits.replace("\N{MINUS SIGN}", "-"))
    except ValueError:
        raise Unconverted(f"has {len(digits)} digits, more than an integer may have here") from None


def _decimal(spec: FieldSpec, text: str) -> Value:
    whole, mark, fraction = text.partition(spec.decimal_mark)
    digits = _ungrouped(spec, whole, text)
    number = digits + ("." + fraction if mark else "")
    if (spec.decimal_mark != "." and "." in digits + fraction) or not re.fullmatch(
        rf"{_SIGN}(\d+(\.\d+)?|\.\d+)([eE][+-]?\d+)?", number
    ):
        raise Unconverted(f"is '{text}', which is no decimal{_mark_hint(spec, text)}")
    try:
        value = Decimal(number.replace("\N{MINUS SIGN}", "-"))
    except InvalidOperation:
        raise Unconverted("has an exponent beyond what a decimal can hold") from None
    if not value.is_finite():
        raise Unconverted("has an exponent beyond what a decimal can hold")
    return value


def _mark_hint(spec: FieldSpec, text: str) -> str:
    for mark in ",.":
        if mark != spec.decimal_mark and mark in text:
            return f" (its decimal mark is '{spec.decimal_mark}')"
    return ""


def _by_layout(spec: FieldSpec, text: str) -> dt.datetime:
    assert spec.layout is not None
    try:
        return dt.datetime.strptime(text, spec.layout)
    except ValueError:
        raise Unconverted(f"is '{text}', which is no {spec.type} laid out as '{spec.layout}'") from None


def _iso(spec: FieldSpec, text: str, shape: str, read: Callable[[str], Value]) -> Value:
    try:
        if _compiled(shape).fullmatch(text):
            return read(text.upper())
    except ValueError as error:
        raise Unconverted(f"is '{text}', which is no {spec.type}: {error}") from None
    raise Unconverted(f"is '{text}', which is no {spec.type} of ISO 8601")


def _date(spec: FieldSpec, text: str) -> Value:
    if spec.layout is not None:
        return _by_layout(spec, text).date()
    return _iso(spec, text, _DAY, dt.date.fromisoformat)


def _time(spec: FieldSpec, text: str) -> Value:
    if spec.layout is not None:
        return _by_layout(spec, text).timetz()
    return _iso(spec, text, _CLOCK, dt.time.fromisoformat)


def _timestamp(spec: FieldSpec, text: str) -> Value:
    if spec.layout is not None:
        return _by_layout(spec, text)
    return _iso(spec, text, _MOMENT, dt.datetime.fromisoformat)


def _boolean(spec: FieldSpec, text: str) -> Value:
    if text in spec.true:
        return True
    if text in spec.false:
        return False
    listed = ", ".join(f"'{each}'" for each in (*spec.true, *spec.false))
    raise Unconverted(f"is '{text}', not one of {listed}")


class _Rules(Struct, frozen=True):
    """A type: how a text converts to it, which values of a suite file are its own, and the keys that go with it."""

    convert: Callable[[FieldSpec, str], Value]
    has_value: Callable[[Any], bool]
    keys: frozenset[str]
    in_sentences: bool = True
    """Whether a mark that ends a sentence may follow."""


_NUMBER_KEYS = _BOUND_KEYS | {"unit", "group_mark"}
_DATE_KEYS = _BOUND_KEYS | {"layout"}
_RULES: dict[FieldType, _Rules] = {
    "text": _Rules(_text, lambda value: isinstance(value, str), frozenset({"unit"}), in_sentences=False),
    "integer": _Rules(_integer, _is_number, _NUMBER_KEYS),
    "decimal": _Rules(_decimal, _is_number, _NUMBER_KEYS | {"decimal_mark"}),
    "date": _Rules(_date, _is_date, _DATE_KEYS),
    "time": _Rules(_time, lambda value: isinstance(value, dt.time), _DATE_KEYS),
    "timestamp": _Rules(_timestamp, lambda value: isinstance(value, dt.datetime), _DATE_KEYS),
    "boolean": _Rules(
        _boolean, lambda value: isinstance(value, bool), frozenset({"true", "false"}), in_sentences=False
    ),
}

TYPES = tuple(_RULES)
