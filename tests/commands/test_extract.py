"""`extract`, run as its users run it: the same rows as a script would give, whatever goes wrong around it."""

from __future__ import annotations

import csv
import gzip
import json
import os
import re
import shlex
import signal
import sqlite3
import subprocess
import sys
import time
from pathlib import Path
from typing import TYPE_CHECKING

import pyarrow.parquet as pq
import pytest

from fieldstick.demo.story import lay_out

if TYPE_CHECKING:
    from conftest import Desk

LOG = "data/loggers-2026-05.log"
READING = (
    r"(?P<at>\d{4}-\d{2}-\d{2}T\d{2}:\d{2}:\d{2}Z) probe=(?P<plot>[A-F]\d{2}) moisture=(?P<moisture>\d+\.\d)%"
    r"(?: soil=(?P<soil>-?\d+\.\d)C)?"
)


@pytest.fixture
def station(desk: Desk) -> Desk:
    lay_out(desk.folder)
    return desk


def by_script(path: Path, expression: str, method: str = "fullmatch") -> list[list[str]]:
    """Return what a script with the standard library's engine gives."""
    match = getattr(re.compile(expression), method)
    with path.open(encoding="utf-8", errors="surrogateescape", newline="\n") as lines:
        found = (match(line.rstrip("\n")) for line in lines)
        return [[group or "" for group in each.groups()] for each in found if each]


def rows_of(text: str) -> list[list[str]]:
    return list(csv.reader(text.splitlines(keepends=True), strict=True))


@pytest.mark.parametrize("jobs", ["1", "3"])
@pytest.mark.parametrize("reach", ["whole", "anywhere"])
def test_the_rows_are_those_of_a_script(station: Desk, jobs: str, reach: str) -> None:
    run = station.run("extract", "-e", READING, "--reach", reach, LOG, "--jobs", jobs)
    expected = by_script(station.folder / LOG, READING, "fullmatch" if reach == "whole" else "search")
    header, *rows = rows_of(run.out)
    assert header == ["at", "plot", "moisture", "soil"] and rows == expected and len(rows) > 3000
    assert f"read 5,000 texts: {len(rows):,} fit; {5000 - len(rows):,} do not" in run.err
    assert run.status == 1 and "1 line has bytes that are not UTF-8, kept as they are: 2829" in run.err


def test_a_kept_pattern_gives_typed_values_and_turns_invalid_ones_away(station: Desk) -> None:
    run = station.run("extract", "permits:load", "data/permits-2026.csv", "--column", "Load", "--format", "jsonl")
    with (station.folder / "data/permits-2026.csv").open(encoding="utf-8", newline="") as stream:
        cells = [row["Load"] for row in csv.DictReader(stream)]
    plain = re.compile(r"(\d{1,3}(?:\.\d{3})*(?:,\d+)?) ?kg", re.IGNORECASE)
    expected = [
        float(found[1].replace(".", "").replace(",", ".")) for cell in cells if (found := plain.fullmatch(cell))
    ]
    assert [json.loads(line)["load"] for line in run.out.splitlines()] == [each for each in expected if each <= 2500]
    assert run.status == 0


def test_every_form_holds_the_same_rows(station: Desk) -> None:
    arguments = ("extract", "loggers:battery", LOG, "--to")
    for name in ("b.csv", "b.jsonl", "b.parquet", "b.sqlite"):
        assert station.run(*arguments, name).err.startswith("read 5,000 texts: 249 fit")
    folder = station.folder
    plain = [[row[1], row[2]] for row in rows_of((folder / "b.csv").read_text())[1:]]
    assert len(plain) == 249
    as_json = [json.loads(line) for line in (folder / "b.jsonl").read_text().splitlines()]
    assert [[row["plot"], f"{row['volts']:.2f}"] for row in as_json] == plain
    assert [[row["plot"], str(row["volts"])] for row in pq.read_table(folder / "b.parquet").to_pylist()] == plain
    with sqlite3.connect(folder / "b.sqlite") as base:
        stored = base.execute("select plot, volts from battery").fetchall()
    assert [[plot, f"{volts:.2f}"] for plot, volts in stored] == plain


