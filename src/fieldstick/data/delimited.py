"""CSV (RFC 4180) and TSV, read with any delimiter and quote, and written."""

from __future__ import annotations

import csv
import io
import re
from contextlib import contextmanager
from typing import TYPE_CHECKING, Any, NamedTuple

from msgspec import Struct

from fieldstick.data.batch import Entry
from fieldstick.data.coding import BLOCK, encoded, has_escapes
from fieldstick.data.compression import Rejoined
from fieldstick.data.delimited_blocks import BlockReader, Dialect
from fieldstick.data.placed import written
from fieldstick.data.rows import Column, text_of, told_apart
from fieldstick.errors import UsageError
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence
    from typing import TextIO

    from fieldstick.data.batch import SourceNotes
    from fieldstick.data.compression import Stream
    from fieldstick.data.delimited_blocks import DelimitedBlock
    from fieldstick.data.placed import PlacedRows
    from fieldstick.data.rows import Row
    from fieldstick.data.source import Source

_WORDS = {"tab": "\t", "\\t": "\t", "comma": ",", "semicolon": ";", "blank": " ", "space": " ", "pipe": "|"}
LONGEST_CELL = 2**31 - 1

_RUNS = compiled_later(r"[=+\-@\t\r\n]")
_NUMBER = compiled_later(r"[+-]?(\d+(\.\d*)?|\.\d+)([eE][+-]?\d+)?", re.ASCII)
_OWN_FORM = frozenset({"mixed", "boolean", "date", "time", "timestamp"})


class DelimitedRow(NamedTuple):
    """A row: the number of its first line, its cells by column, and its text as it stands, line end included.

    A row that is too long to be held comes in pieces without cells.
    """

    number: int
    cells: dict[str, str] | None
    raw: str


def checked_delimiter(given: str) -> str:
    """Return the delimiter that is meant: one character, or a word for one.

    Raises UsageError for anything else.
    """
    found = _WORDS.get(given, given)
    if len(found) != 1 or found in '"\r\n':
        raise UsageError(f"the delimiter '{given}' is no single character; write it, or tab, comma, semicolon, blank")
    return found


def delimiter_of(source: Source) -> str:
    """Return what parts the cells of a source: as asked, else a tab in a TSV, or a comma. Raises UsageError."""
    return checked_delimiter(source.read_options.delimiter or ("\t" if source.ending == ".tsv" else ","))


def checked_quote(given: str) -> str:
    """Return what encloses a cell: one character, or nothing where no cell is enclosed.

    Raises UsageError for anything else.
    """
    if len(given) > 1 or given in ("\r", "\n"):
        raise UsageError(f"the quote '{given}' is no single character; write it, or '' where no cell is enclosed")
    return given


def cell_spans(row: str, delimiter: str, quote: str) -> list[tuple[int, int]]:
    """Return where the cells of a row stand, each with its quotes, as code-point offsets into the row.

    The row has no line end, but cells may have some within quotes (RFC 4180).
    """
    spans: list[tuple[int, int]] = []
    at = 0
    while True:
        start = at
        if quote and row.startswith(quote, at):
            at = row.find(quote, at + 1)
            while at >= 0 and row.startswith(quote, at + 1):
                at = row.find(quote, at + 2)
        end = row.find(delimiter, at) if at >= 0 else -1
        if end < 0:
            return [*spans, (start, len(row))]
        spans.append((start, end))
        at = end + 1


def with_cell(raw: str, index: int, text: str, delimiter: str, quote: str) -> str:
    """Return a row with one cell holding another text; every other character stays, line end and further cells too.

    The cell is enclosed in quotes where it was, or where the text asks for it. Raises UsageError for a text that asks
    for quotes where there are none.
    """
    row = raw.rstrip("\r\n")
    spans = cell_spans(row, delimiter, quote)
    if index >= len(spans):
        row += delimiter * (index - len(spans) + 1)
        spans += [(len(row), len(row))]
    start, end = spans[min(index, len(spans) - 1)]
    special = [each for each in (delimiter, quote, "\r", "\n") if each and each in text]
    if special and not quote:
        raise UsageError(
            f"a cell would hold {special[0]!r}, and there is no quote to enclose it; name one with --quote"
        )
    if special or (quote and row.startswith(quote, start)) or (quote and not text and len(spans) == 1):
        text = quote + text.replace(quote, quote * 2) + quote
    return row[:start] + text + row[end:] + raw[len(raw.rstrip("\r\n")) :]


class _RowTooLong(Exception):
    """A row is longer than may be held; its lines are passed over."""


