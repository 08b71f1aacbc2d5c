"""JSON Lines in blocks, of which only the value of one key is looked at; walkers find it.

A line that they do not read for sure is read as any other line of JSON is, and its text put beside the others.
"""

from __future__ import annotations

from array import array
from functools import cached_property
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fieldstick.data.batch import Batch, CellBatch, SourceNotes, StoredTexts
from fieldstick.kernels.walkers import NATIVE

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Mapping, Sequence


_HALF = b"\\ud"
"""What begins the escape of half a pair of surrogates: a text that holds one alone cannot be stored as UTF-8."""


class JsonBlock(Struct):
    """Lines of JSON of which each has a text: the place of the line, its number, and the place of its text."""

    stored: StoredTexts
    notes: SourceNotes
    parse: Callable[[str], Any]

    def parts(self) -> Iterator[Batch]:
        """Give all lines at once."""
        yield JsonBatch(self)


class JsonBatch(CellBatch):
    """Lines of JSON that follow one another, parsed when their rows are first asked for."""

    def __init__(self, block: JsonBlock) -> None:
        self._parse = block.parse
        super().__init__(block.stored, block.notes)

    @cached_property
    def rows(self) -> Sequence[Mapping[str, Any]]:
        """See `Batch.rows`."""
        values = [self._parse(self.raw(index)) for index in range(len(self.numbers))]
        return [value if isinstance(value, dict) else {"value": value} for value in values]


def keyed_block(
    found: Batch,
    key: str,
    text_of_line: Callable[[int, str], str | None],
    parse: Callable[[str], Any],
    everything: bool,
) -> JsonBlock | None:
    """Return the texts at a key of lines of JSON; None where lines without a text are wanted too, and there are some.

    `text_of_line` reads a line that walkers did not read, given its number, and notes what is wrong with it.
    """
    assert NATIVE is not None and found.stored is not None
    data, count, first = found.stored.data, found.stored.count, found.numbers[0] if found.stored.count else 1
    cells, raws, extra = bytearray(8 * count), bytearray(8 * count), bytearray(len(data))
    _, used, odd = NATIVE.keyed(data, key.encode("utf-8", "surrogateescape"), cells, raws, extra)
    if odd and everything:
        return None
    beside = extra[:used]
    places, lines = array("i", bytes(cells)), array("i", bytes(raws))
    if any(_HALF in data[lines[2 * number] : lines[2 * number + 1]].lower() for number in odd):
        return None
    left_out = set()
    for number in odd:
        start, end = lines[2 * number : 2 * number + 2]
        text = text_of_line(first + number, data[start:end].decode("utf-8", "surrogateescape"))
        if text is None:
            left_out.add(number)
            continue
        places[2 * number] = len(data) + len(beside)
        beside += text.encode("utf-8", "surrogateescape")
        places[2 * number + 1] = len(data) + len(beside)
    numbers = array("i", range(first, first + count))
    if left_out:
        kept = [number for number in range(count) if number not in left_out]
        places, lines = (
            array("i", [each for number in kept for each in pairs[2 * number : 2 * number + 2]])
            for pairs in (places, lines)
        )
        numbers = array("i", [first + number for number in kept])
    return JsonBlock(StoredTexts(data + bytes(beside), len(numbers), 0, places, lines, numbers), found.notes, parse)
