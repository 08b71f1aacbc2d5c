"""Prints plain data as JSON."""

from __future__ import annotations

import json
from typing import Any

import click


def print_json(data: Any) -> None:
    """Print data as JSON in ASCII."""
    click.echo(json.dumps(data, indent=1))
