"""`survey`: what shapes of text a source holds, before any pattern is written."""

from __future__ import annotations

from typing import TYPE_CHECKING

import click

from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, json_option, option
from fieldstick.commands.printing import print_json
from fieldstick.commands.progress import byte_progress
from fieldstick.commands.rendering import say
from fieldstick.commands.source_options import row_options
from fieldstick.commands.sources import sources_of
from fieldstick.errors import EXIT_FAILED, EXIT_PASSED
from fieldstick.reporting.survey_report import columns_report, survey_as_data, survey_report
from fieldstick.reporting.terminal import Terminal
from fieldstick.runs.survey import Survey, survey_columns

if TYPE_CHECKING:
    from fieldstick.data.read_options import ReadOptions
    from fieldstick.data.source import Source

TABLE_ENDINGS = (".csv",)


@headed_command(short_help="Show what shapes of text a source holds.")
@click.argument("sources", nargs=-1, metavar="SOURCE...")
@row_options
@heading("What is written")
@option("--top", type=click.IntRange(min=1), default=20, show_default=True, metavar="N", help="Shapes to show.")
@option("--rare", is_flag=True, help="Show the rarest shapes first.")
@json_option
def command(sources: tuple[str, ...], read_options: ReadOptions, top: int, rare: bool, form: str) -> int:
    """Show the shapes of the texts of each SOURCE (files, or - for standard input): how many, how long, examples.

    A stands for a capital, a for a small letter, 9 for a digit; a run whose length varies is folded, as in A9….
    A CSV file without --column is shown column by column.
    """
    opened = sources_of(sources, read_options)
    if read_options.column is None and len(opened) == 1 and _is_table(opened[0]):
        return _columns(opened[0], top, rare, form)
    found = Survey()
    with byte_progress(opened) as progress:
        for source in opened:
            for number, text in source.texts():
                found.add(number, text)
                if progress is not None and found.texts % 1000 == 0:
                    progress(1000)
    remarks = [remark for source in opened for remark in _remarks(source)]
    if form == "json":
        print_json(survey_as_data(found, top, rare) | {"remarks": remarks})
    else:
        Terminal.of().show(survey_report(found, top, rare, remarks))
    return _status(found.texts)


def _is_table(source: Source) -> bool:
    options = source.read_options
    return source.name.endswith(TABLE_ENDINGS) if options.kind is None else options.kind == "csv"


def _columns(source: Source, top: int, rare: bool, form: str) -> int:
    columns = survey_columns(source.table())
    remarks = _remarks(source)
    if form == "json":
        shown = {name: survey_as_data(found, top, rare) for name, found in columns.items()}
        print_json({"columns": shown, "remarks": remarks})
    else:
        Terminal.of().show(columns_report(columns, remarks))
    return _status(max((found.texts for found in columns.values()), default=0))


def _remarks(source: Source) -> list[str]:
    found = []
    if source.coding.marked:
        found.append(f"{source.name} begins with a byte-order mark")
    if len(source.line_ends) > 1:
        ends = " and ".join(f"{name} on {count:,} lines" for name, count in source.line_ends.most_common())
        found.append(f"{source.name} mixes its line ends: {ends}")
    elif "CR LF" in source.line_ends:
        found.append(f"{source.name} ends its lines with CR LF")
    if source.ragged:
        number = f"{len(source.ragged):,} rows have another number of cells"
        found.append(f"{source.name}: {number}, first on line {source.ragged[0]}")
    return found


def _status(texts: int) -> int:
    if texts == 0:
        say("the source holds no text")
        return EXIT_FAILED
    return EXIT_PASSED
