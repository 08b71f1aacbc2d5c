"""`validate`: rows accepted or rejected, each reject with its reason."""

from __future__ import annotations

from contextlib import ExitStack
from typing import TYPE_CHECKING, Any

import click
from msgspec.structs import replace

from fieldstick.commands.drafts import pattern_at, use_at
from fieldstick.commands.options import (
    Overrides,
    closing,
    jobs_option,
    kept_whole,
    no_pattern,
    pattern_options,
    patterns_and_sources,
    sources_of,
    table_options,
)
from fieldstick.commands.progress import byte_progress
from fieldstick.commands.rendering import say
from fieldstick.data.jsonvalues import text_of
from fieldstick.data.rowtext import Column
from fieldstick.data.sink import form_of, open_sink
from fieldstick.data.text_file import refuse_own_source
from fieldstick.errors import EXIT_FAILED, UsageError, hint
from fieldstick.matching.forms import ReadyForm
from fieldstick.reporting.as_work import reject_lines, validation_table, validation_words
from fieldstick.reporting.terminal import Terminal
from fieldstick.runs.executor import fitting_jobs
from fieldstick.suites.uses import Form
from fieldstick.working.validation import VALUE, validate

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from fieldstick.data.read_options import ReadOptions
    from fieldstick.data.sink import TableSink
    from fieldstick.data.source import Source

REJECT_COLUMNS = (
    Column("source"),
    Column("row", "integer"),
    Column("column"),
    Column("value"),
    Column("reason"),
    Column("words"),
    Column("message"),
)


@click.command(short_help="Accept or reject rows, each reject with its reason.")
@click.argument("arguments", nargs=-1, metavar="[SUITE:FORM|SUITE:PATTERN] SOURCE...")
@click.option("--form", "form_address", metavar="SUITE:FORM", help="The form of a suite: a pattern for each column.")
@click.option(
    "--column", "columns", multiple=True, metavar="NAME=SUITE:PATTERN", help="The pattern of a column. Repeatable."
)
@click.option("--required", multiple=True, metavar="NAME", help="A column that must not be blank. Repeatable.")
@click.option("--blank", multiple=True, metavar="TEXT", help="A text that means nothing was entered. Repeatable.")
@click.option("--accepted", metavar="FILE", help="Write the accepted rows to FILE.")
@click.option("--rejects", metavar="FILE", help="Write a row for each rejected cell to FILE; - for standard output.")
@click.option("--for-spreadsheet", is_flag=True, help="In CSV, guard cells that a spreadsheet would run.")
@click.option("--show", type=click.IntRange(min=0), default=5, metavar="N", help="Rejects to show.  [default: 5]")
@pattern_options
@table_options
@jobs_option
def command(
    arguments: tuple[str, ...],
    form_address: str | None,
    columns: tuple[str, ...],
    required: tuple[str, ...],
    blank: tuple[str, ...],
    accepted: str | None,
    rejects: str | None,
    for_spreadsheet: bool,
    show: int,
    expression: str | None,
    overrides: Overrides,
    read_options: ReadOptions,
    jobs: int | None,
) -> int:
    """Validate the rows of each SOURCE by a pattern for each column, or each line by one pattern.

    A blank cell is accepted unless its column is required. Each rejected cell is given with its row, column, value,
    the reason in words, and the message that its pattern keeps for whoever entered it.

    Exit status: 0 all accepted, 1 something was rejected or not read as asked, 2 the command or a file is wrong.
    """
    form, names = _form(arguments, expression, overrides, form_address, columns, required, blank)
    ready = ReadyForm(form)
    by_line = [column for column, _ in form.columns] == [VALUE] and not columns and form_address is None
    sources = sources_of(names, read_options if by_line else replace(read_options, rows_wanted=True, raws_wanted=True))
    if not by_line:
        _check_columns(form, sources)
    own = [source.path for source in sources]
    with ExitStack() as stack:
        keep = None
        for each in (accepted, rejects):
            if each not in (None, "-"):
                refuse_own_source(each or "", own)
        if accepted is not None:
            keeper = Accepted(accepted, for_spreadsheet, by_line)
            stack.enter_context(kept_whole(keeper))
            keep = keeper.take
        told: TableSink | None = None
        if rejects is not None:
            path = None if rejects == "-" else rejects
            sink = open_sink(path, form_of(path, None), for_spreadsheet=for_spreadsheet)
            stack.enter_context(kept_whole(sink))
            told = sink.table("rejects", REJECT_COLUMNS)
        progress = stack.enter_context(byte_progress(sources, writes_to=rejects or ""))
        tally = validate(
            ready, sources, accepted=keep, rejects=told, jobs=jobs or fitting_jobs(sources), progress=progress
        )
        if accepted is not None:
            keeper.begin(sources[0])
    words = validation_words(tally)
    if rejects == "-":
        say(words)
    else:
        terminal = Terminal.of()
        terminal.write(reject_lines(tally, show, terminal.width, terminal.charset, kept_in=rejects))
        terminal.write(validation_table(tally, ready.columns))
        click.echo(words[0].upper() + words[1:])
    status = closing(sources, [tally])
    return EXIT_FAILED if tally.rejected else status