def test_all_matches_times_all_fields_with_their_places(station: Desk) -> None:
    run = station.run("extract", "notes:positions", "data/field-notes.txt", "--with-place")
    notes = (station.folder / "data/field-notes.txt").read_text(encoding="utf-8").splitlines()
    rows = rows_of(run.out)
    assert rows[0] == ["source", "line", "start", "end", "lat", "lon"] and len(rows) == 4
    for _, line, start, end, lat, lon in rows[1:]:
        taken = notes[int(line) - 1][int(start) : int(end)]
        assert taken.startswith(lat) and taken.endswith(lon + "W")
    for take, latitudes in (("first", ["54°12.3′", "54°13′"]), ("last", ["54°12.9′", "54°13′"]), ("2", ["54°12.9′"])):
        run = station.run("extract", "notes:positions", "data/field-notes.txt", "--take", take)
        assert [row[0] for row in rows_of(run.out)[1:]] == latitudes


def test_several_sources_carry_file_and_line(station: Desk) -> None:
    station.write("one.log", "probe=B07\nno\n")
    station.write("two.log", "no\nprobe=C12\n")
    run = station.run("extract", "-e", r"probe=(?P<plot>\w+)", "*.log")
    assert rows_of(run.out) == [
        ["source", "line", "start", "end", "plot"],
        ["one.log", "1", "0", "9", "B07"],
        ["two.log", "2", "0", "9", "C12"],
    ]
    assert rows_of(station.run("extract", "-e", r"probe=(?P<plot>\w+)", "*.log", "--without-place").out)[0] == ["plot"]


def test_several_patterns_make_a_table_each_or_one_together(station: Desk) -> None:
    patterns = ("loggers:battery", "loggers:trap-frame")
    run = station.run("extract", *patterns, LOG)
    rows = rows_of(run.out)
    assert rows[0] == ["pattern", "at", "plot", "volts", "low", "trap", "frame", "beast", "lux"]
    assert {row[0] for row in rows[1:]} == {"battery", "trap-frame"}
    assert [row[1] for row in rows[1:]] == sorted(row[1] for row in rows[1:])
    station.run("extract", *patterns, LOG, "--into", "out", "--format", "tsv")
    lines = {path.name: len(path.read_text().splitlines()) for path in (station.folder / "out").iterdir()}
    assert lines == {"battery.tsv": 250, "trap-frame.tsv": 799}
    station.run("extract", *patterns, LOG, "--to", "x.xlsx")
    station.run("extract", *patterns, LOG, "--to", "x.sqlite", "--together")
    with sqlite3.connect(station.folder / "x.sqlite") as base:
        counts = base.execute("select pattern, count(*) from rows group by pattern order by 1").fetchall()
    assert counts == [("battery", 249), ("trap-frame", 798)]


def test_templates_and_stated_answers_stand_where_they_should(desk: Desk) -> None:
    desk.write("x.log", "probe=B07 31.4.\nno\nprobe=C12 8,5!\n")
    expression = r"probe=(?P<plot>\w+) (?P<m>[\d.,!]+)"
    run = desk.run("extract", "-e", expression, "x.log", "--template", "{line}: {plot:mask but last 2} {{{m}}}")
    assert run.out == "1: *07 {31.4.}\n3: *12 {8,5!}\n"
    assert (
        desk.run("extract", "-e", expression, "x.log", "--template", "{plot}", "--otherwise", "-").out
        == "B07\n-\nC12\n"
    )
    assert (
        desk.run("extract", "-e", expression, "x.log", "--otherwise", "none").out
        == 'plot,m\nB07,31.4.\nnone,none\nC12,"8,5!"\n'
    )
    typed = desk.run("extract", "-e", expression, "x.log", "--field", "m=decimal", "--template", "{m:value}")
    assert typed.out == "31.4\n" and "1 where 'm' is no value that it may have" in typed.err
    comma = desk.run("extract", "-e", expression, "x.log", "--field", "m=decimal", "--decimal-mark", ",")
    assert comma.out == "plot,m\nC12,8.5\n"
    wrong = desk.run("extract", "-e", expression, "x.log", "--field", "m=decimol")
    assert wrong.status == 2 and "there is no type 'decimol'; the nearest is 'decimal'" in wrong.err


def test_standard_input_whole_files_and_records_are_read(station: Desk) -> None:
    log = (station.folder / "samples/fault-report.txt").read_text(encoding="utf-8")
    arguments = ("extract", "loggers:fault-report", "--template", "{device} {code}")
    whole = station.run(*arguments, "samples/fault-report.txt", "--whole")
    assert whole.out == "trap=C3 E21\nprobe=D04 W07\n"
    assert station.run(*arguments, "--record-start", "loggers:fault-head", typed=log).out == whole.out
    assert station.run(*arguments, "-", "--record-start", r"\S+ FAULT ", typed=log).out == whole.out


