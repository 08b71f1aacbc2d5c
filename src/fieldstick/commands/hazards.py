"""`hazards`: what is likely to bite later, in whole suites."""

from __future__ import annotations

from typing import TYPE_CHECKING

import click

from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, option
from fieldstick.commands.printing import form_told
from fieldstick.commands.saying import print_text
from fieldstick.engines.registry import engine_named
from fieldstick.errors import EXIT_FAILED, EXIT_PASSED
from fieldstick.files import write_whole
from fieldstick.reporting.as_markdown import plain_lines
from fieldstick.reporting.as_sarif import findings_as_sarif
from fieldstick.reporting.suite_hazards_report import (
    findings_of_hazards,
    suite_hazards_as_json,
    suite_hazards_report,
)
from fieldstick.reporting.terminal import Terminal
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.runs.suite_hazards import SuiteHazards
    from fieldstick.suites.suite import Suite

FORMATS = ("text", "json", "sarif")
ENDINGS = {".txt": "text", ".json": "json", ".sarif": "sarif"}


@headed_command(short_help="Name what is likely to bite later, in whole suites.")
@click.argument("paths", nargs=-1, metavar="[PATH]...")
@heading("How")
@option("--engine", "engines", multiple=True, metavar="E", help="Look at it from this engine too. Repeatable.")
@heading("What is written")
@option(
    "--format", "form", type=click.Choice(FORMATS), help="What to write.  [default: as FILE's ending tells, or text]"
)
@option("--to", "to", metavar="FILE", help="Write it to FILE.  [default: standard output]")
def command(paths: tuple[str, ...], engines: tuple[str, ...], form: str | None, to: str | None) -> int:
    """Name every hazard of every pattern, part and route below each PATH (the current folder when none is given).

    Each has its file, line and column, the reason, a text that shows it, the remedy, and the samples that show it
    too. A pattern accepts one knowingly by 'allow = [{ hazard = "dot", note = "why" }]'; an allow that nothing needs
    any more is named. Of a pattern that names several engines it is told what each of them lacks or reads otherwise.

    Exit status: 0 none but accepted ones, 1 a hazard or an idle allow, 2 the command or a file is wrong.
    """
    form = form_told(form, to, ENDINGS, "text")
    workspace = Workspace()
    suites = workspace.suites(paths)
    found = workspace.hazards(suites, tuple(engine_named(each).name for each in engines))
    _write(found, suites, form, None if to == "-" else to)
    return EXIT_FAILED if found.open or found.idle else EXIT_PASSED


def _write(found: SuiteHazards, suites: Sequence[Suite], form: str, to: str | None) -> None:
    if form == "text" and to is None:
        Terminal.of().show(suite_hazards_report(found, suites))
        return
    if form == "json":
        text = suite_hazards_as_json(found)
    elif form == "sarif":
        text = findings_as_sarif(findings_of_hazards(found))
    else:
        text = "\n".join(plain_lines(suite_hazards_report(found, suites))) + "\n"
    if to is not None:
        write_whole(to, text)
    else:
        print_text(text)
