"""A file for each part of the sources, written by whoever works on the part: whole, or not at all."""

from __future__ import annotations

import os
from typing import TYPE_CHECKING, Any

from fieldstick.data.rows import Sink, TableSink
from fieldstick.data.sinks import open_sink
from fieldstick.data.storage import holds_something, is_url, join, make_folder
from fieldstick.errors import UsageError

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.data.rows import Column
    from fieldstick.data.sinks import Form
    from fieldstick.files import PartFile


class PartsSink(Sink):
    """Tables in a folder that all workers reach, a file for each part of the sources; of several tables a folder each.

    Files are called by the number of the part, so that their order is that of the sources. A part that is done again is
    written again under the same name, and holds the same.
    """

    several_tables = True

    def __init__(self, folder: str, form: Form, *, for_spreadsheet: bool = False) -> None:
        if form not in ("csv", "tsv", "jsonl", "parquet"):
            raise UsageError(f"--parts writes text or Parquet, and no {form}")
        if holds_something(folder):
            raise UsageError(f"{folder} holds something already; name another folder")
        make_folder(folder)
        # Those who write may work in another folder than this one.
        folder = folder if is_url(folder) else os.path.abspath(folder)
        self._folder, self._form, self._for_spreadsheet = folder, form, for_spreadsheet
        self._tables: list[tuple[str, Sequence[Column]]] = []

    def table(self, name: str, columns: Sequence[Column]) -> TableSink:
        """See `Sink.table`."""
        self._tables.append((name, columns))
        # It encodes rows as the files of parts have them; nothing is written to it.
        return open_sink(os.devnull, self._form, for_spreadsheet=self._for_spreadsheet).table(name, columns)

    def keep(self, number: int, payloads: Sequence[Sequence[Any]]) -> None:
        """Write what was made of a part, the payloads of each table; a table without any gets no file.

        Raises UsageError.
        """
        for (name, columns), made in zip(self._tables, payloads, strict=True):
            folder = join(self._folder, name) if len(self._tables) > 1 else self._folder
            if any(made):
                make_folder(folder)
                path = join(folder, f"{number:08}.{self._form}")
                sink = open_sink(path, self._form, for_spreadsheet=self._for_spreadsheet)
                table = sink.table(name, columns)
                for payload in made:
                    table.write(payload)
                sink.finish()

    def complete(self) -> list[PartFile]:
        """See `Sink.complete`; every part is in its place already."""
        return []

    def abandon(self) -> None:
        """See `Sink.abandon`; parts that are done stay."""
