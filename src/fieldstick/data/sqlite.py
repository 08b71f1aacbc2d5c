"""SQLite databases: rows of a table or query read, and written as tables beside those that are there already."""

from __future__ import annotations

import contextlib
import shutil
import sqlite3
from decimal import Decimal
from pathlib import Path
from typing import TYPE_CHECKING, Any

from fieldstick.data.columnar import as_file, entries_of
from fieldstick.data.rows import RowTable, Sink, TableSink, told_apart, without_escapes
from fieldstick.errors import UsageError, hint
from fieldstick.files import PartFile
from fieldstick.suites.fieldtypes import FieldSpec

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.data.batch import Entry
    from fieldstick.data.compression import Stream
    from fieldstick.data.rows import Column, Row
    from fieldstick.data.source import Source

_TYPES = {"integer": "INTEGER", "boolean": "INTEGER", "decimal": "NUMERIC"}
_LARGEST = 2**63


def entries(source: Source, stream: Stream) -> Iterator[Entry]:
    """Yield the rows of a source that is a SQLite database."""
    options = source.read_options
    with as_file(source, stream) as path:
        yield from entries_of(source, database_table(source.name, path, options.table, options.query))


def database_table(name: str, path: str, table: str | None, query: str | None) -> RowTable:
    """Open a table or query of a SQLite database, which is only read; rows are counted from 1."""
    try:
        base = sqlite3.connect(f"{Path(path).resolve().as_uri()}?mode=ro", uri=True)
        base.text_factory = lambda raw: raw.decode("utf-8", "surrogateescape")
        tables = [each for (each,) in base.execute("select name from sqlite_master where type in ('table', 'view')")]
        if query is None:
            query = f"select * from {_quoted(_chosen(name, tables, table))}"
        cursor = base.execute(query)
    except sqlite3.Error as error:
        raise UsageError(f"{name}: {error}") from None
    if cursor.description is None:
        raise UsageError(f"{name}: the query gives no rows")

    def rows() -> Iterator[tuple[int, tuple[Any, ...]]]:
        number = 0
        with contextlib.closing(base):
            try:
                for number, cells in enumerate(cursor, 1):
                    yield number, cells
            except sqlite3.Error as error:
                raise UsageError(f"{name}: after row {number}: {error}") from None

    return RowTable([each[0] for each in cursor.description], rows())


def _chosen(name: str, tables: list[str], table: str | None) -> str:
    if table is None:
        if len(tables) == 1:
            return tables[0]
        listed = ", ".join(sorted(tables)) or "none"
        raise UsageError(f"{name}: say which table with --table, or give a --query; its tables: {listed}")
    if table not in tables:
        raise UsageError(f"{name} has no table '{table}'{hint(table, tables)}")
    return table


class DatabaseSink(Sink):
    """A database made beside the final name; a table that is there already under the same name is replaced."""

    several_tables = True

    def __init__(self, path: str) -> None:
        self._part = PartFile(path)
        self._path = path
        try:
            if Path(path).is_file():
                shutil.copyfile(path, self._part.part)
            self._base = sqlite3.connect(self._part.part, isolation_level=None)
            self._base.execute("pragma journal_mode = off")
            self._base.execute("pragma synchronous = off")
            self._base.execute("begin")
        except (OSError, sqlite3.Error) as error:
            self._part.abandon()
            raise UsageError(f"{path}: cannot be written as a SQLite database: {error}") from None

    def table(self, name: str, columns: Sequence[Column]) -> TableSink:
        """See `Sink.table`."""
        names = told_apart([column.name for column in columns], fold=True)
        listed = ", ".join(
            f"{_quoted(each)} {_TYPES.get(column.type, 'TEXT')}" for each, column in zip(names, columns, strict=True)
        )
        table = _DatabaseTable(self, name, len(names))
        self.execute(f"drop table if exists {_quoted(name)}")
        self.execute(f"create table {_quoted(name)} ({listed})")
        return table

    def execute(self, statement: str, rows: list[tuple[Any, ...]] | None = None) -> None:
        """Execute a statement, for each of the rows if there are any. Raises UsageError."""
        try:
            if rows is None:
                self._base.execute(statement)
            else:
                self._base.executemany(statement, rows)
        except (sqlite3.Error, OverflowError) as error:
            self.abandon()
            raise UsageError(f"{self._path}: cannot be written: {error}") from None

    def finish(self) -> None:
        """See `Sink.finish`."""
        self.execute("commit")
        self._base.close()
        self._part.finish()

    def abandon(self) -> None:
        """See `Sink.abandon`."""
        self._base.close()
        self._part.abandon()


class _DatabaseTable(TableSink):
    def __init__(self, sink: DatabaseSink, name: str, width: int) -> None:
        self._sink = sink
        self._statement = f"insert into {_quoted(name)} values ({', '.join('?' * width)})"

    def encode(self, rows: list[Row], origin: str | None = None) -> list[tuple[Any, ...]]:
        """See `TableSink.encode`."""
        return [tuple([_stored(value) for value in row]) for row in rows]

    def write(self, payload: list[tuple[Any, ...]]) -> None:
        """See `TableSink.write`."""
        self._sink.execute(self._statement, payload)


def _stored(value: Any) -> Any:
    """Return what SQLite stores: a decimal as text, which a NUMERIC column turns into a number if none is lost."""
    if value is None or isinstance(value, bool):
        return value
    if isinstance(value, int):
        return value if -_LARGEST <= value < _LARGEST else str(value)
    if isinstance(value, Decimal):
        return str(value)
    return without_escapes(value if isinstance(value, str) else FieldSpec.plain(value))


def _quoted(name: str) -> str:
    return '"' + name.replace('"', '""') + '"'