def test_a_line_longer_than_any_is_named_and_the_others_are_read(desk: Desk) -> None:
    with (desk.folder / "long.log").open("w") as stream:
        stream.write("probe=B07\n")
        for _ in range(100):
            stream.write("x" * 1_000_000)
        stream.write("\nprobe=C12\n")
    run = desk.run("extract", "-e", r"probe=(?P<plot>\w+)", "long.log")
    assert run.out == "plot\nB07\nC12\n" and run.status == 1
    assert "1 text is longer than 10,000,000 characters and not read: 2" in run.err and "--longest N" in run.err


def test_truncated_compression_gives_what_is_there_and_status_1(desk: Desk) -> None:
    lines = "".join(f"probe={os.urandom(8).hex()}\n" for _ in range(20_000))
    (desk.folder / "x.log.gz").write_bytes(gzip.compress(lines.encode())[:-100_000])
    run = desk.run("extract", "-e", r"probe=(?P<id>\w{16})", "x.log.gz", "--to", "x.csv")
    rows = (desk.folder / "x.csv").read_text().splitlines()[1:]
    assert run.status == 1 and "gzip data breaks off or is damaged" in run.err
    assert 1000 < len(rows) < 20_000 and rows == [line[6:] for line in lines.splitlines()[: len(rows)]]


def test_a_full_disk_or_a_folder_that_is_read_only_leaves_what_was_there(station: Desk) -> None:
    out = station.write("out/x.csv", "as it was\n")
    run = station.program("extract", "-e", READING, LOG, "--to", "out/x.csv", most_bytes=50_000)
    assert run.status == 2 and "out/x.csv: cannot be written: File too large" in run.err
    assert out.read_text() == "as it was\n" and [path.name for path in out.parent.iterdir()] == ["x.csv"]
    for form in ("sqlite", "parquet", "xlsx"):
        run = station.program("extract", "-e", READING, LOG, "--to", f"out/y.{form}", most_bytes=20_000)
        assert run.status == 2 and "cannot be written" in run.err and len(list(out.parent.iterdir())) == 1
    run = station.run("extract", "-e", READING, LOG, "--to", "/proc/x.csv")
    assert run.status == 2 and "/proc/x.csv: cannot be written" in run.err
    with Path("/dev/full").open("w") as full:
        command = [sys.executable, "-m", "fieldstick", "extract", "-e", READING, LOG]
        done = subprocess.run(command, cwd=station.folder, stdout=full, stderr=subprocess.PIPE, text=True, check=False)
    assert (
        done.returncode == 2
        and done.stderr == "fieldstick: standard output: cannot be written: No space left on device\n"
    )


@pytest.mark.parametrize("jobs", ["1", "2"])
@pytest.mark.parametrize(
    ("number", "words"),
    [
        (signal.SIGINT, "fieldstick: interrupted"),
        (signal.SIGTERM, "fieldstick: ended by a signal"),
        (signal.SIGHUP, "fieldstick: ended by a signal"),
    ],
)
def test_an_interrupt_leaves_no_half_file(desk: Desk, jobs: str, number: int, words: str) -> None:
    with (desk.folder / "big.log").open("w") as stream:
        for _ in range(200):
            stream.write("2026-05-04T06:10:00Z probe=B07 moisture=31.4%\n" * 5000)
    command = [sys.executable, "-m", "fieldstick", "extract", "-e", READING, "big.log", "--to", "x.csv", "--jobs", jobs]
    with subprocess.Popen(
        command, cwd=desk.folder, stderr=subprocess.PIPE, text=True, start_new_session=True
    ) as process:
        while not list(desk.folder.glob(".x.csv.*")):
            assert process.poll() is None
            time.sleep(0.01)
        # The keyboard interrupts all processes at once; whoever ends a program ends the first alone.
        (os.killpg if number == signal.SIGINT else os.kill)(process.pid, number)
        assert process.stderr is not None and process.stderr.read().strip() == words
    # Python ends by the signal itself when it comes in the middle of an import; to a shell that is 130 as well.
    assert process.returncode in (128 + number, -number) and [path.name for path in desk.folder.iterdir()] == [
        "big.log"
    ]


def test_a_pipe_that_is_closed_early_ends_it_quietly(station: Desk) -> None:
    program = f"{sys.executable} -m fieldstick extract -e {shlex.quote(READING)} {LOG} {LOG} {LOG} --jobs 2 | head -2"
    done = subprocess.run(["bash", "-c", program], cwd=station.folder, capture_output=True, text=True, check=False)
    assert done.stdout.count("\n") == 2 and done.stderr == ""


