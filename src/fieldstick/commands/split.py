"""`split`: texts cut up into pieces, as rows or as columns."""

from __future__ import annotations

from typing import TYPE_CHECKING

import click

from fieldstick.commands.drafts import use_at
from fieldstick.commands.options import (
    OutputOptions,
    Overrides,
    closing,
    jobs_option,
    kept_whole,
    pattern_options,
    patterns_and_sources,
    sink_options,
    source_options,
    sources_of,
)
from fieldstick.commands.progress import byte_progress
from fieldstick.commands.rendering import say
from fieldstick.errors import UsageError
from fieldstick.matching.splitting import ReadySplit, prepare_split, ready_split
from fieldstick.reporting.words import counted
from fieldstick.runs.executor import fitting_jobs
from fieldstick.suites.uses import Split
from fieldstick.working.splitting import split

if TYPE_CHECKING:
    from fieldstick.data.read_options import ReadOptions


@click.command(short_help="Cut texts up at each match, into rows or columns.")
@click.argument("arguments", nargs=-1, metavar="SUITE:SPLIT|SUITE:PATTERN SOURCE...")
@pattern_options
@click.option("--keep-separators", is_flag=True, help="Keep what is cut at as a piece of its own.")
@click.option("--drop-empty", is_flag=True, help="Leave out pieces that hold nothing.")
@click.option("--wide", is_flag=True, help="A row a text, a column a piece.")
@click.option("--name", "called", multiple=True, metavar="NAME", help="What a column of pieces is called. Repeatable.")
@sink_options
@source_options
@jobs_option
def command(
    arguments: tuple[str, ...],
    expression: str | None,
    overrides: Overrides,
    keep_separators: bool,
    drop_empty: bool,
    wide: bool,
    called: tuple[str, ...],
    output: OutputOptions,
    read_options: ReadOptions,
    jobs: int | None,
) -> int:
    """Cut the texts of each SOURCE (files, or - for standard input) at each match, and write a row for each piece.

    A bare expression given with -e may match anywhere. Exit status: 0 all was read, 1 something was not read as
    asked (it is named), 2 the command or a file is wrong.
    """
    ready, names = _split(arguments, expression, overrides, keep_separators, drop_empty)
    sources = sources_of(names, read_options)
    sink = output.open(sources)
    with kept_whole(sink), byte_progress(sources, writes_to=output.path) as progress:
        tally = split(
            ready, sources, sink, wide=wide, names=called, jobs=jobs or fitting_jobs(sources), progress=progress
        )
    if tally.read:
        say(f"read {counted(tally.read, 'text')}: {tally.fit:,} cut, {counted(tally.rows, 'piece')} in all")
    else:
        say("nothing to read: the sources hold no text")
    return closing(sources, [tally])


def _split(
    arguments: tuple[str, ...], expression: str | None, overrides: Overrides, keep_separators: bool, drop_empty: bool
) -> tuple[ReadySplit, tuple[str, ...]]:
    use = use_at(arguments[0], "splits", or_pattern=True) if arguments and expression is None else None
    if use is not None:
        assert isinstance(use, Split)
        if keep_separators or drop_empty:
            raise UsageError(
                "a split of a suite says itself what it keeps; leave --keep-separators and --drop-empty out"
            )
        overrides.check_parameters(use.patterns)
        return prepare_split(use, overrides.parameters()), arguments[1:]
    patterns, names = patterns_and_sources(arguments, expression, overrides)
    if len(patterns) > 1:
        raise UsageError("give one pattern to cut at")
    overrides.check_parameters(patterns)
    pattern = overrides.adapted(patterns[0], bare_reach="anywhere" if expression is not None else None)
    return ready_split(pattern, overrides.parameters(), keep_separators, drop_empty), names
