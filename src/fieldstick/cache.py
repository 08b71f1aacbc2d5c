"""What was worked out before, kept in the user's cache folder: it saves time, and nothing depends on it.

The folder is `fieldstick` in XDG_CACHE_HOME, or in ~/.cache (XDG Base Directory Specification). What another version of
Fieldstick or Python kept is not read. A folder that cannot be read or written is done without.
"""

from __future__ import annotations

import contextlib
import importlib
import os
import sys
from functools import lru_cache
from typing import TYPE_CHECKING, Any, TypeVar
from zlib import crc32

from msgspec import DecodeError, ValidationError, convert, json, to_builtins

from fieldstick._version import __version__

if TYPE_CHECKING:
    from collections.abc import Callable

T = TypeVar("T")

MOST_KEPT = 20_000
"""Results that are kept for a folder; when there are more, those that this run did not ask for go."""


class Remembered:
    """Results by their keys, of one kind of work in one folder."""

    def __init__(self, name: str, place: str) -> None:
        self._file = os.path.join(_folder(), f"{name}-{digest_of(os.path.realpath(place))[:16]}.json")
        self._version = f"{__version__} {sys.hexversion:x}"
        self._known = self._read()
        self._asked: set[str] = set()
        self._changed = False

    def get(self, key: Any, kind: type[T], compute: Callable[[], T]) -> T:
        """Return the result of a key, worked out when it is not known yet. `kind` is its type."""
        name = digest_of(json.encode(key).decode())
        self._asked.add(name)
        if name in self._known:
            try:
                return convert(self._known[name], kind)
            except ValidationError:
                pass
        found = compute()
        self._known[name] = to_builtins(found)
        self._changed = True
        return found

    def save(self) -> None:
        """Keep what was worked out for the next time."""
        if not self._changed:
            return
        if len(self._known) > MOST_KEPT:
            self._known = {key: self._known[key] for key in self._asked}
        part = f"{self._file}.{os.getpid()}.part"
        with contextlib.suppress(OSError):
            os.makedirs(os.path.dirname(self._file), mode=0o700, exist_ok=True)
            with open(part, "wb") as stream:
                stream.write(json.encode({"version": self._version, "known": self._known}))
            os.replace(part, self._file)

    def _read(self) -> dict[str, Any]:
        try:
            with open(self._file, "rb") as stream:
                data = json.decode(stream.read())
        except (OSError, DecodeError, UnicodeDecodeError):
            return {}
        if not isinstance(data, dict) or data.get("version") != self._version:
            return {}
        known = data.get("known")
        return known if isinstance(known, dict) else {}


MOST_FILES = 300
"""Files of one kind that are kept, each of one result in bytes; beyond them those that were not used longest go."""


class RememberedBytes:
    """One result in bytes, by its key; `kind` is the kind of work. A result of another key is never taken for it."""

    def __init__(self, kind: str, key: Any) -> None:
        self._folder = os.path.join(_folder(), kind)
        words = f"{__version__} {sys.hexversion:x} {sys.byteorder} {key!r}".encode("utf-8", "surrogatepass")
        self._head = words.replace(b"\n", b"\\n") + b"\n"
        self._file = os.path.join(self._folder, f"{crc32(self._head):08x}-{len(self._head)}")

    def read(self) -> bytes | None:
        """Return what was kept; None where there is nothing, or it is not as it was written."""
        try:
            with open(self._file, "rb") as stream:
                stored = stream.read()
        except OSError:
            return None
        data = stored[len(self._head) + 4 :]
        if not stored.startswith(self._head) or stored[len(self._head) :][:4] != crc32(data).to_bytes(4):
            return None
        with contextlib.suppress(OSError):
            os.utime(self._file)
        return data

    def save(self, data: bytes) -> None:
        """Keep a result for the next time."""
        part = f"{self._file}.{os.getpid()}.part"
        with contextlib.suppress(OSError):
            os.makedirs(self._folder, mode=0o700, exist_ok=True)
            with open(part, "wb") as stream:
                stream.write(self._head + crc32(data).to_bytes(4) + data)
            os.replace(part, self._file)
            kept = sorted(os.scandir(self._folder), key=lambda each: each.stat().st_mtime, reverse=True)
            for each in kept[MOST_FILES:]:
                os.remove(each.path)


def digest_of(text: str) -> str:
    """Return a digest of a text, whatever characters it has: SHA-256 (FIPS 180-4), as hexadecimal digits."""
    digest: str = _sha256()(text.encode("utf-8", "surrogatepass")).hexdigest()
    return digest


@lru_cache
def _sha256() -> Callable[[bytes], Any]:
    """Return Python's own SHA-256 (before 3.12 a module of its own): `hashlib` loads a library of cryptography first,
    which takes ten times as long as a small suite's digests.
    """
    for name in ("_sha2", "_sha256"):
        with contextlib.suppress(ImportError):
            found: Callable[[bytes], Any] = importlib.import_module(name).sha256
            return found
    from hashlib import sha256

    return sha256


def _folder() -> str:
    given = os.environ.get("XDG_CACHE_HOME", "")
    base = given if os.path.isabs(given) else os.path.join(os.path.expanduser("~"), ".cache")
    return os.path.join(base, "fieldstick")
