"""The engine of the package `regex`, in its version 0 of the notation."""

from __future__ import annotations

from importlib.metadata import version
from typing import TYPE_CHECKING

import regex

from fieldstick.engines.adapters.adapter import LikePython, Refused

if TYPE_CHECKING:
    from fieldstick.engines.places import Unit

_FLAGS = {"i": regex.IGNORECASE, "m": regex.MULTILINE, "s": regex.DOTALL, "x": regex.VERBOSE, "a": regex.ASCII}


class Adapter:
    """See `adapter.Adapter`."""

    version = version("regex")
    unit: Unit = "points"

    def compile(self, expression: str, flags: frozenset[str]) -> LikePython:
        """See `adapter.Adapter`."""
        bits = regex.VERSION0
        for flag in flags:
            bits |= _FLAGS[flag]
        try:
            return LikePython(regex.compile(expression, bits))
        except regex.error as error:
            raise Refused(error.msg, error.pos if error.pos is not None else -1) from None
        except (RecursionError, OverflowError, ValueError) as error:
            raise Refused(str(error)) from None
