"""Lines of a source in blocks: cut at line ends from the bytes, decoded where they are worked on."""

from __future__ import annotations

import codecs
from array import array
from typing import TYPE_CHECKING, Any

from msgspec import Struct
from msgspec.structs import replace

from fieldstick.data.batch import MOST_NAMED, Batch, CellBatch, SourceNotes, StoredTexts
from fieldstick.data.coding import BLOCK
from fieldstick.kernels.walkers import NATIVE

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from fieldstick.data.batch import Block, Glance
    from fieldstick.data.compression import Stream
    from fieldstick.kernels.calls import Survey

    MakeAtOnce = Callable[[int, int, int], Glance | None]
    """Makes what is wanted of lines as it reads them: by the number of a file, their place and their bytes, or not."""

PIECE = 1 << 16
"""Bytes of a block that are worked on at a time: few enough to stay in a processor's cache, and for a character beyond
ASCII to slow few lines beside its own. A block is large enough that handing it over costs little.
"""

FIRST, GLANCED = 1 << 17, 4 * BLOCK
"""Bytes of a block of lines of which what is wanted may be made at a glance: the first one, and once that is done."""

LONG_LAST = 1 << 16
"""Bytes of a last line without an end from which on walkers read it."""

MOST_BYTES = 4
"""Bytes that a code point takes in UTF-8 at the most (RFC 3629)."""


class LineBlock(Struct, frozen=True):
    """Whole lines as UTF-8, the first one's number, and the limit of a text in code points.

    Lines beyond the limit are left out, or given without text where they are to be passed on.
    """

    first: int
    data: bytes
    longest: int | None
    passes_on: bool = False
    surveyed: Survey | None = None
    """What walkers saw in the lines, if they have looked already."""

    glance: Glance | None = None
    """What was made of the lines at once, which nobody has surveyed then."""

    beside: Any = None
    """What was made of the lines while they were read, if anything was."""

    def with_beside(self, make: Callable[[StoredTexts], Any]) -> LineBlock:
        """Return it with what is made of its lines, where walkers know them to be whole and short enough."""
        block = self.looked_at()
        stored = block.stored()
        return block if stored is None else replace(block, beside=make(stored))

    def looked_at(self) -> LineBlock:
        """Return it with what walkers see in its lines, where all of them have an end."""
        if self.glance is not None or self.surveyed is not None or NATIVE is None or not self.data.endswith(b"\n"):
            return self
        return replace(self, surveyed=NATIVE.survey(self.data, MOST_NAMED))

    def stored(self) -> StoredTexts | None:
        """Return the lines, which were looked at, not decoded yet; None where they must be looked at one by one."""
        if self.glance is not None:
            return StoredTexts(self.data, self.glance.lines, self.glance.returns, known_ascii=True)
        if self.surveyed is None or not self.data.endswith(b"\n"):
            return None
        count, returns, longest, is_ascii, _, _, ends = self.surveyed
        if self.longest is not None and longest > self.longest:
            return None
        return StoredTexts(self.data, count, returns, longest=longest, ends=ends, known_ascii=is_ascii)

    def parts(self) -> Iterator[Batch]:
        """Give the lines, all at once where walkers know them to be whole and short enough, else a piece at a time.

        Bytes that are no UTF-8 become U+DC80 to U+DCFF (PEP 383).
        """
        surveyed = _surveyed(self)
        if surveyed is not None:
            yield surveyed
            return
        first, at, end = self.first, 0, len(self.data)
        whole = self.data.rfind(b"\n") + 1
        if NATIVE is not None and end - whole >= LONG_LAST and (self.longest is None or end - whole <= self.longest):
            if whole:
                yield from LineBlock(first, self.data[:whole], self.longest, self.passes_on).parts()
            yield _long_last(self.data[whole:], first + self.data.count(b"\n"))
            return
        while at < end:
            cut = self.data.find(b"\n", at + PIECE) + 1 or end
            found = piece = _piece(self.data[at:cut], first)
            if self.longest is not None and cut - at > self.longest:
                found = _without_overlong(piece, self.longest, passes_on=self.passes_on)
            at = cut
            yield found
            # Counted last: whoever worked on the piece may have cut it into lines.
            first += len(piece.numbers)


def _surveyed(block: LineBlock) -> Batch | None:
    """Return the lines of a block, not decoded yet; None where they must be looked at one by one."""
    block = block.looked_at()
    stored = block.stored()
    if stored is None:
        return None
    notes = SourceNotes()
    broken, numbers = block.surveyed[4:6] if block.surveyed is not None else (0, [])
    for number in numbers:
        notes.undecodable.note(block.first + number)
    if broken:
        notes.undecodable.total = broken
    found = Batch(None, None, notes=notes, first=block.first, stored_texts=stored)
    found.beside = block.glance.made if block.glance is not None else block.beside
    return found


def _long_last(data: bytes, number: int) -> Batch:
    """Return a line without an end so that walkers read it, which its length would be too much for without them."""
    notes = SourceNotes()
    if decoded(data)[1]:
        notes.undecodable.note(number)
    place = array("i", (0, len(data)))
    return CellBatch(StoredTexts(data, 1, cells=place, raws=place, numbers=array("i", (number,))), notes)


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


