"""What passes through a command stays as it stood: its encoding and line ends, its other cells, its types."""

from __future__ import annotations

import codecs
import gzip
import json
import os
import sqlite3
import threading
from typing import TYPE_CHECKING, Any

import openpyxl
import pyarrow as pa
import pyarrow.parquet as pq
import pytest

if TYPE_CHECKING:
    from pathlib import Path

    from conftest import Desk

STORED = {
    "utf-8": ("utf-8", b""),
    "utf-8-sig": ("utf-8", codecs.BOM_UTF8),
    "utf-16": ("utf-16-le", codecs.BOM_UTF16_LE),
    "utf-16 ": ("utf-16-be", codecs.BOM_UTF16_BE),
    "utf-16-be": ("utf-16-be", b""),
    "utf-32": ("utf-32-le", codecs.BOM_UTF32_LE),
    "cp1252": ("cp1252", b""),
}
"""How an encoding that is asked for, blanks aside, may be stored: in what, and after which mark."""

TEXTS = {
    "feeds": "x=1 é\nx=2\n\nno\n" * 300,
    "returns": "x=1 é\r\nno\r\n" * 300,
    "mixed": "x=1\r\nno é\nx=2\r\n",
    "no end": "x=1\nno",
}
SUITE = """
[patterns.x]
expression = 'x=\\d'
reach = "anywhere"
[routes.kind]
order = ["x"]
otherwise = "rest"
"""


@pytest.mark.parametrize("encoding", STORED)
@pytest.mark.parametrize("kind", TEXTS)
def test_lines_keep_their_encoding_and_their_ends(desk: Desk, encoding: str, kind: str) -> None:
    desk.suite(SUITE)
    codec, mark = STORED[encoding]
    asked = ("a.txt", "--encoding", encoding.strip())

    def stored(text: str) -> bytes:
        return mark + text.encode(codec) if text else b""

    source = desk.folder / "a.txt"
    source.write_bytes(stored(TEXTS[kind]))
    lines = TEXTS[kind].splitlines(keepends=True) if "\x85" not in TEXTS[kind] else []
    ended = [line if line.endswith("\n") else line + "\n" for line in lines]
    assert desk.run("select", "loggers:x", *asked, "--to", "s.txt").status == 0
    assert (desk.folder / "s.txt").read_bytes() == stored("".join(each for each in ended if "x=" in each))
    assert desk.run("route", "loggers:kind", *asked, "--into", "k").status == 0
    assert (desk.folder / "k" / "x.txt").read_bytes() == stored("".join(each for each in ended if "x=" in each))
    assert (desk.folder / "k" / "rest.txt").read_bytes() == stored("".join(each for each in ended if "x=" not in each))
    rewrite = ("rewrite", "loggers:x", "--with", "y", *asked)
    wanted = stored(TEXTS[kind].replace("x=1", "y").replace("x=2", "y"))
    assert desk.run(*rewrite, "--to", "r.txt").status == 0
    assert (desk.folder / "r.txt").read_bytes() == wanted
    assert desk.run(*rewrite, "--in-place", "--no-backup").status == 0
    assert source.read_bytes() == wanted


def fed(path: Path, data: bytes) -> threading.Thread:
    """Make a pipe by name and write to it once somebody reads."""
    os.mkfifo(path)
    writer = threading.Thread(target=lambda: path.write_bytes(data))
    writer.start()
    return writer


@pytest.mark.parametrize("pack", [bytes, gzip.compress])
def test_a_pipe_is_read_once_whole_whatever_was_looked_at_before(desk: Desk, pack: Any) -> None:
    desk.suite(SUITE)
    for number, (arguments, out) in enumerate(
        [
            (("route", "loggers:kind", "{}", "--into", "k"), None),
            (("rewrite", "-e", "2", "--with", "B", "{}", "--column", "y", "--to", "-"), "x,y\n1,B\n"),
            (("validate", "--judge", "y=loggers:x", "{}", "--accepted", "a.csv"), None),
            (("survey", "{}"), None),
        ]
    ):
        pipe = desk.folder / f"pipe{number}"
        writer = fed(pipe, pack(b"x,y\n1,2\n"))
        run = desk.run(*(each.format(pipe) for each in arguments))
        writer.join()
        assert out is None or run.out == out
        assert "nothing to read" not in run.out + run.err and "is empty" not in run.err
    assert (desk.folder / "k" / "rest.txt").read_text() == "x,y\n1,2\n"


def test_records_of_a_start_that_no_line_has_are_told(desk: Desk) -> None:
    desk.write("a.log", "a\nb\n")
    run = desk.run("select", "-e", "a", "--reach", "start", "a.log", "--record-start", "zz", "--to", "o")
    assert run.status == 1 and "a.log: no line begins a record by --record-start; all of it was read as one" in run.err


