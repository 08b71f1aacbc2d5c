"""`validate`: rows accepted or rejected, each reject with its reason."""

from __future__ import annotations

from decimal import Decimal, InvalidOperation
from typing import TYPE_CHECKING, Any

import click
from msgspec import Struct
from msgspec.structs import replace

from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, option, show_option
from fieldstick.commands.output_options import FOR_SPREADSHEET, STANDARD_OUTPUT, WRITTEN_HEADING, OutputOptions
from fieldstick.commands.pattern_options import pattern_options
from fieldstick.commands.progress import byte_progress
from fieldstick.commands.saying import say, tell
from fieldstick.commands.source_options import row_options
from fieldstick.commands.sources import kept_whole, shown, sources_of
from fieldstick.commands.work_options import work_options
from fieldstick.data.elsewhere import StaysHere
from fieldstick.data.passed_on import PassedOn, stands_as_it_is
from fieldstick.data.rows import Column
from fieldstick.data.sinks import form_of, open_sink
from fieldstick.data.text_file import TextFile, refuse_own_source
from fieldstick.errors import UsageError, hint
from fieldstick.operations.form import VALUE, Form, FormReader, ValidateJob
from fieldstick.reporting.terminal import Terminal
from fieldstick.reporting.work_report import rejected_shapes, rejects_report, validation_table, validation_words
from fieldstick.suites.overrides import Overrides, pairs
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    from collections.abc import Iterable, Mapping, Sequence

    from fieldstick.commands.work_options import WorkOptions
    from fieldstick.data.read_options import ReadOptions
    from fieldstick.data.source import Source
    from fieldstick.files import PartFile
    from fieldstick.suites.suite import Pattern

REJECT_COLUMNS = (
    Column("source"),
    Column("line", "integer"),
    Column("column"),
    Column("value"),
    Column("reason"),
    Column("words"),
    Column("message"),
)


