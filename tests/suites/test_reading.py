"""Suite files are read whole, or refused with every mistake and its line."""

from __future__ import annotations

import datetime as dt
import json
import re
from importlib import resources
from typing import TYPE_CHECKING, Any, get_args

import jsonschema
import pytest
import tomli

from conftest import json_schema, read_suite, read_suites
from fieldstick.data.read_options import KINDS, READING
from fieldstick.errors import SuiteFileError, UsageError
from fieldstick.suites.model import SourceKind, TrialTable

if TYPE_CHECKING:
    from pathlib import Path

    from conftest import Desk

HEAD = 'format = 1\nsuite = "x"\n'
PATTERN = "[patterns.p]\nexpression = '(?P<plot>[A-F])(\\d)'\n"
SAMPLE = PATTERN + "[[patterns.p.positive]]\ntext = 'A1'\n"

MISTAKES = [
    ("abuot = 'x'\n", "3: unknown key 'abuot'; the nearest is 'about'"),
    ("about = 3\n", "3: 'about' must be a text, not 3"),
    ("[defaults]\nreach = 'hole'\n", "4: 'reach' is 'hole'; choose whole, start or anywhere; the nearest is 'whole'"),
    ("[defaults]\nflags = ['dot-all']\n", "4: item 1 of 'flags' is 'dot-all'; .*the nearest is 'dotall'"),
    ("[parts]\na = '{{b}}'\n", "4: there is no part 'b'"),
    ("[parts]\na = '{{b}}'\nb = '{{a}}'\n", "4: parts go round in a circle: a → b → a"),
    ("[patterns.9x]\nexpression = 'a'\n", "3: '9x' is not a name"),
    ("[patterns.p]\nabout = 'a'\n", "3: the pattern has no expression, any_of"),
    ("[patterns.p]\nexpression = 'a'\nany_of = ['q']\n", "3: the pattern has expression and any_of"),
    (PATTERN + "take = 0\n", "5: take is 0; choose first, last, all"),
    (PATTERN + "take = 'third'\n", "5: take is 'third'"),
    (PATTERN + "tags = 'soil'\n", "5: 'tags' must be an array, not 'soil'"),
    (PATTERN + "budget_ms = 0\n", "5: 'budget_ms' is 0; it must be at least 1"),
    (PATTERN + "engines = []\n", "5: 'engines' is an empty array"),
    (PATTERN + "about = 'a'\nabout = 'b'\n", "6: 'about' is there twice; the first is on line 5"),
    (PATTERN + "[patterns.p]\nexpression = 'b'\n", r"5: \[patterns.p\] is there twice; the first is on line 3"),
    (
        PATTERN + "[patterns.p.fields]\nplto = {}\n",
        "6: no group .* is named 'plto'; the nearest is 'plot'",
    ),
    (PATTERN + "[patterns.p.fields.2]\nname = 'plot'\n", "6: another group is named 'plot' already"),
    (PATTERN + "[patterns.p.fields.plot]\ntype = 'txt'\n", "6: 'type' is 'txt'; .*the nearest is 'text'"),
    (PATTERN + "[patterns.p.fields.plot]\nleast = 3\n", "6: 'least' does not go with the type text"),
    (SAMPLE + "filds = {}\n", "7: unknown key 'filds'; the nearest is 'fields'"),
    (SAMPLE + "reach = 'start'\n", "7: unknown key 'reach'; it is a key of "),
    (SAMPLE + "file = 'a.txt'\n", "5: a sample has text and file; give exactly one"),
    (SAMPLE + "place = [3, 1]\n", "7: .*a place is"),
    (SAMPLE + "count = 2\n", "7: 'count' needs take = \"all\""),
    (SAMPLE + "message = 'm'\n", "7: 'message' on a positive sample"),
    (SAMPLE + "with = { site = 'x' }\n", "7: the pattern has no parameter 'site'"),
    (SAMPLE + "fields = { plot = [1] }\n", "7: 'plot': must be a text, number, date, time or boolean"),
    (SAMPLE + "[[patterns.p.positive]]\ntext = 'A1'\n", "7: the same sample is on line 5 already"),
    (SAMPLE + "[[patterns.p.negative]]\ntext = 'A1'\n", "7: the same sample is on line 5 already"),
    (PATTERN + "[[patterns.p.negative]]\ntext = 'a'\nplace = [0, 1]\n", "7: 'place' on a negative sample"),
    (PATTERN + "[[patterns.p.positive]]\nnote = 'a'\n", "5: a sample has no text"),
    (PATTERN + "positive = ['A1', 3]\n", "5: item 2 of 'positive' must be a text or a table, not 3"),
    (PATTERN + "[[patterns.p.positive]]\nfile = '../x.txt'\n", "6: '../x.txt' lies outside the suite's folder tree"),
    (PATTERN + "[[patterns.p.positive]]\nfile = 'gone.txt'\n", "6: 'gone.txt' cannot be read"),
    ("[patterns.p]\nexpression = '{{=site}}'\n", "4: {{=site}} is no parameter of the pattern"),
    ("[patterns.p]\nexpression = '{{=s}}'\nparameters = ['s']\npositive = ['a']\n", "6: the sample gives no value for"),
    (PATTERN + "[patterns.q]\nany_of = ['pp']\n", "6: there is no pattern 'pp'; the nearest is 'p'"),
    (PATTERN + "[patterns.q]\nall_of = ['p', 'q']\n", "6: patterns go round in a circle: q → q"),
    (PATTERN + "[patterns.q]\nnone_of = ['c:p']\n", "6: nothing is borrowed as 'c'"),
    (PATTERN + "[patterns.q]\nany_of = ['p']\nreach = 'start'\n", "7: 'reach' on a combination"),
    ("borrow = { c = 'gone.suite.toml' }\n", "3: .*gone.suite.toml: cannot be read"),
    ("borrow = { c = '/etc/c.suite.toml' }\n", "3: '/etc/c.suite.toml' lies outside"),
    ("[patterns.p\n", "3: not TOML: "),
    ("[patterns.p]\nexpression = 'a\nabout = 'b'\n", "4: not TOML: a text in quotes is not closed"),
]


