"""Random configurations of the commands that work on data, held against plain scripts: rows, values, order, status.

The scripts know the standard library alone. What they say of a text is what the format page says: the expression
matches within its reach, its fields convert and lie in their bounds, the match that is wanted is taken.
"""

from __future__ import annotations

import csv
import io
import json
import random
import re
import tempfile
from pathlib import Path
from typing import Any, NamedTuple

from hypothesis import given
from hypothesis import strategies as st

from conftest import Desk, Run

WORDS = [
    "B07", "c12", "m=31", "m=7", "x", "é", "٣", "B07 m=31 m=7", "m=99;m=7", "", " ", "a,b", 'q"q', "K", "m=31\u2028",
    "tab\t",
]  # fmt: skip
EXPRESSIONS = [
    r"(?P<plot>[A-F]\d\d)", r"m=(?P<m>\d+)", r"(?P<plot>[A-F]\d\d)?.*?m=(?P<m>\d+)", r"(\w)(\d)?", r"\d*", r"k",
    r"[a-z]+", r"(?P<m>\d+)(?P<x>;)?", r"^.", r"\s", r"(?P<m>\d)(?P<n>\d)?",
]  # fmt: skip


class Reading(NamedTuple):
    """How a pattern reads: its expression, reach, take and flags, and the bound of the field m, an integer."""

    expression: str
    reach: str
    take: str
    flags: tuple[str, ...]
    most: int | None

    def options(self) -> list[str]:
        flags = [each for flag in self.flags for each in ("--flag", flag)]
        return ["-e", self.expression, "--reach", self.reach, "--take", self.take, *flags]

    def suite(self) -> str:
        fields = f"fields.m = {{ type = 'integer', most = {self.most} }}\n" if self.most is not None else ""
        take = self.take if self.take.lstrip("-").isdigit() else f"'{self.take}'"
        return (
            f"[patterns.p]\nexpression = '{self.expression}'\nreach = '{self.reach}'\ntake = {take}\n"
            f"flags = {list(self.flags)}\n{fields}"
        )

    def taken(self, text: str) -> list[re.Match[str]] | None:
        """Return the matches that are taken, None where the pattern does not fit."""
        bits = (re.I if "ignore-case" in self.flags else 0) | (re.A if "ascii" in self.flags else 0)
        compiled = re.compile(self.expression, bits)
        if self.reach == "anywhere":
            found = list(compiled.finditer(text))
        else:
            one = compiled.fullmatch(text) if self.reach == "whole" else compiled.match(text)
            found = [one] if one else []
        if self.take == "all":
            taken = found
        else:
            at = {"first": 0, "last": -1}.get(self.take)
            at = (int(self.take) - 1 if int(self.take) > 0 else int(self.take)) if at is None else at
            taken = [found[at]] if -len(found) <= at < len(found) else []
        if not taken or not all(self.in_bounds(each) for each in taken):
            return None
        return taken

    def in_bounds(self, match: re.Match[str]) -> bool:
        text = match.groupdict().get("m")
        return self.most is None or text is None or int(text) <= self.most

    def names(self) -> list[str]:
        compiled = re.compile(self.expression)
        by_number = {number: name for name, number in compiled.groupindex.items()}
        return [by_number.get(number, str(number)) for number in range(1, compiled.groups + 1)]


@st.composite
def readings(draw: st.DrawFn) -> Reading:
    expression = draw(st.sampled_from(EXPRESSIONS))
    most = draw(st.sampled_from([None, 10, 40])) if "<m>" in expression else None
    return Reading(
        expression,
        draw(st.sampled_from(["whole", "start", "anywhere"])),
        draw(st.sampled_from(["first", "last", "all", "2", "-2"])),
        tuple(draw(st.sets(st.sampled_from(["ignore-case", "ascii"])))),
        most,
    )