@headed_command(short_help="Accept or reject rows, each reject with its reason.")
@click.argument("arguments", nargs=-1, metavar="[SUITE:FORM|SUITE:PATTERN|EXPRESSION] SOURCE...")
@heading("The form")
@option("--form", "form_address", metavar="SUITE:FORM", help="The form of a suite: a pattern for each column.")
@option("--judge", "judged", multiple=True, metavar="COLUMN=SUITE:PATTERN", help="The pattern of a column. Repeatable.")
@option("--required", multiple=True, metavar="NAME", help="A column that must not be blank. Repeatable.")
@option("--blank", multiple=True, metavar="TEXT", help="A text that means nothing was entered. Repeatable.")
@pattern_options
@row_options
@WRITTEN_HEADING
@option("--accepted", metavar="FILE", help="Write the accepted rows to FILE; - for standard output.")
@option("--rejects", metavar="FILE", help="Write a row for each rejected cell to FILE; - for standard output.")
@FOR_SPREADSHEET
@heading("How")
@option(
    "--most-rejects",
    metavar="N|SHARE%",
    callback=lambda context, parameter, given: most_rejects_of(given),
    help="Exit with 0 up to so many rejected rows, or such a share of them.  [default: none]",
)
@show_option("Rejects", 5)
@work_options
def command(
    arguments: tuple[str, ...],
    form_address: str | None,
    judged: tuple[str, ...],
    required: tuple[str, ...],
    blank: tuple[str, ...],
    expression: str | None,
    overrides: Overrides,
    read_options: ReadOptions,
    accepted: str | None,
    rejects: str | None,
    for_spreadsheet: bool,
    most_rejects: MostRejects | None,
    show: int,
    work: WorkOptions,
) -> int:
    """Validate the rows of each SOURCE by a pattern for each column, or each line by one pattern.

    A blank cell is accepted unless its column is required. Each rejected cell is given with its row, column, value,
    the reason in words, and the message that its pattern keeps for whoever entered it.

    Exit status: 0 all accepted, 1 something was rejected or not read as asked, 2 the command or a file is wrong.
    """
    if read_options.column is not None and "=" in read_options.column and not judged:
        raise UsageError(f"--column names one column; a column with its pattern is --judge '{read_options.column}'")
    asked = _Asked(form_address, pairs(judged, "--judge", "SUITE:PATTERN"), required, blank, read_options.column)
    form, values, names = _form(arguments, expression, overrides, asked)
    reader = FormReader(form, values)
    by_line = [column for column, _ in form.columns] == [VALUE] and not judged and form_address is None
    rows_wanted = not by_line
    sources = sources_of(
        names,
        replace(read_options, column=None, rows_wanted=True, raws_wanted=True) if rows_wanted else read_options,
    )
    if rows_wanted:
        _check_columns(form, sources)
    own = [source.path for source in sources]
    for each in (accepted, rejects):
        if each not in (None, STANDARD_OUTPUT):
            refuse_own_source(each or "", own)
    taken = (accepted, rejects).count(STANDARD_OUTPUT)
    if taken > 1:
        raise UsageError("--accepted and --rejects cannot both be standard output; name a file for one")
    keeper = Accepted(accepted, for_spreadsheet) if accepted is not None else None
    path = None if rejects == STANDARD_OUTPUT else rejects
    sink = open_sink(path, form_of(path, None), for_spreadsheet=for_spreadsheet) if rejects is not None else None
    with kept_whole(*(each for each in (keeper, sink) if each is not None)):
        told = sink.table("rejects", REJECT_COLUMNS) if sink is not None else None
        job = ValidateJob(reader, accepted=keeper.take if keeper is not None else None, rejects=told)
        progress = byte_progress(sources, writes_to=STANDARD_OUTPUT if taken else "")
        work.executor().run(job, sources, progress)
        if keeper is not None:
            keeper.begin(sources[0])
    tally = job.tally
    words = validation_words(tally)
    if taken:
        say(words)
    else:
        terminal = Terminal.of()
        terminal.show(rejects_report(tally, show, kept_in=rejects))
        terminal.show(validation_table(tally, reader.columns))
        terminal.show(rejected_shapes(tally, reader.columns))
        tell(words[0].upper() + words[1:])
    counts = {
        "accepted": tally.fit,
        "rejected": tally.rejected,
        "rejects": [
            {"column": each, "reason": why, "count": count} for (each, why), count in sorted(tally.rejects.items())
        ],
        "shapes": {
            column: [{"shape": shape, "count": each.count, "example": each.example} for shape, each in shapes.ranked]
            for column, shapes in sorted(tally.shapes.items())
        },
    }
    failed = tally.rejected > 0 if most_rejects is None else not most_rejects.allows(tally.rejected, tally.read)
    if most_rejects is not None:
        say(most_rejects.words(failed=failed))
    named = [(form.own_name, tally)]
    return work.close("validate", sources, named, written=[accepted, rejects], failed=failed, own=counts)


class MostRejects(Struct, frozen=True):
    """How many rows may be rejected, or which share of all, as it was asked."""

    asked: str
    most: Decimal
    is_share: bool

    def allows(self, rejected: int, read: int) -> bool:
        """Tell whether so many of the rows that were read may be rejected."""
        return rejected * 100 <= self.most * read if self.is_share else rejected <= self.most

    def words(self, *, failed: bool) -> str:
        """Say whether it is kept."""
        return f"more than {self.asked} are rejected" if failed else f"no more than {self.asked} are rejected"


def most_rejects_of(given: str | None) -> MostRejects | None:
    """Read how many rows may be rejected. Raises BadParameter for what is neither a count nor a share."""
    if given is None:
        return None
    is_share = given.endswith("%")
    try:
        most = Decimal(given.removesuffix("%").strip())
        if most.is_finite() and most >= 0 and (is_share or most == int(most)):
            return MostRejects(given, most, is_share)
    except InvalidOperation:
        pass
    raise click.BadParameter(f"'{given}' is neither a number of rows, as 25, nor a share of them, as 1%")


class _Asked(Struct, frozen=True):
    """What the command line says of a form: its address, patterns by column, what is required, what is blank.

    `column` is the one column that a single pattern judges.
    """

    address: str | None
    judged: Mapping[str, str]
    required: tuple[str, ...]
    blank: tuple[str, ...]
    column: str | None


