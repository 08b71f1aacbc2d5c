"""Where text goes: a file that appears whole or not at all, or standard output."""

from __future__ import annotations

import os
import sys
from typing import TYPE_CHECKING, NoReturn

from fieldstick.errors import UsageError
from fieldstick.files import PartFile

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable


class TextFile:
    """Takes text and writes it as UTF-8, or another encoding, to a file or to standard output.

    What stands for undecodable bytes is written as those bytes. `shown` makes text safe for a terminal; it is used
    when standard output is one. Raises UsageError when something cannot be written.
    """

    def __init__(self, path: str | None, *, encoding: str = "utf-8", shown: Callable[[str], str] | None = None) -> None:
        self._part = PartFile(path) if path is not None else None
        self._encoding = encoding
        self._shown = shown if path is None and sys.stdout.isatty() else None
        self.name = path or "standard output"
        self._stream = self._part.stream if self._part is not None else sys.stdout.buffer

    def write(self, text: str) -> None:
        """Write text."""
        self.write_bytes(encoded(self._shown(text) if self._shown else text, self._encoding))

    def write_utf8(self, data: bytes) -> None:
        """Write text that is UTF-8 already."""
        if self._shown is None and self._encoding == "utf-8":
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

    def finish(self) -> None:
        """Put the file in place; flush standard output."""
        if self._part is not None:
            self._part.finish()
            return
        try:
            self._stream.flush()
        except BrokenPipeError:
            raise
        except OSError as error:
            self._failed(error)

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


def encoded(text: str, encoding: str = "utf-8") -> bytes:
    """Encode text, undecodable bytes as they were, other lone surrogates as escapes.

    Raises UsageError for a character that the encoding does not have.
    """
    try:
        return text.encode(encoding, "surrogateescape")
    except UnicodeEncodeError as error:
        if encoding != "utf-8":
            character = error.object[error.start]
            raise UsageError(
                f"{encoding} has no character U+{ord(character):04X}; choose another encoding for what is written"
            ) from None
        return "".join(each if not "\ud800" <= each <= "\udfff" else _escaped(each) for each in text).encode(
            "utf-8", "surrogateescape"
        )


def _escaped(character: str) -> str:
    return character if "\udc80" <= character <= "\udcff" else f"\\u{ord(character):04x}"


def refuse_own_source(path: str, sources: Iterable[str | None]) -> None:
    """Raise UsageError when what is to be written is one of the files that are read."""
    for each in sources:
        if each is not None and os.path.exists(path) and os.path.exists(each) and os.path.samefile(path, each):
            raise UsageError(f"{path} is also read; write to another file")
