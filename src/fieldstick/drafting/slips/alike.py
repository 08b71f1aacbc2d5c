"""Changes of several pieces at once, which keep a text out: pieces written alike are mended alike."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace

from fieldstick.drafting.context import Proposal, class_spelling, takes
from fieldstick.drafting.phrases import character_words
from fieldstick.drafting.slips.taking import KINDS, character_after, took_at
from fieldstick.syntax.tree import CharClass, Dot, Group, Repeat, Shorthand, literal_of, spelled

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import RepairContext
    from fieldstick.syntax.tree import Node

MOST_ALIKE = 8
"""Pieces written alike that are narrowed together, and marks of which two are taken for a pair."""


def all_stopped(context: RepairContext) -> Iterator[Proposal]:
    """Every piece that takes anything, stopped at its delimiter: one delimiter for all, or for each its own."""
    wide = [
        node
        for node in context.nodes
        if isinstance(node, Repeat)
        and (isinstance(node.item, Dot) or (isinstance(node.item, Shorthand) and node.item.spelling in (r"\S", r"\D")))
    ]
    if len(wide) < 2:
        return
    before: dict[Node, str] = {}
    for one, other in context.pairs():
        inner = other
        while isinstance(inner, Group):
            inner = inner.body
        before[inner] = (literal_of(one) or "")[-1:]
    after = {node: character_after(context, node) for node in wide}
    marks = [each for each in dict.fromkeys([*after.values(), *before.values()]) if each and not each.isalnum()]
    own = [after[node] or before.get(node, "") for node in wide]
    ways = [own, *([mark] * len(wide) for mark in marks)]
    for way in ways:
        made = context.case.expression
        if not all(each and not each.isalnum() for each in way):
            continue
        for node, mark in reversed(list(zip(wide, way, strict=True))):
            if not takes(spelled(node.item), context.parsed.flags - {"verbose"})(mark):
                continue
            start, end = node.item.span
            made = f"{made[:start]}[^{class_spelling(mark)}]{made[end:]}"
        named = " and ".join(map(character_words, dict.fromkeys(way)))
        words = f"each {spelled(wide[0])} took too much; stop at {named}: {made}"
        yield Proposal(replace(context.case, expression=made), words, 0.95)


def all_narrowed(context: RepairContext) -> Iterator[Proposal]:
    """Pieces written alike that all take too much, narrowed alike."""
    flags = context.parsed.flags - {"verbose"}
    several: dict[str, list[Node]] = {}
    for node in context.nodes:
        if isinstance(node, Shorthand | Dot | CharClass) and not context.facts.is_in_class(node):
            several.setdefault(spelled(node), []).append(node)
    for spelling, nodes in several.items():
        if not 2 <= len(nodes) <= MOST_ALIKE:
            continue
        around = [context.facts.parents.get(each) if context.facts.is_repeated(each) else each for each in nodes]
        took = [took_at(context, each.span) for each in around if each is not None]
        used = "".join(other for each in took if each is not None for other in each.others)
        for kind, cost in KINDS.items():
            test = takes(kind, flags)
            odd = sum(each is not None and not all(map(test, each.own)) for each in took)
            if not used or kind == spelling or not odd or not all(map(test, used)):
                continue
            made = context.case.expression
            for node in reversed(nodes):
                made = made[: node.span[0]] + kind + made[node.span[1] :]
            words = f"each {spelling} took too much; allow less: {kind}"
            yield Proposal(replace(context.case, expression=made), words, cost + (0.05 if odd == 1 else -0.1))


def all_required(context: RepairContext) -> Iterator[Proposal]:
    """Marks that may be lacking, one at a time: all of them asked for, as quotes are."""
    marks: dict[str, list[Repeat]] = {}
    for node in context.nodes:
        if isinstance(node, Repeat) and (node.least, node.most) == (0, 1):
            literal = literal_of(node.item)
            if literal is not None and not literal.isalnum():
                marks.setdefault(literal, []).append(node)
    for mark, nodes in marks.items():
        if len(nodes) > 1:
            made = context.case.expression
            for node in reversed(nodes):
                made = made[: node.item.span[1]] + made[node.span[1] :]
            words = f"{character_words(mark)} is asked for each time"
            yield Proposal(replace(context.case, expression=made), words, 0.95)


def same_mark_again(context: RepairContext) -> Iterator[Proposal]:
    """Two classes of the same marks, of which the second was meant to be the mark that the first took."""
    expression = context.case.expression
    classes = [
        node
        for node in context.nodes
        if isinstance(node, CharClass) and not node.negated and not any(map(str.isalnum, spelled(node)))
    ]
    for at, one in enumerate(classes):
        for other in classes[at + 1 : at + MOST_ALIKE]:
            first, second = took_at(context, one.span), took_at(context, other.span)
            if spelled(one) != spelled(other) or first is None or second is None or first.own == second.own:
                continue
            made = f"(?P<mark>{spelled(one)}){expression[one.span[1] : other.span[0]]}(?P=mark)"
            words = f"what {spelled(one)} took first is meant to come again: {made}"
            yield context.splice((one.span[0], other.span[1]), made, words, 0.9)


def all_tighter(context: RepairContext) -> Iterator[Proposal]:
    """The same piece several times, each of which is there."""
    written: dict[str, list[Repeat]] = {}
    for node in context.nodes:
        if isinstance(node, Repeat) and node.quantifier == "*":
            written.setdefault(spelled(node), []).append(node)
    for spelling, nodes in written.items():
        if len(nodes) > 1:
            made = context.case.expression
            for node in reversed(nodes):
                made = f"{made[: node.span[1] - 1]}+{made[node.span[1] :]}"
            words = f"{spelling} is asked for at least once, each time: +"
            yield Proposal(replace(context.case, expression=made), words, 1.05)


_PAIRS = {"(": ")", "[": "]", "{": "}", "<": ">", "\u201c": "\u201d", "'": "'", '"': '"'}


def both_or_none(context: RepairContext) -> Iterator[Proposal]:
    """Marks that open and close, each of which may be lacking: both of them, or none."""
    expression = context.case.expression
    marks = [(each, literal_of(each.item)) for each in context.nodes if isinstance(each, Repeat) and each.least == 0]
    for at, (one, opening) in enumerate(marks):
        for other, closing in marks[at + 1 : at + MOST_ALIKE]:
            if opening in _PAIRS and _PAIRS[opening] == closing:
                inner = expression[one.span[1] : other.span[0]]
                new = f"(?:{spelled(one.item)}{inner}{spelled(other.item)}|{inner})"
                words = f"{opening} and {closing} stand both or not at all: {new}"
                if "(?P<" not in inner:
                    yield context.splice((one.span[0], other.span[1]), new, words, 0.9)


RESTRAINTS = (all_tighter, both_or_none, all_stopped, all_narrowed, all_required, same_mark_again)
