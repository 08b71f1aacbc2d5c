"""Pieces that take anything where the texts that should fit have something of one shape."""

from __future__ import annotations

import re
from itertools import groupby, pairwise
from typing import TYPE_CHECKING

from fieldstick.drafting.context import class_spelling, common_start, escaped, escaped_text, quantifier, takes
from fieldstick.drafting.phrases import text_words
from fieldstick.drafting.slips.numbers import known_numbers
from fieldstick.drafting.slips.taking import took_at
from fieldstick.syntax.tree import (
    SINGLE,
    CharClass,
    Repeat,
    Sequence,
    literal_of,
    spelled,
    without_asides,
)

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import Proposal, RepairContext
    from fieldstick.drafting.slips.taking import Took
    from fieldstick.syntax.tree import Node

MOST_RUNS = 5
"""Runs of letters, digits and marks up to which texts have a shape."""


def as_shaped(context: RepairContext, node: Repeat, took: Took) -> Iterator[Proposal]:
    """A piece that takes anything, where all texts that should fit have something of one shape there."""
    if len(set(took.others)) < 2:
        return
    shapes = [_runs(each) for each in took.others]
    kinds = [kind for kind, _ in shapes[0]]
    if not 0 < len(kinds) <= MOST_RUNS or any([kind for kind, _ in each] != kinds for each in shapes):
        return
    lengths = [{each[at][1] for each in shapes} for at in range(len(kinds))]
    counted = "".join(
        kind + (quantifier(min(several), max(several)) if len(several) == 1 else "+")
        for kind, several in zip(kinds, lengths, strict=True)
    )
    free = "".join(kind + ("+" if len(kind) > 1 and kind[0] in "[\\" else "") for kind in kinds)
    for shape, cost in ((counted, 0.95), (free, 1.05)):
        words = f"{spelled(node)} took {text_words(took.own)}; what should fit has another shape: {shape}"
        yield context.splice(node.span, shape, words, cost + 0.05 * (len(kinds) == 1))


def _runs(text: str) -> list[tuple[str, int]]:
    """Return the runs of small letters, capitals, digits and marks of a text, and how long each is."""
    return [(kind, len(list(run))) for kind, run in groupby(text, key=_kind_of)]


def _kind_of(character: str) -> str:
    if character.isdigit():
        return r"\d"
    if character.isascii() and character.isalpha():
        return "[a-z]" if character.islower() else "[A-Z]"
    return escaped(character)


def unlikely_numbers(context: RepairContext) -> Iterator[Proposal]:
    """A number of two digits that is none of an hour, a month or the like."""
    for span, ways in known_numbers(context):
        took = took_at(context, span)
        if took is not None and any(took.others) and took.own.isdecimal() and len(took.own) < 10:
            number = int(took.own)
            yield from (proposal for low, high, proposal in ways if not low <= number <= high)


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


def without_zeros(context: RepairContext, node: Repeat, took: Took) -> Iterator[Proposal]:
    """A number that begins with 0, which none does that should fit."""
    plain = spelled(node.item) in (r"\d", "[0-9]") and node.most is None
    if plain and took.own[:1] == "0" and took.others and not any(each[:1] == "0" for each in took.others):
        new = f"[1-9]{spelled(node.item)}*"
        yield context.splice(node.span, new, f"no number that should fit begins with 0: {new}", 0.9)


def shared_start(context: RepairContext, node: Repeat, took: Took) -> Iterator[Proposal]:
    """What all texts that should fit begin with in the place of a piece of a fixed length."""
    head = common_start(took.others) if len(took.others) > 1 else ""
    if len(head) > 1 and not took.own.startswith(head) and node.least == node.most:
        left = node.least - len(head)
        new = escaped_text(head) + (spelled(node.item) + quantifier(left, left) if left > 0 else "")
        yield context.splice(node.span, new, f"what should fit begins with {text_words(head)}: {new}", 1.0)


def one_character(context: RepairContext, node: Node, took: Took) -> Iterator[Proposal]:
    """A class or dot that took the same character in all texts that should fit, or one of two or three marks."""
    used = sorted({each for each in took.others if each}, key=lambda each: (each == "-", each))
    if len(took.others) < 2 or not used or len(used) > 3 or took.own in used or any(len(each) > 1 for each in used):
        return
    if len(used) == 1 and len(took.own) == 1:
        words = f"the texts that should fit have {text_words(used[0])} there alone: {escaped(used[0])}"
        yield context.splice(node.span, escaped(used[0]), words, 0.8 + 0.2 * used[0].isalnum())
    elif len(used) > 1 and not any(map(str.isalnum, used)):
        made = f"[{''.join(map(class_spelling, used))}]"
        words = f"the texts that should fit have one of these marks there: {made}"
        yield context.splice(node.span, made, words, 0.85)


def loose_words(context: RepairContext, node: CharClass, own: str) -> Iterator[Proposal]:
    """`[\\w ]+` for words, which takes blanks anywhere and any number of them."""
    around = context.facts.parents.get(node)
    if not isinstance(around, Repeat) or node.negated or around.most is not None:
        return
    test = takes(spelled(node), context.parsed.flags - {"verbose"})
    marks = [each for each in " -'_,;." if test(each) and not (each == "_" and r"\w" in spelled(node))]
    kept = [spelled(each) for each in node.items if spelled(each) not in (*marks, r"\s", *map(escaped, marks))]
    if len(marks) != 1 or not test("a") or not kept or not re.search(r"^[\W_]|[\W_]$|[\W_]{2}", own):
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
                if isinstance(rest.item, SINGLE):
                    new = f"(?:{spelled(mark.item)}{item}{'+' if rest.most is None else rest.quantifier})?"
                    words = f"{spelled(mark.item)} comes and goes with what follows it: {new}"
                    yield context.splice((mark.span[0], rest.span[1]), new, words, 0.9)


RESTRAINTS = (unlikely_numbers, optional_decimals)
