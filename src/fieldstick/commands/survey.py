"""`survey`: what shapes of text a source holds, before any pattern is written."""

from __future__ import annotations

from typing import TYPE_CHECKING

import click
from msgspec.structs import replace

from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, json_option, option
from fieldstick.commands.printing import print_json
from fieldstick.commands.progress import byte_progress
from fieldstick.commands.saying import say
from fieldstick.commands.source_notes import say_source_notes
from fieldstick.commands.source_options import row_options
from fieldstick.commands.sources import TABLE_ENDINGS, sources_of
from fieldstick.commands.work_options import cluster_at, cluster_option
from fieldstick.data.read_options import TABLES
from fieldstick.errors import EXIT_FAILED, EXIT_PASSED
from fieldstick.reporting.document import BLANK
from fieldstick.reporting.line_kinds_report import kinds_as_data, kinds_report
from fieldstick.reporting.survey_report import columns_report, survey_as_data, survey_report, types_report, values_lines
from fieldstick.reporting.terminal import Terminal
from fieldstick.reporting.words import counted
from fieldstick.runs.line_records import record_start
from fieldstick.runs.processes import Processes
from fieldstick.runs.survey import Survey, SurveyJob

if TYPE_CHECKING:
    from fieldstick.data.read_options import ReadOptions
    from fieldstick.data.source import Source
    from fieldstick.runs.line_kinds import LineKinds

NESTED = ("json", "jsonl", ".json", ".jsonl", ".ndjson")
"""Kinds of table, and endings, that may hold objects within rows."""

KINDS = 12
"""Kinds of line that are shown unless another number is asked for."""

SHAPES_BESIDE = 8
"""Shapes that are shown below kinds of line."""

MANY_SHAPES = 8
"""Shapes of a column from which on its texts may be of a few kinds."""

SHAPES = 20
"""Shapes that are shown unless another number is asked for."""


@headed_command(short_help="Show what shapes of text a source holds.")
@click.argument("sources", nargs=-1, metavar="SOURCE...")
@row_options
@heading("What is written")
@option("--top", type=click.IntRange(min=1), metavar="N", help=f"Shapes to show.  [default: {SHAPES}; 3 of a column]")
@option("--rare", is_flag=True, help="Show the rarest shapes first.")
@option(
    "--kinds",
    type=click.IntRange(min=0),
    metavar="N",
    help=f"Kinds of line to show, or of texts of a column.  [default: {KINDS}; none of a column]",
)
@json_option
@heading("How")
@cluster_option
def command(
    sources: tuple[str, ...],
    read_options: ReadOptions,
    top: int | None,
    rare: bool,
    kinds: int | None,
    form: str,
    cluster: str | None,
) -> int:
    """Show the shapes of the texts of each SOURCE (files, or - for standard input): how many, how long, examples.

    A stands for a capital, a for a small letter, 9 for a digit; a run whose length varies is folded, as in A9….
    Tables without --column are shown column by column.

    Exit status: 0 all was read, 1 there is no text, or something was not read as asked (it is named).
    """
    opened = sources_of(sources, read_options)
    by_column = read_options.column is None and all(map(_is_table, opened))
    if by_column:
        for source in opened:
            source.read_options = replace(source.read_options, rows_wanted=True, cells_wanted=True)
    of_column = read_options.column is not None
    # Of a column kinds are told where they are asked for.
    of_lines = not by_column and kinds != 0 and (not of_column or kinds is not None)
    nested = by_column and all((each.read_options.kind or each.ending) in NESTED for each in opened)
    size = sum(source.size or 0 for source in opened)
    job = SurveyJob(by_column=by_column, of_lines=of_lines, of_column=of_column, nested=nested, size=size)
    reader = cluster_at(cluster) if cluster is not None else Processes(1)
    reader.run(job, opened, byte_progress(opened))
    remarks = [remark for source in opened for remark in _remarks(source)]
    if by_column:
        _columns(job.found, job.rows, remarks, top, rare, form)
        texts = job.rows
    else:
        found = job.found.get("", Survey())
        if found.kinds is not None and all(source.kind == "lines" for source in opened):
            remarks += _records_in(found.kinds)
        if of_column and not of_lines and _are_said(found):
            remarks.append("texts of many shapes: --kinds N tells which are of one kind")
        shown = KINDS if kinds is None else kinds
        texts = _shapes(found, remarks, top, rare, shown, form)
    trouble = say_source_notes(opened)
    if texts == 0:
        say("the source holds no text")
    return EXIT_FAILED if trouble or texts == 0 else EXIT_PASSED


