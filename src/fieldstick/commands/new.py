"""`new`: a starter suite."""

from __future__ import annotations

import re
from pathlib import Path

import click

from fieldstick.commands.rendering import tell
from fieldstick.errors import UsageError
from fieldstick.suites.finding import ENDING
from fieldstick.suites.starter import starter_suite
from fieldstick.syntax.scan import NAME


@click.command(short_help="Start a suite: a file that already checks clean.")
@click.argument("name")
def command(name: str) -> None:
    """Write NAME.suite.toml, a commented starter suite that already checks clean.

    NAME may lead into a folder that is there, as in suites/loggers. A file that is there is never overwritten.
    """
    target = Path(name.removesuffix(ENDING) + ENDING)
    suite_name = target.name.removesuffix(ENDING)
    if not re.fullmatch(NAME, suite_name):
        raise UsageError(f"'{suite_name}' is not a name: use letters, digits, - and _, a letter first")
    try:
        with target.open("x", encoding="utf-8", newline="\n") as stream:
            stream.write(starter_suite(suite_name))
    except FileExistsError:
        raise UsageError(f"{target} is there already; nothing was written") from None
    except OSError as error:
        raise UsageError(f"{target} cannot be written: {error.strerror or error}") from None
    tell(f"Wrote {target}. Next: fieldstick check {target}")
