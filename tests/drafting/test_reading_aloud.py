"""`explain`: the words are exact, each tied to its piece of source; hazards are named where they are and only there."""

from __future__ import annotations

import re

import pytest

from fieldstick.analysis.hazards import hazards, pattern_hazards
from fieldstick.drafting.examples import examples
from fieldstick.drafting.outline import outline
from fieldstick.errors import SyntaxFault
from fieldstick.syntax.parser import parse


def words(expression: str, *flags: str) -> str:
    return " / ".join(line.words for line in outline(parse(expression, frozenset(flags))).lines)


@pytest.mark.parametrize(
    ("expression", "flags", "told"),
    [
        (".", [], "any character but a line feed"),
        (".", ["dotall"], "any character"),
        (r"\d", [], "a digit of any alphabet"),
        (r"\d", ["ascii"], "a digit 0 to 9"),
        (r"\D", [], "anything but a digit of any alphabet"),
        (r"\d\D+", [], r"anything but a digit of any alphabet (\D, not \d), once or more"),
        ("$", [], "the end of the text, or before a line feed that ends it"),
        ("$", ["multiline"], "the end of a line"),
        (r"\Z", [], "the very end of the text"),
        ("a", ["ignore-case"], "'a' in either case"),
        ("[^a-c_]", [], "anything but a to c or '_'"),
        (r"a{2,4}?", [], "'a', 2 to 4 times; takes as few as it can, then more"),
        ("a+", [], "'a', once or more; takes as many as it can, then gives back"),
        ("a++", [], "'a', once or more; takes as many as it can and gives none back"),
        ("(?P<row>[A-F])", [], "group 1 'row': one of A to F"),
        ("(a)(?:b|cd)", [], "group 1: 'a' / 'b' or 'cd', the first that leads to a match"),
        (r"(a)\1", [], "group 1: 'a' / what group 1 captured, once more"),
        ("(?=x)", [], "only if this follows: / 'x'"),
        ("(?<!x)", [], "only if not this stands before: / 'x'"),
        ("(a)?(?(1)b|c)", [], "if group 1 took part: / 'b' / otherwise: / 'c'"),
        (r"\u00a0", [], "a no-break space"),
    ],
)
def test_the_words_are_exact(expression: str, flags: list[str], told: str) -> None:
    assert told in words(expression, *flags)


def test_each_line_is_tied_to_its_piece_of_source(harvested: tuple[str, ...]) -> None:
    for expression in harvested:
        try:
            parsed = parse(expression)
        except SyntaxFault:
            continue
        for line in outline(parsed).lines:
            assert line.source == expression[slice(*line.span)]
            assert line.words


def test_lengths_bound_every_match_and_examples_fit(harvested: tuple[str, ...]) -> None:
    tried = 0
    for expression in harvested:
        try:
            parsed = parse(expression)
        except SyntaxFault:
            continue
        told = outline(parsed)
        for text in examples(parsed, "whole"):
            tried += 1
            assert re.fullmatch(expression, text)
            assert told.shortest <= len(text)
            assert told.longest is None or len(text) <= told.longest
    assert tried > len(harvested)


HAZARDS = [
    ("[A-z]+", "wide-range", 1),
    ("[in|out]", "bar-in-class", 3),
    ("[north]7", "word-in-class", 0),
    (r"[\w_]", "twice-in-class", 3),
    ("^a|b$", "anchored-alternation", 0),
    (r"\d+.\d", "dot-in-number", 3),
    ('"(.*)"', "takes-anything", 2),
    (r"(?P<a>\d)(x)", "number-shifts", 9),
    (r"\d*", "matches-nothing", 0),
    ("a{0}b", "bounds-never-met", 0),
    ("(?:^a){2}", "bounds-never-met", 0),
    ("in|into", "hidden-option", 3),
    (r"(?:(a)|b)\1", "absent-reference", 9),
    ("(a+)+b", "nested-repeats", 0),
    (r"\b%\d", "boundary-by-mark", 0),
    ("a^b", "anchor-never-holds", 1),
    ("a$b", "anchor-never-holds", 1),
    ("x[[:alpha:]]", "other-notation", 1),
]
CLEAN = [
    "[A-Za-z]", "[|]", "[aeiou]", r"[\w-]", r"^\s+|\s+$", r"\d+\.\d", '"([^"]*)"', r"(?P<a>\d)(?P<b>x)", r"\d+",
    "into|in", r"(a)?(?(1)b|c)", r"(a)\1?", "(?:a+b)+", "(?:a|b)+", r"\b\d", r"\n^b$\n", "(?i)[a-z]", "(?:ab?)+c",
    "ba{0,3}", "[imsx]*y",
]  # fmt: skip


@pytest.mark.parametrize(("expression", "kind", "at"), HAZARDS)
def test_a_hazard_is_named_at_its_place(expression: str, kind: str, at: int) -> None:
    found = [(hazard.kind, hazard.span[0]) for hazard in hazards(parse(expression), "anywhere")]
    assert (kind, at) in found


def test_a_class_is_wider_under_a_flag_from_outside() -> None:
    (found,) = hazards(parse("[a-z]", frozenset({"ignore-case"})))
    assert found.kind == "class-wider" and "takes capitals too" in found.reason


@pytest.mark.parametrize("expression", CLEAN)
def test_what_is_no_hazard_is_left_in_peace(expression: str) -> None:
    flags = frozenset({"multiline"}) if "^b$" in expression else frozenset[str]()
    assert hazards(parse(expression, flags), "anywhere") == []


def test_hazards_fire_seldom_on_real_expressions(harvested: tuple[str, ...]) -> None:
    fired = total = 0
    for expression in harvested:
        try:
            parsed = parse(expression)
        except SyntaxFault:
            continue
        total += 1
        fired += bool(hazards(parsed, "anywhere"))
    assert total > len(harvested) / 2
    assert fired / total < 0.05


def test_samples_and_fields_show_further_hazards() -> None:
    found = pattern_hazards(parse("3.5"), "whole", ["3.5"], has_fields=False)
    assert [hazard.kind for hazard in found] == ["dot-in-number"]
    dotted = pattern_hazards(parse("a.b"), "whole", ["a.b"], has_fields=False)
    assert [hazard.kind for hazard in dotted] == ["dot-for-point"]
    assert pattern_hazards(parse("a.b"), "whole", ["a.b", "a-b"], has_fields=False) == []
    assert [hazard.kind for hazard in pattern_hazards(parse("(a)b"), "whole", [], has_fields=True)] == ["number-shifts"]


def test_the_page_of_hazards_has_every_kind() -> None:
    from pathlib import Path

    page = (Path(__file__).parents[2] / "docs" / "hazards.md").read_text(encoding="utf-8")
    for kind in {kind for _, kind, _ in HAZARDS} | {"dot-for-point", "class-wider"}:
        assert f"## {kind}" in page
