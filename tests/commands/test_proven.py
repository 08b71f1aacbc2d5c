"""What is proven reaches whoever works: places in files, relations of whole patterns, hazards while drafting, flags."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING

import pytest

from conftest import Desk, json_schema, read_suite
from fieldstick.demo.story import lay_out
from fieldstick.matching.relations import pattern_relation
from fieldstick.reporting.relation_words import relation_words, text_words
from fieldstick.suites.places import place_in_text

if TYPE_CHECKING:
    from pathlib import Path


def test_every_character_of_an_expression_is_found_where_it_stands(tmp_path: Path) -> None:
    lay_out(tmp_path)
    seen = 0
    for file in sorted(tmp_path.glob("*.suite.toml")):
        suite = read_suite(file)
        lines = suite.document.split("\n")
        written = {("parts", name): text for name, text in suite.parts.items()}
        for pattern in suite.patterns.values():
            if pattern.filling is not None:
                written[(*map(str, pattern.path), "expression")] = pattern.filling.expression
        for path, text in written.items():
            for offset, character in enumerate(text):
                line, column = place_in_text(suite.document, path, offset)
                stands = (lines[line - 1] + "\n")[column - 1 :]
                assert stands[0] == character or stands.startswith("\\"), (file.name, path, offset)
                seen += 1
    assert seen > 1_500


@pytest.mark.parametrize(
    ("body", "words"),
    [
        ("[defaults]\ndecided_share = 1.5\n", "decided_share"),
        ("[defaults]\ndecided_share = 'all'\n", "decided_share"),
        ("[patterns.p]\nexpression = 'a'\nallow = ['dot']\n", "allow"),
        ("[patterns.p]\nexpression = 'a'\nallow = [{ note = 'x' }]\n", "hazard"),
        ("[patterns.p]\nexpression = 'a'\nallow = [{ hazard = 'dot', why = 'x' }]\n", "why"),
        ("[patterns.p]\nexpression = 'a'\nallow = [{ hazard = 'dots' }]\n", "there is no hazard 'dots'"),
    ],
)
def test_what_is_allowed_or_asked_for_wrongly_is_named_with_its_line(desk: Desk, body: str, words: str) -> None:
    desk.suite(body)
    ran = desk.run("check")
    assert ran.status == 2 and words in ran.err and "loggers.suite.toml:" in ran.err


def test_escapes_and_joined_lines_are_counted_as_they_are_spelled(desk: Desk) -> None:
    body = '[patterns.a]\nexpression = "\\t\\u00e9\\\\dx"\n[patterns.b]\nexpression = """\na\\\n   b\\"c"""\n'
    suite = read_suite(desk.suite(body))
    lines = suite.document.split("\n")
    for name, expected in (("a", ["\\t", "\\u00e9", "\\\\", "d", "x"]), ("b", ["a", "b", '\\"', "c"])):
        path = ("patterns", name, "expression")
        places = [place_in_text(suite.document, path, offset) for offset in range(len(expected))]
        for (line, column), spelled in zip(places, expected, strict=True):
            assert lines[line - 1][column - 1 :].startswith(spelled), (name, spelled)


def test_editors_know_the_new_keys() -> None:
    text = json.dumps(json_schema())
    assert '"decided_share"' in text and '"allow"' in text and '"hazard"' in text


SUITE = """
[parts]
plot = '[A-F][0-9]{2}'
[patterns.plain]
expression = 'probe={{plot}}'
reach = "start"
positive = ['probe=B07']
[patterns.trap]
expression = 'trap=[A-F][1-9]'
positive = ['trap=C3']
[patterns.either]
any_of = ["plain", "trap"]
positive = ['probe=B07']
[patterns.neither]
none_of = ["plain", "trap"]
positive = ['x']
[patterns.site]
expression = '{{=site}}: .'
parameters = ["site"]
positive = [{ text = "Fen: x", with = { site = "Fen" } }]
"""


