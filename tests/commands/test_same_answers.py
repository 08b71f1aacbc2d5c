"""Every command says of every text what the workspace says of it, by whatever road it reads many."""

from __future__ import annotations

import csv
import io
import json
import random
from decimal import Decimal
from typing import TYPE_CHECKING, Any

import pytest

from conftest import EXHAUSTIVE, TODAY
from fieldstick.operations.rewrite import Rewrite, prepare_rewrite
from fieldstick.operations.route import Route, prepare_route
from fieldstick.operations.split import Split, prepare_split
from fieldstick.suites.overrides import Overrides
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    from pathlib import Path

    from conftest import Desk
    from fieldstick.matching.matcher import Matcher
    from fieldstick.matching.result import Result

SUITE = r"""
[patterns.reading]
expression = '(?P<plot>[A-F]\d\d) m=(?P<m>-?\d+(?:[.,]\d+)?)'
fields.m = { type = "decimal", least = 0, most = 60, decimal_mark = "," }
[patterns.word]
expression = '(?P<w>\w+)'
reach = "anywhere"
take = "all"
[patterns.second]
expression = '(\d+)'
reach = "anywhere"
take = 2
[patterns.end]
expression = '[^\W_]\s?'
reach = "anywhere"
take = "last"
[patterns.rare]
expression = 'gate (?P<gate>\d+) jam(?P<med>med)?'
reach = "anywhere"
fields.gate = { type = "integer", most = 90 }
[patterns.site]
expression = '{{=site}} \w+ (?P<day>\S+)'
parameters = ["site"]
flags = ["ignore-case"]
reach = "start"
fields.day = { type = "date", layout = "%d.%m.%Y" }
[patterns.either]
any_of = ["reading", "rare", "second"]
[patterns.both]
all_of = ["word", "second"]
[patterns.neither]
none_of = ["reading", "second"]
[patterns.nothing]
expression = '(?P<a>x*)'
reach = "anywhere"
take = "all"
[rewrites.mask]
steps = ["number", "gate"]
samples = [{ text = "a", becomes = "a" }]
[rewrites.number]
pattern = "second"
with = "<{1}>"
[rewrites.gate]
pattern = "rare"
with = "{gate:mask but last 1} <"
[splits.words]
pattern = "end"
samples = [{ text = "", pieces = [""] }]
[routes.kind]
order = ["reading", "rare", "both", "end"]
samples = [{ text = "", kind = "unknown" }]
[lookups.of]
column = "Line"
pattern = "reading"
give = ["No"]
take = "all"
samples = [{ rows = [], gives = [] }]
"""
PATTERNS = ["reading", "word", "second", "end", "rare", "site", "either", "both", "neither", "nothing"]
SITE = ("--parameter", "site=fen")
PIECES = [
    "B07 m=31,4", "C12 m=-3", "B07 m=61", "F00 m=60", "7 8", "Fen K 4.5.2026", "fEn K 31.2.2026", "é", "ſ", "K", "İ",
    "gate 4 jam", "gate 91 jammed", "x", "xx", " ", "_", "m=", "\x1c", "\x85", "\u2028", "\t", "12", "٣", "\udc84",
]  # fmt: skip


MANY = ["many", "many in plain blocks"]


@pytest.fixture(scope="module", params=["few", *(MANY if EXHAUSTIVE else [MANY[TODAY % 2]])])
def lines(request: pytest.FixtureRequest) -> list[str]:
    """Few lines are read one by one; many in blocks, and those without separators by the quickest road.

    The two take turns by the day; `make exhaustive` reads both.
    """
    pieces = [each for each in PIECES if each != "\x1c"] if "plain" in request.param else PIECES
    chance = random.Random(8)
    count = 150 if request.param == "few" else 9000
    return ["", *("".join(chance.choices(pieces, k=chance.choice([0, 1, 1, 2, 3]))) for _ in range(count))]


@pytest.fixture
def table(desk: Desk, lines: list[str]) -> Desk:
    desk.suite(SUITE, "s")
    (desk.folder / "x.log").write_text("".join(f"{each}\n" for each in lines), "utf-8", "surrogateescape", newline="")
    return desk


def in_json(value: Any) -> Any:
    return value if value is None or isinstance(value, (str, int, Decimal)) else value.isoformat()


def matchers(desk: Desk) -> dict[str, Matcher]:
    found, home = {}, Workspace()
    for name in PATTERNS:
        values = {"site": "fen"} if name == "site" else {}
        found[name] = home.pattern(f"{desk.folder}/s.suite.toml:{name}", Overrides(parameters=values)).matcher
    return found