def test_rows_around_and_headers_alone(desk: Desk) -> None:
    desk.write("m.csv", 'a,b\n1,"x\ny"\n2,hit\n3,"p\nq"\n4,z\n5,hit\n')
    run = desk.run("select", "-e", "hit", "m.csv", "--column", "b", "--around", "1")
    assert run.out == 'a,b\n1,"x\ny"\n2,hit\n3,"p\nq"\n4,z\n5,hit\n'
    desk.write("n.csv", "a,b\n" + "".join(f"{number},{'hit' if number in (3, 9) else 'z'}\n" for number in range(12)))
    around = desk.run("select", "-e", "hit", "n.csv", "--column", "b", "--around", "1").out
    assert around == "a,b\n2,z\n3,hit\n4,z\n\n8,z\n9,hit\n10,z\n"
    desk.write("h.csv", "a,b\n")
    assert desk.run("select", "-e", "hit", "h.csv", "--column", "a").out == "a,b\n"
    placed = desk.run("extract", "-e", "(?s).*", "m.csv", "--column", "b", "--with-place").out
    assert [line.split(",")[1] for line in placed.splitlines() if line.startswith("m.csv")] == ["2", "4", "5", "7", "8"]


@pytest.mark.parametrize("name", ["l.csv", "l.json", "l.jsonl", "l.sqlite", "l.parquet"])
def test_a_cell_that_is_too_long_is_named_and_the_others_are_read(desk: Desk, name: str) -> None:
    path = desk.folder / name
    cells, kind = ["short", "x" * 40, "y"], path.suffix
    if kind == ".csv":
        path.write_text("a,b\n" + "".join(f"{cell},{'z' * 90}\n" for cell in cells))
    elif kind == ".json":
        path.write_text(json.dumps([{"a": cell} for cell in cells]))
    elif kind == ".jsonl":
        path.write_text("".join(json.dumps({"a": cell, "b": "z" * 90}) + "\n" for cell in cells))
    elif kind == ".sqlite":
        base = sqlite3.connect(path)
        base.execute("create table t (a text)")
        base.executemany("insert into t values (?)", [(cell,) for cell in cells])
        base.commit()
    else:
        pq.write_table(pa.table({"a": cells}), path)
    run = desk.run("extract", "-e", "(?P<v>.*)", name, "--column", "a", "--longest", "10")
    assert run.out == "v\nshort\ny\n" and run.status == 1
    assert f"{name}: 1 text is longer than 10 characters and not read: " in run.err


