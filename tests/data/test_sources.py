"""Every kind of source gives the same texts, each with its line; what is wrong with one is named, not guessed."""

from __future__ import annotations

import bz2
import gzip
import json
import lzma
import os
import re
import sqlite3
from datetime import date, datetime
from decimal import Decimal
from typing import TYPE_CHECKING, Any

import openpyxl
import pyarrow as pa
import pyarrow.parquet as pq
import pytest
import zstandard
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.data.batch import SourceNotes
from fieldstick.data.json_rows import pointer, value_at
from fieldstick.data.lines import line_blocks
from fieldstick.data.read_options import ReadOptions
from fieldstick.data.rows import MISSING
from fieldstick.data.source import Source, open_sources
from fieldstick.errors import UsageError
from fieldstick.reporting.source_words import source_words

if TYPE_CHECKING:
    from pathlib import Path

ROWS = [("RX 41000", "89,4", 3), ("K 41001", "", 12), ("RX 41002", "été", 0)]
COLUMNS = ("Ring", "Wing", "Count")


def texts(path: Path | str, **read_options: Any) -> list[tuple[int, str]]:
    return list(open_sources((str(path),), ReadOptions(**read_options))[0].texts())


def told_of(path: Path) -> list[str]:
    source = open_sources((str(path),))[0]
    list(source.texts())
    return list(source_words(source))


def written(folder: Path, name: str) -> Path:
    """Write ROWS as a file of the kind that its name tells."""
    path = folder / name
    if name.endswith(".csv"):
        path.write_text("Ring,Wing,Count\n" + "".join(f'{a},"{b}",{c}\n' for a, b, c in ROWS), encoding="utf-8")
    elif name.endswith(".tsv"):
        path.write_text("Ring\tWing\tCount\n" + "".join(f"{a}\t{b}\t{c}\n" for a, b, c in ROWS), encoding="utf-8")
    elif name.endswith(".json"):
        rows = [dict(zip(COLUMNS, row, strict=True)) for row in ROWS]
        path.write_text(json.dumps({"page": {"rows": rows}}), encoding="utf-8")
    elif name.endswith(".jsonl"):
        rows = [dict(zip(COLUMNS, row, strict=True)) for row in ROWS]
        path.write_text("".join(json.dumps(row) + "\n" for row in rows), encoding="utf-8")
    elif name.endswith(".parquet"):
        pq.write_table(pa.table({name: [row[i] for row in ROWS] for i, name in enumerate(COLUMNS)}), path)
    elif name.endswith(".xlsx"):
        book = openpyxl.Workbook()
        for row in (COLUMNS, *ROWS):
            book.active.append(row)
        book.save(path)
    else:
        with sqlite3.connect(path) as base:
            base.execute("create table rings (Ring, Wing, Count integer)")
            base.executemany("insert into rings values (?, ?, ?)", ROWS)
    return path


@pytest.mark.parametrize("name", ["r.csv", "r.tsv", "r.json", "r.jsonl", "r.parquet", "r.xlsx", "r.sqlite"])
def test_a_column_reads_the_same_from_every_kind_of_table(tmp_path: Path, name: str) -> None:
    path = written(tmp_path, name)
    read_options = {"rows_at": "/page/rows"} if name == "r.json" else {}
    assert [text for _, text in texts(path, column="Ring", **read_options)] == [row[0] for row in ROWS]
    assert [text for _, text in texts(path, column="Count", **read_options)] == ["3", "12", "0"]
    first = 2 if name in ("r.csv", "r.tsv", "r.xlsx") else 1
    assert [number for number, _ in texts(path, column="Ring", **read_options)] == [first, first + 1, first + 2]
    if name not in ("r.json", "r.jsonl"):
        with pytest.raises(UsageError, match=r"has no column 'Rng'; the nearest is 'Ring'"):
            texts(path, column="Rng")


@pytest.mark.parametrize(("mark", "shown"), [(";", "';'"), ("\t", "tab"), ("|", "'|'")])
def test_a_header_that_is_one_cell_is_told_what_would_part_it(tmp_path: Path, mark: str, shown: str) -> None:
    path = tmp_path / "r.csv"
    path.write_text(f"Ring{mark}Wing{mark}Age\na{mark}b{mark}c\n", encoding="utf-8")
    with pytest.raises(UsageError, match=re.escape(f"one cell, which --delimiter {shown} would part")):
        texts(path, column="Wing")
    assert [text for _, text in texts(path, column="Wing", delimiter=mark)] == ["b"]
    path.write_text("Ring\na\n", encoding="utf-8")
    with pytest.raises(UsageError, match="no column 'Wing'; the nearest is 'Ring'"):
        texts(path, column="Wing")


