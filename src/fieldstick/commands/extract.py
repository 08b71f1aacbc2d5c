"""`extract`: the fields of fitting texts as rows, or as text by a template."""

from __future__ import annotations

import glob
from typing import TYPE_CHECKING

import click
from msgspec.structs import replace

from fieldstick.commands.options import (
    OutputOptions,
    Overrides,
    closing,
    jobs_option,
    kept_whole,
    pattern_options,
    patterns_and_sources,
    shown,
    sink_options,
    source_options,
    sources_of,
)
from fieldstick.commands.progress import byte_progress
from fieldstick.commands.rendering import say
from fieldstick.data.sink import FolderSink, open_sink
from fieldstick.data.text_file import Target, refuse_own_source
from fieldstick.errors import UsageError
from fieldstick.reporting.as_tally import tally_words
from fieldstick.runs.executor import fitting_jobs
from fieldstick.runs.extract import ExtractOptions, extract, extract_as_text
from fieldstick.suites.templates import read_template

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.data.read_options import ReadOptions
    from fieldstick.data.sink import Sink
    from fieldstick.data.source import Source
    from fieldstick.matching.matcher import Matcher
    from fieldstick.matching.tally import Tally


@click.command(short_help="Turn fitting texts into rows of typed fields.")
@click.argument("arguments", nargs=-1, metavar="SUITE:PATTERN... SOURCE...")
@pattern_options
@click.option("--template", metavar="TEMPLATE", help="Write this for each match, as in '{plot}: {moisture}'.")
@click.option("--nothing", metavar="TEXT", help="What stands in every field for a text that does not fit.")
@click.option(
    "--with-place/--without-place",
    "with_place",
    default=None,
    help="Columns for source, line, start and end.  [default: with several sources]",
)
@click.option("--together", is_flag=True, help="One table for several patterns, with a column for the pattern.")
@click.option("--into", metavar="FOLDER", help="A file for each pattern in FOLDER.")
@sink_options
@source_options
@jobs_option
def command(
    arguments: tuple[str, ...],
    expression: str | None,
    overrides: Overrides,
    template: str | None,
    nothing: str | None,
    with_place: bool | None,
    together: bool,
    into: str | None,
    output: OutputOptions,
    read_options: ReadOptions,
    jobs: int | None,
) -> int:
    """Read each SOURCE (files, or - for standard input) with each pattern, and write a row for each taken match.

    Numbers are written with a point, dates and times as ISO 8601, whatever the source has. A text with a field that
    does not convert or lies outside its bounds does not fit. What was read, fitted and rejected is said at the end.

    Exit status: 0 all was read, 1 something was not read as asked (it is named), 2 the command or a file is wrong.
    """
    patterns, names = patterns_and_sources(arguments, expression, overrides)
    overrides.check_parameters(patterns)
    ready = [overrides.ready(pattern) for pattern in patterns]
    sources = sources_of(names, read_options)
    count = jobs or fitting_jobs(sources)
    if template is not None:
        tallies = [_by_template(ready, template, sources, output, nothing, count)]
    else:
        several = len(names) > 1 or any(glob.has_magic(name) for name in names)
        blank_absent = output.told_form() in ("csv", "tsv")
        asked = ExtractOptions(several if with_place is None else with_place, together, nothing, blank_absent)
        tallies = _as_rows(ready, sources, output, into, asked, count)
    for pattern, tally in zip(ready, tallies, strict=True):
        say(tally_words(pattern.pattern.name if len(ready) > 1 else "", tally))
        if tally.read and not tally.fit and pattern.pattern.reach == "whole":
            say("no text fits as a whole; --reach anywhere looks for the pattern within each")
    return closing(sources, tallies[:1] if together else tallies)


def _by_template(
    ready: Sequence[Matcher],
    template: str,
    sources: Sequence[Source],
    output: OutputOptions,
    nothing: str | None,
    jobs: int,
) -> Tally:
    if len(ready) > 1:
        raise UsageError("--template goes with one pattern")
    made = read_template(template)
    made.check([*ready[0].field_names, "source", "line"])
    if output.path is not None:
        refuse_own_source(output.path, [source.path for source in sources])
    target = Target(output.path, shown=shown)
    with kept_whole(target), byte_progress(sources, writes_to=output.path) as progress:
        return extract_as_text(ready[0], made, sources, target, nothing=nothing, jobs=jobs, progress=progress)


def _as_rows(
    ready: Sequence[Matcher],
    sources: Sequence[Source],
    output: OutputOptions,
    into: str | None,
    asked: ExtractOptions,
    jobs: int,
) -> list[Tally]:
    names = [each.pattern.name for each in ready]
    if len(set(names)) < len(names):
        raise UsageError("two patterns of the same name; extract them one after the other")
    sink = _sink(sources, output, into)
    if len(ready) > 1 and not sink.several_tables:
        asked = replace(asked, together=True)
    with kept_whole(sink), byte_progress(sources, writes_to=into or output.path) as progress:
        return extract(ready, sources, sink, asked, jobs=jobs, progress=progress)


def _sink(sources: Sequence[Source], output: OutputOptions, into: str | None) -> Sink:
    if into is None:
        return output.open(sources)
    if output.path is not None:
        raise UsageError("give --to FILE or --into FOLDER, not both")
    form = output.told_form()
    return FolderSink(into, lambda path: open_sink(path, form, for_spreadsheet=output.for_spreadsheet), f".{form}")
