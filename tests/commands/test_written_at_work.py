"""What the commands at work write: packed, added to, rows with types, no more than asked, and an account of it."""

from __future__ import annotations

import bz2
import csv
import gzip
import json
import lzma
import random
import sqlite3
import statistics
import threading
from decimal import Decimal
from typing import TYPE_CHECKING, Any

import pyarrow as pa
import pyarrow.parquet as parquet
import pytest
import zstandard

from fieldstick.matching import row_walks
from fieldstick.runs.summary import FieldSummary

if TYPE_CHECKING:
    from collections.abc import Callable

    from conftest import Desk, Run

SUITE = (
    "[patterns.reading]\n"
    "expression = '(?P<plot>[A-F]\\d\\d) m=(?P<m>\\d+\\.\\d)(?: at (?P<at>\\S+))?'\n"
    "fields.m = { type = 'decimal', most = 90 }\n"
    "fields.at = { type = 'timestamp' }\n"
    "[patterns.gate]\nexpression = 'gate .*'\n"
    "[routes.kind]\norder = ['reading', 'gate']\n"
    "[rewrites.blur]\npattern = 'reading'\nwith = '{plot} m=?'\n"
    "[forms.rows]\ncolumns = { Text = 'reading' }\nrequired = ['Text']\n"
)


def text(number: int) -> str:
    if number % 5 == 0:
        return f"gate {number}"
    at = f" at 2026-05-{number % 28 + 1:02}T06:10:00Z" if number % 3 else ""
    return f"{'ABCDEF'[number % 6]}{number % 30:02} m={number % 97}.{number % 10}{at}"


TEXTS = [text(number) for number in range(1, 400)]
ROWS = [{"n": number, "Text": each, "Party": f"party, {number % 4}"} for number, each in enumerate(TEXTS)]


@pytest.fixture
def laid_out(desk: Desk) -> Desk:
    desk.suite(SUITE)
    desk.write("a.log", "\n".join(TEXTS) + "\n")
    with (desk.folder / "a.csv").open("w", newline="") as stream:
        writer = csv.DictWriter(stream, list(ROWS[0]))
        writer.writeheader()
        writer.writerows(ROWS)
    desk.write("a.jsonl", "".join(json.dumps(row | {"deep": {"x": [row["Text"]]}}) + "\n" for row in ROWS))
    return desk


def done(run: Run) -> Run:
    assert run.status == 0, run.err
    return run


UNPACKED: dict[str, Callable[[bytes], bytes]] = {
    "": lambda held: held,
    ".gz": gzip.decompress,
    ".bz2": bz2.decompress,
    ".xz": lzma.decompress,
    ".zst": lambda held: zstandard.ZstdDecompressor().stream_reader(held, read_across_frames=True).read(),
}


@pytest.mark.parametrize("packing", UNPACKED)
def test_a_file_is_packed_and_added_to_as_its_name_says(laid_out: Desk, packing: str) -> None:
    desk = laid_out
    plain = done(desk.run("extract", "loggers:reading", "a.log")).out.encode()
    head, _, body = plain.partition(b"\n")
    path = desk.folder / f"out.csv{packing}"
    for times in (1, 2, 3):
        done(desk.run("extract", "loggers:reading", "a.log", "--to", path.name, "--append"))
        assert UNPACKED[packing](path.read_bytes()) == head + b"\n" + body * times
    done(desk.run("extract", "loggers:reading", "a.log", "--to", path.name))
    assert UNPACKED[packing](path.read_bytes()) == plain
    done(desk.run("select", "loggers:gate", "a.log", "--to", f"gate.log{packing}"))
    kept = UNPACKED[packing]((desk.folder / f"gate.log{packing}").read_bytes()).decode().splitlines()
    assert kept == [each for each in TEXTS if each.startswith("gate")]
    assert done(desk.run("select", "-e", ".*", path.name)).out.encode() == plain


