"""Captured texts convert exactly, or say why they do not."""

from __future__ import annotations

import datetime as dt
from decimal import Decimal
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec import convert

from fieldstick.suites.fieldtypes import FieldSpec, FieldTableError, Unconverted, field_spec
from fieldstick.suites.model import FieldTable


def spec(**keys: Any) -> Any:
    return field_spec(convert(keys, FieldTable))


COMMA = {"type": "decimal", "decimal_mark": ",", "group_mark": "."}


@pytest.mark.parametrize(
    ("keys", "text", "value"),
    [
        ({"type": "integer"}, "-007", -7),
        ({"type": "integer"}, "\N{MINUS SIGN}7", -7),
        ({"type": "integer", "group_mark": " "}, "12 345", 12345),
        ({"type": "decimal"}, "31.40", Decimal("31.4")),
        ({"type": "decimal"}, "31.4.", Decimal("31.4")),
        ({"type": "decimal", "decimal_mark": ","}, "31,4,", Decimal("31.4")),
        ({"type": "decimal", "group_mark": ".", "decimal_mark": ","}, "1.240.", Decimal(1240)),
        ({"type": "integer"}, "7!", 7),
        ({"type": "decimal"}, "0.1000000000000000055511151231257827", Decimal("0.1000000000000000055511151231257827")),
        ({"type": "decimal"}, ".5", Decimal("0.5")),
        ({"type": "decimal"}, "1e3", Decimal(1000)),
        (COMMA, "1.240,5", Decimal("1240.5")),
        (COMMA, "1240,5", Decimal("1240.5")),
        ({"type": "date"}, "2026-05-04", dt.date(2026, 5, 4)),
        ({"type": "date", "layout": "%d.%m.%Y"}, "4.5.2026", dt.date(2026, 5, 4)),
        ({"type": "time"}, "06:10", dt.time(6, 10)),
        ({"type": "timestamp"}, "2026-05-04T06:10:00Z", dt.datetime(2026, 5, 4, 6, 10, tzinfo=dt.UTC)),
        ({"type": "timestamp", "layout": "%d.%m.%Y %H:%M"}, "04.05.2026 06:10", dt.datetime(2026, 5, 4, 6, 10)),
        ({"type": "boolean", "true": ["yes"], "false": ["no"]}, "no", False),
        ({"one_of": ["B07"]}, "B07", "B07"),
        ({"type": "integer", "one_of": [7]}, "007", 7),
        ({"type": "boolean", "one_of": [True]}, "true", True),
        ({"type": "integer", "least": 7, "most": 7}, "7", 7),
        ({"type": "decimal", "least": Decimal("1.0"), "most": Decimal(1)}, "1.00", Decimal(1)),
        ({"type": "time", "least": dt.time(6), "most": "07:00"}, "06:00", dt.time(6)),
    ],
)
def test_a_text_converts(keys: dict[str, Any], text: str, value: object) -> None:
    found = spec(**keys).value(text)
    assert found == value
    assert type(found) is type(value)


