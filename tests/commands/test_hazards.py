"""`hazards` names what is likely to bite in whole suites, each in its place; what is accepted, and what need not be."""

from __future__ import annotations

import json

from conftest import Desk, read_suite
from fieldstick.suites.places import place_in_text

ODD = """
[parts]
plot = '[A-F][0-9]{2}'
place = '[A-F][0-9][0-9]'
list = '(\\w+\\s?)*'

[patterns.reading]
expression = '{{plot}}: {{list}};'
positive = ['B07: a b;']

[patterns.note]
expression = '''
any{{list}}!'''
positive = ["anya b!"]

[patterns.word]
expression = '\\w+'
[patterns.hyphen]
expression = '[\\w-]+'
[patterns.dotted]
expression = '[\\w.]+'
[patterns.some]
any_of = ["hyphen", "word"]
[routes.kind]
order = ["hyphen", "dotted", "word"]
otherwise = "none"
"""


def found_in(desk: Desk) -> dict[tuple[str, str], dict[str, object]]:
    data = json.loads(desk.run("hazards", "--format", "json").out)
    return {(each["address"], each["kind"]): each for each in data["hazards"]}


def test_each_hazard_is_named_once_where_it_stands_with_who_uses_it(desk: Desk) -> None:
    path = desk.suite(ODD)
    found = found_in(desk)
    assert set(found) == {
        ("loggers:list", "nested-repeats"),
        ("loggers:place", "same-parts"),
        ("loggers:some", "hidden-member"),
        ("loggers:kind", "hidden-kind"),
        ("loggers:kind", "kinds-overlap"),
    }
    part = found["loggers:list", "nested-repeats"]
    lines = path.read_text(encoding="utf-8").splitlines()
    line, column = int(str(part["line"])), int(str(part["column"]))
    assert lines[line - 1].startswith("list = ") and lines[line - 1][column - 1] == "("
    assert part["used_by"] == ["loggers:reading", "loggers:note"] and part["shown_by"] == []
    assert found["loggers:kind", "kinds-overlap"]["source"] == "dotted"
    assert found["loggers:kind", "hidden-kind"]["source"] == "word"


def test_places_count_lines_and_columns_in_every_form_of_text(desk: Desk) -> None:
    suite = read_suite(desk.suite("[patterns.a]\nexpression = '''\nab\n cd'''\n[patterns.b]\n  expression = \"x.y\"\n"))
    assert place_in_text(suite.document, ("patterns", "a", "expression"), 4) == (6, 2)
    assert place_in_text(suite.document, ("patterns", "b", "expression"), 1) == (8, 18)


def test_a_sample_that_shows_it_is_named(desk: Desk) -> None:
    desk.suite("[patterns.mark]\nexpression = '[*~]*'\nreach = \"start\"\npositive = ['*', 'none']\n")
    hazard = found_in(desk)["loggers:mark", "matches-nothing"]
    assert hazard["shown_by"] == ["positive 2"] and hazard["remedy"] == "ask for at least one: [*~]+"


def test_an_allow_accepts_a_hazard_and_one_that_nothing_needs_is_named(desk: Desk) -> None:
    body = "[patterns.slow]\nexpression = '(?:ab|a|ba)*c'\npositive = ['abc']\n"
    desk.suite(body)
    ran = desk.run("hazards")
    assert ran.status == 1 and "doubles" in ran.out and "1 hazard in 1 pattern or operation" in ran.out
    desk.suite(body + "allow = [{ hazard = 'takes-forever', note = 'our own files' }]\n")
    ran = desk.run("hazards")
    assert ran.status == 0 and "our own files" in ran.out and "1 accepted" in ran.out
    desk.suite(body + "budget_ms = 50\n")
    assert "a budget of its own, 50 ms" in desk.run("hazards").out
    desk.suite(body + "allow = [{ hazard = 'dot' }, { hazard = 'takes-forever' }]\n")
    ran = desk.run("hazards")
    assert ran.status == 1 and "it allows 'dot'" in ran.out and "'takes-forever'" not in ran.out
    desk.suite(body + "allow = [{ hazard = 'takes-for-ever' }]\n")
    ran = desk.run("hazards")
    assert ran.status == 2 and "6: there is no hazard 'takes-for-ever'; the nearest is 'takes-forever'" in ran.err


