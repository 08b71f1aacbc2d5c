"""`lookup`: for each value the row whose column fits, and other columns of it."""

from __future__ import annotations

from typing import TYPE_CHECKING

import click
from msgspec.structs import replace

from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, option
from fieldstick.commands.output_options import OutputOptions, sink_options
from fieldstick.commands.pattern_options import pattern_options_without_take
from fieldstick.commands.progress import byte_progress
from fieldstick.commands.saying import say
from fieldstick.commands.source_options import row_options, values_options
from fieldstick.commands.sources import kept_whole, sources_of
from fieldstick.commands.work_options import here_options
from fieldstick.data.read_options import ReadOptions
from fieldstick.data.source import open_sources
from fieldstick.errors import UsageError
from fieldstick.operations.lookup import Lookup, look_up
from fieldstick.reporting.work_report import lookup_words
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    from fieldstick.commands.work_options import WorkOptions
    from fieldstick.operations.lookup import Which
    from fieldstick.suites.overrides import Overrides


MOST_UNLISTED = 1000
"""Values that were not found and are named in a report."""


@headed_command(short_help="Find the row that fits a value, and give other columns of it.")
@click.argument("arguments", nargs=-1, metavar="SUITE:LOOKUP|SUITE:PATTERN|EXPRESSION SOURCE...")
@pattern_options_without_take
@option("--take", type=click.Choice(["first", "last", "all"]), help="Which row that fits.  [default: as kept; first]")
@option("--give", multiple=True, metavar="NAME", help="With a pattern: a column to give. Repeatable.")
@row_options
@sink_options
@heading("How")
@option("--otherwise", metavar="TEXT", help="The answer when no row fits.  [default: as kept]")
@here_options
@heading("The values")
@option("--for", "asked", metavar="VALUES", help="A table with a value a row; each gets its answer beside it.")
@values_options
def command(
    arguments: tuple[str, ...],
    expression: str | None,
    overrides: Overrides,
    take: Which | None,
    give: tuple[str, ...],
    read_options: ReadOptions,
    output: OutputOptions,
    asked: str | None,
    values_read_options: ReadOptions,
    otherwise: str | None,
    work: WorkOptions,
) -> int:
    """Find the rows of each SOURCE whose column fits, and write the columns that are given.

    With a pattern, --column names the column that must fit and --give those to give. With --for, a parameter's value
    is the column of VALUES that it is taken from. The source is held in memory; VALUES may be of any size.

    Exit status: 0 every value was found, 1 one was not, 2 the command or a file is wrong.
    """
    lookup, names = _lookup(arguments, expression, overrides, read_options.column, give)
    lookup = replace(lookup, take=take or lookup.take, otherwise=lookup.otherwise if otherwise is None else otherwise)
    values = _values(overrides, lookup)
    if not names:
        raise UsageError("name the source whose rows are looked through")
    if asked is None and values_read_options != ReadOptions(rows_wanted=True):
        raise UsageError("--for-… describes VALUES, which --for names; give that too")
    sources = sources_of(names, replace(read_options, column=None, rows_wanted=True))
    for source in sources:
        source.needed_columns = (lookup.column, *lookup.give)
    for_values = open_sources((asked,), values_read_options)[0] if asked is not None else None
    everything = [*sources, *([for_values] if for_values is not None else [])]
    sink = output.open(everything)
    with kept_whole(sink), byte_progress(everything, writes_to=output.path) as progress:
        tally = look_up(
            lookup,
            sources,
            sink,
            values={} if for_values is not None else values,
            asked=for_values,
            columns=values if for_values is not None else None,
            progress=progress,
            limit=work.limit,
        )
    say(lookup_words(tally))
    if tally.gave_up:
        say(f"{tally.gave_up:,} rows given up, since reading took longer than the budget")
    own = {
        "asked": tally.asked,
        "found": tally.found,
        "rows": tally.rows,
        "searched": tally.searched,
        "unlisted": list(tally.unlisted)[:MOST_UNLISTED],
    }
    failed = bool(tally.gave_up) or tally.found < tally.asked
    return work.close("lookup", everything, [], written=[output.path], failed=failed, own=own)


def _lookup(
    arguments: tuple[str, ...],
    expression: str | None,
    overrides: Overrides,
    column: str | None,
    give: tuple[str, ...],
) -> tuple[Lookup, tuple[str, ...]]:
    workspace = Workspace()
    found = (
        workspace.operation(arguments[0], Lookup, "lookups", or_pattern=True)
        if arguments and expression is None
        else None
    )
    if found is not None:
        return replace(found, column=column or found.column, give=give or found.give), arguments[1:]
    chosen, names = workspace.patterns(arguments, overrides, expression=expression)
    if len(chosen) > 1:
        raise UsageError("give one pattern to look rows up with")
    if column is None or not give:
        raise UsageError("with a pattern, say the --column that must fit and what to --give")
    return Lookup(chosen[0].pattern.name, "", (), (), ("lookups",), chosen[0].pattern, column, give), names


def _values(overrides: Overrides, lookup: Lookup) -> dict[str, str]:
    """Return the values of the lookup's parameters. Raises UsageError for one that has none."""
    overrides.check_parameters(lookup.patterns)
    assert lookup.pattern is not None
    return overrides.values_for(lookup.pattern)
