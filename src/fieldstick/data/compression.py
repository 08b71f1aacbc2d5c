"""Opens what is read: files and standard input, decompressed by what their first bytes say."""

from __future__ import annotations

import io
import os
import stat
import sys
from typing import TYPE_CHECKING, Any

from fieldstick.data.extras import needed
from fieldstick.data.storage import AT_ONCE, is_url, stored
from fieldstick.errors import UsageError

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

STANDARD_INPUT = "-"

HEAD = 16
"""Bytes that are looked at to tell what a file is."""

_PACKED = ((b"\x1f\x8b", "gzip"), (b"BZh", "bzip2"), (b"\xfd7zXZ\x00", "xz"), (b"\x28\xb5\x2f\xfd", "zstd"))
_STEP = 256 * 1024
_END, _FAR = 4096, 16
"""Bytes among which a line end is looked for, so that lines need not be put together again, and how many times as many
are where there is none.
"""

_MUCH, _LITTLE = 8 << 20, 256
"""Bytes unpacked at once from which on packed bytes are taken in such small steps (a block of zeros takes four)."""


class Stream(io.RawIOBase):
    """The bytes of a file or of standard input, decompressed.

    `size` is in bytes as stored, None for standard input; `head` are the first bytes, unpacked. `ended_early` says in
    words what was wrong when the compressed data broke off or was damaged; what could be read before was given.
    """

    def __init__(self, name: str, at_once: int = AT_ONCE) -> None:
        super().__init__()
        self._is_own = name != STANDARD_INPUT
        self._at = stored(name) if is_url(name) else None
        self.stored = opened(name, at_once)
        self.size = _size_of(self.stored) if self._is_own and self._at is None else None
        self.ended_early: str | None = None
        self._come = self._passed = 0
        self._before = self._after = self._state()
        first = _first_bytes(self.stored, name)
        self.packing = next((kind for magic, kind in _PACKED if first.startswith(magic)), None)
        self._inner = _unpacked(Rejoined(first, self.stored), self.packing)
        self._ahead = self._unpacked(1 << 16)
        while 0 < len(self._ahead) < HEAD and (more := self._unpacked(HEAD)):
            self._ahead += more
        self.head = self._ahead[:HEAD]

    def readable(self) -> bool:
        """It can be read."""
        return True

    def readinto(self, buffer: Any) -> int:
        """Fill `buffer` with what comes next; 0 at the end, also where the data is damaged."""
        view = memoryview(buffer).cast("B")
        found = self._ahead[: len(view)] or self._unpacked(len(view))
        self._ahead = self._ahead[len(view) :]
        view[: len(found)] = found
        return len(found)

    def read(self, size: int = -1) -> bytes:
        """Return up to `size` bytes of what comes next, none at the end; all of it for a size below 0."""
        if size < 0:
            return super().read(size) or b""
        found = self._ahead[:size] or self._unpacked(size)
        self._ahead = self._ahead[size:]
        self._come += len(found)
        return found

    @property
    def is_plain(self) -> bool:
        """Whether it is a file that is stored as it is, and any place of it can be read."""
        return self.packing is None and self.size is not None and hasattr(os, "pread")

    def whole_blocks(self, size: Callable[[], int]) -> Iterator[tuple[int, int]]:
        """Yield where blocks of whole lines lie in a plain file, up to `size` bytes each: their place and their bytes.

        There are some as long as a line is seen to end among the last bytes of so many; `read` goes on behind them.
        Whoever reads them does so by the number of the file, which `is_plain`, and tells what they `passed`. Raises
        OSError.
        """
        file, place = self.stored.fileno(), self.stored.tell() - len(self._ahead)
        while (whole := _whole_lines(file, place, max(size(), _END))) > 0:
            yield place, whole
            place += whole
        self._ahead, self._passed = b"", 0
        self.stored.seek(place)

    def passed(self, place: int) -> None:
        """Note that whoever reads `whole_blocks` has come to a place of the file."""
        self._passed = place

    def skip(self, size: int) -> None:
        """Pass over the first bytes, no more than `head` has."""
        self._ahead = self._ahead[size:]

    def _unpacked(self, size: int) -> bytes:
        """Return up to `size` bytes of what was packed; none where the data is damaged, which is noted."""
        try:
            return bytes(self._inner.read1(size))
        except Exception as error:
            if self.packing is None or not isinstance(error, _damage()):
                raise
            self.ended_early = f"its {self.packing} data breaks off or is damaged: {error}"
            return b""

    @property
    def consumed(self) -> int:
        """Bytes of the stored file that were read so far; of a pipe, those that came of it unpacked."""
        try:
            return max(int(self.stored.tell()), self._passed)
        except OSError:
            return self._come

    def changed(self) -> bool:
        """Tell whether the file was written to since it was opened."""
        now = self._after if self.closed else self._state()
        return now != self._before

    def _state(self) -> tuple[Any, Any] | None:
        if self._at is not None:
            return self._at.state()
        if self.size is None:
            return None
        found = os.fstat(self.stored.fileno())
        return found.st_size, found.st_mtime_ns

    def close(self) -> None:
        """Close the file; standard input stays open."""
        if self._is_own and not self.closed:
            self._after = self._state()
            self.stored.close()
        super().close()