@pytest.mark.parametrize(
    ("command", "word"),
    [
        (("extract", "loggers:reading", "a.log"), "--to"),
        (("extract", "loggers:reading", "a.log", "--to", "rows.csv"), "--rejects"),
        (("select", "loggers:gate", "a.log"), "--to"),
        (("select", "loggers:gate", "a.csv", "--column", "Text"), "--to"),
        (("split", "-e", " ", "a.log", "--format", "tsv"), "--to"),
        (("lookup", "loggers:gate", "a.csv", "--column", "Text", "--give", "Party", "--take", "all"), "--to"),
        (("rewrite", "loggers:blur", "a.log"), "--to"),
        (("validate", "loggers:rows", "a.csv"), "--accepted"),
        (("validate", "loggers:rows", "a.csv"), "--rejects"),
    ],
)
def test_a_dash_is_standard_output(laid_out: Desk, command: tuple[str, ...], word: str) -> None:
    ending = "tsv" if "tsv" in command else "csv" if word == "--rejects" else command[2].rpartition(".")[2]
    ending = {"extract": "csv", "lookup": "csv"}.get(command[0], ending)
    assert laid_out.run(*command, word, f"there.{ending}").status in (0, 1)
    run = laid_out.run(*command, word, "-")
    assert run.out == (laid_out.folder / f"there.{ending}").read_bytes().decode() != ""
    assert not (laid_out.folder / "-").exists()


def test_what_goes_to_standard_output_goes_there_alone(laid_out: Desk) -> None:
    for words in (
        ("extract", "loggers:reading", "a.log", "--rejects", "-"),
        ("extract", "loggers:reading", "a.log", "--to", "rows.csv", "--summary", "--rejects", "-"),
        ("extract", "loggers:reading", "a.log", "--summary", "--to", "-"),
        ("extract", "loggers:reading", "a.log", "--into", "there", "--to", "-"),
        ("validate", "loggers:rows", "a.csv", "--accepted", "-", "--rejects", "-"),
    ):
        run = laid_out.run(*words)
        assert (run.status, run.out) == (2, "")
        assert not {"-", "there", "rows.csv"} & {each.name for each in laid_out.folder.iterdir()}


def test_what_cannot_be_added_to_is_refused_and_stays(laid_out: Desk) -> None:
    desk = laid_out
    other = desk.write("other.csv", "x,y\n1,2\n")
    for arguments, words in [
        (("--to", "other.csv", "--append"), "other.csv has other columns: x,y, and these are plot,m,at"),
        (("--to", "o.parquet", "--append"), "nothing can be added to a file of this form"),
        (("--append",), "standard output is always added to"),
        (("--to", "o.parquet.gz"), "only text is packed so"),
        (("--to", "memory://o.csv", "--append"), "nothing can be added to a file of a store"),
    ]:
        run = desk.run("extract", "loggers:reading", "a.log", *arguments)
        assert run.status == 2 and words in run.err
    assert other.read_text() == "x,y\n1,2\n"
    (desk.folder / "wrong.csv.gz").write_bytes(b"plot,m,at\n")
    assert "packed otherwise" in desk.run("extract", "loggers:reading", "a.log", "--to", "wrong.csv.gz", "--append").err
    unended = desk.write("unended.log", "first")
    done(desk.run("select", "loggers:gate", "a.log", "--to", "unended.log", "--append", "--limit", "1"))
    assert unended.read_text() == "first\ngate 5\n"


def test_programs_that_add_to_one_file_lose_nothing(laid_out: Desk) -> None:
    desk = laid_out
    command = ("extract", "loggers:reading", "a.log", "--to", "all.csv", "--append")
    running = [threading.Thread(target=lambda: done(desk.program(*command))) for _ in range(4)]
    for each in running:
        each.start()
    for each in running:
        each.join()
    lines = (desk.folder / "all.csv").read_text().splitlines()
    body = done(desk.run("extract", "loggers:reading", "a.log")).out.splitlines()[1:]
    assert lines[0] == "plot,m,at" and sorted(lines[1:]) == sorted(body * 4)
    assert not list(desk.folder.glob(".*.part"))