def _without_overlong(found: Batch, longest: int, *, passes_on: bool) -> Batch:
    overlong = {index for index, text in enumerate(found.texts) if len(text) > longest}
    for index in sorted(overlong):
        found.notes.overlong.note(found.numbers[index])
    if not overlong:
        return found
    return found.without_texts(overlong) if passes_on else found.without(overlong)


class UnreadPiece(Struct, frozen=True):
    """A piece of something that is longer than is read, as UTF-8: passed on as it stands."""

    number: int
    data: bytes

    def parts(self) -> Iterator[Batch]:
        """Give the piece as what holds no text."""
        notes = SourceNotes()
        raw, broken = decoded(self.data)
        if broken:
            notes.undecodable.note(self.number)
        yield Batch([self.number], [""], [raw], notes=notes, without_text=frozenset({0}))


class Overlong(Struct, frozen=True):
    """Stands where a line that is too long was met: its number."""

    number: int


def whole_characters(data: bytes) -> int:
    """Return how many bytes of UTF-8 can be cut off without cutting a character in two, more of it coming."""
    for back in range(1, min(MOST_BYTES, len(data) - 1) + 1):
        if data[-back] >= _LEADS:
            return len(data) - back
    return len(data)


_LEADS = 0xC0
"""The least byte that leads a character of several bytes, or bytes that are no text (RFC 3629)."""


def _cut(rest: list[bytes], chunk: bytes) -> tuple[bytes, bytes, Survey | None] | None:
    """Cut bytes that follow others behind their last line feed, and survey the lines; None where there is none."""
    if b"\n" not in chunk:
        return None
    if NATIVE is not None:
        if not rest and chunk.endswith(b"\n"):
            return chunk, b"", NATIVE.survey(chunk, MOST_NAMED)
        return NATIVE.cut(b"".join(rest), chunk, MOST_NAMED)
    cut = chunk.rfind(b"\n") + 1
    return b"".join([*rest, memoryview(chunk)[:cut]]), chunk[cut:], None


def whole_blocks(
    stream: Stream,
    like: LineBlock,
    size: int,
    glance: MakeAtOnce | None,
    beside: Callable[[StoredTexts], Any] | None,
    *,
    shares: bool,
) -> Iterator[tuple[LineBlock, int]]:
    """Yield blocks of whole lines of a plain file, with how many they are, as long as they are seen to be whole.

    They are `like` a block but for the lines; the numbers of these are not told. Two threads read them where it
    `shares`. What is made of lines at a `glance` is made of more of them at once, for they are not held; else what is
    made `beside` is made of lines as they are stored.
    """
    read_block = getattr(NATIVE, "read_block", None)
    if read_block is None:
        return
    file, longest = stream.stored.fileno(), like.longest
    # What can be made at a glance is known once a few lines were worked on.
    sizes = [size if glance is None else min(size, FIRST)]

    def done(claim: tuple[int, int]) -> tuple[LineBlock, int, int]:
        place, held = claim
        made = glance(file, place, held) if glance is not None and held <= (longest or held) else None
        sizes[0] = size if made is None else GLANCED
        if made is not None:
            return replace(like, glance=made), made.lines, place + held
        data, seen = read_block(file, place, held, MOST_NAMED)
        block = replace(like, data=data, surveyed=seen)
        return block if beside is None else block.with_beside(beside), seen[0], place + held

    claims = stream.whole_blocks(lambda: sizes[0])
    if shares:
        from fieldstick.data.shared_reading import shared
    for block, lines, place in shared(claims, done) if shares else map(done, claims):
        stream.passed(place)
        yield block, lines


def line_blocks(
    read: Callable[[int], bytes],
    longest: int | None,
    *,
    passes_on: bool = False,
    broken_off: Callable[[], bool] = lambda: False,
    first: int = 1,
    size: int = BLOCK,
) -> Iterator[Block | Overlong]:
    """Cut bytes into blocks of whole lines, the first of number `first`; the last line may have no end, unless the data
    is `broken_off` there.

    A line that is surely longer than `longest` code points is never held: its number is told, and it is left out, or
    where it `passes_on`, given in pieces.
    """
    most = None if longest is None else max(longest * MOST_BYTES, size)
    number, length, skipping = first, 0, False
    rest: list[bytes] = []
    while chunk := read(size):
        if skipping:
            end = chunk.find(b"\n") + 1
            if passes_on:
                piece = b"".join([*rest, chunk[:end] if end else chunk])
                cut = len(piece) if end else whole_characters(piece)
                yield UnreadPiece(number, piece[:cut])
                rest = [piece[cut:]] if not end else []
            if not end:
                continue
            chunk, skipping = chunk[end:], False
            number += 1
        lines = _cut(rest, chunk)
        if lines is not None:
            data, chunk, surveyed = lines
            yield LineBlock(number, data, longest, passes_on, surveyed)
            number += surveyed[0] if surveyed is not None else data.count(b"\n")
            rest, length = [], 0
        if chunk:
            rest.append(chunk)
            length += len(chunk)
        if most is not None and length > most:
            yield Overlong(number)
            length, skipping = 0, True
            rest = rest if passes_on else []
    if rest and not broken_off():
        yield UnreadPiece(number, b"".join(rest)) if skipping else LineBlock(number, b"".join(rest), longest, passes_on)