def test_a_part_that_changes_says_what_each_pattern_takes_no_longer(desk: Desk) -> None:
    desk.suite(SUITE, "was")
    desk.suite(SUITE.replace("[0-9]{2}'", "[0-4][0-9]'").replace('"was"', '"now"'), "now")
    now = (desk.folder / "now.suite.toml").read_text(encoding="utf-8").replace('suite = "now"', 'suite = "was"')
    (desk.folder / "now.suite.toml").write_text(now, encoding="utf-8")
    data = json.loads(desk.run("compare", "was.suite.toml", "now.suite.toml", "--format", "json").out)
    told = {each["name"]: each["relation"] for each in data["suites"][0]["patterns"] if each["relation"]}
    assert (told["plain"]["relation"], told["plain"]["lost"]) == ("narrower", "probe=A50")
    assert told["either"]["relation"] == "narrower" and told["neither"]["relation"] == "wider"
    assert told["neither"]["gained"] == "probe=A50" and set(told) == {"plain", "either", "neither"}
    shown = desk.run("compare", "was.suite.toml", "now.suite.toml").out
    assert "narrower: it no longer takes 'probe=A50'" in shown


def test_reach_counts_and_a_parameter_is_undecided_without_its_value(desk: Desk) -> None:
    suite = read_suite(desk.suite(SUITE))
    plain, trap, either = (suite.patterns[name] for name in ("plain", "trap", "either"))
    found = pattern_relation(plain, plain.with_reach("whole"))
    assert (found.relation, found.only_first) == (
        "wider",
        "probe=A00\n" if found.only_first == "probe=A00\n" else "probe=A00a",
    )
    assert pattern_relation(plain, either).relation == "narrower"
    assert pattern_relation(plain, trap).relation == "apart"
    site = suite.patterns["site"]
    unknown = pattern_relation(site, site)
    assert unknown.relation == "undecided" and "'site' is not known" in unknown.why
    assert pattern_relation(site, site, {"site": "Fen"}).relation == "same"


def test_words_of_a_relation_show_texts_whatever_they_are() -> None:
    assert text_words("") == "the empty text"
    assert text_words("a\nb\x1b") == "'a␊b␛'"
    assert len(text_words("a" * 5_000)) < 140
    suite_words = {
        relation_words(each)
        for each in (
            _relation("same"), _relation("narrower", second="x"), _relation("wider", first=""),
            _relation("crossing", "a", "b"), _relation("apart", "a", "b"), _relation("undecided", why="too large"),
        )
    }  # fmt: skip
    assert suite_words == {
        "same: it takes just the texts that it took",
        "narrower: it no longer takes 'x'",
        "wider: it takes the empty text too",
        "crossing: it no longer takes 'b', and takes 'a' instead",
        "apart: it takes no text that it took; not 'b', but 'a'",
        "undecided: too large",
    }


def _relation(name: str, first: str | None = None, second: str | None = None, why: str = ""):  # type: ignore[no-untyped-def]
    from fieldstick.analysis.relation import Relation

    return Relation(name, first, second, None, why)  # type: ignore[arg-type]


def test_what_takes_forever_is_named_while_it_is_drafted(desk: Desk) -> None:
    slow = "(?:ab|a|ba)*c"
    explained = desk.run("explain", slow)
    assert "takes-forever" in explained.out and "is given up after its budget" in " ".join(explained.out.split())
    tried = desk.run("try", slow, "-", typed="abc\n")
    assert "takes-forever" in tried.out and tried.status == 0
    kept = desk.run("keep", "label", slow, "--suite", "new.suite.toml")
    assert "takes-forever" in kept.out
    data = json.loads(desk.run("explain", slow, "--format", "json").out)
    (hazard,) = [each for each in data["hazards"] if each["kind"] == "takes-forever"]
    assert hazard["changed"] == "(?:ab|a|ba)*c" or hazard["changed"].count("+") == 1
    assert "takes-forever" not in desk.run("explain", r"(?:[^,]+,)*[^,]+;").out


def test_a_flag_that_changes_nothing_is_named_where_it_stands(desk: Desk) -> None:
    desk.suite("""
[defaults]
flags = ["ignore-case"]
[patterns.digits]
expression = '\\d+%'
positive = ['7%']
[patterns.own]
expression = '\\d+%'
flags = ["dotall", "ascii"]
positive = ['7%']
[patterns.needed]
expression = '''
  [a-z]+ # a word
'''
flags = ["verbose", "ignore-case"]
positive = ['Fen']
""")
    data = json.loads(desk.run("hazards", "--format", "json").out)
    named = {(each["address"], each["source"]): each["line"] for each in data["hazards"] if each["kind"] == "idle-flag"}
    assert named == {("loggers:own", "dotall"): 11}