def test_a_table_of_a_database_is_added_to(laid_out: Desk) -> None:
    desk = laid_out
    for _ in range(2):
        done(desk.run("extract", "loggers:reading", "a.log", "--to", "b.sqlite", "--append"))
    base = sqlite3.connect(desk.folder / "b.sqlite")
    assert base.execute("select count(*) from reading").fetchone() == (2 * fitting(),)
    base.execute("alter table reading drop column m")
    base.commit()
    run = desk.run("extract", "loggers:reading", "a.log", "--to", "b.sqlite", "--append")
    assert run.status == 2 and "the table 'reading' has no column 'm'" in run.err
    assert base.execute("select count(*) from reading").fetchone() == (2 * fitting(),)


def fitting() -> int:
    return sum(not each.startswith("gate") and Decimal(each.split()[1][2:]) <= 90 for each in TEXTS)


def test_rows_are_passed_on_with_their_types_in_every_form(laid_out: Desk) -> None:
    desk = laid_out
    gates = [row for row in ROWS if str(row["Text"]).startswith("gate")]
    done(desk.run("select", "loggers:gate", "a.jsonl", "--column", "Text", "--to", "s.parquet"))
    kept = parquet.read_table(desk.folder / "s.parquet").to_pylist()
    assert [{name: row[name] for name in ROWS[0]} for row in kept] == gates and isinstance(kept[0]["n"], int)
    done(desk.run("select", "loggers:gate", "s.parquet", "--column", "Text", "--to", "s.sqlite", "--with-place"))
    found = sqlite3.connect(desk.folder / "s.sqlite").execute("select source, line, n, Text from selected").fetchall()
    assert found == [("s.parquet", line, row["n"], row["Text"]) for line, row in enumerate(gates, 1)]
    done(desk.run("select", "loggers:gate", "a.log", "--to", "s.xlsx"))
    again = done(desk.run("select", "-e", ".*", "s.xlsx", "--column", "text", "--format", "jsonl")).out.splitlines()
    lines = [number for number, each in enumerate(TEXTS, 1) if each.startswith("gate")]
    assert [json.loads(each) for each in again] == [
        {"source": "a.log", "line": number, "text": TEXTS[number - 1]} for number in lines
    ]
    done(desk.run("route", "loggers:kind", "a.jsonl", "--column", "Text", "--into", "k", "--file-format", "parquet"))
    assert parquet.read_table(desk.folder / "k/gate.parquet").column("n").to_pylist() == [row["n"] for row in gates]
    assert parquet.read_table(desk.folder / "k/unknown.parquet").num_rows == len(TEXTS) - len(gates) - fitting()
    done(desk.run("rewrite", "loggers:blur", "a.jsonl", "--column", "/deep/x/0", "--to", "r.parquet"))
    rewritten = parquet.read_table(desk.folder / "r.parquet").to_pylist()
    assert [row["n"] for row in rewritten] == [row["n"] for row in ROWS]
    assert json.loads(rewritten[0]["deep"])["x"] == [f"{TEXTS[0].split()[0]} m=?"] and rewritten[0]["Text"] == TEXTS[0]
    run = desk.run("validate", "a.jsonl", "--form", "loggers:rows", "--accepted", "v.parquet", "--rejects", "bad.csv")
    assert run.status == 1 and parquet.read_table(desk.folder / "v.parquet").num_rows == fitting()


