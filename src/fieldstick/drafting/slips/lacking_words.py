"""Words that stand where a value has nothing to say: `none` for a number of a ring."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.drafting.context import escaped_text
from fieldstick.drafting.phrases import text_words
from fieldstick.drafting.slips.extent import NONE
from fieldstick.engines.probing import fits
from fieldstick.syntax.tree import Group, Repeat, Sequence, Shorthand, once, spelled, without_asides

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator

    from fieldstick.drafting.context import Proposal, RepairContext
    from fieldstick.drafting.slips.taking import Taken
    from fieldstick.syntax.tree import Node, Span

SHORTEST_WORD, LONGEST_WORD = 3, 12
"""Letters of a word that may stand where there is nothing else to write."""


def _is_word_for_nothing(text: str) -> bool:
    """Tell whether a text is a word, or what is written where there is nothing to write."""
    return _is_nothing(text) or (text.isalpha() and SHORTEST_WORD <= len(text) <= LONGEST_WORD)


def _is_nothing(text: str) -> bool:
    return text in NONE or (1 < len(text) <= LONGEST_WORD and {*text} <= {*"-.?*/:"} and text[0] in "-?*")


def _begins_otherwise(context: RepairContext, pieces: Iterable[Node], word: str) -> bool:
    """Tell whether pieces take nothing that a word begins with, which is not written for nothing."""
    if _is_nothing(word):
        return True
    for each in pieces:
        optional = isinstance(each, Repeat) and each.least == 0
        if fits(f"{spelled(once(each) if optional else each)}(?s:.*)", context.parsed.flags, "whole", word):
            return False
        if not optional:
            return True
    return True


def word_for_group(context: RepairContext, node: Group, taken: Taken) -> Iterator[Proposal]:
    """A word where a group asks for several pieces: `none` for a number of a ring."""
    inner = node.body.items if isinstance(node.body, Sequence) else (node.body,)
    asked = any(isinstance(each, Repeat | Shorthand) for each in inner)
    if not asked or node.kind not in ("plain", "capture") or {*taken.wanted} != {taken.own}:
        return
    # A group that nothing repeats and that captures nothing is for options.
    idle = node.kind == "plain" and not context.facts.is_repeated(node) and taken.own.isalpha()
    is_word = _is_word_for_nothing(taken.own) or (idle and len(taken.own) <= LONGEST_WORD)
    numbers = any(map(str.isdigit, "".join(taken.held))) and is_word
    if numbers and _begins_otherwise(context, without_asides(inner), taken.own):
        end = node.span[1] - 1
        added = f"|{escaped_text(taken.own)}"
        words = f"{text_words(taken.own)} may stand in the place of {spelled(node.body)}: {added}"
        yield context.splice((end, end), added, words, 0.95 - 0.2 * idle + context.near(node) / 4)
        if node.kind == "capture":
            # What the group captures may have to be a number.
            beside = f"(?:{spelled(node)}{added})"
            words = f"{text_words(taken.own)} may stand in the place of {spelled(node)}: {beside}"
            yield context.splice(node.span, beside, words, 1.0 + context.near(node) / 4)


def word_for_rest(context: RepairContext, span: Span, taken: Taken) -> Iterator[Proposal]:
    """A word in the place of several pieces, the last ones: `empty` for a number and what it counts."""
    own = taken.own
    numbers = any(map(str.isdigit, "".join(taken.held))) and not any(own in each for each in taken.held)
    if not numbers or {*taken.wanted} != {own} or not _is_word_for_nothing(own):
        return
    tree = context.parsed.tree
    items = without_asides(tree.items) if isinstance(tree, Sequence) else ()
    pieces = [each for each in items if span[0] <= each.span[0] and each.span[1] <= span[1]]
    if pieces and _begins_otherwise(context, _unwrapped(pieces[0]) or pieces, own):
        rest = context.case.expression[slice(*span)]
        made = f"(?:{rest}|{escaped_text(own)})"
        words = f"{text_words(own)} may stand in the place of {rest}: {made}"
        yield context.splice(span, made, words, 1.0)


def _unwrapped(node: Node) -> tuple[Node, ...]:
    """Return the pieces of a group in a row; none of what is no group."""
    body = node.body if isinstance(node, Group) else None
    return tuple(without_asides(body.items)) if isinstance(body, Sequence) else ()
