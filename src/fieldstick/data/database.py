"""Rows written to a database that has a URL, through SQLAlchemy: each table typed, all of them in one transaction.

The rows wait in a temporary file until all their types are known.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.data.arrow_tables import ArrowShape
from fieldstick.data.coding import without_escapes
from fieldstick.data.extras import needed
from fieldstick.data.rows import Sink, TableSink, first_line, text_of, told_apart
from fieldstick.data.spool import Spool
from fieldstick.data.storage import without_secret
from fieldstick.errors import UsageError, hint
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.data.arrow_tables import Extent
    from fieldstick.data.rows import Column, Row
    from fieldstick.files import PartFile

_DRIVEN = compiled_later(r"^postgresql://")

WHAT = "writing to a database"
AT_ONCE = 5000
"""Rows that are handed over together."""

_MOST_DIGITS = 1000
"""Digits of a number that PostgreSQL has at the most where its precision is said."""


class ServerSink(Sink):
    """Tables in a database; one that is there already is added to with `append`, and else refused.

    `URL#NAME` names the table; without that it is called as in any other form.
    """

    several_tables = True

    def __init__(self, url: str, *, append: bool = False) -> None:
        self._sql = needed("sqlalchemy", WHAT, "database")
        address, _, self._name = url.partition("#")
        self._shown, self._append = without_secret(address), append
        self._tables: list[_ServerTable] = []
        try:
            self._engine = self._sql.create_engine(_DRIVEN.sub("postgresql+psycopg://", address))
            with self._engine.connect() as connection:
                self._known = set(self._sql.inspect(connection).get_table_names())
        except self._sql.exc.NoSuchModuleError as error:
            raise UsageError(f"{self._shown}: {first_line(error)}") from None
        except ImportError as error:
            raise UsageError(f"{self._shown}: a library for such a database is not installed: {error}") from None
        except Exception as error:  # what a driver raises is nowhere listed
            raise UsageError(f"{self._shown}: cannot be opened: {_words(error)}") from None

    def table(self, name: str, columns: Sequence[Column]) -> TableSink:
        """See `Sink.table`. Raises UsageError for a table that is there, not to be added to, or lacking a column."""
        if self._name:
            if self._tables:
                raise UsageError(f"#{self._name} names one table, and there are several; leave it out")
            name = self._name
        names = told_apart([without_escapes(column.name) for column in columns], fold=True)
        if name in self._known:
            self._check(name, names)
        self._tables.append(_ServerTable(name, names, columns))
        return self._tables[-1]

    def _check(self, name: str, columns: list[str]) -> None:
        if not self._append:
            raise UsageError(
                f"{self._shown} has a table '{name}' already; --append adds to it, or name another: URL#NAME"
            )
        known = [each["name"] for each in self._sql.inspect(self._engine).get_columns(name)]
        for each in columns:
            if each not in known:
                raise UsageError(f"{self._shown}: the table '{name}' has no column '{each}'{hint(each, known)}")

    def complete(self) -> list[PartFile]:
        """See `Sink.complete`; everything is then committed."""
        try:
            with self._engine.begin() as connection:
                for table in self._tables:
                    made = table.described(self._sql)
                    if table.name not in self._known:
                        made.create(connection)
                    for rows in table.rows(made):
                        connection.execute(made.insert(), rows)
        except Exception as error:  # as above
            raise UsageError(f"{self._shown}: cannot be written: {_words(error)}") from None
        finally:
            self._engine.dispose()
        return []

    def abandon(self) -> None:
        """See `Sink.abandon`."""
        self._engine.dispose()


class _ServerTable(TableSink):
    def __init__(self, name: str, names: list[str], columns: Sequence[Column]) -> None:
        self.name, self._names = name, names
        self._shape = ArrowShape(columns)
        self._spool = Spool()

    def __getstate__(self) -> dict[str, Any]:
        # A copy encodes, and writes to nothing.
        return self.__dict__ | {"_spool": None}

    def encode(self, rows: list[Row]) -> list[Row]:
        """See `TableSink.encode`."""
        return rows

    def write(self, payload: list[Row]) -> None:
        """See `TableSink.write`."""
        self._shape.learn(payload)
        self._spool.put(payload)

    def described(self, sql: Any) -> Any:
        """Return the table as SQLAlchemy has it."""
        kinds = [_type(sql, kind, extent) for kind, extent in self._shape.extents()]
        columns = [sql.Column(name, kind) for name, kind in zip(self._names, kinds, strict=True)]
        return sql.Table(self.name, sql.MetaData(), *columns)

    def rows(self, made: Any) -> Iterator[list[dict[str, Any]]]:
        """Yield the rows, some at a time, each by column."""
        is_text = [kind.type.python_type is str for kind in made.columns]
        waiting: list[dict[str, Any]] = []
        for payload in self._spool:
            for row in payload:
                cells = [_held(value, as_text) for value, as_text in zip(row, is_text, strict=True)]
                waiting.append(dict(zip(self._names, cells, strict=True)))
                if len(waiting) >= AT_ONCE:
                    yield waiting
                    waiting = []
        if waiting:
            yield waiting


def _held(value: Any, as_text: bool) -> Any:
    if value is None:
        return None
    if as_text or isinstance(value, str | list | dict):
        return without_escapes(value if isinstance(value, str) else text_of(value) or "")
    return value


def _type(sql: Any, kind: str, extent: Extent) -> Any:
    """Return the type of a column that holds all its values exactly."""
    if kind == "integer" and not extent.beyond_64_bits:
        return sql.BigInteger()
    if kind in ("integer", "decimal"):
        digits = extent.whole + extent.fraction
        return sql.Numeric(digits, extent.fraction) if digits <= _MOST_DIGITS else sql.Text()
    if kind == "timestamp" and not (extent.with_offset and extent.without_offset):
        return sql.DateTime(timezone=extent.with_offset)
    if kind == "time" and not extent.with_offset:
        return sql.Time()
    plain = {"date": sql.Date, "boolean": sql.Boolean, "float": sql.Double, "bytes": sql.LargeBinary}
    return plain.get(kind, sql.Text)()


def _words(error: BaseException) -> str:
    """Return what a driver says went wrong, no password in it."""
    told = getattr(error, "orig", None) or error
    return without_secret(first_line(told))
