"""`history`: how the figures of checks moved."""

from __future__ import annotations

import os
from typing import TYPE_CHECKING

import click

from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, option
from fieldstick.commands.saying import print_text
from fieldstick.errors import EXIT_PASSED, UsageError, hint
from fieldstick.suites.finding import split_address

if TYPE_CHECKING:
    from fieldstick.comparing.history import RunFigures

DATABASE_VARIABLE = "FIELDSTICK_DATABASE"


def named_database(given: str | None) -> str:
    """Return the database that is meant. Raises UsageError when none is named."""
    database = given or os.environ.get(DATABASE_VARIABLE)
    if not database:
        raise UsageError(f"name the database with --database, or in {DATABASE_VARIABLE}")
    return database


@headed_command(short_help="Show how the figures of checks moved.")
@click.argument("address", required=False, metavar="[SUITE[:PATTERN]]")
@heading("What is read")
@option(
    "--database",
    metavar="DATABASE",
    help=f"A SQLite file, or a PostgreSQL URL.  [default: {DATABASE_VARIABLE} of the environment]",
)
@option("--last", type=click.IntRange(min=1), default=40, show_default=True, metavar="N", help="The latest N runs.")
@heading("What is written")
@option(
    "--format", "form", type=click.Choice(["text", "json"]), default="text", show_default=True, help="What to print."
)
def command(address: str | None, database: str | None, last: int, form: str) -> int:
    """Show the runs that 'fieldstick check --record' kept: how many samples passed, what trials came to, the time.

    Of a suite, or of one pattern, alone where it is named.
    """
    from fieldstick.comparing.history import History

    history = History(named_database(database))
    runs = history.runs(last)
    if not runs:
        raise UsageError(f"no run is recorded in {history.shown}; 'fieldstick check --record' adds one")
    if address is not None:
        runs = _of(runs, address)
    if form == "json":
        from fieldstick.reporting.history_report import history_as_json

        print_text(history_as_json(runs))
        return EXIT_PASSED
    from fieldstick.reporting.history_report import history_report
    from fieldstick.reporting.terminal import Terminal

    terminal = Terminal.of()
    terminal.show(history_report(runs, address, can_draw=terminal.charset.can_show("▁█")))
    return EXIT_PASSED


def _of(runs: list[RunFigures], address: str) -> list[RunFigures]:
    suite, pattern = split_address(address)
    found = [narrowed for each in runs if (narrowed := each.of(suite, pattern)) is not None]
    if not found:
        patterns = [each for run in runs for each in run.patterns]
        known = {each.suite for each in patterns}
        if suite in known and pattern is not None:
            names = sorted({each.pattern for each in patterns if each.suite == suite})
            raise UsageError(f"no run recorded a pattern '{pattern}' of '{suite}'{hint(pattern, names)}")
        raise UsageError(f"no run recorded a suite '{suite}'{hint(suite, sorted(known))}")
    return found
