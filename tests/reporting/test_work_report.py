"""What work came to is said in words and figures that add up, in any width and alphabet."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import plain
from fieldstick.matching.result import NO_MATCH, OUT_OF_BUDGET, Unfit
from fieldstick.matching.tally import Tally, tallied
from fieldstick.operations.form import Reject, ValidationTally
from fieldstick.operations.lookup import LookupTally
from fieldstick.operations.rewrite import RewriteTally, Rewritten
from fieldstick.operations.route import RouteTally
from fieldstick.reporting.cells import width_of
from fieldstick.reporting.tally_words import given_up_words, tally_words
from fieldstick.reporting.work_report import (
    lookup_words,
    overlaps_report,
    rejects_report,
    rewrite_words,
    rewritten_report,
    route_table,
    validation_table,
    validation_words,
)


def tally(read: int, fit: int, rows: int, *misses: Unfit) -> Tally:
    found = Tally(read, fit, rows)
    for number, miss in enumerate(misses, 1):
        found.miss(miss, "x.log", number)
    return found


BAD = Unfit("field-invalid", "…", "moisture")


@pytest.mark.parametrize(
    ("counted", "words"),
    [
        (tally(0, 0, 0), "nothing to read: the sources hold no text"),
        (tally(1, 1, 1), "read 1 text: 1 fits"),
        (tally(1, 0, 0, NO_MATCH), "read 1 text: 0 fit; 1 does not: 1 without a match"),
        (tally(1200, 1200, 2400), "read 1,200 texts: 1,200 fit and gave 2,400 rows"),
        (
            tally(6, 2, 2, NO_MATCH, BAD, BAD, OUT_OF_BUDGET),
            "read 6 texts: 2 fit; 4 do not: 2 where 'moisture' is no value that it may have, "
            "1 without a match, 1 given up",
        ),
    ],
)
def test_a_tally_is_a_sentence_whose_figures_add_up(counted: Tally, words: str) -> None:
    assert tally_words("", counted) == words and tally_words("plot", counted) == f"plot: {words}"


def test_many_reasons_are_counted_together_and_texts_given_up_are_named() -> None:
    found = tally(8, 0, 0, *(Unfit("field-invalid", "…", name) for name in "abcdefgh"))
    assert tally_words("", found).endswith("3 for other reasons")
    assert given_up_words(found) is None
    words = given_up_words(tally(5, 0, 0, *[OUT_OF_BUDGET] * 5))
    assert words is not None and "5 texts given up" in words and "x.log:1, x.log:2, x.log:3 …" in words


@given(st.lists(st.sampled_from([True, False, None]), max_size=30))
def test_counting_fits_forgets_none(fits: list[bool | None]) -> None:
    found = tallied(fits, "x", list(range(len(fits))))
    assert found.read == len(fits) == found.fit + found.missed
    assert (
        found.given_up == fits.count(None)
        and [number for _, number in found.gave_up] == [number for number, fit in enumerate(fits) if fit is None][:20]
    )


@given(
    st.text(st.sampled_from("ab 漢é\t\x1b\N{GRINNING FACE}"), max_size=60),
    st.integers(24, 100),
    st.sampled_from(["utf-8", "ascii"]),
)
def test_a_preview_keeps_to_the_width_and_shows_no_control_character(text: str, width: int, encoding: str) -> None:
    found = Rewritten(text, text + "x", (((0, min(1, len(text))), (0, len(text) + 1)),), 1)
    lines = plain(rewritten_report("x.log", 7, found), width, encoding)
    assert lines[0] == "x.log:7" and any(line.startswith("  now") for line in lines)
    assert all(width_of(line) <= width and "\x1b" not in line for line in lines)
    assert encoding != "ascii" or all(line.isascii() for line in lines)


def test_what_a_rewrite_did_or_would_do_is_told_apart() -> None:
    assert rewrite_words(RewriteTally(), written=True) == "nothing to read: the sources hold no text"
    assert rewrite_words(RewriteTally(5, 0, 0), written=False) == "read 5 texts: none would change"
    assert rewrite_words(RewriteTally(5, 0, 0), written=True) == "read 5 texts: none changes"
    assert rewrite_words(RewriteTally(5, 1, 2), written=True) == "read 5 texts: 1 changes, 2 replacements in all"
    assert rewrite_words(RewriteTally(5, 2, 1), written=False) == "read 5 texts: 2 would change, 1 replacement in all"


def rejected() -> ValidationTally:
    found = ValidationTally(10, 7)
    for row, column, reason in ((2, "Heads", "blank"), (2, "Load", "did-not-match"), (5, "Heads", "field-invalid")):
        found.rejects[column, reason] += 1
        found.shown.append(("p.csv", row, Reject(column, "a\x07b", Unfit(reason, "it is so"), "Write it\nanother way")))
    return found


def test_rejects_are_shown_by_row_and_counted_by_column_and_reason() -> None:
    lines = plain(rejects_report(rejected(), 5), 60)
    assert [line for line in lines if line.startswith("rejected")] == ["rejected  p.csv:2", "rejected  p.csv:5"]
    assert "  entered    Heads = 'a␇b'" in lines and not any("\x07" in line for line in lines)
    assert plain(validation_table(rejected(), ("Load", "Heads", "Gate"))) == [
        "column  rejected  nothing entered  no match  no such value",
        "Load           1                          1",
        "Heads          2                1                        1",
        "",
    ]
    assert validation_words(rejected()) == "of 10 rows, 7 accepted, 3 rejected."
    assert plain(validation_table(ValidationTally(3, 3), ("A",))) == []
    more = plain(rejects_report(rejected(), 1, kept_in="r.csv"), 60)
    assert "and 2 more rejected cells; all of them are in r.csv" in more
    assert not plain(rejects_report(rejected(), 0))


def test_kinds_are_listed_in_order_with_shares_that_add_up() -> None:
    found = RouteTally(4)
    found.kinds.update({"word": 2, "unknown": 1})
    found.give_up("x", 3)
    assert plain(route_table(found, ("word", "number", "unknown"))) == [
        "kind        texts   share",
        "word            2  50.0 %",
        "number          0   0.0 %",
        "unknown         1  25.0 %",
        "(given up)      1  25.0 %",
        "",
    ]
    assert plain(overlaps_report(found), 40) == ["no text is wanted by two kinds"]
    found.overlaps["word", "number", "mixed"] = 1
    found.overlapping["word", "number", "mixed"] = [("x.log", 2, "y" * 80)]
    head, first, _ = plain(overlaps_report(found), 40)
    assert head == "word and number and mixed  all want 1 text" and width_of(first) <= 40


def test_values_that_were_not_found_are_named() -> None:
    assert lookup_words(LookupTally(2, 2, 3, 10)) == "looked 2 values up among 10 rows: 2 found"
    found = LookupTally(9, 2, 9, 10, [f"v{number}" for number in range(7)])
    assert lookup_words(found) == "looked 9 values up among 10 rows: 2 found, 7 not: 'v0', 'v1', 'v2', 'v3', 'v4' …"
