"""The option value that says which of several matches counts."""

from __future__ import annotations

from typing import TYPE_CHECKING

import click

if TYPE_CHECKING:
    from fieldstick.engines.protocol import Take


class TakeType(click.ParamType):  # type: ignore[type-arg]
    """`first`, `last`, `all`, or a number other than 0."""

    name = "take"

    def convert(self, value: object, param: click.Parameter | None, ctx: click.Context | None) -> Take:
        """Read a take."""
        text = str(value)
        if text == "first" or text == "last" or text == "all":
            return text  # type: ignore[return-value]
        if text.lstrip("-").isdecimal() and int(text) != 0:
            return int(text)
        return self.fail(f"{text} is no take; choose first, last, all, or a number but 0", param, ctx)
