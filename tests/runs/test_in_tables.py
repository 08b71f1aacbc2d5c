"""Patterns in tables: what comes as Arrow data is what is read text by text, whatever the texts come in."""

from __future__ import annotations

import re
import tracemalloc
import warnings
from decimal import Decimal
from pathlib import Path
from typing import TYPE_CHECKING, Any

import pandas
import polars
import pyarrow
import pytest
from hypothesis import example, given
from hypothesis import strategies as st
from msgspec.structs import replace

import fieldstick
from fieldstick.data import given_texts
from fieldstick.demo.story import lay_out
from fieldstick.library import ReadyPattern
from fieldstick.matching import row_walks
from fieldstick.matching.prepare import prepare
from fieldstick.suites.model import FieldTable
from fieldstick.workspace import bare_pattern

if TYPE_CHECKING:
    from conftest import Desk

READING = r"(?P<plot>[A-F]\d\d) (?P<n>\d+)(?: m=(?P<m>\d+\.\d+))?(?: (?P<day>\d{4}-\d\d-\d\d))?"
FIELDS = {
    "n": FieldTable(type="integer", most=5000),
    "m": FieldTable(type="decimal"),
    "day": FieldTable(type="date"),
}

TEXTS = st.one_of(
    st.none(),
    st.sampled_from(
        [
            "B07 3",
            "B07 7 m=31.40",
            "A01 99999999999999999999",
            "C11 6000",
            "A02 1 2026-05-04",
            "A02 1 2026-13-04",
            "",
            "é",
        ]
    ),
    st.from_regex(READING.replace("\\d", "[0-9]"), fullmatch=True),
    st.text(max_size=8),
)


def ready(take: Any = "first", reach: Any = "whole", expression: str = READING) -> ReadyPattern:
    fields = FIELDS if expression == READING else {}
    return ReadyPattern(prepare(replace(bare_pattern(expression, reach=reach), take=take, fields=fields)))


def by_one(pattern: ReadyPattern, texts: list[str | None]) -> list[tuple[Any, ...]]:
    """Return source, line, start, end and values of each row, from reading text by text."""
    rows = []
    for line, text in enumerate(texts, 1):
        for match in pattern.read(text).matches if text is not None and pattern.read(text).fits else ():
            values = [(found.value if (found := match.fields[name]) else None) for name in pattern.field_names]
            rows.append(("texts", line, *match.place, *values))
    return rows


def as_rows(table: Any) -> list[tuple[Any, ...]]:
    return [tuple(row.values()) for row in table.to_pylist()]


def forms_of(texts: list[str | None]) -> dict[str, Any]:
    """Return texts as each thing that may hold them; lone surrogates fit into lists alone."""
    forms: dict[str, Any] = {"list": texts, "going": iter(texts)}
    if all(text is None or text.isprintable() for text in texts):
        array = pyarrow.array(texts, pyarrow.string())
        cut = pyarrow.concat_arrays([pyarrow.array(["x", None]), array]).slice(2)
        forms |= {
            "array": array,
            "slice": cut,
            "chunks": pyarrow.chunked_array([array.slice(0, 1), array.slice(1)], pyarrow.string()),
            "large": array.cast(pyarrow.large_string()),
            "dictionary": array.dictionary_encode(),
            "pandas": pandas.Series(texts, dtype="str"),
            "polars": polars.Series(texts, dtype=polars.String),
        }
    return forms


@given(st.lists(TEXTS, max_size=12), st.sampled_from(["first", "last", "all"]), st.booleans())
@example([None, None, None, None, "B07 3", "A00 1 m=0." + 21 * "0"], "first", False)
@example(["A00 1 m=7", None, None, None, "B07 3", "A00 1 m=0." + 21 * "0"], "first", False)
def test_a_table_holds_what_is_read_one_by_one(texts: list[str | None], take: str, whole: bool) -> None:
    pattern = ready(take, "whole" if whole else "anywhere")
    expected = by_one(pattern, texts)
    fits = [None if text is None else pattern.read(text).fits for text in texts]
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(row_walks, "WORTH_NEW", 0)
        patch.setattr(row_walks, "WORTH_KEPT", 0)
        patch.setattr(given_texts, "BLOCK_TEXTS", 5)
        for form, each in forms_of(texts).items():
            # What is gone through once is good for one question.
            assert as_rows(pattern.table(each, with_place=True)) == expected, form
            if form != "going":
                assert pattern.fits(each).to_pylist() == fits, form
                assert as_rows(pattern.table(each)) == [row[4:] for row in expected]


@given(st.lists(TEXTS, max_size=12))
def test_every_text_has_its_row_beside_it(texts: list[str | None]) -> None:
    pattern = ready()
    rows = {row[1]: row for row in by_one(pattern, texts)}
    beside = [rows.get(line, ("texts", line, None, None, *[None] * 4)) for line in range(1, len(texts) + 1)]
    assert as_rows(pattern.table(texts, every_text=True)) == [row[4:] for row in beside]
    assert as_rows(pattern.table(texts, every_text=True, with_place=True)) == beside


def test_all_matches_of_a_text_follow_its_place(desk: Desk) -> None:
    pattern = ready("all", "anywhere", r"[A-F]\d\d")
    texts = ["A01 B02", None, "none", "C03"]
    assert pattern.table(texts, every_text=True).to_pydict() == {"match": ["A01", "B02", None, None, "C03"]}
    lines = pattern.table(texts, every_text=True, with_place=True).column("line").to_pylist()
    assert lines == [1, 1, 2, 3, 4]