def problems_of(path: Path) -> list[str]:
    with pytest.raises(SuiteFileError) as caught:
        read_suite(path)
    return [str(problem).removeprefix(f"{path}:") for problem in caught.value.problems]


@pytest.mark.parametrize(("body", "expected"), MISTAKES)
def test_a_mistake_is_named_with_its_line_and_nothing_else_is(desk: Desk, body: str, expected: str) -> None:
    (found,) = problems_of(desk.write("x.suite.toml", HEAD + body))
    assert re.match(expected.replace("{{", r"\{\{"), found), found


def test_all_the_mistakes_of_all_the_files_are_listed(desk: Desk) -> None:
    bodies = [body for body, _ in MISTAKES if "[patterns.p]" in body and "not TOML" not in body][:20]
    renamed = [body.replace("patterns.p", f"patterns.p{number}") for number, body in enumerate(bodies)]
    renamed = [body for body in renamed if "there twice" not in body and body.count("[patterns.") == 1]
    one = desk.write("one.suite.toml", HEAD + "".join(renamed))
    two = desk.write("two.suite.toml", HEAD.replace("format = 1", "format = 2"))
    with pytest.raises(SuiteFileError) as caught:
        read_suites([one, two])
    assert len([each for each in caught.value.problems if each.file == str(one)]) >= len(renamed)
    assert "format is 2; this version reads format 1" in str(caught.value)


def test_a_link_out_of_the_folder_tree_is_not_followed(desk: Desk) -> None:
    outside = desk.write("secret.txt", "A1")
    path = desk.write("in/x.suite.toml", HEAD + PATTERN + "[[patterns.p.positive]]\nfile = 'link.txt'\n")
    (path.parent / "link.txt").symlink_to(outside)
    assert "lies outside the suite's folder tree" in problems_of(path)[0]


def test_a_borrowed_suite_brings_its_parts_and_patterns_along(desk: Desk) -> None:
    desk.write(
        "lib/common.suite.toml",
        HEAD + "[parts]\nd = '\\d'\nday = '{{d}}{{d}}'\n[patterns.day]\nexpression = '{{day}}'\n",
    )
    path = desk.suite(
        "borrow = { c = 'lib/common.suite.toml' }\n[patterns.p]\nexpression = 'on {{c.day}}'\n"
        "[patterns.q]\nany_of = ['p', 'c:day']\n"
    )
    suite = read_suite(path)
    assert suite.patterns["q"].members[1].name == "day"
    filling = suite.patterns["p"].filling
    assert filling is not None and filling.text({}) == r"on (?:(?:\d)(?:\d))"


def test_the_mistakes_of_a_borrowed_suite_carry_its_name(desk: Desk) -> None:
    desk.write("lib/common.suite.toml", HEAD + "[parts]\nday = '{{d}}'\n")
    path = desk.suite("borrow = { c = 'lib/common.suite.toml' }\n[patterns.p]\nexpression = '{{c.day}}'\n")
    with pytest.raises(SuiteFileError) as caught:
        read_suite(path)
    (problem,) = caught.value.problems
    assert problem.file.endswith("lib/common.suite.toml") and problem.line == 4


def test_a_table_gives_one_sample_a_row(desk: Desk) -> None:
    desk.write("rows.csv", '\ufefftext,plot\n"A1",A\n"B ""2""",\n')
    suite = read_suite(desk.suite(PATTERN + "[[patterns.p.positive]]\ntable = 'rows.csv'\nnote = 'n'\n"))
    found = [(each.text, dict(each.fields), each.row, each.note) for each in suite.patterns["p"].samples]
    assert found == [("A1", {"plot": "A"}, 1, "n"), ('B "2"', {"plot": ""}, 2, "n")]


