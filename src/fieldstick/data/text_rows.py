"""Rows written as text, to a file or to standard output."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.data.coding import encoded
from fieldstick.data.later import later_for
from fieldstick.data.rows import Sink, TableSink
from fieldstick.errors import UsageError

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from fieldstick.data.later import Later
    from fieldstick.data.placed import PlacedRows
    from fieldstick.data.rows import Column, Row, RowFormat
    from fieldstick.data.text_file import TextFile
    from fieldstick.files import PartFile


class TextTable(TableSink):
    """Rows written as text to a target."""

    def __init__(self, form: RowFormat, target: TextFile) -> None:
        self._form, self._target = form, target
        self._begun = False
        held, head = target.held, form.head()
        if held is not None and head and held.rstrip(b"\r\n") != encoded(head).rstrip(b"\n"):
            known = held.decode("utf-8", "replace").strip()
            raise UsageError(f"{target.name} has other columns: {known}, and these are {head.strip()}")

    def encode(self, rows: list[Row]) -> bytes:
        """See `TableSink.encode`."""
        return encoded(self._form.body(rows))

    @property
    def takes_placed(self) -> bool:
        """See `TableSink.takes_placed`."""
        return self._form.takes_placed

    def encode_placed(self, placed: PlacedRows) -> Later | bytes:
        """See `TableSink.encode_placed`."""
        if not placed.left:
            return b""
        return later_for(self._target, len(placed.data), _body, self._form, placed.taken_over())

    def write(self, payload: bytes | Later) -> None:
        """See `TableSink.write`; what stands before the rows goes with the first of them."""
        if payload:
            self.begin()
            self._target.write_utf8(payload)

    def begin(self) -> None:
        """Write what stands before the rows, once."""
        if not self._begun:
            self._begun = True
            self._target.write_head(self._form.head())


def _body(form: RowFormat, placed: PlacedRows) -> bytes:
    made = form.placed_body(placed)
    placed.let_go()
    return made


class TextSink(Sink):
    """One table as text."""

    def __init__(self, target: TextFile, make: Callable[[Sequence[Column]], RowFormat]) -> None:
        self._target, self._make = target, make
        self._table: TextTable | None = None

    def table(self, name: str, columns: Sequence[Column]) -> TableSink:
        """See `Sink.table`."""
        self._table = TextTable(self._make(columns), self._target)
        return self._table

    def complete(self) -> list[PartFile]:
        """See `Sink.complete`."""
        if self._table is not None:
            self._table.begin()
        return self._target.complete()

    def abandon(self) -> None:
        """See `Sink.abandon`."""
        self._target.abandon()
