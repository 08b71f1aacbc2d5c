"""The commands at work read every kind of source alike, and say what they met."""

from __future__ import annotations

import bz2
import csv
import gzip
import io
import json
import lzma
import sqlite3
from typing import TYPE_CHECKING

import openpyxl
import pyarrow as pa
import pyarrow.parquet as pq
import pytest
import zstandard

from fieldstick.demo.story import lay_out

if TYPE_CHECKING:
    from conftest import Desk

RINGING = "data/ringing-2026.csv"
RING = r"(?P<series>[A-Z]{1,3}) ?(?P<number>\d{5})"


@pytest.fixture
def station(desk: Desk) -> Desk:
    lay_out(desk.folder)
    return desk


def converted(station: Desk, name: str) -> str:
    """Write the ringing records as another kind of file, and return its name."""
    with (station.folder / RINGING).open(encoding="utf-8", newline="") as stream:
        header, *rows = csv.reader(stream)
    path = station.folder / name
    if name.endswith(".parquet"):
        pq.write_table(pa.table({column: [row[at] for row in rows] for at, column in enumerate(header)}), path)
    elif name.endswith((".xlsx", ".xlsx.gz")):
        book = openpyxl.Workbook(write_only=True)
        sheet = book.create_sheet("rings")
        for row in (header, *rows):
            sheet.append(row)
        book.save(path)
        if name.endswith(".gz"):
            path.write_bytes(gzip.compress(path.read_bytes()))
    elif name.endswith(".sqlite"):
        with sqlite3.connect(path) as base:
            base.execute(f"create table rings ({', '.join(f'[{column}]' for column in header)})")
            base.executemany(f"insert into rings values ({', '.join('?' * len(header))})", rows)
    elif name.endswith(".jsonl"):
        path.write_text(
            "".join(json.dumps(dict(zip(header, row, strict=True))) + "\n" for row in rows), encoding="utf-8"
        )
    else:
        pack = {".gz": gzip.compress, ".bz2": bz2.compress, ".xz": lzma.compress, ".zst": zstandard.compress}
        path.write_bytes(pack[path.suffix]((station.folder / RINGING).read_bytes()))
    return name


KINDS = ["r.parquet", "r.xlsx.gz", "r.xlsx", "r.sqlite", "r.jsonl", "r.csv.gz", "r.csv.bz2", "r.csv.xz", "r.csv.zst"]


@pytest.mark.parametrize("name", KINDS)
def test_a_column_gives_the_same_rows_whatever_holds_it(station: Desk, name: str) -> None:
    arguments = ("extract", "-e", RING, "--column", "Ring")
    expected = station.run(*arguments, RINGING)
    found = station.run(*arguments, converted(station, name))
    assert found.out == expected.out and found.err == expected.err and "read 500 texts" in found.err


@pytest.mark.parametrize("name", KINDS)
def test_rows_are_selected_whole_whatever_holds_them(station: Desk, name: str) -> None:
    arguments = ("select", "-e", r"Fen.*", "--column", "Locality")
    expected = list(csv.DictReader(io.StringIO(station.run(*arguments, RINGING).out, newline="")))
    out = station.run(*arguments, converted(station, name)).out
    if name.endswith(".jsonl"):
        assert [json.loads(line) for line in out.splitlines()] == expected
    else:
        assert list(csv.DictReader(io.StringIO(out, newline=""))) == expected
    assert len(expected) > 10


def test_a_form_validates_whatever_holds_the_rows(station: Desk) -> None:
    arguments = ("validate", "--judge", "Ring=records:ring", "--judge", "Wing=records:wing", "--required", "Ring")
    expected = station.run(*arguments, RINGING).out.splitlines()[-1]
    assert "rejected" in expected
    for name in ("r.parquet", "r.xlsx", "r.sqlite", "r.jsonl"):
        assert station.run(*arguments, converted(station, name)).out.splitlines()[-1] == expected


def test_ragged_rows_are_read_named_and_told_by_the_status(desk: Desk) -> None:
    desk.write("x.csv", "a,b\n1,2\n3\n4,5,6\n7,8\n")
    run = desk.run("extract", "-e", r"(?P<b>\d*)", "x.csv", "--column", "b")
    assert run.out == 'b\n2\n""\n5\n8\n' and run.status == 1
    assert "x.csv: 2 rows have another number of cells than the header: 3, 4" in run.err


def test_undecodable_bytes_are_kept_or_refused_as_asked(desk: Desk) -> None:
    (desk.folder / "x.log").write_bytes(b"a=1\nb=\xff\n")
    kept = desk.run("select", "-e", "b=.*", "x.log")
    assert kept.out == "b=\udcff\n" and kept.status == 1
    refused = desk.run("select", "-e", "b=.*", "x.log", "--undecodable", "refuse", "--to", "y.log")
    assert refused.status == 2 and "x.log:2: bytes that are not utf-8" in refused.err
    assert not (desk.folder / "y.log").exists()
    assert desk.run("select", "-e", "b=ÿ", "x.log", "--encoding", "latin-1").status == 0
    assert "there is no encoding 'latin-9x'" in desk.run("select", "-e", "b", "x.log", "--encoding", "latin-9x").err


