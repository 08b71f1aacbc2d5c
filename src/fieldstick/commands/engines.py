"""`engines`: which engines are usable here, how to get the others, and what each one lacks."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from typing import TYPE_CHECKING

import click
from msgspec import to_builtins

from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, json_option
from fieldstick.commands.printing import print_json
from fieldstick.engines.registry import BY_NAME, ENGINES, engine_named
from fieldstick.errors import EXIT_ENGINE, EXIT_PASSED, EngineUnusable
from fieldstick.reporting.engines_list import Standing, engines_list, one_engine
from fieldstick.reporting.terminal import Terminal

if TYPE_CHECKING:
    from collections.abc import Sequence


@headed_command(short_help="List the engines that patterns can run on, and what each lacks.")
@click.argument("names", nargs=-1, metavar="[ENGINE]...")
@heading("What is written")
@json_option
def command(names: tuple[str, ...], form: str) -> int:
    """List the engines that patterns can run on: those usable here with their versions, and how to get the others.

    With ENGINE, all that is known of each is told: where it comes from, how it keeps a text's budget, what it lacks.

    Exit status: 0, or 3 when an ENGINE that was named is not usable here.
    """
    for name in names:
        if name not in BY_NAME:
            engine_named(name)
    standings = standings_of(names or tuple(BY_NAME))
    if form == "json":
        print_json(
            [
                to_builtins(each.info)
                | {
                    "version": each.version,
                    "unusable": each.why,
                    "lacking": [construct.key for construct in each.lacking],
                }
                for each in standings
            ]
        )
    elif names:
        for each in standings:
            Terminal.of().show(one_engine(each))
    else:
        Terminal.of().show(engines_list(standings))
    return EXIT_ENGINE if names and any(each.version is None for each in standings) else EXIT_PASSED


def standings_of(names: Sequence[str]) -> list[Standing]:
    """Ask each engine for its version, several at a time: most have a process to start."""
    with ThreadPoolExecutor(4) as pool:
        return list(pool.map(_standing, names))


def _standing(name: str) -> Standing:
    info = next(each for each in ENGINES if each.name == name)
    try:
        return Standing(info, engine_named(name).version())
    except EngineUnusable as error:
        return Standing(info, None, error.why)
