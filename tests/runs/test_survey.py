"""A survey accounts for every text, and its shapes say what they stand for."""

from __future__ import annotations

import csv
import datetime as dt
import tempfile
from collections import Counter
from decimal import Decimal
from pathlib import Path
from typing import Any

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from conftest import plain
from fieldstick.data import delimited, delimited_blocks
from fieldstick.data.batch import StoredTexts
from fieldstick.data.lines import LineBlock
from fieldstick.data.read_options import ReadOptions
from fieldstick.data.source import Source
from fieldstick.reporting.survey_report import survey_report
from fieldstick.runs import distinct
from fieldstick.runs import survey as module
from fieldstick.runs.column_types import READINGS, ColumnTypes, number_values
from fieldstick.runs.processes import Processes
from fieldstick.runs.survey import MOST_VALUES, Survey, SurveyJob, survey, survey_columns
from fieldstick.suites.fieldtypes import FieldSpec, Unconverted

TEXTS = st.lists(st.text(alphabet="aB7 -.é漢Ж\t", max_size=8), max_size=30)


def of(*texts: str) -> Survey:
    return survey(enumerate(texts, 1))


@pytest.mark.parametrize(
    ("texts", "shape"),
    [
        (["B07/3"], "A99/9"),
        (["B07/3", "C1/12"], "A9…/9…"),
        (["Møse"], "Aaaa"),
        (["ΛΛ", "Λ"], "Λ…"),
        (["Ж1"], "Ж9"),
        (["漢字"], "漢漢"),
        (["٧"], "9"),
        (["1234567890123"], "9…"),
        (["a b"], "a a"),
        ([""], ""),
    ],
)
def test_a_shape_has_a_letter_for_each_kind(texts: list[str], shape: str) -> None:
    assert [each.text for each in of(*texts).ranked()] == [shape]


@given(TEXTS)
def test_every_text_is_counted_once(texts: list[str]) -> None:
    found = of(*texts)
    shapes = found.ranked()
    assert sum(shape.count for shape in shapes) == found.texts == len(texts)
    assert len(found.values) == len(set(texts)) and found.values.is_exact
    for shape in shapes:
        assert shape.examples and shape.shortest <= min(map(len, shape.examples))
        assert shape.longest >= max(map(len, shape.examples))
        assert texts[shape.first - 1] == shape.examples[0]
    assert [shape.count for shape in shapes] == sorted((shape.count for shape in shapes), reverse=True)
    assert [shape.count for shape in found.ranked(rare=True)] == sorted(shape.count for shape in shapes)


@pytest.mark.parametrize(
    ("text", "name"),
    [
        ("", "empty"),
        ("  ", "blanks alone"),
        (" a", "white space at an edge"),
        ("a  b", "blanks in a row"),
        ("a\tb", "tab"),
        ("a\x00b", "control character U+0000"),
        ("a\u00a0b", "no-break space"),
        ("a\u200bb", "invisible character U+200B (zero width space)"),
        ("a\ufeffb", "invisible character U+FEFF (zero width no-break space)"),
        ("Λόφος", "greek letters"),
        ("Белый", "cyrillic letters"),
        ("٧", "arabic-indic digits"),
        ("e\u0301", "combining mark"),
        ("\udcb0", "byte that is not UTF-8"),
    ],
)
def test_what_is_odd_is_named_with_its_first_line(text: str, name: str) -> None:
    found = of("plain", text, text)
    assert (found.oddities[name].count, found.oddities[name].first) == (2, 2)


def test_plain_latin_text_is_not_odd() -> None:
    assert of("Møse-kar", "Hag's End", "54°12′").oddities == {}


