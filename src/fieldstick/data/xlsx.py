"""XLSX workbooks: rows of a sheet read, and written as sheets in which no cell is ever a formula."""

from __future__ import annotations

import contextlib
import datetime as dt
import os
import re
import zipfile
from decimal import Decimal
from math import isfinite
from typing import TYPE_CHECKING, Any

from fieldstick.data.coding import without_escapes
from fieldstick.data.columnar import as_file, entries_of
from fieldstick.data.extras import needed
from fieldstick.data.rows import RowTable, Sink, TableSink, first_line, text_of
from fieldstick.data.storage import part_file
from fieldstick.errors import UsageError, hint
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.data.batch import Entry
    from fieldstick.data.compression import Stream
    from fieldstick.data.rows import Column, Row
    from fieldstick.data.source import Source
    from fieldstick.files import PartFile

# Where lxml is installed too, workbooks would be written by it, which tells of a full disk in its own way.
os.environ.setdefault("OPENPYXL_LXML", "False")

_MOST_ROWS = 1_048_576
_MOST_COLUMNS = 16_384
_LONGEST_CELL = 32_767
_LONGEST_NAME = 31
_MOST_DIGITS = 15
"""Digits that a spreadsheet's number keeps."""

_LARGEST_PART, _LARGEST_STRINGS = 4 << 30, 256 << 20
"""Bytes that a part of a workbook may unpack to; the texts that its sheets share are held in memory."""

_SUSPICIOUS_SIZE, _SUSPICIOUS_TIMES = 64 << 20, 200
"""A part larger than this that unpacks to more than so many times its size is made to fill a memory, not to be read."""

_FIRST_DAY = dt.date(1900, 3, 1)
"""Days before are counted otherwise by spreadsheets, or not at all."""

_LAST_DAY = dt.date(9999, 12, 30)

_NOT_IN_XML = compiled_later("[\x00-\x08\x0b-\x1f\ufffe\uffff]")
"""Characters that XML 1.0 has not, or that a reader of it turns into another: CR becomes LF."""

_ESCAPED = compiled_later("_x([0-9A-Fa-f]{4})_")
"""How a character is written that XML has not (ECMA-376, part 1, 22.4.2.4)."""

_LOOKS_ESCAPED = compiled_later("_(?=x[0-9A-Fa-f]{4}_)")


def entries(source: Source, stream: Stream) -> Iterator[Entry]:
    """Yield the rows of a source that is a workbook."""
    with as_file(source, stream) as path:
        yield from entries_of(source, workbook_table(source.name, path, source.read_options.table))


def workbook_table(name: str, path: str, sheet: str | None) -> RowTable:
    """Open a sheet of a workbook, the only or first one unless named; rows carry the sheet's own numbers.

    The first row that is not empty names the columns. A cell's value is what the workbook shows last calculated.
    """
    openpyxl = needed("openpyxl", "an XLSX workbook")
    _check_size(name, path)
    try:
        # Given open, the file is not judged by its name.
        book = openpyxl.load_workbook(open(path, "rb"), read_only=True, data_only=True)  # noqa: SIM115
    except Exception as error:  # what a file that is no workbook raises is nowhere listed
        raise UsageError(f"{name}: not an XLSX workbook that can be read: {first_line(error)}") from None
    if not book.worksheets:
        raise UsageError(f"{name} has no sheet of cells")
    sheets = {each.title: each for each in book.worksheets}
    if sheet is not None and sheet not in sheets:
        raise UsageError(f"{name} has no sheet '{sheet}'{hint(sheet, sheets)}")
    chosen = sheets[sheet] if sheet is not None else book.worksheets[0]
    cells = enumerate(chosen.iter_rows(), 1)
    names = _names(name, cells)
    while names and names[-1] is None:
        names.pop()
    columns = [str(each) if each is not None else f"column {place}" for place, each in enumerate(names, 1)]

    def rows() -> Iterator[tuple[int, tuple[Any, ...]]]:
        number = 0
        try:
            for number, row in cells:
                found = tuple(_shown(cell) for cell in row[: len(columns)])
                if any(each is not None for each in found):
                    yield number, found + (None,) * (len(columns) - len(found))
        except Exception as error:  # what a damaged sheet raises is nowhere listed
            where = f"{name}: sheet '{chosen.title}', after row {number}"
            raise UsageError(f"{where}: cannot be read: {first_line(error)}") from None

    return RowTable(columns, rows())


def _check_size(name: str, path: str) -> None:
    """Raise UsageError for a workbook that unpacks to more than is read; what a file claims is what it can give."""
    try:
        parts = zipfile.ZipFile(path).infolist()
    except (zipfile.BadZipFile, OSError, ValueError, NotImplementedError) as error:
        raise UsageError(f"{name}: not an XLSX workbook that can be read: {first_line(error)}") from None
    for part in parts:
        most = _LARGEST_STRINGS if part.filename.endswith("sharedStrings.xml") else _LARGEST_PART
        times = part.file_size / max(part.compress_size, 1)
        if part.file_size > most or (part.file_size > _SUSPICIOUS_SIZE and times > _SUSPICIOUS_TIMES):
            raise UsageError(
                f"{name}: {part.filename} unpacks to {part.file_size:,} bytes, {times:,.0f} times its size, "
                "and is not read; save the sheet as CSV"
            )


