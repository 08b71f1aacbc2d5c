"""The tracing matcher agrees with Python's engine, and says how far a match came."""

from __future__ import annotations

import re
import warnings

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import EXHAUSTIVE
from fieldstick.drafting.tracer import trace, trace_all
from fieldstick.errors import SyntaxFault
from fieldstick.syntax.parser import parse

ATOMS = st.sampled_from(
    [
        "a",
        "b",
        "B",
        ".",
        "[ab]",
        "[^a]",
        r"\w",
        r"\W",
        r"\b",
        r"\B",
        "^",
        "$",
        r"\Z",
        "",
        r"\n",
        "(?i:A)",
        "(?<=a)",
        "(?<!b|c)",
    ]
)
QUANTIFIERS = st.sampled_from(
    ["*", "+", "?", "{2}", "{1,2}", "{0,3}", "*?", "+?", "??", "{1,2}?", "*+", "++", "?+", "{1,2}+"]
)


def bigger(inner: st.SearchStrategy[str]) -> st.SearchStrategy[str]:
    return st.one_of(
        st.tuples(inner, inner).map("".join),
        st.tuples(inner, inner).map(lambda pair: f"(?:{pair[0]}|{pair[1]})"),
        inner.map(lambda each: f"({each})"),
        st.tuples(inner, QUANTIFIERS).map(lambda pair: f"(?:{pair[0]}){pair[1]}"),
        st.tuples(st.sampled_from(["(?=", "(?!", "(?>"]), inner).map(lambda pair: f"{pair[0]}{pair[1]})"),
        inner.map(lambda each: f"({each})\\1"),
        inner.map(lambda each: f"(a)?{each}(?(1)b|c)"),
    )


EXPRESSIONS = st.recursive(ATOMS, bigger, max_leaves=8)


def compiled(expression: str, flags: int = 0) -> re.Pattern[str] | None:
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        try:
            return re.compile(expression, flags)
        except re.error:
            return None


def agree(expression: str, text: str, flags: frozenset[str] = frozenset()) -> None:
    engine = compiled(expression, re.IGNORECASE if flags else 0)
    if engine is None:
        return
    parsed = parse(expression, flags)
    for reach, method in (("whole", engine.fullmatch), ("start", engine.match), ("anywhere", engine.search)):
        try:
            found = method(text)
        except SystemError:
            continue  # Python 3.11 breaks down on some possessive repeats
        traced = trace(parsed, text, reach, steps=30_000)  # type: ignore[arg-type]
        if traced.complete:
            assert traced.spans == (found.regs if found else None), (expression, text, reach)


@settings(max_examples=400 if not EXHAUSTIVE else 5000)
@given(EXPRESSIONS, st.text(alphabet="abcB \n", max_size=7), st.booleans())
def test_it_finds_the_same_match_and_groups_as_the_engine(expression: str, text: str, ignore: bool) -> None:
    agree(expression, text, frozenset({"ignore-case"}) if ignore else frozenset())


@given(EXPRESSIONS, st.text(alphabet="abc \n", max_size=7))
def test_and_the_same_matches_one_after_another(expression: str, text: str) -> None:
    engine = compiled(expression)
    if engine is None:
        return
    try:
        found = [each.regs for each in engine.finditer(text)]
    except SystemError:
        return
    assert trace_all(parse(expression), text) == found


def test_so_it_does_with_real_expressions(harvested: tuple[str, ...]) -> None:
    texts = ["", "a", "foo_bar = 3.14", "'quoted \\'text\\''\n", "  # a comment", "ſK\u212a İı ß"]
    for expression in harvested[::2]:
        try:
            parsed_well = parse(expression)
        except SyntaxFault:
            continue
        assert parsed_well.expression == expression
        for text in texts:
            agree(expression, text)
        agree(expression, texts[-1], frozenset({"ignore-case"}))


@pytest.mark.parametrize(
    ("expression", "text", "reach", "furthest", "wanted"),
    [
        (r"probe=[A-F]\d{2}", "probe=G07", "whole", 6, ["[A-F]"]),
        (r"\d+\.\d%", "31%", "whole", 2, [r"\d+", r"\."]),
        (r"in|out", "on", "whole", 1, ["u"]),
        (r"B07", "B07 ", "whole", 3, [""]),
        (r"a(?=b)c", "ac", "start", 1, ["(?=b)"]),
        (r"(a)\1", "ab", "whole", 1, [r"\1"]),
        (r"trap=C\d", "probe=B07 trap=C", "anywhere", 16, [r"\d"]),
    ],
)
def test_it_says_how_far_the_match_came_and_what_was_asked_for(
    expression: str, text: str, reach: str, furthest: int, wanted: list[str]
) -> None:
    from fieldstick.syntax.tree import spelled

    traced = trace(parse(expression), text, reach)  # type: ignore[arg-type]
    assert traced.spans is None
    assert traced.furthest == furthest
    assert [spelled(each.node) for each in traced.wanted] == wanted


def test_it_gives_up_after_its_steps_and_says_so() -> None:
    traced = trace(parse("(a+)+$"), "a" * 40 + "b", steps=5000)
    assert not traced.complete and traced.spans is None and traced.furthest == 40


def test_it_counts_what_was_given_back() -> None:
    traced = trace(parse(r"\d+7"), "1237")
    assert traced.spans == ((0, 4),)
    assert traced.given_back == {(0, 3): 1}
    assert trace(parse("(?:ab|ac|a)d"), "ad").given_back == {(3, 10): 2}