def _shapes(found: Survey, remarks: list[str], top: int | None, rare: bool, kinds: int, form: str) -> int:
    if form == "json":
        data = survey_as_data(found, found.texts, top or SHAPES, rare)
        if found.kinds is not None:
            data["kinds"] = kinds_as_data(found.kinds, kinds)
        print_json(data | {"remarks": remarks})
        return found.texts
    terminal = Terminal.of()
    if found.types is not None:
        terminal.show(types_report(found, found.texts, can_draw=terminal.charset.can_show("▁█")))
        if values := list(values_lines(found, top, rare=rare)):
            terminal.show([*values, BLANK])
    # Where kinds tell what the lines are, fewer shapes are left to be told.
    fewer = SHAPES
    if found.kinds is not None and kinds and found.texts:
        terminal.show(kinds_report(found.kinds, kinds))
        fewer = SHAPES_BESIDE
    terminal.show(survey_report(found, top or fewer, rare, remarks))
    return found.texts


def _are_said(found: Survey) -> bool:
    """Tell whether texts are as messages are: of many shapes, most of which have blanks in them."""
    with_blanks = sum(shape.count(" ") > 1 for shape in found.shapes)
    return len(found.shapes) >= MANY_SHAPES and 2 * with_blanks > len(found.shapes)


def _is_table(source: Source) -> bool:
    options = source.read_options
    if options.kind is not None:
        return options.kind in TABLES
    if options.begins_record is not None:
        return False
    if options.asks_for_table or source.ending in TABLE_ENDINGS:
        return True
    # What its first bytes tell: Parquet, a workbook and a database are tables whatever they are called.
    source.read_options = replace(options, rows_wanted=True)
    kind = source.table_kind()
    source.read_options = options
    return kind in ("parquet", "xlsx", "sqlite")


def _columns(columns: dict[str, Survey], rows: int, remarks: list[str], top: int | None, rare: bool, form: str) -> None:
    if form == "json":
        shown = {name: survey_as_data(found, rows, top or SHAPES, rare) for name, found in columns.items()}
        print_json({"rows": rows, "columns": shown, "remarks": remarks})
    else:
        terminal = Terminal.of()
        can_draw = terminal.charset.can_show("▁█")
        terminal.show(columns_report(columns, rows, top, rare, remarks, can_draw=can_draw))


def _records_in(kinds: LineKinds) -> list[str]:
    """Return a remark on lines that come in records, and how these are read."""
    start = record_start(kinds)
    return [f"lines that belong together: --record-start '{start}' reads them as one text"] if start else []


def _remarks(source: Source) -> list[str]:
    found = []
    if source.coding.marked:
        found.append(f"{source.name} begins with a byte-order mark")
    # A row of a table may hold line ends of its own; how those of rows look is the matter of its form.
    line_ends = source.line_ends if source.kind in ("lines", "records") else {}
    if len(line_ends) > 1:
        ends = " and ".join(f"{name} on {counted(count, 'line')}" for name, count in source.line_ends.most_common())
        found.append(f"{source.name} mixes its line ends: {ends}")
    elif "CR LF" in line_ends:
        found.append(f"{source.name} ends its lines with CR LF")
    unparted = source.unparted(source.columns)
    if unparted:
        found.append(f"{source.name}: {unparted}")
    if source.ragged:
        number = f"{source.ragged.total:,} rows have another number of cells"
        found.append(f"{source.name}: {number}, first on line {source.ragged[0]}")
    return found
