"""Columns of rows that are places in a text, as Arrow stores them: buffers of values, made without an object a cell."""

from __future__ import annotations

import datetime as dt
from array import array
from itertools import compress
from operator import not_, sub
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fieldstick.data.coding import encoded, without_escapes
from fieldstick.kernels.walkers import NATIVE

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Sequence

    from fieldstick.data.placed import PlacedColumn, PlacedRows

_KINDS = {"integer": 0, "decimal": 0, "date": 1, "time": 2, "timestamp": 3, "boolean": 4}


class ArrowColumn(Struct):
    """One column: its field type, its buffers, and what a type must hold that is to hold all its values.

    `values` are int64 for numbers, scaled to `fraction` digits after the point, microseconds for times and timestamps
    (UTC where they have an offset), int32 for days, bits for booleans, and the bytes of texts; `offsets` (int32) tell
    where each text ends.
    """

    type: str
    count: int
    nulls: int
    valid: bytes
    values: bytes
    offsets: bytes = b""
    whole: int = 1
    fraction: int = 0
    with_offset: bool = False
    without_offset: bool = False
    zone: int = 0
    """The offset from UTC of all timestamps that have one, in minutes."""

    def array(self, arrow: Any, kind: Any) -> Any:
        """Return the column as an Arrow array of a type that holds all its values."""
        buffer = arrow.py_buffer
        valid = buffer(self.valid) if self.nulls else None
        if self.type == "text":
            return arrow.Array.from_buffers(
                kind, self.count, [valid, buffer(self.offsets), buffer(self.values)], self.nulls
            )
        if arrow.types.is_decimal128(kind):
            assert NATIVE is not None
            values = NATIVE.widened(self.values, kind.scale - self.fraction)
            return arrow.Array.from_buffers(kind, self.count, [valid, buffer(values)], self.nulls)
        found = arrow.Array.from_buffers(self._own_type(arrow), self.count, [valid, buffer(self.values)], self.nulls)
        return found if found.type == kind else found.cast(kind)

    def as_values(self, arrow: Any) -> list[Any]:
        """Return the values as Python has them, None for what is absent."""
        kind = arrow.decimal128(38, self.fraction) if self.type == "decimal" else None
        if self.type == "text":
            kind = arrow.string()
        found: list[Any] = self.array(arrow, kind if kind is not None else self._own_type(arrow)).to_pylist()
        if not self.zone:
            return found
        zone = dt.timezone(dt.timedelta(minutes=self.zone))
        return [each.astimezone(zone) if each is not None else None for each in found]

    def _own_type(self, arrow: Any) -> Any:
        """Return the type that the values are stored in."""
        if self.type == "integer":
            return arrow.int64()
        if self.type == "decimal":
            raise ValueError("decimals are stored in the type that is asked for")
        if self.type == "timestamp":
            return arrow.timestamp("us", tz="UTC" if self.with_offset else None)
        return {"date": arrow.date32(), "time": arrow.time64("us"), "boolean": arrow.bool_()}[self.type]


class ArrowRows(Struct):
    """Rows by column."""

    count: int
    columns: list[ArrowColumn]

    @property
    def size(self) -> int:
        """How many bytes its buffers hold."""
        return sum(len(each.valid) + len(each.values) + len(each.offsets) for each in self.columns)


def arrow_rows(placed: PlacedRows, types: Sequence[str]) -> ArrowRows | None:
    """Return rows by column, given the field type of each; None where a cell has no value that is stored so."""
    found = []
    for column, kind in zip(placed.columns, types, strict=True):
        made = _column(placed, column.index, kind) if column.what == "cell" else _told(placed, column)
        if made is None:
            return None
        found.append(made)
    return ArrowRows(placed.left, found)


def _told(placed: PlacedRows, column: PlacedColumn) -> ArrowColumn:
    """Return a column that is no cell: the same text in every row, or a number that tells of each."""
    count = placed.left
    if column.what == "same":
        text = encoded(without_escapes(column.text))
        ends = array("i", range(0, (count + 1) * len(text), len(text))) if text else array("i", bytes(4 * count + 4))
        return ArrowColumn("text", count, 0, b"", text * count, ends.tobytes())
    numbers = _numbers(placed, column)
    kept = compress(numbers, map(not_, placed.refused)) if placed.refused else numbers
    return ArrowColumn("integer", count, 0, b"", array("q", kept).tobytes())


def _numbers(placed: PlacedRows, column: PlacedColumn) -> Iterable[int]:
    """Return the number of each row that a column tells, rows that are left out included."""
    if column.what == "number":
        known, first = placed.numbers_of_texts, placed.first
        return [known[each] if known is not None else first + each for each in placed.numbers()]
    places = placed.places()
    told = places[column.index :: placed.width]
    if column.what == "value":
        return told
    starts = places[1 :: placed.width]
    if placed.data.isascii():
        return map(sub, told, starts)
    return _points(placed.data, starts, told)


def _points(data: bytes, starts: Iterable[int], places: Iterable[int]) -> Iterator[int]:
    """Yield places in texts as code points, each counted from the one before it in the same text."""
    text = at = points = 0
    for start, place in zip(starts, places, strict=True):
        if start != text or place < at:
            text, at, points = start, start, 0
        points += len(data[at:place].decode("utf-8", "surrogateescape"))
        at = place
        yield points


def _column(placed: PlacedRows, index: int, kind: str) -> ArrowColumn | None:
    assert NATIVE is not None
    count, valid = placed.count, bytearray((placed.count + 7) // 8)
    head = (placed.data, placed.side, placed.rows, placed.width, count, placed.refused, index)
    if kind == "text":
        offsets = bytearray(4 * (count + 1))
        texts = NATIVE.texts(*head, offsets, valid)
        if texts is None:
            return None
        made, nulls, data = texts
        return ArrowColumn(kind, made, nulls, _bits(valid, made), data, bytes(memoryview(offsets)[: 4 * (made + 1)]))
    out = bytearray(8 * count)
    told = NATIVE.values(*head, _KINDS[kind], out, valid)
    if told is None:
        return None
    made, nulls, whole, fraction, with_offset, without, zone = told
    if (with_offset and without) or (kind == "time" and with_offset):
        return None
    size = {"date": 4 * made, "boolean": (made + 7) // 8}.get(kind, 8 * made)
    values = bytes(memoryview(out)[:size])
    offsets_met = {"with_offset": bool(with_offset), "without_offset": bool(without)}
    return ArrowColumn(kind, made, nulls, _bits(valid, made), values, b"", whole, fraction, **offsets_met, zone=zone)


def _bits(valid: bytearray, count: int) -> bytes:
    return bytes(memoryview(valid)[: (count + 7) // 8])
