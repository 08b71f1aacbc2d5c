"""`extract`: the fields of fitting texts as rows, or as text by a template."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import click
from msgspec import Struct
from msgspec.structs import replace

from fieldstick.commands.following import Following, follow_options
from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, option
from fieldstick.commands.output_options import STANDARD_OUTPUT, OutputOptions, sink_options
from fieldstick.commands.pattern_options import pattern_options
from fieldstick.commands.progress import byte_progress
from fieldstick.commands.saying import say
from fieldstick.commands.source_options import columns_options
from fieldstick.commands.sources import kept_whole, shown
from fieldstick.commands.work_options import limited_work_options
from fieldstick.data.parts import PartsSink
from fieldstick.data.read_options import TABLES
from fieldstick.data.rows import Column
from fieldstick.data.sinks import FolderSink, form_of, open_sink
from fieldstick.data.storage import stands_for_several
from fieldstick.data.text_file import refuse_own_source
from fieldstick.errors import UsageError
from fieldstick.reporting.tally_words import tally_words, whole_words
from fieldstick.runs.extract import ExtractJob, ExtractOptions, PrintJob
from fieldstick.suites.templates import read_template
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from fieldstick.commands.work_options import WorkOptions
    from fieldstick.data.read_options import ReadOptions
    from fieldstick.data.rows import Sink
    from fieldstick.data.source import Source
    from fieldstick.matching.matcher import Matcher
    from fieldstick.matching.tally import Tally
    from fieldstick.runs.executor import Job
    from fieldstick.runs.summary import FieldSummary
    from fieldstick.suites.overrides import Overrides


@headed_command(short_help="Turn fitting texts into rows of typed fields.")
@click.argument("arguments", nargs=-1, metavar="SUITE:PATTERN... SOURCE...")
@pattern_options
@columns_options
@follow_options
@sink_options
@option("--into", metavar="FOLDER", help="A file for each pattern in FOLDER.")
@option("--parts", metavar="FOLDER", help="With --cluster: a file for each part of the sources, by the workers.")
@option(
    "--rejects",
    metavar="FILE",
    help="Write a row for each text that does not fit, with the reason; - for standard output.",
)
@option("--template", metavar="TEMPLATE", help="Write this for each match, as in '{plot}: {moisture}'.")
@option("--summary", is_flag=True, help="Print what the fields hold; rows are written if --to or --into says where.")
@heading("How")
@option("--otherwise", metavar="TEXT", help="What stands in every field for a text that does not fit.")
@option(
    "--with-place/--without-place",
    "with_place",
    default=None,
    help="Columns for source, line, start and end.  [default: with several sources]",
)
@option("--carry", multiple=True, metavar="NAME", help="With a table: this column beside the fields. Repeatable.")
@option("--together", is_flag=True, help="One table for several patterns, with a column for the pattern.")
@limited_work_options
def command(
    arguments: tuple[str, ...],
    expression: str | None,
    overrides: Overrides,
    read_options: ReadOptions,
    following: Following,
    output: OutputOptions,
    into: str | None,
    parts: str | None,
    rejects: str | None,
    template: str | None,
    summary: bool,
    otherwise: str | None,
    with_place: bool | None,
    carry: tuple[str, ...],
    together: bool,
    work: WorkOptions,
) -> int:
    """Read each SOURCE (files, or - for standard input) with each pattern, and write a row for each taken match.

    Numbers are written with a point, dates and times as ISO 8601, whatever the source has. A text with a field that
    does not convert or lies outside its bounds does not fit. What was read, fitted and rejected is said at the end.

    Exit status: 0 all was read, 1 something was not read as asked (it is named), 2 the command or a file is wrong.
    """
    chosen, names = Workspace().patterns(arguments, overrides, expression=expression)
    matchers = [each.matcher for each in chosen]
    if template is not None and (carry or read_options.columns):
        raise UsageError("--carry, and several columns, go with rows; a template has the fields alone")
    sources = following.sources(names, replace(read_options, rows_wanted=bool(carry or read_options.columns)), work)
    fields: dict[str, list[FieldSummary]] = {}
    if rejects is not None and (len(chosen) > 1 or parts or template is not None or read_options.columns):
        raise UsageError("--rejects goes with rows of one pattern, of lines or one column")
    if template is not None:
        if summary:
            raise UsageError("--summary goes with rows of fields, and --template gives text")
        tallies = [_by_template(matchers, template, sources, output, otherwise, work)]
    else:
        several = len(names) > 1 or any(map(stands_for_several, names))
        carried = _carried(sources, carry)
        placed = several if with_place is None else with_place
        words = (read_options.columns, read_options.longest)
        asked = ExtractOptions(placed, together, otherwise, carried, *words)
        where = _Where(into, parts, rejects)
        tallies, fields = _as_rows(matchers, sources, output, where, asked, work, chosen[0].values, summary=summary)
        if summary:
            from fieldstick.reporting.summary_report import summary_report
            from fieldstick.reporting.terminal import Terminal

            Terminal.of().show(summary_report(fields))
    for matcher, tally in zip(matchers, tallies, strict=True):
        say(tally_words(matcher.pattern.name if len(matchers) > 1 else "", tally))
        if (hint := whole_words(matcher.pattern.reach, tally)) is not None:
            say(hint)
    named = [(matcher.pattern.name, tally) for matcher, tally in zip(matchers, tallies, strict=True)]
    own = {}
    if summary:
        from fieldstick.reporting.summary_report import summary_as_data

        own = {"fields": summary_as_data(fields)}
    return work.close(
        "extract", sources, named, written=[parts or into or output.path, rejects], once=together, own=own
    )


def _carried(sources: Sequence[Source], names: tuple[str, ...]) -> tuple[Column, ...]:
    """Return the columns that are taken along; text in CSV, else of whatever type each value has.

    Raises UsageError where there are none to take along.
    """
    if not names:
        return ()
    kinds = {source.table_kind() for source in sources}
    if not kinds <= TABLES or not (sources[0].read_options.column or sources[0].read_options.columns):
        raise UsageError("--carry takes columns of a table along: name the one that is read with --column")
    for source in sources:
        source.needed_columns = names
    return tuple(Column(name, "text" if kinds == {"csv"} else "mixed") for name in names)


def _by_template(
    matchers: Sequence[Matcher],
    template: str,
    sources: Sequence[Source],
    output: OutputOptions,
    otherwise: str | None,
    work: WorkOptions,
) -> Tally:
    if len(matchers) > 1:
        raise UsageError("--template goes with one pattern")
    made = read_template(template)
    made.check([*matchers[0].field_names, "source", "line"])
    target = output.open_text(sources)
    job = PrintJob(matchers[0], made, target, otherwise=otherwise, limit=work.limit)
    with kept_whole(target):
        work.executor().run(job, sources, byte_progress(sources, writes_to=output.path))
    return job.tally


def _as_rows(
    matchers: Sequence[Matcher],
    sources: Sequence[Source],
    output: OutputOptions,
    where: _Where,
    asked: ExtractOptions,
    work: WorkOptions,
    values: Mapping[str, str],
    *,
    summary: bool,
) -> tuple[list[Tally], dict[str, list[FieldSummary]]]:
    names = [each.pattern.name for each in matchers]
    if len(set(names)) < len(names):
        raise UsageError("two patterns of the same name; extract them one after the other")
    sink: Sink
    if summary and output.is_said and output.path is None:
        raise UsageError("--summary is for standard output; name a file for the rows with --to")
    if summary and where.parts is not None:
        raise UsageError("--summary reads the rows on their way here, and with --parts they do not come here")
    if summary:
        from fieldstick.runs.summary import SummarySink

        written = _sink(sources, output, where, work) if where.is_said or output.path is not None else None
        summarised = SummarySink(written)
        sink = work.limited(summarised)
    else:
        sink = work.limited(_sink(sources, output, where, work))
    if len(matchers) > 1 and not sink.several_tables:
        asked = replace(asked, together=True)
    refused = _rejects_sink(where, sources, output, summary=summary)
    with kept_whole(*(each for each in (sink, refused) if each is not None)):
        job = ExtractJob(matchers, sink, asked)
        doing: Job[Any] = job
        if refused is not None:
            from fieldstick.drafting.causes import STEPS, Causes
            from fieldstick.runs.rejects import REJECT_COLUMNS, RejectingJob, Rejects

            causes = Causes(matchers[0], values=values, steps=10 * STEPS)
            table = refused.table("rejects", REJECT_COLUMNS)
            doing = RejectingJob(job, matchers[0], Rejects(table, causes.reason_of))
        goes_to = STANDARD_OUTPUT if where.rejects == STANDARD_OUTPUT else where.into or where.parts or output.path
        progress = byte_progress(sources, writes_to=goes_to)
        work.executor(output.told_form()).run(doing, sources, progress)
    return job.tallies, summarised.fields if summary else {}


def _rejects_sink(where: _Where, sources: Sequence[Source], output: OutputOptions, *, summary: bool) -> Sink | None:
    if where.rejects is None:
        return None
    path = where.rejects if where.rejects != STANDARD_OUTPUT else None
    if (path is None and summary) or (path == output.path and not where.is_said):
        raise UsageError("--rejects names a file of its own")
    if path is not None:
        refuse_own_source(path, [source.path for source in sources])
    return open_sink(path, form_of(path, None), for_spreadsheet=output.for_spreadsheet, shown=shown)


class _Where(Struct, frozen=True):
    """Where rows go that go to a folder: a file a pattern, or a file a part of the sources; and where rejects do."""

    into: str | None = None
    parts: str | None = None
    rejects: str | None = None

    @property
    def is_said(self) -> bool:
        return self.into is not None or self.parts is not None


def _sink(sources: Sequence[Source], output: OutputOptions, where: _Where, work: WorkOptions) -> Sink:
    into = where.into
    if not where.is_said:
        return output.open(sources)
    if output.is_said or (into is not None and where.parts is not None):
        raise UsageError("give --to FILE, --into FOLDER or --parts FOLDER, one of them")
    if where.parts is not None:
        if work.cluster is None or output.append:
            raise UsageError("--parts goes with --cluster, whose workers write, and not with --append")
        return PartsSink(where.parts, output.told_form(), for_spreadsheet=output.for_spreadsheet)
    assert into is not None
    return FolderSink(into, lambda path: output.open_one(path, sources), f".{output.told_form()}")
