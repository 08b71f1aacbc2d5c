"""Times `lookup --for` against plain scripts, and against itself with more.

One script finds the same rows in a dictionary: it knows that names are compared without regard to case, which `lookup`
finds out from the expression. Another tries the expression of each value on one row after the other, once: it takes a
minute or two. What is searched is held by all in memory. Run with `make bench`.
"""

from __future__ import annotations

import csv
import random
import sys
import tempfile
from pathlib import Path

from check import ratio_line, timed

SUITE = r"""
format = 1
suite = "sites"
[patterns.named]
expression = '\s*{{=name}}(?: station)?'
flags = ["ignore-case"]
parameters = ["name"]
[patterns.exactly]
expression = '{{=name}}'
parameters = ["name"]
[lookups.exact]
column = "name"
pattern = "exactly"
give = ["code"]
otherwise = "none"
[lookups.code]
column = "name"
pattern = "named"
give = ["code"]
otherwise = "none"
"""
SCRIPT = """
import csv, sys
rows, values, out = sys.argv[1:]
with open(rows, newline="") as source:
    codes = {}
    for row in csv.DictReader(source):
        codes.setdefault(row["name"].lower(), row["code"])
with open(values, newline="") as source, open(out, "w", newline="") as sink:
    writer = csv.writer(sink, lineterminator="\\n")
    writer.writerow(["v", "code"])
    for row in csv.DictReader(source):
        writer.writerow([row["v"], codes.get(row["v"].lower(), "none")])
"""
EXACT = SCRIPT.replace(".lower()", "")
IN_TURN = """
import csv, re, sys
rows, values, out = sys.argv[1:]
with open(rows, newline="") as source:
    read = [(row["name"], row["code"]) for row in csv.DictReader(source)]
with open(values, newline="") as source, open(out, "w", newline="") as sink:
    writer = csv.writer(sink, lineterminator="\\n")
    writer.writerow(["v", "code"])
    for row in csv.DictReader(source):
        fits = re.compile(rf"\\s*{re.escape(row['v'])}(?: station)?", re.IGNORECASE).fullmatch
        writer.writerow([row["v"], next((code for name, code in read if fits(name)), "none")])
"""
WORDS = ("fen", "bog", "whin", "carr", "moss", "tarn", "holm", "brae", "ness", "rigg")
ROUNDS = 3


def lay_out(folder: Path, rows: int, values: int) -> None:
    """Write so many rows of sites, and so many values of which nine in ten name one."""
    chance = random.Random(1)
    names = [f"{chance.choice(WORDS)} {chance.choice(WORDS)} {number}" for number in range(rows)]
    with (folder / f"rows{rows}.csv").open("w", newline="") as sink:
        csv.writer(sink).writerows([("name", "code"), *((name, f"C{n}") for n, name in enumerate(names))])
    asked = [chance.choice(names).upper() if n % 10 else f"nothing {n}" for n in range(values)]
    with (folder / f"values{values}.csv").open("w", newline="") as sink:
        csv.writer(sink).writerows([("v",), *((value,) for value in asked)])


def main() -> None:
    """Run the pairs in turn and print the ratios."""
    python = sys.executable
    program = str(Path(python).with_name("fieldstick"))
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "sites.suite.toml").write_text(SUITE)
        (folder / "script.py").write_text(SCRIPT)
        for rows, values in ((100_000, 10_000), (50_000, 5_000)):
            lay_out(folder, rows, values)

        def looked(rows: int, values: int, lookup: str = "code") -> list[str]:
            source, asked = f"rows{rows}.csv", f"values{values}.csv"
            for_values = ["--for", asked, "--parameter", "name=v", "--to", "o.csv"]
            return [program, "lookup", f"sites:{lookup}", source, *for_values]

        (folder / "exact.py").write_text(EXACT)
        exactly, by_dict = [], []
        for _ in range(ROUNDS):
            exactly.append(timed(looked(100_000, 10_000, "exact"), folder))
            by_dict.append(timed([python, "exact.py", "rows100000.csv", "values10000.csv", "s.csv"], folder))
            if (folder / "o.csv").read_bytes() != (folder / "s.csv").read_bytes():
                sys.exit("lookup and the script do not find the same rows")
        print(ratio_line("a dictionary of its own against lookup of exact values", by_dict, exactly, "at least 1 x"))

        script = [python, "script.py", "rows100000.csv", "values10000.csv", "s.csv"]
        whole, half_rows, half_values, plain = [], [], [], []
        for _ in range(ROUNDS):
            whole.append(timed(looked(100_000, 10_000), folder))
            plain.append(timed(script, folder))
            if (folder / "o.csv").read_bytes() != (folder / "s.csv").read_bytes():
                sys.exit("lookup and the script do not find the same rows")
            half_rows.append(timed(looked(50_000, 10_000), folder))
            half_values.append(timed(looked(100_000, 5_000), folder))
        (folder / "turn.py").write_text(IN_TURN)
        in_turn = [timed([python, "turn.py", "rows100000.csv", "values10000.csv", "s.csv"], folder)]
        again = [timed(looked(100_000, 10_000), folder)]
        if (folder / "o.csv").read_bytes() != (folder / "s.csv").read_bytes():
            sys.exit("lookup and the script that tries each value do not find the same rows")
        print(ratio_line("`re` in turn against lookup", in_turn, again, "at least 20 x"))
        print("lookup and the script agree on 10,000 values among 100,000 rows")
        print(ratio_line("lookup against a dictionary of its own", whole, plain, "5 s at most"))
        print(ratio_line("lookup against half the rows", whole, half_rows, "at most 2 x"))
        print(ratio_line("lookup against half the values", whole, half_values, "at most 2 x"))


if __name__ == "__main__":
    main()
