"""The parser reads what Python's engine reads, refuses what it refuses, and prints back what it read."""

from __future__ import annotations

import re
import warnings

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.errors import SyntaxFault
from fieldstick.syntax.constructs import BY_KEY, CONSTRUCTS
from fieldstick.syntax.parser import Parsed, parse
from fieldstick.syntax.probes import standing
from fieldstick.syntax.tree import spelled, walk

READ_OTHERWISE = {"posix-class", "set-operation", "set-difference", "set-subtraction", "word-start", "word-end"}
"""Notation of other engines that Python reads as something else."""

NOT_A_FORM = {"set-subtraction", "look-behind-width", "flags-further-on"}
"""What only some engines allow, in a notation that all of them share."""

VERBOSE = frozenset({"verbose"})


def compiled(expression: str, flags: int = 0) -> re.Pattern[str] | None:
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        try:
            return re.compile(expression, flags)
        except (re.error, OverflowError, ValueError):
            return None


def read(expression: str, flags: frozenset[str] = frozenset()) -> Parsed | SyntaxFault:
    try:
        return parse(expression, flags)
    except SyntaxFault as fault:
        return fault


def agree(expression: str) -> None:
    for bits, flags in ((0, frozenset[str]()), (re.VERBOSE, VERBOSE)):
        engine, own = compiled(expression, bits), read(expression, flags)
        if engine is None:
            assert isinstance(own, SyntaxFault), expression
            assert 0 <= own.span[0] <= own.span[1] <= len(expression) + 1
            continue
        assert isinstance(own, Parsed), f"{expression!r}: {own}"
        assert spelled(own.tree) == expression
        assert len(own.groups) == engine.groups
        assert {name: number for number, name in enumerate(own.groups, 1) if name} == dict(engine.groupindex)
        for node in walk(own.tree):
            assert spelled(node) == expression[slice(*node.span)], node


def test_real_expressions_are_read_as_the_engine_reads_them(harvested: tuple[str, ...]) -> None:
    for expression in harvested:
        agree(expression)


PIECES = st.sampled_from(
    [
        *"ab1 .^$*+?|()[]{}-,#\\\n", "(?:", "(?P<n>", "(?P=n)", "(?=", "(?<=", "(?<!", "(?>", "(?i)", "(?x)", "(?s-i:",
        "(?#c)", "(?(1)", "(?(n)", "\\d", "\\b", "\\1", "\\x41", "\\u00e9", "\\012", "\\N{DASH}", "\\Z", "\\q", "{2,3}",
        "{,}", "[^]", "[]-]",
    ]
)  # fmt: skip


@given(st.lists(PIECES, max_size=9).map("".join))
def test_so_are_expressions_put_together_by_chance(expression: str) -> None:
    agree(expression)


@pytest.mark.parametrize(
    ("expression", "at", "words"),
    [
        ("a(b", 1, "this parenthesis is not closed"),
        ("a)b", 1, "closes nothing"),
        ("[a-", 0, "not closed"),
        ("[z-a]", 1, "runs backwards; expected a-z"),
        ("a**", 2, "(?:a*)* repeats what is repeated"),
        ("+a", 0, r"a literal + is \+"),
        ("a{3,2}", 1, "{2,3}"),
        ("\\", 0, r"a literal backslash is \\"),
        (r"\y", 0, "without the backslash"),
        (r"(a)\2", 3, "group 2 cannot be referred to: there are 1 before it"),
        ("(?P<a>x)(?P<a>y)", 8, "two groups named 'a'"),
        ("(?P<a>x)(?P=b)", 8, "no group named 'b'"),
        ("a(?i)b", 1, "(?i:...)"),
        ("(?<=a+)b", 0, "a fixed number of characters, and this takes 1 or more"),
        ("(?<year>\\d)", 0, "here it is (?P<year>"),
        (r"\p{L}", 0, r"[^\W\d_] is a letter"),
        (r"\x{41}", 0, r"here it is \x41"),
        (r"a\z", 1, r"here it is \Z"),
    ],
)
def test_a_fault_has_its_place_and_what_may_be_meant(expression: str, at: int, words: str) -> None:
    with pytest.raises(SyntaxFault) as caught:
        parse(expression)
    assert caught.value.span[0] == at
    assert words in str(caught.value)


def test_the_notation_of_other_engines_is_read_and_marked() -> None:
    for construct in CONSTRUCTS:
        if standing(construct.key, "python") in ("has", "differs"):
            continue
        read_any = parse(construct.example, engine=None)
        assert spelled(read_any.tree) == construct.example
        if construct.key not in NOT_A_FORM:
            assert construct.key in [key for key, _ in read_any.foreign], construct
        if construct.key not in READ_OTHERWISE:
            with pytest.raises(SyntaxFault):
                parse(construct.example)


def test_the_examples_of_the_table_are_of_python_and_match() -> None:
    for construct in CONSTRUCTS:
        if standing(construct.key, "python") in ("has", "differs"):
            assert re.search(construct.example, construct.text), construct
    assert len(BY_KEY) == len(CONSTRUCTS)
