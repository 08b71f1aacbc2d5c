"""A sink that takes so many rows of each table and no more."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.data.rows import Sink, TableSink

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.data.placed import PlacedRows
    from fieldstick.data.rows import Column, Row
    from fieldstick.files import PartFile


class Enough(Exception):
    """All the rows that are wanted are there: nothing more need be read."""


class LimitedSink(Sink):
    """Passes rows on to another sink, up to so many of each table; what is encoded must be written in that order."""

    def __init__(self, sink: Sink, limit: int) -> None:
        self._sink, self._limit = sink, limit
        self._tables: list[_LimitedTable] = []
        self.several_tables = sink.several_tables

    def table(self, name: str, columns: Sequence[Column]) -> TableSink:
        """See `Sink.table`."""
        self._tables.append(_LimitedTable(self, self._sink.table(name, columns), self._limit))
        return self._tables[-1]

    @property
    def is_full(self) -> bool:
        """Whether no table takes a row more."""
        return all(table.room == 0 for table in self._tables)

    def complete(self) -> list[PartFile]:
        """See `Sink.complete`."""
        return self._sink.complete()

    def abandon(self) -> None:
        """See `Sink.abandon`."""
        self._sink.abandon()


class _LimitedTable(TableSink):
    def __init__(self, sink: LimitedSink, table: TableSink, limit: int) -> None:
        self._sink, self._table = sink, table
        self.room: int = limit

    def encode(self, rows: list[Row]) -> Any:
        """See `TableSink.encode`."""
        kept = rows[: self.room]
        self.room -= len(kept)
        return self._table.encode(kept)

    @property
    def takes_placed(self) -> bool:
        """See `TableSink.takes_placed`."""
        return self._table.takes_placed

    def encode_placed(self, placed: PlacedRows) -> Any:
        """See `TableSink.encode_placed`."""
        if placed.left > self.room:
            refused = placed.refused or bytearray(placed.count)
            kept = 0
            for row, is_refused in enumerate(bytes(refused)):
                kept += not is_refused
                if kept > self.room:
                    refused[row] = 1
            placed.refused = refused
        made = self._table.encode_placed(placed)
        if made is not None:
            self.room -= placed.left
        return made

    def write(self, payload: Any) -> None:
        """See `TableSink.write`. Raises Enough when the last row that is wanted is written."""
        self._table.write(payload)
        if self._sink.is_full:
            raise Enough
