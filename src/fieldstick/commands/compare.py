"""`compare`: what a change does to everyone who uses a pattern."""

from __future__ import annotations

from contextlib import ExitStack
from typing import TYPE_CHECKING

import click

from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, option
from fieldstick.commands.pattern_options import expressions_options
from fieldstick.commands.printing import form_told
from fieldstick.commands.progress import byte_progress
from fieldstick.commands.saying import print_text
from fieldstick.commands.source_notes import say_source_notes
from fieldstick.commands.source_options import source_options
from fieldstick.comparing.versions import chosen, compare_versions
from fieldstick.data.source import open_sources
from fieldstick.errors import EXIT_FAILED, EXIT_PASSED, UsageError, hint
from fieldstick.files import write_whole
from fieldstick.reporting.terminal import Terminal
from fieldstick.suites.finding import split_address
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    from fieldstick.comparing.version_results import Comparison
    from fieldstick.data.read_options import ReadOptions
    from fieldstick.suites.overrides import Overrides

FORMATS = ("text", "markdown", "json")
ENDINGS = {".txt": "text", ".md": "markdown", ".markdown": "markdown", ".json": "json"}


@headed_command(short_help="Say what behaves differently between two versions.")
@click.argument("versions", nargs=-1, metavar="[OLD] [NEW]")
@expressions_options
@source_options
@option("--on", "on", multiple=True, metavar="SOURCE", help="Lines to read under both versions. Repeatable.")
@option("--only", multiple=True, metavar="SUITE:PATTERN", help="Tell of this pattern (or SUITE) alone. Repeatable.")
@heading("What is written")
@option(
    "--format", "form", type=click.Choice(FORMATS), help="What to write.  [default: as FILE's ending tells, or text]"
)
@option("--to", "to", metavar="FILE", help="Write it to FILE.  [default: standard output]")
@heading("How")
@option("--no-trials", is_flag=True, help="Leave out the trials, which read whole data files.")
def command(
    versions: tuple[str, ...],
    expressions: tuple[str, ...],
    overrides: Overrides,
    read_options: ReadOptions,
    on: tuple[str, ...],
    only: tuple[str, ...],
    form: str | None,
    to: str | None,
    no_trials: bool,
) -> int:
    """Say what a change does: which patterns, fields, samples and lines come out otherwise.

    OLD and NEW are suite files, folders, or revisions of a git repository; of one revision alone the newer version
    is the current folder. Nothing is checked out.

    With -e EXPRESSION after SUITE:PATTERN the expression is tried in the pattern's place; with -e twice, or two
    patterns, they are compared with each other.

    Exit status: 0 nothing got worse, 1 something did: a sample, a field, a pattern that is gone, a trial below its
    bounds; 2 the command or a file is wrong.
    """
    form = form_told(form, to, ENDINGS, "text")
    workspace = Workspace()
    sources = open_sources(on, read_options) if on else []
    with ExitStack() as stack:
        was, now = workspace.versions(versions, expressions, overrides, stack)
        comparison = compare_versions(
            was,
            now,
            sources=sources,
            values=overrides.parameters,
            trials=not no_trials,
            progress=byte_progress,
        )
        if only:
            comparison = _only(comparison, only)
        _write(comparison, form, to)
    trouble = say_source_notes(sources)
    return EXIT_FAILED if comparison.is_worse or trouble else EXIT_PASSED


def _only(comparison: Comparison, only: tuple[str, ...]) -> Comparison:
    found = chosen(comparison, [split_address(each) for each in only])
    named = {suite.suite.name: suite for suite in comparison.suites}
    for each in only:
        suite, pattern = split_address(each)
        if suite not in named:
            raise UsageError(f"--only {each}: neither version has such a suite{hint(suite, named)}")
        known = {name for change in named[suite].patterns for name in (change.name, change.was_name) if name}
        if pattern is not None and pattern not in known:
            raise UsageError(f"--only {each}: neither version has such a pattern{hint(pattern, known)}")
    return found


def _write(comparison: Comparison, form: str, to: str | None) -> None:
    to = None if to == "-" else to
    if form == "text" and to is None:
        from fieldstick.reporting.compare_report import comparison_report

        Terminal.of().show(comparison_report(comparison))
        return
    text = _rendered(comparison, form)
    if to is not None:
        write_whole(to, text)
    else:
        print_text(text)


def _rendered(comparison: Comparison, form: str) -> str:
    from fieldstick.reporting import compare_as_data
    from fieldstick.reporting.as_markdown import plain_lines
    from fieldstick.reporting.compare_report import comparison_report

    if form == "json":
        return compare_as_data.comparison_as_json(comparison)
    if form == "text":
        return "\n".join(plain_lines(comparison_report(comparison))) + "\n"
    drawn = plain_lines(compare_as_data.drawn_lines(comparison))
    return compare_as_data.comparison_as_markdown(comparison, drawn)
