"""Hostile suites, expressions, data and circumstances: each gets a sentence, in bounded time, and nothing is lost."""

from __future__ import annotations

import bz2
import copy
import datetime as dt
import functools
import gzip
import io
import json
import os
import random
import signal
import sqlite3
import subprocess
import sys
import tempfile
import time
import zipfile
from pathlib import Path
from typing import Any

import openpyxl
import pyarrow as pa
import pyarrow.parquet as pq
import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import EXHAUSTIVE, TODAY, Desk
from fieldstick.analysis.examples import examples
from fieldstick.analysis.hazards import hazards
from fieldstick.commands.main import LazyCommands
from fieldstick.drafting.outline import outline
from fieldstick.suites.editing import toml_value
from fieldstick.syntax.parser import parse
from odd_suites import ODD, WHOLE, holder_of, places

HEAD = 'format = 1\nsuite = "s"\n'


def parts_that_double(times: int, piece: str = "{{{{p{0}}}}}{{{{p{0}}}}}") -> str:
    doubling = "".join(f"p{n} = '{piece.format(n - 1)}'\n" for n in range(1, times))
    return f"{HEAD}[parts]\np0 = 'a'\n{doubling}[patterns.q]\nexpression = '{{{{p{times - 1}}}}}'\npositive = ['a']\n"


def chained(section: str, times: int, link: str, last: str, *, turned: bool = False) -> str:
    blocks = [f"[{section}.q{n}]\n{link.format(n + 1)}\n" for n in range(times)] + [f"[{section}.q{times}]\n{last}\n"]
    return HEAD + "".join(reversed(blocks) if turned else blocks)


