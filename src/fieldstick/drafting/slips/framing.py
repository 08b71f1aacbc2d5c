"""What stands around a match in the text, and marks between its pieces, put in at several places at once."""

from __future__ import annotations

import re
from itertools import pairwise
from typing import TYPE_CHECKING

from msgspec.structs import replace

from fieldstick.drafting.context import Proposal, class_spelling, escaped, escaped_text, optional_text, written_alike
from fieldstick.drafting.phrases import text_words
from fieldstick.engines.probing import compiled_by_engine, found_within
from fieldstick.syntax.tree import (
    Anchor,
    Character,
    CharClass,
    Repeat,
    Sequence,
    Shorthand,
    literal_of,
    once,
    spelled,
    without_asides,
)

if TYPE_CHECKING:
    from collections.abc import Iterator
    from collections.abc import Sequence as Sequence_

    from fieldstick.drafting.context import RepairContext
    from fieldstick.syntax.tree import Node

PAIRS = {
    "(": ")", "[": "]", "{": "}", "<": ">", "\u201c": "\u201d", "\u00ab": "\u00bb", "'": "'", '"': '"',
}  # fmt: skip
"""Marks that open and those that close, quotes too."""

_OPENING = {opening: closing for opening, closing in PAIRS.items() if opening != closing}

LONGEST = 3
"""Marks around a match up to which they are its frame."""

MOST_PLACES = 6
"""Places between pieces where a mark is put at once."""


def free_marks(context: RepairContext) -> Iterator[Character]:
    """Yield the characters that are spelled out, but letters, digits and those of classes."""
    characters = (each for each in context.nodes if isinstance(each, Character))
    return (each for each in characters if not each.character.isalnum() and not context.facts.is_in_class(each))


def framed(context: RepairContext) -> Iterator[Proposal]:
    """Parentheses, quotes or other marks around all that matches."""
    case = context.case
    compiled = compiled_by_engine(case.expression, case.flags) if case.reach == "whole" else None
    found = found_within(compiled, case.text) if compiled is not None else None
    if found is None:
        return
    before, after = case.text[: found[0]], case.text[found[1] :]
    marks = before + after
    if not before or not after or len(before) > LONGEST or len(after) > LONGEST or any(map(str.isalnum, marks)):
        return
    if not marks.strip():
        return
    left, right = map(optional_text if context.held else escaped_text, (before, after))
    words = f"{text_words(before)} and {text_words(after)} stand around it: {left} and {right}"
    yield Proposal(replace(case, expression=f"{left}{context.bare}{right}"), words, 0.95)


def closed(context: RepairContext) -> Iterator[Proposal]:
    """A quote or bracket that the expression opens with and does not close, and the text does."""
    case, row = context.case, _row(context.parsed.tree)
    mark = literal_of(row[0]) if len(row) > 1 else None
    closing = PAIRS.get(mark or "")
    texts = (case.text, *context.beside.fitting)
    if closing is None or case.reach != "whole" or literal_of(row[-1]) == closing:
        return
    if all(len(each) > 1 and each[0] == mark and each[-1] == closing for each in texts):
        words = f"{text_words(closing)} is not closed: {escaped(closing)}"
        yield Proposal(replace(case, expression=case.expression + escaped(closing)), words, 0.7)


def _row(tree: Node) -> tuple[Node, ...]:
    return without_asides(tree.items) if isinstance(tree, Sequence) else ()


def parted(context: RepairContext) -> Iterator[Proposal]:
    """A mark between pieces that follow one another, each time."""
    text, tree = context.case.text, context.parsed.tree
    items = [each for each in _row(tree) if not isinstance(each, Anchor)]
    pairs = [
        (one, other)
        for one, other in pairwise(items)
        if not isinstance(one, Character) and not isinstance(other, Character)
    ]
    if not 2 <= len(pairs) <= MOST_PLACES:
        return
    for mark in [each for each in context.characters if not each.isalnum()]:
        if text.count(mark) != len(pairs) or mark in context.case.expression or mark.isspace():
            continue
        for new, cost in ((f"{escaped(mark)}?", 0.9 if context.held else 1.1), (escaped(mark), 0.95)):
            words = f"{text_words(mark)} stands between the pieces: {new}"
            places = [((other.span[0], other.span[0]), new) for _, other in pairs]
            yield context.splice_all(places, words, cost)


def counted_runs(context: RepairContext) -> Iterator[Proposal]:
    """The same piece written several times for so many characters, of which the text has more or fewer."""
    for node in context.nodes:
        items = without_asides(node.items) if isinstance(node, Sequence) else ()
        start = 0
        for at in range(1, len(items) + 1):
            if at < len(items) and spelled(once(items[at])) == spelled(once(items[start])):
                continue
            count, item = at - start, once(items[start])
            if count > 1 and isinstance(item, Shorthand | CharClass) and not item.negated:
                span, near = (item.span[0], items[at - 1].span[1]), context.near(item) / 4
                for bounds, more in _looser_run(items[start:at]):
                    new = f"{spelled(item)}{bounds}"
                    words = f"{context.case.expression[slice(*span)]} is too tight: {new}"
                    yield context.splice(span, new, words, 1.0 + more + near)
            start = at


