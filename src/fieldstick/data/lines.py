"""Lines of a source in blocks: cut at line ends from the bytes, decoded where they are worked on."""

from __future__ import annotations

import codecs
import io
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

from fieldstick.data.items import Met, Texts
from fieldstick.errors import UsageError

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from fieldstick.data.items import Named

BLOCK = 1 << 20
"""Bytes of a block: large enough that handing it over costs little, small enough to keep memory flat."""

MOST_BYTES = 4
"""Bytes that a code point takes in UTF-8 at the most (RFC 3629)."""

MARK = "\N{ZERO WIDTH NO-BREAK SPACE}"


@dataclass(frozen=True, slots=True)
class LineBlock:
    """Whole lines as UTF-8, the first one's number, and the limit of a text in code points."""

    first: int
    data: bytes
    longest: int | None

    def load(self) -> Texts:
        """Decode the lines; bytes that are no UTF-8 become U+DC80 to U+DCFF (PEP 383)."""
        met = Met()
        try:
            text, broken = self.data.decode(), False
        except UnicodeDecodeError:
            text, broken = self.data.decode("utf-8", "surrogateescape"), True
        marked = self.first == 1 and text.startswith(MARK)
        lines = text.split("\n")
        ended = not lines[-1]
        if ended:
            lines.pop()
        plain = ended and not marked and "\r" not in text
        numbers = range(self.first, self.first + len(lines))
        if broken:
            for number, line in zip(numbers, lines, strict=True):
                if not line.isascii() and has_escapes(line):
                    met.undecodable.note(number)
        found = Texts(numbers, lines, met=met)
        if plain:
            met.line_ends["LF"] = len(lines)
        else:
            met.byte_order_mark = marked
            _take_off_ends(found, ended)
        if self.longest is not None and lines and len(max(lines, key=len)) > self.longest:
            found = _without_overlong(found, self.longest)
        return found


def has_escapes(line: str) -> bool:
    """Tell whether a text holds bytes that could not be decoded, or other lone surrogates."""
    try:
        line.encode("utf-8")
    except UnicodeEncodeError:
        return True
    return False


def _take_off_ends(found: Texts, ended: bool) -> None:
    lines = found.texts
    found.raws = [line + "\n" for line in lines]
    if not ended and lines:
        found.raws[-1] = lines[-1]
    if found.met.byte_order_mark:
        lines[0] = lines[0][1:]
    returns = [index for index, line in enumerate(lines) if line.endswith("\r")]
    if returns and not ended and returns[-1] == len(lines) - 1:
        returns.pop()
    for index in returns:
        lines[index] = lines[index][:-1]
    ends = {"CR LF": len(returns), "LF": len(lines) - len(returns) - (0 if ended or not lines else 1)}
    found.met.line_ends.update({name: count for name, count in ends.items() if count})


def _without_overlong(found: Texts, longest: int) -> Texts:
    kept = [index for index, text in enumerate(found.texts) if len(text) <= longest]
    for number, text in zip(found.numbers, found.texts, strict=True):
        if len(text) > longest:
            found.met.overlong.note(number)
    return replace(
        found,
        numbers=[found.numbers[index] for index in kept],
        texts=[found.texts[index] for index in kept],
        raws=[found.raw(index) for index in kept] if found.raws is not None else None,
    )


def line_blocks(
    read: Callable[[int], bytes],
    longest: int | None,
    overlong: Named,
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


def checked_encoding(name: str) -> str:
    """Return an encoding's name as Python has it.

    Raises UsageError for one that is not known, or is none for text.
    """
    try:
        found = codecs.lookup(name)
        if not found._is_text_encoding:
            raise LookupError
    except LookupError:
        raise UsageError(f"there is no encoding '{name}' here; give one like utf-8, latin-1 or utf-16") from None
    return "utf-8" if found.name == "utf-8-sig" else found.name


class Transcoded(io.RawIOBase):
    """Bytes of another encoding read as UTF-8; what is no text in it becomes bytes that are no UTF-8 either."""

    def __init__(self, stream: io.RawIOBase, encoding: str) -> None:
        super().__init__()
        self._stream = stream
        self._decoder = codecs.getincrementaldecoder(encoding)(errors="fieldstick-kept")
        self._left = b""
        self._ended = False

    def readable(self) -> bool:
        """It can be read."""
        return True

    def readinto(self, buffer: Any) -> int:
        """Fill `buffer` with what comes next; 0 at the end."""
        view = memoryview(buffer).cast("B")
        while not self._left and not self._ended:
            packed = self._stream.read(BLOCK) or b""
            self._ended = not packed
            text = self._decoder.decode(packed, final=self._ended)
            self._left = text.encode("utf-8", "surrogateescape")
        found, self._left = self._left[: len(view)], self._left[len(view) :]
        view[: len(found)] = found
        return len(found)


def _kept(error: UnicodeError) -> tuple[str, int]:
    """Stand in for bytes that are no text: a high byte as PEP 383 has it, another as U+DCFF."""
    assert isinstance(error, UnicodeDecodeError)
    bad = error.object[error.start : error.end]
    return "".join(chr(0xDC00 + byte) if byte >= 0x80 else "\udcff" for byte in bad), error.end


codecs.register_error("fieldstick-kept", _kept)