def test_a_field_that_refuses_hides_nothing_behind_it(desk: Desk) -> None:
    desk.suite("""
[patterns.low]
expression = '(?P<size>\\d+)'
fields = { size = { type = "integer", most = 9 } }
[patterns.high]
expression = '\\d\\d'
[routes.size]
order = ["low", "high"]
otherwise = "none"
""")
    assert found_in(desk) == {}


def test_check_counts_hazards_and_names_the_grave_ones(desk: Desk) -> None:
    desk.suite(ODD)
    ran = desk.run("check")
    assert ran.status == 0 and "no baseline; 5 hazards (fieldstick" in ran.out
    assert "hidden-kind" in ran.out and "same-parts" not in ran.out
    again = desk.run("check")
    assert again.out == ran.out
    data = json.loads(desk.run("check", "--format", "json").out)
    assert len(data["hazards"]) == 5
    desk.suite("[patterns.a]\nexpression = 'a'\npositive = ['a']\n")
    assert "hazard" not in desk.run("check").out


def test_a_file_is_written_in_the_form_that_its_ending_tells(desk: Desk) -> None:
    desk.suite("[patterns.p]\nexpression = '[A-z]'\npositive = ['a']\n")
    begins = {"h.json": "{", "h.SARIF": '{\n "version"', "h.txt": "hazard", "h": "hazard"}
    for name, begin in begins.items():
        desk.run("hazards", "--to", name)
        assert (desk.folder / name).read_text().startswith(begin), name
    desk.run("hazards", "--to", "h.txt", "--format", "json")
    assert (desk.folder / "h.txt").read_text() == (desk.folder / "h.json").read_text()
    assert desk.run("report", "--to", "r.md").status == 0 and "sample passes" in (desk.folder / "r.md").read_text()
    assert desk.run("compare", "loggers.suite.toml", "loggers.suite.toml", "--to", "c.json").status == 0
    assert json.loads((desk.folder / "c.json").read_text())
    for command in (["hazards"], ["report"], ["compare", "loggers.suite.toml", "loggers.suite.toml"]):
        run = desk.run(*command, "--to", "h.pdf")
        assert run.status == 2 and "'.pdf' tells no form" in run.err and not (desk.folder / "h.pdf").exists()


def test_what_is_kept_from_before_changes_nothing(desk: Desk) -> None:
    desk.suite(ODD)
    places = {"XDG_CACHE_HOME": str(desk.folder / "kept")}
    first = desk.run("hazards", **places)
    files = list((desk.folder / "kept" / "fieldstick").iterdir())
    assert files and desk.run("hazards", **places).out == first.out
    for file in files:
        file.write_text("{broken", encoding="utf-8")
    assert desk.run("hazards", **places).out == first.out
    assert desk.run("hazards", XDG_CACHE_HOME="/dev/null/none").out == first.out


def test_findings_carry_line_and_column_for_code_hosts(desk: Desk) -> None:
    desk.suite(ODD)
    (run,) = json.loads(desk.run("hazards", "--format", "sarif").out)["runs"]
    regions = [each["locations"][0]["physicalLocation"]["region"] for each in run["results"]]
    assert len(regions) == 5 and all(each["startLine"] and each["startColumn"] for each in regions)
    desk.run("hazards", "--to", "told.txt")
    assert "nested-repeats" in (desk.folder / "told.txt").read_text(encoding="utf-8")


def test_kinds_are_proven_apart_or_shown_to_overlap_without_any_data(desk: Desk) -> None:
    desk.suite(ODD)
    pairs = json.loads(desk.run("route", "loggers:kind", "--overlaps", "--format", "json").out)["pairs"]
    assert [(each["kinds"], each["relation"]) for each in pairs] == [
        (["hyphen", "dotted"], "crossing"),
        (["hyphen", "word"], "wider"),
        (["dotted", "word"], "wider"),
    ]
    assert "'word' is never reached" in desk.run("route", "loggers:kind", "--overlaps").out


