"""Reads the texts of a source one by one: lines of a file or of standard input, cells of a CSV column."""

from __future__ import annotations

import csv
import sys
from collections import Counter
from contextlib import contextmanager
from dataclasses import dataclass, field
from itertools import islice
from pathlib import Path
from typing import TYPE_CHECKING, TextIO

from fieldstick.errors import UsageError, hint

if TYPE_CHECKING:
    from collections.abc import Iterator

STANDARD_INPUT = "-"
LONGEST_CELL = 2**31 - 1
MOST_NAMED = 1000
"""Undecodable or ragged lines that are named; further ones are counted alone."""


@dataclass
class Source:
    """Something that texts are read from, and what was met on the way.

    `size` is in bytes, None for standard input. Undecodable bytes are kept as lone surrogates U+DC80 to U+DCFF (PEP
    383) and named by line; `ragged` are CSV rows with more or fewer cells than the header. `line_ends` counts how
    lines end, for text.
    """

    name: str
    column: str | None = None
    size: int | None = None
    read: int = 0
    undecodable: list[int] = field(default_factory=list)
    ragged: list[int] = field(default_factory=list)
    byte_order_mark: bool = False
    line_ends: Counter[str] = field(default_factory=Counter)

    def texts(self) -> Iterator[tuple[int, str]]:
        """Yield each text with the number of its line (from 1), without its line end.

        Raises UsageError when the source cannot be read, or has no such column.
        """
        with _opened(self) as stream:
            yield from self._cells(stream) if self.column is not None else self._lines(stream)

    def _lines(self, stream: TextIO) -> Iterator[tuple[int, str]]:
        ends = self.line_ends
        for number, line in enumerate(stream, 1):
            if number == 1 and line.startswith("\ufeff"):
                self.byte_order_mark = True
                line = line[1:]
            self.read += len(line)
            if line.endswith("\r\n"):
                ends["CR LF"] += 1
                text = line[:-2]
            elif line.endswith("\n"):
                ends["LF"] += 1
                text = line[:-1]
            else:
                text = line
            if not text.isascii():
                self._note_undecodable(number, text)
            yield number, text

    def chunks(self, size: int) -> Iterator[list[str]]:
        """Yield the texts of lines in lists of up to `size`: the same as `texts` gives, for counting in bulk."""
        number = 0
        with _opened(self) as stream:
            while lines := list(islice(stream, size)):
                together = "".join(lines)
                self.read += len(together)
                if number or lines[0][:1] != "\ufeff":
                    plain = together.isascii() and "\r" not in together and together.endswith("\n")
                else:
                    plain = False
                if plain:
                    number += len(lines)
                    yield [line[:-1] for line in lines]
                    continue
                texts = []
                for line in lines:
                    number += 1
                    text = (
                        line.removesuffix("\n").removesuffix("\r") if line.endswith("\r\n") else line.removesuffix("\n")
                    )
                    texts.append(text.removeprefix("\ufeff") if number == 1 else text)
                    if not text.isascii():
                        self._note_undecodable(number, text)
                yield texts

    def _cells(self, stream: TextIO) -> Iterator[tuple[int, str]]:
        for number, row in self.rows(stream):
            text = row[self.column or ""]
            self._note_undecodable(number, text)
            yield number, text

    def rows(self, stream: TextIO) -> Iterator[tuple[int, dict[str, str]]]:
        """Yield the rows of a CSV table by column, each with the number of its last line."""
        csv.field_size_limit(LONGEST_CELL)
        reader = csv.reader(stream, strict=True)
        try:
            header = next(reader, None)
            if header is None:
                raise UsageError(f"{self.name} is empty; its first line names the columns")
            header[0] = header[0].removeprefix("\ufeff")
            if self.column not in (None, "", *header):
                raise UsageError(f"{self.name} has no column '{self.column}'{hint(self.column or '', header)}")
            for row in reader:
                if len(row) != len(header):
                    self._name(self.ragged, reader.line_num)
                padded = row + [""] * (len(header) - len(row))
                self.read = reader.line_num
                yield reader.line_num, dict(zip(header, padded, strict=False))
        except csv.Error as error:
            raise UsageError(f"{self.name}:{reader.line_num}: not CSV: {error}") from None

    def table(self) -> Iterator[tuple[int, dict[str, str]]]:
        """Yield the rows of the source as a CSV table."""
        with _opened(self) as stream:
            yield from self.rows(stream)

    def _note_undecodable(self, number: int, text: str) -> None:
        try:
            text.encode("utf-8")
        except UnicodeEncodeError:
            self._name(self.undecodable, number)

    @staticmethod
    def _name(lines: list[int], number: int) -> None:
        if len(lines) < MOST_NAMED and number not in lines[-1:]:
            lines.append(number)


def open_sources(names: tuple[str, ...], column: str | None = None) -> list[Source]:
    """Return the sources of those names; `-` is standard input.

    Raises UsageError for a file that is not there.
    """
    found = []
    for name in names or (STANDARD_INPUT,):
        size = None
        if name != STANDARD_INPUT:
            path = Path(name)
            if path.is_dir():
                raise UsageError(f"{name} is a folder; name files, or - for standard input")
            try:
                size = path.stat().st_size
            except OSError as error:
                raise UsageError(f"{name}: cannot be read: {error.strerror or error}") from None
        found.append(Source("standard input" if name == STANDARD_INPUT else name, column, size))
    return found


@contextmanager
def _opened(source: Source) -> Iterator[TextIO]:
    newline = "" if source.column is not None else "\n"
    if source.size is None:
        from io import TextIOWrapper

        yield TextIOWrapper(sys.stdin.buffer, encoding="utf-8", errors="surrogateescape", newline=newline)
        return
    try:
        stream = open(source.name, encoding="utf-8", errors="surrogateescape", newline=newline)  # noqa: SIM115, PTH123
    except OSError as error:
        raise UsageError(f"{source.name}: cannot be read: {error.strerror or error}") from None
    with stream:
        yield stream
