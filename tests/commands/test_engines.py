"""Patterns on the engines where they will run: check, its table of differences, and what is said of each engine."""

from __future__ import annotations

import json
import re
import xml.etree.ElementTree as ET
from typing import TYPE_CHECKING, Any

import pytest
from msgspec.structs import replace

from fieldstick.comparing import engine_proofs
from fieldstick.engines.registry import ENGINES, why_unusable

if TYPE_CHECKING:
    from conftest import Desk

pytestmark = pytest.mark.skipif(
    why_unusable("pcre2") is not None or why_unusable("ecmascript") is not None,
    reason="pcre2 or ecmascript: not usable",
)

PERMITS = r"""
[patterns.code]
about = "A permit's code"
expression = 'P\d{2}$'
reach = "anywhere"
engines = ["python", "pcre2", "ecmascript"]
positive = ['see P07']
negative = ['P7', { text = "P٧٧", note = "digits of ASCII alone" }]

[patterns.plot]
expression = '(?P<plot>[A-F]\d{2})'
flags = ["ascii"]
[[patterns.plot.positive]]
text = 'B07'
fields = { plot = "B07" }
"""


def test_a_pattern_is_judged_on_every_engine_that_it_names(desk: Desk) -> None:
    desk.suite(PERMITS, "permits")
    run = desk.run("check", "--only", "permits:code")
    assert run.status == 1
    # The digits of another alphabet pass in Python alone: one engine lets a bad value through, two do not.
    assert "differ     permits:code  negative 2" in run.out
    assert "python: fits, and must not" in run.out and "pcre2 and ecmascript: does not fit" in run.out
    assert r"otherwise  \d at 1: there \d does not fit '٧'; write \p{Nd}" in run.out
    assert "Of 3 samples, 1 fails" in run.out and "all pass on pcre2, ecmascript" in run.out
    data = json.loads(desk.run("check", "--only", "permits:code", "--format", "json").out)
    (pattern,) = data["suites"][0]["patterns"]
    assert [each["engine"] for each in pattern["elsewhere"]] == ["pcre2", "ecmascript"]
    assert pattern["differing"] == [{"kind": "negative", "number": 2, "alike": [["python"], ["pcre2", "ecmascript"]]}]


def test_what_fails_on_another_engine_alone_fails_in_every_report(desk: Desk) -> None:
    desk.suite("[patterns.p]\nexpression = '\\d+'\nengines = ['python', 'pcre2']\npositive = ['7', '٧']\n")
    run = desk.run("check", "--report", "junit=check.xml", "--report", "tap=check.tap")
    assert (
        run.status == 1 and "All 2 samples pass, but not on every engine" in run.out and "1 fails on pcre2" in run.out
    )
    root = ET.fromstring((desk.folder / "check.xml").read_text())
    assert (root.get("tests"), root.get("failures")) == ("4", "1")
    assert [each.get("name") for each in root] == ["loggers:p", "loggers:p on pcre2"]
    assert root[1].find("testcase[2]/failure") is not None
    lines = (desk.folder / "check.tap").read_text().splitlines()
    assert lines[1] == "1..4" and [line.partition(" - ")[0] for line in lines if " - " in line] == [
        "ok 1",
        "ok 2",
        "ok 3",
        "not ok 4",
    ]
    assert "loggers:p on pcre2 positive 2" in "".join(lines)
    (finding,) = json.loads(desk.run("check", "--format", "sarif").out)["runs"][0]["results"][:1]
    assert "loggers:p on pcre2 positive 2" in finding["message"]["text"] and finding["level"] == "error"
    assert "pcre2: does not fit, and should" in desk.run("report", "--format", "markdown").out


def test_engines_are_asked_for_and_what_they_refuse_is_named_with_its_place(desk: Desk) -> None:
    desk.suite(PERMITS, "permits")
    run = desk.run("check", "--only", "permits:plot", "--engine", "python", "--engine", "ecmascript")
    assert run.status == 1 and "refused    permits:plot  on ecmascript: Invalid group" in run.out
    assert "lacks      (?P<plot> at 0; write (?<plot>" in run.out
    assert "there      (?<plot>[A-F]\\d{2})" in run.out and "1 fails on ecmascript" in run.out
    # Written for it first, it passes, and is captured alike.
    run = desk.run("check", "--only", "permits:plot", "--engine", "python", "--engine", "ecmascript", "--rendered")
    assert run.status == 0 and "agree      permits:plot  python and ecmascript agree on its 1 sample" in run.out
    alone = desk.run("check", "--only", "permits:plot", "--engine", "ecmascript", "--rendered", "--format", "json")
    (sample,) = json.loads(alone.out)["suites"][0]["patterns"][0]["samples"]
    assert sample["fields"]["plot"] == {"text": "B07", "place": [0, 3], "value": "B07"}


