"""Writes files whole or not at all: beside the final name first, then in its place."""

from __future__ import annotations

import os
import re
import stat
import weakref
from contextlib import contextmanager
from typing import TYPE_CHECKING, BinaryIO, NoReturn

from fieldstick.errors import UsageError

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

_FILE_NAME = re.compile(r"\w(?:[\w .+-]{0,98}[\w+-])?")


def is_file_name(name: str) -> bool:
    """Tell whether a name can be that of a file here and elsewhere: it leads to no folder, and is plain and short."""
    return _FILE_NAME.fullmatch(name) is not None


class PartFile:
    """A file on its way: written under another name in the same folder, and put in place when it is whole.

    A name that stands for something else than a file, a pipe or a device, is written to as it is. A link is
    followed, so that what it leads to is replaced. One that is neither finished nor abandoned is removed with the
    object, at the latest when the process ends.

    Raises UsageError when it cannot be opened or, from `finish`, when it cannot be put in place.
    """

    def __init__(self, path: str | os.PathLike[str]) -> None:
        self.name = os.fspath(path)
        self._target = os.path.realpath(self.name)
        self._part: str | None = None
        try:
            if os.path.isdir(self._target):
                raise UsageError(f"{self.name} is a folder; name a file to write to")
            if os.path.exists(self._target) and not os.path.isfile(self._target):
                self.stream: BinaryIO = open(self._target, "wb")  # noqa: SIM115
                return
            folder, name = os.path.split(self._target)
            self._part = os.path.join(folder, f".{name[:100]}.{os.urandom(8).hex()}.part")
            # Before there is a file: an interrupt may come at any time, before whoever asked for it can abandon it.
            weakref.finalize(self, _remove, self._part, os.getpid())
            flags = os.O_RDWR | os.O_CREAT | os.O_EXCL | getattr(os, "O_BINARY", 0)
            self.stream = os.fdopen(os.open(self._part, flags, 0o600), "wb")
        except OSError as error:
            self.failed(error)

    @property
    def part(self) -> str:
        """The file that is written to."""
        return self._part or self._target

    def finish(self) -> None:
        """Put the file in place, with the mode that the old one had."""
        try:
            self.stream.flush()
            if self._part is not None:
                os.fsync(self.stream.fileno())
            self.stream.close()
            if self._part is not None:
                os.chmod(self._part, _mode_for(self._target))
                os.replace(self._part, self._target)
                self._part = None
        except BaseException as error:
            self.abandon()
            if isinstance(error, OSError):
                self.failed(error)
            raise

    @contextmanager
    def whole(self, abandon: Callable[[], None] | None = None) -> Iterator[BinaryIO]:
        """Give the stream that what is left is written to, then put the file in place.

        When anything goes wrong it is abandoned, by `abandon` where that has more to drop.
        """
        try:
            yield self.stream
        except BaseException as error:
            (abandon or self.abandon)()
            if isinstance(error, OSError):
                self.failed(error)
            raise
        self.finish()

    def abandon(self) -> None:
        """Drop what was written; what was there before stays."""
        try:
            self.stream.close()
        except OSError:
            pass
        if self._part is not None:
            _remove(self._part, os.getpid())
            self._part = None

    def failed(self, error: OSError) -> NoReturn:
        """Raise UsageError for a failure of the system."""
        raise UsageError(f"{self.name}: cannot be written: {error.strerror or error}") from None


def _remove(part: str, process: int) -> None:
    """Remove a file on its way, in the process that made it."""
    if os.getpid() == process and os.path.lexists(part):
        os.unlink(part)


def write_whole(path: str | os.PathLike[str], content: str) -> None:
    """Write `content` as UTF-8 to `path`, which holds either all of it or what it held before.

    Raises UsageError when the file cannot be written.
    """
    with PartFile(path).whole() as stream:
        stream.write(content.encode("utf-8"))


def _mode_for(target: str) -> int:
    """Return the mode the file has, or the one a new file gets."""
    try:
        return stat.S_IMODE(os.stat(target).st_mode)
    except OSError:
        mask = os.umask(0)
        os.umask(mask)
        return 0o666 & ~mask
