"""CSV in blocks of whole rows, of which only the cells that are asked for are looked at; walkers find them.

What they do not read for sure (a carriage return alone, something after a closing quote, too long rows) is left to
the reader of single rows, with all that follows: the rows are the same either way.
"""

from __future__ import annotations

import csv
import io
from array import array
from functools import cached_property
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fieldstick.data.batch import MOST_NAMED, Batch, CellBatch, SourceNotes, StoredTexts
from fieldstick.data.coding import BLOCK
from fieldstick.kernels.walkers import NATIVE

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence

_CUT_OFF, _STRANGE, _CROWDED = 1, 2, 3


class Dialect(Struct, frozen=True):
    """How the cells of CSV are parted, each mark one character of ASCII; no quote is an empty text."""

    delimiter: str
    quote: str


class TableBatch(CellBatch):
    """Rows of CSV that follow one another, as they are stored; cells are made when first asked for.

    Without a column that is read, each text is empty.
    """

    def __init__(self, block: DelimitedBlock) -> None:
        self.table = block
        count = len(block.numbers)
        cells = block.cells[block.column] if block.column is not None else array("i", [0]) * (2 * count)
        super().__init__(StoredTexts(block.data, count, 0, cells, block.raws, block.numbers), block.notes)

    @cached_property
    def rows(self) -> Sequence[Mapping[str, Any]]:
        """See `Batch.rows`."""
        return self.table.rows()

    def columns(self) -> Iterator[tuple[str, Batch]]:
        """Yield the cells of each wanted column."""
        table = self.table
        for name, cells in table.cells.items():
            stored = StoredTexts(table.data, len(table.numbers), 0, cells, table.raws, table.numbers)
            yield name, CellBatch(stored, table.notes)


class DelimitedBlock(Struct):
    """Whole rows of CSV: the place of each, the number of the line it begins in, and the places of the wanted cells."""

    data: bytes
    raws: array[int]
    numbers: array[int]
    cells: dict[str, array[int]]
    column: str | None
    columns: list[str]
    dialect: Dialect
    notes: SourceNotes

    @property
    def has_all_cells(self) -> bool:
        """Whether the places of the cells of all columns are known."""
        return len(self.cells) == len(self.columns)

    def parts(self) -> Iterator[Batch]:
        """Give all rows at once."""
        yield TableBatch(self)

    def texts(self, column: str, rows: Iterable[int] | None = None) -> list[str]:
        """Return the cells of a wanted column, of all rows or of those at some indexes."""
        data, places = self.data, self.cells[column]
        if rows is None:
            return StoredTexts(data, len(self.numbers), cells=places).texts()
        return [data[places[2 * at] : places[2 * at + 1]].decode("utf-8", "surrogateescape") for at in rows]

    def rows(self) -> list[dict[str, str]]:
        """Return all rows by column."""
        text = self.data[: self.raws[-1]].decode("utf-8", "surrogateescape")
        quote = self.dialect.quote
        reader = csv.reader(
            io.StringIO(text, newline=""),
            delimiter=self.dialect.delimiter,
            quotechar=quote or None,
            quoting=csv.QUOTE_MINIMAL if quote else csv.QUOTE_NONE,
            strict=True,
        )
        width, columns = len(self.columns), self.columns
        return [dict(zip(columns, row + [""] * (width - len(row)), strict=False)) for row in reader]


class BlockReader:
    """Reads blocks of rows that come after a header; `left` and `line` tell where it stopped before the end."""

    def __init__(
        self, columns: list[str], wanted: Sequence[str], column: str | None, dialect: Dialect, longest: int | None
    ) -> None:
        self._columns, self._column, self._dialect = columns, column, dialect
        self._wanted = sorted(set(wanted), key=columns.index)
        self._longest = longest if longest is not None else 1 << 30
        self.left: bytes | None = None
        """What is left to another reader, before what follows it; None when all was read."""
        self.line = 1
        """The number of the line that what is left begins in."""

    def blocks(self, first: bytes, line: int, read: Callable[[int], bytes]) -> Iterator[DelimitedBlock]:
        """Yield the rows of `first`, which begins in a line of that number, and of what `read` gives after it."""
        chunk, self.line = first, line
        size = BLOCK
        while True:
            more = read(size)
            if more:
                chunk += more
            elif not chunk:
                return
            block, at, status = self._next_block(chunk, final=not more)
            if block is not None:
                yield block
            chunk = chunk[at:]
            if status == _STRANGE or len(chunk) > self._longest:
                self.left = chunk
                return
            # A row that is not complete yet may be as long as all that was read.
            size = max(BLOCK, len(chunk))
            if not more and status != _CROWDED:
                return

    def _next_block(self, chunk: bytes, *, final: bool) -> tuple[DelimitedBlock | None, int, int]:
        assert NATIVE is not None
        wanted = array("i", map(self._columns.index, self._wanted))
        # Each row but the last ends with a line feed, or is not read here.
        room = chunk.count(b"\n") + 1
        cells, raws, numbers = bytearray(8 * len(wanted) * room), bytearray(8 * room), bytearray(4 * room)
        extra = bytearray(len(chunk))
        quote = ord(self._dialect.quote) if self._dialect.quote else -1
        status, at, rows, line, used, ragged, ragged_rows, broken, broken_rows = NATIVE.delimited(
            chunk,
            final,
            ord(self._dialect.delimiter),
            quote,
            len(self._columns),
            self._longest,
            self.line,
            wanted,
            cells,
            raws,
            numbers,
            extra,
            MOST_NAMED,
        )
        self.line = line
        if not rows:
            return None, at, status
        notes = SourceNotes()
        for noted, total, found in (
            (notes.ragged, ragged, ragged_rows),
            (notes.undecodable, broken, broken_rows),
        ):
            noted.extend(found)
            noted.total = total
        places = {name: _integers(cells, 2 * number * room, 2 * rows) for number, name in enumerate(self._wanted)}
        data = chunk + bytes(memoryview(extra)[:used]) if used else chunk
        of_rows = _integers(raws, 0, 2 * rows), _integers(numbers, 0, rows)
        return DelimitedBlock(data, *of_rows, places, self._column, self._columns, self._dialect, notes), at, status


def _integers(stored: bytearray, at: int, count: int) -> array[int]:
    found = array("i")
    found.frombytes(memoryview(stored)[4 * at : 4 * (at + count)])
    return found
