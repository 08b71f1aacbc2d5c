"""How text is stored as bytes: encodings, byte orders and byte-order marks, and bytes that are no text in any."""

from __future__ import annotations

import codecs
import io
import re
from typing import Any

from msgspec import Struct

from fieldstick.errors import UsageError
from fieldstick.lean import compiled_later

BLOCK = 1 << 19
"""Bytes that are read at a time."""

MARK = "\N{ZERO WIDTH NO-BREAK SPACE}"

_ORDERS = {
    "utf-16": (("utf-16-le", codecs.BOM_UTF16_LE), ("utf-16-be", codecs.BOM_UTF16_BE)),
    "utf-32": (("utf-32-le", codecs.BOM_UTF32_LE), ("utf-32-be", codecs.BOM_UTF32_BE)),
}
"""Encodings whose byte order a mark tells, with the one that is meant where there is none first."""

_UNICODE = ("utf-8", "utf-16-le", "utf-16-be", "utf-32-le", "utf-32-be")
_ESCAPES = compiled_later("[\udc80-\udcff]+")

_LEAD = 0xF5
"""What leads a byte that is no text in an encoding and not between 0x80 and 0xBF, its two upper bits added.

The lower six follow as a byte between 0x80 and 0xBF. Nothing made so is UTF-8 (RFC 3629), whatever stands beside it, so
that what is read can be told from text, and is written back as it was.
"""


class Coding(Struct, frozen=True):
    """How text is stored: its encoding, byte order included, and whether a byte-order mark leads it."""

    name: str = "utf-8"
    marked: bool = False

    @property
    def mark(self) -> bytes:
        """The bytes of the byte-order mark; none where there is none."""
        return MARK.encode(self.name) if self.marked else b""


def checked_encoding(name: str) -> str:
    """Return an encoding's name as Python has it.

    Raises UsageError for one that is not known, or is none for text.
    """
    try:
        found = codecs.lookup(name)
        if not found._is_text_encoding:
            raise LookupError
    except (LookupError, ValueError):
        raise UsageError(f"there is no encoding '{name}' here; give one like utf-8, latin-1 or utf-16") from None
    return "utf-8" if found.name == "utf-8-sig" else found.name


def coding_of(encoding: str, head: bytes) -> Coding:
    """Return how a source is stored that is said to be in an encoding and has those first bytes.

    Raises UsageError for an encoding that is not known.
    """
    name = checked_encoding(encoding)
    for ordered, mark in _ORDERS.get(name, ()):
        if head.startswith(mark):
            return Coding(ordered, marked=True)
    name = _ORDERS[name][0][0] if name in _ORDERS else name
    return Coding(name, marked=name in _UNICODE and head.startswith(MARK.encode(name)))


def led_by(head: bytes) -> str:
    """Return the encoding whose byte-order mark leads some bytes, one of UTF-8 aside; nothing where none does."""
    # The mark of UTF-32 begins as that of UTF-16 does.
    orders = [(encoding, mark) for encoding in ("utf-32", "utf-16") for _, mark in _ORDERS[encoding]]
    return next((encoding for encoding, mark in orders if head.startswith(mark)), "")


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
    """Stand in for bytes that are no text: bytes that are no UTF-8, as PEP 383 has them."""
    assert isinstance(error, UnicodeDecodeError)
    stand_ins = bytearray()
    for byte in error.object[error.start : error.end]:
        if not 0x80 <= byte < 0xC0:
            stand_ins.append(_LEAD + (byte >> 6))
        stand_ins.append(0x80 | byte & 0x3F)
    return "".join(chr(0xDC00 + byte) for byte in stand_ins), error.end


codecs.register_error("fieldstick-kept", _kept)


def _given_back(escapes: str) -> bytes:
    """Return the bytes that `_kept` let escapes stand for."""
    found, upper = bytearray(), 2
    for each in escapes:
        byte = ord(each) & 0xFF
        if byte >= _LEAD:
            upper = byte - _LEAD
        else:
            found.append(upper << 6 | byte & 0x3F)
            upper = 2
    return bytes(found)


def encoded(text: str, encoding: str = "utf-8") -> bytes:
    """Encode text, undecodable bytes as they were, other lone surrogates as escapes.

    Raises UsageError for a character that the encoding does not have.
    """
    try:
        return text.encode(encoding, "surrogateescape" if encoding == "utf-8" else "strict")
    except UnicodeEncodeError:
        text = without_lone_surrogates(text)
    if encoding == "utf-8":
        return text.encode("utf-8", "surrogateescape")
    found, at = b"", 0
    try:
        for escapes in _ESCAPES.finditer(text):
            found += text[at : escapes.start()].encode(encoding) + _given_back(escapes[0])
            at = escapes.end()
        return found + text[at:].encode(encoding)
    except UnicodeEncodeError as error:
        character = error.object[error.start]
        raise UsageError(
            f"{encoding} has no character U+{ord(character):04X}; choose another encoding for what is written"
        ) from None


def without_lone_surrogates(text: str) -> str:
    """Write lone surrogates as \\uNNNN, but those that stand for undecodable bytes."""
    return re.sub("[\ud800-\udc7f\udd00-\udfff]", lambda found: f"\\u{ord(found[0]):04x}", text)


def has_escapes(line: str) -> bool:
    """Tell whether a text holds bytes that could not be decoded, or other lone surrogates."""
    try:
        line.encode("utf-8")
    except UnicodeEncodeError:
        return True
    return False


def without_escapes(text: str) -> str:
    """Write undecodable bytes as \\xNN and other lone surrogates as \\uNNNN, for files that hold Unicode alone."""
    if text.isascii() or not has_escapes(text):
        return text
    return re.sub("[\udc80-\udcff]", lambda found: f"\\x{ord(found[0]) & 0xFF:02x}", without_lone_surrogates(text))
