"""The standard library's engine, the default."""

from __future__ import annotations

import re
import warnings
from itertools import islice
from typing import TYPE_CHECKING

from fieldstick.engines import memory
from fieldstick.engines.budget import run_within, timer_usable
from fieldstick.errors import EngineFailure, ExpressionError

if TYPE_CHECKING:
    from collections.abc import Callable

    from fieldstick.engines.protocol import Reach, Spans

NAME = "python"

_FLAGS = {
    "ignore-case": re.IGNORECASE,
    "multiline": re.MULTILINE,
    "dotall": re.DOTALL,
    "verbose": re.VERBOSE,
    "ascii": re.ASCII,
}

TIMER_TEXT_LIMIT = 4000
"""Code points up to which the timer stops a match promptly.

The engine looks for signals every 4,096 steps, and a step may run over the whole text once: in a text this
long that is some 16 million characters, a hundredth of a second. Longer texts go to the helper process.
"""


class PythonCompiled:
    """An expression compiled by the standard library's engine."""

    __slots__ = ("_expression", "group_names")

    def __init__(self, expression: re.Pattern[str]) -> None:
        self._expression = expression
        names = {number: name for name, number in expression.groupindex.items()}
        self.group_names = tuple(names.get(number, str(number)) for number in range(1, expression.groups + 1))

    def matches(self, text: str, reach: Reach, budget_ms: int, wanted: int | None) -> list[Spans]:
        """Return the matches in order; see `Compiled.matches`."""
        try:
            if len(text) > TIMER_TEXT_LIMIT or not timer_usable():
                return self._matches_in_helper(text, reach, budget_ms, wanted)
            if reach == "anywhere" and wanted != 1:
                return run_within(budget_ms, self._several, text, wanted)
            found = run_within(budget_ms, self._method(reach), text)
        except MemoryError:
            raise EngineFailure(f"the engine asked for more than {memory.MOST >> 20:,} MB of memory here") from None
        except (SystemError, RuntimeError) as error:
            # Possessive repeats of Python 3.11 can end so.
            raise EngineFailure(f"the engine broke down on this text: {error}") from None
        return [found.regs] if found else []

    def first_match(self, reach: Reach) -> Callable[[str], re.Match[str] | None]:
        """Return the engine's own method for the first match, for bulk work that keeps the budget itself."""
        return self._method(reach)

    @property
    def expression(self) -> str:
        """The expression as the engine was given it."""
        return self._expression.pattern

    def _method(self, reach: Reach) -> Callable[[str], re.Match[str] | None]:
        if reach == "whole":
            return self._expression.fullmatch
        return self._expression.match if reach == "start" else self._expression.search

    def _several(self, text: str, wanted: int | None) -> list[Spans]:
        return [found.regs for found in islice(self._expression.finditer(text), wanted)]

    def _matches_in_helper(self, text: str, reach: Reach, budget_ms: int, wanted: int | None) -> list[Spans]:
        from fieldstick.engines.helper import matches_in_helper

        request = (self._expression.pattern, self._expression.flags, text, reach, wanted)
        return matches_in_helper(request, budget_ms)


def flag_bits(flags: frozenset[str]) -> int:
    """Return the engine's own flags for those of a pattern."""
    bits = 0
    for flag in flags:
        bits |= int(_FLAGS[flag])
    return bits


class PythonEngine:
    """Compiles expressions for the standard library's engine."""

    name = NAME

    def version(self) -> str:
        """See `Engine.version`."""
        import platform

        return f"Python {platform.python_version()}"

    def compile(self, expression: str, flags: frozenset[str]) -> PythonCompiled:
        """Compile `expression`; see `Engine.compile`."""
        bits = flag_bits(flags)
        try:
            with warnings.catch_warnings():
                warnings.simplefilter("ignore")
                return PythonCompiled(re.compile(expression, bits))
        except re.error as error:
            raise ExpressionError(error.msg, error.pos, given=(expression, flags)) from None
        except RecursionError:
            raise ExpressionError("groups are nested too deeply for this engine", None) from None
        except (OverflowError, MemoryError, ValueError) as error:
            raise ExpressionError(str(error) or "too large for this engine", None) from None


ENGINE = PythonEngine()
