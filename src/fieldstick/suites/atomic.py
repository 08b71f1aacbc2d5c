"""Writes a file whole or not at all."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path

from fieldstick.errors import UsageError


def write_whole(path: str | os.PathLike[str], content: str) -> None:
    """Write `content` as UTF-8 to `path`, which holds either all of it or what it held before.

    Raises UsageError when the file cannot be written.
    """
    target = Path(path)
    try:
        handle, name = tempfile.mkstemp(dir=target.parent, prefix=f".{target.name}.", suffix=".part")
    except OSError as error:
        raise UsageError(f"{path}: cannot be written: {error.strerror or error}") from None
    try:
        with os.fdopen(handle, "w", encoding="utf-8", newline="\n") as stream:
            stream.write(content)
            stream.flush()
            os.fsync(stream.fileno())
        Path(name).chmod(_mode_for(target))
        Path(name).replace(target)
    except BaseException as error:
        Path(name).unlink(missing_ok=True)
        if isinstance(error, OSError):
            raise UsageError(f"{path}: cannot be written: {error.strerror or error}") from None
        raise


def _mode_for(target: Path) -> int:
    """Return the mode the file has, or the one a new file gets."""
    try:
        return target.stat().st_mode & 0o777
    except OSError:
        mask = os.umask(0)
        os.umask(mask)
        return 0o666 & ~mask
