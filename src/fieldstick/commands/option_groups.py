"""Options that several commands share, added under headings and handed over as one thing."""

from __future__ import annotations

import functools
from collections.abc import Callable
from typing import TYPE_CHECKING, Any

import click
from click_option_group import optgroup

if TYPE_CHECKING:
    from collections.abc import Sequence

Decorator = Callable[[Callable[..., Any]], Callable[..., Any]]

option = optgroup.option


def heading(title: str) -> Decorator:
    """Return a decorator that puts the options below it under a heading of the help."""
    made: Decorator = optgroup.group(title)
    return made


def collecting(options: Sequence[Decorator], collect: Callable[[dict[str, Any]], dict[str, Any]]) -> Decorator:
    """Return a decorator that adds options and hands what they give to the command as one thing."""

    def decorate(function: Callable[..., Any]) -> Callable[..., Any]:
        @functools.wraps(function)
        def wrapped(*arguments: Any, **given: Any) -> Any:
            return function(*arguments, **collect(given))

        added: Callable[..., Any] = wrapped
        for each in reversed(options):
            added = each(added)
        return added

    return decorate


json_option = option(
    "--format", "form", type=click.Choice(["text", "json"]), default="text", show_default=True, help="What to print."
)
"""Adds --format text|json."""

jobs_option = option(
    "--jobs",
    type=click.IntRange(min=1),
    metavar="N",
    help="Work in N processes.  [default: one for each core, where there is much to read]",
)


def show_option(what: str, default: int) -> Decorator:
    """Return what adds --show N."""
    made: Decorator = option(
        "--show", type=click.IntRange(min=0), default=default, show_default=True, metavar="N", help=f"{what} to show."
    )
    return made
