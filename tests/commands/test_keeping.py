"""`keep` and `sample`: suites are added to, and nothing else in them changes."""

from __future__ import annotations

import difflib
import json
from importlib import resources
from typing import TYPE_CHECKING

import pytest
import tomli

from fieldstick.suites.editing import toml_text, with_pattern, with_sample

if TYPE_CHECKING:
    from conftest import Desk

SUITE = r"""
# about the parts
[parts]
plot = '[A-F]\d{2}'

[patterns.p]  # the first
expression = 'at (?P<plot>{{plot}})(?: (?P<n>\d+))?'
fields.n = { type = "integer" }
positive = [
  'at B07',  # the usual
  'at C12'
]

# the second
[patterns.q]
expression = 'x'
"""


def added(before: str, after: str) -> list[str]:
    """Return the lines that are new; of what was there, at most a comma may have come to the end of a line."""
    lines = list(difflib.ndiff(before.splitlines(), after.splitlines()))
    gone = [line[2:] for line in lines if line.startswith("- ")]
    new = [line[2:] for line in lines if line.startswith("+ ")]
    assert all(f"{line}," in new for line in gone)
    return [line for line in new if line.removesuffix(",") not in gone]


def test_a_draft_is_kept_at_the_end_and_the_file_stays_as_it_is(desk: Desk) -> None:
    path = desk.suite(SUITE)
    before = path.read_text()
    run = desk.run(
        "keep",
        "plot-line",
        r"plot=[A-F]\d{2}",
        "--suite",
        "loggers.suite.toml",
        "--about",
        "A plot",
        "--reach",
        "start",
    )
    assert run.status == 0 and "It spells the part 'plot' out" in run.out
    after = path.read_text()
    assert after.startswith(before)
    kept = tomli.loads(after)["patterns"]["plot-line"]
    assert kept == {"about": "A plot", "expression": r"plot=[A-F]\d{2}", "reach": "start"}
    assert desk.run("keep", "with-part", r"p=[A-F]\d{2}", "--suite", "loggers.suite.toml", "--parts").status == 0
    assert tomli.loads(path.read_text())["patterns"]["with-part"]["expression"] == "p={{plot}}"
    for wrong in (["p", "a"], ["9p", "a"], ["r", "a("], ["r", "{{plt}}"]):
        assert desk.run("keep", *wrong, "--suite", "loggers.suite.toml").status == 2
    assert desk.run("check").status == 0


def test_take_and_types_are_kept_with_a_draft(desk: Desk) -> None:
    path = desk.suite(SUITE)
    typed = ("--take", "last", "--field", "day=date:%d.%m.%Y", "--field", "m=decimal", "--decimal-mark", ",")
    words = (*typed, "--reach", "anywhere", "--flag", "ascii", "--suite", "loggers")
    assert desk.run("keep", "load", "-e", r"-(?P<day>[\d.]+) (?P<m>[\d,]+)", *words).status == 0
    assert tomli.loads(path.read_text())["patterns"]["load"] == {
        "expression": r"-(?P<day>[\d.]+) (?P<m>[\d,]+)",
        "reach": "anywhere",
        "take": "last",
        "flags": ["ascii"],
        "fields": {"day": {"type": "date", "layout": "%d.%m.%Y"}, "m": {"type": "decimal", "decimal_mark": ","}},
    }
    rows = desk.run("extract", "loggers:load", "-", typed="-1.5.2026 3,5 -4.5.2026 31,4\n").out
    assert rows == "day,m\n2026-05-04,31.4\n"
    before = path.read_text()
    for wrong in (["a", "-e", "b"], [], ["(?P<n>1)", "--field", "m=decimal"]):
        assert desk.run("keep", "other", *wrong, "--suite", "loggers").status == 2 and path.read_text() == before


def test_a_positive_sample_brings_its_captured_fields_along(desk: Desk) -> None:
    path = desk.suite(SUITE)
    before = path.read_text()
    assert desk.run("sample", "loggers:p", "--positive", "at D01 12", "--note", "new", "--dry-run").status == 0
    assert path.read_text() == before
    assert desk.run("sample", "loggers:p", "--positive", "at D01 12", "--note", "new").status == 0
    assert added(before, path.read_text()) == [
        "  { text = 'at D01 12', fields = { plot = 'D01', n = 12 }, note = 'new' },"
    ]
    assert "# the usual" in path.read_text()
    assert desk.run("check").status == 0


def test_a_sample_that_is_not_so_yet_needs_even_so(desk: Desk) -> None:
    path = desk.suite(SUITE)
    before = path.read_text()
    for arguments in (["--positive", "at G01"], ["--negative", "at B08"], ["at B08"], ["--positive", "at B07"]):
        assert desk.run("sample", "loggers:p", *arguments).status == 2
    assert path.read_text() == before
    assert desk.run("sample", "loggers:p", "--negative", "at B08", "--even-so").status == 0
    assert tomli.loads(path.read_text())["patterns"]["p"]["negative"] == [{"text": "at B08"}]
    assert desk.run("check").status == 1


