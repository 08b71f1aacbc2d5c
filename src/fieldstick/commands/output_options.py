"""The words of writing: where rows go, and in which form."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import click
from msgspec import Struct

from fieldstick.commands.option_groups import collecting, heading, option
from fieldstick.commands.sources import shown
from fieldstick.data.passed_on import stands_as_it_is
from fieldstick.data.sinks import FORMS, Form, form_of, open_sink, tells_form
from fieldstick.data.text_file import TextFile, refuse_own_source
from fieldstick.errors import UsageError

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable

    from fieldstick.commands.option_groups import Decorator
    from fieldstick.data.rows import Sink
    from fieldstick.data.source import Source

STANDARD_OUTPUT = "-"
"""What names standard output where a file is named."""

WRITTEN_HEADING = heading("What is written")
FOR_SPREADSHEET = option(
    "--for-spreadsheet", is_flag=True, help="In CSV and TSV, guard cells that a spreadsheet would run."
)


NO_APPEND = "--append goes with --to FILE; standard output is always added to"
APPEND = option("--append", is_flag=True, help="Add to what the file holds, instead of replacing it.")


class OutputOptions(Struct, frozen=True):
    """Where rows are to go, as asked on the command line; to standard output where no path is given."""

    path: str | None = None
    form: str | None = None
    for_spreadsheet: bool = False
    append: bool = False
    partition_by: tuple[str, ...] = ()
    is_said: bool = False
    """Whether it was said where they go, if only that it is standard output."""

    def told_form(self) -> Form:
        """Return the form of what is written. Raises UsageError when nothing tells it."""
        if self.partition_by and self.form is None:
            return "parquet"
        return form_of(self.path, self.form)

    def passing_form(self) -> Form | None:
        """Return the form of rows that are passed on; None for text that stands as it is."""
        if self.form is not None or self.path is None or self.partition_by:
            return self.told_form() if self.form is not None or self.partition_by else None
        return form_of(self.path, None) if tells_form(self.path) else None

    def passes_rows(self, sources: Iterable[Source]) -> bool:
        """Tell whether what is passed on of some source cannot stand as it is in what is written."""
        form = self.passing_form()
        return not all(stands_as_it_is(each, form, is_asked=self.form is not None) for each in sources)

    def open(self, sources: Iterable[Source]) -> Sink:
        """Open the sink. Raises UsageError when it is one of the sources, or cannot be opened."""
        if self.path is not None:
            refuse_own_source(self.path, [source.path for source in sources])
        return self.open_one(self.path, sources, shown=shown)

    def open_text(self, sources: Iterable[Source]) -> TextFile:
        """Open what takes text as it stands. Raises UsageError when it is one of the sources, or cannot be opened."""
        if self.path is not None:
            refuse_own_source(self.path, [source.path for source in sources])
        elif self.append:
            raise UsageError(NO_APPEND)
        at_once, grows = _pace(sources)
        return TextFile(self.path, shown=shown, append=self.append, at_once=at_once, grows=grows)

    def open_one(
        self, path: str | None, sources: Iterable[Source] = (), shown: Callable[[str], str] | None = None
    ) -> Sink:
        """Open a sink of this form for a file. Raises UsageError when it cannot be opened."""
        if self.append and path is None:
            raise UsageError(NO_APPEND)
        at_once, grows = _pace(sources)
        if self.partition_by:
            return self._partitioned(path, grows=grows)
        return open_sink(
            path,
            self.told_form(),
            for_spreadsheet=self.for_spreadsheet,
            shown=shown,
            append=self.append,
            at_once=at_once,
            grows=grows,
        )

    def _partitioned(self, path: str | None, *, grows: bool) -> Sink:
        if path is None or self.told_form() != "parquet" or grows:
            raise UsageError("--partition-by writes Parquet files to a folder: name it with --to FOLDER")
        from fieldstick.data.partitioned import PartitionedSink

        return PartitionedSink(path, self.partition_by, append=self.append)


def _pace(sources: Iterable[Source]) -> tuple[bool, bool]:
    """Tell whether what is written is to be there at once, and whether a file of it is to grow."""
    listed = list(sources)
    return any(each.is_live for each in listed), any(each.grows for each in listed)


def _output(given: dict[str, Any]) -> dict[str, Any]:
    asked = [given.pop(name) for name in ("to", "form", "for_spreadsheet", "append", "partition_by")]
    asked.append(asked[0] is not None)
    asked[0] = None if asked[0] == STANDARD_OUTPUT else asked[0]
    return given | {"output": OutputOptions(*asked)}


sink_options: Decorator = collecting(
    (
        WRITTEN_HEADING,
        option(
            "--to",
            metavar="FILE",
            help="Write to FILE or URL, whose ending tells form and packing; - for standard output.",
        ),
        APPEND,
        option("--format", "form", type=click.Choice(FORMS), help="The form of what is written.  [default: csv]"),
        FOR_SPREADSHEET,
        option(
            "--partition-by",
            multiple=True,
            metavar="NAME",
            help="Write Parquet files to the folder that --to names, parted by this column. Repeatable.",
        ),
    ),
    _output,
)
"""Adds the options that say where rows go; the command takes `output`."""
