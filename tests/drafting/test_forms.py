"""Whatever way texts are cut and aligned in, what is written of their forms takes the texts that it was made from."""

from __future__ import annotations

import re
from itertools import combinations, pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.drafting.proposals.aligning import common_places
from fieldstick.drafting.proposals.choosing import best_written
from fieldstick.drafting.proposals.cutting import CUTS, tokens_of
from fieldstick.drafting.proposals.forms import WAYS, forms_by
from fieldstick.drafting.proposals.pieces import Piece
from fieldstick.drafting.proposals.special_pieces import SPECIAL
from fieldstick.drafting.proposals.spelling import LEVELS
from fieldstick.drafting.proposals.taking_texts import taken_by
from fieldstick.drafting.proposals.writing import Writer, field_name

SHAPED = st.one_of(
    st.from_regex(r"[A-F]\d\d(/\d)?", fullmatch=True),
    st.from_regex(r"LMF[- ]?[SPB]-?\d{3,6}", fullmatch=True),
    st.from_regex(r"(north|quarry)( gate)?", fullmatch=True),
    st.from_regex(r"-?\d{1,3}([.,]\d)? ?(kg|g)?", fullmatch=True),
    st.from_regex(r"2026-0[1-9]-1\d(T06:1\d:00Z)? [a-z_]{1,5}", fullmatch=True),
    st.from_regex(r"-?(0x[0-9aF]{1,3}|[0-9_]{1,3}(\.\d?)?(e-?\d)?)[uL]?", fullmatch=True),
    st.from_regex(r'(L|@)?"([^"\\]|\\["n]|""){0,4}" x', fullmatch=True).filter(str.isprintable),
    st.from_regex(r"(#|//|note:) ?[a-z-]{0,3}", fullmatch=True),
    st.from_regex(r"[1-9]\d?([ .']?\d{3}){1,2}(,\d)? ?", fullmatch=True),
    st.text("aB0 .,-_'\"()é", max_size=8),
)
FEW_KINDS = st.lists(SHAPED, min_size=1, max_size=3).flatmap(
    lambda kinds: st.lists(st.sampled_from(kinds), min_size=1, max_size=12)
)


@given(st.one_of(st.lists(SHAPED, min_size=1, max_size=12), FEW_KINDS), st.sampled_from(WAYS))
def test_what_is_written_of_forms_takes_all_that_must_fit(texts: list[str], way: str) -> None:
    forms = forms_by(way, texts, set(texts))  # type: ignore[arg-type]
    for level in LEVELS if forms else ():
        writer = Writer(level)
        expression = writer.written(forms or [])
        compiled = re.compile(expression)
        assert [text for text in texts if not compiled.fullmatch(text)] == [], (way, level, expression)
        assert set(writer.fields) <= set(compiled.groupindex)


@given(st.lists(SHAPED, min_size=1, max_size=12), st.sampled_from(CUTS))
def test_each_piece_of_a_form_has_a_value_of_each_text_that_has_it(texts: list[str], cut: str) -> None:
    for form in forms_by(cut, texts, set(texts)) or []:  # type: ignore[arg-type]
        always = [len(each.values) for each in form if isinstance(each, Piece)]
        assert len(set(always)) <= 1 and all(count <= len(texts) for count in always)
        for some in (each for each in form if isinstance(each, list) and each[0].kind != "again"):
            assert len({len(piece.values) for piece in some}) == 1


@pytest.mark.parametrize(
    ("text", "cut", "kinds"),
    [
        ("B07/3", "runs", ["word", "number", "/", "number"]),
        ("B07/3", "words", ["word", "/", "word"]),
        ("B07/3", "chunks", ["chunk"]),
        ("note_1 b-2", "names", ["chunk", "blank", "chunk"]),
        ("note_1", "runs", ["word", "_", "number"]),
        ("a, b", "marks", ["word", "mark", "mark", "word"]),
        ("a b", "whole", ["chunk"]),
        ("-31.4 kg", "runs", ["number", "blank", "word"]),
        ("1,240,000", "words", ["number"]),
        ("", "runs", []),
    ],
)
def test_texts_are_cut_finer_or_coarser(text: str, cut: str, kinds: list[str]) -> None:
    assert [each.kind for each in tokens_of(text, cut)] == kinds  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("text", "special"),
    [
        ("2026-05-04T06:10:00Z", True),
        ("2026-05-04 06:10:00", True),
        ("2026-05-04", True),
        ("4.5.2026", True),
        ("06:10", True),
        ("06:10:00.5", True),
        ("2026-05-04 06:10:00.123456789 +0000", True),
        ("-rw-r--r--", True),
        ("drwxr-sr-t", True),
        ("----------", False),
        ("0x7f3a", True),
        ("0x", False),
        ("1.2.3.2026", False),
        ("12-2026-05-04", False),
    ],
)
def test_dates_and_times_are_one_piece(text: str, special: bool) -> None:
    tokens = tokens_of(text)
    assert (len(tokens) == 1 and tokens[0].kind in SPECIAL) is special


