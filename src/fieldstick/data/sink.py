"""Sinks: where rows go, one table or several, as text, Parquet, SQLite or XLSX."""

from __future__ import annotations

from abc import ABC, abstractmethod
from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal

from fieldstick.data.rowtext import Column, Delimited, JsonLines, Row, RowFormat
from fieldstick.data.text_file import TextFile, encoded
from fieldstick.errors import UsageError, hint

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

Form = Literal["csv", "tsv", "jsonl", "parquet", "sqlite", "xlsx"]

FORMS: tuple[Form, ...] = ("csv", "tsv", "jsonl", "parquet", "sqlite", "xlsx")
TEXT_FORMS: tuple[Form, ...] = ("csv", "tsv", "jsonl")
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


class TableSink(ABC):
    """Takes the rows of one table.

    `encode` may be called in another process, and what it returns is handed to `write` in the right order.
    """

    @abstractmethod
    def encode(self, rows: list[Row], origin: str | None = None) -> Any:
        """Bring rows into the form that `write` takes; `origin` is lines that all cells are pieces of."""

    @abstractmethod
    def write(self, payload: Any) -> None:
        """Write what `encode` made. Raises UsageError when it cannot be written."""


class Sink(ABC):
    """A file, or standard output, that takes one table or several and appears whole or not at all."""

    several_tables = False

    @abstractmethod
    def table(self, name: str, columns: Sequence[Column]) -> TableSink:
        """Begin a table."""

    @abstractmethod
    def finish(self) -> None:
        """Put everything in place. Raises UsageError when it cannot be written."""

    @abstractmethod
    def abandon(self) -> None:
        """Drop what was written."""


class TextTable(TableSink):
    """Rows written as text to a target."""

    def __init__(self, form: RowFormat, target: TextFile) -> None:
        self._form, self._target = form, target
        self._begun = False

    def encode(self, rows: list[Row], origin: str | None = None) -> bytes:
        """See `TableSink.encode`."""
        return encoded(self._form.body(rows, origin))

    def write(self, payload: bytes) -> None:
        """See `TableSink.write`; what stands before the rows goes with the first of them."""
        if payload:
            self.begin()
            self._target.write_utf8(payload)

    def begin(self) -> None:
        """Write what stands before the rows, once."""
        if not self._begun:
            self._begun = True
            self._target.write(self._form.head())

    def __getstate__(self) -> dict[str, Any]:
        return {"_form": self._form}


class TextSink(Sink):
    """One table as text."""

    def __init__(self, target: TextFile, make: Callable[[Sequence[Column]], RowFormat]) -> None:
        self._target, self._make = target, make
        self._table: TextTable | None = None

    def table(self, name: str, columns: Sequence[Column]) -> TableSink:
        """See `Sink.table`."""
        self._table = TextTable(self._make(columns), self._target)
        return self._table

    def finish(self) -> None:
        """See `Sink.finish`."""
        if self._table is not None:
            self._table.begin()
        self._target.finish()

    def abandon(self) -> None:
        """See `Sink.abandon`."""
        self._target.abandon()


class FolderSink(Sink):
    """A file for each table in one folder, which is made when it is not there."""

    several_tables = True

    def __init__(self, folder: str, open_one: Callable[[str], Sink], ending: str) -> None:
        self._folder, self._open, self._ending = Path(folder), open_one, ending
        self._sinks: list[Sink] = []
        try:
            self._folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise UsageError(f"{folder}: cannot be made: {error.strerror or error}") from None

    def table(self, name: str, columns: Sequence[Column]) -> TableSink:
        """See `Sink.table`."""
        sink = self._open(str(self._folder / f"{name}{self._ending}"))
        self._sinks.append(sink)
        return sink.table(name, columns)

    def finish(self) -> None:
        """See `Sink.finish`."""
        while self._sinks:
            self._sinks.pop(0).finish()

    def abandon(self) -> None:
        """See `Sink.abandon`."""
        for sink in self._sinks:
            sink.abandon()


def form_of(path: str | None, form: str | None) -> Form:
    """Return the form that is asked for, or that a file's ending tells; CSV for standard output.

    Raises UsageError when neither tells.
    """
    if form is not None:
        return next(each for each in FORMS if each == form)
    if path is None:
        return "csv"
    ending = Path(path).suffix.lower()
    if ending in _ENDINGS:
        return _ENDINGS[ending]
    if not ending or not Path(path).suffix:
        raise UsageError(f"{path} has no ending that tells its form; choose one with --format: {', '.join(FORMS)}")
    raise UsageError(f"'{ending}' tells no form{hint(ending, _ENDINGS)}; choose one with --format")


def open_sink(
    path: str | None,
    form: Form,
    *,
    for_spreadsheet: bool = False,
    delimiter: str = ",",
    shown: Callable[[str], str] | None = None,
) -> Sink:
    """Open a sink for one file, or standard output.

    Raises UsageError when it cannot be opened, or the form needs a file and there is none.
    """
    if form in ("csv", "tsv"):
        mark = "\t" if form == "tsv" else delimiter
        return TextSink(TextFile(path, shown=shown), lambda each: Delimited(tuple(each), mark, for_spreadsheet))
    if form == "jsonl":
        return TextSink(TextFile(path, shown=shown), lambda each: JsonLines(tuple(each)))
    if path is None:
        raise UsageError(f"{form} is no text: name a file with --to")
    if form == "parquet":
        from fieldstick.data.parquet_sink import ParquetSink

        return ParquetSink(path)
    if form == "sqlite":
        from fieldstick.data.sqlite_sink import DatabaseSink

        return DatabaseSink(path)
    from fieldstick.data.xlsx_sink import WorkbookSink

    return WorkbookSink(path)
