"""Looking rows up by an index finds what looking at each of them does."""

from __future__ import annotations

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from fieldstick.matching.candidates import Candidates, ExactTexts, canonical, exact_parameter
from fieldstick.matching.for_any_value import for_any_value
from fieldstick.matching.prepare import prepare
from fieldstick.suites.suite import Pattern
from fieldstick.workspace import bare_pattern

WORDS = st.text(st.sampled_from("abkKsSſiİıé É7.+K\n\0"), max_size=7)
EXPRESSIONS = [
    "{{=x}}", r"\s*{{=x}}(?: station)?", "Site {{=x}}", "(?:{{=x}}|other)", "(?i:{{=x}})k", "({{=x}}){2}", "[{{=x}}a]+",
    "(?={{=x}})a.*", "{{=x}}?b", "ab{{=x}}{{=y}}",
    "{{=x}}$", r"\b{{=x}}\b", r"^{{=x}}", r"(?P<n>.)?{{=x}}+?(?:k|\n)*", "[^b]*{{=x}}", r"(a){{=x}}\1", r"(?<=a){{=x}}",
    r"{{=x}}\Z|b",
]  # fmt: skip


def pattern_of(expression: str, flags: list[str], reach: str) -> Pattern:
    made = bare_pattern(expression)
    return replace(made, reach=reach, flags=frozenset(flags), parameters=tuple(sorted(made.filling.parameters)))  # type: ignore[union-attr]


def test_one_expression_serves_all_values_where_that_says_the_same() -> None:
    ready = {each: for_any_value(pattern_of(each, ["ignore-case"], "whole")) for each in EXPRESSIONS}
    alike = [each for each, made in ready.items() if made is None]
    assert alike == [
        "(?i:{{=x}})k", "[{{=x}}a]+", "(?={{=x}})a.*", "ab{{=x}}{{=y}}", "^{{=x}}", r"(a){{=x}}\1", r"(?<=a){{=x}}",
    ]  # fmt: skip
    named = ready[r"\s*{{=x}}(?: station)?"]
    assert named is not None
    assert named.fits({"x": "B07"}, [" b07 station", "B07", "b7", "B07\n"]) == [True, True, False, False]
    # Beyond ASCII, and of a NUL, the expression itself is asked.
    assert named.fits({"x": "k"}, ["\u212a"]) is None and named.fits({"x": "\0"}, ["a"]) is None


@given(
    st.sampled_from(EXPRESSIONS),
    st.lists(st.sampled_from(["ignore-case", "ascii"]), max_size=2),
    st.sampled_from(["whole", "start", "anywhere"]),
    st.lists(WORDS, min_size=1, max_size=8),
    st.data(),
)
def test_no_row_that_fits_is_left_out(
    expression: str, flags: list[str], reach: str, words: list[str], data: st.DataObject
) -> None:
    pattern = pattern_of(expression, flags, reach)
    value = data.draw(st.sampled_from(words))
    turned = data.draw(st.sampled_from([str, str.upper, str.lower, str.swapcase]))
    texts = [*words, *(f"Site {turned(word)}" for word in words), *(turned(word) + " station" for word in words)]
    texts += [turned(word) * 2 + "k" for word in words] + [f"ab{turned(word)}{word}" for word in words]
    values = dict.fromkeys(pattern.parameters, value)
    fits = prepare(pattern, values).fits(texts)
    exact = exact_parameter(pattern)
    if exact is not None:
        assert list(ExactTexts(exact, texts).of(values)) == [index for index, each in enumerate(fits) if each]
    once = for_any_value(pattern)
    found = once.fits(values, texts) if once is not None else None
    assert found is None or found == fits
    candidates = list(Candidates(pattern, texts).of(values))
    assert candidates == sorted(candidates) and {index for index, each in enumerate(fits) if each} <= set(candidates)


@pytest.mark.parametrize(
    ("expression", "value", "found"),
    [
        (r"\s*{{=x}}(?: station)?", "B7", [1, 3]),
        ("{{=x}}.*", "q", []),
        ("(?:plot {{=x}}|{{=x}} again)", "7", [1, 3]),
        ("(?:{{=x}}|other) kind", "B7", [4]),
        ("[{{=x}}]+", "B7", [0, 1, 2, 3, 4]),
    ],
)
def test_rows_are_found_by_texts_of_any_length_and_by_each_branch(
    expression: str, value: str, found: list[int]
) -> None:
    texts = ["plot 6", "plot 7 B7", "b", "B7 again", "other kind"]
    ready = Candidates(pattern_of(expression, ["ignore-case"], "anywhere"), texts)
    assert list(ready.of({"x": value})) == found


@pytest.mark.parametrize("combination", ["any_of", "all_of", "none_of"])
def test_of_patterns_made_of_patterns_no_row_is_left_out_either(combination: str) -> None:
    members = (pattern_of("begin {{=x}}", [], "anywhere"), pattern_of("{{=x}} end", [], "anywhere"))
    pattern = Pattern("p", combination=combination, members=members, parameters=("x",))  # type: ignore[arg-type]
    texts = [f"{head}{word}{tail}" for head in ("", "begin ") for word in ("fen", "bog") for tail in ("", " end")]
    for value in ("fen", "bog", "x"):
        fits = prepare(pattern, {"x": value}).fits(texts)
        assert {index for index, each in enumerate(fits) if each} <= set(Candidates(pattern, texts).of({"x": value}))


def test_characters_that_ignoring_case_takes_for_one_another_have_one_canonical_form() -> None:
    cased = "".join(
        chr(code) for code in range(0x110000) if chr(code).lower() != chr(code) or chr(code).upper() != chr(code)
    )
    assert len(cased) > 2000
    for each in cased:
        for other in re.findall(re.escape(each), cased, re.IGNORECASE):
            assert canonical(each) == canonical(other), (each, other)
    assert len(canonical("İstanbul ß ﬁ")) == len("İstanbul ß ﬁ")
