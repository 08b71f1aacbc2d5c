"""Pieces in another order than the text has, and references to another group."""

from __future__ import annotations

import re
from bisect import bisect_left
from functools import cache, partial
from itertools import groupby, pairwise, permutations
from typing import TYPE_CHECKING

from fieldstick.drafting.phrases import character_words, phrase
from fieldstick.lean import compiled_later
from fieldstick.syntax.tree import (
    Alternation,
    Anchor,
    Backreference,
    Character,
    Dot,
    Group,
    Node,
    Repeat,
    Sequence,
    spelled,
    walk,
    without_asides,
)

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import Proposal, RepairContext

MOST_STRETCHES, MOST_MARKS = 4, 4
"""Stretches between the same mark that are put in another order, and marks of which that is tried."""

_AMOUNT = r"[*+?]|\{\d*,?\d*\}"
_BLANK = compiled_later(r"\(?(?:\\s| )[*+?]?\)?")

MOST_WORDS = 8
"""Words of which two change places."""

MOST_GROUPS = 40
"""Groups that a reference may be meant for, those nearest to the one that it names."""

MOST_APART = 4
"""Pieces of which two change places at the most, with what lies between them."""


def swapped(context: RepairContext) -> Iterator[Proposal]:
    """Two pieces of a sequence that change places; what parts them stays where it is."""
    expression = context.case.expression
    for node in context.nodes:
        items = without_asides(node.items) if isinstance(node, Sequence) else ()
        pieces = [each for each in items if not isinstance(each, Character | Anchor)]
        for at, one in enumerate(pieces):
            for between_them, other in enumerate(pieces[at + 1 : at + MOST_APART]):
                first, second = expression[slice(*one.span)], expression[slice(*other.span)]
                if first == second or (_BLANK.fullmatch(first) and _BLANK.fullmatch(second)):
                    continue
                between = expression[one.span[1] : other.span[0]]
                words = f"{first} and {second} change places"
                cost = 0.95 if isinstance(one, Group | Repeat) and isinstance(other, Group | Repeat) else 1.5
                # Where another text fits as it is, its pieces are in order.
                far = 0.1 * between_them + 0.05 * bool(context.held)
                # What differs by its amount alone is rather of another amount, but before and behind a decimal point.
                same = _kind_of(one, beside=other) == _kind_of(other, beside=one)
                # Of a year and a day that are known by their lengths either may come first.
                lengths = "{" in first and "{" in second
                far += 0.4 * (same and between != r"\." and not lengths)
                # What takes anything stands anywhere; where another text fits, it does so where it is.
                anything = any(isinstance(each, Dot) for piece in (one, other) for each in walk(piece))
                far += 0.3 * bool(anything and between and context.held)
                yield context.splice((one.span[0], other.span[1]), second + between + first, words, cost + far)


def _kind_of(piece: Node, *, beside: Node) -> str:
    """Return how a piece is spelled without its amount, and without its group where what it is beside is none."""
    alone = piece.body if isinstance(piece, Group) and not isinstance(beside, Group) else piece
    return re.sub(_AMOUNT, "", spelled(alone))


def words_swapped(context: RepairContext) -> Iterator[Proposal]:
    """Two words that are spelled out and stand in the text the other way round."""
    found = [(span, word) for span, word in context.words() if len(word) > 1][:MOST_WORDS]
    for number, (one, first) in enumerate(found):
        for other, second in found[number + 1 :]:
            at, there = context.case.text.find(second), context.case.text.find(first)
            if first != second and 0 <= at < there:
                words = f"{first} and {second} change places"
                yield context.splice_all([(one, second), (other, first)], words, 0.9 + 0.3 * bool(context.held))


def letters_swapped(context: RepairContext) -> Iterator[Proposal]:
    """Two characters that stand in the text the other way round."""
    for one, other in context.pairs():
        if not isinstance(one, Character) or not isinstance(other, Character) or one.character == other.character:
            continue
        if other.character + one.character in context.case.text:
            new = other.spelling + one.spelling
            words = f"{one.spelling}{other.spelling} is written the other way round: {new}"
            yield context.splice((one.span[0], other.span[1]), new, words, 0.9)


