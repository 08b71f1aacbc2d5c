"""SQLite databases: rows of a table or query read, and written as tables beside those that are there already."""

from __future__ import annotations

import contextlib
import os
import sqlite3
from decimal import Decimal
from pathlib import Path
from typing import TYPE_CHECKING, Any, cast

from fieldstick.data.coding import without_escapes
from fieldstick.data.columnar import as_file, entries_of
from fieldstick.data.lines import MOST_BYTES
from fieldstick.data.rows import RowTable, Sink, TableSink, text_of, told_apart
from fieldstick.data.storage import is_url
from fieldstick.errors import UsageError, hint
from fieldstick.files import PartFile

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence

    from fieldstick.data.batch import Entry
    from fieldstick.data.compression import Stream
    from fieldstick.data.rows import Column, Row
    from fieldstick.data.source import Source

_MAGIC = b"SQLite format 3\x00"
_TYPES = {"integer": "INTEGER", "boolean": "INTEGER", "decimal": "NUMERIC"}
_LARGEST = 2**63
_MOST_DIGITS = 15
"""Digits that a floating-point number keeps whatever they are."""

_STEPS, _MOST_TURNS = 1_000_000, 2_000
"""Steps of SQLite's own machine after which it is asked whether to go on, and how often it is for one row."""

_MOST_PASSED_OVER = 100
"""Rows that are passed over before a table is given up: finding the one after it takes going past all before."""


def entries(source: Source, stream: Stream) -> Iterator[Entry]:
    """Yield the rows of a source that is a SQLite database."""
    options = source.read_options
    with as_file(source, stream) as path:
        yield from entries_of(source, database_table(source, path, options.table, options.query))


def database_table(source: Source, path: str, table: str | None, query: str | None) -> RowTable:
    """Open a table or query of a SQLite database, which is only read; rows are counted from 1."""
    name = source.name
    base = _Database(path, source.read_options.longest_row)
    try:
        tables = [each for (each,) in base.execute("select name from sqlite_master where type in ('table', 'view')")]
        if query is None:
            query = f"select * from {_quoted(_chosen(name, tables, table))}"
        cursor = base.execute(query)
    except sqlite3.Error as error:
        raise UsageError(f"{name}: {error}") from None
    if cursor.description is None:
        raise UsageError(f"{name}: the query gives no rows")

    def rows() -> Iterator[tuple[int, tuple[Any, ...]]]:
        nonlocal cursor
        number = 0
        with contextlib.closing(base.connection):
            while True:
                try:
                    for cells in base.rows_of(cursor):
                        number += 1
                        yield number, cells
                    return
                except sqlite3.DataError as error:
                    if source.notes.overlong.total >= _MOST_PASSED_OVER:
                        raise UsageError(f"{name}: after row {number}: {error}") from None
                    # A value is longer than may be held: the row is passed over without being read.
                    number += 1
                    source.notes.overlong.note(number)
                    cursor = base.execute(f"select * from ({query}) limit -1 offset {number}")
                except sqlite3.Error as error:
                    raise UsageError(f"{name}: after row {number}: {error}") from None

    return RowTable([each[0] for each in cursor.description], rows())


class _Database:
    """A database that is only read, whose statements can be interrupted and have a bound on their steps."""

    def __init__(self, path: str, longest: int | None) -> None:
        self.connection = sqlite3.connect(f"{Path(path).resolve().as_uri()}?mode=ro", uri=True)
        self.connection.text_factory = lambda raw: raw.decode("utf-8", "surrogateescape")
        if longest is not None:
            self.connection.setlimit(sqlite3.SQLITE_LIMIT_LENGTH, longest * MOST_BYTES)
        self.connection.set_progress_handler(self._goes_on, _STEPS)
        self._turns = 0
        self._raised: BaseException | None = None

    def _goes_on(self) -> bool:
        """Tell whether to stop; what a signal raises while a statement is at work comes up here, and is kept."""
        try:
            self._turns += 1
            return self._turns > _MOST_TURNS
        except BaseException as raised:
            self._raised = raised
            return True

    def execute(self, statement: str) -> sqlite3.Cursor:
        """Execute a statement. Raises sqlite3.Error."""
        return cast("sqlite3.Cursor", self._stepped(lambda: self.connection.execute(statement)))

    def rows_of(self, cursor: sqlite3.Cursor) -> Iterator[tuple[Any, ...]]:
        """Yield the rows of a statement. Raises sqlite3.Error."""
        while (row := self._stepped(lambda: next(cursor, None))) is not None:
            yield row

    def _stepped(self, do: Callable[[], Any]) -> Any:
        self._turns = 0
        try:
            return do()
        except sqlite3.OperationalError as error:
            if self._raised is not None:
                raise self._raised from None
            if self._turns > _MOST_TURNS:
                steps = _STEPS * _MOST_TURNS
                raise sqlite3.OperationalError(f"no further row within {steps:,} steps of the query") from None
            if str(error) == "interrupted":
                raise KeyboardInterrupt from None
            raise


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
    """Tables in a database, all of them or none; one that is there already under the same name is replaced, or with
    `append` added to.

    A database that is there is written to in one transaction, since others may have it open. A new one is made beside
    its final name.
    """

    several_tables = True

    def __init__(self, path: str, *, append: bool = False) -> None:
        self._path, self._append = path, append
        if is_url(path):
            raise UsageError(f"{path}: a SQLite database is written where files are, not to a store")
        self._part = None if os.path.isfile(path) and os.path.getsize(path) else PartFile(path)
        self._base: sqlite3.Connection | None = None
        self._tables: list[_DatabaseTable] = []
        try:
            if self._part is None:
                _check_is_database(path)
            self._base = sqlite3.connect(path if self._part is None else self._part.part, isolation_level=None)
            if self._part is not None:
                self._base.execute("pragma journal_mode = off")
                self._base.execute("pragma synchronous = off")
            self._base.execute("begin immediate")
        except (OSError, sqlite3.Error) as error:
            self.abandon()
            raise UsageError(f"{path}: cannot be written as a SQLite database: {error}") from None

    def table(self, name: str, columns: Sequence[Column]) -> TableSink:
        """See `Sink.table`."""
        names = told_apart([without_escapes(column.name) for column in columns], fold=True)
        known = self._known_columns(name) if self._append else {}
        for each in names:
            if known and each not in known:
                raise UsageError(f"{self._path}: the table '{name}' has no column '{each}'{hint(each, known)}")
        typed = [(each, column.type) for each, column in zip(names, columns, strict=True)]
        table = _DatabaseTable(self, name, typed, is_there=bool(known))
        self._tables.append(table)
        return table

    def _known_columns(self, name: str) -> list[str]:
        """Return the columns of a table; none where there is no such table."""
        assert self._base is not None
        return [row[1] for row in self._base.execute(f"pragma table_info({_quoted(name)})")]

    def execute(self, statement: str, rows: list[tuple[Any, ...]] | None = None) -> None:
        """Execute a statement, for each of the rows if there are any. Raises UsageError."""
        assert self._base is not None
        try:
            if rows is None:
                self._base.execute(statement)
            else:
                self._base.executemany(statement, rows)
        except (sqlite3.Error, OverflowError) as error:
            self.abandon()
            raise UsageError(f"{self._path}: cannot be written: {error}") from None

    def complete(self) -> list[PartFile]:
        """See `Sink.complete`; a database that was there already is then committed."""
        self.execute("commit")
        if self._base is not None:
            self._base.close()
        return [self._part] if self._part is not None else []

    def abandon(self) -> None:
        """See `Sink.abandon`."""
        if self._base is not None:
            with contextlib.suppress(sqlite3.Error):
                self._base.rollback()
            self._base.close()
        if self._part is not None:
            self._part.abandon()


