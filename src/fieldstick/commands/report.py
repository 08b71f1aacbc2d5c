"""`report`: one page with tables and charts of a check."""

from __future__ import annotations

import datetime as dt
from typing import TYPE_CHECKING

import click

from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, option
from fieldstick.commands.printing import form_told
from fieldstick.commands.progress import byte_progress, sample_progress
from fieldstick.commands.rendering import notes_for
from fieldstick.commands.saying import print_text, say
from fieldstick.errors import EXIT_FAILED, EXIT_PASSED, UsageError
from fieldstick.files import write_whole
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    from fieldstick.comparing.history import RunFigures

ENDINGS = {".html": "html", ".htm": "html", ".md": "markdown", ".markdown": "markdown"}

MOST_RUNS = 200
"""Recorded runs that the chart of shares goes back."""


@headed_command(short_help="Write a page with tables and charts of a check.")
@click.argument("paths", nargs=-1, metavar="[PATH]...")
@heading("What is read")
@option("--database", metavar="DATABASE", help="The runs that 'check --record' kept, for how shares moved.")
@heading("What is written")
@option("--to", "to", metavar="FILE", help="Write it to FILE.  [default: standard output, Markdown alone]")
@option(
    "--format",
    "form",
    type=click.Choice(["html", "markdown"]),
    help="What to write: a page, or what a review comment has room for.  [default: as FILE's ending tells]",
)
@heading("How")
@option("--no-baseline", is_flag=True, help="Do not hold the suites against their baselines.")
@option("--no-trials", is_flag=True, help="Leave out the trials, which read whole data files.")
def command(
    paths: tuple[str, ...], database: str | None, to: str | None, form: str | None, no_baseline: bool, no_trials: bool
) -> int:
    """Check the suites and write one self-contained page: the verdict, what needs attention, charts, every pattern.

    The page needs no network and no script, and prints. Needs the libraries of 'fieldstick[report]'.
    """
    form = form_told(form, to, ENDINGS, "html")
    if to is None and form == "html":
        raise UsageError("name the page's file with --to FILE.html")
    runs = _runs(database)
    workspace = Workspace()
    suites = workspace.suites(paths)
    result = workspace.check(
        suites,
        baseline=not no_baseline,
        progress=sample_progress(sum(len(each.samples) for suite in suites for each in suite.judged)),
        folders=paths,
        trials=not no_trials,
        reading=byte_progress,
    )
    notes_for(result)
    if not result.checked:
        raise UsageError("nothing was checked: no pattern here has a sample")
    if form == "markdown":
        from fieldstick.reporting.as_markdown import check_as_markdown

        text = check_as_markdown(result)
    else:
        from fieldstick.reporting.page import check_as_page

        text = check_as_page(result, runs, when=f"Checked on {dt.datetime.now().astimezone():%Y-%m-%d at %H:%M}")
    if to is None or to == "-":
        print_text(text)
    else:
        write_whole(to, text)
        say(f"Written: {to}")
    return EXIT_PASSED if result.all_well else EXIT_FAILED


def _runs(database: str | None) -> list[RunFigures]:
    if database is None:
        return []
    from fieldstick.comparing.history import History

    return History(database).runs(MOST_RUNS)