@given(st.lists(SHAPED, min_size=1, max_size=24), st.lists(SHAPED, max_size=2))
def test_what_is_chosen_takes_what_must_fit_and_tells_how_well_it_holds(texts: list[str], fitting: list[str]) -> None:
    for level, written in best_written([*fitting, *texts], fitting).items():
        assert level in LEVELS and 0 <= written.holds <= 1
        assert all(re.fullmatch(written.expression, each) for each in fitting)


@pytest.mark.parametrize(
    ("text", "name"),
    [
        ("Permit code", "permit_code"),
        ("First day", "first_day"),
        ("7th", "field_7th"),
        ("§", "field"),
        ("Größe", "grosse"),
    ],
)
def test_a_field_is_named_after_a_text(text: str, name: str) -> None:
    assert field_name(text) == name and re.compile(f"(?P<{name}>x)")


@given(st.lists(st.sampled_from("abc"), max_size=9), st.lists(st.sampled_from("abc"), max_size=9))
def test_what_two_rows_hold_in_the_same_order_is_the_longest_there_is(one: list[str], other: list[str]) -> None:
    found = common_places(one, other)
    assert all(one[i] == other[j] for i, j in found)
    assert all(i < k and j < m for (i, j), (k, m) in pairwise(found))
    longest = max(
        (size for size in range(len(one) + 1) for some in combinations(one, size) if is_held(some, other)), default=0
    )
    assert len(found) == longest


def is_held(some: tuple[str, ...], row: list[str]) -> bool:
    going = iter(row)
    return all(each in going for each in some)


def test_a_path_of_which_there_may_be_nothing_is_one_field_with_its_first_mark() -> None:
    levels = ["moss/hag", "", "tarn", "fen/carr", "moss/log", "tarn/a", "", "beck", "fen", "hag"]
    marks = [Piece(each, [each] * len(levels)) for each in (":", "/", ":")]
    written = Writer("tight").written([[*marks[:2], Piece("gap", levels, ":"), marks[2]]])
    assert written == r":(?P<path>/(?:[a-z]+(?:/[a-z]+)?)?):"


def _tabbed(run: re.Match[str], data: st.DataObject) -> str:
    return "\t" if run.end() % 8 == 0 and len(run[0]) <= 8 and data.draw(st.booleans()) else run[0]


CELLS = st.sampled_from(["fen", "hag end", "B07", "7", "1240", "-9.5", "+3", "n/a", "-", "ok (1)", "x"])


@given(
    st.integers(3, 5).flatmap(lambda width: st.lists(st.tuples(*[CELLS] * width), min_size=5, max_size=9)), st.data()
)
def test_a_table_takes_the_lines_that_it_was_read_from_whatever_stands_in_its_cells(
    rows: list[tuple[str, ...]], data: st.DataObject
) -> None:
    lacking = data.draw(st.integers(1, len(rows[0]) - 2))
    cells = [[*row[:lacking], row[lacking] * data.draw(st.booleans()), *row[lacking + 1 :]] for row in rows]
    widths = [max(map(len, column)) + data.draw(st.integers(1, 3)) for column in zip(*cells, strict=True)]
    sides = [data.draw(st.sampled_from("<>")) for _ in widths]
    lines = [
        "".join(f"{cell:{side}{width}}" for cell, side, width in zip(row, sides, widths, strict=True)).rstrip()
        for row in cells
    ]
    if data.draw(st.booleans()):
        # Tabs for some of the blanks that go up to where they lead.
        lines = [re.sub(r"(?<=\S) +(?=\S)", lambda run: _tabbed(run, data), line) for line in lines]
    forms = forms_by("gutters", lines, set(lines))
    for level in LEVELS if forms is not None else ():
        assert all(taken_by(Writer(level).written(forms or []), lines))