def test_a_text_comes_from_a_line_of_a_file_or_from_standard_input(desk: Desk) -> None:
    path = desk.suite(SUITE)
    desk.write("log.txt", "first\nat E05\n")
    assert desk.run("sample", "loggers:p", "--positive", "--from", "log.txt:2").status == 0
    assert desk.run("sample", "loggers:p", "--negative", "--stdin", typed="two\nlines\n").status == 0
    found = tomli.loads(path.read_text())["patterns"]["p"]
    assert found["positive"][-1]["text"] == "at E05" and found["negative"] == [{"text": "two\nlines"}]
    assert "has no line 9" in desk.run("sample", "loggers:p", "--positive", "--from", "log.txt:9").err


@pytest.mark.parametrize("name", ["common", "loggers", "permits", "records", "notes"])
def test_every_pattern_of_the_demo_can_be_added_to_without_touching_the_rest(name: str) -> None:
    document = (resources.files("fieldstick.demo") / "larkmoor" / f"{name}.suite.toml").read_text(encoding="utf-8")
    for pattern in tomli.loads(document)["patterns"]:
        for kind in ("positive", "negative"):
            for table in ({"text": "it's\tnew"}, {"text": "new", "fields": {"a b": "c", "n": 7}, "note": "why"}):
                changed = with_sample(document, pattern, kind, table)
                again = tomli.loads(changed)["patterns"][pattern][kind]
                assert again[-1] in (table, table["text"])
                assert len(changed.splitlines()) - len(document.splitlines()) <= 6
                kept = [line for line in document.splitlines() if line.lstrip().startswith("#")]
                assert [line for line in changed.splitlines() if line.lstrip().startswith("#")] == kept


@pytest.mark.parametrize(
    "text", ["", "plain", "it's", 'a "b"', "\x00\x1b\u202e", "tab\there", "line\nend", "\\d{2}", "𝒳"]
)
def test_any_text_is_written_so_that_it_reads_the_same(text: str) -> None:
    assert tomli.loads(f"t = {toml_text(text)}") == {"t": text}
    assert tomli.loads(with_pattern("format = 1\n", "x", {"expression": text}))["patterns"]["x"]["expression"] == text


def test_line_ends_and_a_byte_order_mark_stay_as_they_are(desk: Desk) -> None:
    path = desk.suite(SUITE)
    before = b"\xef\xbb\xbf" + path.read_bytes().replace(b"\n", b"\r\n")
    path.write_bytes(before)
    assert desk.run("sample", "loggers:q", "--positive", "x").status == 0
    assert desk.run("keep", "r", "y", "--suite", "loggers.suite.toml").status == 0
    after = path.read_bytes()
    assert after.startswith(b"\xef\xbb\xbf") and after.count(b"\n") == after.count(b"\r\n")
    assert set(before.splitlines()) <= set(after.splitlines())
    assert desk.run("check").status == 0
    path.write_bytes(before + b"# a comment\n")
    mixed = desk.run("sample", "loggers:q", "--positive", "x")
    assert mixed.status == 2 and "mixes its line ends" in mixed.err
    assert path.read_bytes() == before + b"# a comment\n"


def test_a_suite_that_is_not_there_is_begun_and_likely_slips_are_told(desk: Desk) -> None:
    run = desk.run("keep", "p", r"\d+.\d", "--suite", "new.suite.toml")
    assert run.status == 0 and "hazard  dot-in-number" in run.out
    assert desk.run("check").out.endswith("no baseline.\n") or "no sample tests p" in desk.run("check").err
    assert desk.run("new", "other", "--empty").status == 0
    assert (desk.folder / "other.suite.toml").read_text() == 'format = 1\nsuite = "other"\nabout = ""\n'
    assert desk.run("new", "other").status == 2


def test_borrowed_parts_are_named_and_put_in(desk: Desk) -> None:
    desk.suite("[parts]\nplot = '[A-F][0-9]{2}'\n", "common")
    desk.suite('borrow = { common = "common.suite.toml" }\n')
    run = desk.run("keep", "p", "at [A-F][0-9]{2}", "--suite", "loggers.suite.toml")
    assert "It spells the part 'common.plot' out" in run.out
    desk.run("keep", "q", "at [A-F][0-9]{2}", "--suite", "loggers.suite.toml", "--parts")
    assert "expression = 'at {{common.plot}}'" in (desk.folder / "loggers.suite.toml").read_text()


def test_a_sample_stays_below_its_table_whatever_characters_stand_above(desk: Desk) -> None:
    desk.suite("[patterns.p]\nabout = 'a\u2028b\u0085c'\nexpression = '.*'\n\n[patterns.q]\nexpression = 'x'\n")
    assert desk.run("sample", "loggers:p", "new one", "--positive").status == 0
    text = (desk.folder / "loggers.suite.toml").read_text(encoding="utf-8")
    assert text.index("[patterns.p]") < text.index("[[patterns.p.positive]]") < text.index("[patterns.q]")
    desk.write("t.csv", 'text\n"one\u2028two"\n"three\u0085"\n')
    desk.suite("[patterns.p]\nexpression = '(?s).*'\npositive = [{ table = 't.csv' }]\n", "tables")
    counted = json.loads(desk.run("check", "tables.suite.toml", "--format", "json").out)
    assert [each["text"] for each in counted["suites"][0]["patterns"][0]["samples"]] == ["one\u2028two", "three\x85"]
