"""Spells what a backslash escapes: single characters, and what stands in quotes."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from fieldstick.drafting.proposals.pieces import Piece
from fieldstick.drafting.proposals.quoting import QUOTES, with_escapes
from fieldstick.drafting.proposals.spelling import FEW, amount_of, cases_of_base_16, members_of
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.drafting.proposals.pieces import AnyOrder, Choice

ESCAPE = "\\"
"""The mark that escapes."""

FEWEST_ESCAPES = 2
"""Texts with an escape from which on it is none by chance."""

FEWEST_OF_CASE = 6
"""Letters of one case from which on it is no chance that they are of one."""

_NUMBERED = compiled_later(r"\\([xuU])([0-9A-Fa-f]+)")
_OCTAL = compiled_later(r"\\[0-7]{1,3}")
_NAMED = compiled_later(r"\\([A-Z])\{[^{}]*\}")
_PLAIN = compiled_later(r"\\.", re.DOTALL)
_KNOWN = (_NUMBERED, _OCTAL, _NAMED, _PLAIN)

_KINDS = ("quoted", "gap", "word", "chunk")
"""Pieces in which something may be escaped."""

_ENCLOSING = QUOTES | {"/"}
"""Marks that end what may hold them escaped."""


def escaped_in(piece: Piece, before: Piece | list[Piece] | Choice | AnyOrder | None) -> str:
    """Return how a piece is spelled in which a backslash, or the one before it, escapes what follows; else nothing."""
    values, until = piece.values, piece.until[:1] or ('"' if piece.kind == "quoted" else "")
    if piece.kind not in _KINDS:
        return ""
    if isinstance(before, Piece) and {*before.values} == {ESCAPE}:
        return _characters_in(until, [ESCAPE + each for each in values]).removeprefix(r"\\")
    if not any(ESCAPE in each for each in values):
        return ""
    return _characters_in(until, values) or (_text_in(until, values) if until in _ENCLOSING else "")


def _characters_in(until: str, values: Sequence[str]) -> str:
    r"""Return how values are spelled of which each is one character or an escape for one, as `a`, `\n` and `\x41`.

    Nothing where they are something else, or too few escapes show it.
    """
    single = [each for each in values if len(each) == 1]
    escapes = [each for each in values if each.startswith(ESCAPE) and len(each) > 1]
    if len(escapes) < FEWEST_ESCAPES or len(single) + len(escapes) < max(len(values), FEW) or ESCAPE in single:
        return ""
    numbered: dict[str, list[str]] = {}
    for found in map(_NUMBERED.fullmatch, escapes):
        if found is not None:
            numbered.setdefault(found[1], []).append(found[2])
    named = {found[1] for found in map(_NAMED.fullmatch, escapes) if found is not None}
    plain = [each for each in escapes if _PLAIN.fullmatch(each)]
    octal = [each for each in escapes if _OCTAL.fullmatch(each)]
    is_octal = any(len(each) > 2 for each in octal) or len(octal) >= (1 if numbered else FEWEST_ESCAPES)
    if not all(any(one.fullmatch(each) for one in _KNOWN) for each in escapes):
        return ""
    cases = _cases_of("".join(digits for some in numbered.values() for digits in some))
    ways = [f"{head}[0-9{cases}]{_amount(some)}" for head, some in sorted(numbered.items())]
    ways += [rf"{head}\{{[^{{}}]*\}}" for head in sorted(named)]
    ways += ["[0-7]{1,3}"] * is_octal
    ways += ["."] * any(not is_octal or each not in octal for each in plain)
    escape = rf"\\(?:{'|'.join(ways)})" if len(ways) > 1 else rf"\\{ways[0]}"
    return f"(?:[^{members_of({*until, ESCAPE})}]|{escape})" if single else escape


def _cases_of(digits: str) -> str:
    """Return the letters of base 16 in the cases that some show: both, where it may be by chance that they show one."""
    letters = [each for each in digits if each.isalpha()]
    return cases_of_base_16(digits) if len(letters) >= FEWEST_OF_CASE else "A-Fa-f"


def _amount(digits: Sequence[str]) -> str:
    """Return the quantifier of digits, of which an escape has as many each time where one does."""
    return amount_of({*map(len, digits)}, max(len(digits), 2), "tight")


def _text_in(until: str, values: Sequence[str]) -> str:
    """Return how what a mark ends is spelled, where a backslash escapes what follows it; else nothing."""
    shows = sum(re.search(r"\\[^\w\s]", each) is not None for each in values)
    spelled = with_escapes(until, ESCAPE, values)
    fits = shows >= FEWEST_ESCAPES and all(re.fullmatch(spelled, each, re.DOTALL) for each in values)
    return spelled if fits else ""
