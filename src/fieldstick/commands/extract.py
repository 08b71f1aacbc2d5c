"""`extract`: the fields of fitting texts as rows, or as text by a template."""

from __future__ import annotations

import glob
from dataclasses import replace
from typing import TYPE_CHECKING

import click

from fieldstick.commands.at_work import (
    How,
    Outlet,
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
from fieldstick.data.sinks import FolderSink, open_sink
from fieldstick.data.target import Target, refuse_own_source
from fieldstick.errors import UsageError
from fieldstick.reporting.as_tally import tally_words
from fieldstick.suites.templates import read_template
from fieldstick.working.extraction import Asked, extract, extract_as_text
from fieldstick.working.pool import fitting_jobs

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.data.manner import Manner
    from fieldstick.data.sinks import Sink
    from fieldstick.data.texts import Source
    from fieldstick.matching.ready import ReadyPattern
    from fieldstick.working.tally import Tally


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
    how: How,
    template: str | None,
    nothing: str | None,
    with_place: bool | None,
    together: bool,
    into: str | None,
    outlet: Outlet,
    manner: Manner,
    jobs: int | None,
) -> int:
    """Read each SOURCE (files, or - for standard input) with each pattern, and write a row for each taken match.

    Numbers are written with a point, dates and times as ISO 8601, whatever the source has. A text with a field that
    does not convert or lies outside its bounds does not fit. What was read, fitted and rejected is said at the end.

    Exit status: 0 all was read, 1 something was not read as asked (it is named), 2 the command or a file is wrong.
    """
    patterns, names = patterns_and_sources(arguments, expression, how)
    how.check_parameters(patterns)
    ready = [how.ready(pattern) for pattern in patterns]
    sources = sources_of(names, manner)
    count = jobs or fitting_jobs(sources)
    if template is not None:
        tallies = [_by_template(ready, template, sources, outlet, nothing, count)]
    else:
        several = len(names) > 1 or any(glob.has_magic(name) for name in names)
        blank_absent = outlet.told_form() in ("csv", "tsv")
        asked = Asked(several if with_place is None else with_place, together, nothing, blank_absent)
        tallies = _as_rows(ready, sources, outlet, into, asked, count)
    for pattern, tally in zip(ready, tallies, strict=True):
        say(tally_words(pattern.pattern.name if len(ready) > 1 else "", tally))
        if tally.read and not tally.fit and pattern.pattern.reach == "whole":
            say("no text fits as a whole; --reach anywhere looks for the pattern within each")
    return closing(sources, tallies[:1] if together else tallies)


def _by_template(
    ready: Sequence[ReadyPattern],
    template: str,
    sources: Sequence[Source],
    outlet: Outlet,
    nothing: str | None,
    jobs: int,
) -> Tally:
    if len(ready) > 1:
        raise UsageError("--template goes with one pattern")
    made = read_template(template)
    made.check([*ready[0].field_names, "source", "line"])
    if outlet.path is not None:
        refuse_own_source(outlet.path, [source.path for source in sources])
    target = Target(outlet.path, shown=shown)
    with kept_whole(target), byte_progress(sources, writes_to=outlet.path) as progress:
        return extract_as_text(ready[0], made, sources, target, nothing=nothing, jobs=jobs, progress=progress)


def _as_rows(
    ready: Sequence[ReadyPattern],
    sources: Sequence[Source],
    outlet: Outlet,
    into: str | None,
    asked: Asked,
    jobs: int,
) -> list[Tally]:
    names = [each.pattern.name for each in ready]
    if len(set(names)) < len(names):
        raise UsageError("two patterns of the same name; extract them one after the other")
    sink = _sink(sources, outlet, into)
    if len(ready) > 1 and not sink.several_tables:
        asked = replace(asked, together=True)
    with kept_whole(sink), byte_progress(sources, writes_to=into or outlet.path) as progress:
        return extract(ready, sources, sink, asked, jobs=jobs, progress=progress)


def _sink(sources: Sequence[Source], outlet: Outlet, into: str | None) -> Sink:
    if into is None:
        return outlet.open(sources)
    if outlet.path is not None:
        raise UsageError("give --to FILE or --into FOLDER, not both")
    form = outlet.told_form()
    return FolderSink(into, lambda path: open_sink(path, form, for_spreadsheet=outlet.for_spreadsheet), f".{form}")
