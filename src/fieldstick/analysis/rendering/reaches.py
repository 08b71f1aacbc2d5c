"""A term made ready for where it goes: idle anchors left out, anything around it where whole values are asked for."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.analysis.rendering.terms import Captured, Choice, One, Place, Row, Turns, every
from fieldstick.syntax.characters import EVERYTHING

if TYPE_CHECKING:
    from fieldstick.analysis.rendering.terms import Term
    from fieldstick.engines.protocol import Reach


def trimmed(term: Term, reach: Reach) -> Term:
    """Leave out anchors that the reach makes idle: at the head of what begins with the text, at the tail of it all."""
    if reach != "anywhere":
        term = _without(term, 0, ("text-start", "line-start"))
    if reach == "whole":
        term = _without(term, -1, ("text-end", "final", "line-end"))
    return term


def is_mixed(term: Term) -> bool:
    """Tell whether some groups have names and some have not."""
    return len({each.name is None for each in every(term) if isinstance(each, Captured)}) > 1


def with_anything_around(term: Term, reach: Reach) -> Term:
    """Return what a whole text must be in which a term lies within a reach."""
    anything = Turns(term.span, One(term.span, EVERYTHING, (EVERYTHING,), (EVERYTHING,)), 0, None, "greedy")
    return Row(term.span, (term, anything) if reach == "start" else (anything, term, anything))


def _without(term: Term, end: int, kinds: tuple[str, ...]) -> Term:
    match term:
        case Place() if term.kind in kinds:
            return Row(term.span, ())
        case Row() if term.terms:
            last = _without(term.terms[end], end, kinds)
            terms = (last, *term.terms[1:]) if end == 0 else (*term.terms[:-1], last)
            kept = tuple(each for each in terms if each != Row(each.span, ()))
            made = Row(term.span, kept)
            # What stood beside an anchor is at the end itself now.
            return _without(made, end, kinds) if len(kept) < len(term.terms) else made
        case Choice():
            return Choice(term.span, tuple([_without(each, end, kinds) for each in term.options]))
        case Captured():
            return Captured(term.span, _without(term.body, end, kinds), term.number, term.name)
    return term