@pytest.mark.parametrize("name", ["r.parquet", "r.xlsx", "r.sqlite"])
def test_a_file_that_is_no_text_asks_for_its_column(tmp_path: Path, name: str) -> None:
    with pytest.raises(UsageError, match="name the column to read with --column"):
        texts(written(tmp_path, name))


PACKERS = {".gz": gzip.compress, ".bz2": bz2.compress, ".xz": lzma.compress, ".zst": zstandard.compress}
LINES = "".join(f"2026-05-04 probe=B{number:05} é\n" for number in range(3000))


@pytest.mark.parametrize("ending", PACKERS)
def test_what_is_packed_is_told_by_its_content_and_read(tmp_path: Path, ending: str) -> None:
    path = tmp_path / "any-name"
    path.write_bytes(PACKERS[ending](LINES.encode()))
    assert [text for _, text in texts(path)] == LINES.splitlines()
    twice = tmp_path / "two-members"
    twice.write_bytes(PACKERS[ending](b"one\ntwo") + PACKERS[ending](b"\nthree\n"))
    assert [text for _, text in texts(twice)] == ["one", "two", "three"]
    table = tmp_path / f"r.parquet{ending}"
    table.write_bytes(PACKERS[ending](written(tmp_path, "r.parquet").read_bytes()))
    assert [text for _, text in texts(table, column="Ring")] == [row[0] for row in ROWS]


@pytest.mark.parametrize("ending", PACKERS)
def test_packed_data_that_breaks_off_gives_what_is_whole_and_says_so(tmp_path: Path, ending: str) -> None:
    path = tmp_path / "cut"
    noisy = os.urandom(200_000).hex()
    whole = "".join(f"{noisy[at : at + 50]}\n" for at in range(0, len(noisy), 50))
    path.write_bytes(PACKERS[ending](whole.encode())[:-70_000])
    source = open_sources((str(path),))[0]
    found = [text for _, text in source.texts()]
    assert source.ended_early is not None and "breaks off" in source.ended_early
    assert found == whole.splitlines()[: len(found)] and (len(found) > 0 or ending == ".bz2" or ending == ".zst")


def test_an_encoding_is_taken_as_named_and_what_is_none_is_kept_and_named(tmp_path: Path) -> None:
    path = tmp_path / "x.log"
    for encoding in ("latin-1", "utf-16", "cp1252", "utf-8-sig"):
        path.write_bytes("8.2°C\r\nzwei\nµ".encode(encoding))
        assert texts(path, encoding=encoding) == [(1, "8.2°C"), (2, "zwei"), (3, "µ")]
    path.write_bytes(b"good\nbad \x81\n")
    source = open_sources((str(path),), ReadOptions(encoding="cp1252"))[0]
    assert [text for _, text in source.texts()] == ["good", "bad \udc81"] and source.undecodable == [2]
    with pytest.raises(UsageError, match=r"x\.log:2: bytes that are not utf-8; name the encoding"):
        texts(path, refuse_undecodable=True)
    with pytest.raises(UsageError, match="there is no encoding 'utf-9'"):
        texts(path, encoding="utf-9")
    for encoding in ("utf-16", "utf-32"):
        path.write_bytes("8.2°C\n".encode(encoding))
        assert f"it begins as {encoding.upper()} does; --encoding {encoding} reads it" in told_of(path)
        with pytest.raises(UsageError, match=f"which --encoding {encoding} reads, or"):
            texts(path, refuse_undecodable=True)
    path.write_bytes(b"caf\xe9\n" * 5)
    assert len(told_of(path)) == 1
    path.write_bytes(b"caf\xe9\n" * 6)
    assert told_of(path)[1:] == ["--encoding NAME reads another encoding, such as cp1252"]


