"""Samples are judged by the rules of docs/suite-format.md."""

from __future__ import annotations

from typing import TYPE_CHECKING

import pytest

from conftest import read_suite
from fieldstick.runs.judging import judge

if TYPE_CHECKING:
    from conftest import Desk
    from fieldstick.runs.results import SampleResult

TYPED = r"""
[patterns.p]
expression = 'm=(?P<m>[\d.,x]+)(?: (?P<day>\d+-\d+-\d+))?(?P<dry> dry)?'
reach = "start"
message = "write m="
[patterns.p.fields]
m = { type = "decimal", most = 100 }
day = { type = "date" }
dry = { type = "boolean", true = [" dry"] }
"""
ALL = r"""
[patterns.p]
expression = '(?P<k>[a-z])(\d)?'
reach = "anywhere"
take = "all"
"""
PLAIN = "[patterns.p]\nexpression = 'm=(?P<m>[0-9.]+)'\n"


def judged(desk: Desk, body: str) -> SampleResult:
    suite = read_suite(desk.suite(body))
    (result,) = judge(suite.patterns["p"]).samples
    return result


@pytest.mark.parametrize(
    ("body", "sample", "outcome", "reason"),
    [
        (TYPED, "text = 'm=31.4'\nfields = { m = 31.40 }", "pass", None),
        (TYPED, "text = 'm=31.40'\nfields = { m = 31.4 }", "pass", None),
        (TYPED, "text = 'm=31.40'\nfields = { m = '31.4' }", "pass", None),
        (TYPED, "text = 'm=31'\nfields = { m = 31 }", "pass", None),
        (TYPED, "text = 'm=31'\nfields = { m = 'soon' }", "fail", "field-differs"),
        (TYPED, "text = 'm=1'\nfields = { m = true }", "fail", "field-differs"),
        (TYPED, "text = 'm=31.4'\nfields = { m = 31.5 }", "fail", "field-differs"),
        (TYPED, "text = 'm=1 2026-05-04'\nfields = { day = 2026-05-04 }", "pass", None),
        (TYPED, "text = 'm=1 2026-05-04'\nfields = { day = 2026-05-04T00:00:00 }", "fail", "field-differs"),
        (TYPED, "text = 'm=1 dry'\nfields = { dry = true }", "pass", None),
        (TYPED, "text = 'm=1'\nfields = { dry = ' dry' }", "fail", "field-differs"),
        (TYPED, "text = 'm=1'\nfields = { wet = '' }", "fail", "field-differs"),
        (TYPED, "text = 'm=1'\nabsent = ['dry', 'day']", "pass", None),
        (TYPED, "text = 'm=1 dry'\nabsent = ['dry']", "fail", "field-differs"),
        (TYPED, "text = 'm=1'\nabsent = ['dri']", "fail", "field-differs"),
        (TYPED, "text = 'm=1 and more'\nplace = [0, 3]", "pass", None),
        (TYPED, "text = 'm=1 and more'\nplace = [0, 4]", "fail", "place-differs"),
        (TYPED, "text = 'x'", "fail", "did-not-match"),
        (TYPED, "text = 'm=1x'", "fail", "field-invalid"),
        (TYPED, "text = 'm=101'", "fail", "field-invalid"),
        (PLAIN, "text = 'm=31.4'\nfields = { m = 31.4 }", "fail", "field-differs"),
        (PLAIN, "text = 'm=31.4'\nfields = { m = '31.4' }", "pass", None),
        (ALL, "text = 'a1b'\ncount = 2", "pass", None),
        (ALL, "text = 'a1b'\ncount = 3", "fail", "count-differs"),
        (ALL, "text = 'a1b'\nmatches = [{ text = 'a1' }, { place = [2, 3], fields = { k = 'b' } }]", "pass", None),
        (ALL, "text = 'a1b'\nmatches = [{ text = 'a1' }]", "fail", "matches-differ"),
        (ALL, "text = 'a1'\nmatches = [{}, {}]", "fail", "matches-differ"),
        (ALL, "text = 'a1b'\nmatches = [{}, { fields = { k = 'c' } }]", "fail", "matches-differ"),
        (ALL, "text = 'a1'\nmatches = [{ place = [0, 1] }]", "fail", "matches-differ"),
    ],
)
def test_a_positive_sample(desk: Desk, body: str, sample: str, outcome: str, reason: str | None) -> None:
    result = judged(desk, f"{body}\n[[patterns.p.positive]]\n{sample}\n")
    assert (result.outcome, result.reason) == (outcome, reason)
    if reason in ("field-differs", "place-differs", "count-differs", "matches-differ"):
        assert result.differences and result.reading is not None and result.reading.fits
        assert result.reading.fields, "what was captured is there to be shown"


@pytest.mark.parametrize(
    ("sample", "outcome", "reason"),
    [
        ("text = 'n=1'", "pass", None),
        ("text = 'm=101'", "pass", None),
        ("text = 'm=1x'", "pass", None),
        ("text = 'm=1'", "fail", "matched"),
        ("text = 'x'\nmessage = 'write m='", "pass", None),
        ("text = 'x'\nmessage = 'write n='", "fail", "message-differs"),
    ],
)
def test_a_negative_sample(desk: Desk, sample: str, outcome: str, reason: str | None) -> None:
    result = judged(desk, f"{TYPED}\n[[patterns.p.negative]]\n{sample}\n")
    assert (result.outcome, result.reason) == (outcome, reason)


def test_an_empty_cell_of_a_table_means_that_nothing_was_captured(desk: Desk) -> None:
    desk.write("rows.csv", "text,m,dry\nm=1,1.0,\nm=2 dry,2,\n")
    suite = read_suite(desk.suite(f"{TYPED}\n[[patterns.p.positive]]\ntable = 'rows.csv'\n"))
    assert [each.outcome for each in judge(suite.patterns["p"]).samples] == ["pass", "fail"]