def _names(name: str, rows: Iterator[tuple[int, Any]]) -> list[Any]:
    """Return what the first row that is not empty holds."""
    try:
        for _, header in rows:
            if any(cell.value is not None for cell in header):
                return [_shown(cell) for cell in header]
    except Exception as error:  # what a damaged sheet raises is nowhere listed
        raise UsageError(f"{name}: its first row cannot be read: {first_line(error)}") from None
    raise UsageError(f"{name} is empty; its first row names the columns")


def _shown(cell: Any) -> Any:
    """Return a cell's value; a day that is not shown with a clock is a date, a whole float an integer."""
    value = cell.value
    if cell.is_date and hasattr(value, "hour") and hasattr(value, "date"):
        clock = any(mark in (cell.number_format or "").lower() for mark in ("h", "s"))
        return value if clock else value.date()
    if isinstance(value, float) and value.is_integer():
        return int(value)
    return _ESCAPED.sub(lambda found: chr(int(found[1], 16)), value) if isinstance(value, str) else value


class WorkbookSink(Sink):
    """A workbook with a sheet a table."""

    several_tables = True

    def __init__(self, path: str) -> None:
        openpyxl = needed("openpyxl", "an XLSX workbook")
        self._book = openpyxl.Workbook(write_only=True)
        self._part = part_file(path)
        self._path = path

    def table(self, name: str, columns: Sequence[Column]) -> TableSink:
        """See `Sink.table`."""
        if len(columns) > _MOST_COLUMNS:
            raise UsageError(f"{self._path}: a sheet has {_MOST_COLUMNS:,} columns at the most")
        table = _Sheet(self._path, self._book.create_sheet(self._title(name)))
        table.write([[column.name for column in columns]])
        return table

    def _title(self, name: str) -> str:
        """Return a sheet's name: of the characters and the length that one may have, and no other sheet's."""
        plain = re.sub(r"[\[\]:*?/\\]", "-", name).strip("'") or "table"
        taken = {each.casefold() for each in self._book.sheetnames}
        number, title = 2, plain[:_LONGEST_NAME]
        while title.casefold() in taken or title.casefold() == "history":
            end = f" ({number})"
            number, title = number + 1, plain[: _LONGEST_NAME - len(end)] + end
        return title

    def complete(self) -> list[PartFile]:
        """See `Sink.complete`."""
        try:
            self._book.save(self._part.stream)
        except OSError as error:
            self._part.failed(error)
        return [self._part]

    def abandon(self) -> None:
        """See `Sink.abandon`."""
        for sheet in self._book.worksheets:
            # What a sheet raises that a signal left half written is nowhere listed, and must not be told instead of it.
            with contextlib.suppress(Exception):
                sheet.close()
        self._part.abandon()


def _is_held(value: int | float | Decimal) -> bool:
    """Tell whether a spreadsheet has the very number: of up to 15 digits, neither too large nor too small."""
    if isinstance(value, float):
        return isfinite(value)
    exact = Decimal(value)
    if len(exact.as_tuple().digits) > _MOST_DIGITS:
        return value == 0 or len(str(value).strip("-0.").replace(".", "")) <= _MOST_DIGITS
    return isfinite(float(exact)) and Decimal(repr(float(exact))) == exact


def _reads_back(value: dt.date | dt.time) -> bool:
    """Tell whether a day or time is the same after it was a spreadsheet's number of days, which has no offset."""
    if getattr(value, "tzinfo", None) is not None:
        return False
    days = needed("openpyxl.utils.datetime", "an XLSX workbook")
    if isinstance(value, dt.date) and not _FIRST_DAY <= dt.date(*value.timetuple()[:3]) <= _LAST_DAY:
        return False
    found = days.from_excel(days.to_excel(value))
    return bool(found == (value if isinstance(value, dt.datetime | dt.time) else dt.datetime(*value.timetuple()[:3])))


class _Sheet(TableSink):
    def __init__(self, path: str, sheet: Any) -> None:
        self._path, self._sheet, self._rows = path, sheet, 0

    def __getstate__(self) -> dict[str, Any]:
        # A copy encodes, and writes to nothing.
        return self.__dict__ | {"_sheet": None}

    def encode(self, rows: list[Row]) -> list[Row]:
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
        if isinstance(value, int | Decimal | float) and _is_held(value):
            return value
        if isinstance(value, dt.date | dt.time) and _reads_back(value):
            return value
        text = without_escapes(value if isinstance(value, str) else text_of(value) or "")
        if len(text) > _LONGEST_CELL:
            raise UsageError(
                f"{self._path}: row {self._rows} has a text of {len(text):,} characters; "
                f"a cell holds {_LONGEST_CELL:,} at the most. Write CSV or Parquet"
            )
        text = _LOOKS_ESCAPED.sub("_x005F_", text)
        return _NOT_IN_XML.sub(lambda found: f"_x{ord(found[0]):04X}_", text)