def test_a_whole_file_is_one_text_and_records_go_up_to_the_next_beginning(tmp_path: Path) -> None:
    path = tmp_path / "faults.log"
    path.write_bytes(b"loose\nFAULT 1\r\n  a\r\nFAULT 2\n  b\n  c")
    assert texts(path, kind="whole") == [(1, "loose\nFAULT 1\r\n  a\r\nFAULT 2\n  b\n  c")]
    begins = ReadOptions(begins_record=lambda line: line.startswith("FAULT"))
    items = list(open_sources((str(path),), begins)[0].items())
    assert [(item.number, item.text) for item in items] == [(1, "loose"), (2, "FAULT 1\n  a"), (4, "FAULT 2\n  b\n  c")]
    assert "".join(item.raw or "" for item in items).encode() == path.read_bytes()


def test_texts_beyond_the_limit_are_named_and_left_out(tmp_path: Path) -> None:
    path = tmp_path / "long.log"
    path.write_text("short\n" + "x" * 3_000_000 + "\nshort again\n" + "y" * 101 + "\n" + "z" * 100)
    source = open_sources((str(path),), ReadOptions(longest=100))[0]
    assert list(source.texts()) == [(1, "short"), (3, "short again"), (5, "z" * 100)]
    assert source.notes.overlong == [2, 4] and source.notes.overlong.total == 2


@given(st.lists(st.sampled_from([b"a", b"\n", b"bb", b"c" * 9]), max_size=40), st.integers(1, 7))
def test_blocks_of_any_size_hold_the_same_lines(pieces: list[bytes], size: int) -> None:
    data = b"".join(pieces)
    at = iter(range(0, len(data) + size, size))
    blocks = list(line_blocks(lambda _: data[(start := next(at, len(data))) : start + size], None, size=size))
    assert b"".join(block.data for block in blocks) == data
    assert all(block.data.endswith(b"\n") for block in blocks[:-1])
    assert [block.first for block in blocks] == [
        1 + b"".join(each.data for each in blocks[:index]).count(b"\n") for index in range(len(blocks))
    ]


def test_json_lines_without_the_key_or_that_are_no_json_are_named(tmp_path: Path) -> None:
    path = tmp_path / "x.jsonl"
    path.write_text('{"a": {"b/c": ["x", 1.50]}}\n\n{"a": null}\n{"a": {"b/c": []}}\nno json\n{"a": {"b/c": [true]}}\n')
    source = open_sources((str(path),), ReadOptions(column="/a/b~1c/0"))[0]
    assert list(source.texts()) == [(1, "x"), (6, "true")]
    assert source.notes.missing == [3, 4] and source.notes.not_json == [5]
    assert texts(path, column="/a/b~1c/1") == [(1, "1.50")]


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("", 0),
        ("/foo", ["bar", "baz"]),
        ("/foo/0", "bar"),
        ("/", 1),
        ("/a~1b", 2),
        ("/m~0n", 3),
        ("/foo/2", MISSING),
        ("/foo/-", MISSING),
        ("/foo/00", MISSING),
        ("/ ", 4),
    ],
)
def test_pointers_lead_where_rfc_6901_says(text: str, value: Any) -> None:
    document = {"foo": ["bar", "baz"], "": 1, "a/b": 2, "m~n": 3, " ": 4}
    assert value_at(document, pointer(text)) == (document if text == "" else value)


def test_a_pointer_that_is_none_and_rows_that_are_not_there_are_sentences(tmp_path: Path) -> None:
    path = written(tmp_path, "r.json")
    with pytest.raises(UsageError, match="write ~0 for ~"):
        texts(path, column="/a~2", rows_at="/page/rows")
    with pytest.raises(UsageError, match="has nothing at /rows"):
        texts(path, column="Ring", rows_at="/rows")
    with pytest.raises(UsageError, match="has no array at /page"):
        texts(path, column="Ring", rows_at="/page")
    path.write_text('{"a": \n nonsense}')
    with pytest.raises(UsageError, match=r"r\.json:2: not JSON"):
        texts(path, column="a")


def test_a_sheet_of_mixed_types_reads_as_it_is_meant(tmp_path: Path) -> None:
    book = openpyxl.Workbook()
    sheet = book.create_sheet("readings")
    values = ["text", 3, 3.0, 31.4, True, date(2026, 5, 4), datetime(2026, 5, 4, 6, 10), None, "=1+1"]
    for row in ([None, None], ["kept", "v"], *(["r", each] for each in values)):
        sheet.append(row)
    book.save(tmp_path / "x.xlsx")
    found = texts(tmp_path / "x.xlsx", column="v", table="readings")
    assert [text for _, text in found] == ["text", "3", "3", "31.4", "true", "2026-05-04", "2026-05-04T06:10:00"]
    assert found[0][0] == 3
    with pytest.raises(UsageError, match="has no sheet 'reading'; the nearest is 'readings'"):
        texts(tmp_path / "x.xlsx", column="v", table="reading")