def _whole_lines(file: int, place: int, most: int) -> int:
    """Return how many bytes of a file, up to `most` from a place on, end with a line; 0 where that is not seen."""
    for looked_at in (_END, min(_FAR * _END, most)):
        last = os.pread(file, looked_at, place + most - looked_at)
        if len(last) == looked_at and (end := last.rfind(b"\n") + 1):
            return most - looked_at + end
    return 0


def _damage() -> tuple[type[Exception], ...]:
    """Return what damaged data raises, whatever it is packed with."""
    import lzma
    import zlib

    return EOFError, zlib.error, lzma.LZMAError, OSError


def _opened(name: str) -> Any:
    if name == STANDARD_INPUT:
        return sys.stdin.buffer
    try:
        if os.path.isdir(name):
            raise UsageError(f"{name} is a folder; name files, or - for standard input")
        return open(name, "rb", buffering=_STEP)
    except (OSError, ValueError) as error:
        raise UsageError(f"{name}: cannot be read: {getattr(error, 'strerror', None) or error}") from None


def opened(name: str, at_once: int = AT_ONCE) -> Any:
    """Open a file as it is stored, or one of a store, of which so many bytes are fetched at once. Raises UsageError."""
    return stored(name).opened(at_once) if is_url(name) else _opened(name)


def _size_of(stored: Any) -> int | None:
    """Return the size of a plain file in bytes; None for a pipe or a device."""
    found = os.fstat(stored.fileno())
    return found.st_size if stat.S_ISREG(found.st_mode) else None


def _first_bytes(stored: Any, name: str) -> bytes:
    try:
        return bytes(stored.read(HEAD))
    except OSError as error:
        shown = "standard input" if name == STANDARD_INPUT else name
        raise UsageError(f"{shown}: cannot be read: {error.strerror or error}") from None


class Rejoined(io.RawIOBase):
    """A file of which the first bytes were read already."""

    def __init__(self, first: bytes, stored: Any) -> None:
        super().__init__()
        self._first, self._stored = first, stored

    def readable(self) -> bool:
        """It can be read."""
        return True

    def read(self, size: int = -1) -> bytes:
        """Return up to `size` bytes, all of them for a size below 0."""
        if self._first:
            found = self._first if size < 0 else self._first[:size]
            self._first = self._first[len(found) :]
            return found + (self._stored.read() if size < 0 else b"")
        return bytes(self._stored.read(size) or b"")

    def read1(self, size: int) -> bytes:
        """Return up to `size` bytes, as soon as there are any."""
        return self.read(size) if self._first else bytes(self._stored.read1(size))

    def readinto(self, buffer: Any) -> int:
        """Fill `buffer` with what comes next; 0 at the end."""
        view = memoryview(buffer).cast("B")
        found = self.read(len(view))
        view[: len(found)] = found
        return len(found)


def _unpacked(stored: Any, packing: str | None) -> Any:
    if packing == "gzip":
        import gzip

        return gzip.GzipFile(fileobj=stored)
    if packing == "bzip2":
        import bz2

        return bz2.BZ2File(stored)
    if packing == "xz":
        import lzma

        return lzma.LZMAFile(stored)
    if packing == "zstd":
        return _ZstdReader(stored)
    return stored


class _ZstdReader:
    """Reads Zstandard frames (RFC 8878) one after the other, and tells a frame that breaks off."""

    def __init__(self, stored: io.BufferedReader) -> None:
        self._module = needed("zstandard", "a file packed with zstd")
        self._stored = stored
        self._frame: Any = None
        self._left = b""
        self._step = _STEP // 4

    def read1(self, size: int) -> bytes:
        """Return up to some bytes; empty at the end."""
        while not self._left:
            packed = self._next_packed()
            if not packed:
                if self._frame is not None and not self._frame.eof:
                    raise EOFError("the last frame has no end")
                return b""
            try:
                self._left = self._frame.decompress(packed)
            except self._module.ZstdError as error:
                raise EOFError(str(error)) from None
            # What unpacks to very much is handed over in small pieces, so that memory stays flat.
            self._step = _LITTLE if len(self._left) > _MUCH else _STEP // 4
        found, self._left = self._left[:size], self._left[size:]
        return found

    def _next_packed(self) -> bytes:
        unused = b""
        if self._frame is None or self._frame.eof:
            unused = self._frame.unused_data if self._frame is not None else b""
            packed = unused or self._stored.read(self._step)
            if packed:
                self._frame = self._module.ZstdDecompressor().decompressobj()
            return packed
        return self._stored.read(self._step)
