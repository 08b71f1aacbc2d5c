"""Whatever the expression and the text, the drafting helpers answer, and what they print can be shown."""

from __future__ import annotations

import re
import warnings
from types import SimpleNamespace
from typing import TYPE_CHECKING

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from fieldstick.analysis.examples import examples
from fieldstick.analysis.hazards import hazards
from fieldstick.comparing.drafts import compare
from fieldstick.data.batch import Batch
from fieldstick.drafting.causes import Causes
from fieldstick.drafting.context import Beside, MatchCase, compiling
from fieldstick.drafting.diagnosis import diagnose, stop_of
from fieldstick.drafting.outline import outline
from fieldstick.engines.probing import engine_flags
from fieldstick.errors import SyntaxFault
from fieldstick.matching.prepare import prepare
from fieldstick.reporting.cells import Charset
from fieldstick.reporting.explain_report import Explanation, explanation_as_data, explanation_report
from fieldstick.reporting.lines import Page, lines_of
from fieldstick.reporting.survey_report import survey_report
from fieldstick.reporting.try_report import field_table, tried_report
from fieldstick.reporting.why_report import Answer, answer_as_data, answer_report
from fieldstick.runs.survey import survey
from fieldstick.runs.trying import Tried, Trying, TryTally
from fieldstick.syntax.parser import parse
from fieldstick.workspace import bare_pattern

if TYPE_CHECKING:
    from collections.abc import Iterable

    from fieldstick.reporting.document import Block

PIECES = st.sampled_from(
    [
        *"ab1 .^$*+?|()[]{}-,", "(?:", "(?P<n>", "(?P=n)", "(?=", "(?<=a", "(?!", "(?>", "(?i)", "\\d", "\\D", "\\b",
        "\\1", "\\w+", "[a-z]", "[^b]", "{2,3}", "{3}", "(3)", "(a|b)", "x*?", "\\.", "漢", "\\n", "()", "(.+)",
    ]
)  # fmt: skip
EXPRESSIONS = st.lists(PIECES, max_size=7).map("".join)
TEXTS = st.text(alphabet="ab1x.-| 漢\n\x1b\u202e\ud800", max_size=8)
FLAGS = st.sets(st.sampled_from(["ignore-case", "multiline", "dotall", "verbose", "ascii"]), max_size=2).map(frozenset)
REACHES = st.sampled_from(["whole", "start", "anywhere"])
quick = settings(max_examples=120, deadline=None, suppress_health_check=[HealthCheck.filter_too_much])


def engine_matches(case: MatchCase) -> bool:
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        bits = engine_flags(case.flags) | (re.VERBOSE if "verbose" in case.flags else 0)
        compiled = re.compile(case.expression, bits)
    method = {"whole": compiled.fullmatch, "start": compiled.match, "anywhere": compiled.search}[case.reach]
    return method(case.text) is not None


def shown(blocks: Iterable[Block], width: int = 60, charset: Charset = Charset()) -> str:
    encoding = charset.encoding
    text = "\n".join("".join(segment.text for segment in line) for line in lines_of(blocks, Page(width, charset)))
    assert all(line.isprintable() for line in text.split("\n"))
    text.encode(encoding)
    return text


@quick
@given(EXPRESSIONS, TEXTS, FLAGS, REACHES, st.integers(24, 90))
def test_why_answers_and_every_change_it_offers_does_what_it_says(
    expression: str, text: str, flags: frozenset[str], reach: str, width: int
) -> None:
    case = MatchCase(expression, flags, reach, text)  # type: ignore[arg-type]
    found = diagnose(case, steps=30_000)
    try:
        if found.fault is None:
            assert found.fits == engine_matches(case)
        for repair in found.repairs:
            assert engine_matches(repair.case) != found.fits
    except SystemError:
        return  # the engine broke down on a possessive repeat
    assert (found.stopped is None) == (found.fits or found.fault is not None)
    if found.stopped is not None:
        assert 0 <= found.stopped.start <= found.stopped.text <= len(text)
        assert 0 <= found.stopped.expression[0] <= found.stopped.expression[1] <= len(expression)
    for charset in (Charset("utf-8"), Charset("ascii")):
        shown(answer_report(Answer(found, found.fits)), width, charset)
    fault = {"fault"} if found.fault is not None else set()
    assert set(answer_as_data(Answer(found, found.fits))) == {"fits", "stopped", "repairs"} | fault


ODD_PIECES = st.sampled_from(
    [
        *"ab7 -.*+?|()[]{}^$\\/'\"#~<>%,;:=\n", "{3,2}", "{,3}", "x{3", "d{4}", "\\p{Lu}", "[[:alpha:]]", "\\Q",
        "\\x{41}", "(?P<n", "(?P<n>", "(?<!", "(?<=", "(?#", "(?>", "(?-i)", "++", "[.", "[0-9", "%d", "%Y-%m-%d",
        "{name}", "##", "99", "nn", "XX", "YYYY-MM-DD", "a-z", "(north/south)", " or ", 'r"', "/i", "re.x('",
        "\\d", "\\w+", "[^,]+",
    ]
)  # fmt: skip
ODD_TEXTS = st.lists(
    st.sampled_from(
        [*"ab7 -.+()[]\"'\\/\n\t,;:=A<>%#{}é٣ß", "12", "B07", "north", "owl", "31.4", "1,204", "e\u0301", " – "]
    ),
    max_size=6,
).map("".join)