@pytest.mark.parametrize("walked", [True, False])
def test_no_more_rows_are_read_than_are_wanted(laid_out: Desk, monkeypatch: pytest.MonkeyPatch, walked: bool) -> None:
    desk = laid_out
    if walked:
        monkeypatch.setattr(row_walks, "WORTH_NEW", 0)
        monkeypatch.setattr(row_walks, "WORTH_KEPT", 0)
    every = done(desk.run("extract", "loggers:reading", "a.log", "--with-place")).out.splitlines()
    for limit in (1, 7, 10_000):
        run = done(desk.run("extract", "loggers:reading", "a.log", "--with-place", "--limit", str(limit)))
        assert run.out.splitlines() == every[: limit + 1]
        assert ("stopped after" in run.err) is (limit < 10_000)
        gates = [each for each in TEXTS if each.startswith("gate")]
        assert (
            done(desk.run("select", "loggers:gate", "a.log", "--limit", str(limit))).out.splitlines() == gates[:limit]
        )
        others = done(desk.run("select", "loggers:gate", "a.log", "--not", "--limit", str(limit))).out.splitlines()
        assert others == [each for each in TEXTS if each not in gates][:limit]
        pieces = done(desk.run("split", "-e", " ", "a.log", "--limit", str(limit))).out.splitlines()
        assert len(pieces) == min(limit, sum(len(each.split()) for each in TEXTS)) + 1
        printed = done(desk.run("extract", "loggers:reading", "a.log", "--template", "{plot}", "--limit", str(limit)))
        assert printed.out.splitlines() == [line.split(",")[4] for line in every[1 : limit + 1]]
    assert "leave --jobs" in desk.run("extract", "loggers:reading", "a.log", "--limit", "1", "--jobs", "2").err


@pytest.mark.parametrize("source", ["a.csv", "a.jsonl"])
@pytest.mark.parametrize("walked", [True, False])
def test_other_columns_are_carried_along(
    laid_out: Desk, monkeypatch: pytest.MonkeyPatch, source: str, walked: bool
) -> None:
    desk = laid_out
    if walked:
        monkeypatch.setattr(row_walks, "WORTH_NEW", 0)
        monkeypatch.setattr(row_walks, "WORTH_KEPT", 0)
    command = ("extract", "loggers:reading", source, "--column", "Text", "--carry", "Party", "--carry", "n")
    expected = [
        [str(row["Party"]), str(row["n"]), str(row["Text"]).split()[0]]
        for row in ROWS
        if not str(row["Text"]).startswith("gate") and Decimal(str(row["Text"]).split()[1][2:]) <= 90
    ]
    found = list(csv.reader(done(desk.run(*command)).out.splitlines()))
    assert found[0] == ["Party", "n", "plot", "m", "at"] and [row[:3] for row in found[1:]] == expected
    done(desk.run(*command, "--to", "c.parquet"))
    kinds = parquet.read_schema(desk.folder / "c.parquet")
    assert str(kinds.field("n").type) == ("string" if source == "a.csv" else "int64")
    assert (
        "--carry takes columns of a table along" in desk.run("extract", "loggers:reading", "a.log", "--carry", "n").err
    )
    nameless = desk.run("extract", "loggers:reading", "a.csv", "--column", "Text", "--carry", "Partly")
    assert nameless.status == 2 and "no column 'Partly'; the nearest is 'Party'" in nameless.err


def test_a_summary_of_many_values_is_the_same_in_every_run() -> None:
    def summed_up() -> FieldSummary:
        found, chance = FieldSummary("m", "integer"), random.Random(7)
        for _ in range(8):
            values = [chance.randrange(10**9) for _ in range(6000)]
            found.add_arrow(pa.table({"value": values, "count": [1] * len(values)}), with_offset=False)
        found.settle()
        return found

    one, other = summed_up(), summed_up()
    assert one.let_go and one.sample == other.sample and list(one.common.items()) == list(other.common.items())


