"""Routes, forms and lookups in bulk say of each text what one reading after the other says."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from fieldstick.data.batch import Batch
from fieldstick.errors import UsageError
from fieldstick.matching.prepare import prepare
from fieldstick.matching.result import BLANK
from fieldstick.operations.form import Form, FormReader
from fieldstick.operations.lookup import Lookup, LookupReader
from fieldstick.operations.route import MOST_OVERLAPS, Route, RouteJob, prepare_route
from fieldstick.suites.model import FieldTable
from fieldstick.workspace import bare_pattern

if TYPE_CHECKING:
    from fieldstick.suites.suite import Pattern

EMPTY: Any = ("", (), (), ("x",))


def named(name: str, expression: str, **changes: Any) -> Pattern:
    return replace(bare_pattern(expression), name=name, **changes)


WORD = named("word", r"[a-z]+", message="Write a word")
NUMBER = named("number", r"(?P<n>\d+)", fields={"n": FieldTable(type="integer", most=40)}, message="At most 40")
MIXED = named("mixed", r"\w+", reach="start")
SLOW = named("slow", r"(?:a|aa)+b(?<=(?!c)b)", budget_ms=30)
TEXTS = st.lists(st.text(st.sampled_from("ab4 -"), max_size=4), min_size=1, max_size=25)


def route_of(*patterns: Pattern) -> Route:
    return Route("kinds", *EMPTY, order=patterns, otherwise="unknown")


@given(TEXTS, st.permutations([WORD, NUMBER, MIXED]))
def test_the_first_pattern_that_fits_names_the_kind(texts: list[str], order: list[Pattern]) -> None:
    ready = prepare_route(route_of(*order))
    kinds = [ready.kinds[kind] if kind is not None else None for kind in ready.sort(texts)]
    assert kinds == [ready.kind(text) for text in texts]
    for text, kind in zip(texts, kinds, strict=True):
        fitting = [pattern.name for pattern in order if prepare(pattern).read(text).fits]
        assert kind == (fitting[0] if fitting else "unknown")


@given(TEXTS)
def test_overlaps_are_all_the_patterns_that_fit(texts: list[str]) -> None:
    order = (WORD, NUMBER, MIXED)
    ready = prepare_route(route_of(*order))
    for text, several in zip(texts, ready.overlaps(texts), strict=True):
        assert [ready.kinds[kind] for kind in several] == [p.name for p in order if prepare(p).read(text).fits]


def test_a_text_that_spends_its_budget_is_of_no_kind_and_the_others_are() -> None:
    ready = prepare_route(route_of(SLOW, WORD))
    assert ready.sort(["ab", "a" * 60, "zz", "7"]) == [0, None, 1, 2]


CELLS = st.sampled_from(["word", "7", "41", "x1", "", "  ", "-", "n/a", None])
ROWS = st.lists(st.fixed_dictionaries({}, optional={"A": CELLS, "B": CELLS, "Other": CELLS}), max_size=12)


@given(ROWS, st.sets(st.sampled_from(["A", "B"])), st.sampled_from([("",), ("-", "n/a")]))
def test_a_form_rejects_what_a_pattern_turns_away_and_what_is_missing(
    rows: list[dict[str, str | None]], required: set[str], blank: tuple[str, ...]
) -> None:
    columns = (("A", WORD), ("B", NUMBER))
    form = FormReader(Form("form", *EMPTY, columns=columns, required=tuple(required), blank=blank))
    judged = form.judge(rows)
    assert len(judged) == len(rows)
    for row, rejects in zip(rows, judged, strict=True):
        expected = {}
        for column, pattern in columns:
            cell = row.get(column)
            if cell is None or not cell.strip() or cell in blank:
                if column in required:
                    expected[column] = BLANK
            else:
                unfit = prepare(pattern).read(cell).unfit
                if unfit is not None:
                    expected[column] = unfit.reason
        assert {each.column: each.why.reason for each in rejects} == expected
        assert all(each.message in ("Write a word", "At most 40") and each.why.words for each in rejects)


def test_a_reject_says_why_in_words() -> None:
    form = FormReader(Form("form", *EMPTY, columns=(("B", NUMBER), ("S", SLOW)), required=("S",)))
    value, slow = form.judge([{"B": "41", "S": "a" * 60}])[0]
    assert value.why.words == "the field 'n' is 41, above the most of 40" and value.why.reason == "field-invalid"
    assert slow.why.reason == "gave-up" and "budget" in slow.why.words
    (missing,) = form.judge([{}])[0]
    assert (missing.column, missing.value, missing.why.words) == ("S", "", "nothing is entered, and something must be")


TABLE = [
    {"Site": "Fen + Carr", "Code": "S01"},
    {"Site": "fen + carr (upper)", "Code": "S02"},
    {"Site": "Whin Sike", "Code": "S03"},
]


def lookup_of(**changes: Any) -> Lookup:
    pattern = replace(bare_pattern(r"{{=name}}(?: \(.*\))?"), flags=frozenset({"ignore-case"}), name="site")
    return replace(
        Lookup("sites", *EMPTY, pattern=pattern, column="Site", give=("Code",), otherwise="unlisted"), **changes
    )


@pytest.mark.parametrize(
    ("take", "name", "codes", "rows"),
    [
        ("first", "fen + carr", ["S01"], (0,)),
        ("last", "FEN + CARR", ["S02"], (1,)),
        ("all", "Fen + Carr", ["S01", "S02"], (0, 1)),
        ("all", "Fen . Carr", ["unlisted"], ()),
        ("first", "", ["unlisted"], ()),
        ("first", "Whin", ["unlisted"], ()),
    ],
)
def test_the_rows_taken_are_those_whose_column_fits(take: Any, name: str, codes: list[str], rows: Any) -> None:
    ready = LookupReader(lookup_of(take=take), TABLE)
    found = ready.find({"name": name})
    assert [answer["Code"] for answer in found.answers] == codes and found.rows == rows
    assert ready.find({"name": name}) is found


def test_answers_are_told_apart_row_by_row() -> None:
    one, two = {"Code": "S01"}, {"Code": "S02"}
    lookup = lookup_of(take="all")

    def told(expected: list[dict[str, str]], made: list[dict[str, str]]) -> list[tuple[str | None, Any, Any]]:
        return [(each.name, each.expected, each.captured) for each in lookup.differences(expected, made)]

    assert told([one], [one, two]) == [("2 Code", None, "S02")]
    assert told([one, two], [one]) == [("2 Code", "S02", None)]
    assert told([one, {}], [two, one]) == [("1 Code", "S01", "S02")]


def test_overlapping_texts_are_named_up_to_a_limit() -> None:
    router = prepare_route(route_of(named("a", "a+"), named("b", "a")))
    first, second = (RouteJob(router, None, with_overlaps=True) for _ in range(2))
    for job, count in ((first, MOST_OVERLAPS - 1), (second, 4)):
        _, tally = job.work("x", Batch(None, ["a"] * count + ["aa", "b"]))
        job.tally.merge(tally)
    first.tally.merge(second.tally)
    (texts,) = first.tally.overlapping.values()
    assert first.tally.overlaps.total() == MOST_OVERLAPS + 3 and len(texts) == MOST_OVERLAPS


def test_a_lookup_among_rows_without_the_column_names_the_nearest() -> None:
    with pytest.raises(UsageError, match="the rows have no column 'Cod'; the nearest is 'Code'"):
        LookupReader(lookup_of(give=("Cod",)), TABLE)
    assert LookupReader(lookup_of(), []).find({"name": "x"}).answers == ({"Code": "unlisted"},)
    slow = LookupReader(lookup_of(pattern=SLOW), [{"Site": "a" * 60, "Code": "x"}, {"Site": "ab", "Code": "y"}])
    found = slow.find({})
    assert found.gave_up == (0,) and found.answers == ({"Code": "y"},)