def _check_is_database(path: str) -> None:
    with open(path, "rb") as stream:
        if not stream.read(len(_MAGIC)) == _MAGIC:
            raise UsageError(f"{path} is no SQLite database; name another file")


class _DatabaseTable(TableSink):
    """A table whose columns have a type as long as all their values fit it."""

    def __init__(
        self, sink: DatabaseSink, name: str, columns: list[tuple[str, str]], *, is_there: bool = False
    ) -> None:
        self._sink, self._name = sink, name
        self._columns = [(each, _TYPES.get(kind, "" if kind == "mixed" else "TEXT")) for each, kind in columns]
        listed = ", ".join(_quoted(each) for each, _ in columns)
        self._statement = f"insert into {_quoted(name)} ({listed}) values ({', '.join('?' * len(columns))})"
        self._is_there = is_there
        if not is_there:
            self._sink.execute(f"drop table if exists {_quoted(name)}")
            self._create(name)

    def _create(self, name: str) -> None:
        listed = ", ".join(f"{_quoted(each)} {kind}" for each, kind in self._columns)
        self._sink.execute(f"create table {_quoted(name)} ({listed})")

    def __getstate__(self) -> dict[str, Any]:
        # A copy encodes, and writes to nothing.
        return self.__dict__ | {"_sink": None}

    def encode(self, rows: list[Row]) -> list[tuple[Any, ...]]:
        """See `TableSink.encode`."""
        return [tuple([_stored(value) for value in row]) for row in rows]

    def write(self, payload: list[tuple[Any, ...]]) -> None:
        """See `TableSink.write`; a column of numbers that meets one which SQLite has not loses its type."""
        numeric = [index for index, (_, kind) in enumerate(self._columns) if kind not in ("TEXT", "")]
        wider = [index for index in numeric if any(isinstance(row[index], str) for row in payload)]
        if wider and not self._is_there:
            self._widen(wider)
        self._sink.execute(self._statement, payload)

    def _widen(self, columns: list[int]) -> None:
        """Let columns hold any value as it is; those that are there stay."""
        for index in columns:
            self._columns[index] = (self._columns[index][0], "")
        before = f"{self._name} before"
        for statement in (
            f"drop table if exists temp.{_quoted(before)}",
            f"create temp table {_quoted(before)} as select * from main.{_quoted(self._name)}",
            f"drop table main.{_quoted(self._name)}",
        ):
            self._sink.execute(statement)
        self._create(self._name)
        self._sink.execute(f"insert into main.{_quoted(self._name)} select * from temp.{_quoted(before)}")
        self._sink.execute(f"drop table temp.{_quoted(before)}")


def _stored(value: Any) -> Any:
    """Return what SQLite stores: a number where it has that very one, else all its digits as text."""
    if value is None or isinstance(value, bool | float | bytes):
        return value
    if isinstance(value, int):
        return value if -_LARGEST <= value < _LARGEST else str(value)
    if isinstance(value, Decimal):
        near = float(value)
        return near if len(value.as_tuple().digits) <= _MOST_DIGITS and Decimal(repr(near)) == value else str(value)
    return without_escapes(value if isinstance(value, str) else text_of(value) or "")


def _quoted(name: str) -> str:
    return '"' + name.replace('"', '""') + '"'