def test_a_database_gives_a_table_or_a_query_and_is_not_written(tmp_path: Path) -> None:
    path = written(tmp_path, "r.sqlite")
    assert texts(path, column="n", query="select count(*) as n from rings") == [(1, "3")]
    for query, words in (("delete from rings", "readonly"), ("select * frm rings", "syntax error")):
        with pytest.raises(UsageError, match=words):
            texts(path, column="Ring", query=query)
    with sqlite3.connect(path) as base:
        base.execute("create table sites (x)")
    with pytest.raises(UsageError, match="say which table with --table, or give a --query; its tables: rings, sites"):
        texts(path, column="Ring")
    with pytest.raises(UsageError, match="has no table 'ring'; the nearest is 'rings'"):
        texts(path, column="Ring", table="ring")


def test_exact_decimals_and_times_of_parquet_are_texts_as_written(tmp_path: Path) -> None:
    pq.write_table(
        pa.table({"m": [Decimal("31.40"), None], "t": [datetime(2026, 5, 4, 6), None]}), tmp_path / "x.parquet"
    )
    assert texts(tmp_path / "x.parquet", column="m") == [(1, "31.40")]
    assert texts(tmp_path / "x.parquet", column="t") == [(1, "2026-05-04T06:00:00")]
    (tmp_path / "y.parquet").write_bytes((tmp_path / "x.parquet").read_bytes()[:100])
    with pytest.raises(UsageError, match="not a Parquet file that can be read"):
        texts(tmp_path / "y.parquet", column="m")


def test_delimiters_and_quotes_are_as_asked_and_rows_keep_their_text(tmp_path: Path) -> None:
    path = tmp_path / "x.csv"
    path.write_bytes(b"a;b;a\r\n'one; two';2;3\r\n4;'it''s';6\r\n")
    source = Source(str(path), ReadOptions(column="b", delimiter="semicolon", quote="'"))
    items = list(source.items())
    assert [item.text for item in items] == ["2", "it's"] and source.columns == ["a", "b", "a (2)"]
    assert source.header + "".join(item.raw or "" for item in items) == path.read_bytes().decode()
    with pytest.raises(UsageError, match="is no single character"):
        texts(path, column="b", delimiter="::")


def test_a_quote_left_open_is_named_by_the_line_where_its_row_begins(tmp_path: Path) -> None:
    path = tmp_path / "x.csv"
    path.write_text('a,b\n1,2\n3,"open\n5,6\n')
    with pytest.raises(UsageError, match=r"x\.csv:3: not CSV.*is a quote left open in this row"):
        texts(path, column="a")


def test_names_with_wildcards_stand_for_files_in_order(tmp_path: Path) -> None:
    for name in ("b.log", "a.log", "c.txt"):
        (tmp_path / name).write_text(name)
    assert [source.name for source in open_sources((str(tmp_path / "*.log"),))] == [
        str(tmp_path / "a.log"),
        str(tmp_path / "b.log"),
    ]
    with pytest.raises(UsageError, match="no file is named like"):
        open_sources((str(tmp_path / "*.lgo"),))


def test_a_file_that_changes_while_it_is_read_is_noticed(tmp_path: Path) -> None:
    path = tmp_path / "x.log"
    path.write_text("one\n" * 10)
    source = open_sources((str(path),))[0]
    reading = source.texts()
    next(reading)
    with path.open("a") as more:
        more.write("late\n")
    assert len(list(reading)) >= 9 and source.changed
    again = open_sources((str(path),))[0]
    assert len(list(again.texts())) == 11 and not again.changed


def test_what_is_noted_is_bounded_and_counted() -> None:
    notes, more = SourceNotes(), SourceNotes()
    for number in range(5000):
        notes.ragged.note(number)
        more.ragged.note(number + 5000)
    notes.merge(more)
    assert notes.ragged.total == 10_000 and len(notes.ragged) == 1000 and notes.ragged[:2] == [0, 1]
