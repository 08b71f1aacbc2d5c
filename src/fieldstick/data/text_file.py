"""Where text goes: a file that appears whole or not at all, or standard output."""

from __future__ import annotations

import contextlib
import io
import os
import sys
from typing import TYPE_CHECKING, Any, NoReturn

from fieldstick.data.ahead import pays
from fieldstick.data.coding import encoded
from fieldstick.data.compression import Stream
from fieldstick.data.elsewhere import StaysHere
from fieldstick.data.later import Later
from fieldstick.data.packing import packed, packing_of
from fieldstick.data.storage import is_url, part_file
from fieldstick.errors import UsageError
from fieldstick.files import AppendedFile, GrowingFile, put_in_place

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable

    from fieldstick.data.coding import Coding
    from fieldstick.data.in_turn import InTurn
    from fieldstick.files import PartFile

LEAST_BEHIND = 1 << 16
"""Bytes of a piece that tell that there is much to write: from the first such one on a thread writes."""


class TextFile(StaysHere):
    """Takes text and writes it as UTF-8, or stored as the source it follows, to a file or to standard output.

    What stands for undecodable bytes is written as those bytes. `shown` makes text safe for a terminal; it is used
    when standard output is one. A file whose name ends as that of a packed one is packed, unless it is not to be; with
    `append` what is written is added to what is there. With `at_once` each piece is there as soon as it is written; a
    file that `grows` is there from the beginning; one that takes the place of its source is to be `synced`.
    Raises UsageError when something cannot be written.
    """

    def __init__(
        self,
        path: str | None,
        *,
        shown: Callable[[str], str] | None = None,
        append: bool = False,
        may_pack: bool = True,
        at_once: bool = False,
        grows: bool = False,
        synced: bool = False,
    ) -> None:
        self._at_once = at_once or grows
        packing = packing_of(path) if path is not None and may_pack else None
        self.held = first_line_of(path, packing) if append and path is not None else None
        if path is not None and grows:
            self._part: PartFile | None = GrowingFile(path, append=append)
        elif path is not None and append:
            self._part = AppendedFile(path, ends_lines=packing is None)
        else:
            self._part = part_file(path, synced=synced) if path is not None else None
        self._coding: Coding | None = None
        self._shown = shown if path is None and sys.stdout.isatty() else None
        self.name = path or "standard output"
        self._stream: Any = self._part.stream if self._part is not None else sys.stdout.buffer
        self._packing = packing
        self._packer = packed(self._part.stream, packing) if self._part is not None and packing is not None else None
        self._stream = self._packer or self._stream
        # What is added to a file is written piece by piece, and so is what somebody may be reading.
        is_plain = self._part is not None and self._part.is_plain
        self._may_wait = is_plain and not append and not self._at_once and pays()
        self._behind: InTurn | None = None

    def follow(self, coding: Coding) -> None:
        """Store what is written as a source is stored, its byte-order mark at the head; the first source decides."""
        if self._coding is None:
            self._coding = coding
            self.write_bytes(coding.mark if self.held is None else b"")

    def write_head(self, text: str) -> None:
        """Write what stands before all else; a file that is added to and holds something has it already."""
        if not isinstance(self._part, AppendedFile):
            if self.held is None:
                self.write(text)
            return
        self.write(text)
        if self._packer is not None:
            self._packer.close()
        self._part.head = self._part.stream.tell()
        if self._packing is not None:
            self._packer = self._stream = packed(self._part.stream, self._packing)

    def write(self, text: str) -> None:
        """Write text."""
        encoding = self._coding.name if self._coding is not None else "utf-8"
        self.write_bytes(encoded(self._shown(text) if self._shown else text, encoding))

    def write_utf8(self, data: bytes | Later, *, may_wait: bool = True) -> None:
        """Write text that is UTF-8 already; see `write_bytes`."""
        if self._shown is None and (self._coding is None or self._coding.name == "utf-8"):
            self.write_bytes(data, may_wait=may_wait)
        else:
            made = data.made() if isinstance(data, Later) else data
            self.write(made.decode("utf-8", "surrogateescape"))

    def write_bytes(self, data: bytes | Later, *, may_wait: bool = True) -> None:
        """Write bytes as they are. A thread begins to do so for what may wait, or is packed."""
        size = data.size if isinstance(data, Later) else len(data)
        try:
            if (may_wait or self._packer is not None) and self._may_wait and size >= LEAST_BEHIND:
                self._write_behind()
            if self._behind is not None:
                self._behind.call(self._write_now, data)
            else:
                self._write_now(data)
            if self._at_once:
                self._stream.flush()
        except BrokenPipeError:
            raise
        except OSError as error:
            self._failed(error)

    def _write_now(self, data: bytes | Later) -> None:
        self._stream.write(data.made() if isinstance(data, Later) else data)

    def _write_behind(self) -> None:
        """From now on have a thread write, where one can be started."""
        from fieldstick.data.in_turn import InTurn

        self._may_wait = False
        with contextlib.suppress(RuntimeError):
            self._behind = InTurn()

    def settle(self) -> None:
        """Wait until what was written so far is in the file's stream; no thread is left."""
        if self._behind is not None:
            try:
                self._behind.finish()
            except OSError as error:
                self._failed(error)
            self._behind = None

    def complete(self) -> list[PartFile]:
        """Return the file, which is then to be put in place; flush standard output."""
        self.settle()
        if self._part is not None:
            try:
                if self._packer is not None:
                    self._packer.close()
            except OSError as error:
                self._failed(error)
            return [self._part]
        try:
            self._stream.flush()
        except BrokenPipeError:
            raise
        except OSError as error:
            self._failed(error)
        return []

    def finish(self) -> None:
        """Put the file in place; flush standard output."""
        put_in_place(self.complete())

    def abandon(self) -> None:
        """Drop what was written to a file."""
        if self._behind is not None:
            self._behind.abandon()
        if self._part is not None:
            self._part.abandon()

    def _failed(self, error: OSError) -> NoReturn:
        if self._part is None:
            # What is still buffered cannot be written either; without this it would be tried again at the end.
            os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        self.abandon()
        raise UsageError(f"{self.name}: cannot be written: {error.strerror or error}") from None


def first_line_of(path: str, packing: str | None) -> bytes | None:
    """Return the first line of a file that is added to, its end included; None where there is nothing in it.

    Raises UsageError when it is packed otherwise than its name says, or cannot be added to.
    """
    if is_url(path):
        raise UsageError(f"{path}: nothing can be added to a file of a store; write another one beside it")
    if not os.path.isfile(path) or not os.path.getsize(path):
        return None
    with Stream(path) as stream:
        if stream.packing != packing:
            raise UsageError(f"{path} is packed otherwise than its name says; name another file")
        return bytes(io.BufferedReader(stream).readline())


def refuse_own_source(path: str, sources: Iterable[str | None]) -> None:
    """Raise UsageError when what is to be written is one of the files that are read."""
    for each in sources:
        if each is not None and is_url(path):
            if each == path:
                raise UsageError(f"{path} is also read; write to another file")
        elif each is not None and os.path.exists(path) and os.path.exists(each) and os.path.samefile(path, each):
            raise UsageError(f"{path} is also read; write to another file")
