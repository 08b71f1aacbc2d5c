"""Parquet: rows read, and written with each column of the narrowest type that holds all its values exactly."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, cast

from fieldstick.data.arrow_spool import ArrowSpool
from fieldstick.data.columnar import as_file, entries_of
from fieldstick.data.extras import needed, needed_later
from fieldstick.data.given_texts import arrow_blocks
from fieldstick.data.parquet_folders import folder_dataset
from fieldstick.data.rows import RowTable, Sink, TableSink, first_line
from fieldstick.data.storage import part_file
from fieldstick.errors import UsageError

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.data.batch import Batch, Entry
    from fieldstick.data.compression import Stream
    from fieldstick.data.rows import Column
    from fieldstick.data.source import Source
    from fieldstick.files import PartFile

ROWS_AT_A_TIME = 4096
_ROWS = 50_000
"""Rows of a row group."""


def entries(source: Source, stream: Stream) -> Iterator[Entry]:
    """Yield the rows of a source that is a Parquet file."""
    with as_file(source, stream) as path:
        yield from entries_of(source, _ParquetRows(source, path).table())


def blocks(source: Source, stream: Stream) -> Iterator[Batch | Iterator[Entry]]:
    """Yield the texts of a column as they are stored; rows singly where it holds something else than text."""
    column, longest = source.read_options.column, source.read_options.longest
    assert column is not None
    with as_file(source, stream) as path:
        opened = _ParquetRows(source, path)
        source.columns = opened.columns
        source.check_columns(opened.columns)
        arrow = needed("pyarrow", "a Parquet file")
        kind = opened.schema.field(column).type
        if not (arrow.types.is_string(kind) or arrow.types.is_large_string(kind)) or longest is None:
            yield entries_of(source, opened.table())
            return
        for batch in arrow_blocks(opened.texts_of(column)):
            assert batch.stored is not None
            for number in sorted(set(batch.every_number).difference(batch.numbers)):
                batch.notes.missing.note(number)
            overlong = (
                {index for index, each in enumerate(batch.texts) if len(each) > longest}
                if (len(batch.stored.data) > longest)
                else set()
            )
            for index in sorted(overlong):
                batch.notes.overlong.note(batch.numbers[index])
            yield batch.without(overlong) if overlong else batch


class _ParquetRows:
    """A Parquet file, or a folder of them, whose rows are counted from 1."""

    def __init__(self, source: Source, path: str) -> None:
        self._name = source.name
        parquet = needed("pyarrow.parquet", "a Parquet file")
        try:
            if source.is_folder:
                self._dataset, self._file = folder_dataset(source.name, path), None
                self.schema = self._dataset.schema
            else:
                self._dataset, self._file = None, parquet.ParquetFile(path)
                self.schema = self._file.schema_arrow
        except UsageError:
            raise
        except Exception as error:  # what a file that is no Parquet raises is nowhere listed
            raise UsageError(f"{self._name}: not a Parquet file that can be read: {first_line(error)}") from None
        self.columns = list(self.schema.names)
        self._number = 0

    def _batches(self, columns: list[str] | None = None) -> Iterator[Any]:
        try:
            if self._file is not None:
                going = self._file.iter_batches(ROWS_AT_A_TIME, columns=columns)
            else:
                going = self._dataset.to_batches(columns=columns, batch_size=ROWS_AT_A_TIME, use_threads=False)
            for batch in going:
                yield batch
                self._number += len(batch)
        except Exception as error:  # as above: of damaged pages
            raise UsageError(f"{self._name}: damaged after row {self._number}: {first_line(error)}") from None

    def texts_of(self, column: str) -> Iterator[Any]:
        """Yield the cells of a column as Arrow arrays of type string."""
        arrow = needed("pyarrow", "a Parquet file")
        for batch in self._batches([column]):
            yield batch.column(0).cast(arrow.string())

    def table(self) -> RowTable:
        """Return all rows. A value that Python has not is given as text."""

        def rows() -> Iterator[tuple[int, tuple[Any, ...]]]:
            number = 0
            for batch in self._batches():
                for cells in zip(*map(_values, batch.columns), strict=True):
                    number += 1
                    yield number, cells

        return RowTable(self.columns, rows())


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
        self._table = _ParquetTable(columns, "pyarrow.parquet")
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


class _ParquetTable(ArrowSpool):
    def store(self, stream: Any) -> None:
        """Write all rows as Parquet."""
        arrow, parquet = needed("pyarrow", "a Parquet file"), needed("pyarrow.parquet", "a Parquet file")
        schema = self.shape.schema(arrow)
        with parquet.ParquetWriter(stream, schema) as writer:
            group: list[Any] = []
            for table in self.tables(arrow, schema):
                group.append(table)
                if sum(map(len, group)) >= _ROWS:
                    writer.write_table(arrow.concat_tables(group))
                    group = []
            if group:
                writer.write_table(arrow.concat_tables(group))
