"""A change is told by what it puts in, and marked beneath that."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.reporting.cells import Charset
from fieldstick.reporting.document import Changed
from fieldstick.reporting.edits import new_stretches
from fieldstick.reporting.lines import Page, lines_of

CHANGED = st.text("ab(?:\\d+é漢\t", max_size=12)


@given(CHANGED, CHANGED)
def test_what_is_new_after_a_change_is_all_that_was_not_there_before(before: str, after: str) -> None:
    kept, at = "", 0
    for start, end in new_stretches(before, after):
        kept, at = kept + after[at:start], end
    left = iter(before)
    assert all(each in left for each in kept + after[at:])
    assert (new_stretches(before, after) == []) is (before == after)


def test_of_much_that_changed_what_stays_at_both_ends_is_kept() -> None:
    assert new_stretches("(" + "9" * 5000 + ")b", "(" + "8" * 4000 + ")b") == [(1, 4001)]


@pytest.mark.parametrize(
    ("before", "after", "marks"),
    [
        (r"n=\d{4} kg", r"n=\d{1,4} kg", "     ━━"),
        (r"^gate (\w+)$", r"gate (\w+)", "╷         ╷"),
        ("漢=a", "漢=[ab]", "   ━━━━"),
        ("a", "a", ""),
    ],
)
def test_a_change_is_marked_beneath_what_is_new_where_there_is_room(before: str, after: str, marks: str) -> None:
    def lines(width: int, charset: Charset) -> list[str]:
        block = Changed(before, after, indent=2, whole=True)
        return ["".join(each.text for each in line) for line in lines_of([block], Page(width, charset))]

    assert lines(40, Charset()) == [f"  {after}", *([f"  {marks}"] if marks else [])]
    assert lines(4, Charset()) == [f"  {after}"]
    plain = marks.replace("━", "=").replace("╷", ",")
    if after.isascii():
        assert lines(40, Charset("ascii")) == [f"  {after}", *([f"  {plain}"] if marks else [])]