@pytest.mark.parametrize(
    ("content", "words"),
    [
        ("", "'rows.csv' is empty"),
        ("txt\na\n", "has no column 'text'; the nearest is 'txt'"),
        ("text,a,a\n", "has the column 'a' twice"),
        ("text,a\nx\n", "line 2: 1 cells under a header of 2"),
        ("text\n", "has no rows"),
    ],
)
def test_a_table_that_is_not_one_is_refused(desk: Desk, content: str, words: str) -> None:
    desk.write("rows.csv", content)
    (found,) = problems_of(desk.suite(PATTERN + "[[patterns.p.positive]]\ntable = 'rows.csv'\n"))
    assert words in found


TRIAL = """
[routes.kind]
order = ["p"]
otherwise = "rest"
[[trials]]
data = "d.log"
"""


@pytest.mark.parametrize(
    ("keys", "words"),
    [
        ("", "a trial has route, patterns or form"),
        ("route = 'kind'\npatterns = ['p']", "the trial has route and patterns; give one of them"),
        ("route = 'kinds'", "the suite has no route 'kinds'; the nearest is 'kind'"),
        ("form = 'x'", "the suite has no form 'x'"),
        ("patterns = ['q']", "there is no pattern 'q'; there are p"),
        ("patterns = ['p', 'p']", "'p' is there twice"),
        ("route = 'kind'\nfits_share = { least = 98 }", "a share is a number from 0 to 1, not 98"),
        ("route = 'kind'\nfits_share = { pp = 0.5 }", "nothing of the trial is called 'pp'; the nearest is 'p'"),
        ("route = 'kind'\nfits_share = { p = { lest = 0.5 } }", "unknown key 'lest'; a bound has least and most"),
        ("route = 'kind'\nfits_share = { least = 0.9, most = 0.1 }", "least 0.9 is more than most 0.1"),
        ("route = 'kind'\nfits_share = 'all'", "fits_share is a table"),
        ("route = 'kind'\ncounts = { rest = 1.5 }", "a count is a whole number, not 1.5"),
        ("route = 'kind'\nroutes = 'kind'", "unknown key 'routes'"),
        ("route = 'kind'\nas = 'text'", "'as' is 'text'; choose csv"),
        ("route = 'kind'\nwith = { a = 'b' }", "there is no parameter 'a'"),
        ("route = 'kind'\nrecord_start = '{{x}}'", "there is no part 'x'"),
    ],
)
def test_a_mistake_in_a_trial_is_named(desk: Desk, keys: str, words: str) -> None:
    (found,) = problems_of(desk.suite(PATTERN + TRIAL + keys + "\n"))
    assert words in found


def test_a_trial_of_too_many_kinds_is_refused(desk: Desk) -> None:
    patterns = "".join(f"[patterns.p{n}]\nexpression = '{n}'\n" for n in range(300))
    order = ", ".join(f"'p{n}'" for n in range(300))
    body = f"{patterns}[routes.kind]\norder = [{order}]\n[[trials]]\ndata = 'd.log'\nroute = 'kind'\n"
    (found,) = problems_of(desk.suite(body))
    assert "the route 'kind' tells 301 kinds apart; a trial at most 120" in found


def test_a_trial_reads_no_file_outside_its_tree(desk: Desk) -> None:
    (found,) = problems_of(desk.suite(PATTERN + TRIAL.replace("d.log", "../d.log") + "route = 'kind'\n"))
    assert "lies outside the suite's folder tree" in found


def test_the_words_of_reading_are_the_same_in_a_trial(desk: Desk) -> None:
    assert set(get_args(SourceKind)) == set(KINDS)
    text = PATTERN + TRIAL + "route = 'kind'\nas = 'csv'\ncolumn = 'a'\ndelimiter = 'tab'\nlongest = 0\n"
    (trial,) = read_suite(desk.suite(text)).trials
    assert trial.reading == {"as": "csv", "column": "a", "delimiter": "tab", "longest": 0}
    assert set(READING) == {key for key in TrialTable.__struct_encode_fields__ if key in READING}


def test_a_file_that_is_not_there_is_a_sentence(desk: Desk) -> None:
    with pytest.raises(UsageError, match="cannot be read: No such file"):
        read_suite(desk.folder / "gone.suite.toml")


def as_json(value: Any) -> Any:
    return json.loads(
        json.dumps(value, default=lambda each: each.isoformat() if isinstance(each, dt.date | dt.time) else 0)
    )


def test_the_schema_takes_the_demo_suites_and_refuses_mistakes() -> None:
    validator = jsonschema.Draft202012Validator(json_schema())
    for file in (resources.files("fieldstick.demo") / "larkmoor").iterdir():
        if file.name.endswith(".suite.toml"):
            assert not list(validator.iter_errors(as_json(tomli.loads(file.read_text(encoding="utf-8")))))
    for body in ("abuot = 'x'\n", PATTERN + "take = 0\n", PATTERN + "positive = [3]\n", SAMPLE + "filds = {}\n"):
        assert list(validator.iter_errors(as_json(tomli.loads(HEAD + body)))), body
