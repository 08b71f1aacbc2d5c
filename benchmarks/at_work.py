"""Times the commands at work, whole processes with start-up, against what somebody would write instead.

Every pair runs in turn and must come to the same bytes; the median of the ratios is printed. The data is generated:
logs of which half, 2 % and 98 % fit, a log beyond ASCII, tables, JSON Lines. Run with `make bench`; `--only WORD` runs
the works whose name holds a word, `--bytes N` takes other sizes.
"""

from __future__ import annotations

import argparse
import filecmp
import json
import os
import random
import shutil
import sys
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from check import ratio_line, timed

if TYPE_CHECKING:
    from collections.abc import Callable

FIELDSTICK = str(Path(sys.executable).with_name("fieldstick"))
STAMP = r"\d{4}-\d{2}-\d{2}T\d{2}:\d{2}:\d{2}Z"
READING = (
    rf"(?P<at>{STAMP}) probe=(?P<plot>[A-F]\d{{2}}) moisture=(?P<moisture>\d+\.\d)% "
    r"soil=(?P<soil>-?\d+\.\d)C battery=(?P<battery>\d\.\d{2})V by=(?P<by>\w+)"
)
NOTED = r"(?P<at>\S+ \S+) (?P<level>[A-Z]+) \[(?P<unit>\w+)-(?P<n>\d+)\] (?P<what>reading|wrote|retry) (?P<rest>.*)"
LAZY = r"(?P<at>.*?) probe=(?P<plot>.*?) moisture=(?P<moisture>.*?)% soil=(?P<soil>.*?)C .*? by=(?P<by>.*?)"
BYTES, ROWS = 50_000_000, 500_000
NAMES = ("fen", "carr", "whin", "moss", "tarn", "holm")
BEYOND = ("bjørk", "fjäll", "νερό", "сосна", "müre", "brae")


def stamp(number: int) -> str:
    """Return the time of a reading."""
    day, rest = divmod(number * 7, 86_400)
    return f"2026-05-{day % 28 + 1:02}T{rest // 3600:02}:{rest // 60 % 60:02}:{rest % 60:02}Z"


def reading(chance: random.Random, number: int, names: tuple[str, ...]) -> str:
    """Return a line that fits."""
    plot, who = f"{chance.choice('ABCDEF')}{chance.randrange(10, 40)}", chance.choice(names)
    values = f"moisture={chance.randrange(999) / 10}% soil={chance.randrange(-90, 200) / 10}C"
    return f"{stamp(number)} probe={plot} {values} battery={chance.randrange(200, 420) / 100:.2f}V by={who}"


def other(chance: random.Random, number: int, names: tuple[str, ...]) -> str:
    """Return a line that does not fit."""
    kind = chance.randrange(3)
    if kind == 0:
        return f"{stamp(number)} gate=north pass=LM-{chance.randrange(1000, 9999)} out by {chance.choice(names)}"
    if kind == 1:
        trap = f"{chance.choice('ABC')}{chance.randrange(9)}"
        return f'{stamp(number)} trap={trap} frame={number:06} "raven" lux={chance.randrange(90)}'
    return reading(chance, number, names).replace("soil", "air")


