"""Texts that are passed on as rows: those of a table with all their columns and types, lines with where they stand."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.data.elsewhere import StaysHere

if TYPE_CHECKING:
    from collections.abc import Iterable, Mapping, Sequence

    from fieldstick.data.batch import Batch
    from fieldstick.data.rows import Sink
    from fieldstick.data.sinks import Form
    from fieldstick.data.source import Source
    from fieldstick.files import PartFile

TEXT_KINDS = {"csv": ("csv", "tsv"), "jsonl": ("jsonl",), "json": ("jsonl",)}
"""The forms of what is written in which the rows of a source of that kind may stand as they are."""


LINE_COLUMNS = ("source", "line", "text")
LINE_KINDS = ("lines", "whole", "records")


class PassedOn(StaysHere):
    """Takes rows, and writes them as one table of all the columns that any of them has.

    `of_lines` are the columns of a row that stands for a line.
    """

    def __init__(self, sink: Sink, table: str, of_lines: Sequence[str] = LINE_COLUMNS) -> None:
        self._sink, self._of_lines = sink, of_lines
        from fieldstick.data.named_rows import NamedRows

        self._rows = NamedRows(sink, table)

    def take(self, source: Source, rows: Iterable[Mapping[str, Any]]) -> None:
        """Take rows of a source."""
        self._rows.expect(columns_of(source, self._of_lines))
        for row in rows:
            self._rows.add(row)

    def complete(self) -> list[PartFile]:
        """Write what is left to write, and return the files, which are then to be put in place."""
        self._rows.finish()
        return self._sink.complete()

    def abandon(self) -> None:
        """Drop what was written."""
        self._sink.abandon()


def columns_of(source: Source, of_lines: Sequence[str] = LINE_COLUMNS) -> Sequence[str]:
    """Return the columns of a source's rows as far as they are known; `of_lines` are those of a line."""
    return source.columns or (of_lines if source.kind in LINE_KINDS else ())


def rows_at(source: str, batch: Batch, indexes: Iterable[int]) -> list[Mapping[str, Any]]:
    """Return those texts of a batch as rows, a line with the columns `source`, `line` and `text`."""
    if batch.rows is not None:
        return [batch.rows[index] for index in indexes]
    numbers, texts = batch.numbers, batch.texts
    return [dict(zip(LINE_COLUMNS, (source, numbers[index], texts[index]), strict=True)) for index in indexes]


def stands_as_it_is(source: Source, form: Form | None, *, is_asked: bool = False) -> bool:
    """Tell whether what is passed on of a source stands in a file of that form as it stands there.

    `is_asked` tells that the form is asked for by name: lines are then rows in it, whereas a file that is called .csv
    takes lines as they are. None is for text of no form.
    """
    if form is None:
        return True
    kind = source.table_kind()
    if kind == "csv":
        from fieldstick.data.delimited import delimiter_of

        return form in TEXT_KINDS[kind] and (delimiter_of(source) == "\t") == (form == "tsv")
    if kind in ("parquet", "sqlite", "xlsx"):
        # These have no rows that stand as they are; as CSV they are written so.
        return form == "csv"
    if kind in TEXT_KINDS:
        return form in TEXT_KINDS[kind]
    return form in ("csv", "tsv", "jsonl") and not is_asked
