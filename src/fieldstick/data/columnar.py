"""What Parquet, XLSX and SQLite have in common when they are read: files that are no text, opened at any place."""

from __future__ import annotations

import io
import os
import shutil
import tempfile
from contextlib import contextmanager
from typing import TYPE_CHECKING

from fieldstick.data.batch import Entry
from fieldstick.data.delimited import Delimited
from fieldstick.data.rows import Column, text_of
from fieldstick.data.storage import is_url

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.data.compression import Stream
    from fieldstick.data.rows import RowTable
    from fieldstick.data.source import Source


@contextmanager
def as_file(source: Source, stream: Stream) -> Iterator[str]:
    """Give a stream as a file that can be read at any place: itself, or a copy for as long as it is needed."""
    if source.is_folder or (source.path is not None and not is_url(source.path) and stream.packing is None):
        yield source.path or ""
        return
    with tempfile.TemporaryDirectory() as folder:
        copy = os.path.join(folder, "copy")
        with open(copy, "wb") as target:
            shutil.copyfileobj(io.BufferedReader(stream), target)
        yield copy


def entries_of(source: Source, table: RowTable) -> Iterator[Entry]:
    """Yield the rows of a table; as they stand, where that is wanted, they are CSV."""
    options = source.read_options
    source.columns = table.columns
    source.check_columns(table.columns)
    written = Delimited(tuple(map(Column, table.columns))) if options.raws_wanted else None
    source.header = written.head() if written is not None else ""
    place = table.columns.index(options.column) if options.column is not None else None
    for number, cells in table.rows:
        text = text_of(cells[place]) if place is not None else ""
        if text is None:
            source.notes.missing.note(number)
        raw = written.body([[text_of(cell) for cell in cells]]) if written is not None else None
        yield Entry(number, text, dict(zip(table.columns, cells, strict=True)), raw)
