"""Files in stores that have a URL: whatever fsspec reaches, such as `s3://`, `gs://`, `https://` and `memory://`.

Reading fails as reading a file does, with OSError, whatever the store's own library raises. What is written waits in a
temporary file and is handed over when it is whole, so that nobody ever sees a half of it.
"""

from __future__ import annotations

import contextlib
import io
import os
from typing import TYPE_CHECKING, Any, BinaryIO, NoReturn, cast

from msgspec import Struct

from fieldstick.data.extras import needed
from fieldstick.errors import UsageError
from fieldstick.files import PartFile
from fieldstick.kernels.walkers import NATIVE
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Iterator

_URL = compiled_later(r"[a-zA-Z][\w+.-]+(?:::[a-zA-Z][\w+.-]+)*://")
_MAGIC = compiled_later(r"[*?\[]")
_WEB = ("http://", "https://")

_SCHEME = compiled_later(
    r"(postgresql|mysql|mariadb|oracle|mssql|sqlite|duckdb|cockroachdb|snowflake|redshift)(\+\w+)?://"
)
_SECRET = compiled_later(r"(://[^/@:]*):[^@/]*@")

AT_ONCE = 8 << 20
"""Bytes that are fetched at once."""


def is_url(name: str) -> bool:
    """Tell whether a name is the URL of a file in a store."""
    return "://" in name and _URL.match(name) is not None


def is_database(name: str) -> bool:
    """Tell whether a name is the URL of a database."""
    return "://" in name and _SCHEME.match(name) is not None


def without_secret(name: str) -> str:
    """Return a URL without its password."""
    return _SECRET.sub(r"\1:…@", name)


class Stored(Struct, frozen=True):
    """A file in a store: the store as fsspec has it, and the path there."""

    url: str
    store: Any
    path: str

    def opened(self, at_once: int = AT_ONCE) -> io.BufferedReader:
        """Open it to be read, so many bytes being fetched at once. Raises UsageError."""
        try:
            file = self.store.open(self.path, "rb", block_size=at_once)
        except Exception as error:  # each store's library raises what it likes
            raise UsageError(f"{self.url}: cannot be read: {_words(error)}") from None
        return io.BufferedReader(_Fetched(file), at_once)

    def state(self) -> tuple[int | None, Any]:
        """Return its size in bytes, None where the store does not tell, and what changes when it is written to."""
        try:
            self.store.invalidate_cache()
            found = self.store.info(self.path)
        except Exception as error:  # as above
            raise UsageError(f"{self.url}: cannot be read: {_words(error)}") from None
        if found.get("type") == "directory":
            raise UsageError(f"{self.url} is a folder; name files, or several with *")
        stamps = [found.get(name) for name in ("ETag", "etag", "LastModified", "mtime", "created")]
        size = found.get("size")
        return (size if isinstance(size, int) else None), next((each for each in stamps if each), None)


def stored(url: str) -> Stored:
    """Return what a URL names. Raises UsageError for a store that is not known, or whose library is not installed."""
    fsspec = needed("fsspec", f"{url.partition('://')[0]}://", "stores")
    try:
        store, path = fsspec.core.url_to_fs(url)
    except Exception as error:  # what is wrong with an address is said in many ways
        raise UsageError(f"{url}: {_words(error)}") from None
    return Stored(url, store, path)


def stands_for_several(name: str) -> bool:
    """Tell whether a name, or URL, stands for the files that are named like it."""
    return "*" in name if name.startswith(_WEB) else _MAGIC.search(name) is not None


def named_like(url: str) -> list[str]:
    """Return the URLs that a URL with `*`, `?` or `[` stands for; itself where it has none of them.

    In an address of the web a question mark begins a query. Raises UsageError when nothing is named so.
    """
    if not stands_for_several(url):
        return [url]
    at = stored(url)
    try:
        found = sorted(at.store.glob(at.path, detail=True).items())
    except Exception as error:  # as above
        raise UsageError(f"{url}: cannot be looked through: {_words(error)}") from None
    names = [str(at.store.unstrip_protocol(path)) for path, told in found if told.get("type") != "directory"]
    if not names:
        raise UsageError(f"no file is named like {url}")
    return names


def join(folder: str, name: str) -> str:
    """Return the name of a file in a folder, which may be one of a store."""
    return f"{folder.rstrip('/')}/{name}" if is_url(folder) else os.path.join(folder, name)


def make_folder(folder: str) -> None:
    """Make a folder where there is none; in a store there is nothing to make. Raises UsageError."""
    if is_url(folder):
        stored(folder)
        return
    try:
        os.makedirs(folder, exist_ok=True)
    except OSError as error:
        raise UsageError(f"{folder}: cannot be made: {error.strerror or error}") from None