def test_a_shape_that_most_texts_have_is_found_however_late_it_comes(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(module, "MOST_SHAPES", 20)
    marks = [chr(code) for code in range(0x21, 0x7F) if not chr(code).isalnum()]
    odd = [one + other for one in marks for other in marks][:500]
    found = of(*odd, *(["a1"] * 2000), *odd[:7])
    assert found.ranked()[0].text == "a9" and found.ranked()[0].count == 2000
    assert len(found.shapes) <= 20 and found.other_shapes + sum(each.count for each in found.shapes.values()) == 2507
    assert "in at least" in "".join(plain(survey_report(found, 5, False, ())))


@given(st.lists(st.text(max_size=3), max_size=60), st.integers(0, 40))
def test_different_texts_are_counted_exactly_while_they_are_few(texts: list[str], most: int) -> None:
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(distinct, "MOST_EXACT", most)
        found = of(*texts).values
    assert found.is_exact is (len(set(texts)) <= most)
    if found.is_exact:
        assert len(found) == len(set(texts))


def test_many_different_texts_are_estimated_the_same_in_every_run() -> None:
    found = distinct.Distinct()
    for start in range(0, 120_000, 1000):
        found.add_many([f"probe {each}" for number in range(start, start + 1000) for each in (number, number // 2)])
    # The hash is fixed, and so is the estimate: three standard errors at the most from the truth.
    assert not found.is_exact and abs(len(found) - 120_000) < 0.05 * 120_000


def test_a_line_is_the_same_text_however_it_is_stored() -> None:
    found = distinct.Distinct()
    lines = [f"probe {number % 300}" for number in range(1000)]
    for batch in LineBlock(1, "".join(f"{each}\n" for each in lines).encode(), None).parts():
        found.add_stored(batch.stored or StoredTexts(b"", 0), lambda: lines)
    found.add_many(lines)
    assert found.is_exact and len(found) == 300


@given(st.from_regex(r"-?[0-9]{0,19}(\.[0-9]{0,19})?", fullmatch=True) | st.text("-+0123.,٧e ", max_size=8))
def test_numbers_written_plainly_convert_at_once_to_what_each_type_makes_of_them(text: str) -> None:
    for (_, spec), value in zip(READINGS, number_values(text), strict=False):
        try:
            made = spec.convert(text)
        except Unconverted:
            made = None
        assert (type(made), made) == (type(value), value) and str(made) == str(value)


@pytest.mark.parametrize(
    ("written", "name"),
    [
        ("%d.%m.%Y %H:%M", "timestamp as %d.%m.%Y %H:%M"),
        ("%d/%m/%Y %H:%M:%S", "timestamp as %d/%m/%Y %H:%M:%S"),
        ("%m/%d/%Y %I:%M:%S %p", "timestamp as %m/%d/%Y %I:%M:%S %p"),
        ("%Y/%m/%d", "date as %Y/%m/%d"),
        ("%d %B %Y", "date as %d %B %Y"),
        ("%d/%b/%Y:%H:%M:%S +0200", "timestamp as %d/%b/%Y:%H:%M:%S %z"),
        ("%a, %d %b %Y %H:%M:%S -0130", "timestamp as %a, %d %b %Y %H:%M:%S %z"),
        ("%Y%m%dT%H%M%S", "timestamp"),
        ("%I:%M %p", "time as %I:%M %p"),
        ("%Y-%m-%dT%H:%M:%S", "timestamp"),
    ],
)
def test_moments_of_a_column_have_the_layout_in_which_all_of_them_are_written(written: str, name: str) -> None:
    start = dt.datetime(2026, 1, 3, 5, 10, 7)
    moments = [start + number * dt.timedelta(days=3, hours=7, minutes=13) for number in range(90)]
    types = ColumnTypes()
    types.add_many([*(each.strftime(written) for each in moments), "unknown"])
    best = types.best
    assert best is not None and (best.name, best.fit, best.missed, best.example) == (name, 90, 1, "unknown")


@pytest.mark.parametrize("spec", [spec for _, spec in READINGS if spec.layout])
def test_every_layout_that_is_tried_is_found_by_what_its_texts_look_like(spec: FieldSpec) -> None:
    start = dt.datetime(2026, 1, 3, 5, 10, tzinfo=dt.UTC)
    texts = [(start + at * dt.timedelta(days=3, hours=7)).strftime(spec.layout or "") for at in range(90)]
    types = ColumnTypes()
    types.add_many(texts)
    best, values = types.best, [*map(spec.convert, texts)]
    assert best is not None and best.fit == len(texts)
    assert (best.least, best.most) == (min(values), max(values))


@given(st.lists(st.decimals(0, 10**7, places=2), min_size=1, max_size=40), st.booleans(), st.integers(0, 40))
def test_numbers_with_points_and_commas_are_of_one_type_however_large(
    numbers: list[Decimal], comma: bool, at: int
) -> None:
    texts = [f"{each:,.2f}" for each in numbers]
    texts = [each.translate(str.maketrans(",.", ".,")) for each in texts] if comma else texts
    types, rest = ColumnTypes(), ColumnTypes()
    types.add_many(texts[:at])
    rest.add_many([*texts[at:], "n/a"])
    types.merge(rest)
    best = types.best
    assert best is not None and (best.fit, best.missed) == (len(numbers), 1)
    assert (best.least, best.most, best.example) == (min(numbers), max(numbers), "n/a")
    if max(numbers) >= 1000:
        grouped = "decimal with a comma, thousands parted by ." if comma else "decimal with thousands parted by ,"
        assert best.name == grouped


def test_each_column_of_a_table_has_a_survey_of_its_own() -> None:
    found = survey_columns([(2, {"Ring": "RX 1", "Wing": ""}), (3, {"Ring": "RX 2", "Wing": "96"})])
    assert (found["Ring"].filled, found["Wing"].filled) == (2, 1)
    assert found["Wing"].oddities["empty"].first == 2


@given(TEXTS, st.integers(0, 8), st.sampled_from(["\n", "\r\n"]))
def test_lines_as_they_are_stored_are_surveyed_as_texts_are(texts: list[str], most: int, end: str) -> None:
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(distinct, "MOST_EXACT", most)
        plainly, stored = Survey(), Survey()
        for some in (texts, texts[: len(texts) // 2]):
            for batch in LineBlock(5, "".join(text + end for text in some).encode(), None).parts() if some else ():
                stored.add_batch(batch)
                plainly.add_many(batch.numbers, some)
    assert (stored.shapes, stored.oddities) == (plainly.shapes, plainly.oddities)
    assert (stored.texts, stored.filled, stored.shortest, stored.longest) == (
        plainly.texts, plainly.filled, plainly.shortest, plainly.longest)  # fmt: skip
    assert (stored.values.is_exact, len(stored.values)) == (plainly.values.is_exact, len(plainly.values))


@given(st.lists(st.lists(st.text(alphabet="aB7 -", min_size=1, max_size=3), max_size=4), max_size=12))
@example([["a"], ["B"], ["7"], ["a b"], ["a"]])
def test_shapes_that_are_let_go_and_come_again_are_counted_as_they_are_stored(blocks: list[list[str]]) -> None:
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(module, "MOST_SHAPES", 3)
        found, seen = Survey(), 0
        for texts in blocks:
            for batch in LineBlock(seen + 1, "".join(f"{each}\n" for each in texts).encode(), None).parts():
                found.add_batch(batch)
            seen += len(texts)
    assert len(found.shapes) <= 3 and found.texts == seen
    assert sum(each.count for each in found.shapes.values()) + found.other_shapes == seen
    assert all(each.examples for each in found.shapes.values())


@pytest.mark.parametrize(
    ("texts", "name", "fit", "ends"),
    [
        (["7", "12", "-3", "six"], "integer", 3, (-3, 12)),
        (["1,240", "12,004", "7"], "integer with thousands parted by ,", 3, (7, 12004)),
        (["31.4", "8", "n/a"], "decimal", 2, (Decimal("8"), Decimal("31.4"))),
        (["89,4", "60,1", "278.0"], "decimal with a comma", 2, (Decimal("60.1"), Decimal("89.4"))),
        (["4.5.2026", "31.12.2025", "soon"], "date as %d.%m.%Y", 2, (dt.date(2025, 12, 31), dt.date(2026, 5, 4))),
        (["2026-05-04T06:10:00Z"] * 2, "timestamp", 2, (dt.datetime(2026, 5, 4, 6, 10, tzinfo=dt.UTC),) * 2),
        (["yes", "No", "perhaps", ""], "boolean", 2, (None, None)),
        (["fen", "hag", "7"], None, 0, (None, None)),
    ],
)
def test_a_column_tells_what_its_texts_would_convert_to(
    texts: list[str], name: str | None, fit: int, ends: tuple[object, object]
) -> None:
    whole = survey_columns(enumerate([{"c": each} for each in texts], 2))["c"]
    halves = survey_columns(enumerate([{"c": each} for each in texts[:1]], 2), to_be_merged=True)["c"]
    halves.merge(survey_columns(enumerate([{"c": each} for each in texts[1:]], 3), to_be_merged=True)["c"])
    for found in (whole, halves):
        assert found.types is not None
        best = found.types.best
        assert (best.name if best is not None else None) == name
        if best is not None:
            filled = sum(bool(each) for each in texts)
            assert (best.fit, best.missed, best.least, best.most) == (fit, filled - fit, *ends)
    assert whole.may_be_key is (len(set(texts)) == len(texts) and all(texts))


@given(st.lists(st.integers(-50, 50), min_size=1, max_size=200))
def test_the_buckets_of_a_column_hold_all_its_values(numbers: list[int]) -> None:
    types = ColumnTypes()
    types.add_many([str(each) for each in numbers])
    best = types.best
    assert best is not None and (best.least, best.most) == (min(numbers), max(numbers))
    assert sum(best.buckets()) == (len(numbers) if len(set(numbers)) > 1 else 0)


@pytest.mark.parametrize(
    ("texts", "name", "fit"),
    [
        (["3"] * 280 + ["1"] * 300 + ["2"] * 3000, "integer", 3580),
        (["yes", "no", ""] * 2000, "boolean", 4000),
        ([f"{at}.5" if at % 10 else "n/a" for at in range(1, 9000)], "decimal", 8100),
    ],
)
def test_a_type_is_not_given_up_for_the_order_in_which_texts_are_counted(texts: list[str], name: str, fit: int) -> None:
    found = ColumnTypes()
    found.add_many(texts)
    assert found.best is not None and (found.best.name, found.best.fit) == (name, fit)
    assert found.best.missed == sum(map(bool, texts)) - fit


@given(st.lists(st.sampled_from([*"abcdefghij", ""]), max_size=60), st.integers(0, 60))
def test_few_values_of_a_column_are_counted_each(texts: list[str], at: int) -> None:
    halves = [
        survey_columns(enumerate([{"c": each} for each in some], 2), to_be_merged=True).get("c")
        for some in (texts[:at], texts[at:])
    ]
    whole, *others = [each for each in halves if each is not None] or [Survey()]
    for other in others:
        whole.merge(other)
    assert whole.few == (Counter(texts) if len(set(texts)) <= MOST_VALUES else None)


CELLS = st.sampled_from(
    [
        "",
        " ",
        "7",
        "31.4",
        "B07",
        "b 07",
        "2026-05-04",
        "true",
        "é",
        "x\ny",
        "x\r",
        'say "so"',
        "a,b",
        "1,042",
        "\t",
        "ΛЖ 漢",
    ]
)


@given(
    st.lists(st.lists(CELLS, min_size=1, max_size=4), max_size=30), st.sampled_from(["\n", "\r\n"]), st.integers(20, 90)
)
def test_columns_of_csv_are_the_same_by_cells_as_by_rows(rows: list[list[str]], end: str, size: int) -> None:
    def surveyed(path: Path, *, by_cells: bool) -> dict[str, Any]:
        source = Source(str(path), ReadOptions(kind="csv", rows_wanted=True, cells_wanted=by_cells))
        job = SurveyJob(by_column=True)
        Processes(1).run(job, [source])
        return {
            name: (
                [(each.kinds, each.tally, each.first, each.examples) for each in found.ranked()],
                [found.texts, found.filled, found.shortest, found.longest, found.oddities, len(found.values)],
                found.few,
                job.rows,
                [
                    (each.name, each.fit, each.missed, each.example, each.least, each.most, sorted(each.sample))
                    for each in (found.types or ColumnTypes()).counts
                ],
                source.notes.ragged,
            )
            for name, found in job.found.items()
        }

    with tempfile.TemporaryDirectory() as folder, pytest.MonkeyPatch.context() as patch:
        path = Path(folder) / "rows.csv"
        with path.open("w", newline="", encoding="utf-8") as stream:
            csv.writer(stream, lineterminator=end).writerows([["ring", "wing", "ring"], *rows])
        plainly = surveyed(path, by_cells=False)
        for module_of_blocks in (delimited, delimited_blocks):
            patch.setattr(module_of_blocks, "BLOCK", size)
        assert surveyed(path, by_cells=True) == plainly