def test_a_hazard_of_a_borrowed_part_stands_in_its_own_suite_once(desk: Desk) -> None:
    desk.suite("[parts]\nwords = '(\\w+\\s?)*'\n", "common")
    borrow = 'borrow = { common = "common.suite.toml" }\n'
    for name in ("one", "two"):
        desk.suite(borrow + "[patterns.p]\nexpression = 'x{{common.words}};'\npositive = ['xa;']\n", name)
    data = json.loads(desk.run("hazards", "--format", "json").out)
    slow = [each for each in data["hazards"] if each["kind"] == "nested-repeats"]
    assert [(each["address"], each["file"], each["used_by"]) for each in slow] == [
        ("common:words", "common.suite.toml", ["one:p", "two:p"])
    ]
    alone = json.loads(desk.run("hazards", "one.suite.toml", "--format", "json").out)["hazards"]
    assert [(each["address"], each["file"]) for each in alone if each["kind"] == "nested-repeats"] == [
        ("one:p", "one.suite.toml")
    ]


def test_gaps_of_members_parameters_and_listed_values(desk: Desk) -> None:
    desk.suite(
        SUITE
        + """
[patterns.gate]
expression = '(?P<gate>\\w+) (?P<wait>\\d+,\\d)'
fields.gate = { one_of = ["north", "quarry"] }
fields.wait = { type = "decimal", decimal_mark = ",", least = 0, most = 9.5 }
positive = ['north 1,5']
"""
    )
    data = json.loads(desk.run("gaps", "--format", "json").out)
    found = {
        (each["address"], gap["words"]): add["text"]
        for each in data["patterns"]
        for add in each["add"]
        for gap in add["gaps"]
    }
    assert found["loggers:either", "no sample needs the member trap"] == "trap=C3"
    assert found["loggers:neither", "no sample needs the member plain"] == "probe=B07"
    assert found["loggers:gate", "no sample has the value 'quarry' of gate"] == "quarry 1,5"
    assert found["loggers:gate", "no sample lies at the most value, 9.5, of wait"] == "north 9,5"
    assert found["loggers:gate", "no sample lies just beyond the most value, 9.5, of wait"] == "north 9,6"
    assert any(address == "loggers:site" and text.startswith("Fen") for (address, _), text in found.items())


def test_gaps_are_drawn_with_the_piece_marked_in_any_width(desk: Desk) -> None:
    desk.suite(SUITE)
    wide, narrow = desk.run("gaps", COLUMNS="100").out, desk.run("gaps", COLUMNS="40").out
    for out, width in ((wide, 100), (narrow, 40)):
        assert "━" in out and "which fits now" in out
        assert all(len(line) <= width for line in out.splitlines() if line.startswith(" " * 11))
    assert desk.run("gaps", encoding="ascii").out.isascii()
    assert "--show" in desk.run("gaps", "--show", "1").out
    assert desk.run("gaps", "--show", "0").status == 1


def test_kinds_of_other_suites_are_told_apart_too(desk: Desk) -> None:
    desk.suite("[patterns.word]\nexpression = '\\w+'\npositive = ['a']\n", "common")
    desk.suite("""
borrow = { common = "common.suite.toml" }
[patterns.digits]
expression = '\\d+'
positive = ['7']
[patterns.back]
expression = '(\\w)\\1'
positive = ['aa']
[routes.kind]
order = ["digits", "common:word", "back"]
otherwise = "none"
""")
    pairs = json.loads(desk.run("route", "loggers:kind", "--overlaps", "--format", "json").out)["pairs"]
    assert [each["relation"] for each in pairs] == ["narrower", "undecided", "undecided"]
    assert "the reference \\1" in pairs[1]["why"]
    shown = desk.run("route", "loggers:kind", "--overlaps")
    assert "takes all that 'digits' takes, and more" in " ".join(shown.out.split()) and "undecided" in shown.out
    counted = desk.run("route", "loggers:kind", "-", "--overlaps", typed="77\n")
    assert "digits" in counted.out and "undecided" not in counted.out
