"""Characters, counts and nodes in words."""

from __future__ import annotations

import pytest

from fieldstick.drafting.context import MatchCase, RepairContext
from fieldstick.drafting.phrases import character_words, phrase, quantity, text_words
from fieldstick.drafting.slips.narrowing import restraints
from fieldstick.drafting.tracer import trace
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import literal_of
from fieldstick.syntax.widths import width


@pytest.mark.parametrize(
    ("character", "words"),
    [
        ("a", "'a'"),
        (" ", "a blank"),
        ("\t", "a tab"),
        ("\n", "a line feed"),
        ("'", "an apostrophe"),
        ("\u00a0", "a no-break space"),
        ("\u200b", "U+200B (zero width space)"),
        ("\u0301", "U+0301 (combining acute accent)"),
        ("\x07", "U+0007"),
        ("漢", "'漢'"),
    ],
)
def test_a_character_is_named_so_that_it_can_be_told(character: str, words: str) -> None:
    assert character_words(character) == words
    assert text_words(character) == words


@pytest.mark.parametrize(
    ("least", "most", "words"),
    [
        (0, 1, "optional"),
        (0, None, "any number of times"),
        (1, None, "once or more"),
        (3, None, "3 times or more"),
        (1, 1, "once"),
        (4, 4, "exactly 4 times"),
        (2, 4, "2 to 4 times"),
        (0, 4, "at most 4 times"),
    ],
)
def test_how_often_is_said_in_words(least: int, most: int | None, words: str) -> None:
    assert quantity(least, most) == words


@pytest.mark.parametrize(
    ("expression", "words"),
    [
        ("[abc]", "one of 'a', 'b' or 'c'"),
        ("[^a]", "anything but 'a'"),
        (r"[\d.]", "one of a digit or '.'"),
        ("in|out", "'in' or 'out'"),
        ("(?:abc)", "'abc'"),
        ("(?P<n>a)", "group 1 'n' ('a')"),
        ("(?!a)", "not followed by 'a'"),
        ("(?<=a)", "after 'a'"),
        ("", "nothing"),
    ],
)
def test_a_node_is_a_noun_phrase(expression: str, words: str) -> None:
    assert phrase(parse(expression).tree, frozenset(), short=True) == words


@pytest.mark.parametrize(
    ("expression", "bounds"),
    [
        ("abc", (3, 3)),
        ("a?b*c+", (1, None)),
        ("a{2,4}|b", (1, 4)),
        ("(ab)?", (0, 2)),
        ("^$", (0, 0)),
        ("(?=abc)a", (1, 1)),
        (r"(a|bb)\1", (2, 4)),
        ("(a)?(?(1)bb|c)", (1, 3)),
        ("(?:a{0})*", (0, 0)),
        ("(?:){5}", (0, 0)),
    ],
)
def test_a_tree_knows_how_much_it_takes(expression: str, bounds: tuple[int, int | None]) -> None:
    parsed = parse(expression)
    assert width(parsed.tree, parsed.widths) == bounds


@pytest.mark.parametrize(
    ("expression", "text"),
    [("abc", "abc"), (r"a\.b", "a.b"), ("(?:ab)c", "abc"), ("a.", None), ("(a)", None), ("", "")],
)
def test_a_text_alone_is_known_as_one(expression: str, text: str | None) -> None:
    assert literal_of(parse(expression).tree) == text


@pytest.mark.parametrize(
    ("expression", "reach", "text", "change"),
    [
        (r"\d+", "anywhere", "x12", r"^\d+"),
        (r"\d+", "anywhere", "12x", r"\d+$"),
        (r"a|b", "anywhere", "xb", "^(?:a|b)"),
        (r"\w+", "whole", "Owl", "[a-z]+"),
        (r"\d?", "whole", "", r"\d"),
        (r"<.*>", "whole", "<a><b>", "<[^>]*>"),
    ],
)
def test_what_keeps_a_text_out_is_proposed(expression: str, reach: str, text: str, change: str) -> None:
    parsed = parse(expression)
    case = MatchCase(expression, frozenset(), reach, text)  # type: ignore[arg-type]
    traced = trace(parsed, text, reach)  # type: ignore[arg-type]
    assert change in [each.case.expression for each in restraints(RepairContext(case, parsed, traced))]
