"""Prints plain data as JSON, and tells the form of what is written to a file by its ending."""

from __future__ import annotations

import os
from typing import TYPE_CHECKING, Any

import click

from fieldstick.errors import UsageError, hint

if TYPE_CHECKING:
    from collections.abc import Mapping


def print_json(data: Any) -> None:
    """Print data as JSON in ASCII."""
    import json

    click.echo(json.dumps(data, indent=1))


def form_told(form: str | None, to: str | None, endings: Mapping[str, str], default: str) -> str:
    """Return the form that is asked for, or that the ending of a file tells; else the usual one.

    Raises UsageError for an ending that tells none.
    """
    ending = os.path.splitext(to)[1].lower() if to is not None else ""
    if form is not None or not ending:
        return form or default
    if ending not in endings:
        raise UsageError(f"'{ending}' tells no form{hint(ending, endings)}; choose one with --format")
    return endings[ending]
