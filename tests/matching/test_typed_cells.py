"""Typed fields of many rows are judged and written as one field by itself is."""

from __future__ import annotations

import datetime as dt
from array import array
from decimal import Decimal
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.data.placed import HEAD, PlacedRows
from fieldstick.data.rows import text_of
from fieldstick.kernels.walkers import NATIVE
from fieldstick.matching.result import Layout
from fieldstick.matching.typed_cells import judges_of
from fieldstick.suites.fieldtypes import Unconverted, field_spec
from fieldstick.suites.model import FieldTable

pytestmark = pytest.mark.skipif(NATIVE is None, reason="the walkers are not built here")

DIGITS = st.text("0123456789", max_size=9)
WHOLES = ["0", "00", "007", "1,234", "12,34", "1.234", "1.234.567", "٣", "9" * 18, "9" * 25]
FRACTIONS = ["", "", ".", ",", ".5", ",5", ".50", ",250", ".0000001", ".000001", "e5", "E-9", ".1234567890"]
NUMBERS = st.builds(
    "".join,
    st.tuples(
        st.sampled_from(["", "", "", "-", "+", "−", " "]),
        st.one_of(DIGITS, st.sampled_from(WHOLES)),
        st.sampled_from(FRACTIONS),
        st.sampled_from(["", "", "", ".", ",", "!", "x"]),
    ),
)
DATES = st.one_of(
    st.dates().map(dt.date.isoformat),
    st.sampled_from(["2026-02-29", "2024-02-29", "1900-02-29", "2000-02-29", "0000-01-01", "2026-13-01", "2026-W07-3",
                     "20260504", "2026-5-4", "2026-04-31", "2026-05-04x"]),
)  # fmt: skip
CLOCKS = st.times().map(lambda each: each.isoformat()[:8])
TIMES = st.builds(
    "".join,
    st.tuples(
        st.one_of(CLOCKS, st.sampled_from(["06:10", "24:00", "23:59:60", "6:10", "0610"])),
        st.sampled_from(["", "", ".5", ".250", ".000", ".123456", ".1234567", ",250"]),
        st.sampled_from(["", "", "Z", "z", "+02:00", "-00:00", "-09:30", "+24:00", "+02", "+02:00:30", "."]),
    ),
)
STAMPS = st.builds("".join, st.tuples(DATES, st.sampled_from(["T", " ", "t", "_", ""]), TIMES))
AT = [dt.datetime(2026, 5, 4, 6, 10), dt.datetime(1969, 12, 31, 23, 59, 59, 999999)]
FAR = [each.replace(tzinfo=dt.timezone(dt.timedelta(hours=2))) for each in AT]
FIELDS: list[tuple[dict[str, Any], Any]] = [
    ({"type": "integer"}, NUMBERS),
    ({"type": "integer", "group_mark": ",", "least": -7, "most": Decimal("1234.5")}, NUMBERS),
    ({"type": "integer", "one_of": [7, 12]}, NUMBERS),
    ({"type": "decimal", "least": Decimal("0.05"), "most": 400}, NUMBERS),
    ({"type": "decimal", "decimal_mark": ",", "group_mark": "."}, NUMBERS),
    ({"type": "decimal", "group_mark": "’"}, NUMBERS),
    ({"type": "decimal", "most": Decimal("1e30")}, NUMBERS),
    ({"type": "date"}, DATES),
    ({"type": "date", "least": dt.date(1999, 12, 31), "most": dt.date(2026, 5, 4)}, DATES),
    ({"type": "time"}, TIMES),
    ({"type": "time", "most": dt.time(12, 30)}, TIMES),
    ({"type": "time", "least": dt.time(12, 30, tzinfo=dt.UTC)}, TIMES),
    ({"type": "timestamp"}, STAMPS),
    ({"type": "timestamp", "least": AT[1], "most": AT[0]}, STAMPS),
    ({"type": "timestamp", "least": FAR[0]}, STAMPS),
    ({"type": "timestamp", "layout": "%d.%m.%Y %H:%M"}, st.sampled_from(["04.05.2026 06:10", "4.5.26", ""])),
    ({"type": "boolean", "true": ["yes", "ja"], "false": ["no"]}, st.sampled_from(["yes", "ja", "no", "y", "", "Yes"])),
    ({"type": "text", "one_of": ["A01", "é", ""]}, st.sampled_from(["A01", "é", "", "A02", "A0"])),
]  # fmt: skip


@pytest.mark.parametrize(("keys", "cells"), FIELDS, ids=[str(keys) for keys, _ in FIELDS])
@given(data=st.data())
def test_a_column_is_judged_cell_by_cell(keys: dict[str, Any], cells: Any, data: st.DataObject) -> None:
    spec = field_spec(FieldTable(**keys))
    drawn = data.draw(st.lists(st.one_of(st.none(), cells), min_size=1, max_size=12))
    stored, rows, width = b"", array("i"), HEAD + 4
    for number, cell in enumerate(drawn):
        place = (-1, -1) if cell is None else (len(stored), len(stored) + len(cell.encode()))
        stored += (cell or "").encode() + b"\n"
        rows.extend((number, 0, 0, 0, 0, *place))
    placed = PlacedRows(stored, bytearray(rows.tobytes()), width, len(drawn))
    placed.refused, placed.side = bytearray(len(drawn)), bytearray()
    layout = Layout(("field",), (spec,), (0,))
    [judge] = judges_of(layout)
    judge.judge(placed, 7)
    everything, places = stored + bytes(placed.side), placed.places()
    for number, cell in enumerate(drawn):
        start, end = places[number * width + HEAD + 2 : number * width + HEAD + 4]
        try:
            wanted = None if cell is None else text_of(spec.value(cell))
        except Unconverted:
            assert placed.refused[number] == 7, cell
            continue
        assert not placed.refused[number], cell
        assert (None if end < 0 else everything[start:end].decode()) == wanted, cell
