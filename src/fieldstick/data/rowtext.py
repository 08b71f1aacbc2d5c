"""Rows as text: CSV, TSV, JSON Lines."""

from __future__ import annotations

import csv
import json
import re
from decimal import Decimal
from typing import TYPE_CHECKING, Any, Protocol

from msgspec import Struct

from fieldstick.data.lines import has_escapes
from fieldstick.suites.fieldtypes import FieldSpec

if TYPE_CHECKING:
    from collections.abc import Sequence

Row = list[Any]

_RUNS = re.compile(r"[=+\-@\t\r\n]")
_NUMBER = re.compile(r"[+-]?(\d+(\.\d*)?|\.\d+)([eE][+-]?\d+)?", re.ASCII)
_OWN_FORM = frozenset({"mixed", "boolean", "date", "time", "timestamp"})


class Column(Struct, frozen=True):
    """A column of what is written: its name and the type of its values, a field type or `mixed`."""

    name: str
    type: str = "text"


class RowFormat(Protocol):
    """Writes rows as text."""

    def head(self) -> str:
        """Return what stands before the rows."""

    def body(self, rows: list[Row], origin: str | None = None) -> str:
        """Return rows as text; `origin` is a text of lines that all cells are pieces of."""


class _Rows:
    """Takes each row of a CSV writer as it writes it."""

    def __init__(self) -> None:
        self.rows: list[str] = []
        self.write = self.rows.append


class Delimited(Struct, frozen=True):
    """CSV by RFC 4180 but with line feeds, or with another delimiter; absent and empty are both nothing.

    Values are written as typed: a point as decimal mark, ISO 8601 for dates and times, true and false. With
    `for_spreadsheet`, a text that a spreadsheet would run as a formula gets an apostrophe before it.
    """

    columns: tuple[Column, ...]
    delimiter: str = ","
    for_spreadsheet: bool = False

    def head(self) -> str:
        """See `RowFormat.head`."""
        return self.body([[column.name for column in self.columns]])

    def body(self, rows: list[Row], origin: str | None = None) -> str:
        """See `RowFormat.body`."""
        sink = _Rows()
        own = [index for index, column in enumerate(self.columns) if column.type in _OWN_FORM]
        if own:
            rows = [self._plain(row, own) for row in rows]
        if self.for_spreadsheet:
            rows = [[guarded(cell) for cell in row] for row in rows]
        joined = self._joined(rows, origin)
        if joined is not None:
            return joined
        # With CR LF as line end, the writer puts quotes around a lone CR too, which with LF alone it does not.
        csv.writer(sink, delimiter=self.delimiter, lineterminator="\r\n").writerows(rows)
        return "".join([f"{row[:-2]}\n" for row in sink.rows])

    def _joined(self, rows: list[Row], origin: str | None) -> str | None:
        """Return rows of texts put together as they are; None when a cell may need quotes, or is no text."""
        width, mark = len(self.columns), self.delimiter
        if width < 2 or not rows or origin is None:
            return None
        try:
            body = "\n".join(map(mark.join, rows)) + "\n"
        except TypeError:
            return None
        if '"' in body or "\r" in body:
            return None
        return body if mark not in origin or body.count(mark) == len(rows) * (width - 1) else None

    @staticmethod
    def _plain(row: Row, own: Sequence[int]) -> Row:
        plain = list(row)
        for index in own:
            if plain[index] is not None:
                plain[index] = FieldSpec.plain(plain[index])
        return plain


def guarded(cell: Any) -> Any:
    """Put an apostrophe before a text that a spreadsheet would run as a formula; numbers stay."""
    if isinstance(cell, str) and _RUNS.match(cell) and not _NUMBER.fullmatch(cell):
        return "'" + cell
    return cell


class JsonLines(Struct, frozen=True):
    """An object a line; a decimal is a number with all its digits, an absent field is null."""

    columns: tuple[Column, ...]

    def head(self) -> str:
        """Return nothing: each line names its keys."""
        return ""

    def body(self, rows: list[Row], origin: str | None = None) -> str:
        """See `RowFormat.body`."""
        keys = [f"{json_text(column.name)}: " for column in self.columns]
        lines = [
            "{" + ", ".join([key + json_cell(cell) for key, cell in zip(keys, row, strict=True)]) + "}\n"
            for row in rows
        ]
        return "".join(lines)


def json_text(text: str) -> str:
    """Write a text as JSON; what stands for undecodable bytes as escapes."""
    return json.dumps(text, ensure_ascii=not text.isascii() and has_escapes(text))


def json_cell(cell: Any) -> str:
    """Write a cell as JSON, numbers with all their digits."""
    if isinstance(cell, str):
        return json_text(cell)
    if cell is None:
        return "null"
    if isinstance(cell, bool):
        return "true" if cell else "false"
    if isinstance(cell, int | Decimal):
        return str(cell)
    if isinstance(cell, dict):
        return "{" + ", ".join([f"{json_text(str(key))}: {json_cell(value)}" for key, value in cell.items()]) + "}"
    if isinstance(cell, list):
        return "[" + ", ".join(map(json_cell, cell)) + "]"
    return json_text(FieldSpec.plain(cell))