@pytest.mark.parametrize("walked", [False, True])
@pytest.mark.parametrize("command", ["extract", "extract --otherwise none", "extract --with-place", "split"])
def test_no_text_is_read_after_the_one_that_gives_the_last_row(
    desk: Desk, monkeypatch: pytest.MonkeyPatch, command: str, walked: bool
) -> None:
    monkeypatch.setattr(row_walks, "WORTH_NEW", 0 if walked else 1 << 40)
    monkeypatch.setattr(row_walks, "WORTH_KEPT", 0 if walked else 1 << 40)
    lines = [f"B{at:04};C{at:04}" if at % 3 else "" for at in range(20_000)]
    desk.write("a.log", "".join(f"{line}\n" for line in lines))
    expression = ";" if command == "split" else r"(?P<plot>\w+)"
    rows_of = [2 if line else int(command != "extract" and "place" not in command) for line in lines]
    for limit in (1, 2, 9001, 13_332):
        read, rows = 0, 0
        while rows < limit:
            rows, read = rows + rows_of[read], read + 1
        asked = (*command.split(), "-e", expression, "--reach", "anywhere", "a.log", "--limit", str(limit))
        take = () if command == "split" else ("--take", "all")
        rejects = ("--rejects", "rejects.csv") if command == "extract" else ()
        done(desk.run(*asked, *take, *rejects, "--to", "a.csv", "--report", "r.json"))
        [tally] = json.loads((desk.folder / "r.json").read_text())["patterns"]
        fit = sum(map(bool, lines[:read]))
        stated = read - fit if "none" in command else 0
        assert (tally["read"], tally["fit"], tally["rows"]) == (read, fit, limit - stated)
        assert len((desk.folder / "a.csv").read_text().splitlines()) == limit + 1
        if rejects:
            assert len((desk.folder / "rejects.csv").read_text().splitlines()) == read - fit + 1


@pytest.mark.parametrize("walked", [True, False])
def test_a_summary_says_what_the_fields_hold(laid_out: Desk, monkeypatch: pytest.MonkeyPatch, walked: bool) -> None:
    desk = laid_out
    if walked:
        monkeypatch.setattr(row_walks, "WORTH_NEW", 0)
        monkeypatch.setattr(row_walks, "WORTH_KEPT", 0)
    run = done(desk.run("extract", "loggers:reading", "a.log", "--summary", "--report", "r.json"))
    rows = list(csv.DictReader(done(desk.run("extract", "loggers:reading", "a.log")).out.splitlines()))
    fields = {each["field"]: each for each in json.loads((desk.folder / "r.json").read_text())["fields"]}
    amounts = sorted(Decimal(row["m"]) for row in rows)
    told = fields["m"]
    assert (told["values"], told["absent"], told["different"]) == (len(rows), 0, len(set(amounts)))
    assert (told["least"], told["most"]) == (str(amounts[0]), str(amounts[-1]))
    assert Decimal(told["quarters"][1]) == statistics.median_low(amounts)
    assert fields["at"]["absent"] == sum(not row["at"] for row in rows)
    assert fields["at"]["least"] == min(row["at"] for row in rows if row["at"])
    plots = [row["plot"] for row in rows]
    assert all(plots.count(each["value"]) == each["count"] for each in fields["plot"]["commonest"])
    assert "half of them from" in run.out and "A00" not in run.err and "plot,m" not in run.out
    done(desk.run("extract", "loggers:reading", "a.log", "--summary", "--to", "also.csv"))
    assert len((desk.folder / "also.csv").read_text().splitlines()) == len(rows) + 1


@pytest.mark.parametrize(("most", "status"), [("90%", 0), ("1%", 1), ("400", 0), ("0", 1), ("99.5 %", 0)])
def test_some_rejects_may_be_let_pass(laid_out: Desk, most: str, status: int) -> None:
    run = laid_out.run("validate", "a.csv", "--form", "loggers:rows", "--most-rejects", most, "--report", "-")
    assert run.status == status and f"more than {most} are rejected" in run.err
    assert laid_out.run("validate", "a.csv", "--form", "loggers:rows", "--most-rejects", "few").status == 2


COMMANDS: list[tuple[tuple[str, ...], dict[str, Any]]] = [
    (("extract", "loggers:reading", "a.log", "--to", "o.csv"), {"written": ["o.csv"]}),
    (("select", "loggers:gate", "a.log", "--to", "o.log"), {"written": ["o.log"]}),
    (("rewrite", "loggers:blur", "a.log", "--to", "o.log"), {"written": ["o.log"]}),
    (("split", "-e", " ", "a.log", "--to", "o.csv"), {"written": ["o.csv"]}),
    (("route", "loggers:kind", "a.log", "--into", "k"), {"written": ["k"]}),
    (("validate", "a.csv", "--form", "loggers:rows"), {"accepted": fitting()}),
    (
        (
            "lookup",
            "-e",
            "{{=p}} .*",
            "a.csv",
            "--column",
            "Text",
            "--give",
            "n",
            "--parameter",
            "p=gate",
            "--to",
            "o.csv",
        ),
        {"searched": len(TEXTS)},
    ),
]


