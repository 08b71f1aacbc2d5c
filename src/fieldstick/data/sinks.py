"""Where rows go: the forms that can be written, and how each is opened."""

from __future__ import annotations

import os
from typing import TYPE_CHECKING, Literal

from fieldstick.data.packing import packing_of, without_packing
from fieldstick.data.rows import Sink, TableSink
from fieldstick.data.storage import is_database, join, make_folder, without_secret
from fieldstick.errors import UsageError, hint

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from fieldstick.data.rows import Column
    from fieldstick.files import PartFile

Form = Literal["csv", "tsv", "jsonl", "parquet", "sqlite", "xlsx", "database"]

FORMS: tuple[Form, ...] = ("csv", "tsv", "jsonl", "parquet", "sqlite", "xlsx")
TEXT_FORMS: tuple[Form, ...] = ("csv", "tsv", "jsonl")
SQLITE = "sqlite:///"
"""What stands before the path of a SQLite database where it is given as a URL."""

_ENDINGS: dict[str, Form] = {
    ".csv": "csv",
    ".tsv": "tsv",
    ".jsonl": "jsonl",
    ".ndjson": "jsonl",
    ".parquet": "parquet",
    ".sqlite": "sqlite",
    ".sqlite3": "sqlite",
    ".db": "sqlite",
    ".xlsx": "xlsx",
}


class FolderSink(Sink):
    """A file for each table in one folder, which is made when it is not there."""

    several_tables = True

    def __init__(self, folder: str, open_one: Callable[[str], Sink], ending: str) -> None:
        self._folder, self._open, self._ending = folder, open_one, ending
        self._sinks: list[Sink] = []
        make_folder(folder)

    def table(self, name: str, columns: Sequence[Column]) -> TableSink:
        """See `Sink.table`."""
        sink = self._open(join(self._folder, f"{name}{self._ending}"))
        self._sinks.append(sink)
        return sink.table(name, columns)

    def complete(self) -> list[PartFile]:
        """See `Sink.complete`."""
        return [part for sink in self._sinks for part in sink.complete()]

    def abandon(self) -> None:
        """See `Sink.abandon`."""
        for sink in self._sinks:
            sink.abandon()


def tells_form(path: str) -> bool:
    """Tell whether the name of a file tells the form of rows."""
    return is_database(path) or os.path.splitext(without_packing(path))[1].lower() in _ENDINGS


def form_of(path: str | None, form: str | None) -> Form:
    """Return the form that is asked for, or that a file's ending tells; CSV for standard output.

    Raises UsageError when neither tells.
    """
    if path is not None and is_database(path):
        if form is not None:
            raise UsageError(f"{without_secret(path)} is a database: leave --format out")
        return "database"
    if form is not None:
        return next(each for each in FORMS if each == form)
    if path is None:
        return "csv"
    ending = os.path.splitext(without_packing(path))[1].lower()
    if ending in _ENDINGS:
        if packing_of(path) is not None and _ENDINGS[ending] not in TEXT_FORMS:
            raise UsageError(f"{path}: only text is packed so: {', '.join(TEXT_FORMS)}")
        return _ENDINGS[ending]
    if not ending:
        raise UsageError(f"{path} has no ending that tells its form; choose one with --format: {', '.join(FORMS)}")
    raise UsageError(f"'{ending}' tells no form{hint(ending, _ENDINGS)}; choose one with --format")


def open_sink(
    path: str | None,
    form: Form,
    *,
    for_spreadsheet: bool = False,
    delimiter: str = ",",
    shown: Callable[[str], str] | None = None,
    append: bool = False,
    at_once: bool = False,
    grows: bool = False,
) -> Sink:
    """Open a sink for one file, or standard output; with `append` rows are added to those that are there.

    Text is there `at_once`, or in a file that `grows` from the beginning; see `TextFile`.

    Raises UsageError when it cannot be opened, or the form needs a file and there is none.
    """
    if form in TEXT_FORMS:
        from fieldstick.data.text_file import TextFile
        from fieldstick.data.text_rows import TextSink

        target = TextFile(path, shown=shown, append=append, at_once=at_once, grows=grows)
        if form == "jsonl":
            from fieldstick.data.json_rows import JsonLines

            return TextSink(target, lambda each: JsonLines(tuple(each)))
        from fieldstick.data.delimited import Delimited

        mark = "\t" if form == "tsv" else delimiter
        return TextSink(target, lambda each: Delimited(tuple(each), mark, for_spreadsheet))
    if path is None:
        raise UsageError(f"{form} is no text: name a file with --to")
    if grows:
        raise UsageError(f"{path}: a file of this form is written when all is read; with --follow write text")
    if path is not None and form == "database":
        if path.startswith(SQLITE):
            return open_sink(path.removeprefix(SQLITE), "sqlite", append=append)
        from fieldstick.data.database import ServerSink

        return ServerSink(path, append=append)
    if append and form != "sqlite":
        raise UsageError(f"{path}: nothing can be added to a file of this form; --append goes with text and databases")
    if form == "parquet":
        from fieldstick.data.parquet import ParquetSink

        return ParquetSink(path)
    if form == "sqlite":
        from fieldstick.data.sqlite import DatabaseSink

        return DatabaseSink(path, append=append)
    from fieldstick.data.xlsx import WorkbookSink

    return WorkbookSink(path)