def test_more_than_samples_is_said_where_it_is_proven(desk: Desk) -> None:
    desk.suite(
        "[patterns.a]\nexpression = '[A-F][0-9]{2}'\npositive = ['B07']\n"
        "[patterns.b]\nexpression = 'B\\d+'\npositive = ['B07']\n",
    )
    run = desk.run("check", "--engine", "python", "--engine", "pcre2")
    assert run.status == 0
    assert "loggers:a  python and pcre2 agree on its 1 sample, and on every text" in run.out
    assert "loggers:b  python and pcre2 agree on its 1 sample\n" in run.out
    assert "python takes and pcre2 does not" in run.out


def test_agreement_on_every_text_is_of_all_engines_that_are_named(desk: Desk) -> None:
    desk.suite("[patterns.b]\nexpression = 'B\\d+'\npositive = ['B07']\n")
    run = desk.run("check", "--engine", "pcre2", "--engine", "pcre2-ucp")
    assert "pcre2 and pcre2-ucp agree on its 1 sample; python and pcre2-ucp on every text\n" in run.out


def test_an_engine_that_says_yes_or_no_alone_is_not_asked_for_fields(desk: Desk) -> None:
    if why_unusable("xsd") is not None:
        pytest.skip("xsd: not usable")
    desk.suite(
        "[patterns.p]\nexpression = '([A-F])[0-9]{2}'\n[[patterns.p.positive]]\ntext = 'B07'\nfields = { 1 = 'B' }\n"
    )
    run = desk.run("check", "--engine", "python", "--engine", "xsd")
    assert run.status == 0 and "python and xsd agree on its 1 sample" in run.out


def test_an_engine_that_is_not_here_is_said_and_fails_only_when_it_was_asked_for(desk: Desk) -> None:
    desk.suite("[patterns.p]\nexpression = 'a'\nengines = ['python', 'postgres']\npositive = ['a']\n")
    nowhere = {"FIELDSTICK_POSTGRES": ""}
    run = desk.program("check", **nowhere)
    assert run.status == 0 and "not run    postgres" in run.out and "FIELDSTICK_POSTGRES" in run.out
    assert desk.program("check", "--engine", "postgres", **nowhere).status == 3
    listed = desk.program("engines", "postgres", **nowhere)
    assert listed.status == 3 and "get        pip install" in listed.out
    asked = desk.run("check", "--engine", "pcr2")
    assert asked.status == 3 and "did you mean 'pcre2'?" in asked.err


def test_what_engines_there_are_is_listed(desk: Desk) -> None:
    run = desk.run("engines")
    assert re.search(r"^python +Python \S+ +lacks \d+: properties", run.out, re.MULTILINE)
    assert run.status == 0 and f"of {len(ENGINES)} can be used here" in run.out
    told = json.loads(desk.run("engines", "python", "ecmascript", "--format", "json").out)
    assert [each["name"] for each in told] == ["python", "ecmascript"] and told[1]["version"].startswith("V8 ")
    assert "possessive" in told[1]["lacking"] and "possessive" not in told[0]["lacking"]


def test_explain_and_hazards_look_from_another_engine(desk: Desk) -> None:
    run = desk.run("explain", r"^\d+(?P<unit>kg)?$", "--engine", "ecmascript")
    assert run.status == 0 and r"there      \p{Nd}+(?<unit>kg)?" in run.out
    assert "as it is" not in run.out
    same = desk.run("explain", "[0-9]+", "--engine", "re2", "--format", "json")
    assert json.loads(same.out)["engine"]["proof"] == {"outcome": "same", "text": None}
    refused = json.loads(desk.run("explain", "a(?=b)", "--engine", "re2", "--format", "json").out)["engine"]
    assert refused["rendered"] is None and "look-ahead" in refused["why"] and refused["strangers"][0]["place"] == [1, 4]
    desk.suite(PERMITS, "permits")
    named = desk.run("hazards")
    assert "permits:code  other-engine" in named.out and "on ecmascript" in named.out
    assert " re2" not in named.out and " re2" in desk.run("hazards", "--engine", "re2").out
    allowed = PERMITS.replace(
        "[patterns.plot]", 'allow = [{ hazard = "other-engine", note = "known" }]\n[patterns.plot]', 1
    )
    desk.suite(allowed, "permits")
    assert desk.run("hazards").status == 0


