"""Every output says the same of a check, whatever its texts hold."""

from __future__ import annotations

import json
import re
import xml.etree.ElementTree as ET
from pathlib import Path
from typing import TYPE_CHECKING

import jsonschema
import pytest
from msgspec.structs import replace

from conftest import plain, read_suite
from fieldstick.reporting.as_annotations import check_as_annotations
from fieldstick.reporting.as_json import check_as_data, check_as_json
from fieldstick.reporting.as_junit import check_as_junit
from fieldstick.reporting.as_sarif import check_as_sarif
from fieldstick.reporting.as_tap import check_as_tap
from fieldstick.reporting.cells import Charset
from fieldstick.reporting.check_report import check_report
from fieldstick.reporting.lines import Page, lines_of
from fieldstick.runs.judging import judge
from fieldstick.runs.results import CheckResult, SuiteResult
from fieldstick.suites.suite import Sample

if TYPE_CHECKING:
    from conftest import Desk

TEXTS = [
    "",
    "a\x00b",
    "\x1b[31mred",
    "\ud800",
    "\u202eabc",
    "a]]>&<b",
    "# \\ not ok 9",
    "漢" * 200,
    "x" * 100_000,
    "1..9\nok 1\n",
]


def result_of(desk: Desk, texts: list[str]) -> CheckResult:
    suite = read_suite(desk.suite("[patterns.p]\nexpression = '(?P<k>[a-z])?'\nreach = 'anywhere'\n"))
    path = ("patterns", "p")
    samples = tuple(Sample(kind, n, text, path) for kind in ("positive", "negative") for n, text in enumerate(texts, 1))
    pattern = replace(suite.patterns["p"], samples=samples)
    return CheckResult((SuiteResult(suite, (judge(pattern),)),))


def test_no_text_breaks_an_output(desk: Desk) -> None:
    result = result_of(desk, TEXTS)
    data = json.loads(check_as_json(result).encode("ascii"))
    samples = data["suites"][0]["patterns"][0]["samples"]
    assert [each["text"] for each in samples] == TEXTS * 2
    xml = check_as_junit(result)
    cases = list(ET.fromstring(xml.encode("utf-8")).iter("testcase"))
    assert len(cases) == 2 * len(TEXTS)
    assert sum(case.find("failure") is not None for case in cases) == len(TEXTS) == data["totals"]["fail"]
    tap = check_as_tap(result)
    points = [line for line in tap.splitlines() if line.startswith(("ok ", "not ok "))]
    assert tap.startswith(f"TAP version 14\n1..{2 * len(TEXTS)}\n") and len(points) == 2 * len(TEXTS)
    assert sum(point.startswith("not ok") for point in points) == len(TEXTS)
    assert not any(character in tap + xml for character in "\x1b\x00\u202e\ud800")
    for charset in (Charset("utf-8"), Charset("ascii")):
        for line in lines_of(check_report(result), Page(80, charset)):
            text = "".join(segment.text for segment in line)
            assert text.isprintable()
            text.encode(charset.encoding)


def test_the_json_is_as_the_format_page_says(desk: Desk) -> None:
    path = desk.suite(
        "[patterns.probe-reading]\nexpression = 'probe=(?P<plot>\\w+) m=(?P<m>\\d+\\.\\d)(?P<u>%)?(?P<at> \\d.*)?'\n"
        "[patterns.probe-reading.fields]\nm = { type = 'decimal' }\nat = { type = 'date' }\n"
        "[[patterns.probe-reading.positive]]\ntext = 'probe=B07 m=31.4'\nfields = { plot = 'B08' }\n"
    )
    suite = read_suite(path)
    result = CheckResult((SuiteResult(suite, tuple(map(judge, suite.patterns.values()))),))
    expected_sample = {
        "kind": "positive", "number": 1, "line": 8, "text": "probe=B07 m=31.4", "outcome": "fail",
        "reason": "field-differs", "place": [0, 16],
        "fields": {
            "plot": {"text": "B07", "place": [6, 9], "value": "B07"},
            "m": {"text": "31.4", "place": [12, 16], "value": "31.4"}, "u": None, "at": None,
        },
        "differences": [{"what": "field", "name": "plot", "expected": "B08", "captured": "B07"}],
        "baseline": None, "words": "the field 'plot' came out otherwise",
    }  # fmt: skip
    assert check_as_data(result) == {
        "format": 1,
        "suites": [
            {
                "suite": "loggers",
                "file": str(path),
                "patterns": [{"name": "probe-reading", "engine": "python", "samples": [expected_sample]}],
            }
        ],
        "totals": dict.fromkeys(["pass", "error", "timeout", "regressed", "changed", "mended", "new", "gone"], 0)
        | {"samples": 1, "fail": 1},
        "well": False,
        "causes": [
            {
                "kind": "place", "through": "loggers:probe-reading", "file": None, "line": None,
                "samples": [{"suite": "loggers", "pattern": "probe-reading", "kind": "positive", "number": 1}],
            }
        ],
    }  # fmt: skip