def moved(context: RepairContext) -> Iterator[Proposal]:
    """A mark or a piece that stands on the other side of what is beside it."""
    expression = context.case.expression
    for node in context.nodes:
        items = without_asides(node.items) if isinstance(node, Sequence) else ()
        for one, other in pairwise(items):
            single = isinstance(one, Character) != isinstance(other, Character)
            if single and not isinstance(one, Anchor) and not isinstance(other, Anchor):
                first, second = expression[slice(*one.span)], expression[slice(*other.span)]
                words = f"{second} stands before {first}"
                yield context.splice((one.span[0], other.span[1]), second + first, words, 1.4 + context.near(one) / 4)


def spelled_out_moved(context: RepairContext) -> Iterator[Proposal]:
    """What is spelled out, on the other side of the piece beside it: `\\.csv\\w+`."""
    expression = context.case.expression
    for node in context.nodes:
        items = without_asides(node.items) if isinstance(node, Sequence) else ()
        rows = [list(row) for _, row in groupby(items, key=lambda each: isinstance(each, Character) or id(each))]
        for first, second in pairwise(rows):
            start, middle, end = first[0].span[0], first[-1].span[1], second[-1].span[1]
            fixed = [isinstance(each, Anchor) for each in (first[0], second[0])]
            if max(len(first), len(second)) > 1 and not any(fixed):
                behind, before = expression[start:middle], expression[middle:end]
                yield context.splice((start, end), before + behind, f"{before} stands before {behind}", 1.1)


def other_group(context: RepairContext) -> Iterator[Proposal]:
    """A backreference to a group that is not the one meant."""
    groups = [each for each in context.nodes if isinstance(each, Group) and each.number is not None]
    numbers = [each.number or 0 for each in groups]
    words_of = cache(partial(phrase, flags=context.parsed.flags, short=True))
    for node in context.nodes:
        if not isinstance(node, Backreference):
            continue
        at = max(0, bisect_left(numbers, node.number) - MOST_GROUPS // 2)
        for group in groups[at : at + MOST_GROUPS]:
            if group.number == node.number:
                body = spelled(group.body)
                content = f"(?:{body})" if isinstance(group.body, Alternation) else body
                words = f"{spelled(node)} asks for the very text of the group again, not for the like: {content}"
                wide = any(isinstance(each, Dot) for each in walk(group.body))
                yield context.splice(node.span, content, words, 1.05 + 0.2 * wide)
                continue
            new = f"(?P={group.name})" if group.name is not None else f"\\{group.number}"
            words = f"{spelled(node)} is meant as {new}: {words_of(group)}"
            yield context.splice(node.span, new, words, 1.0)


def stretches(context: RepairContext) -> Iterator[Proposal]:
    """What stands between the same marks in another order, whatever it is made of."""
    tree = context.parsed.tree
    items = list(without_asides(tree.items)) if isinstance(tree, Sequence) else []
    edges = [each for each in (items[:1], items[-1:]) if each and isinstance(each[0], Anchor)]
    inner = [each for each in items if not any(each in edge for edge in edges)]
    literal = [each.spelling for each in inner if isinstance(each, Character)]
    marks = dict.fromkeys(each for each in literal if not each.isalnum())
    for mark in list(marks)[:MOST_MARKS]:
        pieces: list[list[Node]] = [[]]
        for item in inner:
            if isinstance(item, Character) and item.spelling == mark:
                pieces.append([])
            else:
                pieces[-1].append(item)
        if not 2 <= len(pieces) <= MOST_STRETCHES or not all(pieces):
            continue
        spans = [(piece[0].span[0], piece[-1].span[1]) for piece in pieces]
        written = [context.case.expression[slice(*span)] for span in spans]
        for other in permutations(written):
            moved_ones = sum(one != two for one, two in zip(written, other, strict=True))
            if moved_ones:
                new = mark.join(other)
                words = f"what stands between {character_words(mark[-1])} comes in another order: {new}"
                cost = 0.9 + 0.05 * moved_ones + 0.6 * bool(context.held)
                yield context.splice((spans[0][0], spans[-1][1]), new, words, cost)


RULES = (swapped, words_swapped, stretches, letters_swapped, moved, spelled_out_moved, other_group)
