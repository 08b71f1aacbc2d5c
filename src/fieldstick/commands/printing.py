"""Prints plain data as JSON."""

from __future__ import annotations

from typing import Any

import click


def print_json(data: Any) -> None:
    """Print data as JSON in ASCII."""
    import json

    click.echo(json.dumps(data, indent=1))
