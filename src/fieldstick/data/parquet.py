"""Parquet: rows read, and written with each column of the narrowest type that holds all its values exactly."""

from __future__ import annotations

import pickle
import tempfile
from typing import TYPE_CHECKING, Any, cast

from fieldstick.data.arrow_columns import ArrowRows
from fieldstick.data.arrow_tables import ArrowShape, arrow_table
from fieldstick.data.columnar import as_file, entries_of
from fieldstick.data.extras import load_beside, needed, needed_later
from fieldstick.data.rows import RowTable, Sink, TableSink, first_line
from fieldstick.data.storage import part_file
from fieldstick.errors import UsageError

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.data.batch import Entry
    from fieldstick.data.compression import Stream
    from fieldstick.data.placed import PlacedRows
    from fieldstick.data.rows import Column, Row
    from fieldstick.data.source import Source
    from fieldstick.files import PartFile

ROWS_AT_A_TIME = 4096
_ROWS = 50_000
"""Rows of a row group."""


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


class ParquetSink(Sink):
    """One table; its rows wait in a temporary file until the types of its columns are known."""

    def __init__(self, path: str) -> None:
        needed_later("pyarrow.parquet", "a Parquet file")
        self._part = part_file(path)
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
        self._shape = ArrowShape(columns)
        self._waiting = tempfile.TemporaryFile()  # noqa: SIM115
        self._is_begun = False

    def __getstate__(self) -> dict[str, Any]:
        # A copy encodes, and writes to nothing.
        return self.__dict__ | {"_waiting": None}

    def encode(self, rows: list[Row]) -> list[Row]:
        """See `TableSink.encode`."""
        return rows

    @property
    def takes_placed(self) -> bool:
        """See `TableSink.takes_placed`."""
        return self._shape.takes_placed

    def encode_placed(self, placed: PlacedRows) -> ArrowRows | None:
        """See `TableSink.encode_placed`."""
        return self._shape.placed(placed)

    def write(self, payload: list[Row] | ArrowRows) -> None:
        """See `TableSink.write`."""
        if not self._is_begun:
            self._is_begun = True
            load_beside("pyarrow.parquet")
        self._shape.learn(payload)
        if payload.count if isinstance(payload, ArrowRows) else payload:
            try:
                pickle.dump(payload, self._waiting, pickle.HIGHEST_PROTOCOL)
            except OSError as error:
                raise UsageError(f"the temporary file cannot be written: {error.strerror or error}") from None

    def store(self, stream: Any) -> None:
        """Write all rows as Parquet."""
        arrow, parquet = needed("pyarrow", "a Parquet file"), needed("pyarrow.parquet", "a Parquet file")
        schema = self._shape.schema(arrow)
        self._waiting.seek(0)
        with parquet.ParquetWriter(stream, schema) as writer:
            group: list[Any] = []
            while True:
                try:
                    payload = pickle.load(self._waiting)
                except EOFError:
                    break
                group.append(arrow_table(arrow, schema, payload))
                if sum(map(len, group)) >= _ROWS:
                    writer.write_table(arrow.concat_tables(group))
                    group = []
            if group:
                writer.write_table(arrow.concat_tables(group))
        self._waiting.close()
