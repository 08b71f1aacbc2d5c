"""An expression with one piece otherwise: each variant is read by the engine, says which piece, and is another one."""

from __future__ import annotations

import random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from drawn import drawn_expression
from fieldstick.analysis.automaton.ambiguity import Graph, multiplying, ways_of
from fieldstick.analysis.automaton.building import trial_program_of
from fieldstick.analysis.automaton.threads import Automaton
from fieldstick.analysis.variants import quantifier, variants
from fieldstick.engines.probing import compiled_by_engine
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import Repeat


@given(st.integers(0, 9), st.none() | st.integers(0, 9), st.sampled_from(["greedy", "lazy", "possessive"]))
def test_a_quantifier_is_read_as_it_was_meant(least: int, more: int | None, mode: str) -> None:
    most = None if more is None else least + more
    tree = parse("a" + quantifier(least, most, mode)).tree
    assert isinstance(tree, Repeat) and (tree.least, tree.most) == (least, most)
    assert tree.mode == mode or (least, most) == (1, 1)


@pytest.mark.parametrize(
    ("expression", "kinds"),
    [
        ("a|b", {"option"}),
        ("(?P<x>a)?", {"optional", "bound", "mode", "group"}),
        ("a{2,3}", {"bound", "mode"}),
        ("a{2}", {"bound"}),
        ("[a-fx]", {"class"}),
        ("[^,]", {"class"}),
        (r"\d", {"class"}),
        (".", {"class"}),
        ("^a$", {"anchor"}),
        ("(?i)a", {"flag"}),
        ("(?s:.)", {"flag", "class"}),
        ("abc", set()),
    ],
)
def test_each_piece_is_asked_about_in_its_way(expression: str, kinds: set[str]) -> None:
    assert {each.kind for each in variants(parse(expression))} == kinds


def test_each_variant_is_read_by_the_engine_and_is_no_longer_the_expression() -> None:
    chance = random.Random("variants")
    seen = 0
    for _ in range(150):
        expression = drawn_expression(chance, 2)
        flags = frozenset(chance.choice([(), ("ignore-case",), ("dotall", "multiline")]))
        for each in variants(parse(expression, flags)):
            seen += 1
            start, end = each.span
            assert 0 <= start <= end <= len(expression) and each.words.startswith("no sample")
            assert (each.expression, each.flags) != (expression, flags)
            compiled = compiled_by_engine(each.expression, each.flags)
            # A reference to a group, or a look-behind, may not bear the change.
            assert compiled is not None or "(?<" in expression, (expression, each.expression)
    assert seen > 1_000


@pytest.mark.parametrize(
    ("expression", "ways"),
    [("a*", 6), ("(?:a|ab)*", 12), ("(a*)*", 2**6 - 1), ("a*a*", sum(range(2, 8))), ("a?a?a?", 3 + 3 + 1), ("b", 0)],
)
def test_ways_through_a_text_are_counted(expression: str, ways: int) -> None:
    graph = Graph(Automaton(trial_program_of(parse(expression))))
    letter = graph.automaton.alphabet.letter("a")
    assert ways_of(graph, letter, 6) == ways


@pytest.mark.parametrize(
    ("expression", "degree"),
    [
        ("(a*)*b", None),
        ("(a|ab|b)*c", None),
        ("a*a*b", 1),
        ("a*a*a*b", 2),
        ("a*ba*c", 0),
        ("(?:ab)*b", 0),
        ("a++a++b", 0),
    ],
)
def test_how_ways_multiply_is_told_by_the_longest_chain(expression: str, degree: int | None) -> None:
    found = next(multiplying(Graph(Automaton(trial_program_of(parse(expression))))), None)
    assert (found is None) is (degree == 0)
    if found is not None:
        assert found.degree == degree and all(pump for _, pump in found.pieces)
