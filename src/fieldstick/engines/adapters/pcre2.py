"""The engine PCRE2 by a binding that brings the library along. Texts are Unicode; `u` among the flags asks for UCP."""

from __future__ import annotations

from typing import TYPE_CHECKING

import pcre2

from fieldstick.engines.adapters.adapter import LikePython, Refused

if TYPE_CHECKING:
    from fieldstick.engines.adapters.adapter import Spans
    from fieldstick.engines.places import Unit

_Option = pcre2._cy.CompileOption
_FLAGS = {"i": _Option.CASELESS, "m": _Option.MULTILINE, "s": _Option.DOTALL, "x": _Option.EXTENDED}


class Expression(LikePython):
    """See `adapter.Expression`."""

    def _spans_of(self, found: pcre2.Match) -> Spans:
        # Asked for by bytes, a place is not counted from where the text begins.
        data, groups = found._pcre2_match_data, range(len(self.names) + 1)
        return [pcre2._cy.match_substring_span_bynumber(data, b"", group) for group in groups]


class Adapter:
    """See `adapter.Adapter`; a subclass asks for Unicode properties."""

    version = pcre2.__libpcre2_version__
    unit: Unit = "bytes"
    unicode_properties = False

    def compile(self, expression: str, flags: frozenset[str]) -> Expression:
        """See `adapter.Adapter`."""
        bits = int(_Option.UTF)
        for flag in flags - {"a"}:
            bits |= int(_FLAGS[flag])
        if self.unicode_properties and "a" not in flags:
            bits |= int(_Option.UCP)
        try:
            # The binding sets options of its own, so that escapes are read as JavaScript has them; the library's
            # defaults are what everybody else meets.
            code = pcre2._cy.compile(expression, bits, 0xFFFFFFFF & ~bits)
            return Expression(pcre2.Pattern(code, expression, bits, False, None))
        except pcre2.PatternError as error:
            raise Refused(error.msg.partition("; ")[2], len(expression[: error.pos].encode())) from None
