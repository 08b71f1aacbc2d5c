"""Places among lines, as engines have them: where a line begins and ends."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.analysis.rendering.dialects import JAVASCRIPT
from fieldstick.analysis.rendering.terms import Around, Choice, One, Place, Row, Term
from fieldstick.syntax.characters import CharacterSet

if TYPE_CHECKING:
    from fieldstick.syntax.tree import Anchor, Span

LINE_FEED = CharacterSet.of_text("\n")


def inner_line_start(span: Span) -> Term:
    """Return the start of the text, or a place after a line feed that is not the end."""
    after = Row(span, (_beside(span, LINE_FEED, ahead=False), _not_at_the_end(span)))
    return Choice(span, (Place(span, "text-start"), after))


def among_many_ends(node: Anchor, lines: bool, engine: str) -> Term | None:
    """Return what an anchor asks for where lines end at more than line feeds; None for one that is not of lines.

    ECMA-262, LineTerminator; the class Pattern of Java, "Line terminators": CR LF is one there, and no line begins
    at the end of the text.
    """
    span, at_end = node.span, Place(node.span, "text-end")
    if engine in JAVASCRIPT:
        ends = CharacterSet.of_text("\n\r\u2028\u2029")
        if node.name == "line-start":
            return Choice(span, (Place(span, "text-start"), _beside(span, ends, ahead=False)))
        return Choice(span, (at_end, _beside(span, ends, ahead=True))) if node.name == "line-end" else None
    single, carriage = CharacterSet.of_text("\r\x85\u2028\u2029"), CharacterSet.of_text("\r")
    feed = Row(span, (_beside(span, carriage, ahead=False, negated=True), one_of(span, LINE_FEED)))
    if node.name == "line-start" and lines:
        apart = Row(span, (_beside(span, carriage, ahead=False), _beside(span, LINE_FEED, ahead=True, negated=True)))
        after = _beside(span, CharacterSet.of_text("\n\x85\u2028\u2029"), ahead=False)
        return Row(span, (_not_at_the_end(span), Choice(span, (Place(span, "text-start"), after, apart))))
    if node.name == "line-end" and lines:
        return Choice(span, (at_end, Around(span, Choice(span, (one_of(span, single), feed)), True, False)))
    if node.name in ("line-end", "text-end"):
        pair = Row(span, (one_of(span, carriage), one_of(span, LINE_FEED)))
        last = Row(span, (Choice(span, (pair, one_of(span, single), feed)), at_end))
        return Choice(span, (at_end, Around(span, last, True, False)))
    return None


def one_of(span: Span, characters: CharacterSet) -> One:
    """Return what asks for one of some characters."""
    return One(span, characters, (characters,), (characters,))


def _beside(span: Span, characters: CharacterSet, *, ahead: bool, negated: bool = False) -> Term:
    """Return a place before (`ahead`) or after one of some characters."""
    return Around(span, one_of(span, characters), ahead, negated)


def _not_at_the_end(span: Span) -> Term:
    return Around(span, Place(span, "text-end"), True, True)