def _looser_run(pieces: Sequence_[Node]) -> Iterator[tuple[str, float]]:
    """Yield looser bounds than several pieces alike have together, and what each costs more."""
    amounts = [(each.least, each.most) if isinstance(each, Repeat) else (1, 1) for each in pieces]
    least, most = sum(low for low, _ in amounts), 0
    for _, high in amounts:
        if high is None:
            return
        most += high
    if least < most:
        yield from ((f"{{{least},{most + 1}}}", 0.0), (f"{{{least},{most + 2}}}", 0.15), ("+", 0.1))
    else:
        yield from ((f"{{1,{most}}}", 0.0), (f"{{{most},{most + 1}}}", 0.0), (f"{{1,{most + 1}}}", 0.1), ("+", 0.1))


def either_sign(context: RepairContext) -> Iterator[Proposal]:
    """A mark that may be lacking, where the text has another: `-?` for `[+-]?`."""
    written = {each.character for each in context.nodes if isinstance(each, Character)}
    for node in context.nodes:
        mark = literal_of(node.item) if isinstance(node, Repeat) and node.least == 0 else None
        if mark is None or len(mark) != 1 or mark.isalnum() or not isinstance(node, Repeat):
            continue
        for other in context.characters:
            if other != mark and not other.isalnum() and other not in written:
                first, second = sorted((mark, other), key=lambda each: each == "-")
                new = f"[{escaped(first) if first in '^]' else first}{second}]{node.quantifier}"
                words = f"{text_words(other)} may stand in the place of {text_words(mark)}: {new}"
                yield context.splice(node.span, new, words, 0.75 if {mark, other} <= set("+-\u2212\u2013") else 1.1)


def needless_quotes(context: RepairContext) -> Iterator[Proposal]:
    """Quotes around a value that has none in the text."""
    expression = context.case.expression
    for node in context.nodes:
        items = without_asides(node.items) if isinstance(node, Sequence) else ()
        for before, value, behind in zip(items, items[1:], items[2:], strict=False):
            quote = literal_of(before)
            if quote not in ("'", '"') or literal_of(behind) != quote or literal_of(value) is not None:
                continue
            edge = f"{quote}?" if context.held else ""
            made = f"{edge}{expression[slice(*value.span)]}{edge}"
            words = f"it stands without quotes: {made}"
            yield context.splice((before.span[0], behind.span[1]), made, words, 0.95 + context.near(value) / 4)


def other_brackets(context: RepairContext) -> Iterator[Proposal]:
    """Brackets that the text has of another kind, or not at all."""
    written = [each for each in context.nodes if isinstance(each, Character) and not context.facts.is_in_class(each)]
    text, expression = context.case.text, context.case.expression
    for at, one in enumerate(written):
        closing = _OPENING.get(one.character)
        other = next((each for each in written[at + 1 :] if each.character == closing), None)
        if closing is None or other is None or one.character in text:
            continue
        inner = expression[one.span[1] : other.span[0]]
        span, held = (one.span[0], other.span[1]), context.held
        if closing not in text:
            left, right = (spelled(each) + "?" * bool(held) for each in (one, other))
            made = f"{left}{inner}{right}" if held else inner
            yield context.splice(span, made, f"{spelled(one)} and {spelled(other)} need not be there: {made}", 0.95)
        for opening, ending in _OPENING.items():
            if opening in text and ending in text and opening not in {each.character for each in written}:
                left, right = escaped(opening), escaped(ending)
                if held:
                    left = f"[{class_spelling(one.character)}{class_spelling(opening)}]"
                    right = f"[{class_spelling(closing)}{class_spelling(ending)}]"
                words = f"{opening} and {ending} stand in the text: {left} and {right}"
                yield context.splice(span, f"{left}{inner}{right}", words, 0.9)


def blank_after_marks(context: RepairContext) -> Iterator[Proposal]:
    """A mark that has a blank after it in the text, each time."""
    expression = context.case.expression
    for _, nodes in written_alike(free_marks(context)):
        mark = nodes[0].character
        if not mark.isspace() and context.case.text.count(mark + " ") >= len(nodes):
            for blanks, cost in ((r"\s*", 0.9), (" ?", 0.92)) if context.held else ((" ", 0.9), (r"\s*", 0.92)):
                words = f"{text_words(mark)} has white space after it, each time: {blanks}"
                bare = [each for each in nodes if not expression.startswith((" ", r"\s"), each.span[1])]
                places = [((node.span[1], node.span[1]), blanks) for node in bare]
                yield context.splice_all(places, words, cost)


def doubled_marks(context: RepairContext) -> Iterator[Proposal]:
    """Marks that are written twice each, and stand once in the text."""
    made = re.sub(r"([<>{}\[\]\"'%#~])\1", lambda found: found[1], context.case.expression)
    made = re.sub(r"(\\[{}\[\]()])\1", lambda found: found[1], made)
    if made != context.case.expression:
        yield Proposal(replace(context.case, expression=made), f"marks are written twice: {made}", 0.9)


RULES = (
    needless_quotes,
    other_brackets,
    blank_after_marks,
    doubled_marks,
    framed,
    closed,
    parted,
    counted_runs,
    either_sign,
)