class Table(NamedTuple):
    """A source: how it is stored, and the texts of the column v, beside a column n that counts."""

    kind: str
    encoding: str
    texts: list[str]
    many: bool

    def write(self, folder: Path) -> list[str]:
        """Write it, and return the options that have it read."""
        name, options = f"a.{self.kind}", ["--column", "v"]
        if self.kind == "log":
            data, options = "".join(f"{text}\n" for text in self.texts), []
        elif self.kind == "jsonl":
            data = "".join(json.dumps({"v": text, "n": n}) + "\n" for n, text in enumerate(self.texts))
        else:
            out = io.StringIO(newline="")
            writer = csv.writer(out, delimiter="\t" if self.kind == "tsv" else ";", lineterminator="\r\n")
            writer.writerows([["n", "v"], *([n, text] for n, text in enumerate(self.texts))])
            data = out.getvalue()
            options += ["--delimiter", ";"] if self.kind == "csv" else []
        (folder / name).write_bytes(data.encode(self.encoding))
        return [name, *options, "--encoding", self.encoding, *(["--jobs", "2"] if self.many else [])]


@st.composite
def tables(draw: st.DrawFn) -> Table:
    kind = draw(st.sampled_from(["log", "csv", "tsv", "jsonl"]))
    words = [each for each in WORDS if kind != "log" or "\n" not in each]
    some = draw(st.lists(st.sampled_from(words), max_size=12))
    many = draw(st.booleans()) and draw(st.booleans())
    chance = random.Random(draw(st.integers(0, 1000)))
    texts = [chance.choice(some) for _ in range(3000)] if many and some else some
    return Table(kind, draw(st.sampled_from(["utf-8", "utf-8-sig", "utf-16"])), texts, many)


class Done(NamedTuple):
    """How a command ended, and the bytes of each file that it left."""

    run: Run
    files: dict[str, bytes]


def work(reading: Reading, table: Table, *command: str, leave_out: tuple[str, ...] = ()) -> Done:
    with tempfile.TemporaryDirectory() as name:
        desk = Desk(Path(name))
        desk.suite(reading.suite(), "s")
        source, *options = table.write(desk.folder)
        options = [each for each in options if each not in leave_out]
        run = desk.run(*(each.replace("SOURCE", source) for each in command), *options)
        return Done(run, {each.name: each.read_bytes() for each in desk.folder.iterdir() if each.is_file()})


def rows_of(text: str, mark: str = ",") -> list[dict[str, str]]:
    return list(csv.DictReader(io.StringIO(text, newline=""), delimiter=mark))


@given(readings(), tables(), st.booleans(), st.sampled_from([None, "none"]))
def test_extract(reading: Reading, table: Table, with_place: bool, otherwise: str | None) -> None:
    options = ["--with-place"] * with_place + (["--otherwise", otherwise] if otherwise is not None else [])
    run = work(reading, table, "extract", "s:p", "SOURCE", *options, "--format", "jsonl").run
    names = reading.names()
    wanted: list[list[Any]] = []
    for number, text in enumerate(table.texts):
        taken = reading.taken(text)
        if taken is None and otherwise is not None:
            wanted.append([number, None, None, *([otherwise] * max(len(names), 1))])
        for match in taken or ():
            values: list[Any] = list(match.groups()) if names else [match[0]]
            for at, name in enumerate(names):
                if name == "m" and reading.most is not None and values[at] is not None:
                    values[at] = int(values[at])
            wanted.append([number, *match.span(), *values])
    found = [json.loads(line) for line in run.out.split("\n") if line]
    assert run.status == 0, run.err
    if with_place:
        first = {"csv": 2, "tsv": 2}.get(table.kind, 1)
        assert [[row["line"] - first, row["start"], row["end"]] for row in found] == [row[:3] for row in wanted]
        found = [{name: row[name] for name in names or ["match"]} for row in found]
    assert [list(row.values()) for row in found] == [row[3:] for row in wanted]
    assert all(list(row) == (names or ["match"]) for row in found)


def told_apart(table: Table, stored: bytes) -> list[Any]:
    """Return the texts of lines, or the rows of a table, that were written as the source is stored."""
    text = stored.decode(table.encoding)
    if table.kind == "log":
        return text.split("\n")[:-1]
    if table.kind == "jsonl":
        return [json.loads(line) for line in text.split("\n") if line]
    return [{"v": row["v"], "n": int(row["n"])} for row in rows_of(text, "\t" if table.kind == "tsv" else ";")]


