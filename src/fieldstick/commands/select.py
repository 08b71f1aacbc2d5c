"""`select`: the texts that fit, or do not, as they stand."""

from __future__ import annotations

from typing import TYPE_CHECKING

import click
from msgspec.structs import replace

from fieldstick.commands.options import (
    Overrides,
    closing,
    jobs_option,
    kept_whole,
    pattern_options,
    patterns_and_sources,
    shown,
    source_options,
    sources_of,
)
from fieldstick.commands.progress import byte_progress
from fieldstick.commands.rendering import say
from fieldstick.data.text_file import Target, refuse_own_source
from fieldstick.errors import UsageError
from fieldstick.matching.tally import Tally
from fieldstick.reporting.as_tally import tally_words
from fieldstick.runs.executor import fitting_jobs
from fieldstick.runs.select import Selecting, select

if TYPE_CHECKING:
    from fieldstick.data.read_options import ReadOptions


@click.command(short_help="Keep the texts that fit, or those that do not.")
@click.argument("arguments", nargs=-1, metavar="SUITE:PATTERN SOURCE...")
@pattern_options
@click.option("--not", "unfit", is_flag=True, help="Keep the texts that do not fit.")
@click.option(
    "--around", type=click.IntRange(min=0), default=0, metavar="N", help="Also N texts before and after each."
)
@click.option("--with-place", is_flag=True, help="Source and line before each text.")
@click.option("--counts", is_flag=True, help="Print counts for each source instead of texts.")
@click.option("--to", metavar="FILE", help="Write to FILE.")
@source_options
@jobs_option
def command(
    arguments: tuple[str, ...],
    expression: str | None,
    overrides: Overrides,
    unfit: bool,
    around: int,
    with_place: bool,
    counts: bool,
    to: str | None,
    read_options: ReadOptions,
    jobs: int | None,
) -> int:
    """Write the texts of each SOURCE (files, or - for standard input) that fit the pattern, as they stand there.

    Rows of a table are written whole, its header before them. What was read and fitted is said at the end.

    Exit status: 0 all was read, 1 something was not read as asked (it is named), 2 the command or a file is wrong.
    """
    patterns, names = patterns_and_sources(arguments, expression, overrides)
    if len(patterns) > 1:
        raise UsageError("give one pattern; a pattern of a suite with any_of or all_of joins several")
    overrides.check_parameters(patterns)
    ready = overrides.ready(patterns[0])
    sources = sources_of(names, replace(read_options, raws_wanted=True))
    asked = Selecting(unfit, around, with_place)
    target = None
    if not counts:
        if to is not None:
            refuse_own_source(to, [source.path for source in sources])
        target = Target(to, encoding=sources[0].read_options.encoding, shown=shown)
    count = jobs or fitting_jobs(sources)
    with byte_progress(sources, writes_to="" if counts else to) as progress:
        if target is None:
            tallies = select(ready, sources, None, asked, jobs=count, progress=progress)
        else:
            with kept_whole(target):
                tallies = select(ready, sources, target, asked, jobs=count, progress=progress)
    if counts:
        click.echo("source\tread\tfit\tdo not")
        for source, tally in zip(sources, tallies, strict=True):
            click.echo(f"{source.name}\t{tally.read}\t{tally.fit}\t{tally.missed}")
    total = Tally()
    for tally in tallies:
        total.merge(tally)
    say(tally_words("", total, made=None))
    return closing(sources, [total])