def test_a_broken_expression_is_an_error_of_every_sample_with_its_place(desk: Desk) -> None:
    body = "[parts]\nopen = 'ab(c'\n[patterns.p]\nexpression = 'x{{open}}'\npositive = ['x']\nnegative = ['y']\n"
    found = judge(read_suite(desk.suite(body)).patterns["p"]).samples
    assert [(each.outcome, each.reason) for each in found] == [("error", "expression-broken")] * 2
    fault = found[0].fault
    assert fault is not None and fault.text == "ab(c" and fault.position is not None
    assert "of the part 'open'" in (found[0].words or "")


def test_values_of_parameters_belong_to_the_sample(desk: Desk) -> None:
    body = """
[patterns.p]
expression = 'at {{=site}}'
parameters = ["site"]
positive = [{ text = 'at Fen + Carr', with = { site = "Fen + Carr" } }, { text = 'at a.b', with = { site = "a.b" } }]
negative = [{ text = 'at axb', with = { site = "a.b" } }]
"""
    assert {each.outcome for each in judge(read_suite(desk.suite(body)).patterns["p"]).samples} == {"pass"}


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("m=1 ", "left over: 1 character after it"),
        ("at m=1", "left over: 3 characters before it"),
        ("at m=1!", "left over: 3 characters before it and 1 character after it"),
        ("none", "does not match the whole text"),
    ],
)
def test_a_near_miss_says_what_is_left_over(desk: Desk, text: str, words: str) -> None:
    result = judged(desk, f"{PLAIN}[[patterns.p.positive]]\ntext = '{text}'\n")
    assert result.words is not None and result.words.endswith(words)


@pytest.mark.parametrize(
    ("body", "sample", "words", "told"),
    [
        (TYPED, "text = 'm=1 dry'\nabsent = ['dry']", "the field 'dry' took part, and must not", [None, " dry"]),
        (TYPED, "text = 'm=1'\nfields = { m = true }", "the field 'm' came out otherwise", ["true", "1"]),
        (TYPED, "text = 'm=1'\nfields = { day = '' }", "the field 'day' is absent: its group took no part", ["", None]),
        (
            TYPED,
            "text = 'm=1'\nfields = { daz = '' }",
            "the expression has no group 'daz'; the nearest is 'day'",
            ["", None],
        ),
        (TYPED, "text = 'm=1 and'\nplace = [0, 4]", "the match lies elsewhere", ["0 to 4", "0 to 3"]),
        (
            PLAIN,
            "text = 'm=1'\nfields = { m = 1 }",
            "'m' is text and cannot equal a number; declare its type",
            ["1", "1"],
        ),
        (PLAIN, "text = 'm=1'\nfields = { m = 06:00:00 }", "cannot equal a date or time; declare", ["06:00:00", "1"]),
        (PLAIN, "text = 'm=1'\nfields = { m = true }", "cannot equal a boolean; declare", ["true", "1"]),
        (ALL, "text = 'a1b'\ncount = 1", "it has 2 matches, not 1 match", ["1 match", "2 matches"]),
        (ALL, "text = 'a1b'\nmatches = [{ text = 'a1' }]", "the matches are not the ones expected", [None, "b"]),
        (ALL, "text = 'a1'\nmatches = [{}, {}]", "the matches are not the ones expected", ["a match", None]),
        (ALL, "text = 'a1'\nmatches = [{ place = [0, 1] }]", "are not the ones expected", ["0 to 1", "0 to 2"]),
    ],
)
def test_a_difference_is_said_in_words_and_both_sides_are_told(
    desk: Desk, body: str, sample: str, words: str, told: list[str | None]
) -> None:
    result = judged(desk, f"{body}\n[[patterns.p.positive]]\n{sample}\n")
    assert words in (result.words or "") and result.advice == "mend the expression, or what the sample expects"
    assert [(each.expected, each.captured) for each in result.differences] == [tuple(told)]


@pytest.mark.parametrize(
    ("body", "text", "words"),
    [
        (PLAIN, "m=1", "it matches the whole text"),
        (TYPED, "m=1 and", "it matches 3 characters at 0"),
        (ALL, "1a", "it matches 1 character at 1"),
        ("[patterns.p]\nexpression = 'x*'\nreach = 'anywhere'\n", "ax", "it matches nothing, at 0"),
        ("[patterns.p]\nany_of = ['q']\n[patterns.q]\nexpression = 'a'\n", "a", "must not (by 'q'): it matches the"),
        ("[patterns.p]\nnone_of = ['q']\n[patterns.q]\nexpression = 'a'\n", "b", "the pattern fits, and must not"),
    ],
)
def test_a_negative_sample_that_fits_says_where(desk: Desk, body: str, text: str, words: str) -> None:
    own, _, other = body.partition("[patterns.q]")
    also = f"[patterns.q]{other}" if other else ""
    result = judged(desk, f"{own}[[patterns.p.negative]]\ntext = '{text}'\n{also}")
    assert result.reason == "matched" and words in (result.words or "")


def test_a_text_without_end_costs_its_budget_and_every_other_sample_is_judged(desk: Desk) -> None:
    others = ", ".join(f"'{'a' * number}'" for number in range(1, 201))
    body = f"[patterns.p]\nexpression = '(a+)+$'\nbudget_ms = 150\npositive = ['{'a' * 40}b', {others}]\n"
    found = judge(read_suite(desk.suite(body)).patterns["p"])
    assert [each.outcome for each in found.samples] == ["timeout"] + ["pass"] * 200
    assert found.seconds < 15