def row(table: Table, number: int, text: str) -> Any:
    return text if table.kind == "log" else {"v": text, "n": number}


@given(readings(), tables(), st.booleans())
def test_select(reading: Reading, table: Table, unfit: bool) -> None:
    done = work(reading, table, "select", "s:p", "SOURCE", "--to", "o", *(["--not"] * unfit))
    keep = [row(table, n, text) for n, text in enumerate(table.texts) if (reading.taken(text) is None) is unfit]
    assert told_apart(table, done.files["o"]) == keep and done.run.status == 0


@given(readings(), tables())
def test_validate(reading: Reading, table: Table) -> None:
    if table.kind == "log":
        return
    judge = ("validate", "--judge", "v=s:p", "SOURCE", "--rejects", "bad.csv", "--accepted", "good.jsonl")
    done = work(reading, table, *judge, leave_out=("--column", "v"))
    rejected = [n for n, text in enumerate(table.texts) if text.strip() and reading.taken(text) is None]
    first = 1 if table.kind == "jsonl" else 2
    bad = rows_of(done.files["bad.csv"].decode())
    assert [(int(each["line"]) - first, each["value"]) for each in bad] == [(n, table.texts[n]) for n in rejected]
    encoding = table.encoding if table.kind == "jsonl" else "utf-8"
    kept = [json.loads(line) for line in done.files["good.jsonl"].decode(encoding).split("\n") if line]
    left = [(n, text) for n, text in enumerate(table.texts) if n not in set(rejected)]
    assert [(int(each["n"]), each["v"]) for each in kept] == left
    assert done.run.status == (1 if rejected else 0)


@given(readings(), tables())
def test_rewrite(reading: Reading, table: Table) -> None:
    times = "first" if reading.take == "first" else "all"
    chosen = reading._replace(take=times)
    done = work(chosen, table, "rewrite", "s:p", "--with", "<{match}>", "--times", times, "SOURCE", "--to", "o")

    def rewritten(text: str) -> str:
        made, at = "", 0
        for match in chosen.taken(text) or ():
            made += text[at : match.start()] + f"<{match[0]}>"
            at = match.end()
        return made + text[at:]

    wanted = [row(table, number, rewritten(text)) for number, text in enumerate(table.texts)]
    assert told_apart(table, done.files["o"]) == wanted and done.run.status == 0


@given(readings(), tables())
def test_route(reading: Reading, table: Table) -> None:
    with tempfile.TemporaryDirectory() as name:
        desk = Desk(Path(name))
        desk.suite(reading.suite() + "[routes.r]\norder = ['p']\notherwise = 'rest'\n", "s")
        source, *options = table.write(desk.folder)
        run = desk.run("route", "s:r", source, "--into", "k", *options)
        kinds = {each.stem: each.read_bytes() for each in (desk.folder / "k").iterdir()}
    fits = [reading.taken(text) is not None for text in table.texts]
    for kind, wanted in (("p", True), ("rest", False)):
        texts = [row(table, n, text) for n, text in enumerate(table.texts) if fits[n] is wanted]
        assert told_apart(table, kinds[kind]) == texts
    assert run.status == 0


@given(readings(), st.lists(st.sampled_from(WORDS), min_size=1, max_size=12), st.sampled_from(["first", "last", "all"]))
def test_lookup(reading: Reading, texts: list[str], take: str) -> None:
    table = Table("jsonl", "utf-8", texts, False)
    asked = ("lookup", "s:p", "SOURCE", "--give", "n", "--take", take, "--otherwise", "none", "--format", "jsonl")
    run = work(reading, table, *asked).run
    rows = [n for n, text in enumerate(texts) if reading.taken(text) is not None]
    chosen = rows if take == "all" else rows[:1] if take == "first" else rows[-1:]
    assert [json.loads(line)["n"] for line in run.out.split("\n") if line] == (chosen or ["none"])
    assert run.status == (0 if rows else 1)
