"""What is asked for before or after a match, where the text begins or ends, and looks that a match gets around."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from fieldstick.drafting.context import escaped_text
from fieldstick.drafting.phrases import text_words
from fieldstick.syntax.tree import (
    SINGLE,
    Character,
    CharClass,
    Dot,
    Look,
    Repeat,
    Sequence,
    Shorthand,
    literal_of,
    spelled,
    without_asides,
)

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import Proposal, RepairContext
    from fieldstick.syntax.tree import Node


def looks_at_the_edge(context: RepairContext) -> Iterator[Proposal]:
    """A character asked for beside the match, where the text begins or ends: `(?<=\\s)` for `(?<!\\S)`."""
    for node in context.nodes:
        if not isinstance(node, Look) or node.negated:
            continue
        body, sign = node.body, "" if node.ahead else "<"
        if isinstance(body, Shorthand) and len(body.spelling) == 2:
            new = f"(?{sign}!{body.spelling.swapcase()})"
        elif isinstance(body, CharClass) and not node.ahead and not body.negated:
            new = f"(?<![^{spelled(body)[1:-1]}])"
        else:
            new = _or_edge(node, ahead=node.ahead)
        edge = "end" if node.ahead else "start"
        words = f"{spelled(node)} asks for a character, and the {edge} of the text is none: {new}"
        yield context.splice(node.span, new, words, 0.85 + context.near(node) / 2)


def _or_edge(node: Node, *, ahead: bool) -> str:
    """Spell a piece, or the edge of the text in its place."""
    return f"(?:{spelled(node)}|$)" if ahead else f"(?:^|{spelled(node)})"


def blanks_before_look(context: RepairContext) -> Iterator[Proposal]:
    """`(?=:)` for `(?=\\s*:)`: what must follow has white space before it in the text."""
    for node in context.nodes:
        if not isinstance(node, Look) or not node.ahead or node.negated:
            continue
        literal = literal_of(node.body)
        if literal and re.search(rf"\s{re.escape(literal)}", context.case.text):
            new = rf"(?=\s*{spelled(node.body)})"
            yield context.splice(node.span, new, f"white space may stand before what must follow: {new}", 0.8)


def pieces_at_the_edge(context: RepairContext) -> Iterator[Proposal]:
    """A character that begins or ends the match, where the text begins or ends: `\\s` for `(?:^|\\s)`."""
    tree = context.parsed.tree
    items = without_asides(tree.items) if isinstance(tree, Sequence) else ()
    if context.case.reach == "whole" or len(items) < 2:
        return
    first, last = items[0], items[-1]
    if len(items) > 2 and isinstance(first, Shorthand | CharClass) and isinstance(last, Shorthand | CharClass):
        words = f"{spelled(first)} and {spelled(last)} ask for characters, and the ends of the text are none"
        places = [(first.span, _or_edge(first, ahead=False)), (last.span, _or_edge(last, ahead=True))]
        yield context.splice_all(places, words, 1.0)
    for node, edge in ((first, "start"), (last, "end")):
        if isinstance(node, Shorthand | CharClass) or (isinstance(node, Character) and not node.character.isalnum()):
            new = _or_edge(node, ahead=node is last)
            words = f"{spelled(node)} asks for a character, and the {edge} of the text is none: {new}"
            yield context.splice(node.span, new, words, 1.0 + context.near(node) / 2)


def got_around(context: RepairContext) -> Iterator[Proposal]:
    """A look that a match gets around by taking less: `\\d+(?! g)` takes one digit of two."""
    for one, other in context.pairs():
        for repeat, look in ((one, other), (other, one)):
            if (
                isinstance(repeat, Repeat)
                and isinstance(look, Look)
                and look.negated
                and look.ahead is (repeat is one)
                and isinstance(repeat.item, SINGLE)
            ):
                yield from _closed(context, repeat, look)


def _closed(context: RepairContext, repeat: Repeat, look: Look) -> Iterator[Proposal]:
    item, sign = spelled(repeat.item), "" if look.ahead else "<"
    # The options of a look-behind have one width.
    if look.ahead or isinstance(look.body, SINGLE):
        options = f"(?{sign}!{spelled(look.body)}|{item})"
    else:
        options = f"(?<!{item}){spelled(look)}"
    words = f"{spelled(repeat)} takes less where {spelled(look)} would not have it: {options}"
    yield context.splice(look.span, options, words, 0.8)


def inverted(context: RepairContext) -> Iterator[Proposal]:
    """`(?=seen)` for `(?!seen)`, and the other way round."""
    for node in context.nodes:
        if isinstance(node, Look):
            sign = "" if node.ahead else "<"
            new = f"(?{sign}{'=' if node.negated else '!'}{spelled(node.body)})"
            # What it asks for is there.
            there = not node.negated and (literal_of(node.body) or "\0") in context.case.text
            words = f"{spelled(node)} is meant the other way round: {new}"
            yield context.splice(node.span, new, words, 1.05 + 0.5 * there)


def other_literal(context: RepairContext) -> Iterator[Proposal]:
    """A text asked for beside the match, where another stands: `(?<=gate:)` for `(?<=gate=)`."""
    text = context.case.text
    for node in context.nodes:
        literal = literal_of(node.body) if isinstance(node, Look) and not node.negated else None
        if not literal or literal in text or not isinstance(node, Look):
            continue
        for at in range(len(text) - len(literal) + 1):
            there = text[at : at + len(literal)]
            if sum(one != other for one, other in zip(literal, there, strict=True)) == 1 < len(literal):
                words = f"{text_words(there)} stands in the text, not {text_words(literal)}"
                yield context.splice(node.body.span, escaped_text(there), words, 0.8)


def point_in_look(context: RepairContext) -> Iterator[Proposal]:
    """`(?!.)` for `(?!\\.)`: a dot where a point must not follow."""
    for node in context.nodes:
        if isinstance(node, Look) and node.negated and isinstance(node.body, Dot):
            words = f"the dot in {spelled(node)} is meant as a point: \\."
            yield context.splice(node.body.span, r"\.", words, 0.8 + context.near(node) / 4)


RULES = (point_in_look, inverted, blanks_before_look, looks_at_the_edge, pieces_at_the_edge, other_literal)
