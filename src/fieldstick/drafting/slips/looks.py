"""What is asked for before or after a match, where the text begins or ends, and looks that a match gets around."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.drafting.context import escaped_text
from fieldstick.drafting.phrases import text_words
from fieldstick.syntax.tree import (
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


def at_the_edge(context: RepairContext) -> Iterator[Proposal]:
    """A character asked for beside the match, where the text begins or ends: `(?<=\\s)` for `(?<!\\S)`."""
    for node in context.nodes:
        if not isinstance(node, Look) or node.negated:
            continue
        body, place = node.body, "$" if node.ahead else "^"
        edge = "end" if node.ahead else "start"
        sign = "" if node.ahead else "<"
        if isinstance(body, Shorthand) and len(body.spelling) == 2:
            new = f"(?{sign}!{body.spelling.swapcase()})"
        elif isinstance(body, CharClass) and not node.ahead and not body.negated:
            new = f"(?<![^{spelled(body)[1:-1]}])"
        else:
            options = [place, spelled(node)] if not node.ahead else [spelled(node), place]
            new = f"(?:{'|'.join(options)})"
        words = f"{spelled(node)} asks for a character, and the {edge} of the text is none: {new}"
        yield context.splice(node.span, new, words, 0.85 + context.near(node) / 2)
    if context.case.reach == "whole":
        return
    tree = context.parsed.tree
    items = without_asides(tree.items) if isinstance(tree, Sequence) else ()
    if len(items) < 2:
        return
    if len(items) > 2 and all(isinstance(each, Shorthand | CharClass) for each in (items[0], items[-1])):
        first, last = items[0], items[-1]
        inner = context.case.expression[first.span[1] : last.span[0]]
        new = f"(?:^|{spelled(first)}){inner}(?:{spelled(last)}|$)"
        words = f"{spelled(first)} and {spelled(last)} ask for characters, and the ends of the text are none: {new}"
        yield context.splice((first.span[0], last.span[1]), new, words, 1.0)
    for node, place, edge in ((items[0], "^", "start"), (items[-1], "$", "end")):
        if isinstance(node, Shorthand | CharClass) or (isinstance(node, Character) and not node.character.isalnum()):
            options = [place, spelled(node)] if place == "^" else [spelled(node), place]
            new = f"(?:{'|'.join(options)})"
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
                and isinstance(repeat.item, Shorthand | CharClass | Character | Dot)
            ):
                yield from _closed(context, repeat, look)


def _closed(context: RepairContext, repeat: Repeat, look: Look) -> Iterator[Proposal]:
    item = spelled(repeat.item)
    sign = "" if look.ahead else "<"
    width = _width(look.body)
    if look.ahead or width == 1:
        options = f"(?{sign}!{spelled(look.body)}|{item})"
    else:
        options = f"(?<!{item}){spelled(look)}"
    words = f"{spelled(repeat)} takes less where {spelled(look)} would not have it: {options}"
    yield context.splice(look.span, options, words, 0.8)


def _width(node: Node) -> int | None:
    return 1 if isinstance(node, Shorthand | CharClass | Character | Dot) else None


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


RULES = (at_the_edge, other_literal)
