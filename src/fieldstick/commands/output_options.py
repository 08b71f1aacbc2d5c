"""The words of writing: where rows go, and in which form."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import click
from msgspec import Struct

from fieldstick.commands.option_groups import collecting, heading, option
from fieldstick.commands.sources import shown
from fieldstick.data.sinks import FORMS, Form, form_of, open_sink
from fieldstick.data.text_file import refuse_own_source

if TYPE_CHECKING:
    from collections.abc import Iterable

    from fieldstick.commands.option_groups import Decorator
    from fieldstick.data.rows import Sink
    from fieldstick.data.source import Source

WRITTEN_HEADING = heading("What is written")
FOR_SPREADSHEET = option(
    "--for-spreadsheet", is_flag=True, help="In CSV and TSV, guard cells that a spreadsheet would run."
)


class OutputOptions(Struct, frozen=True):
    """Where rows are to go, as asked on the command line."""

    path: str | None = None
    form: str | None = None
    for_spreadsheet: bool = False

    def told_form(self) -> Form:
        """Return the form of what is written. Raises UsageError when nothing tells it."""
        return form_of(self.path, self.form)

    def open(self, sources: Iterable[Source]) -> Sink:
        """Open the sink. Raises UsageError when it is one of the sources, or cannot be opened."""
        if self.path is not None:
            refuse_own_source(self.path, [source.path for source in sources])
        return open_sink(self.path, self.told_form(), for_spreadsheet=self.for_spreadsheet, shown=shown)


def _output(given: dict[str, Any]) -> dict[str, Any]:
    return given | {"output": OutputOptions(given.pop("to"), given.pop("form"), given.pop("for_spreadsheet"))}


sink_options: Decorator = collecting(
    (
        WRITTEN_HEADING,
        option("--to", metavar="FILE", help="Write to FILE; its ending tells the form."),
        option("--format", "form", type=click.Choice(FORMS), help="The form of what is written.  [default: csv]"),
        FOR_SPREADSHEET,
    ),
    _output,
)
"""Adds the options that say where rows go; the command takes `output`."""
