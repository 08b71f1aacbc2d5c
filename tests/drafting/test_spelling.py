"""What is spelled of texts takes those texts: classes, amounts, numbers with their fields."""

from __future__ import annotations

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.drafting.context import escaped_text
from fieldstick.drafting.proposals.literal_numbers import are_literal, literals_of, parted
from fieldstick.drafting.proposals.numerals import digits_of, loosely_grouped, number_of
from fieldstick.drafting.proposals.quoting import enclosed_by
from fieldstick.drafting.proposals.spelling import LEVELS, Level, amount_of, class_of, kind_of, never_first
from fieldstick.suites.fieldtypes import FieldSpec

WORDS = st.lists(st.text('abfzABFZ019_-.,:/ é漢"[]^\\', min_size=1, max_size=8), min_size=1, max_size=12)
LEVEL = st.sampled_from(LEVELS)
POINTED = st.from_regex(r"[+-]?\d{1,4}(\.\d{1,3})?", fullmatch=True)
COMMAS = st.from_regex(r"[+-]?\d{1,4}(,\d{1,2})?", fullmatch=True)
GROUPED = st.from_regex(r"[+-]?[1-9]\d{0,2}(,\d{3}){0,2}(\.\d{1,2})?", fullmatch=True)
POINTS_FOR_GROUPS = st.from_regex(r"[1-9]\d{0,2}(\.\d{3}){2}(,\d{1,2})?", fullmatch=True)
SCIENTIFIC = st.from_regex(r"-?\d(\.\d{1,2})?[eE][+-]?\d{1,2}", fullmatch=True)
LEADING = st.from_regex(r"\d{0,2}\.\d{1,2}", fullmatch=True)
KINDS_OF_NUMBER = [POINTED, COMMAS, GROUPED, POINTS_FOR_GROUPS, SCIENTIFIC, LEADING]


@given(WORDS, LEVEL)
def test_a_class_takes_every_character_that_it_was_made_of(values: list[str], level: Level) -> None:
    taken = re.compile(class_of(values, level), re.DOTALL)
    assert [each for value in values for each in value if not taken.fullmatch(each)] == []


@given(st.sets(st.integers(1, 9), min_size=1), st.integers(1, 40), LEVEL)
def test_an_amount_takes_every_length(lengths: set[int], more: int, level: Level) -> None:
    taken = re.compile("a" + amount_of(lengths, len(lengths) + more, level))
    assert all(taken.fullmatch("a" * length) for length in lengths)


@given(st.sampled_from(KINDS_OF_NUMBER).flatmap(lambda kind: st.lists(kind, min_size=1, max_size=9)), LEVEL)
def test_numbers_are_taken_and_are_what_their_field_says(values: list[str], level: Level) -> None:
    spelled, table = number_of(values, level)
    assert [each for each in values if not re.fullmatch(spelled, each)] == [], spelled
    spec = FieldSpec(**table) if table else FieldSpec()
    for each in values:
        spec.convert(each)


LITERALS = st.from_regex(
    r"[+-]?(0x_?[0-9a-fA-F][0-9a-fA-F_]{0,3}|0b[01]{1,4}|0o_?[0-7]{1,4}"
    r"|([0-9][0-9_]{0,3}\.?[0-9]{0,2}|\.[0-9]{1,2})([eE][+-]?[0-9]{1,2})?)[G-Zg-z]{0,2}",
    fullmatch=True,
)
OF_PROGRAMS = st.from_regex(
    r"[+-]?(0x[0-9a-f]{1,4}|[0-9]{1,4}\.?[0-9]{0,2}([eE][+-]?[0-9]{1,2}|[g-z]{1,2})|[0-9]_[0-9]{1,3}|\.[0-9]{1,2})",
    fullmatch=True,
)


@given(st.lists(LITERALS, max_size=13), OF_PROGRAMS)
def test_numbers_of_programs_are_taken_and_nothing_without_a_digit(others: list[str], one: str) -> None:
    values = [*others, one]
    assert are_literal(values)
    spelled = literals_of(values)
    assert [each for each in values if not re.fullmatch(spelled, each)] == [], spelled
    if not any("_" in each for each in values):
        assert not any(re.fullmatch(spelled, each) for each in ("", "-", ".", "e5", "f")), spelled


