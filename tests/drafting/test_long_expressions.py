"""What is amiss in the midst of a long expression is found as in a short one, and shown where it is."""

from __future__ import annotations

import pytest

from fieldstick.drafting.context import MatchCase
from fieldstick.drafting.diagnosis import diagnose
from fieldstick.reporting.cells import Charset
from fieldstick.reporting.document import Changed, Labelled
from fieldstick.reporting.lines import Page, lines_of

NAMES = ("soil", "air", "snow", "leaf", "moss", "wind")


def beside(first: int, count: int) -> tuple[str, str]:
    """Return an expression of labelled numbers, and a text that fits it."""
    numbers = range(first, first + count)
    return (
        "".join(rf"{NAMES[each % 6]}{each}=\d+; " for each in numbers),
        "".join(f"{NAMES[each % 6]}{each}={each * 7 % 90}; " for each in numbers),
    )


SLIPS = [
    (r"at \d{2}:\d{2}", r"at \d{1,2}:\d{2}", "at 6:10"), ("(?P<level>low|high)", "(?P<level>low|high|mid)", "mid"),
    ("gate nort opened", "gate north opened", "gate north opened"), (r"\d+ mm", r"\d+(?:\.\d+)? mm", "4.5 mm"),
    (r"by \w+", r"by [\w-]+", "by carr-bell"), (r"probe [A-F]\d{2}", r"probe [A-G]\d{2}", "probe G07"),
    ("(north|south)", "(North|south)", "North"), ("note: [a-z]+", "note: [a-z ]+", "note: gate left open"),
]  # fmt: skip


@pytest.mark.parametrize("count", [30, 60])
@pytest.mark.parametrize(("wrong", "right", "text"), SLIPS)
def test_a_slip_in_the_midst_of_it_is_found(wrong: str, right: str, text: str, count: int) -> None:
    (before, text_before), (behind, text_behind) = beside(10, count), beside(100, count)
    asked = MatchCase(f"{before}{wrong}; {behind}", frozenset(), "whole", f"{text_before}{text}; {text_behind}")
    made = [each.case.expression for each in diagnose(asked).repairs[:3]]
    assert f"{before}{right}; {behind}" in made


def shown(block: Changed | Labelled, page: Page) -> list[str]:
    return ["".join(each.text for each in line) for line in lines_of([block], page)]


def test_a_screen_shows_the_rows_of_it_that_changed_and_a_pipe_all_of_it_in_one() -> None:
    (before, _), (behind, _) = beside(10, 60), beside(100, 60)
    block = Changed(before + behind, f"{before}<x>{behind}", whole=True)
    rows = shown(block, Page(60, is_screen=True))
    marked = next(at for at, row in enumerate(rows) if set(row.strip()) == {"━"})
    assert "<x>" in rows[marked - 1] and len(rows) < 12 and max(map(len, rows)) <= 60
    assert sum("rows left out" in row for row in rows) == 2 and "--format json" in rows[-1]
    assert shown(block, Page(60)) == [" " * 8 + block.after]
    short = Changed(before[:200], before[:200] + "<x>", whole=True)
    assert shown(short, Page(60, is_screen=True)) == [" " * 8 + short.after]


@pytest.mark.parametrize(("charset", "cut"), [(Charset(), "…"), (Charset("ascii"), "~")])
def test_of_very_long_words_the_middle_is_left_out_where_they_stand_below_as_well(charset: Charset, cut: str) -> None:
    words = f"it takes {'a' * 500} and {' '.join(['wet soil'] * 200)} too"
    told = " ".join(each.strip() for each in shown(Labelled("", words, condensed=True), Page(200, charset)))
    assert told.startswith("it takes aaaa") and told.endswith("wet soil too") and told.count(cut) == 2
    assert len(told) < 800
    assert cut not in "".join(shown(Labelled("", words), Page(200, charset)))
