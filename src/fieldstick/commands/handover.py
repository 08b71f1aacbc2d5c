"""`handover`: the pattern for the program or form where it will run."""

from __future__ import annotations

from typing import TYPE_CHECKING

import click

from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, option
from fieldstick.commands.pattern_options import pattern_options
from fieldstick.commands.saying import print_text, say
from fieldstick.engines.registry import engine_named
from fieldstick.errors import UsageError
from fieldstick.files import write_whole
from fieldstick.handover.handing import handed
from fieldstick.handover.literals import LITERALS
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    from fieldstick.suites.overrides import Overrides


@headed_command(short_help="Write the pattern for the program where it will run.")
@click.argument("what", required=False, metavar="EXPRESSION|SUITE:PATTERN")
@pattern_options
@heading("What is written")
@option("--as", "kind", type=click.Choice(sorted(LITERALS)), required=True, help="What to write it as.")
@option("--engine", metavar="E", help="The engine that reads it there, where that is not the language's usual one.")
@option("--to", metavar="FILE", help="Write it to FILE.  [default: standard output]")
def command(
    what: str | None, expression: str | None, overrides: Overrides, kind: str, engine: str | None, to: str | None
) -> None:
    """Write a pattern as a literal of a language, quoted exactly: its expression is first written for the engine that
    reads it there, so that it means the same, and tried on that engine with the pattern's samples.

    What an expression cannot carry, a reach, a typed bound, a take, is named on standard error.
    """
    chosen = Workspace().pattern(what, overrides, expression=expression)
    if chosen.pattern.combination is not None:
        raise UsageError("a pattern made of patterns is no one expression; hand its members over")
    if engine is not None:
        engine_named(engine)
    found = handed(chosen.pattern, chosen.expression, kind, engine)
    if to is None or to == "-":
        print_text(found.text + "\n")
    else:
        write_whole(to, found.text + "\n")
    for words in (*found.left, found.tried):
        say(words)
