"""Writes files whole or not at all: beside the final name first, then in its place, several all or none."""

from __future__ import annotations

import contextlib
import os
import re
import stat
import sys
import time
import weakref
from contextlib import contextmanager
from functools import cache
from typing import TYPE_CHECKING, Any, BinaryIO, NoReturn

from fieldstick.ending import held_back, undisturbed
from fieldstick.errors import UsageError
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence

_PART = compiled_later(r"\..+\.([0-9a-f]{8})-([0-9]+)\.[0-9a-f]{16}\.part", re.DOTALL)
"""A file on its way: the machine and the process that it belongs to are in its name."""

PATIENCE = 10.0
"""Seconds after which a file that another program is changing is given up."""

_FILE_NAME = compiled_later(r"\w(?:[\w .+-]{0,98}[\w+-])?")


_OPEN = compiled_later(r"/dev/(stdin|stdout|stderr)|/(?:dev|proc/self)/fd/(\d{1,4})")
_STREAMS = {"stdin": 0, "stdout": 1, "stderr": 2}


def _descriptor_of(name: str) -> int | None:
    """Return the descriptor that a name stands for, what was written to it so far written; None for another name."""
    found = _OPEN.fullmatch(name) if name.startswith(("/dev/", "/proc/")) else None
    if found is None:
        return None
    for stream in (sys.stdout, sys.stderr):
        stream.flush()
    return int(found[2]) if found[2] else _STREAMS[found[1]]


def is_file_name(name: str) -> bool:
    """Tell whether a name can be that of a file here and elsewhere: it leads to no folder, and is plain and short."""
    return _FILE_NAME.fullmatch(name) is not None


class PartFile:
    """A file on its way: written under another name in the same folder, and put in place when it is whole.

    A name that stands for something else than a file, a pipe or a device, is written to as it is, and so is what is
    open already, as `/dev/stdout` is, be it a file: what it holds stays. A link is followed, so that what it leads to
    is replaced. One that is neither finished nor abandoned is removed with the object, at the latest when the process
    ends. It is on the disk before it takes the place of what was there, unless it is not to be `synced`: what can be
    made again, as the rows of a source, needs not to outlive a loss of power. Such a file is put in place by `swap`, if
    that is given and can: two files have each other's names then, and what was there before goes after it. A file
    system waits until the disk has what takes the place of another file by its name alone.

    Raises UsageError when it cannot be opened or, from `finish`, when it cannot be put in place.
    """

    _synced = True
    _swap: Callable[[bytes, bytes], bool] | None = None

    def __init__(
        self,
        path: str | os.PathLike[str],
        *,
        synced: bool = True,
        swap: Callable[[bytes, bytes], bool] | None = None,
    ) -> None:
        self.name = os.fspath(path)
        self._synced = synced
        self._swap = None if synced else swap
        self._target = os.path.realpath(self.name)
        self._part: str | None = None
        self._kept: str | None = None
        self._is_new = False
        try:
            descriptor = _descriptor_of(self.name)
            if descriptor is not None:
                self.stream: BinaryIO = os.fdopen(os.dup(descriptor), "wb")
                return
            if os.path.isdir(self._target):
                raise UsageError(f"{self.name} is a folder; name a file to write to")
            if os.path.exists(self._target) and not os.path.isfile(self._target):
                self.stream = open(self._target, "wb")  # noqa: SIM115
                return
            _remove_left_behind(os.path.dirname(self._target))
            self._part = _part_name(self._target)
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

    @property
    def is_plain(self) -> bool:
        """Whether what is written goes to a file that nobody else has open, not to a pipe or a device."""
        return self._part is not None

    def finish(self) -> None:
        """Put the file in place, with the mode that the old one had."""
        put_in_place([self])

    def complete(self) -> None:
        """Let all that was written be in the file, which has the mode of the one that it is to replace."""
        self.stream.flush()
        if self._part is not None and self._synced:
            os.fsync(self.stream.fileno())
        self.stream.close()
        if self._part is not None:
            os.chmod(self._part, _mode_for(self._target))

    def replace(self) -> None:
        """Put the file in place; it must be complete."""
        if self._part is None:
            return
        names = (os.fsencode(self._part), os.fsencode(self._target))
        if self._swap is not None and os.path.isfile(self._target) and self._swap(*names):
            with contextlib.suppress(OSError):
                os.unlink(self._part)
        else:
            os.replace(self._part, self._target)
        self._part = None

    def keep_old(self) -> None:
        """Keep what is there now under another name, until `let_old_go`."""
        if self._part is None:
            return
        self._is_new = not os.path.lexists(self._target)
        if not self._is_new:
            self._kept = _part_name(self._target)
            weakref.finalize(self, _remove, self._kept, os.getpid())
            try:
                os.link(self._target, self._kept)
            except OSError:
                import shutil

                shutil.copy2(self._target, self._kept)

    def give_old_back(self) -> None:
        """Put back what was there before; nothing, where nothing was."""
        if self._kept is not None and self._part is None:
            os.replace(self._kept, self._target)
        elif self._is_new and self._part is None:
            os.unlink(self._target)
        self.let_old_go()

    def let_old_go(self) -> None:
        """Drop what was there before."""
        if self._kept is not None:
            _remove(self._kept, os.getpid())
        self._kept, self._is_new = None, False

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


