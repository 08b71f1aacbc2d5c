"""Lines of a source in blocks: cut at line ends from the bytes, decoded where they are worked on."""

from __future__ import annotations

import codecs
from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.data.batch import Batch, SourceNotes
from fieldstick.data.coding import BLOCK

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from fieldstick.data.batch import LineNumbers

PIECE = 1 << 16
"""Bytes of a block that are worked on at a time: few enough to stay in a processor's cache, and for a character beyond
ASCII to slow few lines beside its own. A block is large enough that handing it over costs little.
"""

MOST_BYTES = 4
"""Bytes that a code point takes in UTF-8 at the most (RFC 3629)."""


class LineBlock(Struct, frozen=True):
    """Whole lines as UTF-8, the first one's number, and the limit of a text in code points."""

    first: int
    data: bytes
    longest: int | None

    def parts(self) -> Iterator[Batch]:
        """Decode the lines, a piece at a time; bytes that are no UTF-8 become U+DC80 to U+DCFF (PEP 383)."""
        first, at, end = self.first, 0, len(self.data)
        while at < end:
            cut = self.data.find(b"\n", at + PIECE) + 1 or end
            found = piece = _piece(self.data[at:cut], first)
            if self.longest is not None and cut - at > self.longest:
                found = _without_overlong(piece, self.longest)
            at = cut
            yield found
            # Counted last: whoever worked on the piece may have cut it into lines.
            first += len(piece.numbers)


def _piece(data: bytes, first: int) -> Batch:
    notes = SourceNotes()
    text, broken = decoded(data)
    if not text.endswith("\n"):
        found = _line_by_line(text, first, notes)
    else:
        found = _joined(text, first, notes)
    number = first
    for before, place in zip([0, *broken], broken, strict=False):
        number += data.count(b"\n", before, place)
        notes.undecodable.note(number)
    return found


def decoded(data: bytes) -> tuple[str, list[int]]:
    """Decode UTF-8, other bytes as PEP 383 has it, and return the offsets at which they stand."""
    try:
        return data.decode(), []
    except UnicodeDecodeError:
        _broken.clear()
        return data.decode("utf-8", "fieldstick-noted"), _broken[:]


_broken: list[int] = []
"""Where undecodable bytes stood in what is being decoded."""


def _noted(error: UnicodeError) -> tuple[str, int]:
    """Stand in for a byte that is no UTF-8 as PEP 383 has it, and note where it stood."""
    assert isinstance(error, UnicodeDecodeError)
    _broken.append(error.start)
    return "".join(chr(0xDC00 + byte) for byte in error.object[error.start : error.end]), error.end


codecs.register_error("fieldstick-noted", _noted)


def _joined(text: str, first: int, notes: SourceNotes) -> Batch:
    if "\r" not in text:
        return Batch(None, None, notes=notes, first=first, joined=text)
    return Batch(None, None, notes=notes, first=first, joined=text.replace("\r\n", "\n"), stored=text)


def _line_by_line(text: str, first: int, notes: SourceNotes) -> Batch:
    """Read lines of which the last has no end."""
    lines = text.split("\n")
    last = lines.pop()
    raws = [line + "\n" for line in lines]
    texts = [line.removesuffix("\r") for line in lines]
    if last:
        texts.append(last)
        raws.append(last)
    return Batch(range(first, first + len(texts)), texts, raws, notes=notes)


def _without_overlong(found: Batch, longest: int) -> Batch:
    overlong = {index for index, text in enumerate(found.texts) if len(text) > longest}
    for index in sorted(overlong):
        found.notes.overlong.note(found.numbers[index])
    return found.without(overlong) if overlong else found


def line_blocks(
    read: Callable[[int], bytes],
    longest: int | None,
    overlong: LineNumbers,
    *,
    broken_off: Callable[[], bool] = lambda: False,
    size: int = BLOCK,
) -> Iterator[LineBlock]:
    """Cut bytes into blocks of whole lines; the last line may have no end, unless the data is `broken_off` there.

    A line that is surely longer than `longest` code points is left out and its number noted in `overlong`.
    """
    most = None if longest is None else max(longest * MOST_BYTES, size)
    number, length, skipping = 1, 0, False
    rest: list[bytes] = []
    while chunk := read(size):
        if skipping:
            end = chunk.find(b"\n")
            if end < 0:
                continue
            chunk, skipping = chunk[end + 1 :], False
            number += 1
        cut = chunk.rfind(b"\n") + 1
        if cut:
            data = b"".join([*rest, chunk[:cut]])
            yield LineBlock(number, data, longest)
            number += data.count(b"\n")
            rest, length = [], 0
        if cut < len(chunk):
            rest.append(chunk[cut:])
            length += len(rest[-1])
        if most is not None and length > most:
            overlong.note(number)
            rest, length, skipping = [], 0, True
    if rest and not broken_off():
        yield LineBlock(number, b"".join(rest), longest)
