"""Sets of characters obey the laws of sets, and facts about a tree are those of the tree."""

from __future__ import annotations

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.analysis.character_sets import characters_of
from fieldstick.analysis.facts import facts_of
from fieldstick.errors import SyntaxFault
from fieldstick.syntax.characters import EVERYTHING, LAST, NOTHING, CharacterSet
from fieldstick.syntax.parser import Parsed, parse
from fieldstick.syntax.tree import CharClass, Repeat, children, walk
from trees import EXPRESSIONS

POINTS = st.integers(0, 40) | st.integers(LAST - 3, LAST)
SETS = st.frozensets(POINTS, max_size=12)


def as_set(points: frozenset[int]) -> CharacterSet:
    return CharacterSet.of((point, point) for point in points)


def points_of(found: CharacterSet) -> set[int]:
    return {point for first, last in found.intervals for point in range(first, last + 1)}


@given(SETS, SETS)
def test_union_difference_and_intersection_are_those_of_sets(one: frozenset[int], two: frozenset[int]) -> None:
    first, second = as_set(one), as_set(two)
    assert points_of(first | second) == one | two
    assert points_of(first & second) == one & two
    assert points_of(first - second) == one - two
    assert (first <= second) == (one <= two) and bool(first) == bool(one) and len(first) == len(one)
    assert all((chr(point) in first) == (point in one) for point in one | two | {0, 41, LAST})
    assert 7 not in first


@given(SETS, SETS)
def test_what_is_left_out_and_what_is_in_make_everything(one: frozenset[int], two: frozenset[int]) -> None:
    first, second = as_set(one), as_set(two)
    assert first | ~first == EVERYTHING and first & ~first == NOTHING and ~~first == first
    assert ~(first | second) == ~first & ~second
    assert len(~first) == LAST + 1 - len(one)
    ends = [edge for interval in first.intervals for edge in interval]
    assert ends == sorted(ends) and all(b - a > 1 for a, b in zip(ends[1::2], ends[2::2], strict=False))


@pytest.mark.parametrize("flags", [frozenset[str](), frozenset({"ignore-case"}), frozenset({"ascii", "ignore-case"})])
@pytest.mark.parametrize("spelling", ["k", "[a-fK]", "[^a-z]", r"\d", r"\W", ".", r"[\s,]", "[ſ-ƀ]"])
def test_the_characters_of_a_node_are_those_that_the_engine_takes(spelling: str, flags: frozenset[str]) -> None:
    bits = (re.IGNORECASE if "ignore-case" in flags else 0) | (re.ASCII if "ascii" in flags else 0)
    takes = re.compile(spelling, bits).fullmatch
    found = characters_of(parse(spelling).tree, flags)
    for point in [*range(0x250), 0x660, 0x1E9E, 0x2028, 0x212A, 0x10FFFF]:
        assert (chr(point) in found) == (takes(chr(point)) is not None), (spelling, flags, hex(point))


def test_an_item_of_a_class_has_characters_and_a_group_has_none() -> None:
    tree = parse("[a-fx]").tree
    assert isinstance(tree, CharClass)
    assert points_of(characters_of(tree.items[0])) == set(range(ord("a"), ord("f") + 1))
    assert "B" in characters_of(tree.items[0], frozenset({"ignore-case"}))
    with pytest.raises(TypeError, match="does not take exactly one"):
        characters_of(parse("(a)").tree)


def parsed_or_none(expression: str) -> Parsed | None:
    try:
        return parse(expression)
    except SyntaxFault:
        return None


@given(EXPRESSIONS)
def test_facts_are_worked_out_once_and_are_those_of_the_tree(expression: str) -> None:
    parsed = parsed_or_none(expression)
    if parsed is None:
        return
    facts = facts_of(parsed)
    assert facts is facts_of(parsed) and facts.nodes == tuple(walk(parsed.tree))
    assert set(facts.parents) == set(facts.nodes[1:])
    for node in facts.nodes:
        assert all(facts.parents[child] is node for child in children(node))
        inside = any(node in list(walk(each))[1:] for each in facts.nodes if isinstance(each, CharClass))
        assert facts.is_in_class(node) == inside
        assert facts.is_repeated(node) == any(isinstance(e, Repeat) and e.item is node for e in facts.nodes)