class GrowingFile(PartFile):
    """A file that is there from the beginning and grows by what is written: for work without an end of its own."""

    def __init__(self, path: str | os.PathLike[str], *, append: bool) -> None:
        self.name = os.fspath(path)
        self._target = os.path.realpath(self.name)
        self._part = self._kept = None
        self._is_new = False
        try:
            self.stream = open(self._target, "ab" if append else "wb")  # noqa: SIM115
        except OSError as error:
            self.failed(error)


class AppendedFile(PartFile):
    """Adds to a file: what it holds then, and what was written behind it, are put in its place together.

    While that is done the folder is locked, so that of two programs that add to one file none loses the other's rows.
    `part` holds what is added alone. A last line without an end gets one first, if it is no packed file.
    """

    def __init__(self, path: str | os.PathLike[str], *, ends_lines: bool) -> None:
        super().__init__(path)
        self._ends_lines = ends_lines
        self.head = 0
        """Bytes at the beginning of what is written that are for a file that holds nothing yet."""

        self._lock = contextlib.ExitStack()

    def complete(self) -> None:
        """See `PartFile.complete`."""
        if self._part is None:
            super().complete()
            return
        import shutil

        self.stream.close()
        self._lock.enter_context(_locked_once(self._target))
        added, self._part = self._part, _part_name(self._target)
        weakref.finalize(self, _remove, self._part, os.getpid())
        try:
            with open(self._part, "xb") as self.stream:
                if os.path.exists(self._target):
                    with open(self._target, "rb") as old:
                        shutil.copyfileobj(old, self.stream, 1 << 20)
                        if self._ends_lines and self.stream.tell():
                            old.seek(-1, os.SEEK_END)
                            self.stream.write(b"" if old.read(1) == b"\n" else b"\n")
                with open(added, "rb") as rows:
                    rows.seek(self.head if self.stream.tell() else 0)
                    shutil.copyfileobj(rows, self.stream, 1 << 20)
                self.stream.flush()
                os.fsync(self.stream.fileno())
            os.chmod(self._part, _mode_for(self._target))
        finally:
            _remove(added, os.getpid())

    def replace(self) -> None:
        """See `PartFile.replace`."""
        super().replace()
        self._lock.close()

    def abandon(self) -> None:
        """See `PartFile.abandon`."""
        super().abandon()
        self._lock.close()


def put_in_place(files: Sequence[PartFile]) -> None:
    """Put files in place that are written, all of them or none.

    Raises UsageError when one cannot be; what was there before is then there again.
    """
    at: PartFile | None = None
    try:
        for at in files:
            at.complete()
        # A signal waits until all are in place: between two of them there is no good moment to end.
        with held_back():
            for at in files if len(files) > 1 else ():
                at.keep_old()
            for at in files:
                at.replace()
            for each in files:
                each.let_old_go()
    except BaseException as error:
        with undisturbed():
            for each in reversed(files):
                with contextlib.suppress(OSError):
                    each.give_old_back()
                each.abandon()
        if isinstance(error, OSError) and at is not None:
            at.failed(error)
        raise


