"""Rows whose cells are places in a block of text: what walkers find, and writers write without an object a cell."""

from __future__ import annotations

import sys
from array import array
from typing import TYPE_CHECKING, Literal

from msgspec import Struct
from msgspec.structs import replace

from fieldstick.data.batch import StoredTexts
from fieldstick.kernels.walkers import NATIVE

if TYPE_CHECKING:
    from collections.abc import Sequence

HEAD = 3
"""Where the cells of a row begin: before them stand the number of its text in the block, from 0, and its place."""

What = Literal["cell", "same", "number", "place", "value"]

_CODES: dict[What, int] = {"cell": 0, "same": 2, "number": 3, "place": 4, "value": 5}
BARE_CELL = 1


class PlacedColumn(Struct, frozen=True):
    """What stands in a column: a `cell` (its start is at `index` in a row, its end after that), the `same` text in
    every row, the `number` of the text, the `place` in code points or the `value` that stands at `index`.
    """

    what: What
    index: int = 0
    text: str = ""


class PlacedRows(Struct):
    """Rows of int32, `width` a row: number, start and end of a text, then pairs of start and end in bytes.

    An absent cell has -1. An offset beyond `data` is one into `side`, which holds what is written otherwise than it
    stands. `refused` has a byte a row, not 0 for one that is left out. `first` is the number of the first text.
    """

    data: bytes
    rows: bytearray
    width: int
    count: int
    first: int = 1
    side: bytearray = bytearray()
    refused: bytearray = bytearray()
    columns: Sequence[PlacedColumn] = ()
    numbers_of_texts: array[int] | None = None
    """The number of each text, where they do not follow one another."""
    rooms: list[bytearray] | None = None
    """Where the room of the rows goes once nobody needs them any more; None where that is another's to say."""

    def taken_over(self) -> PlacedRows:
        """Return the same rows, which are then that one's to let go."""
        taken = replace(self)
        self.rooms = None
        return taken

    def let_go(self) -> None:
        """Give the room of the rows back, unless they are another's: they are gone then."""
        if self.rooms is not None:
            self.rooms.append(self.rows)
            self.rows, self.rooms, self.count = bytearray(), None, 0

    @property
    def left(self) -> int:
        """How many rows are not left out."""
        return self.refused.count(0) if self.refused else self.count

    def numbers(self) -> array[int]:
        """Return the number in the block of each row's text, from 0; rows that are left out included."""
        return self.places()[:: self.width]

    def places(self) -> array[int]:
        """Return all rows as integers, one after the other."""
        found = array("i")
        found.frombytes(memoryview(self.rows)[: 4 * self.width * self.count])
        return found

    def coded_columns(self, bare: frozenset[int] = frozenset()) -> array[int]:
        """Return the columns as the writer takes them; `bare` are those whose cells are written as they are."""
        found, same = array("i"), 0
        for number, column in enumerate(self.columns):
            code = BARE_CELL if column.what == "cell" and number in bare else _CODES[column.what]
            found.extend((code, same if column.what == "same" else column.index))
            same += column.what == "same"
        return found

    def same_texts(self) -> list[str]:
        """Return the texts of the columns that are the same in every row."""
        return [column.text for column in self.columns if column.what == "same"]


def with_cells(placed: PlacedRows, cells: Sequence[array[int]]) -> PlacedRows:
    """Return rows with further cells of their texts behind the others: pairs of start and end of each text."""
    width = placed.width + 2 * len(cells)
    rows = array("i", bytes(4 * width * placed.count))
    before, numbers = placed.places(), placed.numbers()
    for at in range(placed.width):
        rows[at::width] = before[at :: placed.width]
    for number, each in enumerate(cells):
        at = placed.width + 2 * number
        starts, ends = each[0::2], each[1::2]
        rows[at::width] = array("i", [starts[text] for text in numbers])
        rows[at + 1 :: width] = array("i", [ends[text] for text in numbers])
    return PlacedRows(
        placed.data,
        bytearray(rows.tobytes()),
        width,
        placed.count,
        placed.first,
        placed.side,
        placed.refused,
        placed.columns,
        placed.numbers_of_texts,
    )


def written(
    placed: PlacedRows,
    same: Sequence[bytes],
    heads: Sequence[bytes] | None,
    delimiter: str = ",",
    bare: frozenset[int] = frozenset(),
) -> bytes:
    """Write rows as text: as JSON with `heads` before the columns and at the end of a row, else as CSV.

    `same` are the texts of the columns that are the same in every row, as they are written; `bare` the columns whose
    cells JSON has as they are.
    """
    assert NATIVE is not None
    return NATIVE.write(
        placed.data,
        placed.side,
        placed.rows,
        placed.width,
        placed.count,
        placed.refused,
        placed.coded_columns(bare),
        same,
        heads,
        ord(delimiter),
        placed.first,
        placed.numbers_of_texts,
    )


