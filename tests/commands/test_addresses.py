"""What the drafting commands take: expressions, addresses, parts, parameters, and what they say of wrong ones."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING

import pytest

if TYPE_CHECKING:
    from conftest import Desk

SUITE = r"""
[defaults]
flags = ["ignore-case"]
[parts]
plot = '[A-F]\d{2}'
[patterns.reading]
expression = 'probe={{plot}}'
reach = "start"
positive = ['probe=B07']
[patterns.of]
expression = 'at {{=site}}'
parameters = ["site"]
positive = [{ text = 'at Fen + Carr', with = { site = "Fen + Carr" } }]
[patterns.third]
expression = '\d+'
reach = "anywhere"
take = 3
positive = ['1 2 3']
"""


@pytest.fixture
def station(desk: Desk) -> Desk:
    desk.suite(SUITE)
    desk.write(
        "deep/other.suite.toml", 'format = 1\nsuite = "other"\n[patterns.x]\nexpression = "x"\npositive = ["x"]\n'
    )
    desk.write("log.txt", "probe=B07\nPROBE=c12 dry\n1 2 3\n")
    return desk


def explained(desk: Desk, *arguments: str) -> dict[str, object]:
    found: dict[str, object] = json.loads(desk.run("explain", *arguments, "--format", "json").out)
    return found


def test_a_pattern_is_found_by_its_suites_name_or_path(station: Desk) -> None:
    by_name = explained(station, "loggers:reading")
    assert by_name == explained(station, "loggers.suite.toml:reading")
    assert by_name["flags"] == ["ignore-case"] and by_name["reach"] == "start"
    assert by_name["expression"] == r"probe=(?:[A-F]\d{2})"
    assert explained(station, "other:x")["expression"] == "x"


def test_what_is_no_address_is_an_expression(station: Desk) -> None:
    assert explained(station, "plot=B07: dry")["expression"] == "plot=B07: dry"
    assert explained(station, "-e", "plot:B07")["expression"] == "plot:B07"
    assert explained(station, "-e", "loggers:reading")["expression"] == "loggers:reading"
    assert explained(station, "{{plot}}x", "--suite", "loggers.suite.toml")["expression"] == r"(?:[A-F]\d{2})x"


def test_options_given_here_take_the_place_of_the_patterns_own(station: Desk) -> None:
    found = explained(station, "loggers:reading", "--reach", "whole", "--flag", "ascii")
    assert (found["reach"], found["flags"]) == ("whole", ["ascii"])


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["explain", "loggers:readin"], "has no pattern 'readin'; the nearest is 'reading'"),
        (["explain", "lodgers:reading"], "no suite here is named 'lodgers'; the nearest is 'loggers'"),
        (["select", "log.txt"], "'log.txt' is a file; a pattern as SUITE:PATTERN comes first"),
        (["explain"], "give a pattern as SUITE:PATTERN, or an expression with -e"),
        (["explain", "a", "-e", "b"], "give a pattern as SUITE:PATTERN, or an expression with -e"),
        (["explain", "{{plot}}"], "--suite FILE names the suite"),
        (["explain", "{{plt}}", "--suite", "loggers.suite.toml"], "the nearest is 'plot'"),
        (["explain", "{{=v}}"], "add --parameter v=VALUE"),
        (["explain", "a", "--parameter", "v"], "write NAME=VALUE"),
        (["explain", "a", "--suite", "gone.toml"], "cannot be read"),
        (["why", "loggers:of", "at x"], "add --parameter site=VALUE"),
        (["why", "-e", "a"], "write why -e EXPRESSION TEXT"),
        (["try"], "give a pattern as SUITE:PATTERN, or an expression"),
        (["try", "a", "gone.txt"], "gone.txt: cannot be read"),
        (["try", "a", "log.txt", "--take", "0"], "0 is no take"),
        (["try", "a", "log.txt", "--column", "x"], "no column 'x'"),
        (["survey", "deep"], "deep is a folder"),
        (["notation", "--engine", "pyton"], "the nearest is 'python'"),
        (["keep", "x", "a", "--suite", "gone.toml"], "cannot be read"),
        (["sample", "loggers:of", "--positive", "at x"], "needs a value for its parameter 'site'"),
        (["sample", "gone:p", "--positive", "x"], "no suite here is named 'gone'"),
        (["sample", "loggers:of", "--positive"], "give the text once"),
    ],
)
def test_a_wrong_call_is_a_sentence_and_status_2(station: Desk, arguments: list[str], words: str) -> None:
    run = station.run(*arguments)
    assert run.status == 2
    assert words in " ".join(run.err.split())


def test_two_suites_of_one_name_are_told_apart_by_their_paths(station: Desk) -> None:
    station.write("deep/loggers.suite.toml", 'format = 1\nsuite = "loggers"\n[patterns.reading]\nexpression = "y"\n')
    run = station.run("explain", "loggers:reading")
    assert run.status == 2 and "several suites are named 'loggers'" in run.err
    assert explained(station, "deep/loggers.suite.toml:reading")["expression"] == "y"


def test_parameters_stand_for_themselves_in_every_command(station: Desk) -> None:
    data = json.loads(
        station.run("why", "loggers:of", "at Fen + Carr", "--parameter", "site=Fen + Carr", "--format", "json").out
    )
    assert data["fits"] is True
    run = station.run("sample", "loggers:of", "--positive", "at a.b", "--parameter", "site=a.b")
    assert run.status == 0 and station.run("check").status == 0
    twice = station.run("sample", "loggers:of", "--positive", "at a.b", "--parameter", "site=a.b")
    assert twice.status == 2 and "is a positive sample already" in twice.err


def test_a_patterns_take_holds_in_try(station: Desk) -> None:
    data = json.loads(station.run("try", "loggers:third", "log.txt", "--format", "json").out)
    assert data["counts"]["fit"] == 1
    assert [each["matches"][0]["place"] for each in data["texts"] if each["fits"]] == [[4, 5]]


@pytest.mark.parametrize("command", ["survey", "try", "explain", "why", "notation"])
def test_every_drafting_command_has_json_in_ascii(station: Desk, command: str) -> None:
    station.write("odd.txt", "Λόφος \u202e 漢\n")
    arguments = {
        "survey": ["survey", "odd.txt"],
        "try": ["try", "Λ", "odd.txt", "--reach", "anywhere"],
        "explain": ["explain", "Λ+"],
        "why": ["why", "-e", "Λ", "λ"],
        "notation": ["notation", "classes"],
    }[command]
    run = station.run(*arguments, "--format", "json")
    assert run.out.isascii() and json.loads(run.out)