def rows_of(result: Result, names: tuple[str, ...]) -> list[list[Any]]:
    """Return the values of the fields, of each match; the whole match where the pattern has no group."""
    rows: list[list[Any]] = [[0, 0, *[None] * len(names)]] if result.fits and not result.matches else []
    for match in result.matches if result.fits else ():
        fields = {**{name: each for other in result.also for name, each in other.fields.items()}, **match.fields}
        values = [fields.get(name) for name in names] if fields else [None]
        if not any(fields):
            rows.append([*match.place, match.text])
        else:
            rows.append([*match.place, *(in_json(each.value) if each else None for each in values)])
    return rows


@pytest.mark.parametrize("name", PATTERNS)
def test_of_a_pattern(table: Desk, lines: list[str], name: str) -> None:
    matcher = matchers(table)[name]
    results = [matcher.read(line) for line in lines]
    asked = (f"s:{name}", "x.log", *(SITE if name == "site" else ()))
    names = matcher.row_names
    expected = [[number, *row] for number, result in enumerate(results, 1) for row in rows_of(result, names)]
    for more in ((), ("--jobs", "2")):
        run = table.run("extract", *asked, "--with-place", "--format", "jsonl", *more)
        found = [json.loads(line, parse_float=Decimal) for line in run.out.split("\n") if line]
        assert [[*each.values()][1:] for each in found] == expected
    bare = table.run("extract", *asked, "--format", "jsonl").out.split("\n")
    assert [[*json.loads(line, parse_float=Decimal).values()] for line in bare if line] == [row[3:] for row in expected]

    fitting = [line for line, result in zip(lines, results, strict=True) if result.fits]
    others = [line for line, result in zip(lines, results, strict=True) if not result.fits]
    assert fitting and others if name != "nothing" else len(fitting) == len(lines)
    assert table.run("select", *asked).out.split("\n")[:-1] == fitting
    assert table.run("select", *asked, "--not").out.split("\n")[:-1] == others

    run = table.run("validate", *asked, "--rejects", "-", "--blank", "\x01")
    rejects = [*csv.DictReader(io.StringIO(run.out, newline=""))]
    wrong = [(number, each) for number, each in enumerate(results, 1) if not each.fits and each.text.strip()]
    judged = [each for each in rejects if each["reason"] != "blank"]
    assert [(int(each["line"]), each["reason"]) for each in judged] == [
        (number, each.unfit.reason) for number, each in wrong if each.unfit
    ]


def test_of_an_operation(table: Desk, lines: list[str], tmp_path: Path) -> None:
    home, at = Workspace(), f"{table.folder}/s.suite.toml"
    rewrite = home.operation(f"{at}:mask", Rewrite, "rewrites")
    split = home.operation(f"{at}:words", Split, "splits")
    route = home.operation(f"{at}:kind", Route, "routes")
    assert rewrite and split and route
    rewriter, splitter, router = prepare_rewrite(rewrite), prepare_split(split), prepare_route(route)

    changed = [rewriter.rewritten(line).after for line in lines]
    assert changed != lines and table.run("rewrite", "s:mask", "x.log", "--to", "-").out.split("\n")[:-1] == changed

    run = table.run("split", "s:words", "x.log", "--format", "jsonl")
    pieces = [[*json.loads(line).values()][1:] for line in run.out.split("\n") if line]
    assert pieces == [
        [number, place, piece]
        for number, line in enumerate(lines, 1)
        for place, piece in enumerate(splitter.pieces(line), 1)
    ]

    kinds = [router.kind(line) for line in lines]
    table.run("route", "s:kind", "x.log", "--into", "sorted")
    for kind in router.kinds:
        there = (table.folder / "sorted" / f"{kind}.log").read_text("utf-8", "surrogateescape")
        assert there.split("\n")[:-1] == [line for line, own in zip(lines, kinds, strict=True) if own == kind]
    assert json.loads(table.run("route", "s:kind", "x.log", "--format", "json").out)["kinds"] == {
        kind: kinds.count(kind) for kind in router.kinds
    }


def test_of_a_lookup(table: Desk, lines: list[str]) -> None:
    reading = matchers(table)["reading"]
    with (table.folder / "x.csv").open("w", encoding="utf-8", errors="surrogateescape", newline="") as stream:
        csv.writer(stream).writerows([("Line", "No"), *zip(lines, map(str, range(len(lines))), strict=True)])
    wanted = [str(number) for number, line in enumerate(lines) if reading.read(line).fits]
    assert wanted and table.run("lookup", "s:of", "x.csv").out.split() == ["No", *wanted]
    assert table.run("lookup", "s:of", "x.csv", "--take", "last").out.split() == ["No", wanted[-1]]
