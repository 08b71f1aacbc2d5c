"""`keep`: a draft kept as a named pattern of a suite."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import click

from fieldstick.engines.protocol import FLAGS, REACHES
from fieldstick.errors import UsageError
from fieldstick.suites.editing import edit, with_pattern
from fieldstick.suites.loader import part_scope
from fieldstick.suites.parts import PartError, fill
from fieldstick.syntax.parser import parse
from fieldstick.syntax.scan import NAME


@click.command(short_help="Keep a draft as a named pattern of a suite.")
@click.argument("name")
@click.argument("expression")
@click.option("--suite", "suite_file", required=True, metavar="FILE", help="The suite file to keep it in.")
@click.option("--reach", type=click.Choice(REACHES), help="Where a match may lie.")
@click.option("--flag", "flags", multiple=True, type=click.Choice(FLAGS), help="A flag. Repeatable.")
@click.option("--about", default="", help="What the pattern is for.")
@click.option("--message", default="", help="For whoever types a value that does not fit.")
@click.option("--parts", is_flag=True, help="Put the suite's parts in where the draft spells one out.")
def command(
    name: str,
    expression: str,
    suite_file: str,
    reach: str | None,
    flags: tuple[str, ...],
    about: str,
    message: str,
    parts: bool,
) -> None:
    """Add EXPRESSION to a suite as the pattern NAME. Comments and order of the file stay as they are."""
    if not re.fullmatch(NAME, name):
        raise UsageError(f"'{name}' is not a name: use letters, digits, - and _, a letter first")
    scope = part_scope(suite_file)
    found = _spelled_out(expression, dict(scope.parts))
    if parts:
        for part, text in found:
            expression = expression.replace(text, f"{{{{{part}}}}}")
    try:
        parse(fill(expression, scope, verbose="verbose" in flags).text({}), frozenset(flags))
    except PartError as error:
        raise UsageError(str(error)) from None
    table: dict[str, Any] = {"about": about, "expression": expression, "reach": reach, "flags": list(flags)}
    table["message"] = message
    path = Path(suite_file)
    given = {key: value for key, value in table.items() if value}
    edit(path, lambda document: with_pattern(document, name, given))
    click.echo(f"Kept {name} in {suite_file}: {expression}")
    if found and not parts:
        for part, text in found:
            click.echo(f"It spells the part '{part}' out ({text}); --parts puts {{{{{part}}}}} there.")
    click.echo(f"Next: fieldstick sample {suite_file}:{name} --positive TEXT")


def _spelled_out(expression: str, parts: dict[str, str]) -> list[tuple[str, str]]:
    """Return the parts whose text stands in the expression, the longest first, each long enough to be no chance."""
    found = [(name, text) for name, text in parts.items() if len(text) >= 4 and text in expression]
    return sorted(found, key=lambda each: -len(each[1]))
