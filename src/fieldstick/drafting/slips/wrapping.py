"""Expressions pasted with what encloses them elsewhere: delimiters and flags, quotes, backslashes twice, a layout."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from msgspec.structs import replace

from fieldstick.drafting.context import Proposal
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import MatchCase, RepairContext

_DELIMITED = compiled_later(r"(?:m|qr)?([/~#!@%|])(?P<inner>.+)\1(?P<flags>[a-zA-Z]*)", re.DOTALL)
_PAIRED = compiled_later(r"(?:m|qr)([({\[<])(?P<inner>.+)([)}\]>])(?P<flags>[a-zA-Z]*)", re.DOTALL)
_CLOSING = {"(": ")", "{": "}", "[": "]", "<": ">"}
_SUBSTITUTED = compiled_later(r"s([/~#!@%|])(?P<inner>.+?)(?<!\\)\1(?:.*\1(?P<flags>[gimsxe]*))?", re.DOTALL)
_QUOTED = compiled_later(r"(?:[rRuUbBfF]{0,2}|[@$])(\"{3}|'{3}|\"|'|`)(?P<inner>.+)\1", re.DOTALL)
_CALL = compiled_later(r"[A-Za-z_][\w.]*\([rRuUbB]{0,2}(\"|'|`)(?P<inner>.+)\1[^()\"']*\)?;?", re.DOTALL)
_FLAGS = {"i": "ignore-case", "m": "multiline", "s": "dotall", "x": "verbose"}
_LAYOUT = compiled_later(r"\s{2,}|\n|(?<!\\)\s#\s|^\s|\s$")


def unwrapped(case: MatchCase) -> Iterator[Proposal]:
    """Without delimiters and the flags after them, quotes, or doubled backslashes."""
    expression = case.expression
    delimited = _DELIMITED.fullmatch(expression) or _in_brackets(expression)
    if (
        delimited is not None
        and not case.text.startswith(delimited[1])
        and set(delimited["flags"]) <= {*_FLAGS, "g", "u", "y", "v", "U"}
    ):
        flags = _with_flags(case, delimited["flags"])
        inner = delimited["inner"]
        if delimited[1] not in _CLOSING:
            inner = inner.replace("\\" + delimited[1], delimited[1])
        outside = f"{delimited[1]}…{_CLOSING.get(delimited[1], delimited[1])}{delimited['flags']}"
        named = f" (flag {', '.join(sorted(flags - case.flags))})" if flags != case.flags else ""
        words = f"{outside} encloses an expression in another language, and is no part of it{named}: {inner}"
        yield Proposal(replace(case, expression=inner, flags=flags), words, 0.4)
    substituted = _SUBSTITUTED.fullmatch(expression)
    if substituted is not None and not case.text.startswith("s" + substituted[1]):
        flags = _with_flags(case, substituted["flags"] or "")
        words = f"what is put in its place is no part of the expression: {substituted['inner']}"
        yield Proposal(replace(case, expression=substituted["inner"], flags=flags), words, 0.4)
    # A quote is escaped in some programs.
    quoted = _QUOTED.fullmatch(expression.replace('\\"', '"')) or _CALL.fullmatch(expression)
    if quoted is not None and not case.text.startswith(quoted[1]):
        words = f"the quotes are those of a program, and no part of the expression: {quoted['inner']}"
        bare = replace(case, expression=quoted["inner"])
        yield Proposal(bare, words, 0.4)
        yield from undoubled(bare, 0.42)
    yield from undoubled(case, 0.6)


def _in_brackets(expression: str) -> re.Match[str] | None:
    """Return what stands in brackets behind the letters by which some languages begin an expression."""
    found = _PAIRED.fullmatch(expression)
    return found if found is not None and found[3] == _CLOSING[found[1]] else None


def _with_flags(case: MatchCase, letters: str) -> frozenset[str]:
    """Return the flags of a case and those that letters after a delimiter stand for."""
    return case.flags | {_FLAGS[each] for each in letters if each in _FLAGS}


def undoubled(case: MatchCase, cost: float) -> Iterator[Proposal]:
    """With single backslashes, where some are doubled."""
    if "\\\\" in case.expression:
        single = case.expression.replace("\\\\", "\\")
        words = f"each backslash is doubled, as a program's text has it: {single}"
        yield Proposal(replace(case, expression=single), words, cost)


def laid_out(case: MatchCase) -> Iterator[Proposal]:
    """Over lines, with comments, as the flag verbose has it."""
    if "verbose" not in case.flags and _LAYOUT.search(case.expression):
        words = "blanks and comments in the expression are its layout (flag verbose)"
        # One blank at an edge is no layout.
        cost = 0.85 if _LAYOUT.search(case.expression.strip()) else 1.5
        yield Proposal(replace(case, flags=case.flags | {"verbose"}), words, cost)


def enclosed(context: RepairContext) -> Iterator[Proposal]:
    """See `unwrapped` and `laid_out`."""
    yield from unwrapped(context.case)
    yield from laid_out(context.case)


RULES = (enclosed,)
