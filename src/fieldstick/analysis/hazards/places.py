"""Hazards of anchors, boundaries and look-around: where something must lie, and what that leaves out."""

from __future__ import annotations

import string
from itertools import pairwise
from typing import TYPE_CHECKING

from fieldstick.analysis.examples import examples
from fieldstick.analysis.facts import facts_of
from fieldstick.analysis.hazards.suspect import Suspect, edited
from fieldstick.engines.probing import character_test
from fieldstick.syntax.tree import (
    SINGLE,
    Alternation,
    Anchor,
    Dot,
    Group,
    Look,
    Node,
    Repeat,
    Sequence,
    literal_of,
    spelled,
    walk,
    without_asides,
)
from fieldstick.syntax.widths import width

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.engines.protocol import Reach
    from fieldstick.syntax.parser import Parsed

_WORD = string.ascii_letters + string.digits
_STARTS, _ENDS = ("line-start", "text-start"), ("line-end", "text-end")


def items_of(node: Node) -> tuple[Node, ...]:
    """Return what a sequence is made of, or the node itself; asides are left out."""
    return without_asides(node.items) if isinstance(node, Sequence) else (node,)


def multiline_anywhere(parsed: Parsed) -> bool:
    """Tell whether the flag multiline holds somewhere."""
    return "multiline" in parsed.flags or any(isinstance(n, Group) and "m" in n.on for n in facts_of(parsed).nodes)


