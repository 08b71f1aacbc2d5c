"""Times commands on a text that is one long line with many matches, against themselves on one half as long.

What they do must be linear in a text's length: twice as much takes twice as long, and less by what starting takes. Each
engine that is there reads it too; Perl and Ruby count places from where a text begins. Run with `make bench`; `--only
WORD` runs the works whose name holds a word.
"""

from __future__ import annotations

import argparse
import json
import sys
import tempfile
from pathlib import Path

from check import ratio_line, timed
from fieldstick.engines.registry import why_unusable

FIELDSTICK = str(Path(sys.executable).with_name("fieldstick"))
PAIR = r"(?P<name>\w+)=(?P<number>\d+)"
ALL = ["-e", PAIR, "--reach", "anywhere", "--take", "all"]
PAIRS, ROUNDS = 60_000, 3
WORKS = {
    "extract to CSV": ["extract", *ALL, "--with-place", "LOG", "--to", "out.csv"],
    "extract to JSON Lines": ["extract", *ALL, "--with-place", "LOG", "--to", "out.jsonl"],
    "extract to Parquet": ["extract", *ALL, "--with-place", "LOG", "--to", "out.parquet"],
    "extract of a cell": ["extract", *ALL, "--column", "text", "CSV", "--to", "out.csv"],
    "extract of a key": ["extract", *ALL, "--column", "text", "JSONL", "--to", "out.csv"],
    "select": ["select", "-e", PAIR, "--reach", "anywhere", "LOG", "--to", "out.log"],
    "rewrite": ["rewrite", "-e", PAIR, "--reach", "anywhere", "--with", "<{name}>", "LOG", "--to", "out.log"],
    "split": ["split", "-e", "[ =]+", "LOG", "--to", "out.csv"],
    "survey": ["survey", "LOG"],
    "propose": ["propose", "LOG"],
    "try": ["try", PAIR, "--reach", "anywhere", "--take", "all", "LOG"],
    "try, what is missed": ["try", rf"(?:{PAIR}é? ?)*!", "--missed", "LOG"],
    "why it does not fit": ["why", r"(?:\w+=\d+é? ?)*!", "--from", "LOG:1"],
    "check of a sample": ["check", "python.suite.toml"],
}
ENGINES = ("pcre2", "oniguruma", "re2", "rust", "ecmascript", "java", "dotnet", "node", "php", "ruby", "perl")
SUITE = """format = 1
suite = "{engine}"
[patterns.pair]
expression = '([a-z]+)=([0-9]+)'
reach = "anywhere"
take = "all"
engines = ["{engine}"]
budget_ms = 60000
positive = [{{ file = "sample.txt", count = 1 }}]
"""


def lay_out(folder: Path, pairs: int, engines: tuple[str, ...]) -> None:
    """Write a line of so many pairs, as a log, a cell and the value of a key, and suites with it for a sample."""
    line = " ".join(f"x={number % 7} fen={number % 100}é" for number in range(pairs // 2))
    folder.mkdir()
    for name in ("log", "sample.txt"):
        (folder / name).write_text(line + "\n", encoding="utf-8")
    (folder / "log.csv").write_text(f'plot,text\nB07,"{line}"\n', encoding="utf-8")
    (folder / "log.jsonl").write_text(json.dumps({"plot": "B07", "text": line}) + "\n", encoding="utf-8")
    for engine in ("python", *engines):
        (folder / f"{engine}.suite.toml").write_text(SUITE.format(engine=engine), encoding="utf-8")


def main() -> None:
    """Print the ratios."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--only", default="")
    asked = parser.parse_args()
    engines = tuple(each for each in ENGINES if why_unusable(each) is None)
    by_engine = {f"extract by {each}": ["extract", f"{each}:pair", "LOG", "--to", "out.csv"] for each in engines}
    with tempfile.TemporaryDirectory() as name:
        half, whole = Path(name, "half"), Path(name, "whole")
        lay_out(half, PAIRS // 2, engines)
        lay_out(whole, PAIRS, engines)
        for work, words in (WORKS | by_engine).items():
            if asked.only not in work:
                continue
            names = {"LOG": "log", "CSV": "log.csv", "JSONL": "log.jsonl", "LOG:1": "log:1"}
            command = [FIELDSTICK, *(names.get(each, each) for each in words)]
            times = [(timed(command, whole), timed(command, half)) for _ in range(ROUNDS)]
            longer, shorter = ([each[side] for each in times] for side in (0, 1))
            print(f"{ratio_line(work, longer, shorter, '≤ 2.2')}; {min(longer):.2f} s", flush=True)


if __name__ == "__main__":
    main()
