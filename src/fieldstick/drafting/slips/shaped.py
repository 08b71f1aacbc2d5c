"""Pieces that take anything where the texts that should fit have something of one shape."""

from __future__ import annotations

import re
from itertools import pairwise
from typing import TYPE_CHECKING

from fieldstick.drafting.context import escaped, takes
from fieldstick.drafting.phrases import text_words
from fieldstick.drafting.slips.numbers import known_numbers
from fieldstick.drafting.slips.taking import took_at
from fieldstick.syntax.tree import (
    Character,
    CharClass,
    Dot,
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
    from fieldstick.drafting.slips.taking import Took
    from fieldstick.syntax.tree import Node

_SHAPES = (
    "[A-Z][a-z]+", r"[A-Z][a-z]+(?: [a-z]+)+", r"\d+\.\d+", r"\d+(?:\.\d+)?", r"\d+(?:,\d+)?", "[A-Z]+", r"[A-Z]+\d+",
    "[a-z]+(?:-[a-z]+)*",
)  # fmt: skip
"""Shapes of what several texts have in the place of a piece that takes anything."""


def as_shaped(context: RepairContext, node: Repeat, took: Took) -> Iterator[Proposal]:
    """A piece that takes anything, where all texts that should fit have something of one shape there."""
    if len(set(took.others)) < 2:
        return
    for shape in _SHAPES:
        test = re.compile(shape).fullmatch
        mark = re.search(r"\(\?:\\?(\W)", shape)
        needed = mark is None or any(mark[1] in each for each in took.others)
        if needed and all(map(test, took.others)) and not test(took.own):
            words = f"{spelled(node)} took {text_words(took.own)}; what should fit has another shape: {shape}"
            yield context.splice(node.span, shape, words, 0.95)


def unlikely_numbers(context: RepairContext) -> Iterator[Proposal]:
    """A number of two digits that is none of an hour, a month or the like."""
    for span, ways in known_numbers(context):
        took = took_at(context, span)
        for low, high, proposal in ways:
            if took is not None and took.own.isdecimal() and not low <= int(took.own) <= high:
                yield proposal


def first_capital(context: RepairContext, node: Repeat, took: Took) -> Iterator[Proposal]:
    """Words of which all that should fit begin with a capital, and the one in question does not."""
    if not took.others or not all(each[:1].isupper() for each in took.others) or took.own[:1].isupper():
        return
    item = spelled(node.item)
    more = "*" if node.least < 2 and node.most is None else ""
    if more and takes(item, frozenset())("A"):
        for amount, cost in (("+", 1.0), ("*", 1.05)):
            new = f"[A-Z]{item}{amount}"
            words = f"what should fit begins with a capital: {new}"
            yield context.splice(node.span, new, words, cost + 0.1 * (len(set(took.others)) < 2))


def one_character(context: RepairContext, node: Node, took: Took) -> Iterator[Proposal]:
    """A class or dot that took the same character in all texts that should fit."""
    used = set(took.others)
    if len(took.others) > 1 and len(used) == 1 and took.own not in used and len(took.own) == 1:
        only = used.pop()
        if len(only) == 1:
            words = f"the texts that should fit have {text_words(only)} there alone: {escaped(only)}"
            yield context.splice(node.span, escaped(only), words, 0.8 + 0.2 * only.isalnum())


def loose_words(context: RepairContext, node: CharClass, own: str) -> Iterator[Proposal]:
    """`[\\w ]+` for words, which takes blanks anywhere and any number of them."""
    around = context.facts.parents.get(node)
    if not isinstance(around, Repeat) or node.negated or around.most is not None:
        return
    test = takes(spelled(node), context.parsed.flags - {"verbose"})
    marks = [each for each in " -'_,;." if test(each) and not (each == "_" and r"\w" in spelled(node))]
    kept = [spelled(each) for each in node.items if spelled(each) not in (*marks, r"\s", *map(escaped, marks))]
    if len(marks) != 1 or not test("a") or not kept or not re.search(r"^\W|\W$|\W{2}", own):
        return
    alone = len(kept) == 1 and kept[0].startswith("\\")
    item = kept[0] if alone else f"[{''.join(kept)}]"
    new = f"{item}+(?:{escaped(marks[0])}{item}+)*"
    words = f"{spelled(around)} takes marks anywhere and in any number: {new}"
    yield context.splice(around.span, new, words, 0.9)


def optional_decimals(context: RepairContext) -> Iterator[Proposal]:
    """`\\d+\\.?\\d*` for a number, which may end with its mark."""
    for node in context.nodes:
        items = without_asides(node.items) if isinstance(node, Sequence) else ()
        for mark, rest in pairwise(items):
            is_mark = isinstance(mark, Repeat) and (mark.least, mark.most) == (0, 1) and literal_of(mark.item)
            if is_mark and isinstance(mark, Repeat) and isinstance(rest, Repeat) and rest.least == 0:
                item = spelled(rest.item)
                if isinstance(rest.item, Shorthand | CharClass | Character | Dot):
                    new = f"(?:{spelled(mark.item)}{item}{'+' if rest.most is None else rest.quantifier})?"
                    words = f"{spelled(mark.item)} comes and goes with what follows it: {new}"
                    yield context.splice((mark.span[0], rest.span[1]), new, words, 0.9)


RESTRAINTS = (unlikely_numbers, optional_decimals)