def test_notation_tells_what_an_engine_makes_of_a_construct(desk: Desk) -> None:
    run = desk.run("notation", "$", "--engine", "ecmascript")
    assert run.status == 0 and r"ecmascript: a$ matches nowhere in 'a\n'" in run.out
    assert "lacks" not in run.out and "refused by" not in run.out
    lacking = desk.run("notation", "look-ahead", "--engine", "re2")
    assert lacking.status == 2 and "re2 does not have" in lacking.err
    (data,) = json.loads(desk.run("notation", r"\d", "--format", "json").out)
    assert data["engines"]["java"] == "differs" and len(data["probes"]) >= 5


def test_what_is_written_for_an_engine_is_tried_there_before_it_is_shown(
    desk: Desk, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert r"there      [A-F]\p{Nd}{2}" in desk.run("explain", r"[A-F]\d{2}", "--engine", "pcre2").out
    plain = engine_proofs.rendered

    def narrower(*arguments: Any, **given: Any) -> Any:
        made = plain(*arguments, **given)
        return replace(made, expression=made.expression.replace("[A-F]", "[B-F]"))

    monkeypatch.setattr(engine_proofs, "rendered", narrower)
    data = json.loads(desk.run("explain", r"[A-F]\d{2}", "--engine", "pcre2", "--format", "json").out)
    assert "reads 'A77' otherwise there" in json.dumps(data["engine"])


FOREIGN = r"""
[patterns.a]
expression = 'a(?i)b|c(?-i)d\z'
engines = ["pcre2"]
positive = ["aB", "Cd"]
negative = ["AB", "CD"]

[patterns.load]
expression = '(?<kg>\h\h)kg'
engines = ["ruby"]
fields.kg = { type = "integer", most = 90 }
positive = ["90kg"]

[patterns.any]
any_of = ["a", "load"]
positive = ["aB", "79kg"]
negative = ["xykg"]

[patterns.reset]
expression = '(?|(a)|(b))'
engines = ["pcre2"]
positive = ["a"]
"""


def test_a_pattern_of_another_engine_is_explained_by_what_it_means_there(desk: Desk) -> None:
    if why_unusable("pcre2") is not None or why_unusable("ruby") is not None:
        pytest.skip("pcre2 or ruby: not usable")
    desk.suite(FOREIGN)
    run = desk.run("explain", "loggers:a")
    assert run.status == 0 and "written for pcre2; below stands what it means there, in Python's notation" in run.out
    assert "a[Bb]|[Cc]d" in run.out and "exactly 2 characters" in run.out
    why = desk.run("why", "loggers:a", "AC")
    assert "it stops at 0: wanted 'a' or one of 'C' or 'c'; found 'A'" in why.out
    assert "written for" not in desk.run("why", "a", "b").out
    assert "wanted 'a' or one of 'C' or 'c'; found 'x'" in desk.run("why", "loggers:any", "xykg").out
    checked = desk.run("check")
    assert checked.status == 0 and "All 9 samples pass" in checked.out
    assert desk.run("check", "--engine", "python").status == 1
    assert "the field 'kg' is 91, above the most of 90" in desk.run("why", "loggers:load", "91kg").out
    assert "wanted one of 0 to 9, A to F or a to f" in desk.run("why", "loggers:load", "9xkg").out
    for words in (["explain", "loggers:a"], ["why", "loggers:a", "AC"]):
        told = json.loads(desk.run(*words, "--format", "json").out)
        assert told["written_for"] == {"engine": "pcre2", "expression": r"a(?i)b|c(?-i)d\z"}
    for command in (["explain", "loggers:reset"], ["why", "loggers:reset", "c"]):
        refused = desk.run(*command)
        assert refused.status == 2 and "reset is written for pcre2, and cannot be read here" in refused.err
    kept = (desk.folder / "loggers.suite.toml").read_bytes()
    applied = desk.run("why", "loggers:a", "AC", "--apply", "1")
    assert applied.status == 2 and "the pattern is written for pcre2" in applied.err
    assert (desk.folder / "loggers.suite.toml").read_bytes() == kept