@pytest.mark.parametrize(
    ("keys", "text", "words"),
    [
        ({"type": "integer"}, "1_000", "no integer"),
        ({"type": "integer"}, " 7", "no integer"),
        ({"type": "integer"}, "7.0", "no integer"),
        ({"type": "integer"}, "9" * 5000, "digits"),
        ({"type": "integer", "group_mark": ","}, "1,24", "groups of three"),
        ({"type": "decimal"}, "31,4", "its decimal mark is '.'"),
        ({"type": "decimal", "decimal_mark": ","}, "31.4", "its decimal mark is ','"),
        ({"type": "decimal", "decimal_mark": ","}, "1,3.4", "its decimal mark is ','"),
        ({"type": "decimal"}, "31.4..", "no decimal"),
        ({"type": "decimal"}, "nan", "no decimal"),
        ({"type": "decimal"}, "1e9999999999999999999", "exponent"),
        (COMMA, "1.24", "groups of three"),
        ({"type": "decimal", "most": 100, "unit": "%"}, "100.1", "above the most of 100 %"),
        ({"type": "decimal", "least": "-3.5"}, "-3.6", "below the least of -3.5"),
        ({"type": "date"}, "2026-02-30", "no date: day"),
        ({"type": "date"}, "4.5.2026", "no date of ISO 8601"),
        ({"type": "date", "layout": "%d.%m.%Y"}, "31.4.2026", "laid out as '%d.%m.%Y'"),
        ({"type": "timestamp"}, "2026-05-04x06:10", "ISO 8601"),
        ({"type": "time"}, "06.10", "ISO 8601"),
        ({"type": "timestamp"}, "2026-05-04T06:10.5", "ISO 8601"),
        ({"type": "timestamp", "least": dt.datetime(2026, 1, 1)}, "2026-05-04T06:10:00Z", "offset from UTC"),
        ({"type": "boolean"}, "yes", "not one of 'true', 'false'"),
        ({"type": "boolean"}, "true.", "not one of 'true', 'false'"),
        ({"one_of": ["B07", "C12"]}, "D01", "not one of 'B07', 'C12'$"),
        ({"one_of": list("abcdefgh")}, "i", "'g', 'h'$"),
        ({"one_of": list("abcdefghi")}, "j", "'g', 'h' …$"),
    ],
)
def test_a_text_that_does_not_convert_says_why(keys: dict[str, Any], text: str, words: str) -> None:
    with pytest.raises(Unconverted, match=words.replace("(", r"\(")):
        spec(**keys).value(text)


@pytest.mark.parametrize(
    ("keys", "blamed"),
    [
        ({"type": "text", "least": 3}, "least"),
        ({"type": "integer", "decimal_mark": ","}, "decimal_mark"),
        ({"type": "decimal", "decimal_mark": ",", "group_mark": ","}, "group_mark"),
        ({"type": "integer", "least": 5, "most": 3}, "least"),
        ({"type": "integer", "least": True}, "least"),
        ({"type": "date", "most": "soon"}, "most"),
        ({"type": "boolean", "true": ["x"], "false": ["x"]}, "true"),
        ({"type": "boolean", "one_of": [1]}, "one_of"),
        ({"type": "date", "layout": "%d.%Q"}, "layout"),
        ({"type": "time", "layout": "%H:%"}, "layout"),
        ({"type": "date", "layout": "%d %d"}, "layout"),
        ({"type": "time", "least": dt.date(2026, 5, 4)}, "least"),
        ({"type": "date", "least": dt.datetime(2026, 5, 4)}, "least"),
        ({"type": "decimal", "most": Decimal("Infinity")}, "most"),
    ],
)
def test_a_field_table_that_makes_no_sense_is_refused(keys: dict[str, Any], blamed: str) -> None:
    with pytest.raises(FieldTableError) as caught:
        spec(**keys)
    assert caught.value.key == blamed


def test_a_value_is_written_without_a_choice_of_notation() -> None:
    written = [True, False, Decimal("31.40"), -7, dt.date(2026, 5, 4), dt.time(6, 10), dt.datetime(2026, 5, 4, 6)]
    assert [*map(FieldSpec.plain, written)] == [
        "true", "false", "31.40", "-7", "2026-05-04", "06:10:00", "2026-05-04T06:00:00",
    ]  # fmt: skip
    assert spec(type="decimal", unit="%").shown(Decimal("31.4")) == "31.4 %"


@given(st.decimals(allow_nan=False, allow_infinity=False, places=4, min_value=-(10**9), max_value=10**9))
def test_a_decimal_keeps_its_value_however_it_is_marked(number: Decimal) -> None:
    written = f"{number:,.4f}"
    assert spec(type="decimal", group_mark=",").value(written) == number
    swapped = written.translate(str.maketrans(",.", ".,"))
    assert spec(**COMMA).value(swapped) == number
