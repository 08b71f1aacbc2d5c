"""Rows that wait in a temporary file until the Arrow types of their columns are known."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.data.arrow_columns import ArrowRows
from fieldstick.data.arrow_tables import ArrowShape, arrow_table
from fieldstick.data.extras import load_beside
from fieldstick.data.rows import TableSink
from fieldstick.data.spool import Spool

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.data.placed import PlacedRows
    from fieldstick.data.rows import Column, Row


class ArrowSpool(TableSink):
    """Takes rows, and gives them as Arrow tables of one schema when all are there. A copy encodes, and takes none.

    The library called `module` is loaded beside the work that makes the rows.
    """

    def __init__(self, columns: Sequence[Column], module: str) -> None:
        self.shape = ArrowShape(columns)
        self._spool = Spool()
        self._module: str | None = module

    def __getstate__(self) -> dict[str, Any]:
        return self.__dict__ | {"_spool": None}

    def encode(self, rows: list[Row]) -> list[Row]:
        """See `TableSink.encode`."""
        return rows

    @property
    def takes_placed(self) -> bool:
        """See `TableSink.takes_placed`."""
        return self.shape.takes_placed

    def encode_placed(self, placed: PlacedRows) -> ArrowRows | None:
        """See `TableSink.encode_placed`."""
        return self.shape.placed(placed)

    def write(self, payload: list[Row] | ArrowRows) -> None:
        """See `TableSink.write`."""
        if self._module is not None:
            load_beside(self._module)
            self._module = None
        self.shape.learn(payload)
        if isinstance(payload, ArrowRows):
            if payload.count:
                self._spool.put(payload, payload.size)
        elif payload:
            self._spool.put(payload)

    def tables(self, arrow: Any, schema: Any) -> Iterator[Any]:
        """Yield all rows as tables of a schema that holds them; once."""
        for payload in self._spool:
            yield arrow_table(arrow, schema, payload)
