"""Rows as sheets of an XLSX workbook; no cell is ever a formula."""

from __future__ import annotations

import contextlib
import datetime as dt
import re
from decimal import Decimal
from typing import TYPE_CHECKING, Any

from fieldstick.data.extras import needed
from fieldstick.data.parquet_sink import without_escapes
from fieldstick.data.sink import Sink, TableSink
from fieldstick.errors import UsageError
from fieldstick.files import PartFile
from fieldstick.suites.fieldtypes import FieldSpec

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.data.rowtext import Column, Row

_MOST_ROWS = 1_048_576
_MOST_COLUMNS = 16_384
_LONGEST_CELL = 32_767
_LONGEST_NAME = 31
_MOST_DIGITS = 15
"""Digits that a spreadsheet's number keeps."""

_FIRST_DAY = dt.date(1900, 3, 1)
"""Days before are counted otherwise by spreadsheets, or not at all."""

_NOT_IN_XML = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff]")
_LOOKS_ESCAPED = re.compile("_(?=x[0-9A-Fa-f]{4}_)")


class WorkbookSink(Sink):
    """A workbook with a sheet a table."""

    several_tables = True

    def __init__(self, path: str) -> None:
        openpyxl = needed("openpyxl", "an XLSX workbook")
        self._book = openpyxl.Workbook(write_only=True)
        self._part = PartFile(path)
        self._path = path

    def table(self, name: str, columns: Sequence[Column]) -> TableSink:
        """See `Sink.table`."""
        if len(columns) > _MOST_COLUMNS:
            raise UsageError(f"{self._path}: a sheet has {_MOST_COLUMNS:,} columns at the most")
        title = re.sub(r"[\[\]:*?/\\]", "-", name)[:_LONGEST_NAME]
        table = _Sheet(self._path, self._book.create_sheet(title))
        table.write([[column.name for column in columns]])
        return table

    def finish(self) -> None:
        """See `Sink.finish`."""
        try:
            self._book.save(self._part.stream)
        except OSError as error:
            self.abandon()
            self._part.failed(error)
        except BaseException:
            self.abandon()
            raise
        self._part.finish()

    def abandon(self) -> None:
        """See `Sink.abandon`."""
        for sheet in self._book.worksheets:
            with contextlib.suppress(OSError):
                sheet.close()
        self._part.abandon()


class _Sheet(TableSink):
    def __init__(self, path: str, sheet: Any) -> None:
        self._path, self._sheet, self._rows = path, sheet, 0

    def encode(self, rows: list[Row], origin: str | None = None) -> list[Row]:
        """See `TableSink.encode`."""
        return rows

    def write(self, payload: list[Row]) -> None:
        """See `TableSink.write`."""
        make_cell = needed("openpyxl.cell", "an XLSX workbook").WriteOnlyCell
        for row in payload:
            self._rows += 1
            if self._rows > _MOST_ROWS:
                raise UsageError(f"{self._path}: a sheet has {_MOST_ROWS:,} rows at the most; write CSV or Parquet")
            cells = []
            for value in row:
                held = self._held(value)
                cell = make_cell(self._sheet, held)
                if isinstance(held, str):
                    cell.data_type = "s"
                cells.append(cell)
            try:
                self._sheet.append(cells)
            except OSError as error:
                raise UsageError(f"{self._path}: cannot be written: {error.strerror or error}") from None

    def _held(self, value: Any) -> Any:
        """Return what a cell can hold: numbers of up to 15 digits, days and times without offset, else text."""
        if value is None or isinstance(value, bool):
            return value
        if isinstance(value, int | Decimal) and len(str(value).strip("-0.").replace(".", "")) <= _MOST_DIGITS:
            return value
        if isinstance(value, dt.datetime):
            if value.tzinfo is None and value.date() >= _FIRST_DAY:
                return value
        elif (isinstance(value, dt.time) and value.tzinfo is None) or (
            isinstance(value, dt.date) and value >= _FIRST_DAY
        ):
            return value
        text = without_escapes(value if isinstance(value, str) else FieldSpec.plain(value))
        if len(text) > _LONGEST_CELL:
            raise UsageError(
                f"{self._path}: row {self._rows} has a text of {len(text):,} characters; "
                f"a cell holds {_LONGEST_CELL:,} at the most. Write CSV or Parquet"
            )
        text = _LOOKS_ESCAPED.sub("_x005F_", text)
        return _NOT_IN_XML.sub(lambda found: f"_x{ord(found[0]):04X}_", text)

    def __getstate__(self) -> dict[str, Any]:
        return {}
