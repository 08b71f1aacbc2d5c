"""A file that grows while it is read: followed until somebody ends it, also over to the file that takes its place."""

from __future__ import annotations

import os
import time
from typing import TYPE_CHECKING, BinaryIO

from fieldstick.data.coding import BLOCK, Coding
from fieldstick.data.lines import LineBlock, line_blocks
from fieldstick.data.source import Source
from fieldstick.data.storage import is_url
from fieldstick.errors import UsageError

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from fieldstick.data.batch import Block
    from fieldstick.data.compression import Stream
    from fieldstick.data.read_options import ReadOptions

PAUSE = 0.2
"""Seconds after which is looked again whether there is more."""


_TAIL = 256
"""Bytes before the place in a file that tell whether it was cut short and written anew."""


class FollowedSource(Source):
    """A file whose lines are read as they come; one that is not ended yet waits for its end.

    When another file takes the place of it, or it is cut short, what is left of it is read, and then the new one from
    its beginning. Lines are numbered on. `is_over` tells that it is to end; with `from_now` what the file holds already
    is passed over.
    """

    def __init__(self, name: str, read_options: ReadOptions, is_over: Callable[[], bool], *, from_now: bool) -> None:
        super().__init__(name, read_options)
        self._is_over, self._from_now = is_over, from_now
        self._file: BinaryIO | None = None
        if self.path is None or is_url(name) or self.size is None:
            raise UsageError(f"--follow follows a file; {self.name} is none. What a pipe gives is read as it comes")
        if self.table_kind() not in ("lines", "jsonl", "records"):
            raise UsageError(f"--follow reads lines, or JSON Lines; {self.name} is read otherwise")
        if self.is_packed() or self.coding != Coding():
            raise UsageError(f"--follow reads plain text in UTF-8, not packed; {self.name} is none")
        self.size = None

    grows = True

    @property
    def is_live(self) -> bool:
        """See `Source.is_live`."""
        return True

    def blocks(self) -> Iterator[Block]:
        """See `Source.blocks`."""
        yield from super().blocks()
        # That it was written to while it was read is what it is followed for.
        self.changed = False

    def line_blocks(self, stream: Stream) -> Iterator[Block]:
        """See `Source.line_blocks`."""
        number = 1
        for data in self._pieces():
            longest = self.read_options.longest_row if self.kind == "jsonl" else self.read_options.longest
            if longest is not None and len(data) > longest:
                # Cut with care: a line of it may be longer than is read.
                left = iter((data,))
                yield from self.noted(line_blocks(lambda size: next(left, b""), longest, first=number))  # noqa: B023
            else:
                yield LineBlock(number, data, longest)
            number += data.count(b"\n")

    def _pieces(self) -> Iterator[bytes]:
        """Yield whole lines as they come; the last line of a file that is followed no more needs no end."""
        assert self.path is not None
        with open(self.path, "rb", buffering=0) as file:
            if self._from_now:
                file.seek(0, os.SEEK_END)
            yield from self._lines_of(file)
        while not self._is_over():
            try:
                file = open(self.path, "rb", buffering=0)  # noqa: SIM115
            except FileNotFoundError:
                # Between the old file and the one that takes its place.
                time.sleep(PAUSE)
                continue
            with file:
                yield from self._lines_of(file)

    def _lines_of(self, file: BinaryIO) -> Iterator[bytes]:
        """Yield the lines of a file until it is replaced or cut short, or all is over."""
        rest = tail = b""
        while True:
            # Looked at before the file is read: what was written before it was replaced is then read for sure.
            ends = self._is_over() or self._is_replaced(file)
            while piece := _read_on(file, tail):
                tail = (tail + piece)[-_TAIL:]
                cut = piece.rfind(b"\n") + 1
                if cut:
                    yield rest + piece[:cut]
                    rest = piece[cut:]
                else:
                    rest += piece
            if ends or piece is None:
                if rest:
                    yield rest + b"\n"
                return
            time.sleep(PAUSE)

    def _is_replaced(self, file: BinaryIO) -> bool:
        assert self.path is not None
        own = os.fstat(file.fileno())
        try:
            there = os.stat(self.path)
        except FileNotFoundError:
            return True
        return (own.st_ino, own.st_dev) != (there.st_ino, there.st_dev)


def _read_on(file: BinaryIO, tail: bytes) -> bytes | None:
    """Return what comes after the bytes read last, or None where these stand no more where they were read.

    Both are read at once: between two reads the file might be cut short and written anew.
    """
    file.seek(-len(tail), os.SEEK_CUR)
    read = file.read(len(tail) + BLOCK)
    return read[len(tail) :] if read.startswith(tail) else None
