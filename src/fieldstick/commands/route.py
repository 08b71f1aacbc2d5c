"""`route`: texts sorted into kinds, a file a kind."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import click
from msgspec.structs import replace

from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, json_option, option
from fieldstick.commands.output_options import WRITTEN_HEADING
from fieldstick.commands.printing import print_json
from fieldstick.commands.progress import byte_progress
from fieldstick.commands.rendering import say
from fieldstick.commands.source_options import source_options
from fieldstick.commands.sources import closing, kept_whole, sources_of
from fieldstick.commands.work_options import work_options
from fieldstick.data.storage import join
from fieldstick.data.text_file import refuse_own_source
from fieldstick.errors import EXIT_PASSED, UsageError
from fieldstick.files import is_file_name
from fieldstick.operations.route import NO_FILE_NAME, KindFiles, Route, RouteJob, RouteTally, prepare_route
from fieldstick.reporting.terminal import Terminal
from fieldstick.reporting.words import counted
from fieldstick.reporting.work_report import overlaps_report, route_pairs_report, route_table
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    from fieldstick.commands.work_options import WorkOptions
    from fieldstick.data.read_options import ReadOptions
    from fieldstick.data.source import Source
    from fieldstick.runs.executor import Executor

_PACKED_TABLES = (".parquet", ".xlsx", ".sqlite", ".db")


@headed_command(short_help="Sort texts into kinds: a file a kind, and counts.")
@click.argument("address", metavar="SUITE:ROUTE")
@click.argument("names", nargs=-1, metavar="[SOURCE]...")
@source_options
@WRITTEN_HEADING
@option("--into", metavar="FOLDER", help="Write the texts of each kind to a file in FOLDER.")
@json_option
@heading("How")
@option("--otherwise", metavar="NAME", help="What the kind of all other texts is called.  [default: as kept]")
@option("--overlaps", is_flag=True, help="Show what more than one pattern fits; without a source, of all texts.")
@work_options
def command(
    address: str,
    names: tuple[str, ...],
    read_options: ReadOptions,
    into: str | None,
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
    sources = sources_of(names, replace(read_options, raws_wanted=True, everything_wanted=True))
    executor = work.executor()
    if into is None:
        job = RouteJob(prepare_route(route), None, with_overlaps=overlaps)
        executor.run(job, sources, byte_progress(sources))
    else:
        job = _into(into, route, sources, overlaps, executor)
    tally = job.tally
    _print(tally, route.kinds, overlaps, form)
    known = tally.read - tally.kinds[route.otherwise] - tally.given_up
    say(
        f"read {counted(tally.read, 'text')}: {known:,} of a kind, {tally.kinds[route.otherwise]:,} {route.otherwise}"
        if tally.read
        else "nothing to read: the sources hold no text"
    )
    return closing(sources, [tally])


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


def _into(folder: str, route: Route, sources: list[Source], overlaps: bool, executor: Executor) -> RouteJob:
    ending = next((Path(source.name).suffix for source in sources if source.path is not None), "") or ".txt"
    if ending in _PACKED_TABLES:
        ending = ".csv"
    elif sources[0].is_packed():
        ending = Path(sources[0].name[: -len(ending)]).suffix or ".txt"
    for kind in route.kinds:
        refuse_own_source(join(folder, f"{kind}{ending}"), [source.path for source in sources])
    files = KindFiles(folder, route.kinds, ending)
    job = RouteJob(prepare_route(route), files, with_overlaps=overlaps)
    with kept_whole(files):
        executor.run(job, sources, byte_progress(sources))
    first, *_, last = files.paths.values()
    say(f"{counted(len(files.paths), 'file')} written: {first} to {last}")
    return job


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
