"""With and without the compiled walkers, and with tables kept from a run before, every command gives the same."""

from __future__ import annotations

import os
import random
import subprocess
import sys
from typing import TYPE_CHECKING

import pytest

from conftest import EXHAUSTIVE, TODAY
from fieldstick.kernels.walkers import NATIVE

if TYPE_CHECKING:
    from pathlib import Path

pytestmark = pytest.mark.skipif(NATIVE is None, reason="the walkers are not built here")

SUITE = r"""
[patterns.reading]
expression = '(?P<at>\S+) probe=(?P<plot>[A-F]\d{2}) moisture=(?P<moisture>\d+\.\d)%(?P<rest>.*)'
fields.at = { type = "timestamp" }
fields.moisture = { type = "decimal", most = 90 }
positive = []
[patterns.gate]
expression = 'gate=(?P<gate>\w+)'
reach = "anywhere"
positive = []
[patterns.doubled]
expression = '.*(\d)\1.*'
positive = []
[routes.kind]
order = ["reading", "gate", "doubled"]
[forms.row]
columns = { plot = "gate", text = "gate" }
[[trials]]
data = "a.log"
route = "kind"
[[trials]]
data = "t.csv"
column = "text"
patterns = ["gate", "doubled"]
[[trials]]
data = "t.csv"
form = "row"
[[trials]]
data = "t.jsonl"
as = "jsonl"
column = "text"
patterns = ["gate"]
"""
WORKS = [
    ["extract", "s:reading", "a.log", "--to", "OUT.csv"],
    ["extract", "s:reading", "s:gate", "a.log", "b.log", "--into", "OUT", "--format", "jsonl"],
    ["extract", "s:gate", "--take", "all", "a.log", "--to", "OUT.tsv"],
    ["extract", "s:doubled", "a.log", "--to", "OUT.csv"],
    ["select", "s:reading", "--not", "a.log", "b.log", "--to", "OUT.log"],
    ["route", "s:kind", "a.log", "--into", "OUT"],
    ["rewrite", "-e", r"(?P<x>\d)\b", "--reach", "anywhere", "--with", "<{x}>", "a.log", "--to", "OUT.log"],
    ["split", "-e", "[ =]+", "a.log", "--to", "OUT.csv"],
    ["extract", "s:gate", "--column", "text", "t.csv", "--to", "OUT.csv"],
    ["validate", "--judge", "plot=[A-F]\\d{2}", "--judge", "text=s:gate", "t.csv", "--accepted", "OUT.csv"],
    ["extract", "s:gate", "--column", "text", "t.jsonl", "--to", "OUT.csv"],
    ["survey", "a.log"],
    ["survey", "c.csv"],
    ["extract", "s:gate", "a.log", "--limit", "30", "--to", "OUT.csv"],
    ["select", "s:reading", "a.log", "--limit", "30", "--to", "OUT.log"],
    ["split", "-e", "[ =]+", "a.log", "--limit", "30", "--to", "OUT.csv"],
    *[[*work, name, "--to", "OUT.csv"] for name in ("open.log", "open2.log") for work in (
        ["extract", "-e", r"(?P<name>\w+)=(?P<number>\d+)", "--reach", "anywhere", "--take", "all", "--with-place"],
        ["select", "-e", "[^=]*", "--not"],
        ["split", "-e", "[ =]+"],
        ["rewrite", "-e", r"(?P<name>\w+)=", "--reach", "anywhere", "--take", "all", "--with", "<{name}>"],
    )],
    ["survey", "open.log"],
    ["route", "s:kind", "open2.log", "--into", "OUT"],
    ["baseline", "--yes"],
]  # fmt: skip