class _Lines:
    """Lines on their way to the reader, kept until the row that they make is complete.

    A row of more than `most` characters is not held; it ends where the quotes in it are even again (RFC 4180).
    """

    def __init__(self, stream: TextIO, quote: str, most: int | None, before: int) -> None:
        self._stream, self._quote, self._most = stream, quote, most
        self._taken: list[str] = []
        self._length = 0
        self.begins, self.lines_read = before + 1, before

    def __iter__(self) -> _Lines:
        return self

    def __next__(self) -> str:
        most = self._most
        line = self._stream.readline() if most is None else self._stream.readline(most + 1)
        if not line:
            raise StopIteration
        self.lines_read += 1
        self._length += len(line)
        self._taken.append(line)
        if most is not None and self._length > most:
            raise _RowTooLong
        return line

    def rest_of_row(self) -> Iterator[str]:
        """Yield what was taken of a row that is too long to be held, and the rest of it, some at a time."""
        assert self._most is not None
        line = self._taken[-1]
        quotes = sum(each.count(self._quote) for each in self._taken) if self._quote else 0
        yield self.raw()
        self._taken.clear()
        while quotes % 2 or not line.endswith(("\n", "\r")):
            ended = line.endswith(("\n", "\r"))
            line = self._stream.readline(self._most)
            if not line:
                if quotes % 2:
                    raise csv.Error("a row of more characters than are read does not end")
                return
            yield line
            self.lines_read += ended
            quotes += line.count(self._quote) if self._quote else 0

    def raw(self) -> str:
        """Return the lines since the last row."""
        return "".join(self._taken)

    def begin(self) -> None:
        """Begin a row."""
        self._taken.clear()
        self._length = 0
        self.begins = self.lines_read + 1


class DelimitedTable:
    """A table of a stream of text, opened without newline translation.

    `columns` are the names in its header; a name that is there again gets a number. What comes after others have read
    its header and some rows is given those columns and, as `line`, the number of the line that it begins in.
    """

    def __init__(
        self,
        name: str,
        stream: TextIO,
        delimiter: str,
        quote: str,
        longest: int | None,
        notes: SourceNotes,
        columns: list[str] | None = None,
        line: int = 1,
    ) -> None:
        self.name, self.notes = name, notes
        csv.field_size_limit(LONGEST_CELL)
        self._lines = _Lines(stream, quote, longest, line - 1)
        self._reader = csv.reader(
            self._lines,
            delimiter=delimiter,
            quotechar=quote or None,
            quoting=csv.QUOTE_MINIMAL if quote else csv.QUOTE_NONE,
            strict=True,
        )
        if columns is not None:
            self.header, self.columns = "", columns
            return
        try:
            header = self._next()
        except _RowTooLong:
            raise UsageError(f"{name}:1: a header of more than {longest:,} characters; is it a table?") from None
        if header is None:
            raise UsageError(f"{name} is empty; its first line names the columns")
        self.header = self._lines.raw()
        self.columns = told_apart(header)

    @property
    def lines_read(self) -> int:
        """How many lines were read so far."""
        return self._lines.lines_read

    def rows(self) -> Iterator[DelimitedRow]:
        """Yield the rows; a row with fewer cells than the header is filled up with empty ones.

        Raises UsageError for what is no CSV.
        """
        columns = self.columns
        width = len(columns)
        while True:
            try:
                row = self._next()
            except _RowTooLong:
                number = self._lines.begins
                self.notes.overlong.note(number)
                for piece in self._rest_of_row():
                    yield DelimitedRow(number, None, piece)
                continue
            if row is None:
                return
            number = self._lines.begins
            if len(row) != width:
                if not (width == 1 and not row):
                    self.notes.ragged.note(number)
                row = row + [""] * (width - len(row))
            yield DelimitedRow(number, dict(zip(columns, row, strict=False)), self._lines.raw())

    def _next(self) -> list[str] | None:
        self._lines.begin()
        with self._refusing():
            return next(self._reader, None)

    def _rest_of_row(self) -> Iterator[str]:
        with self._refusing():
            yield from self._lines.rest_of_row()

    @contextmanager
    def _refusing(self) -> Iterator[None]:
        try:
            yield
        except csv.Error as error:
            where = f"{self.name}:{self._lines.begins}"
            raise UsageError(f"{where}: not CSV: {error}; is a quote left open in this row?") from None


def entries(source: Source, stream: Stream) -> Iterator[Entry]:
    """Yield the rows of a source that is CSV or TSV."""
    delimiter = source.delimiter = delimiter_of(source)
    table = _table(source, source.bytes_of(stream), delimiter)
    source.columns, source.header = table.columns, table.header
    source.check_columns(table.columns)
    yield from _entries(source, table)


