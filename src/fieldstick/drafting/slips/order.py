"""Pieces in another order than the text has, and references to another group."""

from __future__ import annotations

from itertools import pairwise
from typing import TYPE_CHECKING

from fieldstick.drafting.phrases import phrase
from fieldstick.syntax.tree import (
    Anchor,
    Backreference,
    Character,
    Group,
    Repeat,
    Sequence,
    spelled,
    without_asides,
)

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import Proposal, RepairContext

MOST_APART = 4
"""Pieces of which two change places at the most, with what lies between them."""


def swapped(context: RepairContext) -> Iterator[Proposal]:
    """Two pieces of a sequence that change places; what parts them stays where it is."""
    expression = context.case.expression
    for node in context.nodes:
        items = without_asides(node.items) if isinstance(node, Sequence) else ()
        pieces = [each for each in items if not isinstance(each, Character | Anchor)]
        for at, one in enumerate(pieces):
            for other in pieces[at + 1 : at + MOST_APART]:
                first, second = expression[slice(*one.span)], expression[slice(*other.span)]
                if first == second:
                    continue
                between = expression[one.span[1] : other.span[0]]
                words = f"{first} and {second} change places"
                cost = 0.95 if isinstance(one, Group | Repeat) and isinstance(other, Group | Repeat) else 1.5
                far = 0.1 * (pieces.index(other) - at - 1)
                yield context.splice((one.span[0], other.span[1]), second + between + first, words, cost + far)


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


def other_group(context: RepairContext) -> Iterator[Proposal]:
    """A backreference to a group that is not the one meant."""
    groups = [each for each in context.nodes if isinstance(each, Group) and each.number is not None]
    for node in context.nodes:
        if not isinstance(node, Backreference):
            continue
        for group in groups:
            if group.number == node.number:
                continue
            new = f"(?P={group.name})" if group.name is not None else f"\\{group.number}"
            words = f"{spelled(node)} is meant as {new}: {phrase(group, context.parsed.flags, short=True)}"
            yield context.splice(node.span, new, words, 1.0)


RULES = (swapped, letters_swapped, moved, other_group)