def test_two_runs_that_write_one_file_leave_one_whole_result(station: Desk) -> None:
    command = [sys.executable, "-m", "fieldstick", "extract", "-e", READING, LOG, "--to", "x.csv"]
    runs = [subprocess.Popen(command, cwd=station.folder, stderr=subprocess.DEVNULL) for _ in range(3)]
    assert [run.wait(60) for run in runs] == [1, 1, 1]
    assert rows_of((station.folder / "x.csv").read_text())[1:] == by_script(station.folder / LOG, READING)
    assert not list(station.folder.glob(".x.csv.*"))


def test_control_characters_do_not_reach_a_terminal(desk: Desk) -> None:
    desk.write("x.log", "name=\x1b[31mred\x07\n")
    assert "\x1b[31m" not in desk.in_terminal("extract", "-e", "name=(?P<n>.*)", "x.log")
    assert desk.run("extract", "-e", "name=(?P<n>.*)", "x.log").out == "n\n\x1b[31mred\x07\n"


def test_cells_that_run_are_guarded_when_asked(desk: Desk) -> None:
    arguments = ("extract", "-e", "(?P<n>.*)", "-")
    assert desk.run(*arguments, typed="=1+1\n-7\n").out == "n\n=1+1\n-7\n"
    assert desk.run(*arguments, "--for-spreadsheet", typed="=1+1\n-7\n").out == "n\n'=1+1\n-7\n"


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (("loggers:battry", LOG), "the suite 'loggers' has no pattern 'battry'; the nearest is 'battery'"),
        (("lager:battery", LOG), "no suite here is named 'lager'"),
        ((LOG, "loggers:battery"), "is a file; a pattern as SUITE:PATTERN comes first, or an expression with -e"),
        (("loggers:battery", "gone.log"), "gone.log: cannot be read: No such file"),
        (("loggers:battery", LOG, "--to", LOG, "--format", "csv"), "is also read; write to another file"),
        (("loggers:frames-of", LOG), "needs a value for its parameter 'trap': add --parameter trap=VALUE"),
        (("loggers:battery", LOG, "--parameter", "x=1"), "no pattern here has such a parameter"),
        (("loggers:battery", LOG, "--template", "{volt}"), "the field 'volt', which the pattern does not have"),
        (("loggers:battery", LOG, "--format", "parquet"), "parquet is no text: name a file with --to"),
        (("permits:load", "data/permits-2026.csv", "--column", "Lod"), "has no column 'Lod'; the nearest is 'Load'"),
        (("-e", "(", LOG), "this parenthesis is not closed"),
    ],
)
def test_what_is_asked_wrongly_is_a_sentence(station: Desk, arguments: tuple[str, ...], words: str) -> None:
    run = station.run("extract", *arguments)
    assert run.status == 2 and words in run.err


def test_nothing_to_read_and_nothing_that_fits_are_said(desk: Desk) -> None:
    run = desk.run("extract", "-e", r"(?P<n>\d+)", typed="")
    assert run.status == 0 and "nothing to read: the sources hold no text" in run.err
    run = desk.run("extract", "-e", r"(?P<n>\d+)", typed="a 7\n")
    assert "no text fits as a whole; --reach anywhere looks for the pattern within each" in run.err


def test_a_text_that_spends_its_budget_is_named_and_the_others_are_read(desk: Desk) -> None:
    body = "[patterns.slow]\nexpression = '(?P<x>(?:a|aa)+)b(?<=(?!c)b)'\nbudget_ms = 50\npositive = ['ab']\n"
    desk.suite(body)
    run = desk.run("extract", "loggers:slow", typed="ab\n" + "a" * 70 + "\naab\n")
    assert run.out == "x\na\naa\n" and run.status == 1
    assert "1 text given up, since reading took longer than the budget: standard input:2" in run.err


@pytest.mark.parametrize(
    "command", [("extract",), ("select",), ("select", "--not", "--why"), ("rewrite", "--with", "x"), ("try",)]
)
def test_where_no_text_fits_as_a_whole_it_is_said_how_to_look_within_each(desk: Desk, command: tuple[str, ...]) -> None:
    desk.write("x.log", "probe=B07 dry\nprobe=C11 wet\n")
    hint = "no text fits as a whole; --reach anywhere looks for the pattern within each"
    asked = (*command, "-e", "probe=[A-C]", "x.log")
    assert hint in desk.run(*asked).err
    for more in (("--reach", "anywhere"), ("--reach", "start")):
        assert hint not in desk.run(*asked, *more).err
    assert hint not in desk.run(*command, "-e", "probe=B.*", "x.log").err
