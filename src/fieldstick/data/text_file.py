"""Where text goes: a file that appears whole or not at all, or standard output."""

from __future__ import annotations

import os
import sys
from typing import TYPE_CHECKING, NoReturn

from fieldstick.data.coding import encoded
from fieldstick.data.elsewhere import StaysHere
from fieldstick.data.storage import is_url, part_file
from fieldstick.errors import UsageError
from fieldstick.files import put_in_place

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable

    from fieldstick.data.coding import Coding
    from fieldstick.files import PartFile


class TextFile(StaysHere):
    """Takes text and writes it as UTF-8, or stored as the source it follows, to a file or to standard output.

    What stands for undecodable bytes is written as those bytes. `shown` makes text safe for a terminal; it is used
    when standard output is one. Raises UsageError when something cannot be written.
    """

    def __init__(self, path: str | None, *, shown: Callable[[str], str] | None = None) -> None:
        self._part = part_file(path) if path is not None else None
        self._coding: Coding | None = None
        self._shown = shown if path is None and sys.stdout.isatty() else None
        self.name = path or "standard output"
        self._stream = self._part.stream if self._part is not None else sys.stdout.buffer

    def follow(self, coding: Coding) -> None:
        """Store what is written as a source is stored, its byte-order mark at the head; the first source decides."""
        if self._coding is None:
            self._coding = coding
            self.write_bytes(coding.mark)

    def write(self, text: str) -> None:
        """Write text."""
        encoding = self._coding.name if self._coding is not None else "utf-8"
        self.write_bytes(encoded(self._shown(text) if self._shown else text, encoding))

    def write_utf8(self, data: bytes) -> None:
        """Write text that is UTF-8 already."""
        if self._shown is None and (self._coding is None or self._coding.name == "utf-8"):
            self.write_bytes(data)
        else:
            self.write(data.decode("utf-8", "surrogateescape"))

    def write_bytes(self, data: bytes) -> None:
        """Write bytes as they are."""
        try:
            self._stream.write(data)
        except BrokenPipeError:
            raise
        except OSError as error:
            self._failed(error)

    def complete(self) -> list[PartFile]:
        """Return the file, which is then to be put in place; flush standard output."""
        if self._part is not None:
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
        if self._part is not None:
            self._part.abandon()

    def _failed(self, error: OSError) -> NoReturn:
        if self._part is None:
            # What is still buffered cannot be written either; without this it would be tried again at the end.
            os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        self.abandon()
        raise UsageError(f"{self.name}: cannot be written: {error.strerror or error}") from None


def refuse_own_source(path: str, sources: Iterable[str | None]) -> None:
    """Raise UsageError when what is to be written is one of the files that are read."""
    for each in sources:
        if each is not None and is_url(path):
            if each == path:
                raise UsageError(f"{path} is also read; write to another file")
        elif each is not None and os.path.exists(path) and os.path.exists(each) and os.path.samefile(path, each):
            raise UsageError(f"{path} is also read; write to another file")