def test_types_are_the_narrowest_or_those_that_are_asked_for() -> None:
    pattern = ready()
    texts = ["B07 1 m=31.4", "B07 2 m=1.25"]
    assert pattern.table(texts).schema.field("m").type == pyarrow.decimal128(4, 2)
    assert pattern.table([]).schema.names == ["plot", "n", "m", "day"]
    asked = pattern.table(texts, types={"m": pyarrow.float64(), "n": pyarrow.int8()})
    assert asked.to_pydict()["m"] == [31.4, 1.25] and asked.schema.field("n").type == pyarrow.int8()
    with pytest.raises(fieldstick.UsageError, match=r"'n' has values that int8 does not hold .*types=\{'n'"):
        pattern.table(["B07 4000"], types={"n": pyarrow.int8()})
    with pytest.raises(fieldstick.UsageError, match="no column 'q'"):
        pattern.table(texts, types={"q": pyarrow.int8()})


def test_batches_are_read_as_they_are_asked_for_in_flat_memory(desk: Desk) -> None:
    pattern = ready()

    def going() -> Any:
        for number in range(160_000):
            yield f"B07 {number % 5000} m={number % 100}.25"

    tracemalloc.start()
    reader = pattern.batches(going())
    assert reader.schema.field("m").type == pyarrow.decimal128(38, 18)
    first = reader.read_next_batch()
    assert 0 < len(first) < 100_000
    total = len(first) + sum(len(batch) for batch in reader)
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert total == 160_000
    assert peak < 60_000_000  # 50,000 texts and their rows, where all of them take three times as much
    assert pattern.batches(["B07 1 m=31.4"]).read_all().to_pydict()["m"] == [Decimal("31.4")]
    with pytest.raises(fieldstick.UsageError, match="'m' has values"):
        pattern.batches([f"B07 1 m=1.{'1' * 19}"]).read_all()


def test_sources_are_read_by_the_words_of_reading(desk: Desk) -> None:
    path = desk.write("a.csv", "Code;Note\nB07 1;x\nB08 2;y\n")
    desk.write("b.csv", "Code;Note\nB09 3;z\n")
    pattern = ready()
    assert pattern.table(path, column="Code", delimiter="semicolon").column("n").to_pylist() == [1, 2]
    both = pattern.table(f"{desk.folder}/*.csv", column="Code", delimiter="semicolon", with_place=True)
    assert [Path(each).name for each in both.column("source").to_pylist()] == ["a.csv", "a.csv", "b.csv"]
    (desk.folder / "odd.log").write_bytes(b"B07 1\nB\xff7 2\n")
    with pytest.warns(fieldstick.DataWarning, match=r"odd.log: 1 line has bytes that are not UTF-8.*: 2"):
        assert pattern.table(desk.folder / "odd.log").num_rows == 1


@pytest.mark.parametrize(
    ("given", "reading", "words"),
    [
        (pyarrow.table({"line": ["x"]}), {}, "name the column"),
        (pyarrow.table({"line": ["x"]}), {"column": "lines"}, "no column 'lines'; the nearest is 'line'"),
        (["x"], {"column": "line"}, "texts one by one"),
        (["x", 3], {}, "text 2 is int"),
        (pyarrow.array([3]), {}, "these are int64"),
        (3, {}, "this is int"),
        ("no-such.log", {}, "cannot be read"),
        ("no-such.log", {"colum": "x"}, "no word of reading 'colum'"),
        ("no-such.log", {"column": ("a", "b")}, "one column is read here"),
        (["x"], {"delimiter": ";"}, "delimiter: that says how a source is read"),
    ],
)
def test_what_are_no_texts_is_refused(given: Any, reading: dict[str, Any], words: str) -> None:
    with pytest.raises(fieldstick.UsageError, match=re.escape(words)):
        ready().table(given, **reading)


def test_a_text_that_is_given_up_is_null_and_warned_of() -> None:
    # A reference is beyond the automaton, so that the engine alone can tell.
    slow = ReadyPattern(prepare(replace(bare_pattern(r"(a|aa)+(b)\2"), budget_ms=20)))
    with pytest.warns(fieldstick.DataWarning, match="1 text given up.*texts:1"):
        assert slow.fits(["a" * 60, "x"]).to_pylist() == [None, False]


def test_the_documented_examples_run(desk: Desk) -> None:
    text = (Path(__file__).resolve().parent.parent.parent / "docs" / "python.md").read_text(encoding="utf-8")
    lay_out(desk.folder)
    known: dict[str, Any] = {"print": lambda *told: None}
    with pytest.MonkeyPatch.context() as patch, warnings.catch_warnings():
        patch.chdir(desk.folder)
        warnings.simplefilter("ignore", fieldstick.DataWarning)
        for block in re.findall(r"^```python\n(.*?)^```", text, re.MULTILINE | re.DOTALL):
            exec(compile(block, "python.md", "exec"), known)
        frame, read = known["frame"], known["read"]
        assert len(read) == len(frame) and set(frame["sound"]) >= {True, False}
        known["test_the_patterns_of_this_job"]()
        assert known["table"].num_rows == 3406