@quick
@given(
    st.lists(ODD_PIECES, min_size=1, max_size=8).map("".join),
    ODD_TEXTS,
    st.lists(ODD_TEXTS, max_size=2).map(tuple),
    st.lists(ODD_TEXTS, max_size=1).map(tuple),
    FLAGS,
    REACHES,
)
def test_what_is_written_as_elsewhere_is_answered_with_changes_that_do_what_they_say(
    expression: str, text: str, fitting: tuple[str, ...], others: tuple[str, ...], flags: frozenset[str], reach: str
) -> None:
    case = MatchCase(expression, flags, reach, text)  # type: ignore[arg-type]
    found = diagnose(case, beside=Beside(fitting, others), steps=60_000)
    try:
        for repair in found.repairs:
            assert (repair.words and repair.breaks is not None) or not (fitting or others)
            assert engine_matches(repair.case) != found.fits
    except SystemError:
        return  # the engine broke down on a possessive repeat


@quick
@given(EXPRESSIONS, FLAGS, REACHES, st.integers(24, 90))
def test_explain_answers_in_any_width(expression: str, flags: frozenset[str], reach: str, width: int) -> None:
    try:
        parsed = parse(expression, flags)
    except SyntaxFault:
        return
    warned = tuple(hazards(parsed, reach))  # type: ignore[arg-type]
    for hazard in warned:
        assert 0 <= hazard.span[0] <= hazard.span[1] <= len(expression)
        assert hazard.reason and hazard.remedy
    told = outline(parsed)
    made = tuple(examples(parsed))
    found = Explanation(expression, expression, tuple(flags), reach, told, parsed.groups, made, warned)
    for charset in (Charset("utf-8"), Charset("ascii")):
        assert "takes" in shown(explanation_report(found), width, charset)
    assert explanation_as_data(found)["shortest"] == told.shortest


@quick
@given(EXPRESSIONS, st.lists(TEXTS, max_size=6), REACHES, st.sampled_from(["first", "last", "all", 2, -1]))
def test_try_counts_in_bulk_what_it_finds_one_by_one(
    expression: str, texts: list[str], reach: str, take: object
) -> None:
    expression = re.sub(r"\{\{+", "{", expression)
    try:
        parsed = parse(expression)
    except SyntaxFault:
        return
    pattern = replace(bare_pattern(expression), reach=reach, take=take)
    matcher = prepare(pattern)
    tried = [Tried("x", number, matcher.read_or_give_up(text)) for number, text in enumerate(texts, 1)]
    source = SimpleNamespace(name="x", batches=lambda: [Batch(range(1, len(texts) + 1), texts)])
    trying = Trying(matcher, lambda each: "", Causes(matcher), walked=True, may_take_nothing=True)
    trying.run([source], 0, None)  # type: ignore[list-item]
    tally, summed = trying.tally, TryTally()
    for each in tried:
        summed.add(each)
    assert tally == summed
    assert tally.texts == tally.fit + tally.missed + tally.gave_up == len(texts)
    for each in tried:
        stop = None if each.fits else stop_of(parsed, each.text, reach)  # type: ignore[arg-type]
        shown(tried_report(each, stop))
    shown(field_table(tried, matcher.field_names))
    items = [(each.source, each.number, each.text) for each in tried]
    shifts, again = compare(items, matcher, matcher, most=3)
    assert (shifts.gained, shifts.lost, shifts.otherwise) == (0, 0, 0)
    assert again == tally


@quick
@given(st.lists(TEXTS, max_size=12), st.integers(24, 90), st.booleans())
def test_a_survey_can_be_shown_whatever_the_texts(texts: list[str], width: int, rare: bool) -> None:
    found = survey(enumerate(texts, 1))
    for charset in (Charset("utf-8"), Charset("ascii")):
        assert shown(survey_report(found, 5, rare, ()), width, charset)


@pytest.mark.parametrize(
    "expression", ["", "()-x", "$[*]", "(?#only a comment)", "(?i)", "a" * 600, "(" * 80 + ")" * 80, "|" * 9]
)
def test_odd_expressions_are_explained(expression: str) -> None:
    parsed = parse(expression)
    assert outline(parsed).lines
    assert hazards(parsed) is not None
    assert diagnose(MatchCase(expression, frozenset(), "whole", "zz"), steps=30_000).stopped is not None


def test_groups_nested_beyond_reason_are_refused_with_a_place() -> None:
    with pytest.raises(SyntaxFault, match="nested too deeply"):
        parse("(" * 500 + ")" * 500)


def test_a_wide_range_counts_as_what_compiling_it_takes() -> None:
    few = compiling("[a-z]{2}", frozenset())
    assert few == len("[a-z]{2}") == compiling("[a-z]{2}", frozenset({"ignore-case"}))
    wide = compiling(r"[\u4e00-\u9fff]", frozenset())
    assert compiling("[\u4e00-\u9fff]", frozenset()) > wide / 2 > 10 * few
    assert compiling(r"[\u4e00-\u9fff]", frozenset({"ignore-case"})) > 2 * wide
