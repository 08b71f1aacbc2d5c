"""What is written is what was found, typed where the form has types; a file appears whole or not at all."""

from __future__ import annotations

import csv
import datetime as dt
import io
import json
import sqlite3
from array import array
from contextlib import nullcontext
from decimal import Decimal
from typing import TYPE_CHECKING, Any

import openpyxl
import pyarrow.parquet as pq
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.commands.sources import kept_whole
from fieldstick.data.coding import encoded, has_escapes
from fieldstick.data.delimited import Delimited, guarded
from fieldstick.data.json_rows import JsonLines
from fieldstick.data.placed import HEAD, PlacedColumn, PlacedRows
from fieldstick.data.rows import Column
from fieldstick.data.sinks import FORMS, FolderSink, form_of, open_sink
from fieldstick.data.text_file import TextFile
from fieldstick.errors import UsageError
from fieldstick.kernels.walkers import NATIVE

if TYPE_CHECKING:
    from pathlib import Path

UTC = dt.UTC
COLUMNS = [
    Column("text"),
    Column("whole", "integer"),
    Column("exact", "decimal"),
    Column("yes", "boolean"),
    Column("day", "date"),
    Column("clock", "time"),
    Column("at", "timestamp"),
]
ROWS: list[list[Any]] = [
    [
        'a "quoted", cell',
        7,
        Decimal("31.40"),
        True,
        dt.date(2026, 5, 4),
        dt.time(6, 10),
        dt.datetime(2026, 5, 4, 6, 10, tzinfo=UTC),
    ],
    ["été\n=1+1", -(2**70), Decimal("-0.0001"), False, None, None, dt.datetime(2026, 5, 4, 8, tzinfo=UTC)],
    ["", None, Decimal("1E+3"), None, dt.date(1026, 5, 4), dt.time(0, 0, 1), None],
]
TEXTS = st.text(st.sampled_from("ab,;\"'\t\r\n =+-@é1"), max_size=8)


def store(path: Path, rows: list[list[Any]] = ROWS, columns: list[Column] = COLUMNS) -> Path:
    sink = open_sink(str(path), form_of(str(path), None))
    with kept_whole(sink):
        table = sink.table("rows", columns)
        table.write(table.encode(rows[:1]))
        table.write(table.encode(rows[1:]))
    return path


def test_parquet_has_the_narrowest_type_that_is_exact(tmp_path: Path) -> None:
    table = pq.read_table(store(tmp_path / "x.parquet"))
    assert [str(field.type) for field in table.schema] == [
        "string",
        "decimal128(22, 0)",
        "decimal128(8, 4)",
        "bool",
        "date32[day]",
        "time64[us]",
        "timestamp[us, tz=UTC]",
    ]
    assert [list(row.values()) for row in table.to_pylist()] == ROWS
    small = pq.read_table(store(tmp_path / "y.parquet", [["a", 1, None, None, None, None, None]]))
    assert str(small.schema.field("whole").type) == "int64"
    mixed = [[None] * 6 + [dt.datetime(2026, 5, 4)], ROWS[0]]
    assert pq.read_table(store(tmp_path / "z.parquet", mixed)).to_pylist()[0]["at"] == "2026-05-04T00:00:00"


def test_sqlite_keeps_numbers_as_numbers_and_other_tables_as_they_are(tmp_path: Path) -> None:
    path = tmp_path / "x.sqlite"
    with sqlite3.connect(path) as base:
        base.execute("create table other (x)")
        base.execute("create table rows (old)")
    store(path, [row for row in ROWS if row[1] is None or abs(row[1]) < 2**63])
    with sqlite3.connect(path) as base:
        assert base.execute("select name from sqlite_master order by name").fetchall() == [("other",), ("rows",)]
        assert base.execute("select whole + 1, exact * 2, yes, day, at from rows").fetchall() == [
            (8, 62.8, 1, "2026-05-04", "2026-05-04T06:10:00+00:00"),
            (None, 2000, None, "1026-05-04", None),
        ]