def lay_out(folder: Path) -> None:
    chance = random.Random(3)
    (folder / "s.suite.toml").write_text(f'format = 1\nsuite = "s"\n{SUITE}', encoding="utf-8")
    lines = []
    for number in range(32_000):
        stamp = f"2026-05-{number % 28 + 1:02}T06:10:{number % 60:02}{chance.choice(['Z', '+02:00', ''])}"
        rest = chance.choice(["", " é", " 7\x1c7", ' "x, y"', " \0"])
        kind = chance.randrange(4)
        text = f"{stamp} probe=B{chance.randrange(10, 99)} moisture={chance.randrange(999) / 10}%{rest}"
        text = text if kind else f"{stamp} gate=north{rest} gate=east"
        lines.append(text.encode() + chance.choice([b"\n", b"\n", b"\r\n", b"\x84\n", b"\r\r\n"]))
    (folder / "a.log").write_bytes(b"".join(lines))
    (folder / "b.log").write_bytes(b"".join(lines[:200]) + b"no end")
    # A line that is worth walking, and has no end.
    (folder / "open.log").write_bytes(b"x=5\r\nmoss\n" + (b"x=1 fen=22 \x84" + b"." * 80 + b" ") * 17_000)
    (folder / "open2.log").write_bytes(("gate=é x=2\t" + "-" * 90).encode() * 16_000 + b"\r")
    rows = [f'{chance.choice(["B07", "Z1", "", " "])},"gate=a ""{number}"""\n' for number in range(90_000)]
    (folder / "t.csv").write_text("plot,text\n" + "".join(rows) + 'B07,"two\nlines gate=x"\n', encoding="utf-8")
    (folder / "c.csv").write_bytes(b"plot,text\r\n" + b'B07,"two\nlines"\r\nB08,dry\r\n')
    records = [f'{{"n": {number}, "text": "gate=a \\u00e9 {number}"}}\n' for number in range(60_000)]
    (folder / "t.jsonl").write_text("".join(records) + '{"n": 1}\nno json\n{"text": 7}\n', encoding="utf-8")


def done(folder: Path, work: list[str], out: str, walkers: str) -> tuple[int, bytes, bytes, dict[str, bytes]]:
    """Run a command, and return its status, what it said, and the files it wrote."""
    environment = {**os.environ, "FIELDSTICK_WALKERS": walkers, "XDG_CACHE_HOME": str(folder / "cache")}
    command = [sys.executable, "-m", "fieldstick", *[each.replace("OUT", out) for each in work]]
    ended = subprocess.run(command, cwd=folder, env=environment, capture_output=True, check=False)
    written = {
        str(path.relative_to(folder)).replace(out, "OUT"): path.read_bytes()
        for path in sorted(folder.rglob(f"{out}*/*")) + sorted(folder.glob(f"{out}.*"))
    }
    for kept in sorted(folder.glob("*baseline*")):
        written[kept.name] = kept.read_bytes()
        kept.unlink()
    said = (ended.stdout + ended.stderr).replace(out.encode(), b"OUT")
    return ended.returncode, said, b"".join(written.values()), written


@pytest.mark.parametrize("turn", range(4))
def test_every_command_at_work(tmp_path: Path, turn: int) -> None:
    lay_out(tmp_path)
    works = [*enumerate(WORKS)][turn::4]
    for number, work in works if EXHAUSTIVE else works[TODAY % 2 :: 2]:
        plain = done(tmp_path, work, f"off{number}", "off")
        assert plain[0] in (0, 1), plain[1]
        assert plain[3] or work[0] == "survey"
        for tables in ("new", "kept") if number % 3 == 0 else ("new",):
            assert done(tmp_path, work, f"{tables}{number}", "on") == plain, (work, tables)
    assert len(list((tmp_path / "cache" / "fieldstick" / "walks").iterdir())) >= 1


def test_a_kept_table_that_is_damaged_is_made_anew(tmp_path: Path) -> None:
    lay_out(tmp_path)
    plain = done(tmp_path, WORKS[0], "first", "on")
    [kept] = (tmp_path / "cache" / "fieldstick" / "walks").iterdir()
    stored = kept.read_bytes()
    for damaged in (stored[:-9], stored[:200], b"", stored[:-40] + b"\xff" * 40):
        kept.write_bytes(damaged)
        assert done(tmp_path, WORKS[0], "again", "on") == plain
