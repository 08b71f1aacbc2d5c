"""A pattern as a schema or form has it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct

if TYPE_CHECKING:
    from fieldstick.engines.protocol import Reach


class Taken(Struct, frozen=True):
    """A pattern as its standard means it, at a place of its file: a JSON Pointer (RFC 6901), or a line.

    `left` are the constraints beside it that an expression does not say; `examples` are texts that are said to fit.
    """

    name: str
    place: str
    expression: str
    engine: str
    reach: Reach
    about: str = ""
    message: str = ""
    examples: tuple[str, ...] = ()
    left: tuple[str, ...] = ()
