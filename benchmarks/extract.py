"""Times `extract` of one pattern on a log of 50 MB against pandas, and measures memory.

Both sides must write the same bytes. Then the memory of `extract`, `select`, `rewrite` and `route` at 100 MB and 1 GB.
Against plain scripts, see `at_work.py`. Run with `make bench`.
"""

from __future__ import annotations

import argparse
import filecmp
import os
import random
import subprocess
import sys
import tempfile
from pathlib import Path

from check import ratio_line, timed

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tools"))
from make_demo_data import log_lines

STAMP = r"\d{4}-\d{2}-\d{2}T\d{2}:\d{2}:\d{2}Z"
EXPRESSION = rf"(?P<at>{STAMP}) probe=(?P<plot>[A-F]\d{{2}}) moisture=(?P<moisture>\d+\.\d)%"
KINDS = {
    **{f"reading-{row}": rf"{STAMP} probe={row}\d{{2}} moisture=\d+\.\d%(?: soil=-?\d+\.\d+?C)?" for row in "ABCDEF"},
    "battery": rf"{STAMP} probe=[A-F]\d{{2}} battery=\d\.\d{{2}}V(?: LOW)?",
    "frame": rf'{STAMP} trap=[A-F][1-9] frame=\d{{6}} "[a-z ]+" lux=\d+',
    "north": rf"{STAMP} gate=north pass=LM-\d{{4}} (?:in|out)(?: held \d\d:\d\d:\d\d)?",
    "quarry": rf"{STAMP} gate=quarry pass=LM-\d{{4}} (?:in|out)(?: held \d\d:\d\d:\d\d)?",
    "fault": rf"{STAMP} FAULT .*",
    "details": r"    .*",
}
BYTES = 50_000_000
SMALL, LARGE = 100_000_000, 1_000_000_000

PANDAS = f"""
import pandas
with open("log.log", encoding="utf-8", errors="surrogateescape") as file:
    lines = pandas.Series(file.read().split("\\n"), dtype=object)
found = lines.str.extract({EXPRESSION!r}).dropna(how="all")
found.to_csv("pandas.csv", index=False, lineterminator="\\n")
"""


def make_log(path: Path, size: int) -> None:
    """Write a log of the demo's lines, repeated until it is large enough."""
    block = b"".join(line + b"\n" for line in log_lines(50_000, random.Random(1)))
    with path.open("wb") as stream:
        for _ in range(size // len(block) + 1):
            stream.write(block)


def make_suite(path: Path) -> None:
    """Write a suite with a route of the twelve kinds."""
    patterns = "".join(f"[patterns.{name}]\nexpression = '''{text}'''\npositive = []\n" for name, text in KINDS.items())
    order = ", ".join(f'"{name}"' for name in KINDS)
    path.write_text(f'format = 1\nsuite = "bench"\n{patterns}[routes.kind]\norder = [{order}]\n', encoding="utf-8")


def peak(command: list[str], folder: Path) -> int:
    """Return the peak memory of the largest process that a command uses, in bytes."""
    wrapper = (
        "import resource, subprocess, sys\n"
        "subprocess.run(sys.argv[1:], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)\n"
        "print(resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss)\n"
    )
    done = subprocess.run(
        [sys.executable, "-c", wrapper, *command], cwd=folder, capture_output=True, text=True, check=True
    )
    return int(done.stdout) * 1024


def times(folder: Path, program: str, rounds: int) -> None:
    """Print the ratio of the pair; the median of the rounds counts."""
    extracting = [program, "extract", "-e", EXPRESSION, "--reach", "anywhere", "log.log", "--to", "own.csv"]
    seconds: tuple[list[float], list[float]] = ([], [])
    for _ in range(rounds):
        seconds[0].append(timed([sys.executable, "-c", PANDAS], folder))
        seconds[1].append(timed(extracting, folder))
    print(ratio_line("pandas / extract", *seconds, "nothing stated"))
    if not filecmp.cmp(folder / "own.csv", folder / "pandas.csv", shallow=False):
        sys.exit("the sides do not agree")
    rows = (folder / "own.csv").read_bytes().count(b"\n") - 1
    print(f"both sides wrote the same: {rows:,} rows; {os.cpu_count()} cores")


def memory(folder: Path, program: str) -> None:
    """Print the peaks at 100 MB and at 1 GB, and their ratio."""
    commands = {
        "extract": ["extract", "-e", EXPRESSION, "--reach", "anywhere", "log.log", "--to", "out.csv"],
        "select": ["select", "-e", EXPRESSION, "--reach", "anywhere", "log.log", "--to", "out.log"],
        "rewrite": ["rewrite", "-e", "probe=", "--reach", "anywhere", "--with", "p=", "log.log", "--to", "out.log"],
        "route": ["route", "bench:kind", "log.log", "--into", "out"],
    }
    found: dict[str, list[int]] = {name: [] for name in commands}
    for size in (SMALL, LARGE):
        make_log(folder / "log.log", size)
        for name, command in commands.items():
            found[name].append(peak([program, *command], folder))
    for name, (small, large) in found.items():
        print(
            f"{name}: {small / 1e6:.1f} MB at 100 MB, {large / 1e6:.1f} MB at 1 GB: {large / small:.2f} (wanted ≤ 1.2)"
        )


def main() -> None:
    """Run the pairs in turn and print the ratios."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rounds", type=int, default=5)
    parser.add_argument("--without-memory", action="store_true", help="leave out the runs on 1 GB")
    asked = parser.parse_args()
    program = str(Path(sys.executable).with_name("fieldstick"))
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        make_log(folder / "log.log", BYTES)
        make_suite(folder / "bench.suite.toml")
        times(folder, program, asked.rounds)
        if not asked.without_memory:
            memory(folder, program)


if __name__ == "__main__":
    main()
