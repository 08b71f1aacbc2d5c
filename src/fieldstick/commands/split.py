"""`split`: texts cut up into pieces, as rows or as columns."""

from __future__ import annotations

from typing import TYPE_CHECKING

import click
from msgspec.structs import replace

from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, option
from fieldstick.commands.output_options import OutputOptions, sink_options
from fieldstick.commands.pattern_options import pattern_options
from fieldstick.commands.progress import byte_progress
from fieldstick.commands.saying import say
from fieldstick.commands.source_options import source_options
from fieldstick.commands.sources import kept_whole, sources_of
from fieldstick.commands.work_options import limited_work_options
from fieldstick.errors import UsageError
from fieldstick.operations.split import Split, SplitJob, Splitter, prepare_split
from fieldstick.reporting.words import counted
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    from fieldstick.commands.work_options import WorkOptions
    from fieldstick.data.read_options import ReadOptions
    from fieldstick.suites.overrides import Overrides


@headed_command(short_help="Cut texts up at each match, into rows or columns.")
@click.argument("arguments", nargs=-1, metavar="SUITE:SPLIT|SUITE:PATTERN|EXPRESSION SOURCE...")
@pattern_options
@source_options
@sink_options
@option("--wide", is_flag=True, help="A row a text, a column a piece.")
@option("--name", "called", multiple=True, metavar="NAME", help="What a column of pieces is called. Repeatable.")
@heading("How")
@option("--keep-separators", is_flag=True, help="Keep what is cut at as a piece of its own.")
@option("--drop-empty", is_flag=True, help="Leave out pieces that hold nothing.")
@limited_work_options
def command(
    arguments: tuple[str, ...],
    expression: str | None,
    overrides: Overrides,
    read_options: ReadOptions,
    output: OutputOptions,
    wide: bool,
    called: tuple[str, ...],
    keep_separators: bool,
    drop_empty: bool,
    work: WorkOptions,
) -> int:
    """Cut the texts of each SOURCE (files, or - for standard input) at each match, and write a row for each piece.

    A bare expression may match anywhere. Exit status: 0 all was read, 1 something was not read as asked (it is
    named), 2 the command or a file is wrong.
    """
    splitter, names = _splitter(arguments, expression, overrides, keep_separators, drop_empty)
    sources = sources_of(names, replace(read_options, piece_by_piece=work.limit is not None))
    if wide and work.limit is not None:
        raise UsageError("--limit goes with a row a piece; with --wide all texts are read before the first row")
    sink = work.limited(output.open(sources))
    with kept_whole(sink):
        job = SplitJob(splitter, sink, wide=wide, names=called)
        progress = byte_progress(sources, writes_to=output.path)
        work.executor(output.told_form()).run(job, sources, progress)
    tally = job.tally
    if tally.read:
        say(f"read {counted(tally.read, 'text')}: {tally.fit:,} cut, {counted(tally.rows, 'piece')} in all")
    else:
        say("nothing to read: the sources hold no text")
    return work.close("split", sources, [(splitter.matcher.pattern.name, tally)], written=[output.path])


def _splitter(
    arguments: tuple[str, ...], expression: str | None, overrides: Overrides, keep_separators: bool, drop_empty: bool
) -> tuple[Splitter, tuple[str, ...]]:
    workspace = Workspace()
    found = (
        workspace.operation(arguments[0], Split, "splits", or_pattern=True)
        if arguments and expression is None
        else None
    )
    if found is not None:
        if keep_separators or drop_empty:
            raise UsageError(
                "a split of a suite says itself what it keeps; leave --keep-separators and --drop-empty out"
            )
        overrides.check_parameters(found.patterns)
        return prepare_split(found, overrides.parameters), arguments[1:]
    chosen, names = workspace.patterns(arguments, overrides, expression=expression, bare_reach="anywhere")
    if len(chosen) > 1:
        raise UsageError("give one pattern to cut at")
    made = Split("split", "", (), (), ("splits",), chosen[0].pattern)
    made = replace(made, keep_separators=keep_separators, drop_empty=drop_empty)
    return prepare_split(made, chosen[0].values), names
