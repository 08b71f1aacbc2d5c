"""`route`: texts sorted into kinds, a file a kind."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any, cast

import click
from msgspec.structs import replace

from fieldstick.commands.following import Following, follow_options
from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, json_option, option
from fieldstick.commands.output_options import APPEND, WRITTEN_HEADING, OutputOptions
from fieldstick.commands.printing import print_json
from fieldstick.commands.progress import byte_progress
from fieldstick.commands.saying import say
from fieldstick.commands.source_options import source_options
from fieldstick.commands.sources import kept_whole
from fieldstick.commands.work_options import work_options
from fieldstick.data.sinks import FORMS, FolderSink
from fieldstick.data.storage import join
from fieldstick.data.text_file import refuse_own_source
from fieldstick.errors import EXIT_PASSED, UsageError
from fieldstick.files import is_file_name
from fieldstick.operations.route import NO_FILE_NAME, KindFiles, KindRows, Route, RouteJob, RouteTally, prepare_route
from fieldstick.reporting.terminal import Terminal
from fieldstick.reporting.words import counted
from fieldstick.reporting.work_report import overlaps_report, route_pairs_report, route_table
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.commands.work_options import WorkOptions
    from fieldstick.data.read_options import ReadOptions
    from fieldstick.data.sinks import Form
    from fieldstick.data.source import Source
    from fieldstick.runs.executor import Executor

_PACKED_TABLES = (".parquet", ".xlsx", ".sqlite", ".db")


@headed_command(short_help="Sort texts into kinds: a file a kind, and counts.")
@click.argument("address", metavar="SUITE:ROUTE")
@click.argument("names", nargs=-1, metavar="[SOURCE]...")
@source_options
@follow_options
@WRITTEN_HEADING
@option("--into", metavar="FOLDER", help="Write the texts of each kind to a file in FOLDER.")
@option("--file-format", type=click.Choice(FORMS), help="The form of those files.  [default: as the sources stand]")
@APPEND
@json_option
@heading("How")
@option("--otherwise", metavar="NAME", help="What the kind of all other texts is called.  [default: as kept]")
@option("--overlaps", is_flag=True, help="Show what more than one pattern fits; without a source, of all texts.")
@work_options
def command(
    address: str,
    names: tuple[str, ...],
    read_options: ReadOptions,
    following: Following,
    into: str | None,
    file_format: Form | None,
    append: bool,
    form: str,
    otherwise: str | None,
    overlaps: bool,
    work: WorkOptions,
) -> int:
    """Sort the texts of each SOURCE (files, or - for standard input): the first pattern that fits names the kind.

    Prints how many there are of each kind and of none. With --into, every text is written as it stands to the file
    of its kind, an empty file for a kind that has none.

    With --overlaps and no SOURCE, says of every pair of kinds whether some text fits both, proven for all texts there
    are, with a text.

    Exit status: 0 all was read, 1 something was not read as asked (it is named), 2 the command or a file is wrong.
    """
    route = _route(address, otherwise)
    if overlaps and not names and into is None:
        return _prove(route, form)
    sources = following.sources(names, replace(read_options, raws_wanted=True, everything_wanted=True), work)
    executor = work.executor()
    if into is None and (append or file_format is not None):
        raise UsageError("--append and --file-format go with --into FOLDER")
    if into is None:
        job = RouteJob(prepare_route(route), None, with_overlaps=overlaps)
        executor.run(job, sources, byte_progress(sources))
    else:
        job = _into(OutputOptions(into, file_format, append=append), route, sources, overlaps, executor)
    tally = job.tally
    _print(tally, route.kinds, overlaps, form)
    known = tally.read - tally.kinds[route.otherwise] - tally.given_up
    say(
        f"read {counted(tally.read, 'text')}: {known:,} of a kind, {tally.kinds[route.otherwise]:,} {route.otherwise}"
        if tally.read
        else "nothing to read: the sources hold no text"
    )
    own = {"kinds": {kind: tally.kinds[kind] for kind in route.kinds}}
    return work.close("route", sources, [(route.own_name, tally)], written=[into], own=own)


def _prove(route: Route, form: str) -> int:
    """Say how the kinds relate to one another, whatever the data."""
    from fieldstick.runs.suite_hazards import route_pairs

    pairs = list(route_pairs(route))
    if form == "json":
        found = [
            {"kinds": [one.name, other.name], "relation": told.relation, "both": told.both, "why": told.why or None}
            for one, other, told in pairs
        ]
        print_json({"format": 1, "pairs": found})
    else:
        Terminal.of().show(route_pairs_report(pairs))
    return EXIT_PASSED


def _route(address: str, otherwise: str | None) -> Route:
    found = Workspace().operation(address, Route, "routes")
    assert found is not None
    if otherwise is None:
        return found
    if otherwise in found.kinds[:-1]:
        raise UsageError(f"--otherwise {otherwise}: that is a kind of the route already")
    if not is_file_name(otherwise):
        raise UsageError(f"--otherwise {otherwise}: {NO_FILE_NAME}")
    return replace(found, otherwise=otherwise)


def _into(output: OutputOptions, route: Route, sources: list[Source], overlaps: bool, executor: Executor) -> RouteJob:
    """Sort the texts into files of the folder that is the output's path."""
    folder = output.path or ""
    as_rows = output.form is not None and output.passes_rows(sources)
    ending = f".{output.form}" if output.form is not None else _ending(sources)
    paths = [join(folder, f"{kind}{ending}") for kind in route.kinds]
    for path in paths:
        refuse_own_source(path, [source.path for source in sources])
    router = prepare_route(route)
    if as_rows:
        tables = KindRows(FolderSink(folder, lambda path: output.open_one(path, sources), ending), route.kinds)
        job, kept = RouteJob(router, None, with_overlaps=overlaps, tables=tables), cast("Any", tables)
    else:
        files = KindFiles(folder, route.kinds, ending, append=output.append, grows=any(each.grows for each in sources))
        job, kept = RouteJob(router, files, with_overlaps=overlaps), files
    with kept_whole(kept):
        executor.run(job, sources, byte_progress(sources))
    say(f"{counted(len(paths), 'file')} written: {paths[0]} to {paths[-1]}")
    return job


def _ending(sources: Sequence[Source]) -> str:
    """Return the ending of files that have the texts as they stand."""
    ending = next((Path(source.name).suffix for source in sources if source.path is not None), "") or ".txt"
    if ending in _PACKED_TABLES:
        return ".csv"
    return Path(sources[0].name[: -len(ending)]).suffix or ".txt" if sources[0].is_packed() else ending


def _print(tally: RouteTally, kinds: tuple[str, ...], overlaps: bool, form: str) -> None:
    if form == "json":
        data = {
            "format": 1,
            "read": tally.read,
            "kinds": {kind: tally.kinds[kind] for kind in kinds},
            "gave_up": tally.given_up,
        }
        if overlaps:
            data["overlaps"] = [
                {
                    "kinds": list(each),
                    "count": count,
                    "first": [
                        {"source": one, "line": line, "text": text} for one, line, text in tally.overlapping[each]
                    ],
                }
                for each, count in tally.overlaps.most_common()
            ]
        print_json(data)
        return
    terminal = Terminal.of()
    if overlaps:
        terminal.show(overlaps_report(tally))
    terminal.show(route_table(tally, kinds))
