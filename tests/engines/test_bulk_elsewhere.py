"""Data commands read with an engine of another language what it reads text by text, and one bad text costs no other."""

from __future__ import annotations

import csv
from typing import TYPE_CHECKING

import pytest
from engines_here import CAPTURING, usable

from fieldstick.matching.prepare import prepare
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    from conftest import Desk

SUITE = r"""
[patterns.reading]
expression = '([A-F][0-9][0-9])[^0-9]+?([0-9]+[.][0-9])'
reach = "anywhere"
take = "TAKE"
engines = ["ENGINE"]
fields.2 = { type = "decimal", most = 90 }
positive = ['B07 31.4%']
"""
LINES = ["B07 31.4%", "🐦 C12 é 7.5, A01 99.9", "nothing", "", "A01 8.0 B02 9.0", "G07 1.0", "F99 90.1"]


@pytest.mark.parametrize("take", ["first", "last", "all"])
@pytest.mark.parametrize("engine", sorted(set(CAPTURING) - {"postgres", "python"}))
def test_many_texts_are_read_as_each_is(desk: Desk, engine: str, take: str) -> None:
    usable(engine)
    file = desk.suite(SUITE.replace("ENGINE", engine).replace("TAKE", take))
    matcher = prepare(Workspace().suite(file).patterns["reading"])
    single = [matcher.read(text) for text in LINES]
    assert [repr(each) for each in matcher.read_many(LINES)] == [repr(each) for each in single]
    assert matcher.fits(LINES) == [each.fits for each in single]
    assert matcher.rows(LINES) == [matcher.rows_of(each) for each in single]
    assert [each.fits for each in single].count(True) == (3 if take == "first" else 2)


def test_commands_give_up_a_runaway_text_alone(desk: Desk) -> None:
    usable("node")
    desk.suite(
        "[patterns.runs]\nexpression = '^(?<run>(?:a|aa)+)$'\nreach = 'anywhere'\nbudget_ms = 300\n"
        "engines = ['node']\npositive = ['aa']\n"
    )
    lines = ["aa", "b", "a" * 60 + "!", "aaa", "é"] + ["aa"] * 300
    desk.write("lines.txt", "\n".join(lines) + "\n")
    run = desk.run("extract", "loggers:runs", "lines.txt", "--to", "runs.csv")
    rows = list(csv.DictReader((desk.folder / "runs.csv").read_text(encoding="utf-8").splitlines()))
    assert run.status == 1 and "1 text" in run.err, run.err
    assert rows == [{"run": each} for each in ("aa", "aaa", *["aa"] * 300)]