def test_a_key_that_some_lines_lack_is_counted_and_named(desk: Desk) -> None:
    desk.write("x.jsonl", '{"a": "B07"}\n{"b": 1}\nnonsense\n{"a": "C12"}\n{"a": 7}\n')
    run = desk.run("extract", "-e", r"(?P<plot>\w+)", "x.jsonl", "--column", "a")
    assert run.out == "plot\nB07\nC12\n7\n" and run.status == 1
    assert "1 row has no value at a: 2" in run.err or "1 line has no value at a: 2" in run.err
    assert "1 line is not JSON and left out: 3" in run.err


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (("--column", "Ring", "r.sqlite", "--table", "ring"), "has no table 'ring'; the nearest is 'rings'"),
        (("--column", "Ring", "r.sqlite", "--query", "selct 1"), "syntax error"),
        (("r.sqlite",), "r.sqlite is a SQLite database: name the column to read with --column"),
        (("--column", "Ring", "data/service-reply.json", "--rows", "/item"), "has nothing at /item; there are arrays"),
        (("--column", "Ring", RINGING, "--delimiter", "::"), "is no single character"),
        (("--record-start", "(", RINGING), "this parenthesis is not closed"),
        (("--take", "0", RINGING), "0 is no take"),
        (("--as", "records", RINGING), "--as records needs --record-start"),
        (("--as", "csv", RINGING), "name the column whose cells are the texts with --column"),
        (("--delimiter", ";", RINGING), "name the column whose cells are the texts with --column"),
        (("--whole", "--column", "Ring", RINGING), "--whole and --column are different ways to read a source"),
        (
            ("--as", "xlsx", "--column", "Ring", RINGING),
            "not an XLSX workbook that can be read: File is not a zip file",
        ),
        (("--as", "parquet", "--column", "Ring", RINGING), "not a Parquet file that can be read"),
        (("--as", "sqlite", "--column", "Ring", RINGING), "file is not a database"),
        (("--field", "numbr=integer", RINGING), "there is no field 'numbr'; the nearest is 'number'"),
    ],
)
def test_a_source_asked_for_wrongly_is_a_sentence(station: Desk, arguments: tuple[str, ...], words: str) -> None:
    converted(station, "r.sqlite")
    run = station.run("extract", "-e", RING, *arguments)
    assert run.status == 2 and words in run.err and not run.out


def test_a_library_that_is_missing_is_named_with_what_installs_it(station: Desk) -> None:
    station.write("block/pyarrow.py", "raise ImportError\n")
    name = converted(station, "r.parquet")
    run = station.program("extract", "-e", RING, "--column", "Ring", name, PYTHONPATH=str(station.folder / "block"))
    assert run.status == 2
    assert "a Parquet file needs the library pyarrow, which is not installed: pip install 'fieldstick[data]'" in run.err


def test_survey_and_try_read_packed_files_too(station: Desk) -> None:
    (station.folder / "x.log.gz").write_bytes(gzip.compress((station.folder / "data/field-notes.txt").read_bytes()))
    plain, packed = (station.run("survey", name).out for name in ("data/field-notes.txt", "x.log.gz"))
    assert plain.splitlines()[-1] == packed.splitlines()[-1]
    run = station.run("try", "notes:masses", "x.log.gz", "--show", "1")
    assert "24 texts: 2 fit" in run.out


def test_the_rows_of_several_tables_need_the_same_columns_where_they_stand_as_they_were(desk: Desk) -> None:
    desk.suite("[patterns.plot]\nexpression = '[A-F]\\d\\d'\npositive = ['B07']\n", "forms")
    desk.write("one.csv", "Plot,a\nB07,1\n")
    desk.write("two.csv", "b,Plot\n2,C12\n")
    run = desk.run("validate", "one.csv", "two.csv", "--judge", "Plot=forms:plot", "--accepted", "all.csv")
    assert run.status == 2 and "two.csv has other columns than the sources before it" in run.err
    assert not (desk.folder / "all.csv").exists()
    run = desk.run("select", "forms:plot", "one.csv", "two.csv", "--column", "Plot")
    assert run.out == "Plot,a\nB07,1\nb,Plot\n2,C12\n"


def test_a_record_and_a_whole_file_are_rewritten_with_their_line_ends(desk: Desk) -> None:
    (desk.folder / "x.log").write_bytes(b"FAULT 1\r\n  at: door\r\nFAULT 2\n  at: hood\n")
    arguments = (
        "rewrite",
        "-e",
        r"(?P<head>FAULT \d)\n\s+at: (?P<what>\w+)",
        "x.log",
        "--with",
        "{head}\n  {what:upper}",
    )
    run = desk.run(*arguments, "--record-start", "FAULT", "--to", "y.log")
    assert (desk.folder / "y.log").read_bytes() == b"FAULT 1\r\n  DOOR\r\nFAULT 2\n  HOOD\n" and run.status == 0
    whole = desk.run("rewrite", "-e", r"(?s).*", "x.log", "--whole", "--with", "{match:first 7}!", "--to", "-")
    assert whole.out == "FAULT 1!"


def test_times_and_take_say_which_matches_are_replaced(desk: Desk) -> None:
    arguments = ("rewrite", "-e", r"\d", "--reach", "anywhere", "--with", "x", "--to", "-", "-")
    assert desk.run(*arguments, typed="1 2 3\n").out == "x x x\n"
    assert desk.run(*arguments, "--times", "first", typed="1 2 3\n").out == "x 2 3\n"
    assert desk.run(*arguments, "--take", "last", typed="1 2 3\n").out == "1 2 x\n"
    assert desk.run(*arguments, "--take", "2", typed="1 2 3\n").out == "1 x 3\n"
