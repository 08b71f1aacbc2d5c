"""Samples of uses are judged, reported and held against baselines like those of patterns."""

from __future__ import annotations

import json
import xml.etree.ElementTree as ET
from typing import TYPE_CHECKING

import pytest

if TYPE_CHECKING:
    from conftest import Desk

BODY = r"""
[patterns.plot]
expression = '(?P<row>[A-F])(?P<number>\d{2})'
reach = "anywhere"
positive = ['B07']
[patterns.slow]
expression = '(?:a|aa)+b'
budget_ms = 30
positive = ['ab']
[patterns.name]
expression = '{{=name}}.*'
parameters = ["name"]
flags = ["ignore-case"]
positive = [{ text = "Fen + Carr", with = { name = "fen +" } }]
[rewrites.mask]
pattern = "plot"
with = "{row}**"
[[rewrites.mask.samples]]
text = "at B07, C12"
becomes = "at B**, C**"
[[rewrites.mask.samples]]
text = "nowhere"
becomes = "nowhere"
[splits.list]
at = '[;,]\s*'
drop_empty = true
samples = [{ text = "vole; shrew;", pieces = ["vole", "shrew"] }]
[routes.kind]
order = ["plot", "slow"]
samples = [{ text = "B07", kind = "plot" }, { text = "x", kind = "unknown" }]
[lookups.code]
column = "Site"
pattern = "name"
give = ["Code"]
otherwise = "unlisted"
[[lookups.code.samples]]
rows = [{ Site = "Fen + Carr", Code = "S01" }, { Site = "Fen", Code = "S02" }]
with = { name = "fen +" }
gives = "S01"
[[lookups.code.samples]]
rows = [{ Site = "Fen", Code = "S02" }]
with = { name = "cold" }
gives = "unlisted"
[forms.visit]
columns = { Plot = "plot", Site = "slow" }
required = ["Plot"]
samples = [{ row = { Plot = "B07" } }, { row = { Site = "x" }, rejects = ["Plot", "Site"] }]
"""
SLIPS = {
    'becomes = "at B**, C**"': 'becomes = "at B**, C12"',
    'pieces = ["vole", "shrew"]': 'pieces = ["vole"]',
    'kind = "unknown"': 'kind = "slow"',
    'gives = "S01"': 'gives = "S02"',
    'rejects = ["Plot", "Site"]': 'rejects = ["Plot"]',
}


@pytest.fixture
def checked(desk: Desk) -> Desk:
    desk.suite(BODY)
    assert desk.run("baseline", "--yes").status == 0
    return desk


def test_all_pass_and_are_counted(checked: Desk) -> None:
    run = checked.run("check")
    assert run.status == 0
    assert (
        "All 12 samples pass: 3 patterns and 5 operations in 1 suite; against the baseline nothing changed; 1 hazard"
        in run.out
    )
    assert run.out.splitlines()[0].split() == ["suite", "patterns", "operations", "samples", "pass"]


@pytest.mark.parametrize("right", SLIPS)
def test_what_comes_out_otherwise_fails_with_both_drawn(checked: Desk, right: str) -> None:
    checked.suite(BODY.replace(right, SLIPS[right]))
    run = checked.run("check")
    assert run.status == 1 and "1 fails" in run.out
    words = {
        "becomes": ["loggers:rewrites.mask  sample 1", "becomes = 'at B**, C12'", "becomes = 'at B**, C**'"],
        "pieces": ["loggers:splits.list", "piece 2 = nothing more", "piece 2 = 'shrew'"],
        "kind": ["loggers:routes.kind  sample 2", "kind = 'slow'", "kind = 'unknown'"],
        "gives": ["loggers:lookups.code", "answer 1 Code = 'S02'", "answer 1 Code = 'S01'"],
        "rejects": [
            "loggers:forms.visit  sample 2",
            "column Site = 'accepted'",
            "column Site = 'rejected: did-not-match'",
        ],
    }[right.partition(" ")[0]]
    assert all(each in run.out for each in words), run.out