class Accepted(StaysHere):
    """Takes accepted rows: as they stand where the file has the form of the source, else cell by cell."""

    def __init__(self, path: str, for_spreadsheet: bool) -> None:
        self._output = OutputOptions(None if path == STANDARD_OUTPUT else path, None, for_spreadsheet)
        self._text: TextFile | None = None
        self._rows: PassedOn | None = None
        self._header = ""

    def begin(self, source: Source) -> None:
        """Open what is written to, when it is not open yet."""
        if self._text is None and self._rows is None:
            form = self._output.passing_form()
            if not (self._output.for_spreadsheet and form is not None) and stands_as_it_is(source, form):
                self._text = TextFile(self._output.path, shown=shown)
                self._text.follow(source.coding)
                self._text.write(source.header)
                self._header = source.header
            else:
                self._rows = PassedOn(self._output.open_one(self._output.path, shown=shown), "accepted", (VALUE,))
        if self._rows is not None:
            self._rows.take(source, ())

    def take(self, source: Source, raw: str | bytes, rows: Iterable[Mapping[str, Any]]) -> None:
        """Write accepted rows."""
        self.begin(source)
        if self._text is not None:
            if source.header != self._header:
                raise UsageError(f"{source.name} has other columns than the sources before it; write them one by one")
            if isinstance(raw, bytes):
                self._text.write_utf8(raw)
            else:
                self._text.write(raw)
        elif self._rows is not None:
            self._rows.take(source, rows)

    def complete(self) -> list[PartFile]:
        """Write what is left to write, and return the file, which is then to be put in place."""
        return [part for each in (self._text, self._rows) if each is not None for part in each.complete()]

    def abandon(self) -> None:
        """Drop what was written."""
        for each in (self._text, self._rows):
            if each is not None:
                each.abandon()


def _form(
    arguments: tuple[str, ...], expression: str | None, overrides: Overrides, asked: _Asked
) -> tuple[Form, Mapping[str, str], tuple[str, ...]]:
    """Return the form that is meant, the values of its parameters, and the names of the sources.

    It is a suite's, one of columns and patterns, or one pattern for each line or for each cell of a column.
    """
    workspace = Workspace()
    found: Form | None = None
    if asked.address is not None:
        found = workspace.operation(asked.address, Form, "forms")
    elif expression is None and arguments and not asked.judged:
        # A form may also be named first, where a pattern would be.
        found = workspace.operation(arguments[0], Form, "forms", or_pattern=True)
        arguments = arguments[1:] if found is not None else arguments
    judged = tuple((column, _judge(workspace, address, overrides)) for column, address in asked.judged.items())
    if found is not None:
        kept = tuple((column, pattern) for column, pattern in found.columns if column not in asked.judged)
        columns, required, blank = kept + judged, found.required + asked.required, found.blank + asked.blank
        return replace(found, columns=columns, required=required, blank=blank), overrides.parameters, arguments
    blank = ("", *asked.blank)
    if judged:
        overrides.check_parameters([pattern for _, pattern in judged])
        return _own_form(judged, asked.required, blank), overrides.parameters, arguments
    chosen, names = workspace.patterns(arguments, overrides, expression=expression)
    if len(chosen) > 1:
        raise UsageError("one pattern reads lines; for the columns of a table give --judge COLUMN=SUITE:PATTERN")
    one = asked.column or VALUE
    return _own_form(((one, chosen[0].pattern),), asked.required or (one,), blank), chosen[0].values, names


def _own_form(columns: tuple[tuple[str, Pattern], ...], required: tuple[str, ...], blank: tuple[str, ...]) -> Form:
    return Form("form", "", (), (), ("forms",), columns, required, blank)


def _judge(workspace: Workspace, address: str, overrides: Overrides) -> Pattern:
    """Return the pattern that judges a column; each column's may have parameters of its own."""
    return workspace.pattern(address, overrides, one_of_several=True).pattern


def _check_columns(form: Form, sources: Sequence[Source]) -> None:
    """Raise UsageError for a required column that the form does not read."""
    names = [column for column, _ in form.columns]
    for name in form.required:
        if name not in names:
            raise UsageError(f"--required {name}: no such column is validated{hint(name, names)}")
    for source in sources:
        source.needed_columns = tuple(names)