def log(path: Path, size: int, share: float, names: tuple[str, ...] = NAMES) -> None:
    """Write a log of which a share of the lines fits."""
    chance = random.Random(5)
    lines = [(reading if chance.random() < share else other)(chance, number, names) + "\n" for number in range(60_000)]
    block = "".join(lines).encode()
    with path.open("wb") as sink:
        for _ in range(size // len(block) + 1):
            sink.write(block)


def kinds(count: int) -> dict[str, str]:
    """Return expressions of so many kinds of lines."""
    made = {}
    for number in range(count):
        made[f"kind-{number}"] = rf"{STAMP} k{number}=[A-F]\d{{2}} (?:moisture|lux)=\d+\.\d%?(?: by \w+)?"
    return made


def kinds_log(path: Path, size: int) -> None:
    """Write a log of lines of 48 kinds and some of none."""
    chance = random.Random(6)
    lines = []
    for number in range(60_000):
        unit = chance.choice(["moisture=31.4%", "lux=12.0", "moisture=7.5% by fen", "lux=oops"])
        lines.append(
            f"{stamp(number)} k{chance.randrange(48)}={chance.choice('ABCDEF')}{chance.randrange(10, 40)} {unit}\n"
        )
    block = "".join(lines).encode()
    with path.open("wb") as sink:
        for _ in range(size // len(block) + 1):
            sink.write(block)


WORDS = (
    *("fen", "carr", "whin", "moss", "tarn", "holm", "beck", "scar", "heath", "drystone", "lapwing", "snow"),
    *("gauge", "relay", "store", "radio", "gate", "Frost", "Ptarmigan", "Ringing", "upland", "permit", "specimen"),
    *("of", "the", "in", "at", "to", "was", "read", "after", "before", "nobody", "everything", "between", "again"),
)
UNITS = ("probe", "trap", "gate", "sync", "store", "radio", "mast", "relay")


def note(chance: random.Random, number: int) -> str:
    """Return a line of a log in which hardly any is like another, letter by letter and digit by digit."""

    def words(least: int, most: int) -> str:
        return " ".join(chance.choices(WORDS, k=chance.randint(least, most)))

    def path() -> str:
        return f"/{'/'.join(chance.choices(WORDS, k=chance.randint(2, 5)))}.{chance.choice(['log', 'dat', 'csv'])}"

    said = chance.choice(
        [
            lambda: f"reading {chance.randrange(99_999)} of {chance.choice(WORDS)} took {chance.random() * 900:.2f} ms",
            lambda: f"wrote {path()} ({chance.randrange(1, 10**7)} bytes)",
            lambda: f"cannot open {path()}: {words(3, 3)}",
            lambda: words(4, 12),
            lambda: f"session {chance.getrandbits(64):x} opened by {chance.choice(WORDS)}",
            lambda: f"battery {chance.random() * 5:.2f} V, {chance.choice(['ok', 'low', 'charging'])}",
            lambda: f"retry {chance.randint(1, 5)} of 5 in {chance.randrange(1, 900)} s",
            lambda: f'note "{words(2, 6)}"',
            lambda: f"moved {chance.randrange(2, 30)} files from {path()} to {path()}",
            lambda: f"{chance.choice(WORDS)}: {words(2, 2)}: {chance.randrange(255)}",
        ]
    )()
    level = chance.choice(["INFO", "WARN", "ERROR", "DEBUG"])
    at = f"{stamp(number)[:-1].replace('T', ' ')},{chance.randrange(999):03}"
    return f"{at} {level} [{chance.choice(UNITS)}-{chance.randrange(1, 40)}] {said}\n"


def notes(path: Path, size: int) -> None:
    """Write such a log; no line of it is written twice."""
    chance = random.Random(8)
    with path.open("w", encoding="utf-8") as sink:
        number = 0
        while sink.tell() < size:
            sink.write("".join(note(chance, each) for each in range(number, number + 5_000)))
            number += 5_000


COLUMNS = {
    "ring": r"LM-\d{5}",
    "species": r"[a-z]+(?: [a-z]+)?",
    "plot": r"[A-F]\d{2}",
    "wing": r"\d{2,3}(?:\.\d)?",
    "weight": r"\d{1,3}\.\d",
    "age": r"[1-6]J?",
    "at": STAMP,
    "note": r"[^|]*",
}


def table(path: Path, rows: int) -> None:
    """Write a table of eight columns; one row in fifty has a cell that does not fit."""
    chance = random.Random(7)
    with path.open("w", newline="", encoding="utf-8") as sink:
        sink.write(",".join(COLUMNS) + "\n")
        for number in range(rows):
            plot = f"{chance.choice('ABCDEF')}{chance.randrange(10, 40)}" if chance.random() < 0.98 else "Z9"
            note = chance.choice(
                ['"seen, then gone"', "", "calm", 'said ""tik""'.join('""') if number % 90 == 0 else "wet"]
            )
            sink.write(
                f"LM-{number % 100_000:05},{chance.choice(NAMES)} bird,{plot},{chance.randrange(500, 900) / 10},"
                f"{chance.randrange(80, 900) / 10},{chance.randrange(1, 7)},{stamp(number)},{note}\n"
            )


def json_lines(path: Path, source: Path) -> None:
    """Write each line of a log as an object."""
    with source.open(encoding="utf-8") as lines, path.open("w", encoding="utf-8") as sink:
        for number, line in enumerate(lines):
            record = {"n": number, "host": "station", "message": line.rstrip("\n"), "level": "info"}
            sink.write(json.dumps(record) + "\n")


HEAD = "import csv, re\nopened = dict(encoding='utf-8', errors='surrogateescape')\n"
EXTRACT = (
    HEAD
    + """
compiled = re.compile({expression!r})
with open({log!r}, **opened) as lines, open("script.csv", "w", newline="", **opened) as out:
    writer = csv.writer(out, lineterminator="\\n")
    writer.writerow(compiled.groupindex)
    for line in lines:
        found = compiled.fullmatch(line.rstrip("\\n"))
        if found:
            writer.writerow(found.groups())
"""
)
POLARS = """
import polars
polars.scan_csv({log!r}, separator="\\x01", has_header=False, new_columns=["line"], quote_char=None).select(
    polars.col("line").str.extract_groups({expression!r})
).unnest("line").filter(polars.col("at").is_not_null()).sink_csv("script.csv")
"""
TYPED = """
import re, datetime, decimal
import pyarrow, pyarrow.parquet
compiled = re.compile({expression!r})
rows = []
schema = pyarrow.schema([("at", pyarrow.timestamp("us", "UTC")), ("plot", pyarrow.string()),
    ("moisture", pyarrow.decimal128(3, 1)), ("soil", pyarrow.decimal128(3, 1)), ("battery", pyarrow.string()),
    ("by", pyarrow.string())])
with open({log!r}) as lines, pyarrow.parquet.ParquetWriter("script.parquet", schema) as writer:
    def flush():
        columns = zip(*rows)
        writer.write_table(pyarrow.table([pyarrow.array(c, f.type) for c, f in zip(columns, schema)], schema=schema))
        rows.clear()
    for line in lines:
        found = compiled.fullmatch(line.rstrip("\\n"))
        if found:
            at, plot, moisture, soil, battery, by = found.groups()
            moisture, soil = decimal.Decimal(moisture), decimal.Decimal(soil)
            if moisture <= 90 and -5 <= soil <= 30:
                rows.append((datetime.datetime.fromisoformat(at), plot, moisture, soil, battery, by))
                if len(rows) >= 100_000:
                    flush()
    flush()
"""
ROUTE = (
    HEAD
    + """
import os
kinds = {{name: re.compile(text) for name, text in {kinds!r}.items()}}
os.makedirs("script", exist_ok=True)
files = {{name: open(f"script/{{name}}.log", "w", **opened) for name in [*kinds, "unknown"]}}
with open({log!r}, **opened) as lines:
    for line in lines:
        text = line.rstrip("\\n")
        for name, compiled in kinds.items():
            if compiled.fullmatch(text):
                files[name].write(line)
                break
        else:
            files["unknown"].write(line)
"""
)
VALIDATE = (
    HEAD
    + """
columns = {{name: re.compile(text) for name, text in {columns!r}.items()}}
with open("table.csv", newline="", **opened) as rows, open("script.csv", "w", newline="", **opened) as out:
    reader = csv.reader(rows)
    names = next(reader)
    writer = csv.writer(out, lineterminator="\\n")
    writer.writerow(names)
    compiled = [columns[name] for name in names]
    for row in reader:
        if all(each.fullmatch(cell) or not cell.strip() for each, cell in zip(compiled, row)):
            writer.writerow(row)
"""
)
SELECT = (
    HEAD
    + """
compiled = re.compile({expression!r})
with open({log!r}, **opened) as lines, open("script.out", "w", **opened) as out:
    for line in lines:
        if {sense}compiled.fullmatch(line.rstrip("\\n")):
            out.write(line)
"""
)
REWRITE = (
    HEAD
    + """
compiled = re.compile(r"by=(\\w+)")
with open({log!r}, **opened) as lines, open("script.out", "w", **opened) as out:
    for line in lines:
        out.write(compiled.sub(r"by=[\\1]", line))
"""
)
SPLIT = (
    HEAD
    + """
compiled = re.compile(r"[ =]+")
with open({log!r}, **opened) as lines, open("script.csv", "w", newline="", **opened) as out:
    writer = csv.writer(out, lineterminator="\\n")
    writer.writerow(["source", "line", "number", "piece"])
    for number, line in enumerate(lines, 1):
        for place, piece in enumerate(compiled.split(line.rstrip("\\n")), 1):
            writer.writerow([{log!r}, number, place, piece])
"""
)
COLUMN = (
    HEAD
    + """
compiled = re.compile(r"(?P<day>[\\d-]+)T(?P<time>[\\d:]+)Z")
with open("table.csv", newline="", **opened) as rows, open("script.csv", "w", newline="", **opened) as out:
    writer = csv.writer(out, lineterminator="\\n")
    writer.writerow(compiled.groupindex)
    for row in csv.DictReader(rows):
        found = compiled.fullmatch(row["at"])
        if found:
            writer.writerow(found.groups())
"""
)
KEY = (
    HEAD
    + """
import json
compiled = re.compile({expression!r})
with open("log.jsonl", **opened) as lines, open("script.csv", "w", newline="", **opened) as out:
    writer = csv.writer(out, lineterminator="\\n")
    writer.writerow(compiled.groupindex)
    for line in lines:
        found = compiled.fullmatch(json.loads(line)["message"])
        if found:
            writer.writerow(found.groups())
"""
)
SURVEY = """
from collections import Counter
from string import ascii_lowercase, ascii_uppercase, digits
shape = str.maketrans({**dict.fromkeys(ascii_lowercase, "a"), **dict.fromkeys(ascii_uppercase, "A"),
                       **dict.fromkeys(digits, "9")})
with open("half.log", encoding="utf-8", errors="surrogateescape") as lines:
    shapes = Counter(line.rstrip("\\n").translate(shape) for line in lines)
for text, count in shapes.most_common(20):
    print(count, text)
"""

SURVEY_OF_COLUMNS = """
import csv
from collections import Counter
from string import ascii_lowercase, ascii_uppercase, digits
shape = str.maketrans({**dict.fromkeys(ascii_lowercase, "a"), **dict.fromkeys(ascii_uppercase, "A"),
                       **dict.fromkeys(digits, "9")})
with open("table.csv", encoding="utf-8", newline="") as lines:
    rows = csv.reader(lines)
    head = next(rows)
    shapes, values = [Counter() for _ in head], [set() for _ in head]
    for row in rows:
        for cell, kinds, different in zip(row, shapes, values):
            kinds[cell.translate(shape)] += 1
            different.add(cell)
for name, kinds, different in zip(head, shapes, values):
    print(name, len(different), kinds.most_common(5))
"""


class Work(NamedTuple):
    """One pair: what it is, the two commands, the files that must be the same, and the ratio that is wanted."""

    name: str
    script: list[str]
    own: list[str]
    same: tuple[tuple[str, str], ...]
    wanted: str


def script(text: str) -> list[str]:
    """Return the command that runs a script."""
    return [sys.executable, "-c", text]


def extracting(name: str, log_name: str, expression: str, wanted: str) -> Work:
    """Return the extraction of a log to CSV, against a plain script."""
    plain = script(EXTRACT.format(expression=expression, log=log_name))
    own = [FIELDSTICK, "extract", "-e", expression, log_name, "--to", "own.csv"]
    return Work(name, plain, own, (("own.csv", "script.csv"),), wanted)


def works() -> list[Work]:
    """Return all pairs."""
    found = [
        extracting("extract, half fit", "half.log", READING, "≥ 4"),
        extracting("extract, 98 % fit", "most.log", READING, "≥ 5"),
        extracting("extract, 2 % fit", "few.log", READING, "≥ 1.7"),
        extracting("extract, beyond ASCII", "beyond.log", READING, "≥ 3.5"),
        extracting("extract, spelled with .*?", "half.log", LAZY, "nothing stated"),
    ]
    own = found[0].own
    polars = script(POLARS.format(expression=READING, log="half.log"))
    found.append(Work("extract, half fit, against Polars", polars, own, (("own.csv", "script.csv"),), "≥ 2"))
    typed = script(TYPED.format(expression=READING, log="half.log"))
    found.append(
        Work("extract, three typed fields to Parquet", typed,
             [FIELDSTICK, "extract", "bench:reading", "half.log", "--to", "own.parquet"], (), "≥ 6")
    )  # fmt: skip
    for count, wanted in ((12, "≥ 12"), (48, "≥ 25")):
        text = ROUTE.format(kinds=kinds(count), log="kinds.log")
        same = tuple((f"own-{count}/{name}.log", f"script/{name}.log") for name in (*kinds(count), "unknown"))
        own = [FIELDSTICK, "route", f"bench:route-{count}", "kinds.log", "--into", f"own-{count}"]
        found.append(Work(f"route of {count}", script(text), own, same, wanted))
    one = [FIELDSTICK, "route", "bench:route-1", "kinds.log", "--into", "own-1"]
    found.append(Work("route of 1 beside route of 48", one, found[-1].own, (), "≥ 0.4"))
    judged = [each for name in COLUMNS for each in ("--judge", f"{name}=bench:{name}")]
    found.append(
        Work("validate, 8 columns", script(VALIDATE.format(columns=COLUMNS)),
             [FIELDSTICK, "validate", *judged, "table.csv", "--accepted", "own.csv"], (), "≥ 3")
    )  # fmt: skip
    for name, sense, flags in (("select", "", []), ("select --not", "not ", ["--not"])):
        for log_name, kind in {"half.log": "", "most.log": ", 98 % fit", "few.log": ", 2 % fit"}.items():
            text = SELECT.format(expression=READING, log=log_name, sense=sense)
            own = [FIELDSTICK, "select", *flags, "-e", READING, log_name, "--to", "own.out"]
            found.append(Work(f"{name}{kind}", script(text), own, (("own.out", "script.out"),), "≥ 4"))
            # What stands beyond ASCII is no word to it, so that it comes to other lines there.
            grep = ["sh", "-c", f"grep -aP {'-v ' if flags else ''}-x '{READING}' {log_name} > script.out"]
            found.append(Work(f"{name}{kind}, against grep -P", grep, own, (("own.out", "script.out"),), "≥ 1"))
    own = [FIELDSTICK, "rewrite", "-e", r"by=(?P<who>\w+)", "--reach", "anywhere", "--with", "by=[{who}]"]
    found.append(
        Work("rewrite to a file", script(REWRITE.format(log="most.log")), [*own, "most.log", "--to", "own.out"],
             (("own.out", "script.out"),), "≥ 3")
    )  # fmt: skip
    own = [FIELDSTICK, "split", "-e", "[ =]+", "half.log", "--to", "own.csv"]
    found.append(Work("split to CSV", script(SPLIT.format(log="half.log")), own, (("own.csv", "script.csv"),), "≥ 3"))
    own = [
        FIELDSTICK,
        "extract",
        "-e",
        r"(?P<day>[\d-]+)T(?P<time>[\d:]+)Z",
        "--column",
        "at",
        "table.csv",
        "--to",
        "own.csv",
    ]
    found.append(Work("extract from a column", script(COLUMN), own, (("own.csv", "script.csv"),), "≥ 3"))
    own = [FIELDSTICK, "extract", "-e", READING, "--column", "message", "log.jsonl", "--to", "own.csv"]
    found.append(
        Work("extract from a key", script(KEY.format(expression=READING)), own, (("own.csv", "script.csv"),), "≥ 2")
    )
    selecting = [FIELDSTICK, "select", "-e", READING, "half.log", "--to", "script.out"]
    found.append(Work("survey", script(SURVEY), [FIELDSTICK, "survey", "half.log"], (), "≥ 3"))
    found.append(Work("survey against select", selecting, [FIELDSTICK, "survey", "half.log"], (), "≥ 1"))
    beyond = SURVEY.replace("half.log", "beyond.log")
    found.append(Work("survey beyond ASCII", script(beyond), [FIELDSTICK, "survey", "beyond.log"], (), "≥ 3"))
    varied = SURVEY.replace("half.log", "notes.log")
    found.append(Work("survey, lines that vary", script(varied), [FIELDSTICK, "survey", "notes.log"], (), "≥ 3"))
    for name, command, more in (
        ("rejects of extract, lines that vary", ["extract", "--to", "script.csv"], ["--rejects", "own.csv"]),
        ("misses of try, lines that vary", ["try"], ["--missed"]),
        ("select --not, lines that vary", ["select", "--not"], ["--why"]),
    ):
        plainly = [FIELDSTICK, *command, "-e", NOTED, "notes.log"]
        found.append(Work(f"{name}: without reasons, and with", plainly, [*plainly, *more], (), "nothing stated"))
    own = [FIELDSTICK, "survey", "table.csv"]
    found.append(Work("survey of 8 columns", script(SURVEY_OF_COLUMNS), own, (), "nothing stated"))
    return found


def lay_out(folder: Path, size: int, rows: int) -> dict[str, Callable[[], None]]:
    """Return what makes each file, by its name."""

    def suite() -> None:
        def pattern(name: str, text: str, more: str = "") -> str:
            return f"[patterns.{name}]\nexpression = '''{text}'''\npositive = []\n{more}"

        fields = 'fields.at = { type = "timestamp" }\nfields.moisture = { type = "decimal", most = 90 }\n'
        fields += 'fields.soil = { type = "decimal", least = -5, most = 30 }\n'
        text = 'format = 1\nsuite = "bench"\n' + pattern("reading", READING, fields)
        text += "".join(pattern(name, each) for name, each in {**COLUMNS, **kinds(48)}.items())
        for count in (1, 12, 48):
            order = ", ".join(f'"{name}"' for name in kinds(count))
            text += f"[routes.route-{count}]\norder = [{order}]\n"
        (folder / "bench.suite.toml").write_text(text, encoding="utf-8")

    return {
        "bench.suite.toml": suite,
        "half.log": lambda: log(folder / "half.log", size, 0.5),
        "most.log": lambda: log(folder / "most.log", size, 0.98),
        "few.log": lambda: log(folder / "few.log", size, 0.02),
        "beyond.log": lambda: log(folder / "beyond.log", size, 0.5, BEYOND),
        "kinds.log": lambda: kinds_log(folder / "kinds.log", size),
        "notes.log": lambda: notes(folder / "notes.log", size),
        "table.csv": lambda: table(folder / "table.csv", rows),
        "log.jsonl": lambda: json_lines(folder / "log.jsonl", folder / "half.log"),
    }


def clear(folder: Path, side: str) -> None:
    """Remove what a side wrote: to let go of an old file takes the disk as long for both, and is none of theirs."""
    for each in folder.glob(f"{side}*"):
        shutil.rmtree(each) if each.is_dir() else each.unlink()


def main() -> None:
    """Run the pairs in turn, make sure that both sides agree, and print the ratios."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rounds", type=int, default=5)
    parser.add_argument("--only", default="", help="run the works whose name holds this")
    parser.add_argument("--bytes", type=int, default=BYTES)
    parser.add_argument("--folder", type=Path, help="keep the data here, and use what is there")
    asked = parser.parse_args()
    with tempfile.TemporaryDirectory() as name:
        folder = asked.folder or Path(name)
        folder.mkdir(exist_ok=True)
        os.environ.setdefault("XDG_CACHE_HOME", str(folder / "cache"))
        os.environ["PYTHONDONTWRITEBYTECODE"] = ""
        chosen = [work for work in works() if asked.only in work.name]
        words = "\n".join([word for work in chosen for word in (*work.script, *work.own)])
        words += "half.log" if "log.jsonl" in words else ""
        for file, make in lay_out(folder, asked.bytes, ROWS * asked.bytes // BYTES).items():
            if not (folder / file).exists() and file.replace(".suite.toml", ":") in words:
                make()
        for work in chosen:
            timed(work.own, folder)  # What is kept between runs is there from the second one on.
            theirs, own = [], []
            for _ in range(asked.rounds):
                clear(folder, "script")
                theirs.append(timed(work.script, folder))
                clear(folder, "own")
                own.append(timed(work.own, folder))
            unlike = [one for one, two in work.same if not filecmp.cmp(folder / one, folder / two, shallow=False)]
            if unlike:
                sys.exit(f"{work.name}: the sides do not agree: {unlike}")
            seconds = f"{min(theirs):.2f} s / {min(own):.2f} s"
            print(f"{ratio_line(work.name, theirs, own, work.wanted)}; {seconds}", flush=True)


if __name__ == "__main__":
    main()
