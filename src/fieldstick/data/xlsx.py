"""XLSX workbooks: rows of a sheet read, and written as sheets in which no cell is ever a formula."""

from __future__ import annotations

import contextlib
import datetime as dt
import re
from decimal import Decimal
from typing import TYPE_CHECKING, Any

from fieldstick.data.columnar import as_file, entries_of
from fieldstick.data.extras import needed
from fieldstick.data.rows import RowTable, Sink, TableSink, first_line, without_escapes
from fieldstick.errors import UsageError, hint
from fieldstick.files import PartFile
from fieldstick.suites.fieldtypes import FieldSpec

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.data.batch import Entry
    from fieldstick.data.compression import Stream
    from fieldstick.data.rows import Column, Row
    from fieldstick.data.source import Source

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


def entries(source: Source, stream: Stream) -> Iterator[Entry]:
    """Yield the rows of a source that is a workbook."""
    with as_file(source, stream) as path:
        yield from entries_of(source, workbook_table(source.name, path, source.read_options.table))


def workbook_table(name: str, path: str, sheet: str | None) -> RowTable:
    """Open a sheet of a workbook, the only or first one unless named; rows carry the sheet's own numbers.

    The first row that is not empty names the columns. A cell's value is what the workbook shows last calculated.
    """
    openpyxl = needed("openpyxl", "an XLSX workbook")
    try:
        # Given open, the file is not judged by its name.
        book = openpyxl.load_workbook(open(path, "rb"), read_only=True, data_only=True)  # noqa: SIM115
    except Exception as error:  # what a file that is no workbook raises is nowhere listed
        raise UsageError(f"{name}: not an XLSX workbook that can be read: {first_line(error)}") from None
    if sheet is not None and sheet not in book.sheetnames:
        raise UsageError(f"{name} has no sheet '{sheet}'{hint(sheet, book.sheetnames)}")
    chosen = book[sheet] if sheet is not None else book[book.sheetnames[0]]
    cells = enumerate(chosen.iter_rows(), 1)
    for _, header in cells:
        if any(cell.value is not None for cell in header):
            break
    else:
        raise UsageError(f"{name} is empty; its first row names the columns")
    names = [_shown(cell) for cell in header]
    while names and names[-1] is None:
        names.pop()
    columns = [str(each) if each is not None else f"column {place}" for place, each in enumerate(names, 1)]

    def rows() -> Iterator[tuple[int, tuple[Any, ...]]]:
        for number, row in cells:
            found = tuple(_shown(cell) for cell in row[: len(columns)])
            if any(each is not None for each in found):
                yield number, found + (None,) * (len(columns) - len(found))

    return RowTable(columns, rows())


def _shown(cell: Any) -> Any:
    """Return a cell's value; a day that is not shown with a clock is a date, a whole float an integer."""
    value = cell.value
    if cell.is_date and hasattr(value, "hour") and hasattr(value, "date"):
        clock = any(mark in (cell.number_format or "").lower() for mark in ("h", "s"))
        return value if clock else value.date()
    if isinstance(value, float) and value.is_integer():
        return int(value)
    return value


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
        with self._part.whole(self.abandon) as stream:
            self._book.save(stream)

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
