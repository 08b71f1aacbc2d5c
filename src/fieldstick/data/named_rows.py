"""Rows as cells by name, whose columns are known only when all rows were seen."""

from __future__ import annotations

from types import MappingProxyType
from typing import TYPE_CHECKING, Any

from fieldstick.data.rows import Column
from fieldstick.data.spool import Spool

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence
    from collections.abc import Set as AbstractSet

    from fieldstick.data.rows import Sink

ROWS_AT_A_TIME = 1000


class NamedRows:
    """Takes rows by name, and writes them as one table of all the columns that any of them has.

    The rows wait in a temporary file, since the columns of JSON are known when the last row was read. A value keeps
    its type; where a row has no such column there is none. `beside` are columns of cells that stand beside each row's
    own; one whose name the rows have is called otherwise.
    """

    def __init__(self, sink: Sink, table: str, beside: Sequence[str] = ()) -> None:
        self._sink, self._table, self._beside = sink, table, tuple(beside)
        self._columns: dict[str, None] = {}
        self._seen: AbstractSet[str] = frozenset()
        self._rows: list[tuple[Mapping[str, Any], Mapping[str, Any]]] = []
        self._spool = Spool()

    def expect(self, columns: Sequence[str]) -> None:
        """Add columns that are there whether or not a row has a value in them."""
        self._columns.update(dict.fromkeys(columns))

    def add(self, row: Mapping[str, Any], beside: Mapping[str, Any] = MappingProxyType({})) -> None:
        """Take a row, and what stands beside it. Raises UsageError when there is no room for it."""
        if row.keys() != self._seen:
            self._columns.update(dict.fromkeys(row))
            self._seen = row.keys()
        self._rows.append((row, beside))
        if len(self._rows) >= ROWS_AT_A_TIME:
            self._put_aside()

    def _put_aside(self) -> None:
        self._spool.put([(_plain(row), _plain(beside)) for row, beside in self._rows])
        self._rows.clear()

    def finish(self) -> None:
        """Write the table; the sink is left to whoever opened it. Raises UsageError when it cannot be written."""
        self._put_aside()
        names = [*self._columns, *(f"{each} found" if each in self._columns else each for each in self._beside)]
        if not names:
            return
        table = self._sink.table(self._table, [Column(name, "mixed") for name in names])
        for rows in self._spool:
            cells = [
                [*map(row.get, self._columns), *(beside.get(name) for name in self._beside)] for row, beside in rows
            ]
            table.write(table.encode(cells))


def _plain(cells: Mapping[str, Any]) -> dict[str, Any]:
    return cells if type(cells) is dict else dict(cells)