def test_a_workbook_holds_numbers_and_days_and_never_a_formula(tmp_path: Path) -> None:
    odd = ["=1+1", None, None, None, None, None, None]
    control = ["bell \x07 and _x0007_", None, None, None, None, None, None]
    book = openpyxl.load_workbook(store(tmp_path / "x.xlsx", [*ROWS, odd, control]))
    header, first, second, third, formula, bell = list(book["rows"].iter_rows())
    assert [cell.value for cell in header] == [column.name for column in COLUMNS]
    assert [cell.value for cell in first][:4] == ['a "quoted", cell', 7, 31.4, True]
    assert first[4].value == dt.datetime(2026, 5, 4) and first[6].value == "2026-05-04T06:10:00+00:00"
    assert second[1].value == str(-(2**70)) and third[4].value == "1026-05-04"
    assert (formula[0].value, formula[0].data_type) == ("=1+1", "s") and bell[0].value.startswith("bell ")
    with pytest.raises(UsageError, match="a cell holds 32,767 at the most"):
        store(tmp_path / "y.xlsx", [["x" * 40_000, *ROWS[0][1:]]])


def test_a_workbook_that_a_signal_ends_within_a_row_is_dropped_with_the_signals_own_word(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    class Ended(nullcontext[None]):
        """A document that a signal ends as soon as anything is written to it, so that its sheet is done for."""

        def __enter__(self) -> Any:
            return self

        def element(self, *_: object, **__: object) -> nullcontext[None]:
            return nullcontext()

        def write(self, *_: object) -> None:
            raise KeyboardInterrupt

    monkeypatch.setattr("openpyxl.worksheet._writer.xmlfile", Ended)
    with pytest.raises(KeyboardInterrupt):
        store(tmp_path / "x.xlsx")
    assert not list(tmp_path.iterdir())


def test_json_lines_keep_every_digit_and_tell_absent_from_empty(tmp_path: Path) -> None:
    lines = store(tmp_path / "x.jsonl").read_text(encoding="utf-8").splitlines()
    found = [json.loads(line, parse_float=Decimal) for line in lines]
    assert [str(row["exact"]) for row in found] == ["31.40", "-0.0001", "1E+3"]
    assert found[1]["whole"] == -(2**70) and found[2]["text"] == "" and found[2]["whole"] is None
    assert found[0]["at"] == "2026-05-04T06:10:00+00:00" and found[0]["clock"] == "06:10:00"


@given(st.lists(st.lists(TEXTS, min_size=3, max_size=3), max_size=5), st.sampled_from(",;\t"))
def test_csv_reads_back_as_it_was(rows: list[list[str]], mark: str) -> None:
    form = Delimited(tuple(map(Column, "abc")), mark)
    text = form.head() + form.body(rows)
    assert list(csv.reader(io.StringIO(text, newline=""), delimiter=mark, strict=True)) == [["a", "b", "c"], *rows]


PLAIN = TEXTS.filter(lambda text: not has_escapes(text))
CELLS = st.one_of(st.none(), PLAIN, st.sampled_from(["\udcc3", "é\udc80", "\x7f"]))


@pytest.mark.skipif(NATIVE is None, reason="the walkers are not built here")
@given(st.lists(st.lists(CELLS, min_size=2, max_size=2), min_size=1, max_size=5), st.sampled_from(",\t;"))
def test_cells_that_are_places_in_a_text_are_written_as_any_others(rows: list[list[str | None]], mark: str) -> None:
    stored, places = b"", array("i")
    for number, row in enumerate(rows):
        places.extend((number, len(stored), len(stored)))
        for cell in row:
            size = len(encoded(cell or ""))
            places.extend((-1, -1) if cell is None else (len(stored), len(stored) + size))
            stored += encoded(cell or "")
    columns = [PlacedColumn("cell", HEAD), PlacedColumn("same", text=f'a{mark}"b'), PlacedColumn("number")]
    columns += [PlacedColumn("place", HEAD), PlacedColumn("cell", HEAD + 2)]
    placed = PlacedRows(stored, bytearray(places.tobytes()), HEAD + 4, len(rows), first=7, columns=columns)
    plain = [[one, f'a{mark}"b', 7 + number, 0, other] for number, (one, other) in enumerate(rows)]
    named = (Column("a"), Column("b"), Column("c", "integer"), Column("d", "integer"), Column("é"))
    for form in (Delimited(named, mark), JsonLines(named)):
        assert form.placed_body(placed) == encoded(form.body(plain))
    placed.columns = [PlacedColumn("cell", HEAD)]
    alone = Delimited(named[:1], mark)
    assert alone.placed_body(placed) == encoded(alone.body([row[:1] for row in plain]))


@given(TEXTS)
def test_a_guarded_cell_never_begins_as_a_formula_does(text: str) -> None:
    cell = guarded(text)
    assert cell.removeprefix("'") == text.removeprefix("'") or cell == text
    assert cell[:1] not in ("=", "+", "-", "@", "\t", "\r") or float(cell) is not None


def test_numbers_and_plain_texts_are_not_guarded() -> None:
    cells = ["-6.3", "+7", "1e5", "B07", "", "=A1", "-a", "@x", Decimal("-1"), None]
    assert [guarded(cell) for cell in cells] == [
        "-6.3",
        "+7",
        "1e5",
        "B07",
        "",
        "'=A1",
        "'-a",
        "'@x",
        Decimal("-1"),
        None,
    ]
    form = Delimited((Column("a"),), for_spreadsheet=True)
    assert form.body([["=1+1"]]) == "'=1+1\n" and Delimited((Column("a"),)).body([["=1+1"]]) == "=1+1\n"


def test_undecodable_bytes_are_written_as_they_were_and_shown_where_only_unicode_may_be(tmp_path: Path) -> None:
    text = b"8.2\xb0C".decode("utf-8", "surrogateescape")
    assert encoded(text) == b"8.2\xb0C" and encoded("\ud800x") == b"\\ud800x"
    assert json.loads(JsonLines((Column("a"),)).body([[text]])) == {"a": text}
    rows = [[text, None, None, None, None, None, None]]
    assert pq.read_table(store(tmp_path / "x.parquet", rows)).to_pylist()[0]["text"] == "8.2\\xb0C"
    with sqlite3.connect(store(tmp_path / "x.sqlite", rows)) as base:
        assert base.execute("select text from rows").fetchall() == [("8.2\\xb0C",)]
    with pytest.raises(UsageError, match="latin-1 has no character U\\+2032"):
        encoded("54′", "latin-1")


@pytest.mark.parametrize("form", FORMS)
def test_what_is_abandoned_leaves_the_old_file_and_nothing_else(tmp_path: Path, form: str) -> None:
    path = tmp_path / f"x.{form}"
    store(path, [])
    before = path.read_bytes()
    sink = open_sink(str(path), form_of(str(path), None))
    table = sink.table("rows", COLUMNS)
    table.write(table.encode([["new", 1, None, None, None, None, None]]))
    sink.abandon()
    assert path.read_bytes() == before and [each.name for each in tmp_path.iterdir()] == [path.name]


def test_a_folder_of_files_appears_whole(tmp_path: Path) -> None:
    sink = FolderSink(str(tmp_path / "out"), lambda path: open_sink(path, "csv"), ".csv")
    for name in ("one", "two"):
        sink.table(name, [Column("a")])
    assert not list((tmp_path / "out").glob("*.csv"))
    sink.finish()
    assert sorted(each.name for each in (tmp_path / "out").iterdir()) == ["one.csv", "two.csv"]


def test_a_link_is_followed_and_a_device_written_to(tmp_path: Path) -> None:
    (tmp_path / "real.csv").write_text("old")
    (tmp_path / "link.csv").symlink_to("real.csv")
    target = TextFile(str(tmp_path / "link.csv"))
    target.write("new")
    target.finish()
    assert (tmp_path / "link.csv").is_symlink() and (tmp_path / "real.csv").read_text() == "new"
    device = TextFile("/dev/null")
    device.write("gone")
    device.finish()
    with pytest.raises(UsageError, match="is a folder; name a file"):
        TextFile(str(tmp_path))


@pytest.mark.parametrize(
    ("path", "words"),
    [("x", "no ending that tells its form"), ("x.cvs", r"the nearest is '\.csv'; choose one with --format")],
)
def test_a_file_whose_form_cannot_be_told_asks_for_it(path: str, words: str) -> None:
    with pytest.raises(UsageError, match=words):
        form_of(path, None)
    assert form_of(path, "csv") == "csv" and form_of(None, None) == "csv"
