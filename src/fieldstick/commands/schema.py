"""`schema`: the JSON Schema of the suite file."""

from __future__ import annotations

import json

import click

from fieldstick.operations import SECTIONS
from fieldstick.suites.sections import json_schema


@click.command(short_help="Print the JSON Schema of the suite file, for editors.")
def command() -> None:
    """Print the JSON Schema (draft 2020-12) of the suite file.

    Save it and point your editor's TOML support at it: the editor then completes keys and marks mistakes.
    """
    click.echo(json.dumps(json_schema(SECTIONS), indent=2))
