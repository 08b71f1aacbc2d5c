"""Rows of a table written as text: CSV (RFC 4180) with any delimiter and quote."""

from __future__ import annotations

import csv
from typing import TYPE_CHECKING, NamedTuple

from fieldstick.errors import UsageError

if TYPE_CHECKING:
    from collections.abc import Iterator
    from typing import TextIO

    from fieldstick.data.batch import SourceNotes

_WORDS = {"tab": "\t", "\\t": "\t", "comma": ",", "semicolon": ";", "blank": " ", "space": " ", "pipe": "|"}
LONGEST_CELL = 2**31 - 1


class Row(NamedTuple):
    """A row: the number of its last line, its cells by column, and its text as it stands, line end included."""

    number: int
    cells: dict[str, str]
    raw: str


def checked_delimiter(given: str) -> str:
    """Return the delimiter that is meant: one character, or a word for one.

    Raises UsageError for anything else.
    """
    found = _WORDS.get(given, given)
    if len(found) != 1 or found in '"\r\n':
        raise UsageError(f"the delimiter '{given}' is no single character; write it, or tab, comma, semicolon, blank")
    return found


class _Lines:
    """Lines on their way to the reader, kept until the row that they make is complete."""

    def __init__(self, stream: TextIO) -> None:
        self._stream = stream
        self._taken: list[str] = []

    def __iter__(self) -> _Lines:
        return self

    def __next__(self) -> str:
        line = next(self._stream)
        self._taken.append(line)
        return line

    def raw(self) -> str:
        """Return the lines since the last row."""
        found = "".join(self._taken)
        self._taken.clear()
        return found


class DelimitedTable:
    """A table of a stream of text, opened without newline translation.

    `columns` are the names in its header; a name that is there again gets a number.
    """

    def __init__(
        self, name: str, stream: TextIO, delimiter: str, quote: str, longest: int | None, notes: SourceNotes
    ) -> None:
        self.name, self.notes = name, notes
        csv.field_size_limit(longest or LONGEST_CELL)
        self._lines = _Lines(stream)
        self._reader = csv.reader(self._lines, delimiter=delimiter, quotechar=quote or None, strict=True)
        self._begins = 1
        header = self._next()
        if header is None:
            raise UsageError(f"{name} is empty; its first line names the columns")
        self.header = self._lines.raw()
        if header:
            header[0] = header[0].removeprefix("\N{ZERO WIDTH NO-BREAK SPACE}")
        self.columns = told_apart(header)

    def rows(self) -> Iterator[Row]:
        """Yield the rows; a row with fewer cells than the header is filled up with empty ones.

        Raises UsageError for what is no CSV.
        """
        columns = self.columns
        width = len(columns)
        while (row := self._next()) is not None:
            number = self._reader.line_num
            if len(row) != width:
                if not (width == 1 and not row):
                    self.notes.ragged.note(number)
                row = row + [""] * (width - len(row))
            yield Row(number, dict(zip(columns, row, strict=False)), self._lines.raw())

    def _next(self) -> list[str] | None:
        self._begins = self._reader.line_num + 1
        try:
            return next(self._reader, None)
        except csv.Error as error:
            where = f"{self.name}:{self._begins}"
            raise UsageError(f"{where}: not CSV: {error}; is a quote left open in this row?") from None


def told_apart(names: list[str], *, fold: bool = False) -> list[str]:
    """Return names of which none is there twice: a later one gets a number. `fold` takes case for the same."""
    found: list[str] = []
    taken: set[str] = set()
    for name in names:
        number, each = 2, name
        while (each.casefold() if fold else each) in taken:
            each, number = f"{name} ({number})", number + 1
        found.append(each)
        taken.add(each.casefold() if fold else each)
    return found