@pytest.mark.parametrize(
    ("text", "parts"),
    [
        ("12.5e-3f", ("W.F", "12", "5", "e-3", "f")),
        (".5", (".F", "", "5", "", "")),
        ("7.", ("W.", "7", "", "", "")),
        ("0xFFul", ("x", "FF", "", "", "ul")),
        ("1_000m", ("W", "1_000", "", "", "m")),
        ("7e", ("W", "7", "", "", "e")),
    ],
)
def test_a_number_is_parted_by_one_grammar(text: str, parts: tuple[str, ...]) -> None:
    found = parted(text)
    assert found is not None and (found.kind, found.whole, found.fraction, found.exponent, found.suffix) == parts
    assert parted("hag" + text) is None and parted(text + "-hag") is None


GROUPED_BY_ANY = st.from_regex(r"[1-9]\d{0,2}([ .,']?\d{3}){0,3}([.,]\d{1,2})? ?", fullmatch=True)


@given(st.lists(GROUPED_BY_ANY, min_size=1, max_size=9))
def test_numbers_with_groups_by_any_mark_are_taken_where_they_are_read(values: list[str]) -> None:
    found = loosely_grouped(values)
    if found is not None:
        assert all(re.fullmatch(found[0], each) for each in values) and not re.fullmatch(found[0], "12 34")


@given(
    st.sampled_from("\"'`)"),
    st.sampled_from("\\%~"),
    st.lists(st.text('ab7 ,\\"%`)' + "'", max_size=6), min_size=1, max_size=8),
)
def test_what_stands_in_quotes_is_taken_and_nothing_that_ends_before(until: str, escape: str, bare: list[str]) -> None:
    for made in ({escape: escape * 2, until: escape + until}, {until: until * 2}):
        values = ["".join(made.get(each, each) for each in text) for text in bare]
        spelled = enclosed_by(until, values)
        assert spelled or sum(until in each for each in values) < 2
        if spelled:
            assert [each for each in values if not re.fullmatch(spelled, each, re.DOTALL)] == [], spelled
            assert not re.fullmatch(spelled, f"a{until}b", re.DOTALL), spelled


@given(st.lists(st.one_of(KINDS_OF_NUMBER), min_size=1, max_size=9), LEVEL)
def test_numbers_of_several_kinds_are_taken(values: list[str], level: Level) -> None:
    spelled, _ = number_of(values, level)
    assert [each for each in values if not re.fullmatch(spelled, each)] == [], spelled


@given(st.lists(st.text("0123456789", min_size=1, max_size=4), min_size=1, max_size=30), LEVEL)
def test_digits_are_taken_however_few_of_them_there_are(values: list[str], level: Level) -> None:
    assert all(re.fullmatch(digits_of(values, level), each) for each in values)


@given(WORDS)
def test_what_words_never_begin_with_none_of_them_begins_with(values: list[str]) -> None:
    found = never_first(values)
    assert not found & {kind_of(value[0]) for value in values}
    assert found <= {kind_of(each) for value in values for each in value[1:]}


@given(st.text(max_size=12))
def test_a_text_spelled_means_itself_and_can_be_seen(text: str) -> None:
    assert re.fullmatch(escaped_text(text), text) and escaped_text(text).isprintable()


@pytest.mark.parametrize(
    ("values", "level", "spelled"),
    [
        (["1a", "b2", "C3"], "tight", r"\w"),
        (["9f", "0a3", "b71", "ce"], "tight", "[0-9a-f]"),
        (["101", "0", "11", "1000", "01", "10", "110", "1"], "tight", "[01]"),
        (["101", "0", "11", "1000", "01", "10", "110", "1"], "middle", r"\d"),
        (["a-b", "c-d"], "tight", "[a-z-]"),
        (["é", "漢"], "tight", r"[^\W\d_]"),
        ([" ", "  "], "tight", " "),
        (["aa", "b7"], "loose", r"\w"),
    ],
)
def test_a_class_is_no_wider_than_what_it_was_made_of(values: list[str], level: Level, spelled: str) -> None:
    assert class_of(values, level) == spelled


@pytest.mark.parametrize(
    ("values", "expected"),
    [
        (["x1", "hag7", "B2b", "carr4", "q9z", "moss3", "W22", "gate7a", "sike5"], {"9"}),
        (["x1", "7x"], set()),
        (["-x", "y-", "z-", "q-"], set()),
    ],
)
def test_a_kind_that_is_frequent_later_and_never_first_is_told(values: list[str], expected: set[str]) -> None:
    assert never_first(values) == expected