class Accepted:
    """Takes accepted rows: as they stand where the file has the form of the source, else cell by cell."""

    def __init__(self, path: str, for_spreadsheet: bool, by_line: bool) -> None:
        self._path, self._for_spreadsheet, self._by_line = path, for_spreadsheet, by_line
        self._sink: Any = None
        self._table: TableSink | None = None
        self._columns: list[str] = []
        self._header = ""

    def begin(self, source: Source) -> None:
        """Open what is written to, when it is not open yet."""
        from fieldstick.data.sink import TEXT_FORMS
        from fieldstick.data.text_file import Target

        if self._sink is not None:
            return
        form = None if self._by_line else form_of(self._path, None)
        as_it_stands = self._by_line or (form in TEXT_FORMS and (form == "jsonl") == (source.kind in ("json", "jsonl")))
        if as_it_stands and not self._for_spreadsheet:
            self._sink = Target(self._path)
            self._sink.write(source.header)
            self._header = source.header
            return
        assert form is not None
        self._sink = open_sink(self._path, form, for_spreadsheet=self._for_spreadsheet)
        self._columns = source.columns
        if self._columns:
            self._table = self._sink.table("accepted", [Column(name) for name in self._columns])

    def take(self, source: Source, raw: str, rows: list[Mapping[str, Any]]) -> None:
        """Write accepted rows."""
        self.begin(source)
        if not self._columns and self._table is None and hasattr(self._sink, "write"):
            if source.header != self._header:
                raise UsageError(f"{source.name} has other columns than the sources before it; write them one by one")
            self._sink.write(raw)
            return
        if self._table is None and rows:
            self._columns = list(rows[0])
            self._table = self._sink.table("accepted", [Column(name) for name in self._columns])
        if self._table is not None:
            cells = [[text_of(row.get(name)) for name in self._columns] for row in rows]
            self._table.write(self._table.encode(cells))

    def finish(self) -> None:
        """Put the file in place."""
        if self._sink is not None:
            self._sink.finish()

    def abandon(self) -> None:
        """Drop what was written."""
        if self._sink is not None:
            self._sink.abandon()


def _form(
    arguments: tuple[str, ...],
    expression: str | None,
    overrides: Overrides,
    form_address: str | None,
    columns: Sequence[str],
    required: tuple[str, ...],
    blank: tuple[str, ...],
) -> tuple[Form, tuple[str, ...]]:
    """Return the form that is meant: a suite's, one of columns and patterns, or one pattern for each line."""
    if form_address is None and expression is None and arguments:
        # A form may also be named first, where a pattern would be.
        use = use_at(arguments[0], "forms", or_pattern=True)
        if use is not None:
            form_address, arguments = arguments[0], arguments[1:]
    if form_address is not None:
        use = use_at(form_address, "forms")
        if use is None:
            raise no_pattern(form_address, what="form")
        assert isinstance(use, Form)
        more = tuple((name, overrides.adapted(pattern)) for name, pattern in _pairs(columns))
        replaced = [name for name, _ in more]
        kept = tuple((name, pattern) for name, pattern in use.columns if name not in replaced)
        form = replace(use, columns=kept + more, required=use.required + required, blank=use.blank + blank)
        return form, arguments
    if columns:
        chosen = tuple((name, overrides.adapted(pattern)) for name, pattern in _pairs(columns))
        return Form("form", "", (), (), ("forms",), chosen, required, ("", *blank)), arguments
    patterns, names = patterns_and_sources(arguments, expression, overrides)
    if len(patterns) > 1:
        raise UsageError("one pattern reads lines; for the columns of a table give --column NAME=SUITE:PATTERN")
    overrides.check_parameters(patterns)
    pattern = overrides.filled(patterns[0])
    return Form("form", "", (), (), ("forms",), ((VALUE, pattern),), required or (VALUE,), ("", *blank)), names


def _pairs(columns: Sequence[str]) -> list[tuple[str, Any]]:
    found = []
    for each in columns:
        name, equals, address = each.partition("=")
        if not equals:
            raise UsageError(f"--column {each}: write NAME=SUITE:PATTERN")
        pattern = pattern_at(address)
        if pattern is None:
            raise no_pattern(address)
        found.append((name, pattern[1]))
    return found


def _check_columns(form: Form, sources: Sequence[Source]) -> None:
    """Raise UsageError for a required column that the form does not read."""
    names = [column for column, _ in form.columns]
    for name in form.required:
        if name not in names:
            raise UsageError(f"--required {name}: no such column is validated{hint(name, names)}")
    for source in sources:
        source.needed_columns = tuple(names)