def test_where_there_is_nothing_to_look_at_it_is_said(desk: Desk) -> None:
    for command in ("hazards", "gaps"):
        ran = desk.run(command)
        assert ran.status == 2 and "no suite" in ran.err.lower()
    desk.suite("")
    assert desk.run("hazards").out.startswith("No hazard in 0 patterns and operations and 0 parts of 1 suite")
    desk.write("broken.suite.toml", "format = 1\nsuite = \n")
    ran = desk.run("hazards")
    assert ran.status == 2 and "broken.suite.toml:2" in ran.err


def test_no_text_of_a_hazard_reaches_a_terminal_as_a_control_sequence(desk: Desk) -> None:
    desk.suite('[patterns.p]\nexpression = \'[\\x00-\\x1f]*\'\nreach = "anywhere"\npositive = ["\\u001b"]\n')
    for arguments in (("hazards",), ("gaps",), ("compare", "-e", "[\\x1b]", "-e", "x")):
        for encoding in ("utf-8", "ascii"):
            out = desk.run(*arguments, encoding=encoding).out
            assert out and not set(out) & {chr(code) for code in range(32) if code != 10}, arguments


def test_the_order_is_that_of_the_files_and_the_same_every_time(desk: Desk) -> None:
    for name in ("two", "one"):
        desk.suite("[patterns.b]\nexpression = '[A-z]x'\n[patterns.a]\nexpression = '[+-/]y'\n", name)
    first = desk.run("hazards", "--format", "json").out
    data = json.loads(first)
    assert [(each["file"], each["line"]) for each in data["hazards"]] == [
        ("one.suite.toml", 4),
        ("one.suite.toml", 6),
        ("two.suite.toml", 4),
        ("two.suite.toml", 6),
    ]
    assert desk.run("hazards", "--format", "json").out == first
    assert data["totals"] == {"hazards": 4, "accepted": 0, "idle": 0}
    (alone,) = {
        each["file"] for each in json.loads(desk.run("hazards", "two.suite.toml", "--format", "json").out)["hazards"]
    }
    assert alone == "two.suite.toml"


def test_two_hazards_of_one_pattern_are_accepted_one_by_one(desk: Desk) -> None:
    body = "[patterns.p]\nexpression = '[A-z]+.csv'\npositive = ['a.csv']\n"
    for allow, left in (
        ("", {"wide-range", "dot-in-name"}),
        ("allow = [{ hazard = 'dot' }]\n", {"wide-range"}),
        ("allow = [{ hazard = 'dot' }, { hazard = 'wide-range', note = 'old books' }]\n", set()),
    ):
        desk.suite(body + allow)
        data = json.loads(desk.run("hazards", "--format", "json").out)
        assert {each["kind"] for each in data["hazards"] if not each["accepted"]} == left
    shown = desk.run("hazards")
    assert shown.status == 0 and "no reason is given" in shown.out and "old books" in shown.out
    assert "hazard" not in desk.run("check").out


def test_what_stands_in_a_part_is_open_until_all_that_use_it_accept_it(desk: Desk) -> None:
    body = "[parts]\nmark = '[A-z]'\n[patterns.p]\nexpression = '{{mark}}1'\n"
    allow = "allow = [{ hazard = 'wide-range' }]\n"
    desk.suite(body + allow + "[patterns.q]\nexpression = '{{mark}}2'\n")
    assert json.loads(desk.run("hazards", "--format", "json").out)["totals"]["hazards"] == 1
    desk.suite(body + allow + "[patterns.q]\nexpression = '{{mark}}2'\n" + allow)
    data = json.loads(desk.run("hazards", "--format", "json").out)
    assert data["totals"] == {"hazards": 0, "accepted": 1, "idle": 0}


def test_an_expression_that_stands_with_an_operation_is_looked_at_too(desk: Desk) -> None:
    path = desk.suite("[splits.list]\nat = 'x|[+-/]'\nsamples = [{ text = 'a+b', pieces = ['a', 'b'] }]\n")
    (found,) = found_in(desk).values()
    assert (found["address"], found["kind"], found["line"], found["column"]) == ("loggers:list", "wide-range", 4, 10)
    assert path.read_text(encoding="utf-8").splitlines()[3][9:] == "+-/]'"