def anchored_alternation(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`^a|b$`: the first anchor belongs to the first option alone, the last to the last."""
    for node in facts_of(parsed).nodes:
        if not isinstance(node, Alternation) or multiline_anywhere(parsed):
            continue
        first, last = items_of(node.options[0]), items_of(node.options[-1])
        starts = isinstance(first[0], Anchor) and first[0].name in _STARTS if first else False
        ends = isinstance(last[-1], Anchor) and last[-1].name in _ENDS if last else False
        if not (starts and ends) or len(first) < 2 or len(last) < 2:
            continue
        closed = isinstance(first[-1], Anchor) and first[-1].name in _ENDS
        opened = isinstance(last[0], Anchor) and last[0].name in _STARTS
        bodies = [spelled(node.options[0])[len(spelled(first[0])) :], spelled(node.options[-1])]
        bodies[1] = bodies[1][: len(bodies[1]) - len(spelled(last[-1]))]
        if closed or opened or bodies[0] == bodies[1] or not all(map(_has_words, (first, last))):
            continue
        middle = [spelled(option) for option in node.options[1:-1]]
        new = f"{spelled(first[0])}(?:{'|'.join([bodies[0], *middle, bodies[1]])}){spelled(last[-1])}"
        if node is not parsed.tree:
            new = f"(?:{new})"
        reason = "the first anchor belongs to the first option alone, the last to the last alone"
        texts = tuple(
            f"{before}{text}{after}" for text in examples(parsed, reach) for before, after in (("", "?"), ("?", ""))
        )
        yield Suspect(
            "anchored-alternation", node.span, reason, f"write {new}", edited(parsed, (node.span, new)), texts
        )


def _has_words(items: tuple[Node, ...]) -> bool:
    """Tell whether letters or digits are asked for: an option of marks or blanks alone is one that trims."""
    for item in items:
        for node in walk(item):
            if isinstance(node, SINGLE) and any(map(character_test(spelled(node), frozenset({"ascii"})), _WORD)):
                return True
    return False


def boundary_by_mark(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`\\b%`: the mark is no word character, so the boundary asks for one on its other side."""
    options = parsed.tree.options if isinstance(parsed.tree, Alternation) else (parsed.tree,)
    for items in map(items_of, options):
        if len(items) < 2:
            continue
        for boundary, beside, side in ((items[0], items[1], "before"), (items[-1], items[-2], "after")):
            mark = literal_of(beside)
            edge = (mark or "a")[0 if side == "before" else -1]
            if isinstance(boundary, Anchor) and boundary.name == "boundary" and not (edge.isalnum() or edge == "_"):
                reason = f"'{edge}' is no word character, so \\b asks for a letter or digit {side} it"
                changed = edited(parsed, (boundary.span, ""))
                yield Suspect("boundary-by-mark", boundary.span, reason, "leave \\b out there", changed)


def anchor_never_holds(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`a^b`, `a$b`: something stands before the start, or must follow the end."""
    if multiline_anywhere(parsed):
        return
    for node, flags in facts_of(parsed).with_flags:
        items = items_of(node) if isinstance(node, Sequence) else ()
        for index, item in enumerate(items):
            if not isinstance(item, Anchor) or item.name not in (*_STARTS, *_ENDS):
                continue
            starts = item.name in _STARTS
            beside = items[:index] if starts else items[index + 1 :]
            asking = [each for each in beside if width(each, parsed.widths)[0] > 0]
            line_feed = not starts and item.name == "line-end"
            if not asking or (line_feed and any(_may_take(parsed, each, "\n", flags) for each in asking)):
                continue
            if examples(parsed, reach, most=1):
                return  # another way round leads to a match; what can never hold is then one way among others
            reason = "something stands before it" if starts else "something must follow it"
            literal = "\\" + item.spelling if item.spelling in "^$" else ""
            changed = edited(parsed, (item.span, literal))
            remedy = f"leave it out, or write {literal}" if literal else "leave it out"
            yield Suspect(
                "anchor-never-holds",
                item.span,
                f"{reason}, so it can never hold",
                remedy,
                changed,
                _made(changed, parsed, reach),
            )
            return


def _made(changed: str, parsed: Parsed, reach: Reach) -> tuple[str, ...]:
    from fieldstick.errors import SyntaxFault
    from fieldstick.syntax.parser import parse

    try:
        return tuple(examples(parse(changed, parsed.flags), reach))
    except SyntaxFault:
        return ()


def _may_take(parsed: Parsed, node: Node, character: str, flags: frozenset[str]) -> bool:
    asked = flags & {"dotall", "ascii"}
    facts = facts_of(parsed)
    # What stands in a class is taken by the class.
    singles = (each for each in walk(node) if isinstance(each, SINGLE) and not facts.is_in_class(each))
    return any(character_test(spelled(each), asked)(character) for each in singles)


def quantified_anchor(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`^*`, `\\b+`: a place is there or not; more of it says nothing, and none of it asks for nothing."""
    for node in facts_of(parsed).nodes:
        inner = node.item if isinstance(node, Repeat) else None
        while isinstance(inner, Group) and len(items_of(inner.body)) == 1:
            inner = items_of(inner.body)[0]
        if isinstance(node, Repeat) and isinstance(inner, Anchor | Look):
            what = "an anchor" if isinstance(inner, Anchor) else "look-around"
            if node.least == 0:
                reason = f"with {node.quantifier}, {what} need not hold: it asks for nothing"
                changed = edited(parsed, (node.span, spelled(node.item)))
                yield Suspect("quantified-anchor", node.span, reason, f"leave {node.quantifier} out", changed)
            else:
                reason = f"{what} takes no character, so {node.quantifier} says nothing"
                changed = edited(parsed, (node.span, spelled(node.item)))
                remedy = f"leave {node.quantifier} out"
                yield Suspect("quantified-anchor", node.span, reason, remedy, changed, claim="same")


def look_slip(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`(?!=x)`: an equals sign after `(?!` is a character that must not follow, not part of the notation."""
    for node in facts_of(parsed).nodes:
        if isinstance(node, Look) and node.negated and spelled(node.body).startswith("=") and spelled(node.body) != "=":
            start = node.span[0] + len(node.opening)
            reason = f"{node.opening}= asks that no '=' and what follows it stand there"
            changed = edited(parsed, ((start, start + 1), ""))
            beside = spelled(node.body)[1:]
            remedy = f"write {node.opening}{beside}) without the ="
            yield Suspect("look-slip", node.span, reason, remedy, changed, tuple(_beside(parsed, node, reach)))


def _beside(parsed: Parsed, node: Look, reach: Reach) -> Iterator[str]:
    body = literal_of(node.body)
    for text in examples(parsed, reach):
        for piece in (body or "=a", (body or "=a")[1:]):
            yield text + piece
            yield piece + text


def look_moves_match(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`\\d+(?!px)`: where the look-ahead refuses, the repeat before it gives one back, and it fits."""
    if reach == "whole":
        return
    for node in facts_of(parsed).nodes:
        items = items_of(node) if isinstance(node, Sequence) else ()
        for before, look in pairwise(items):
            if not (isinstance(look, Look) and look.ahead and look.negated and isinstance(before, Repeat)):
                continue
            refused = literal_of(look.body)
            gives_back = before.mode == "greedy" and isinstance(before.item, SINGLE) and before.most != before.least
            if not gives_back or not refused or look is not items[-1]:
                continue
            test = character_test(spelled(before.item), parsed.flags & {"ignore-case", "dotall", "ascii"})
            if test(refused[0]):
                continue
            reason = f"where '{refused}' follows, {spelled(before)} gives a character back and it fits all the same"
            changed = edited(parsed, ((look.span[0] - len(before.quantifier), look.span[0]), f"{before.quantifier}+"))
            remedy = f"write {spelled(before)}+, which gives nothing back"
            texts = tuple(text + refused for text in examples(parsed, reach, most=8))
            yield Suspect("look-moves-match", look.span, reason, remedy, changed, texts)


def last_line_feed(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`^\\d+$`: the end also holds before a line feed that ends the text."""
    items = items_of(parsed.tree)
    if reach == "whole" or len(items) < 3 or multiline_anywhere(parsed):
        return
    first, last = items[0], items[-1]
    if not (isinstance(first, Anchor) and first.name in _STARTS and isinstance(last, Anchor)):
        return
    if any(isinstance(node, Dot) or getattr(node, "negated", False) for node in facts_of(parsed).nodes):
        return  # free text up to the end of a line, not something whose every character counts
    if last.name == "line-end" and not _may_take(parsed, items[-2], "\n", parsed.flags):
        reason = "$ also holds before a line feed at the end of the text"
        changed = edited(parsed, (last.span, r"\Z"))
        texts = tuple(text + "\n" for text in examples(parsed, reach))
        remedy = r"write \Z for the very end, or use the reach whole"
        texts = texts or ("\n",)
        yield Suspect("last-line-feed", last.span, reason, remedy, changed, texts)
