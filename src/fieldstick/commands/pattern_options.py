"""The words of a pattern, the same for every command that takes one."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import click

from fieldstick.commands.option_groups import collecting, heading, option
from fieldstick.engines.protocol import FLAGS, REACHES
from fieldstick.lean import compiled_later
from fieldstick.suites.fieldtypes import TYPES
from fieldstick.suites.overrides import Overrides, pairs

if TYPE_CHECKING:
    from fieldstick.commands.option_groups import Decorator
    from fieldstick.engines.protocol import Take


class TakeType(click.ParamType):  # type: ignore[type-arg]
    """`first`, `last`, `all`, or a number other than 0."""

    name = "take"

    def convert(self, value: object, param: click.Parameter | None, ctx: click.Context | None) -> Take:
        """Read a take."""
        text = str(value)
        if text == "first" or text == "last" or text == "all":
            return text  # type: ignore[return-value]
        if _NUMBER.fullmatch(text):
            return int(text)
        return self.fail(f"{text} is no take; choose first, last, all, or a number but 0", param, ctx)


_NUMBER = compiled_later("-?0*[1-9][0-9]{0,8}")
"""No text has as many matches as a number of ten digits says."""

PATTERN_HEADING = heading("The pattern")


def _one_expression(context: click.Context, parameter: click.Parameter, given: tuple[str, ...]) -> str | None:
    """Return the expression; a second one would be dropped without a word."""
    if len(given) > 1:
        raise click.UsageError("-e is given twice; give one expression, with | between what it may be", context)
    return given[0] if given else None


_EXPRESSION = option(
    "-e",
    "expression",
    multiple=True,
    callback=_one_expression,
    metavar="EXPRESSION",
    help="An expression instead of a pattern.",
)
_EXPRESSIONS = option(
    "-e",
    "expressions",
    multiple=True,
    metavar="EXPRESSION",
    help="An expression instead of a pattern.  Twice: the older, the newer.",
)
_REACH = option("--reach", type=click.Choice(REACHES), help="Where a match may lie.  [default: whole, or as kept]")
_TAKE = option("--take", type=TakeType(), metavar="TAKE", help="first, last, all, or a number.  [default: as kept]")
_FLAGS = option("--flag", "flags", multiple=True, type=click.Choice(FLAGS), help="A flag. Repeatable.")
_SUITE = option("--suite", "suite_file", metavar="SUITE", help="The suite whose parts {{name}} an expression uses.")
PARAMETERS = option(
    "--parameter", "parameters", multiple=True, metavar="NAME=VALUE", help="A parameter's value. Repeatable."
)
_FIELDS = (
    option(
        "--field",
        "fields",
        multiple=True,
        metavar="NAME=TYPE",
        help=f"A field's type: {', '.join(TYPES)}; date:LAYOUT as in date:%d.%m.%Y. Repeatable.",
    ),
    option("--decimal-mark", metavar="C", help="The decimal mark of fields that name none."),
    option("--group-mark", metavar="C", help="The mark between groups of three digits."),
)


def _overrides(given: dict[str, Any]) -> dict[str, Any]:
    """Take the words of a pattern out of what was given, and put what they override in their place."""
    overrides = Overrides(
        reach=given.pop("reach", None),
        take=given.pop("take", None),
        flags=given.pop("flags", ()),
        suite_file=given.pop("suite_file", None),
        parameters=pairs(given.pop("parameters", ()), "--parameter"),
        fields=pairs(given.pop("fields", ()), "--field", "TYPE"),
        decimal_mark=given.pop("decimal_mark", None),
        group_mark=given.pop("group_mark", None),
    )
    return given | {"overrides": overrides}


def _kept_take(given: dict[str, Any]) -> dict[str, Any]:
    take = given.pop("take", None)
    return _overrides(given) | {"take": take}


pattern_options: Decorator = collecting(
    (PATTERN_HEADING, _EXPRESSION, _REACH, _TAKE, _FLAGS, _SUITE, PARAMETERS, *_FIELDS), _overrides
)
"""Adds the options that say how a pattern reads; the command takes `overrides` and `expression`."""

pattern_options_without_take: Decorator = collecting(
    (PATTERN_HEADING, _EXPRESSION, _REACH, _FLAGS, _SUITE, PARAMETERS, *_FIELDS), _kept_take
)
"""Adds the same but --take, where that says something else."""

draft_options: Decorator = collecting((PATTERN_HEADING, _EXPRESSION, _REACH, _TAKE, _FLAGS, *_FIELDS), _overrides)
"""Adds those that say how an expression that is to be kept reads."""

expressions_options: Decorator = collecting(
    (PATTERN_HEADING, _EXPRESSIONS, _REACH, _TAKE, _FLAGS, _SUITE, PARAMETERS, *_FIELDS), _overrides
)
"""Adds the same where several expressions may stand; the command takes `overrides` and `expressions`."""