def test_a_change_of_the_pattern_shows_as_regressed_in_its_uses(checked: Desk) -> None:
    checked.suite(BODY.replace(r"\d{2})'", r"[1-9]{2})'"))
    data = json.loads(checked.run("check", "--format", "json").out)["suites"][0]
    assert data["rewrites"][0]["name"] == "mask"
    sample = data["rewrites"][0]["samples"][0]
    assert (sample["outcome"], sample["reason"], sample["made"]) == ("fail", "becomes-differs", "at B07, C**")
    assert sample["baseline"] == "regressed" and sample["kind"] == "sample" and sample["number"] == 1
    assert [each["name"] for each in data["patterns"]] == ["plot", "slow", "name"]
    assert data["forms"][0]["samples"][0]["made"] == {"Plot": "did-not-match"}


def test_what_a_passing_sample_makes_otherwise_is_a_change(checked: Desk) -> None:
    typed = "expression = '(?P<x>x|ab)'\nfields.x = { type = \"integer\" }"
    checked.suite(BODY.replace("expression = '(?:a|aa)+b'", typed))
    run = checked.run("check", "--only", "loggers:forms.visit")
    assert run.status == 1 and "changed    loggers:forms.visit  sample 2" in run.out
    assert 'made = {"Plot": "blank", "Site": "did-not-match"}' in run.out
    assert 'made = {"Plot": "blank", "Site": "field-invalid"}' in run.out


def test_every_report_holds_them(checked: Desk) -> None:
    checked.suite(BODY.replace('kind = "unknown"', 'kind = "slow"'))
    checked.run("check", "--report", "junit=c.xml", "--report", "tap=c.tap")
    root = ET.parse(checked.folder / "c.xml").getroot()
    suites = {each.get("name"): each for each in root}
    assert suites["loggers:routes.kind"].get("failures") == "1" and suites["loggers:forms.visit"].get("tests") == "2"
    tap = (checked.folder / "c.tap").read_text()
    assert "1..12" in tap and tap.count("not ok") == 1 and 'reason: "kind-differs"' in tap


def test_a_use_whose_text_spends_its_budget_times_out_and_the_next_runs(desk: Desk) -> None:
    body = BODY.replace('{ text = "x", kind = "unknown" }', '{ text = "' + "a" * 60 + '", kind = "unknown" }')
    desk.suite(body)
    run = desk.run("check")
    assert run.status == 1 and "timed out" in run.out and "Of 12 samples, 1 timed out" in run.out


def test_one_use_is_checked_alone_and_tags_choose(checked: Desk) -> None:
    checked.suite(BODY.replace("[splits.list]", '[splits.list]\ntags = ["cut"]'))
    assert "All 2 samples pass" in checked.run("check", "--only", "loggers:rewrites.mask").out
    assert "The 1 sample passes" in checked.run("check", "--tag", "cut").out
    wrong = checked.run("check", "--only", "loggers:rewrites.msk")
    assert wrong.status == 2 and "the nearest is 'rewrites.mask'" in wrong.err


def test_processes_judge_them_too(checked: Desk) -> None:
    one, two = checked.run("check", "--format", "json"), checked.run("check", "--format", "json", "--jobs", "2")
    assert json.loads(one.out) == json.loads(two.out)


def test_a_broken_expression_makes_the_samples_of_its_uses_errors(desk: Desk) -> None:
    desk.suite(BODY.replace(r"(?P<row>[A-F])", r"(?P<row>[A-F]"))
    run = desk.run("check")
    assert run.status == 1 and "cause      7 samples of 1 pattern and 3 operations" in run.out
    assert "error      loggers:rewrites.mask  all 2 samples" in run.out
    alone = desk.run("check", "--only", "loggers:rewrites.mask")
    assert "mend the expression of the pattern that it works with" in alone.out
