"""A pattern reads a text as its reach, take and fields say."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING, Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.errors import EngineUnusable, ExpressionError, UsageError
from fieldstick.library import LoadedSuite, load_suite
from fieldstick.matching.prepare import prepare
from fieldstick.matching.result import OUT_OF_BUDGET
from fieldstick.matching.tally import Tally, tallied
from fieldstick.suites.parts import PartScope, fill
from fieldstick.suites.suite import Pattern

if TYPE_CHECKING:
    from conftest import Desk
    from fieldstick.matching.matcher import Matcher


def ready(expression: str, **keys: Any) -> Matcher:
    settings: dict[str, Any] = {
        "name": "p", "about": "", "filling": fill(expression, PartScope("", {}, {})), "combination": None,
        "members": (), "parameters": (), "reach": "whole", "take": "first", "flags": frozenset(), "message": None,
        "engines": ("python",), "tags": (), "budget_ms": 5000, "fields": {}, "samples": (), "path": ("patterns", "p"),
    }  # fmt: skip
    return prepare(Pattern(**(settings | keys)))


EXPRESSIONS = st.sampled_from(
    [r"a", r"a*", r"(a)|(b)", r"(?P<x>a+)(b)?", r"\b\w", r"(?<=a)b*", r"^a|b$", r"(ab?)+", r"a\n?", ""]
)
TEXTS = st.text(alphabet="ab\n ", max_size=12)


@given(
    EXPRESSIONS,
    TEXTS,
    st.sampled_from(["whole", "start", "anywhere"]),
    st.sampled_from(["first", "last", "all", 1, 2, -1, -2]),
)
def test_reading_agrees_with_the_engine_used_by_hand(expression: str, text: str, reach: str, take: Any) -> None:
    compiled = re.compile(expression)
    if reach == "anywhere":
        found = list(compiled.finditer(text))
    else:
        one = compiled.fullmatch(text) if reach == "whole" else compiled.match(text)
        found = [one] if one else []
    index = {"first": 0, "last": -1}.get(take, take - 1 if isinstance(take, int) and take > 0 else take)
    if take == "all":
        expected = found
    else:
        expected = [found[index]] if -len(found) <= index < len(found) else []
    reading = ready(expression, reach=reach, take=take).read(text)
    assert reading.fits == bool(expected)
    assert [match.place for match in reading.matches] == [each.span() for each in expected]
    for match, each in zip(reading.matches, expected, strict=True):
        names = {number: name for name, number in compiled.groupindex.items()}
        for number in range(1, compiled.groups + 1):
            field = match.fields[names.get(number, str(number))]
            assert (field.text if field else None) == each[number]
            assert field is None or field.place == each.span(number)


def test_the_whole_text_includes_the_newline_at_its_end() -> None:
    assert not ready("a$").read("a\n").fits
    assert ready("a$", reach="start").read("a\n").fits


def test_a_match_of_nothing_is_a_match() -> None:
    reading = ready(r"\d*", reach="anywhere").read("words")
    assert reading.fits and reading.place == (0, 0)


@pytest.mark.parametrize(
    ("take", "text", "words"),
    [
        (2, "1", "take asks for the second match and there is only 1 match"),
        (3, "1 2", "take asks for the third match and there is only 2 matches"),
        (5, "1 2", "the 5th match"),
        (-2, "1", "the second match from the end and there is only 1 match"),
        (2, "x", "the expression matches nowhere in the text"),
    ],
)
def test_a_match_that_is_not_there_is_said_to_be_missing(take: int, text: str, words: str) -> None:
    unfit = ready(r"\d", reach="anywhere", take=take).read(text).unfit
    assert unfit is not None and words in unfit.words


def test_a_repeated_group_keeps_its_last_turn() -> None:
    field = ready(r"(?:([a-c])\d)+").read("a1b2c3").fields["1"]
    assert field is not None and field.text == "c"


def suite(desk: Desk, body: str) -> LoadedSuite:
    return load_suite(desk.suite(body))


TYPED = """
[patterns.p]
expression = '(?P<m>[\\d.]+)(?P<u>%)?'
take = "first"
[patterns.p.fields]
m = { type = "decimal", most = 100 }
u = { type = "boolean", true = ["%"] }
"""


def test_a_field_that_does_not_convert_means_that_the_pattern_does_not_fit(desk: Desk) -> None:
    pattern = suite(desk, TYPED).pattern("p")
    for text, words in (("1.2.3", "no decimal"), ("100.1", "above the most")):
        reading = pattern.read(text)
        assert not reading.fits and reading.unfit is not None
        assert reading.unfit.reason == "field-invalid" and reading.unfit.field == "m"
        assert words in reading.unfit.words
        captured = reading.fields["m"]
        assert captured is not None and captured.text == text and captured.value is None


def test_an_absent_group_has_no_value_and_breaks_no_bound(desk: Desk) -> None:
    reading = suite(desk, TYPED).pattern("p").read("31.4")
    assert reading.fits and reading.fields["u"] is None


COMBINED = """
[patterns.code]
expression = '(?P<code>[A-Z]+)-(?P<n>\\d+)'
fields.n = { type = "integer", most = 99 }
message = "write a code"
[patterns.short]
expression = '(?P<all>.{1,5})'
message = "write less"
[patterns.digits]
expression = '(?P<all>\\d+)'
[patterns.either]
any_of = ["code", "digits"]
message = "write either"
[patterns.both]
all_of = ["code", "short"]
message = "write both"
[patterns.neither]
none_of = ["code", "digits"]
[patterns.late]
all_of = ["neither", "short", "neither"]
"""


@pytest.mark.parametrize(
    ("name", "text", "fits", "member", "message"),
    [
        ("either", "A-7", True, "code", None),
        ("either", "77", True, "digits", None),
        ("either", "A-777", False, None, "write either"),
        ("both", "A-7", True, None, None),
        ("both", "ABCDE-7", False, "short", "write less"),
        ("both", "A-100", False, "code", "write a code"),
        ("neither", "x", True, None, None),
        ("neither", "77", False, "digits", None),
    ],
)
def test_a_combination_says_which_member_decided(
    desk: Desk, name: str, text: str, fits: bool, member: str | None, message: str | None
) -> None:
    reading = suite(desk, COMBINED).pattern(name).read(text)
    assert (reading.fits, reading.member, reading.message) == (fits, member, message)


def test_fields_of_a_combination_come_from_its_members(desk: Desk) -> None:
    fields = suite(desk, COMBINED).pattern("both").read("A-7").fields
    assert {name: field.value for name, field in fields.items() if field} == {"code": "A", "n": 7, "all": "A-7"}
    late = suite(desk, COMBINED).pattern("late")
    reading = late.read("abc")
    assert reading.place == (0, 3) and reading.fields["all"] is not None and reading.fields["all"].text == "abc"
    assert late.matcher.rows(["abc", "77"], with_place=True)[0] == [[0, 3, "abc"]] and not late.read("77").fits


def test_what_is_asked_of_a_field_and_its_type_come_from_the_member_that_has_it(desk: Desk) -> None:
    loaded = suite(desk, COMBINED)
    spec = loaded.pattern("both").read("A-7").spec("n")
    assert spec is not None and spec.most == 99 and loaded.pattern("both").read("A-7").spec("all") is None
    typed = COMBINED.replace("'(?P<all>\\d+)'", "'(?P<all>\\d+)'\nfields.all = { type = 'integer' }")
    for name, kind in (("both", "text"), ("mixed", "mixed")):
        combined = suite(desk, f"{typed}[patterns.mixed]\nany_of = ['code', 'short', 'digits']\n").pattern(name)
        assert combined.matcher.row_types() == {"code": "text", "n": "integer", "all": kind}


def test_of_texts_given_up_the_first_twenty_are_named_and_all_are_counted() -> None:
    tally, other = Tally(), Tally()
    for number in range(15):
        tally.give_up("a", number)
        other.miss(OUT_OF_BUDGET, "b", number)
    tally.merge(other)
    assert tally.given_up == tally.missed == 30 and len(tally.gave_up) == 20
    for number in range(15):
        tally.miss(OUT_OF_BUDGET, "c", number)
    assert tally.gave_up == [*(("a", number) for number in range(15)), *(("b", number) for number in range(5))]
    assert tally.given_up == 45
    again = tallied([True, None, True, False, None], "d", [4, 5, 6, 7, 8])
    assert (again.read, again.fit, again.missed, again.gave_up) == (5, 2, 3, [("d", 5), ("d", 8)])


def test_what_cannot_be_made_ready_says_why(desk: Desk) -> None:
    body = (
        "[parts]\nbad = '[a-'\n[patterns.broken]\nexpression = 'x{{bad}}'\n[patterns.late]\nexpression = 'ab(c'\n"
        "[patterns.elsewhere]\nexpression = 'a'\nengines = ['pythn']\n"
        "[patterns.open]\nexpression = '{{=v}}'\nparameters = ['v']\n"
    )
    loaded = suite(desk, body)
    with pytest.raises(ExpressionError) as caught:
        loaded.pattern("broken")
    assert caught.value.part == "bad"
    with pytest.raises(ExpressionError, match="at 2"):
        loaded.pattern("late")
    with pytest.raises(EngineUnusable, match="did you mean 'python'"):
        loaded.pattern("elsewhere")
    with pytest.raises(UsageError, match="needs a value for its parameter 'v'"):
        loaded.pattern("open")
    with pytest.raises(UsageError, match="no parameter 'w'"):
        loaded.pattern("open", v="1", w="2")
    with pytest.raises(UsageError, match="the nearest is 'late'"):
        loaded.pattern("lat")