@pytest.mark.parametrize(("command", "own"), COMMANDS)
def test_each_command_gives_account_of_its_run(laid_out: Desk, command: tuple[str, ...], own: dict[str, Any]) -> None:
    run = laid_out.run(*command, "--report", "run.json")
    told = json.loads((laid_out.folder / "run.json").read_text())
    assert told["command"] == command[0] and told["status"] == run.status and told["format"] == 1
    assert [each["bytes"] for each in told["sources"]] == [
        (laid_out.folder / told["sources"][0]["name"]).stat().st_size
    ]
    assert {name: told[name] for name in own} == own
    for each in told["patterns"]:
        assert each["read"] == len(TEXTS)
        assert each["fit"] <= each["read"]
    assert laid_out.run(*command, "--report", "no/such/run.json").status == 2


@pytest.mark.parametrize("source", ["t.csv", "t.jsonl"])
def test_several_columns_are_read_at_once(desk: Desk, source: str) -> None:
    rows = [("A01 b", "x", "C03"), ("x", "B02", "A,01"), ("x", "y", "z"), ("B02", "A01", "")]
    with (desk.folder / "t.csv").open("w", newline="") as stream:
        csv.writer(stream, lineterminator="\n").writerows([("one", "two", "three"), *rows])
    names = ("one", "two", "three")
    desk.write("t.jsonl", "".join(json.dumps(dict(zip(names, row, strict=True))) + "\n" for row in rows))
    both = ("--column", "one", "--column", "two", "--reach", "anywhere")
    found = done(desk.run("extract", "-e", "(?P<plot>[A-F]\\d\\d)", source, *both, "--with-place", "--carry", "three"))
    assert [line.split(",", 4)[1:] for line in found.out.splitlines()[1:]] == [
        ["2" if source == "t.csv" else "1", "0", "3", "C03,one,A01"],
        ["3" if source == "t.csv" else "2", "0", "3", '"A,01",two,B02'],
        ["5" if source == "t.csv" else "4", "0", "3", ",one,B02"],
        ["5" if source == "t.csv" else "4", "0", "3", ",two,A01"],
    ]
    assert "read 8 texts: 4 fit" in found.err
    lines = (desk.folder / source).read_text().splitlines()
    head, body = (lines[:1], lines[1:]) if source == "t.csv" else ([], lines)
    kept = done(desk.run("select", "-e", "[A-F]\\d\\d", source, *both)).out.splitlines()
    assert kept == [*head, body[0], body[1], body[3]]
    others = done(desk.run("select", "-e", "[A-F]\\d\\d", source, *both, "--not")).out.splitlines()
    assert others == [*head, body[2]]
    written = done(desk.run("rewrite", "-e", "[A-F](\\d\\d)", source, *both, "--with", "{1}", "--to", f"r{source[1:]}"))
    changed = [("01 b", "x", "C03"), ("x", "02", "A,01"), ("x", "y", "z"), ("02", "01", "")]
    if source == "t.csv":
        assert list(csv.reader((desk.folder / "r.csv").read_text().splitlines()))[1:] == [list(row) for row in changed]
    else:
        told = [json.loads(line) for line in (desk.folder / "r.jsonl").read_text().splitlines()]
        assert [tuple(row.values()) for row in told] == changed
    assert "4 change" in written.err
    run = desk.run("extract", "-e", "x", source, "--column", "one", "--column", "six")
    assert (run.status, "no column 'six'" in run.err) == ((2, True) if source == "t.csv" else (1, False))
    assert desk.run("extract", "-e", "x", source, *both, "--whole").status == 2
