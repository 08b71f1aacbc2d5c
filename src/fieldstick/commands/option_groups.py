"""Options under headings, and those that several commands share, handed over as one thing.

The add-on that draws headings is loaded when somebody asks for help, and not before.
"""

from __future__ import annotations

import functools
from collections.abc import Callable
from typing import TYPE_CHECKING, Any

import click
from msgspec import Struct

from fieldstick.engines.budget import MOST_SPENT, be_patient

if TYPE_CHECKING:
    from collections.abc import Sequence

    from click.parser import _OptionParser

Decorator = Callable[[Callable[..., Any]], Callable[..., Any]]

_NOTED = "__options__"
"""The attribute of a function that holds what is noted for its command, in the order of the help."""


class _Noted(Struct, frozen=True):
    """An option, by its names and settings; or, without settings, a heading."""

    names: tuple[str, ...]
    settings: dict[str, Any] | None


def _noting(noted: _Noted) -> Decorator:
    def decorate(function: Callable[..., Any]) -> Callable[..., Any]:
        setattr(function, _NOTED, [noted, *getattr(function, _NOTED, [])])
        return function

    return decorate


def option(*names: str, **settings: Any) -> Decorator:
    """Return a decorator that adds an option, with the settings that Click gives one."""
    return _noting(_Noted(names, settings))


def heading(title: str) -> Decorator:
    """Return a decorator that puts the options below it under a heading of the help."""
    return _noting(_Noted((title,), None))


def command(*, short_help: str) -> Callable[[Callable[..., Any]], click.Command]:
    """Return a decorator that makes a function, with its options under their headings, a command."""

    def decorate(function: Callable[..., Any]) -> click.Command:
        noted: list[_Noted] = getattr(function, _NOTED, [])
        made = function
        for each in reversed(noted):
            if each.settings is not None:
                made = click.option(*each.names, **each.settings)(made)
        found = click.command(cls=HeadedCommand, short_help=short_help)(made)
        found.noted = noted
        return found

    return decorate


class HeadedCommand(click.Command):
    """A command whose help shows its options under headings."""

    noted: Sequence[_Noted] = ()

    def make_parser(self, ctx: click.Context) -> _OptionParser:
        """Return what reads the arguments.

        Click's takes a short option for a long one first, and looks for long ones like it, which takes as long as all
        its other work, only to forget them: what is short is told to be no long one at once.
        """
        parser = super().make_parser(ctx)
        long = getattr(parser, "_match_long_opt", None)
        if long is not None:

            def matched(name: str, *given: Any) -> None:
                if not name.startswith("--") and name not in parser._long_opt:
                    raise click.NoSuchOption(name, ctx=ctx)
                long(name, *given)

            parser._match_long_opt = matched  # type: ignore[assignment]
        return parser

    def format_options(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        """Write the options as the add-on for option groups does."""
        from click_option_group import optgroup

        def stub(**_: Any) -> None:
            """Stand in for the command: only its options are asked for."""

        made: Any = stub
        for each in reversed(self.noted):
            own = optgroup.group if each.settings is None else optgroup.option
            made = own(*each.names, **(each.settings or {}))(made)
        shown = click.command()(made)
        shown.format_options(click.Context(shown, ctx.parent, help_option_names=ctx.help_option_names), formatter)


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


def _set_patience(context: click.Context, parameter: click.Parameter, patient: bool) -> None:
    be_patient(None if patient else MOST_SPENT)


patient_option = option(
    "--patient",
    is_flag=True,
    expose_value=False,
    callback=_set_patience,
    help=f"Go on after {MOST_SPENT} texts that took longer than their budget.",
)
"""Adds --patient; without it, work on data stops when that many texts spent their budget."""


def show_option(what: str, default: int) -> Decorator:
    """Return what adds --show N."""
    return option(
        "--show", type=click.IntRange(min=0), default=default, show_default=True, metavar="N", help=f"{what} to show."
    )