@pytest.mark.parametrize("width", [24, 80])
def test_a_person_is_told_what_why_and_what_next(desk: Desk, width: int) -> None:
    lines = plain(check_report(result_of(desk, ["ab"])), width)
    told = " ".join(" ".join(lines).split())
    for words in ("fails", "loggers:p", "negative 1", "because the pattern fits, and must not", "perhaps", "━"):
        assert words in told
    assert lines[-1] == "Of 2 samples, 1 fails: 1 pattern in 1 suite; no baseline."


SARIF = json.loads((Path(__file__).parent.parent / "data" / "sarif-2.1.0.schema.json").read_text(encoding="utf-8"))
ANNOTATION = re.compile(r"::(error|warning|notice) file=([^,:]+),line=(\d+),title=Fieldstick ([\w-]+)::[^\r\n]+")


def sarif_of(text: str) -> list[tuple[str, str, str, int | None]]:
    """Hold a text against the published schema, and return level, rule, file and line of what it says."""
    data = json.loads(text)
    jsonschema.Draft4Validator(SARIF).validate(data)
    (run,) = data["runs"]
    rules = [rule["id"] for rule in run["tool"]["driver"]["rules"]]
    found = []
    for each in run["results"]:
        assert rules[each["ruleIndex"]] == each["ruleId"]
        place = each["locations"][0]["physicalLocation"]
        line = place.get("region", {}).get("startLine")
        found.append((each["level"], each["ruleId"], place["artifactLocation"]["uri"], line))
    return found


def test_failures_hazards_and_mistakes_have_their_lines(desk: Desk) -> None:
    second = "[patterns.q]\nexpression = 'x'\npositive = ['x']\n"
    suite = "[patterns.p]\nexpression = '(?P<k>[A-z][0-9])'\npositive = ['A1', 'B']\n" + second
    path = desk.write("a b.suite.toml", f'format = 1\nsuite = "ab"\n{suite}')
    here = "a%20b.suite.toml"
    expected = [("error", "sample", here, 5), ("warning", "wide-range", here, 4)]
    run = desk.run("check", "--format", "sarif", "--report", "annotations=notes.txt")
    assert run.status == 1
    assert sorted(sarif_of(run.out)) == expected
    lines = (desk.folder / "notes.txt").read_text().splitlines()
    assert [found[2] for line in lines if (found := ANNOTATION.fullmatch(line))] == ["a b.suite.toml"] * 2
    shown = desk.run("check", "--report", "annotations=-").out
    assert shown.startswith("fails ") and sum(map(bool, map(ANNOTATION.fullmatch, shown.splitlines()))) == 2
    path.write_text(path.read_text().replace("'B'", "'B2'").replace("A-z", "A-Za-z"))
    desk.run("baseline", "--yes")
    path.write_text(
        path.read_text().replace("?P<k>", "?P<l>").replace("[patterns.q]\nexpression = 'x'\npositive = ['x']\n", "")
    )
    run = desk.run("check", "--format", "sarif")
    assert [each[:2] for each in sarif_of(run.out)] == [("error", "changed"), ("error", "changed"), ("error", "gone")]
    tolerated = desk.run("check", "--format", "annotations", "--tolerate", "changed", "--tolerate", "gone")
    assert tolerated.status == 0 and tolerated.out.count("::warning ") == 3
    path.write_text(path.read_text().replace("positive", "postive"))
    for form in ("sarif", "annotations"):
        run = desk.run("check", "--format", form)
        assert run.status == 2 and "postive" in run.err
        if form == "sarif":
            assert sarif_of(run.out) == [("error", "mistake", here, 5)]
        else:
            found = ANNOTATION.fullmatch(run.out.rstrip("\n"))
            assert found is not None and found[4] == "mistake"


def test_hazards_of_suites_are_findings_with_their_columns(desk: Desk) -> None:
    body = "[patterns.p]\nexpression = 'x[A-z]'\npositive = ['xA']\nallow = [{ hazard = 'dot' }]\n"
    desk.suite(body + "[patterns.q]\nexpression = 'y[A-z]'\nallow = [{ hazard = 'wide-range', note = 'as it is' }]\n")
    run = desk.run("hazards", "--format", "sarif")
    assert run.status == 1
    assert sorted(sarif_of(run.out)) == [
        ("note", "wide-range", "loggers.suite.toml", 8),
        ("warning", "idle-allow", "loggers.suite.toml", 6),
        ("warning", "wide-range", "loggers.suite.toml", 4),
    ]
    (result,) = [each for each in json.loads(run.out)["runs"][0]["results"] if each["level"] == "note"]
    assert result["message"]["text"].endswith("(accepted: as it is)")
    assert result["locations"][0]["physicalLocation"]["region"]["startColumn"] == len("expression = 'y[") + 1


def test_no_text_breaks_a_finding(desk: Desk) -> None:
    result = result_of(desk, TEXTS)
    assert len(sarif_of(check_as_sarif(result))) >= len(TEXTS)
    lines = check_as_annotations(result).splitlines()
    assert all(ANNOTATION.fullmatch(line) for line in lines) and len(lines) >= len(TEXTS)
