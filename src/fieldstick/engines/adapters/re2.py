"""The engine RE2, by Google's own binding."""

from __future__ import annotations

from importlib.metadata import version
from itertools import groupby
from typing import TYPE_CHECKING, Any

import re2

from fieldstick.engines.adapters.adapter import LikePython, Refused

if TYPE_CHECKING:
    from collections.abc import Iterable

    from fieldstick.engines.places import Unit


class Expression(LikePython):
    """See `adapter.Expression`."""

    def _each(self, text: str) -> Iterable[Any]:
        # The binding gives a match of nothing twice that does not lie where it was looked for from.
        return (next(same) for _, same in groupby(self._compiled.finditer(text), key=lambda found: found.span()))


class Adapter:
    """See `adapter.Adapter`."""

    version = version("google-re2")
    unit: Unit = "points"

    def compile(self, expression: str, flags: frozenset[str]) -> Expression:
        """See `adapter.Adapter`."""
        options = re2.Options()
        options.log_errors = False
        options.case_sensitive = "i" not in flags
        options.dot_nl = "s" in flags
        try:
            # What the flag `ascii` asks for is all that it knows.
            return Expression(re2.compile(f"(?m){expression}" if "m" in flags else expression, options))
        except re2.error as error:
            rule = error.args[0] if error.args else "refused"
            raise Refused(rule.decode("utf-8", "replace") if isinstance(rule, bytes) else str(rule)) from None
