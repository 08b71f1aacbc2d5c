"""Parts of sources that are read where they are worked on: by another process, on another machine.

Lines are cut by bytes: a part has the lines that begin in its range. What cannot be cut so, such as what is packed, is
one part.
"""

from __future__ import annotations

import io
import os
from typing import TYPE_CHECKING, Any

from msgspec import Struct
from msgspec.structs import replace

from fieldstick.data.compression import Stream, opened
from fieldstick.data.source import Source
from fieldstick.data.storage import AT_ONCE, is_url
from fieldstick.errors import UsageError

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.data.batch import Batch, SourceNotes
    from fieldstick.data.read_options import ReadOptions

PART = 64 << 20
"""Bytes of a part: some tenths of a second of work, little beside which is the way there and back."""

_STEP = 1 << 20


class DistantPart(Struct, frozen=True):
    """A part of a source: the bytes from `start` up to `end`, None for all of it.

    `name` is that of the source as the user gave it, `path` leads there from anywhere that sees the same files, and
    `number` is its place among all parts of a run.
    """

    name: str
    path: str
    read_options: ReadOptions
    needed_columns: tuple[str, ...] = ()
    start: int = 0
    end: int | None = None
    number: int = 0

    @property
    def size(self) -> int:
        """The bytes of the part; 0 where nobody knows."""
        return self.end - self.start if self.end is not None else 0

    def opened(self, first: int) -> PartSource:
        """Open it, its first line of number `first`. Raises UsageError."""
        source = PartSource(self, first)
        source.needed_columns = self.needed_columns
        return source

    def count_lines(self) -> int:
        """Return how many lines the part has. Raises UsageError."""
        with _stored(self) as stream:
            return sum(piece.count(b"\n") for piece in iter(lambda: stream.read(_STEP), b""))


class PartSource(Source):
    """A source of which one part is read. `lines` is how many line ends there were."""

    def __init__(self, part: DistantPart, first: int) -> None:
        super().__init__(part.path, part.read_options)
        self.name = part.name
        self.first_line = first
        self.lines = 0
        self._part = part

    def line_range(self, stream: io.RawIOBase) -> io.RawIOBase:
        """See `Source.line_range`."""
        if self._part.end is None:
            return stream
        return _Counted(_stored(self._part), self)

    def lines_after(self, count: int) -> bytes:
        """Return so many lines that stand behind the part, or as many as there are. Raises UsageError."""
        if self._part.end is None or self.size is None or self._part.end >= self.size:
            return b""
        with _stored(replace(self._part, start=self._part.end, end=self.size)) as stream:
            found = b""
            while found.count(b"\n") < count and (piece := stream.read(_STEP)):
                found += piece
        lines = found.split(b"\n", count)
        return b"\n".join([*lines[:count], b""]) if len(lines) > count else found

    def _stream_of(self) -> Stream:
        # Of what is read by ranges the head alone is looked at here.
        return Stream(self._part.path, AT_ONCE if self._part.end is None else _STEP >> 4)

    def told(self) -> Told:
        """Return what is known of the source now that it was read."""
        words = (self.kind, self.columns, self.header, self.delimiter)
        return Told(self.notes, self.first_line, self.lines, self.ended_early, self.lacks_record_start, *words)


class Told(Struct):
    """What whoever read a part knows of its source."""

    notes: SourceNotes
    first: int
    lines: int
    ended_early: str | None
    lacks_record_start: bool
    kind: Any
    columns: list[str]
    header: str
    delimiter: str

    def tell(self, source: Source) -> None:
        """Tell it of the source."""
        source.ended_early = source.ended_early or self.ended_early
        source.lacks_record_start = source.lacks_record_start or self.lacks_record_start
        source.kind, source.columns = self.kind, self.columns or source.columns
        source.header, source.delimiter = self.header, self.delimiter


def distant_parts(source: Source, size: int) -> Iterator[DistantPart]:
    """Yield the parts of a source, of about `size` bytes each. Raises UsageError for what is read here alone."""
    given = source.path
    if given is None or (not is_url(given) and source.size is None):
        raise UsageError(f"{source.name} is read here alone: a cluster reads files that it sees, and URLs")
    path = given if is_url(given) else os.path.abspath(given)
    whole = DistantPart(source.name, path, source.read_options, source.needed_columns)
    if not source.size or source.size <= size or not source.is_cut_by_lines():
        yield whole
        return
    for start in range(0, source.size, size):
        yield DistantPart(
            source.name, path, source.read_options, source.needed_columns, start, min(start + size, source.size)
        )


def _stored(part: DistantPart) -> _Range:
    """Open the lines that begin in the range of a part. Raises UsageError."""
    return _Range(opened(part.path), part.start, part.end or 0)


class _Range(io.RawIOBase):
    """The lines of a file that begin between two offsets; the last of them is read to its end."""

    def __init__(self, stored: Any, start: int, end: int) -> None:
        super().__init__()
        self._stored, self._end = stored, end
        self._at = 0
        self._is_done = False
        if start:
            # The line before ends in the byte before the range, or in the range.
            stored.seek(start - 1)
            self._at = start - 1
            while (piece := stored.readline(_STEP)) and not piece.endswith(b"\n"):
                self._at += len(piece)
            self._at += len(piece)
        self._is_done = self._at >= end

    def readable(self) -> bool:
        """It can be read."""
        return True

    def read(self, size: int = -1) -> bytes:
        """Return up to `size` bytes, all of them for a size below 0; none at the end of the last line."""
        if size < 0:
            return b"".join(iter(lambda: self.read(_STEP), b""))
        if self._is_done:
            return b""
        found = bytes(self._stored.read(size) or b"")
        before, self._at = self._at, self._at + len(found)
        if not found:
            self._is_done = True
        elif self._at >= self._end:
            # The first line end from the last byte of the range on is that of the last line.
            last = found.find(b"\n", max(0, self._end - 1 - before)) + 1
            if last:
                self._is_done, found = True, found[:last]
        return found

    def readinto(self, buffer: Any) -> int:
        """Fill `buffer` with what comes next; 0 at the end."""
        view = memoryview(buffer).cast("B")
        found = self.read(len(view))
        view[: len(found)] = found
        return len(found)

    def close(self) -> None:
        """Close the file."""
        if not self.closed:
            self._stored.close()
        super().close()


class _Counted(io.RawIOBase):
    """The lines of a part on their way, counted."""

    def __init__(self, lines: _Range, source: PartSource) -> None:
        super().__init__()
        self._lines, self._source = lines, source

    def readable(self) -> bool:
        """It can be read."""
        return True

    def read(self, size: int = -1) -> bytes:
        """Return what `_Range.read` does."""
        found = self._lines.read(size)
        self._source.lines += found.count(b"\n")
        return found

    def close(self) -> None:
        """Close the file."""
        self._lines.close()
        super().close()


def is_named(notes: SourceNotes) -> bool:
    """Tell whether lines are named in notes, whose numbers must then be right."""
    lists = (notes.undecodable, notes.ragged, notes.overlong, notes.missing, notes.not_json, notes.too_deep)
    return any(each.total for each in lists)


def batches_in(source: PartSource) -> Iterator[Batch]:
    """Yield the texts of a part, what is met in each batch left with it."""
    for block in source.blocks():
        yield from block.parts()