def blocks(source: Source, stream: Stream) -> Iterator[DelimitedBlock | Iterator[Entry]]:
    """Yield the rows of a source that is CSV or TSV in blocks, and last, if any are left, those read singly."""
    options = source.read_options
    delimiter = source.delimiter = delimiter_of(source)
    quote = checked_quote(options.quote)
    raw = source.bytes_of(stream)

    def read(size: int) -> bytes:
        return raw.read(size) or b""

    chunk = b""
    while len(chunk) < BLOCK and (more := read(BLOCK)):
        chunk += more
    head = _head(source, chunk, delimiter) if delimiter.isascii() and quote.isascii() else None
    if head is None:
        left, line, columns = chunk, 1, None
    else:
        columns = source.columns = head.columns
        source.header = head.header
        source.check_columns(columns)
        wanted = {*((options.column,) if options.column is not None else ()), *source.needed_columns}
        if options.cells_wanted:
            wanted.update(columns)
        reader = BlockReader(columns, list(wanted), options.column, Dialect(delimiter, quote), options.longest)
        yield from source.ahead(reader.blocks(chunk[len(encoded(head.header)) :], head.lines_read + 1, read))
        if reader.left is None:
            return
        left, line = reader.left, reader.line
    table = _table(source, Rejoined(left, raw), delimiter, columns, line)
    if columns is None:
        source.columns, source.header = table.columns, table.header
        source.check_columns(table.columns)
    yield _entries(source, table)


def _head(source: Source, chunk: bytes, delimiter: str) -> DelimitedTable | None:
    """Return the header of a table that is surely whole in its first bytes; None where it is not."""
    try:
        table = _table(source, io.BytesIO(chunk), delimiter)
    except UsageError:
        return None
    return table if table.header.endswith("\n") and not has_escapes(table.header) else None


def _table(
    source: Source, stream: io.RawIOBase | io.BytesIO, delimiter: str, columns: list[str] | None = None, line: int = 1
) -> DelimitedTable:
    buffered = io.BufferedReader(stream, BLOCK)
    text = io.TextIOWrapper(buffered, encoding="utf-8", errors="surrogateescape", newline="")
    options = source.read_options
    quote = checked_quote(options.quote)
    return DelimitedTable(source.name, text, delimiter, quote, options.longest_row, source.notes, columns, line)


def _entries(source: Source, table: DelimitedTable) -> Iterator[Entry]:
    options = source.read_options
    column = options.column
    for number, cells, raw in table.rows():
        if cells is None and not options.passes_on:
            continue
        if not raw.isascii() and has_escapes(raw):
            source.notes.undecodable.note(number)
            source.refuse_undecodable()
        if cells is None:
            yield Entry(number, None, None, raw)
            continue
        yield Entry(number, cells[column] if column is not None else "", cells, raw)


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

    def body(self, rows: list[Row]) -> str:
        """See `RowFormat.body`."""
        sink = _Rows()
        own = [index for index, column in enumerate(self.columns) if column.type in _OWN_FORM]
        own = [index for index in own if any(type(row[index]) is not str for row in rows)]
        if own:
            rows = [self._plain(row, own) for row in rows]
        if self.for_spreadsheet:
            rows = [[guarded(cell) for cell in row] for row in rows]
        # With CR LF as line end, the writer puts quotes around a lone CR too, which with LF alone it does not.
        csv.writer(sink, delimiter=self.delimiter, lineterminator="\r\n").writerows(rows)
        return "".join([f"{row[:-2]}\n" for row in sink.rows])

    @property
    def takes_placed(self) -> bool:
        """See `RowFormat.takes_placed`."""
        return not self.for_spreadsheet and self.delimiter.isascii()

    def placed_body(self, placed: PlacedRows) -> bytes:
        """See `RowFormat.placed_body`."""
        plain = Delimited((), self.delimiter)
        same = [plain.body([["", text]])[len(self.delimiter) : -1] for text in placed.same_texts()]
        return written(placed, [encoded(text) for text in same], None, self.delimiter)

    @staticmethod
    def _plain(row: Row, own: Sequence[int]) -> Row:
        plain = list(row)
        for index in own:
            if plain[index] is not None:
                plain[index] = text_of(plain[index])
        return plain


def guarded(cell: Any) -> Any:
    """Put an apostrophe before a text that a spreadsheet would run as a formula; numbers stay."""
    if isinstance(cell, str) and _RUNS.match(cell) and not _NUMBER.fullmatch(cell):
        return "'" + cell
    return cell