SUITES = {
    "parts that double": (parts_that_double(40), "more than 100,000 characters"),
    "parts in a chain": (parts_that_double(400, "{{{{p{0}}}}}"), "more than 50 deep"),
    "members in a chain": (chained("patterns", 600, "any_of = ['q{0}']", "expression = 'a'"), "more than 50 deep"),
    "members in a chain, the last first": (
        chained("patterns", 600, "any_of = ['q{0}']", "expression = 'a'", turned=True), "more than 50 deep",
    ),
    "members that double": (
        chained("patterns", 40, "all_of = ['q{0}', 'q{0}']", "expression = 'a'"), "made of 1,024 patterns",
    ),
    "steps that double": (
        chained("rewrites", 40, "steps = ['q{0}', 'q{0}']", "pattern = 'p'\nwith = 'b'")
        + "[patterns.p]\nexpression = 'a'\n", "more than 50 deep, or of more than 1,000 steps",
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", SUITES)
def test_what_is_made_of_too_much_is_a_mistake_with_its_line(desk: Desk, name: str) -> None:
    text, words = SUITES[name]
    desk.write("s.suite.toml", text)
    run = desk.run("check")
    assert run.status == 2 and words in run.err
    assert all(line.startswith("s.suite.toml:") for line in run.err.splitlines())


def test_suites_that_borrow_in_a_long_chain_and_links_that_lead_nowhere(desk: Desk) -> None:
    for number in range(120):
        borrow = f"borrow = {{ n = 's{number + 1}.suite.toml' }}\n" if number < 119 else ""
        desk.write(f"s{number}.suite.toml", f'format = 1\nsuite = "s{number}"\n{borrow}')
    run = desk.run("check", "s0.suite.toml")
    assert run.status == 2 and "suites borrow from one another more than 50 deep" in run.err
    (desk.folder / "d").mkdir()
    (desk.folder / "d" / ".#s.suite.toml").symlink_to("nowhere")
    desk.write("d/t.suite.toml", 'format = 1\nsuite = "t"\n[patterns.p]\nexpression = "a"\npositive = ["a"]\n')
    assert desk.run("check", "d").status == 0
    (desk.folder / "d" / "u.suite.toml").symlink_to("v.suite.toml")
    (desk.folder / "d" / "v.suite.toml").symlink_to("u.suite.toml")
    looped = desk.run("check", "d")
    assert looped.status == 2 and "cannot be read: Too many levels of symbolic links" in looped.err


EXPRESSIONS = {
    "an alternation of 5,000 words": "|".join(f"word{number * 7919 % 10007:05}" for number in range(5000)),
    "repeats in repeats": "(?:(?:(?:a{1000}){1000}){1000}){1000}",
    "groups in groups": "(" * 60 + "a" + ")+" * 60,
    "bounds in bounds": "(?:" * 60 + "a" + "){2,3}" * 60,
    "a class of 10,000": "[" + "".join(chr(0x4E00 + 2 * number) for number in range(10000)) + "]",
    "dots": ".*" * 60 + "x",
    "comments": "(?x)" + "".join(f"a{n % 10} # comment {n}\n" for n in range(1000)),
    "format characters": "\u200b" * 5000,
    "escapes": r"\." * 5000,
    "look-arounds": "(?=a)" * 500 + "a",
    "doubled options": "|".join(["a"] * 3000),
    "references": "(a)" + r"\1" * 500,
}


SOME = list(EXPRESSIONS) if EXHAUSTIVE else list(EXPRESSIONS)[TODAY % 6 :: 6]
"""Each takes seconds: a sixth of them, others each day, or all."""


@pytest.mark.parametrize("name", SOME)
def test_the_analysis_of_any_expression_is_bounded(name: str) -> None:
    """Counted in calls of functions, which do not depend on how busy the machine is."""
    expression = EXPRESSIONS[name]
    calls = 0

    def count(frame: Any, event: str, argument: Any) -> None:
        nonlocal calls
        calls += event == "call"

    sys.setprofile(count)
    try:
        parsed = parse(expression)
        outline(parsed)
        examples(parsed, "anywhere")
        hazards(parsed, "anywhere")
    finally:
        sys.setprofile(None)
    assert calls < 6_000_000, calls


@pytest.mark.skipif(sys.platform != "linux", reason="the unit of ru_maxrss differs")
def test_and_takes_little_memory() -> None:
    """Measured in a process of its own, beyond what it had when it began."""
    program = """
import json, resource, sys
from fieldstick.analysis.examples import examples
from fieldstick.analysis.hazards import hazards
from fieldstick.drafting.context import MatchCase
from fieldstick.drafting.diagnosis import diagnose
from fieldstick.drafting.outline import outline
from fieldstick.syntax.parser import parse
def held():
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
before = held()
for expression in json.load(sys.stdin):
    parsed = parse(expression)
    outline(parsed), examples(parsed, "anywhere"), hazards(parsed, "anywhere")
    diagnose(MatchCase(expression, frozenset(), "whole", "a" * 50))
print(held() - before)
"""
    asked = json.dumps([EXPRESSIONS[name] for name in SOME])
    run = subprocess.run([sys.executable, "-c", program], input=asked, capture_output=True, text=True, check=True)
    assert int(run.stdout) < 300_000


@pytest.mark.parametrize("name", SOME)
def test_explain_says_little_of_much_and_where_it_stopped(desk: Desk, name: str) -> None:
    run = desk.run("explain", "-e", EXPRESSIONS[name])
    assert run.status == 0 and "takes" in run.out
    assert "why" and desk.run("why", "-e", EXPRESSIONS[name], "a" * 50, "--format", "json").status in (0, 1)


BASELINE_KEYS = ["format", "samples", "kind", "text", "outcome", "place", "fields", "member", "made"]
ODD_VALUES = [True, -1, "x", [1], {"a": 1}, None, 1.5, []]


@pytest.mark.parametrize("key", BASELINE_KEYS)
def test_a_baseline_with_any_value_at_any_key_is_read_or_is_a_sentence(desk: Desk, key: str) -> None:
    desk.suite("[patterns.p]\nexpression = '(?P<v>\\d)'\npositive = ['1']\nnegative = ['x']\n")
    assert desk.run("baseline", "--yes").status == 0
    path = desk.folder / "loggers.baseline.json"
    before = path.read_text()
    for value in ODD_VALUES:
        data = json.loads(before)
        record = next(iter(data["samples"]["p"].values()))
        (data if key in ("format", "samples") else record)[key] = value
        path.write_text(json.dumps(data))
        run = desk.run("check")
        assert run.status in (0, 1) or (run.status == 2 and "loggers.baseline.json: not a baseline" in run.err), value


def test_deep_json_is_named_and_left_out(desk: Desk) -> None:
    deep = "[" * 900 + "]" * 900
    desk.write("d.jsonl", '{"v": "a"}\n{"v": ' + deep + '}\n{"v": "b"}\n')
    for arguments in (
        ("extract", "-e", "(?P<v>.*)", "d.jsonl", "--column", "v"),
        ("extract", "-e", "(?P<v>.*)", "d.jsonl", "--column", "v", "--jobs", "2"),
        ("rewrite", "-e", "a", "--with", "x", "d.jsonl", "--column", "v", "--to", "-"),
        ("validate", "--judge", "v=.*", "d.jsonl", "--accepted", "o.csv"),
    ):
        run = desk.run(*arguments)
        assert run.status == 1 and "d.jsonl: 1 line of JSON is nested too deep and left out: 2" in run.err, arguments
    desk.write("d.json", deep)
    assert "nested more than 100 deep" in desk.run("survey", "d.json").err


def test_what_unpacks_to_very_much_is_refused(desk: Desk) -> None:
    book = openpyxl.Workbook()
    book.active.append(["a"])
    book.save(desk.folder / "a.xlsx")
    out = io.BytesIO()
    with zipfile.ZipFile(desk.folder / "a.xlsx") as old, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
        for part in old.infolist():
            blown_up = b" " * (80 << 20) if part.filename.endswith("sheet1.xml") else b""
            new.writestr(part.filename, old.read(part) + blown_up)
    (desk.folder / "b.xlsx").write_bytes(out.getvalue())
    run = desk.run("extract", "-e", ".*", "b.xlsx", "--column", "a")
    assert run.status == 2 and "times its size, and is not read; save the sheet as CSV" in run.err


def test_a_query_without_end_is_given_up(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("fieldstick.data.sqlite._MOST_TURNS", 2)
    base = sqlite3.connect(desk.folder / "x.db")
    base.execute(
        "create view v as with recursive c(n) as (select 1 union all select n + 1 from c) select n from c where n < 0"
    )
    base.commit()
    run = desk.run("extract", "-e", ".*", "x.db", "--column", "n")
    assert run.status == 2 and "no further row within 2,000,000 steps of the query" in run.err


@pytest.mark.parametrize(
    "arguments", [["check"], ["explain", "-e", "a+"], ["--help"], ["survey", "a.txt"], ["notation"]]
)
def test_a_full_disk_behind_standard_output_is_a_sentence(desk: Desk, arguments: list[str]) -> None:
    desk.suite("[patterns.p]\nexpression = 'a'\npositive = ['a']\n")
    desk.write("a.txt", "a\n")
    with open("/dev/full", "wb") as full:
        done = subprocess.run(
            [sys.executable, "-m", "fieldstick", *arguments],
            cwd=desk.folder, stdout=full, stderr=subprocess.PIPE, text=True, check=False,
        )  # fmt: skip
    assert done.returncode == 2
    assert done.stderr == "fieldstick: standard output cannot be written: No space left on device\n"


@pytest.mark.parametrize("redirected", ["<&-", ">&-", "2>&-", "<&- >&- 2>&-"])
@pytest.mark.parametrize("arguments", ["check", "survey", "survey in.log", "select -e a. --reach start in.log", "lsp"])
def test_a_standard_stream_that_is_closed_is_a_sentence(desk: Desk, arguments: str, redirected: str) -> None:
    desk.suite("[patterns.p]\nexpression = 'a'\npositive = ['a']\n")
    desk.write("in.log", "a1\na2\n")
    given = "" if "<" in redirected else "</dev/null"
    command = f"{sys.executable} -m fieldstick {arguments} {given} {redirected}"
    run = subprocess.run(command, shell=True, cwd=desk.folder, capture_output=True, text=True, check=False)
    assert "Traceback" not in run.stderr and "defect" not in run.stderr
    if redirected == "<&-":
        assert run.returncode == (2 if arguments in ("survey", "lsp") else 0)
        assert ("Bad file descriptor" in run.stderr) is (run.returncode == 2)
    elif redirected == ">&-" and arguments != "lsp":
        assert run.returncode == 2 and "standard output" in run.stderr and "cannot be written" in run.stderr
    elif redirected == "2>&-":
        # A source that is empty is told of by the status, too.
        assert run.returncode == (1 if arguments == "survey" else 0)


def test_a_file_does_not_get_the_number_of_a_closed_stream(desk: Desk) -> None:
    desk.write("in.log", "a1\nb2\n")
    command = f"{sys.executable} -m fieldstick select -e a. in.log --to out.log <&- >&- 2>&-"
    assert subprocess.run(command, shell=True, cwd=desk.folder, check=False).returncode == 0
    assert (desk.folder / "out.log").read_text() == "a1\n"


def test_a_defect_is_a_sentence_that_says_how_to_report_it(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    def broken(self: object, *arguments: object) -> None:
        raise ZeroDivisionError

    monkeypatch.setattr(LazyCommands, "get_command", broken)
    run = desk.run("check")
    assert run.status == 70 and "a defect of Fieldstick" in run.err and "please report it" in run.err
    assert "Traceback" not in run.err and "FIELDSTICK_TRACE=1" in run.err


def test_control_sequences_of_a_suite_reach_no_terminal(desk: Desk) -> None:
    desk.suite("[patterns.p]\nabout = \"x\\u001b[31m\\u0007\"\nexpression = 'a'\npositive = ['a']\n")
    for arguments in (["explain", "loggers:p"], ["check"], ["why", "loggers:p", "b\x1b[2J"]):
        run = desk.run(*arguments)
        assert "\x1b" not in run.out + run.err and "\x07" not in run.out + run.err
    assert desk.run("survey", "loggers.suite.toml", COLUMNS="9" * 30).status in (0, 1)


def started(folder: Path, *arguments: str) -> subprocess.Popen[bytes]:
    return subprocess.Popen(
        [sys.executable, "-m", "fieldstick", *arguments], cwd=folder, stdout=subprocess.PIPE, stderr=subprocess.PIPE
    )


@pytest.mark.parametrize("form", ["csv", "jsonl", "parquet", "sqlite", "xlsx"])
def test_what_a_signal_ends_leaves_nothing_and_what_is_killed_is_swept_by_the_next(desk: Desk, form: str) -> None:
    desk.suite("[patterns.p]\nexpression = '(?P<row>row) (?P<n>\\d)'\npositive = ['row 1']\n")
    desk.write("big.txt", "row 1\n" * 1_500_000)
    desk.write(f"o.{form}", "old")
    os.unlink(desk.folder / f"o.{form}")
    for number in (signal.SIGTERM, signal.SIGKILL):
        process = started(desk.folder, "extract", "loggers:p", "big.txt", "--to", f"o.{form}", "--jobs", "2")
        until = time.monotonic() + 30
        while not list(desk.folder.glob(".o.*.part")) and time.monotonic() < until:
            time.sleep(0.005)
        process.send_signal(number)
        process.communicate()
        assert process.returncode == (143 if number == signal.SIGTERM else -9)
        assert not (desk.folder / f"o.{form}").exists()
        assert len(list(desk.folder.glob(".o.*.part"))) == (number == signal.SIGKILL)
    desk.write("small.txt", "row 1\n")
    assert desk.program("extract", "loggers:p", "small.txt", "--to", "other.csv").status == 0
    assert not list(desk.folder.glob(".*.part"))


def test_an_interrupt_in_the_first_moments_ends_without_a_word(desk: Desk) -> None:
    desk.suite("[patterns.p]\nexpression = 'a'\npositive = ['a']\n")
    code = (
        "import os, signal, sys, builtins\n"
        "import fieldstick.start\n"
        "plain = builtins.__import__\n"
        "def imported(name, *rest):\n"
        "    if name.endswith(sys.argv[1]): os.kill(os.getpid(), signal.SIGINT)\n"
        "    return plain(name, *rest)\n"
        "builtins.__import__ = imported\n"
        "sys.argv = ['fieldstick', 'check']\n"
        "fieldstick.start.main()\n"
    )
    for module in ("commands.main", "click", "workspace", "msgspec"):
        done = subprocess.run(
            [sys.executable, "-c", code, module], cwd=desk.folder, capture_output=True, text=True, check=False
        )
        assert (done.returncode, done.stdout, done.stderr) == (130, "", ""), module


@given(st.sampled_from(places(WHOLE)), ODD)
def test_a_suite_with_any_value_at_any_key_is_read_or_its_mistakes_are_named(path: tuple[Any, ...], value: Any) -> None:
    data = copy.deepcopy(WHOLE)
    holder_of(data, path)[path[-1]] = value
    text = "".join(f"{key} = {toml_value(each)}\n" for key, each in data.items())
    with tempfile.TemporaryDirectory() as folder:
        desk = Desk(Path(folder))
        desk.write("loggers.suite.toml", text)
        desk.suite("", "common")
        for arguments in (["check"], ["explain", "loggers:reading"], ["why", "loggers:either", "b"]):
            run = desk.run(*arguments)
            assert run.status in (0, 1, 2) and "Traceback" not in run.err, (run.err, text)
            if arguments == ["check"] and run.status == 2:
                named = [each for each in run.err.splitlines() if each.startswith("loggers.suite.toml")]
                assert named or run.err.startswith("fieldstick: ")


@pytest.mark.parametrize("take", ["--5", "9" * 30, "9" * 5000, "-0", "1_0", "٣"])
def test_a_take_that_is_no_number_of_a_match_is_a_sentence(desk: Desk, take: str) -> None:
    desk.write("a.txt", "a\n")
    run = desk.run("extract", "-e", "a", "a.txt", f"--take={take}")
    assert run.status == 2 and "is no take" in run.err


@pytest.mark.parametrize(
    "form",
    ["a{{{}}}", "a{{1,{}}}", "a{{{},1}}", r"\u{}", r"\x{}", r"\{}", "(a)(?({})b)", r"\U{}", r"\0{}", r"[a-\u{}]"],
)  # fmt: skip
def test_numbers_of_any_length_in_an_expression_are_read_or_refused(desk: Desk, form: str) -> None:
    desk.write("a.txt", "a\n")
    for digits in ("9" * 5000, "0" * 5000):
        expression = form.format(digits)
        for name, *rest in (["explain"], ["why", "a"], ["extract", "a.txt"]):
            run = desk.run(name, "-e", expression, *rest)
            assert run.status in (0, 2), run.err


@functools.cache
def whole_files() -> dict[str, bytes]:
    """Return a file of each kind that holds rows."""
    moments = pa.array([dt.datetime(2026, 5, 4, 6, 10)] * 150)
    parquet, workbook = io.BytesIO(), io.BytesIO()
    pq.write_table(pa.table({"a": ["x", "y", "é"] * 50, "b": moments, "c": [[1, 2]] * 150}), parquet)
    book = openpyxl.Workbook()
    for row in (["a", "b"], *(["x", dt.datetime(2026, 5, 4)] for _ in range(30))):
        book.active.append(row)
    book.save(workbook)
    with tempfile.TemporaryDirectory() as folder:
        base = sqlite3.connect(f"{folder}/x")
        base.execute("create table t (a, b)")
        base.executemany("insert into t values (?, ?)", [("x", number) for number in range(200)])
        base.commit()
        database = Path(folder, "x").read_bytes()
    lines = b"".join(b'{"a":"x","b":[1,{"c":null}]}\n' for _ in range(100))
    table = b"a,b\n" + b'x,"q,1"\n' * 100
    return {
        "x.parquet": parquet.getvalue(), "x.xlsx": workbook.getvalue(), "x.sqlite": database, "x.jsonl": lines,
        "x.csv": table, "x.csv.gz": gzip.compress(table), "x.csv.bz2": bz2.compress(table),
    }  # fmt: skip


def damaged(data: bytes, chance: random.Random) -> bytes:
    made = bytearray(data)
    for _ in range(chance.randint(1, 6)):
        at = chance.randrange(max(len(made), 1))
        change = chance.choice(["byte", "byte", "gap", "more"])
        if change == "byte" and made:
            made[at] = chance.randrange(256)
        elif change == "gap":
            del made[at : at + chance.randint(1, 40)]
        else:
            made[at:at] = chance.randbytes(chance.randint(1, 8))
    return bytes(made)


def damaged_workbook(data: bytes, chance: random.Random) -> bytes:
    """Damage what stands in a workbook, not how it is packed."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w") as new:
        for part in old.infolist():
            content = bytearray(old.read(part))
            for _ in range(chance.choice([0, 0, 1, 4])):
                content[chance.randrange(len(content))] = chance.choice(b'<>"0A9rs&/ ')
            new.writestr(part.filename, bytes(content))
    return out.getvalue()


@given(
    st.sampled_from(sorted(whole_files())), st.integers(0, 2**32), st.sampled_from(["parquet", "sqlite", "xlsx", "csv"])
)
def test_damaged_files_are_read_as_far_as_they_go_or_refused(name: str, seed: int, form: str) -> None:
    chance = random.Random(seed)
    damage = damaged_workbook if name == "x.xlsx" and seed % 4 else damaged
    with tempfile.TemporaryDirectory() as folder:
        desk = Desk(Path(folder))
        (desk.folder / name).write_bytes(damage(whole_files()[name], chance))
        for arguments in (
            ("extract", "-e", ".*", name, "--column", "a"),
            ("survey", name),
            ("rewrite", "-e", "x", "--with", "y", name, "--column", "a", "--to", "o"),
            ("validate", "--judge", "a=.*", name, "--accepted", f"o.{form}"),
            ("lookup", "-e", "x", "--column", "a", "--give", "b", name),
        ):
            run = desk.run(*arguments)
            assert run.status in (0, 1, 2) and "Traceback" not in run.err, (arguments, run.err)