def holds_something(folder: str) -> bool:
    """Tell whether a folder, which may be one of a store, is there and not empty. Raises UsageError."""
    if not is_url(folder):
        return os.path.lexists(folder) and not (os.path.isdir(folder) and not os.listdir(folder))
    at = stored(folder)
    try:
        return bool(at.store.exists(at.path) and at.store.ls(at.path))
    except Exception as error:  # each store's library raises what it likes
        raise UsageError(f"{folder}: cannot be looked into: {_words(error)}") from None


class _Fetched(io.RawIOBase):
    """A file of a store; what its library raises is an OSError."""

    def __init__(self, file: Any) -> None:
        super().__init__()
        self._file, self._at = file, 0

    def readable(self) -> bool:
        """It can be read."""
        return True

    def seekable(self) -> bool:
        """Another place can be gone to, where the store has that."""
        return True

    def seek(self, offset: int, whence: int = 0) -> int:
        """Go to a place, and tell it."""
        if (offset, whence) not in ((0, os.SEEK_CUR), (self._at, os.SEEK_SET)):
            self._at = int(self._file.seek(offset, whence))
        return self._at

    def readinto(self, buffer: Any) -> int:
        """Fill `buffer` with what comes next; 0 at the end."""
        try:
            found = self._file.read(len(buffer))
        except OSError:
            raise
        except Exception as error:  # as above
            raise OSError(_words(error)) from None
        memoryview(buffer)[: len(found)] = found
        self._at += len(found)
        return len(found)

    def close(self) -> None:
        """Close it."""
        if not self.closed:
            with contextlib.suppress(Exception):
                self._file.close()
        super().close()


def part_file(path: str, *, synced: bool = False) -> PartFile:
    """Return a file on its way, here or to a store. Raises UsageError when it cannot be opened.

    One that takes the place of what cannot be made again is to be `synced`.
    """
    if is_url(path):
        return cast("PartFile", StoredPart(path))
    return PartFile(path, synced=synced, swap=None if NATIVE is None else NATIVE.swap)


class StoredPart:
    """A file on its way to a store; it waits in a temporary file until it is whole. See `PartFile`."""

    def __init__(self, url: str) -> None:
        self.name = url
        self._at = stored(url)
        if url.startswith(_WEB):
            raise UsageError(f"{url}: the web is read here, and not written to")
        import tempfile

        handle, self._waiting = tempfile.mkstemp(prefix="fieldstick-")
        self.stream: BinaryIO = os.fdopen(handle, "wb")
        self._kept: str | None = None
        self._is_new = self._is_put = False
        self.is_plain = True

    @property
    def part(self) -> str:
        """The file that is written to."""
        return self._waiting

    def complete(self) -> None:
        """Let all that was written be in the file."""
        self.stream.close()

    def replace(self) -> None:
        """Hand the file over to the store, whole. Raises OSError."""
        with self._told_as_failure():
            # Some stores have folders that must be there; a store of objects makes nothing of it.
            parent = self._at.path.rpartition("/")[0]
            if parent and "s3" not in self._at.store.protocol:
                self._at.store.makedirs(parent, exist_ok=True)
            self._at.store.put_file(self._waiting, self._at.path)
        self._is_put = True
        self._drop()

    def keep_old(self) -> None:
        """Keep what is there now under another name, until `let_old_go`. Raises OSError."""
        with self._told_as_failure():
            self._is_new = not self._at.store.exists(self._at.path)
            if not self._is_new:
                kept = f"{self._at.path}.{os.urandom(4).hex()}.before"
                self._at.store.copy(self._at.path, kept)
                self._kept = kept

    def give_old_back(self) -> None:
        """Put back what was there before; nothing, where nothing was. Raises OSError."""
        with self._told_as_failure():
            if self._is_put and self._kept is not None:
                self._at.store.copy(self._kept, self._at.path)
            elif self._is_put and self._is_new:
                self._at.store.rm_file(self._at.path)
        self.let_old_go()

    def let_old_go(self) -> None:
        """Drop what was there before. Raises OSError."""
        with self._told_as_failure():
            if self._kept is not None:
                self._at.store.rm_file(self._kept)
        self._kept, self._is_new = None, False

    def abandon(self) -> None:
        """Drop what was written; what was there before stays."""
        with contextlib.suppress(OSError):
            self.stream.close()
        self._drop()

    def failed(self, error: OSError) -> NoReturn:
        """Raise UsageError for a failure of the store."""
        raise UsageError(f"{self.name}: cannot be written: {error.strerror or error}") from None

    def _drop(self) -> None:
        with contextlib.suppress(OSError):
            os.unlink(self._waiting)

    @contextlib.contextmanager
    def _told_as_failure(self) -> Iterator[None]:
        try:
            yield
        except OSError:
            raise
        except Exception as error:  # as above
            raise OSError(_words(error)) from None


def _words(error: BaseException) -> str:
    """Return the first line of what a store's library says went wrong, or its name where it says nothing."""
    if isinstance(error, FileNotFoundError):
        return "there is no such file"
    told = getattr(error, "strerror", None) or str(error)
    return str(told).split("\n")[0] or type(error).__name__
