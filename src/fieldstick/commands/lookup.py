"""`lookup`: for each value the row whose column fits, and other columns of it."""

from __future__ import annotations

from typing import TYPE_CHECKING

import click
from msgspec.structs import replace

from fieldstick.commands.drafts import pattern_at, use_at
from fieldstick.commands.options import (
    OutputOptions,
    closing,
    kept_whole,
    no_pattern,
    sink_options,
    sources_of,
    table_options,
)
from fieldstick.commands.progress import byte_progress
from fieldstick.commands.rendering import say
from fieldstick.data.read_options import ReadOptions
from fieldstick.data.source import open_sources
from fieldstick.errors import EXIT_FAILED, UsageError, hint
from fieldstick.reporting.as_work import lookup_words
from fieldstick.suites.uses import Lookup
from fieldstick.working.looking_up import look_up

if TYPE_CHECKING:
    from fieldstick.suites.uses import Pick


@click.command(short_help="Find the row that fits a value, and give other columns of it.")
@click.argument("address", metavar="SUITE:LOOKUP|SUITE:PATTERN")
@click.argument("names", nargs=-1, metavar="SOURCE...")
@click.option("--for", "asked", metavar="VALUES", help="A table with a value a row; each gets its answer beside it.")
@click.option(
    "--parameter",
    "values",
    multiple=True,
    metavar="NAME=VALUE",
    help="A parameter's value; with --for, the column of VALUES that it is taken from. Repeatable.",
)
@click.option("--column", metavar="NAME", help="With a pattern: the column of the source that must fit.")
@click.option("--give", multiple=True, metavar="NAME", help="With a pattern: a column to give. Repeatable.")
@click.option(
    "--pick", type=click.Choice(["first", "last", "all"]), help="Which rows to give.  [default: as kept; first]"
)
@click.option("--missing", metavar="TEXT", help="The answer when no row fits.")
@sink_options
@table_options
def command(
    address: str,
    names: tuple[str, ...],
    asked: str | None,
    values: tuple[str, ...],
    column: str | None,
    give: tuple[str, ...],
    pick: Pick | None,
    missing: str | None,
    output: OutputOptions,
    read_options: ReadOptions,
) -> int:
    """Find the rows of each SOURCE whose column fits, and write the columns that are given.

    The source is held in memory; VALUES may be of any size. Exit status: 0 every value was found, 1 one was not,
    2 the command or a file is wrong.
    """
    lookup = _lookup(address, column, give, pick, missing)
    pairs = _pairs(values, lookup)
    if not names:
        raise UsageError("name the source whose rows are looked through")
    sources = sources_of(names, replace(read_options, rows_wanted=True))
    for source in sources:
        source.needed_columns = (lookup.column, *lookup.give)
    for_values = open_sources((asked,), ReadOptions(rows_wanted=True))[0] if asked is not None else None
    everything = [*sources, *([for_values] if for_values is not None else [])]
    sink = output.open(everything)
    with kept_whole(sink), byte_progress(everything, writes_to=output.path) as progress:
        tally = look_up(
            lookup,
            sources,
            sink,
            values={} if for_values is not None else pairs,
            asked=for_values,
            columns=pairs if for_values is not None else None,
            progress=progress,
        )
    say(lookup_words(tally))
    status = closing(everything, [])
    if tally.gave_up:
        say(f"{tally.gave_up:,} rows given up, since reading took longer than the budget")
        status = EXIT_FAILED
    return EXIT_FAILED if tally.found < tally.asked else status


def _lookup(address: str, column: str | None, give: tuple[str, ...], pick: Pick | None, missing: str | None) -> Lookup:
    use = use_at(address, "lookups", or_pattern=True)
    if use is not None:
        assert isinstance(use, Lookup)
        lookup = use
        if column is not None or give:
            lookup = replace(lookup, column=column or lookup.column, give=give or lookup.give)
    else:
        found = pattern_at(address)
        if found is None:
            raise no_pattern(address, what="lookup")
        if column is None or not give:
            raise UsageError("with a pattern, say the --column that must fit and what to --give")
        lookup = Lookup(found[1].name, "", (), (), ("lookups",), found[1], column, give)
    return replace(
        lookup,
        pick=pick or lookup.pick,
        missing=lookup.missing if missing is None else missing,
    )


def _pairs(values: tuple[str, ...], lookup: Lookup) -> dict[str, str]:
    found = {}
    known = lookup.parameters
    for each in values:
        name, equals, value = each.partition("=")
        if not equals:
            raise UsageError(f"--parameter {each}: write NAME=VALUE")
        if name not in known:
            raise UsageError(f"--parameter {name}: the pattern has no such parameter{hint(name, known)}")
        found[name] = value
    for name in known:
        if name not in found:
            raise UsageError(f"the pattern needs a value for its parameter '{name}': add --parameter {name}=VALUE")
    return found