@contextmanager
def locked(path: str | os.PathLike[str]) -> Iterator[None]:
    """Keep other programs of this kind from changing files in the folder of `path` meanwhile.

    Raises UsageError when another one does so for longer than `PATIENCE`. Where a system has no such locks, or the
    folder cannot be locked, nothing is kept away.
    """
    folder = os.path.dirname(os.path.realpath(path))
    with contextlib.ExitStack() as stack:
        with contextlib.suppress(ImportError, OSError):
            import fcntl

            handle = os.open(folder, os.O_RDONLY)
            stack.callback(os.close, handle)
            waited = 0.0
            while not _taken(fcntl, handle):
                if waited > PATIENCE:
                    raise UsageError(f"{os.fspath(path)} is being changed by another program; nothing was written")
                time.sleep(_PAUSE)
                waited += _PAUSE
        yield


@contextmanager
def _locked_once(path: str) -> Iterator[None]:
    """Keep other programs from changing files in the folder of `path`; this one may have it locked already."""
    folder = os.path.dirname(path)
    if folder not in _held:
        _held[folder] = 0, contextlib.ExitStack()
        _held[folder][1].enter_context(locked(path))
    count, stack = _held[folder]
    _held[folder] = count + 1, stack
    try:
        yield
    finally:
        count, stack = _held[folder]
        _held[folder] = count - 1, stack
        if count == 1:
            del _held[folder]
            stack.close()


_held: dict[str, tuple[int, contextlib.ExitStack[bool | None]]] = {}
"""Folders that are locked here: by how many, and what ends it."""

_PAUSE = 0.02


def _taken(fcntl: Any, handle: int) -> bool:
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return False
    return True


def _part_name(target: str) -> str:
    folder, name = os.path.split(target)
    return os.path.join(folder, f".{name[:80]}.{_machine()}-{os.getpid()}.{os.urandom(8).hex()}.part")


@cache
def _machine() -> str:
    """Return what tells this machine from others that write to the same folder."""
    import zlib

    return f"{zlib.crc32(os.uname().nodename.encode()) if hasattr(os, 'uname') else 0:08x}"


def _remove_left_behind(folder: str) -> None:
    """Remove files on their way whose process was killed before it could."""
    if os.name == "nt" or folder in _looked_through:
        return
    _looked_through.add(folder)
    with contextlib.suppress(OSError), os.scandir(folder or ".") as entries:
        for each in entries:
            found = _PART.fullmatch(each.name) if each.name.endswith(".part") else None
            if found and found[1] == _machine() and not _is_alive(int(found[2])):
                with contextlib.suppress(OSError):
                    os.unlink(each.path)


_looked_through: set[str] = set()


def _is_alive(process: int) -> bool:
    try:
        os.kill(process, 0)
    except (ProcessLookupError, OverflowError):
        return False
    except PermissionError:
        return True
    return True


def _remove(part: str, process: int) -> None:
    """Remove a file on its way, in the process that made it."""
    if os.getpid() == process and os.path.lexists(part):
        os.unlink(part)


def write_whole(path: str | os.PathLike[str], content: str) -> None:
    """Write `content` as UTF-8 to `path`, which holds either all of it or what it held before.

    Raises UsageError when the file cannot be written.
    """
    write_all_whole([(path, content)])


def write_all_whole(contents: Sequence[tuple[str | os.PathLike[str], str]]) -> None:
    """Write several texts as UTF-8, each to its path: all of them or none.

    Raises UsageError when one cannot be written.
    """
    parts: list[PartFile] = []
    try:
        for path, content in contents:
            parts.append(PartFile(path))
            parts[-1].stream.write(content.encode("utf-8"))
        put_in_place(parts)
    except BaseException as error:
        for part in parts:
            part.abandon()
        if isinstance(error, OSError):
            parts[-1].failed(error)
        raise


def _mode_for(target: str) -> int:
    """Return the mode the file has, or the one a new file gets."""
    try:
        return stat.S_IMODE(os.stat(target).st_mode)
    except OSError:
        mask = os.umask(0)
        os.umask(mask)
        return 0o666 & ~mask