def test_a_row_beyond_all_bounds_is_passed_over_without_being_held(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("fieldstick.data.read_options.LONGEST_TEXT", 100)
    long = '1,"' + "x\n" * 200 + '"\n2,' + "y" * 500 + "\n"
    desk.write("l.csv", "n,v\n0,a\n" + long + "3,b\n")
    run = desk.run("extract", "-e", "(?P<v>.*)", "l.csv", "--column", "n", "--longest", "50")
    assert run.out == "v\n0\n3\n" and "l.csv: 2 texts are longer than 50 characters and not read: 3, 204" in run.err
    desk.write("open.csv", 'n,v\n0,a\n1,"' + "x\n" * 200)
    assert "open.csv:3: not CSV" in desk.run("extract", "-e", ".*", "open.csv", "--column", "n", "--longest", "50").err


@pytest.mark.parametrize("encoding", ["utf-8", "utf-16-le", "cp1252"])
@pytest.mark.parametrize(
    ("before", "after", "asked"),
    [
        ("a 1\r\n{}\na 1", "a X\r\n{}\na X", ()),
        ("a 1\n{}", "a X\n{}", ()),
        ("{}", "{}", ("--whole",)),
        ("a 1\nb\na {}\nb 1\na 1\n", "a X\nb\na {}\nb 1\na X\n", ("--record-start", "a.*")),
        ('a,b\n1,1\n1,"{}"\n1,{}\n1,1', 'a,b\nX,1\n1,"{}"\n1,{}\nX,1', ("--column", "a")),
        ('{{"a": "1"}}\n{{"a": "{}"}}\n', '{{"a": "X"}}\n{{"a": "{}"}}\n', ("--column", "a", "--as", "jsonl")),
    ],
)
def test_what_is_too_long_to_be_held_is_rewritten_by_nothing_and_lost_by_nobody(
    desk: Desk, monkeypatch: pytest.MonkeyPatch, encoding: str, before: str, after: str, asked: tuple[str, ...]
) -> None:
    monkeypatch.setattr("fieldstick.data.read_options.LONGEST_TEXT", 100)
    long = "é 1 \xa0" * 70_000
    (desk.folder / "a.txt").write_bytes(before.format(long, long).encode(encoding))
    reading = ("a.txt", "--reach", "anywhere", "--longest", "50", "--encoding", encoding, *asked)
    run = desk.run("rewrite", "-e", "[0-9]", "--with", "X", *reading, "--to", "b.txt")
    assert (desk.folder / "b.txt").read_bytes() == after.format(long, long).encode(encoding)
    number = before.count("{}") if "," in before else 1
    assert f"{number} text{'s are' if number > 1 else ' is'} longer than 50 characters and left as it stands" in run.err
    assert run.status == 1


def test_accepted_rows_keep_their_types_and_all_their_columns(desk: Desk) -> None:
    desk.suite("[patterns.word]\nexpression = '[a-z]+'\npositive = ['a']\n", "s")
    judge = ("validate", "--judge", "b=s:word")
    desk.write("a.csv", 'a,b\n1,x\n"3, 4",z\n')
    desk.run(*judge, "a.csv", "--accepted", "good.tsv")
    assert (desk.folder / "good.tsv").read_text() == "a\tb\n1\tx\n3, 4\tz\n"
    desk.write("a.jsonl", '{"a":1,"b":"x"}\n{"a":2.50,"b":"y","c":[true]}\n{"a":3,"b":"7"}\n')
    desk.run(*judge, "a.jsonl", "--accepted", "good.csv")
    assert (desk.folder / "good.csv").read_text() == "a,b,c\n1,x,\n2.50,y,[true]\n"
    pq.write_table(pa.table({"a": [1, 2], "b": ["x", "y"], "f": [0.5, None]}), desk.folder / "a.parquet")
    desk.run(*judge, "a.parquet", "--accepted", "good.parquet")
    assert pq.read_table(desk.folder / "good.parquet").to_pylist() == [
        {"a": 1, "b": "x", "f": 0.5}, {"a": 2, "b": "y", "f": None},
    ]  # fmt: skip
    desk.run(*judge, "a.parquet", "--accepted", "good.jsonl")
    assert (desk.folder / "good.jsonl").read_text() == '{"a": 1, "b": "x", "f": 0.5}\n{"a": 2, "b": "y", "f": null}\n'
    (desk.folder / "u.csv").write_bytes("a,b\n1,x\n2,7\n".encode("utf-16"))
    desk.run(*judge, "u.csv", "--encoding", "utf-16", "--accepted", "gu.csv")
    assert (desk.folder / "gu.csv").read_bytes() == "a,b\n1,x\n".encode("utf-16")


def test_values_are_looked_up_by_name_with_their_types_and_may_be_described(desk: Desk) -> None:
    desk.suite(
        "[patterns.eq]\nexpression = '{{=x}}'\nparameters = ['x']\n"
        '[lookups.site]\ncolumn = "name"\npattern = "eq"\ngive = ["site"]\notherwise = "none"\n',
        "s",
    )
    desk.write("sites.jsonl", '{"name":"fen","site":5}\n{"name":"bog","site":null}\n{"site":1}\n')
    desk.write("v.jsonl", '{"a":"fen","b":1}\n{"b":"2","a":"bog"}\n{"a":"zzz","c":true}\n')
    asked = ("lookup", "s:site", "sites.jsonl", "--for", "v.jsonl", "--parameter", "x=a")
    assert desk.run(*asked).out == "a,b,c,site\nfen,1,,5\nbog,2,,\nzzz,,true,none\n"
    lines = desk.run(*asked, "--format", "jsonl").out.splitlines()
    assert [json.loads(line)["site"] for line in lines] == [5, None, "none"]
    (desk.folder / "v.csv").write_bytes("a;b\nfen;1\n".encode("utf-16"))
    described = ("--for-delimiter", "semicolon", "--for-encoding", "utf-16")
    out = desk.run("lookup", "s:site", "sites.jsonl", "--for", "v.csv", "--parameter", "x=a", *described).out
    assert out == "a,b,site\nfen,1,5\n"
    wrong = desk.run("lookup", "s:site", "sites.jsonl", "--parameter", "x=a", *described)
    assert wrong.status == 2 and "describes VALUES" in wrong.err


def test_a_database_that_others_have_open_is_written_in_a_transaction_of_its_own(desk: Desk) -> None:
    path = desk.folder / "x.db"
    other = sqlite3.connect(path, isolation_level=None)
    other.execute("pragma journal_mode = wal")
    other.execute("create table t (a)")
    other.execute("insert into t values (1)")
    desk.write("a.txt", "7\n" + "9" * 30 + "\n31\n")
    run = desk.run("extract", "-e", r"(?P<v>\d+)", "a.txt", "--field", "v=integer", "--to", "x.db")
    assert run.status == 0
    assert other.execute("select v, typeof(v) from expression").fetchall() == [
        (7, "integer"), ("9" * 30, "text"), (31, "integer"),
    ]  # fmt: skip
    assert other.execute("select a from t").fetchall() == [(1,)]
    other.execute("begin immediate")
    locked = desk.run("extract", "-e", r"\d+", "a.txt", "--to", "x.db")
    assert locked.status == 2 and "locked" in locked.err
    other.execute("rollback")
    desk.write("no.db", "this is no database")
    assert "no.db is no SQLite database" in desk.run("extract", "-e", ".*", "a.txt", "--to", "no.db").err
    assert (desk.folder / "no.db").read_text() == "this is no database"


def test_columns_of_one_name_are_told_apart_in_a_workbook_too(desk: Desk) -> None:
    book = openpyxl.Workbook()
    book.active.append(["a", "a"])
    book.active.append([1, 2])
    book.save(desk.folder / "d.xlsx")
    assert desk.run("extract", "-e", "(?P<v>.*)", "d.xlsx", "--column", "a (2)").out == "v\n2\n"
