"""Parquet: rows read, and written with each column of the narrowest type that holds all its values exactly."""

from __future__ import annotations

import datetime as dt
import pickle
import tempfile
from decimal import Decimal
from typing import TYPE_CHECKING, Any, cast

from msgspec import Struct, field

from fieldstick.data.arrow_columns import ArrowColumn, ArrowRows, arrow_rows
from fieldstick.data.coding import without_escapes
from fieldstick.data.columnar import as_file, entries_of
from fieldstick.data.extras import load_beside, needed, needed_later
from fieldstick.data.rows import RowTable, Sink, TableSink, first_line, text_of, told_apart
from fieldstick.errors import UsageError
from fieldstick.files import PartFile

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.data.batch import Entry
    from fieldstick.data.compression import Stream
    from fieldstick.data.placed import PlacedRows
    from fieldstick.data.rows import Column, Row
    from fieldstick.data.source import Source

ROWS_AT_A_TIME = 4096
_ROWS = 50_000
"""Rows of a row group."""

_WIDEST = 76
"""Digits of the widest decimal that Arrow has (decimal256)."""


def entries(source: Source, stream: Stream) -> Iterator[Entry]:
    """Yield the rows of a source that is a Parquet file."""
    with as_file(source, stream) as path:
        yield from entries_of(source, parquet_table(source.name, path))


def parquet_table(name: str, path: str) -> RowTable:
    """Open a Parquet file; rows are counted from 1. A value that Python has not is given as text."""
    parquet = needed("pyarrow.parquet", "a Parquet file")
    try:
        file = parquet.ParquetFile(path)
        columns = list(file.schema_arrow.names)
    except Exception as error:  # what a file that is no Parquet raises is nowhere listed
        raise UsageError(f"{name}: not a Parquet file that can be read: {first_line(error)}") from None

    def rows() -> Iterator[tuple[int, tuple[Any, ...]]]:
        number = 0
        try:
            for batch in file.iter_batches(ROWS_AT_A_TIME):
                for cells in zip(*map(_values, batch.columns), strict=True):
                    number += 1
                    yield number, cells
        except Exception as error:  # as above: of damaged pages
            raise UsageError(f"{name}: damaged after row {number}: {first_line(error)}") from None

    return RowTable(columns, rows())


def _values(column: Any) -> list[Any]:
    """Return the values of a column; nanoseconds, days beyond the year 9999 and broken text are given as text."""
    try:
        return cast("list[Any]", column.to_pylist())
    except Exception:  # what a value that does not fit raises is nowhere listed
        return [_value(each) for each in column]


def _value(scalar: Any) -> Any:
    arrow = needed("pyarrow", "a Parquet file")
    try:
        return scalar.as_py()
    except Exception:  # as above
        try:
            found = scalar.cast(arrow.binary() if arrow.types.is_string(scalar.type) else arrow.string()).as_py()
        except Exception:  # as above: what Arrow itself can only show
            found = str(scalar)
        return found.decode("utf-8", "surrogateescape") if isinstance(found, bytes) else found


class _Extent(Struct):
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


class ParquetSink(Sink):
    """One table; its rows wait in a temporary file until the types of its columns are known."""

    def __init__(self, path: str) -> None:
        needed_later("pyarrow.parquet", "a Parquet file")
        self._part = PartFile(path)
        self._table: _ParquetTable | None = None

    def table(self, name: str, columns: Sequence[Column]) -> TableSink:
        """See `Sink.table`."""
        self._table = _ParquetTable(columns)
        return self._table

    def complete(self) -> list[PartFile]:
        """See `Sink.complete`."""
        try:
            if self._table is not None:
                self._table.store(self._part.stream)
        except OSError as error:
            self._part.failed(error)
        return [self._part]

    def abandon(self) -> None:
        """See `Sink.abandon`."""
        self._part.abandon()


class _ParquetTable(TableSink):
    def __init__(self, columns: Sequence[Column]) -> None:
        self._columns = columns
        self._extents = [_Extent() for _ in columns]
        self._waiting = tempfile.TemporaryFile()  # noqa: SIM115
        self._is_begun = False

    def encode(self, rows: list[Row]) -> list[Row]:
        """See `TableSink.encode`."""
        return rows

    @property
    def takes_placed(self) -> bool:
        """See `TableSink.takes_placed`."""
        return all(column.type in _HELD for column in self._columns)

    def encode_placed(self, placed: PlacedRows) -> ArrowRows | None:
        """See `TableSink.encode_placed`."""
        return arrow_rows(placed, [column.type for column in self._columns])

    def write(self, payload: list[Row] | ArrowRows) -> None:
        """See `TableSink.write`."""
        if not self._is_begun:
            self._is_begun = True
            load_beside("pyarrow.parquet")
        if isinstance(payload, ArrowRows):
            for made, extent in zip(payload.columns, self._extents, strict=True):
                extent.merge_column(made)
        else:
            for row in payload:
                for value, extent, column in zip(row, self._extents, self._columns, strict=True):
                    if value is not None and (column.type == "mixed" or not isinstance(value, str)):
                        extent.merge(value)
        if payload.count if isinstance(payload, ArrowRows) else payload:
            try:
                pickle.dump(payload, self._waiting, pickle.HIGHEST_PROTOCOL)
            except OSError as error:
                raise UsageError(f"the temporary file cannot be written: {error.strerror or error}") from None

    def store(self, stream: Any) -> None:
        """Write all rows as Parquet."""
        arrow, parquet = needed("pyarrow", "a Parquet file"), needed("pyarrow.parquet", "a Parquet file")
        types = [
            _type(arrow, extent.kind(column.type), extent)
            for column, extent in zip(self._columns, self._extents, strict=True)
        ]
        names = told_apart([without_escapes(column.name) for column in self._columns])
        schema = arrow.schema(list(zip(names, types, strict=True)))
        self._waiting.seek(0)
        with parquet.ParquetWriter(stream, schema) as writer:
            group: list[Any] = []
            while True:
                try:
                    payload = pickle.load(self._waiting)
                except EOFError:
                    break
                group.append(_batch(arrow, schema, payload))
                if sum(map(len, group)) >= _ROWS:
                    writer.write_table(arrow.concat_tables(group))
                    group = []
            if group:
                writer.write_table(arrow.concat_tables(group))
        self._waiting.close()


def _batch(arrow: Any, schema: Any, rows: list[Row] | ArrowRows) -> Any:
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


def _type(arrow: Any, kind: str, extent: _Extent) -> Any:
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
