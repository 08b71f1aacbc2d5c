"""`new`: a starter suite."""

from __future__ import annotations

import os
from pathlib import Path
from typing import TYPE_CHECKING

import click

from fieldstick.commands.saying import tell
from fieldstick.errors import UsageError
from fieldstick.files import locked, write_whole
from fieldstick.suites.editing import checked_name
from fieldstick.suites.finding import ENDING
from fieldstick.suites.starter import empty_suite, starter_suite

if TYPE_CHECKING:
    from collections.abc import Callable


@click.command(short_help="Start a suite: a file that already checks clean.")
@click.argument("name")
@click.option("--empty", is_flag=True, help="Write the head of a suite alone, without an example.")
def command(name: str, empty: bool) -> None:
    """Write NAME.suite.toml, a commented starter suite that already checks clean.

    NAME may lead into a folder that is there, as in suites/loggers. A file that is there is never overwritten.
    """
    target = Path(name.removesuffix(ENDING) + ENDING)
    write_new(target, empty_suite if empty else starter_suite)
    after = f"fieldstick keep NAME EXPRESSION --suite {target}" if empty else f"fieldstick check {target}"
    tell(f"Wrote {target}. Next: {after}")


def write_new(target: Path, content: Callable[[str], str]) -> None:
    """Write a suite file that is not there yet, its text made for the name it has.

    Raises UsageError for a name that a suite cannot have, a file that is there, and one that cannot be written.
    """
    suite_name = checked_name(target.name.removesuffix(ENDING))
    with locked(target):
        if os.path.lexists(target):
            raise UsageError(f"{target} is there already; nothing was written")
        write_whole(target, content(suite_name))
