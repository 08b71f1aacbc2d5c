"""Folders of Parquet files parted by values of columns, as the Hive convention has them: FOLDER/plot=B07/X.parquet.

Written to a folder beside, or to a temporary one, and put in place when it is whole.
"""

from __future__ import annotations

import contextlib
import os
import shutil
import tempfile
from typing import TYPE_CHECKING, Any, NoReturn, cast

from fieldstick.data.arrow_spool import ArrowSpool
from fieldstick.data.extras import needed
from fieldstick.data.rows import Sink, TableSink
from fieldstick.data.storage import holds_something, is_url, stored
from fieldstick.errors import UsageError, hint

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.data.rows import Column
    from fieldstick.files import PartFile

WHAT = "a folder of Parquet files"

MOST_OPEN = 500
"""Files that are written to at a time; where there are more values, those that were not met for longest are closed."""


class PartitionedSink(Sink):
    """One table, as a file or more for each value of some columns."""

    def __init__(self, folder: str, by: Sequence[str], *, append: bool = False) -> None:
        needed("pyarrow.dataset", WHAT)
        self._part = FolderPart(folder, append=append)
        self._by = tuple(by)
        self._table: _PartitionedTable | None = None

    def table(self, name: str, columns: Sequence[Column]) -> TableSink:
        """See `Sink.table`. Raises UsageError for a column that is not there."""
        names = [column.name for column in columns]
        for each in self._by:
            if each not in names:
                raise UsageError(f"--partition-by {each}: there is no such column{hint(each, names)}")
        if len(self._by) == len(names):
            raise UsageError("--partition-by: a column is to be left that the files hold")
        self._table = _PartitionedTable(columns, "pyarrow.dataset")
        return self._table

    def complete(self) -> list[PartFile]:
        """See `Sink.complete`."""
        if self._table is not None:
            try:
                self._table.store(self._part.waiting, self._by)
            except OSError as error:
                self._part.failed(error)
        return [cast("PartFile", self._part)]

    def abandon(self) -> None:
        """See `Sink.abandon`."""
        self._part.abandon()


class _PartitionedTable(ArrowSpool):
    def store(self, folder: str, by: Sequence[str]) -> None:
        """Write all rows. Raises OSError."""
        arrow, dataset = needed("pyarrow", WHAT), needed("pyarrow.dataset", WHAT)
        schema = self.shape.schema(arrow)

        def batches() -> Iterator[Any]:
            for table in self.tables(arrow, schema):
                yield from table.to_batches()

        parted = dataset.partitioning(arrow.schema([schema.field(each) for each in by]), flavor="hive")
        dataset.write_dataset(
            batches(),
            folder,
            schema=schema,
            format="parquet",
            partitioning=parted,
            # No two runs give a file the same name, so that one adds to what the other wrote.
            basename_template=f"{os.urandom(6).hex()}-{{i}}.parquet",
            existing_data_behavior="overwrite_or_ignore",
            max_open_files=MOST_OPEN,
            max_partitions=1 << 20,
            # The order of rows is that of their texts.
            use_threads=False,
        )


class FolderPart:
    """A folder on its way; see `PartFile`. With `append` its files are put beside those that are there."""

    def __init__(self, folder: str, *, append: bool) -> None:
        self.name = folder
        self._append = append
        self._at = stored(folder) if is_url(folder) else None
        self._moved: list[str] = []
        if not append and holds_something(folder):
            raise UsageError(f"{folder} holds something already; --append adds to it, or name another folder")
        if self._at is None:
            os.makedirs(os.path.dirname(os.path.realpath(folder)), exist_ok=True)
            self.waiting = tempfile.mkdtemp(prefix=".", suffix=".part", dir=os.path.dirname(os.path.realpath(folder)))
        else:
            self.waiting = tempfile.mkdtemp(prefix="fieldstick-")

    def complete(self) -> None:
        """Let all that was written be in its files."""

    def replace(self) -> None:
        """Put the files in place. Raises OSError."""
        os.chmod(self.waiting, 0o777 & ~_umask())
        if self._at is None and not self._append:
            if os.path.isdir(self.name):
                os.rmdir(self.name)
            os.rename(self.waiting, self.name)
            return
        for folder, _, names in os.walk(self.waiting):
            beside = os.path.relpath(folder, self.waiting)
            for name in names:
                self._move(os.path.join(folder, name), os.path.normpath(os.path.join(beside, name)))
        self.abandon()

    def _move(self, path: str, beside: str) -> None:
        if self._at is None:
            target = os.path.join(self.name, beside)
            os.makedirs(os.path.dirname(target), exist_ok=True)
            os.replace(path, target)
            self._moved.append(target)
            return
        target = f"{self._at.path.rstrip('/')}/{beside.replace(os.sep, '/')}"
        try:
            if "s3" not in self._at.store.protocol:
                self._at.store.makedirs(target.rpartition("/")[0], exist_ok=True)
            self._at.store.put_file(path, target)
        except OSError:
            raise
        except Exception as error:  # as above
            raise OSError(str(error)) from None
        self._moved.append(target)

    def keep_old(self) -> None:
        """Nothing that is there is replaced."""

    def give_old_back(self) -> None:
        """Take away what was put in place."""
        for each in self._moved:
            with contextlib.suppress(Exception):
                if self._at is None:
                    os.unlink(each)
                else:
                    self._at.store.rm_file(each)
        self._moved.clear()

    def let_old_go(self) -> None:
        """Nothing was kept."""

    def abandon(self) -> None:
        """Drop what was written; what was there before stays."""
        shutil.rmtree(self.waiting, ignore_errors=True)

    def failed(self, error: OSError) -> NoReturn:
        """Raise UsageError for a failure of the system."""
        raise UsageError(f"{self.name}: cannot be written: {error.strerror or error}") from None


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask
