"""`route`: texts sorted into kinds, a file a kind."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import click
from msgspec.structs import replace

from fieldstick.commands.drafts import use_at
from fieldstick.commands.options import closing, jobs_option, kept_whole, no_pattern, source_options, sources_of
from fieldstick.commands.printing import print_json
from fieldstick.commands.progress import byte_progress
from fieldstick.commands.rendering import say
from fieldstick.data.lines import checked_encoding
from fieldstick.data.text_file import refuse_own_source
from fieldstick.matching.routing import prepare_route
from fieldstick.reporting.as_work import overlap_lines, route_table
from fieldstick.reporting.terminal import Terminal
from fieldstick.reporting.words import counted
from fieldstick.runs.executor import fitting_jobs
from fieldstick.suites.uses import Route
from fieldstick.working.routing import KindFiles, RouteTally, route

if TYPE_CHECKING:
    from fieldstick.data.read_options import ReadOptions
    from fieldstick.data.source import Source
    from fieldstick.matching.routing import ReadyRoute


@click.command(short_help="Sort texts into kinds: a file a kind, and counts.")
@click.argument("address", metavar="SUITE:ROUTE")
@click.argument("names", nargs=-1, metavar="SOURCE...")
@click.option("--into", metavar="FOLDER", help="Write the texts of each kind to a file in FOLDER.")
@click.option("--overlaps", is_flag=True, help="Show the texts that more than one pattern fits.")
@click.option(
    "--format", "form", type=click.Choice(["text", "json"]), default="text", show_default=True, help="What to print."
)
@source_options
@jobs_option
def command(
    address: str,
    names: tuple[str, ...],
    into: str | None,
    overlaps: bool,
    form: str,
    read_options: ReadOptions,
    jobs: int | None,
) -> int:
    """Sort the texts of each SOURCE (files, or - for standard input): the first pattern that fits names the kind.

    Prints how many there are of each kind and of none. With --into, every text is written as it stands to the file
    of its kind, an empty file for a kind that has none.

    Exit status: 0 all was read, 1 something was not read as asked (it is named), 2 the command or a file is wrong.
    """
    use = use_at(address, "routes")
    if use is None:
        raise no_pattern(address, what="route")
    assert isinstance(use, Route)
    ready = prepare_route(use)
    sources = sources_of(names, replace(read_options, raws_wanted=True, everything_wanted=True))
    count = jobs or fitting_jobs(sources)
    if into is None:
        with byte_progress(sources) as progress:
            tally = route(ready, sources, None, with_overlaps=overlaps, jobs=count, progress=progress)
    else:
        tally = _into(into, ready, use, sources, overlaps, count)
    _print(tally, use.kinds, overlaps, form)
    known = tally.read - tally.kinds[use.otherwise] - tally.given_up
    say(
        f"read {counted(tally.read, 'text')}: {known:,} of a kind, {tally.kinds[use.otherwise]:,} {use.otherwise}"
        if tally.read
        else "nothing to read: the sources hold no text"
    )
    return closing(sources, [tally])


def _into(folder: str, ready: ReadyRoute, use: Route, sources: list[Source], overlaps: bool, jobs: int) -> RouteTally:
    ending = next((Path(source.name).suffix for source in sources if source.path is not None), "") or ".txt"
    if sources[0].is_packed() or ending in (".parquet", ".xlsx", ".sqlite", ".db"):
        ending = (
            ".csv"
            if ending in (".parquet", ".xlsx", ".sqlite", ".db")
            else Path(sources[0].name[: -len(ending)]).suffix or ".txt"
        )
    for kind in use.kinds:
        refuse_own_source(str(Path(folder) / f"{kind}{ending}"), [source.path for source in sources])
    files = KindFiles(folder, use.kinds, ending, checked_encoding(sources[0].read_options.encoding))
    with kept_whole(files), byte_progress(sources) as progress:
        tally = route(ready, sources, files, with_overlaps=overlaps, jobs=jobs, progress=progress)
    first, *_, last = files.paths.values()
    say(f"{counted(len(files.paths), 'file')} written: {first} to {last}")
    return tally


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
        terminal.write(overlap_lines(tally, terminal.width, terminal.charset))
    terminal.write(route_table(tally, kinds))
