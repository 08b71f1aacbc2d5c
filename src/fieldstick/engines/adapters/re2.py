"""The engine RE2, by Google's own binding."""

from __future__ import annotations

from importlib.metadata import version
from typing import TYPE_CHECKING

import re2

from fieldstick.engines.adapters.adapter import LikePython, Refused

if TYPE_CHECKING:
    from fieldstick.engines.places import Unit


class Adapter:
    """See `adapter.Adapter`."""

    version = version("google-re2")
    unit: Unit = "points"

    def compile(self, expression: str, flags: frozenset[str]) -> LikePython:
        """See `adapter.Adapter`."""
        options = re2.Options()
        options.log_errors = False
        options.case_sensitive = "i" not in flags
        options.dot_nl = "s" in flags
        try:
            # What the flag `ascii` asks for is all that it knows.
            return LikePython(re2.compile(f"(?m){expression}" if "m" in flags else expression, options))
        except re2.error as error:
            rule = error.args[0] if error.args else "refused"
            raise Refused(rule.decode("utf-8", "replace") if isinstance(rule, bytes) else str(rule)) from None