def as_lines(data: bytes, cells: array[int]) -> StoredTexts | None:
    """Return texts that are cells as lines; None where one holds what ends lines."""
    assert NATIVE is not None
    return _lines_of(NATIVE.lined(data, cells), len(cells) // 2)


def texts_as_lines(texts: Sequence[str]) -> StoredTexts | None:
    """Return texts as lines are stored; None where one holds what ends lines, or what nothing of UTF-8 stands for."""
    try:
        data = "".join([f"{text}\n" for text in texts]).encode("utf-8", "surrogateescape")
    except UnicodeEncodeError:
        return None
    return _lines_of(data, len(texts))


def _lines_of(data: bytes, wanted: int) -> StoredTexts | None:
    """Return so many texts that were put one after the other as lines; None where that made more lines of them."""
    assert NATIVE is not None
    count, _, longest, is_ascii, _, _, ends = NATIVE.survey(data, 0)
    if count != wanted or b"\r" in data:
        return None
    return StoredTexts(data, count, longest=longest, ends=ends, known_ascii=is_ascii)


def counted(finishes: bytearray, kinds: int) -> list[int]:
    """Count finishes, int16 a line: those of -1 first, then those of each kind."""
    assert NATIVE is not None
    return NATIVE.tally(finishes, kinds)


def missed(finishes: bytearray) -> bytes:
    """Tell of each finish, int16 a line, as a byte: 1 for one of -1, 0 for another."""
    # The high byte is 255 for -1 alone: there are fewer kinds than 32,512.
    return bytes(finishes[_HIGH::2]).translate(_NEGATIVE)


_HIGH = 1 if sys.byteorder == "little" else 0
_NEGATIVE = bytes(each == 255 for each in range(256))


def mark(placed: PlacedRows, fits: bytearray) -> None:
    """Set to 0 what stands in `fits` (int16) for each text of which a row is not left out."""
    assert NATIVE is not None
    NATIVE.mark(placed.rows, placed.width, placed.count, placed.refused, fits)


def doubt(stored: StoredTexts, fits: bytearray, blanks: Sequence[bytes], *, required: bool, doubted: bytearray) -> None:
    """Set the byte in `doubted` of each text that is not to be accepted, or of which that is not sure.

    One is accepted that fits, or that is blank and not `required`; white space is blank, and the texts of `blanks`.
    """
    assert NATIVE is not None
    NATIVE.doubt(stored.data, stored.cells, fits, blanks, required, doubted)


def gathered(stored: StoredTexts, finishes: bytearray, heap_of: Sequence[int]) -> list[bytes]:
    """Put texts as they stand on heaps by their finishes: `heap_of` tells that of -1, then of each; -1 for none."""
    assert NATIVE is not None
    heaps = max(heap_of, default=-1) + 1
    return NATIVE.gather(stored.data, stored.raws, finishes, array("i", heap_of), heaps, stored.ends)


def replaced(placed: PlacedRows, parts: Sequence[int], texts: Sequence[bytes]) -> tuple[bytes, int, int]:
    """Put something in place of each row's match; return all, how many texts changed, and how many matches in them.

    `parts` is what stands there: the index of one of `texts`, or -1 - n for the cell whose place is at n of the row.
    """
    assert NATIVE is not None
    rows, refused = placed.rows, placed.refused
    return NATIVE.replace(placed.data, rows, placed.width, placed.count, refused, array("i", parts), texts)


PIECE_WIDTH = HEAD + 3
"""The width of the rows of pieces: after the head the number of the piece, from 1, and its place."""


def cut_up(
    stored: StoredTexts, matches: PlacedRows, *, keep_separators: bool, drop_empty: bool
) -> tuple[PlacedRows, int]:
    """Cut texts up at their matches; return a row for each piece, and how many texts came to more than one."""
    assert NATIVE is not None
    room = 2 * matches.count + stored.count + 1
    out = bytearray(4 * PIECE_WIDTH * room)
    found = (stored.data, stored.cells, matches.rows, matches.width, matches.count)
    made = NATIVE.pieces(*found, keep_separators, drop_empty, out)
    assert made is not None
    count, cut = made
    return PlacedRows(stored.data, out, PIECE_WIDTH, count, matches.first, numbers_of_texts=stored.numbers), cut
