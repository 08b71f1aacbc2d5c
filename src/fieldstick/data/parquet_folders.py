"""Folders of Parquet files, here or in a store, read as one table; what their names say of a column is a column too."""

from __future__ import annotations

import io
import os
from typing import Any

from fieldstick.data.extras import needed
from fieldstick.data.rows import first_line
from fieldstick.data.storage import is_url, stored
from fieldstick.errors import UsageError

WHAT = "a folder of Parquet files"
ENDING = ".parquet"


class FolderStream(io.RawIOBase):
    """Stands for the bytes of a folder, which has none: what reads it opens its files. See `Stream`."""

    head = b"PAR1"
    packing = None
    ended_early: str | None = None

    def __init__(self, size: int) -> None:
        super().__init__()
        self.size: int | None = size
        self.consumed = size

    def readable(self) -> bool:
        """It can be read, and is empty."""
        return True

    def read(self, size: int = -1) -> bytes:
        """Return nothing."""
        return b""

    def changed(self) -> bool:
        """Tell that nothing is known of changes: each file is whole or not there."""
        return False


def folder_size(name: str) -> int | None:
    """Return the bytes of the Parquet files below a folder; None where there are none, or it is no folder."""
    sizes = [size for _, size in _files(name)]
    return sum(sizes) if sizes else None


def _files(name: str) -> list[tuple[str, int]]:
    """Return the Parquet files below a folder with their sizes, in the order of their paths.

    What begins with a dot or an underscore is on its way, or about the others, and no part of the table.
    """
    if is_url(name):
        at = stored(name)
        try:
            told = at.store.find(at.path, detail=True) if at.store.isdir(at.path) else {}
        except Exception as error:  # each store's library raises what it likes
            raise UsageError(f"{name}: cannot be looked into: {first_line(error)}") from None
        found = [(path, int(each.get("size") or 0)) for path, each in told.items()]
        base = at.path
    else:
        paths = [os.path.join(folder, each) for folder, _, names in os.walk(name) for each in names]
        found = [(path, os.path.getsize(path)) for path in paths if path.endswith(ENDING)]
        base = name
    return sorted((path, size) for path, size in found if path.endswith(ENDING) and _is_shown(path[len(base) :]))


def _is_shown(path: str) -> bool:
    return not any(each.startswith((".", "_")) for each in path.replace(os.sep, "/").split("/"))


def folder_dataset(name: str, path: str) -> Any:
    """Open a folder. Raises UsageError for one that cannot be read."""
    dataset = needed("pyarrow.dataset", WHAT)
    try:
        files = [each for each, _ in _files(path)]
        if not is_url(path):
            return dataset.dataset(files, format="parquet", partitioning="hive")
        arrow_files = needed("pyarrow.fs", WHAT)
        at = stored(path)
        store = arrow_files.PyFileSystem(arrow_files.FSSpecHandler(at.store))
        return dataset.dataset(files, filesystem=store, format="parquet", partitioning="hive")
    except UsageError:
        raise
    except Exception as error:  # what is wrong with its files is nowhere listed
        raise UsageError(f"{name}: cannot be read as {WHAT}: {first_line(error)}") from None
