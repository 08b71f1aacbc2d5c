"""The engine PCRE2 by a binding that brings the library along. Texts are Unicode; `u` among the flags asks for UCP."""

from __future__ import annotations

from typing import TYPE_CHECKING

import pcre2

from fieldstick.engines.adapters.adapter import LikePython, Refused

if TYPE_CHECKING:
    from fieldstick.engines.places import Unit

_FLAGS = {"i": pcre2.IGNORECASE, "m": pcre2.MULTILINE, "s": pcre2.DOTALL, "x": pcre2.VERBOSE}


class Adapter:
    """See `adapter.Adapter`; a subclass asks for Unicode properties."""

    version = pcre2.__libpcre2_version__
    unit: Unit = "points"
    unicode_properties = False

    def compile(self, expression: str, flags: frozenset[str]) -> LikePython:
        """See `adapter.Adapter`."""
        bits = pcre2.NOFLAG
        for flag in flags - {"a"}:
            bits |= _FLAGS[flag]
        if not self.unicode_properties or "a" in flags:
            bits |= pcre2.ASCII
        try:
            return LikePython(pcre2.compile(expression, bits, jit=False))
        except pcre2.PatternError as error:
            raise Refused(error.msg.partition("; ")[2], error.pos) from None
