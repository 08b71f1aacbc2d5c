"""Rows as Arrow tables, each column of the narrowest type that holds all its values exactly."""

from __future__ import annotations

import datetime as dt
from decimal import Decimal
from typing import TYPE_CHECKING, Any

from msgspec import Struct, field

from fieldstick.data.arrow_columns import ArrowColumn, ArrowRows, arrow_rows
from fieldstick.data.coding import without_escapes
from fieldstick.data.rows import text_of, told_apart

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.data.placed import PlacedRows
    from fieldstick.data.rows import Column, Row

_WIDEST = 76
"""Digits of the widest decimal that Arrow has (decimal256)."""

_HELD = frozenset({"text", "integer", "decimal", "date", "time", "timestamp", "boolean"})
"""Types whose values are given as buffers."""

_KINDS: dict[type, str] = {
    bool: "boolean",
    int: "integer",
    Decimal: "decimal",
    float: "float",
    dt.datetime: "timestamp",
    dt.date: "date",
    dt.time: "time",
    bytes: "bytes",
}


class Extent(Struct):
    """What a column's type must hold: digits before and after the decimal point, kinds of time, kinds of value."""

    whole: int = 1
    fraction: int = 0
    beyond_64_bits: bool = False
    with_offset: bool = False
    without_offset: bool = False
    kinds: set[str] = field(default_factory=set)

    def kind(self, named: str) -> str:
        """Return the field type, or `float` or `bytes`, of a column that may be of several."""
        if named != "mixed" or len(self.kinds) != 1:
            return named
        return next(iter(self.kinds))

    def merge(self, value: Any) -> None:
        """Widen it for a value."""
        self.kinds.add(_KINDS.get(type(value), "text"))
        if isinstance(value, bool):
            return
        if isinstance(value, int):
            self.whole = max(self.whole, len(str(abs(value))))
            self.beyond_64_bits = self.beyond_64_bits or not -(2**63) <= value < 2**63
        elif isinstance(value, Decimal):
            _, digits, exponent = value.as_tuple()
            assert isinstance(exponent, int)
            self.whole = max(self.whole, len(digits) + exponent)
            self.fraction = max(self.fraction, -exponent)
        elif hasattr(value, "tzinfo"):
            offset = value.tzinfo is not None
            self.with_offset, self.without_offset = self.with_offset or offset, self.without_offset or not offset

    def merge_column(self, made: ArrowColumn) -> None:
        """Widen it for the values of a column."""
        self.whole, self.fraction = max(self.whole, made.whole), max(self.fraction, made.fraction)
        self.with_offset = self.with_offset or made.with_offset
        self.without_offset = self.without_offset or made.without_offset


class ArrowShape:
    """Learns from rows which type each column needs, and tells the schema that holds them all."""

    def __init__(self, columns: Sequence[Column]) -> None:
        self.columns = columns
        self._extents = [Extent() for _ in columns]

    @property
    def takes_placed(self) -> bool:
        """Whether rows can be given as places in a text."""
        return all(column.type in _HELD for column in self.columns)

    def placed(self, placed: PlacedRows) -> ArrowRows | None:
        """Return rows that are places in a text by column; None where values are needed."""
        return arrow_rows(placed, [column.type for column in self.columns])

    def learn(self, payload: list[Row] | ArrowRows) -> None:
        """Widen the types for some rows."""
        if isinstance(payload, ArrowRows):
            for made, extent in zip(payload.columns, self._extents, strict=True):
                extent.merge_column(made)
            return
        for row in payload:
            for value, extent, column in zip(row, self._extents, self.columns, strict=True):
                if value is not None and (column.type == "mixed" or not isinstance(value, str)):
                    extent.merge(value)

    def extents(self) -> list[tuple[str, Extent]]:
        """Return for each column the field type of its values, or `float` or `bytes`, and what a type must hold."""
        return [(extent.kind(column.type), extent) for column, extent in zip(self.columns, self._extents, strict=True)]

    def schema(self, arrow: Any) -> Any:
        """Return the schema that holds all rows that were learnt from."""
        types = [_type(arrow, kind, extent) for kind, extent in self.extents()]
        names = told_apart([without_escapes(column.name) for column in self.columns])
        return arrow.schema(list(zip(names, types, strict=True)))


def arrow_table(arrow: Any, schema: Any, rows: list[Row] | ArrowRows) -> Any:
    """Return rows as a table of a schema that holds them."""
    if isinstance(rows, ArrowRows):
        made = [_array(arrow, column, field.type) for column, field in zip(rows.columns, schema, strict=True)]
        return arrow.Table.from_arrays(made, schema=schema)
    columns = [
        arrow.array([_fitting(value, arrow.types.is_string(field.type)) for value in column], type=field.type)
        for field, column in zip(schema, zip(*rows, strict=True), strict=True)
    ]
    return arrow.Table.from_arrays(columns, schema=schema)


def _array(arrow: Any, column: ArrowColumn, kind: Any) -> Any:
    """Return a column as an array of the type that the whole table has for it."""
    held = arrow.types.is_decimal128(kind) or (column.type != "decimal" and not arrow.types.is_decimal(kind))
    if held and (column.type == "text" or not arrow.types.is_string(kind)):
        return column.array(arrow, kind)
    # Some other row had a value that asks for a type beyond those that buffers are made for.
    return arrow.array([_fitting(value, arrow.types.is_string(kind)) for value in column.as_values(arrow)], type=kind)


def _fitting(value: Any, as_text: bool) -> Any:
    if value is None or not as_text:
        return value
    return without_escapes(value if isinstance(value, str) else text_of(value) or "")


def _type(arrow: Any, kind: str, extent: Extent) -> Any:
    if kind == "integer" and not extent.beyond_64_bits:
        return arrow.int64()
    if kind in ("integer", "decimal"):
        digits = extent.whole + extent.fraction
        if digits > _WIDEST:
            return arrow.string()
        return (arrow.decimal128 if digits <= 38 else arrow.decimal256)(digits, extent.fraction)
    if kind == "timestamp" and not (extent.with_offset and extent.without_offset):
        return arrow.timestamp("us", tz="UTC" if extent.with_offset else None)
    if kind == "time" and not extent.with_offset:
        return arrow.time64("us")
    plain = {"date": arrow.date32(), "boolean": arrow.bool_(), "float": arrow.float64(), "bytes": arrow.binary()}
    return plain.get(kind, arrow.string())
