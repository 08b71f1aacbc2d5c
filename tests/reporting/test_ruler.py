"""The ruler stands true beneath any text, in any width and character set."""

from __future__ import annotations

import unicodedata

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.reporting import ruler
from fieldstick.reporting.cells import Charset, clipped, visible, width_of
from fieldstick.reporting.document import Mark
from fieldstick.reporting.ruler import draw

ASCII = Charset("ascii")


def drawn(text: str, *marks: Mark, width: int = 76, charset: Charset = Charset()) -> list[str]:
    lines = ["".join(segment.text for segment in line) for line in draw(text, marks, width, charset)]
    return [line.rstrip() for line in lines]


def field(text: str, part: str, label: str) -> Mark:
    start = text.index(part)
    return Mark(start, start + len(part), label, tone="field0")


LINE = "2026-05-04T06:10:00Z probe=B07 moisture=31.4%"


def test_labels_stand_inside_where_they_fit_and_below_elsewhere() -> None:
    marks = field(LINE, "2026-05-04T06:10:00Z", "at"), field(LINE, "B07", "plot"), field(LINE, "31.4", "moisture")
    assert drawn(LINE, *marks) == [
        "2026-05-04T06:10:00Z probe=B07 moisture=31.4%",
        "├────────at────────┤       ├─┤          ├──┤",
        "                           plot         moisture",
    ]


def test_a_match_that_is_not_the_whole_text_is_a_row_of_its_own() -> None:
    assert drawn("a 12 b", Mark(2, 4, "n"), Mark(2, 4, kind="match")) == ["a 12 b", "  ├┤", "  n", "  ━━"]


def test_one_character_nothing_and_the_place_where_a_match_stopped() -> None:
    marks = Mark(0, 1, "a"), Mark(2, 2, "b"), Mark(3, 4, kind="stop")
    assert drawn("wxyz", *marks) == ["wxyz", "│ ╷", "a b", "   ╳"]
    assert drawn("ab", Mark(0, 2, kind="match"), Mark(2, 3, kind="stop")) == ["ab", "━━╳"]


def test_labels_that_would_touch_move_down_a_row() -> None:
    assert drawn("abcd", Mark(0, 1, "one"), Mark(2, 3, "two")) == ["abcd", "│ │", "one", "  two"]


def test_nested_fields_have_lanes_of_their_own_outer_first() -> None:
    assert drawn("abcdef", Mark(1, 3, "in"), Mark(0, 6, "o")) == ["abcdef", "├─o──┤", " ├┤", " in"]


@pytest.mark.parametrize(
    ("text", "start", "ruler"),
    [
        ("漢字x", 2, "    │"),
        ("e\u0301x", 2, " │"),
        ("\tx", 1, "        │"),
        ("\x1bx", 1, " │"),
        ("\u200bx", 1, "        │"),
    ],
)
def test_wide_combining_tab_and_control_characters_keep_it_true(text: str, start: int, ruler: str) -> None:
    assert drawn(text, Mark(start, start + 1))[1] == ruler


def test_without_box_characters_plain_ones_stand_in() -> None:
    lines = drawn("é\x1b12", Mark(2, 4), Mark(0, 1, kind="match"), Mark(1, 2, kind="stop"), charset=ASCII)
    assert lines == ["<U+00E9><U+001B>12", "                ||", "========x"]


def test_a_wide_text_is_cut_into_rows_and_a_very_long_one_keeps_its_marked_rows() -> None:
    assert drawn("0123456789abc", Mark(6, 12, "n"), width=8) == ["01234567", "      ├─", "      n", "89abc", "───┤"]
    lines = drawn("x" * 100_000, Mark(50_000, 50_001, "here"))
    assert len(lines) < 20 and any("│" in line for line in lines) and any("left out" in line for line in lines)


def test_of_very_many_marked_rows_the_first_are_shown_those_where_a_match_stopped_and_the_last() -> None:
    marks = [Mark(at, at + 1, kind="match") for at in range(0, 40_000, 20)]
    lines = drawn("x" * 40_000, *marks, Mark(21_610, 21_610, kind="stop"), width=40)
    assert lines.count("x" * 40) == ruler.MOST_MARKED + 1 + 2
    assert lines[2 * ruler.MOST_MARKED] == "(520 rows left out, with marks in 520)"
    assert sum("╳" in line for line in lines) == 1 and lines[-2:] == ["x" * 40, f"━{' ' * 19}━"]


ENCODINGS = st.sampled_from(["utf-8", "ascii", "latin-1", "cp437"])
ODD = "ab\t\n\r\x00\x1b\x7f\x85\u0301\u200b\u200d\u202e\u2028\u05d0漢\ud800\ufeff😀"


@given(st.text(alphabet=ODD, max_size=60), st.data(), st.integers(12, 60), ENCODINGS)
def test_nothing_that_steers_a_terminal_gets_out_and_nothing_is_too_wide(
    text: str, data: st.DataObject, width: int, encoding: str
) -> None:
    places = st.integers(0, len(text))
    marks = []
    for kind in data.draw(st.lists(st.sampled_from(["field", "match"]), max_size=4)):
        start, end = sorted([data.draw(places), data.draw(places)])
        marks.append(Mark(start, end, "label", kind=kind))  # type: ignore[arg-type]
    for line in drawn(text, *marks, width=width, charset=Charset(encoding)):
        line.encode(encoding)
        assert all(unicodedata.category(character) not in ("Cc", "Cf", "Cs", "Zl", "Zp") for character in line)
        assert width_of(line) <= width


@given(st.text(alphabet=f"{ODD}ab 7=", max_size=80), st.integers(8, 20), st.integers(0, 80))
def test_rows_of_printable_ascii_are_cut_as_all_others(text: str, width: int, at: int) -> None:
    marks = [Mark(min(at, len(text)), min(at + 3, len(text)), "x")]
    quick = drawn(text, *marks, width=width)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(ruler, "_plain_row", lambda *_: None)
        assert drawn(text, *marks, width=width) == quick


@given(st.text(alphabet=ODD, max_size=30), st.integers(2, 20))
def test_a_clipped_text_is_no_wider_than_asked(text: str, cells: int) -> None:
    cut = clipped(text, cells)
    assert width_of(cut) <= cells
    assert cut == visible(text) or cut.endswith("…")
