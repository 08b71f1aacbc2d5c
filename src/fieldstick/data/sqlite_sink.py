"""Rows as tables of a SQLite database; other tables of a database that is there already are kept."""

from __future__ import annotations

import shutil
import sqlite3
from decimal import Decimal
from pathlib import Path
from typing import TYPE_CHECKING, Any

from fieldstick.data.delimited import told_apart
from fieldstick.data.parquet_sink import without_escapes
from fieldstick.data.sink import Sink, TableSink
from fieldstick.errors import UsageError
from fieldstick.files import PartFile
from fieldstick.suites.fieldtypes import FieldSpec

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.data.rowtext import Column, Row

_TYPES = {"integer": "INTEGER", "boolean": "INTEGER", "decimal": "NUMERIC"}
_LARGEST = 2**63


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

    def __getstate__(self) -> dict[str, Any]:
        return {}


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
