"""Rows of files that are no text: Parquet, XLSX workbooks, SQLite databases."""

from __future__ import annotations

import contextlib
import sqlite3
from typing import TYPE_CHECKING, Any

from fieldstick.data.extras import needed
from fieldstick.errors import UsageError, hint

if TYPE_CHECKING:
    from collections.abc import Iterator
    from pathlib import Path

ROWS_AT_A_TIME = 4096


class RowTable:
    """A table as columns and an iterator of numbered rows, each row's cells in the columns' order."""

    def __init__(self, columns: list[str], rows: Iterator[tuple[int, tuple[Any, ...]]]) -> None:
        self.columns, self.rows = columns, rows


def parquet_table(name: str, path: Path) -> RowTable:
    """Open a Parquet file; rows are counted from 1."""
    parquet = needed("pyarrow.parquet", "a Parquet file")
    arrow = needed("pyarrow", "a Parquet file")
    try:
        file = parquet.ParquetFile(path)
        columns = list(file.schema_arrow.names)
    except (arrow.ArrowException, OSError) as error:
        raise UsageError(f"{name}: not a Parquet file that can be read: {_first_line(error)}") from None

    def rows() -> Iterator[tuple[int, tuple[Any, ...]]]:
        number = 0
        try:
            for batch in file.iter_batches(ROWS_AT_A_TIME):
                for cells in zip(*(column.to_pylist() for column in batch.columns), strict=True):
                    number += 1
                    yield number, cells
        except (arrow.ArrowException, OSError) as error:
            raise UsageError(f"{name}: damaged after row {number}: {_first_line(error)}") from None

    return RowTable(columns, rows())


def workbook_table(name: str, path: Path, sheet: str | None) -> RowTable:
    """Open a sheet of a workbook, the only or first one unless named; rows carry the sheet's own numbers.

    The first row that is not empty names the columns. A cell's value is what the workbook shows last calculated.
    """
    openpyxl = needed("openpyxl", "an XLSX workbook")
    try:
        # Given open, the file is not judged by its name.
        book = openpyxl.load_workbook(path.open("rb"), read_only=True, data_only=True)
    except Exception as error:  # what a file that is no workbook raises is nowhere listed
        raise UsageError(f"{name}: not an XLSX workbook that can be read: {_first_line(error)}") from None
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


def database_table(name: str, path: Path, table: str | None, query: str | None) -> RowTable:
    """Open a table or query of a SQLite database, which is only read; rows are counted from 1."""
    try:
        base = sqlite3.connect(f"{path.resolve().as_uri()}?mode=ro", uri=True)
        base.text_factory = lambda raw: raw.decode("utf-8", "surrogateescape")
        tables = [each for (each,) in base.execute("select name from sqlite_master where type in ('table', 'view')")]
        if query is None:
            query = f"select * from {_quoted(_chosen(name, tables, table))}"
        cursor = base.execute(query)
    except sqlite3.Error as error:
        raise UsageError(f"{name}: {error}") from None
    if cursor.description is None:
        raise UsageError(f"{name}: the query gives no rows")

    def rows() -> Iterator[tuple[int, tuple[Any, ...]]]:
        number = 0
        with contextlib.closing(base):
            try:
                for number, cells in enumerate(cursor, 1):
                    yield number, cells
            except sqlite3.Error as error:
                raise UsageError(f"{name}: after row {number}: {error}") from None

    return RowTable([each[0] for each in cursor.description], rows())


def _chosen(name: str, tables: list[str], table: str | None) -> str:
    if table is None:
        if len(tables) == 1:
            return tables[0]
        listed = ", ".join(sorted(tables)) or "none"
        raise UsageError(f"{name}: say which table with --table, or give a --query; its tables: {listed}")
    if table not in tables:
        raise UsageError(f"{name} has no table '{table}'{hint(table, tables)}")
    return table


def _quoted(name: str) -> str:
    return '"' + name.replace('"', '""') + '"'


def _first_line(error: BaseException) -> str:
    return str(error).split("\n")[0]
