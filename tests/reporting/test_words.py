"""The sentences and tables that reports are made of."""

from __future__ import annotations

from typing import TYPE_CHECKING

import pytest

from conftest import plain, read_suite
from fieldstick.reporting.baseline_report import changes_report
from fieldstick.reporting.document import Labelled, table
from fieldstick.reporting.words import counted, difference_lines, verdict
from fieldstick.runs.results import CheckResult, SampleResult, SuiteResult
from fieldstick.suites.suite import Difference
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    from conftest import Desk

BODY = "[patterns.p]\nexpression = 'a'\npositive = ['a', 'b']\nnegative = ['c']\n"


@pytest.mark.parametrize(
    ("number", "words"), [(0, "0 samples"), (1, "1 sample"), (2, "2 samples"), (12345, "12,345 samples")]
)
def test_a_number_agrees_with_its_noun(number: int, words: str) -> None:
    assert counted(number, "sample") == words


@pytest.mark.parametrize(
    ("difference", "expected", "captured"),
    [
        (Difference("field", "plot", "B08", "B07"), "plot = 'B08'", "plot = 'B07'"),
        (Difference("field", "plot", "B08", None), "plot = 'B08'", "plot = absent"),
        (Difference("absent", "soil", None, "8.2"), "soil = absent", "soil = '8.2'"),
        (Difference("place", None, "0 to 3", "1 to 3"), "place = 0 to 3", "place = 1 to 3"),
        (Difference("count", None, "3 matches", "1 match"), "count = 3 matches", "count = 1 match"),
        (Difference("match", "2", "a", None), "match 2 = 'a'", "match 2 = nothing"),
        (Difference("match", "3", None, "b"), "match 3 = nothing more", "match 3 = 'b'"),
        (Difference("message", None, "x", "y"), "message = 'x'", "message = 'y'"),
    ],
)
def test_a_difference_is_two_lines_that_read_alike(difference: Difference, expected: str, captured: str) -> None:
    assert difference_lines(difference) == (expected, captured)


def result(desk: Desk, body: str) -> CheckResult:
    return Workspace().check([read_suite(desk.suite(body))])


@pytest.mark.parametrize(
    ("body", "words"),
    [
        (BODY.replace("'b'", "'aa'"), "of 3 samples, 1 fails: 1 pattern in 1 suite; no baseline."),
        (BODY.replace(", 'b'", ""), "all 2 samples pass: 1 pattern in 1 suite; no baseline."),
        (
            "[patterns.p]\nexpression = '(a'\npositive = ['a', 'b']\n",
            "of 2 samples, 2 cannot be judged: 1 pattern in 1 suite; no baseline.",
        ),
        (
            "[patterns.p]\nexpression = 'a'\npositive = ['a']\n",
            "the 1 sample passes: 1 pattern in 1 suite; no baseline.",
        ),
    ],
)
def test_the_verdict_is_words_and_numbers(desk: Desk, body: str, words: str) -> None:
    assert verdict(result(desk, body)) == words


def test_nothing_is_all_well_when_nothing_was_checked(desk: Desk) -> None:
    found = result(desk, "[patterns.p]\nexpression = 'a'\n")
    assert not found.all_well and found.suites[0].without_samples == ("p",)


def test_figures_stand_under_each_other_and_names_to_the_left() -> None:
    lines = plain([table(["suite", "pass"], [["a", "1,204"], ["漢字", "7"]])])
    assert lines == ["suite   pass", "a      1,204", "漢字       7"]


def test_a_paragraph_keeps_its_words_beside_its_label() -> None:
    lines = plain([Labelled("because", "one two three four five")], 26)
    assert lines == ["    because    one two three", "               four five"]
    assert plain([Labelled("note", "")], 26) == ["    note"]


def test_what_recording_would_change_is_listed_before_it_is_done(desk: Desk) -> None:
    first = plain(changes_report(result(desk, BODY)))
    assert first == ["loggers  no baseline yet; 3 samples, 2 pass"]
    desk.run("baseline", "--yes")
    after = plain(changes_report(result(desk, BODY.replace("'b'", "'bb'").replace("'a'\n", "'a|bb'\n"))))
    assert after == [
        "loggers  1 new, 1 gone; 3 samples, 3 pass",
        "  new        p positive 2  bb",
        "  gone       p positive  b",
    ]


def test_a_report_of_many_failures_shows_some_and_counts_the_rest(desk: Desk) -> None:
    from fieldstick.reporting.check_report import check_report

    texts = ", ".join(f"'b{number}'" for number in range(30))
    body = f"[patterns.p]\nexpression = 'a'\npositive = [{texts}]\n[patterns.q]\nexpression = 'a'\npositive = ['a']\n"
    found = result(desk, body)
    lines = plain(check_report(found))
    assert sum(line.startswith("fails") for line in lines) == 25
    assert sum(line.startswith("    because") for line in lines) == 1, "the cause is drawn once"
    assert "           and 5 more like these" in lines
    alone = CheckResult((SuiteResult(found.suites[0].suite, found.suites[0].patterns[:1]),))
    assert sum(line.startswith("fails") for line in plain(check_report(alone))) == 30


def test_an_empty_text_is_said_to_be_empty(desk: Desk) -> None:
    from fieldstick.reporting.check_report import check_report

    lines = plain(check_report(result(desk, "[patterns.p]\nexpression = 'a'\npositive = ['']\n")))
    assert "    text       (no characters at all)" in lines


def test_a_sample_result_asks_for_attention_only_when_something_is_up(desk: Desk) -> None:
    samples: tuple[SampleResult, ...] = result(desk, BODY).suites[0].patterns[0].samples
    assert [each.needs_attention for each in samples] == [False, True, False]
