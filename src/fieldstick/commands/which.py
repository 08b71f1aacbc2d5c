"""`which`: which of all patterns fit a text, or the texts of a source."""

from __future__ import annotations

import os
from typing import TYPE_CHECKING

import click

from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, json_option, option, show_option
from fieldstick.commands.printing import print_json
from fieldstick.commands.progress import byte_progress
from fieldstick.commands.saying import say
from fieldstick.commands.source_notes import say_source_notes
from fieldstick.commands.source_options import source_options
from fieldstick.commands.sources import sources_of, text_at, typed_text
from fieldstick.data.storage import is_url
from fieldstick.drafting.which import candidates_of, which_fit, which_in
from fieldstick.errors import EXIT_FAILED, EXIT_PASSED, UsageError
from fieldstick.reporting.terminal import Terminal
from fieldstick.reporting.which_report import found_as_data, found_report, shares_as_data, shares_report
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    from fieldstick.data.read_options import ReadOptions
    from fieldstick.drafting.which import Candidates


@headed_command(short_help="Say which of all patterns fit a text.")
@click.argument("what", nargs=-1, metavar="TEXT|SOURCE...")
@heading("The patterns")
@option("--within", "suites", multiple=True, metavar="SUITE", help="Ask the patterns of this suite alone. Repeatable.")
@heading("What is asked about")
@option("--from", "place", metavar="FILE:LINE", help="Take the text from this line or row of a file.")
@option("--text", "as_text", is_flag=True, help="Take TEXT as a text, though a file has that name.")
@source_options
@heading("What is written")
@show_option("Patterns", 5)
@json_option
def command(
    what: tuple[str, ...],
    suites: tuple[str, ...],
    place: str | None,
    as_text: bool,
    read_options: ReadOptions,
    show: int,
    form: str,
) -> int:
    """Say which patterns of all suites below this folder fit TEXT, with their fields, and which came furthest.

    Of each SOURCE (a file, a folder of Parquet files, a URL) it is told how many of its texts each pattern fits. TEXT
    may be - for standard input. Exit status 1 when no pattern fits.
    """
    workspace = Workspace()
    chosen = [workspace.suite(each) for each in suites] if suites else workspace.suites()
    candidates = candidates_of(chosen)
    if not candidates.ready:
        raise UsageError("no pattern here can be asked: none has samples without a parameter's value")
    sources = (
        () if as_text or place is not None else tuple(each for each in what if os.path.exists(each) or is_url(each))
    )
    if sources:
        if len(sources) < len(what):
            missing = next(each for each in what if each not in sources)
            raise UsageError(f"there is no file '{missing}'; give one text, or sources that are there")
        return _in_sources(candidates, sources, read_options, show, form)
    if (len(what) == 1) is (place is not None):
        raise UsageError(
            "write which TEXT, which SOURCE..., or which --from FILE:LINE; a text with blanks goes in quotes"
        )
    text = text_at(place, read_options) if place is not None else typed_text() if what[0] == "-" else what[0]
    found = which_fit(candidates.ready, text)
    if form == "json":
        print_json(found_as_data(found, show) | {"not_asked": [*candidates.parametric, *candidates.broken]})
    else:
        Terminal.of().show(found_report(found, show))
        _say_not_asked(candidates)
    return EXIT_PASSED if found.fits else EXIT_FAILED


def _in_sources(candidates: Candidates, names: tuple[str, ...], read_options: ReadOptions, show: int, form: str) -> int:
    opened = sources_of(names, read_options)
    with byte_progress(opened) as progress:
        found = which_in(candidates.ready, opened, progress)
    near = which_fit(candidates.ready, found.unknown[2]) if found.unknown is not None else None
    if form == "json":
        print_json(shares_as_data(found, near, show) | {"not_asked": [*candidates.parametric, *candidates.broken]})
    else:
        Terminal.of().show(shares_report(found, near, show))
        _say_not_asked(candidates)
    say_source_notes(opened)
    if not found.texts:
        say("the source holds no text")
    return EXIT_PASSED if found.ranked else EXIT_FAILED


def _say_not_asked(candidates: Candidates) -> None:
    if candidates.parametric:
        say(f"not asked, since they need a parameter's value: {', '.join(candidates.parametric)}")
    if candidates.broken:
        say(f"not asked, since their expression cannot be read: {', '.join(candidates.broken)}")
