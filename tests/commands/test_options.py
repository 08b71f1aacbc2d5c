"""The same options, the same rule for the first argument and the same headings in every command."""

from __future__ import annotations

from typing import TYPE_CHECKING

import click
import pytest

from fieldstick.commands.main import COMMANDS, GROUPS, cli

if TYPE_CHECKING:
    from conftest import Desk

READING = [
    "--as", "--column", "--rows", "--table", "--query", "--delimiter", "--quote", "--encoding", "--undecodable",
    "--whole", "--record-start", "--longest",
]  # fmt: skip
PATTERN = ["-e", "--reach", "--take", "--flag", "--suite", "--parameter", "--field", "--decimal-mark", "--group-mark"]
TAKE_A_SOURCE = {
    "survey": ["survey", "x.csv"],
    "try": ["try", "{}", "x.csv"],
    "why": ["why", "{}", "--from", "x.csv:2"],
    "propose": ["propose", "x.csv"],
    "which": ["which", "--from", "x.csv:2"],
    "sample": ["sample", "loggers:plot", "--negative", "--from", "x.csv:2", "--dry-run"],
    "extract": ["extract", "{}", "x.csv"],
    "validate": ["validate", "{}", "x.csv", "--rejects", "-"],
    "select": ["select", "{}", "x.csv"],
    "rewrite": ["rewrite", "{}", "x.csv", "--with", "<{match}>", "--to", "-"],
    "split": ["split", "{}", "x.csv"],
    "route": ["route", "loggers:kinds", "x.csv", "--format", "json"],
    "lookup": ["lookup", "{}", "x.csv", "--give", "Plot"],
}
TAKE_A_PATTERN = [name for name, call in TAKE_A_SOURCE.items() if "{}" in call]
SUITE = r"""
[parts]
letter = '[A-F]'
[patterns.plot]
expression = '{{letter}}07'
[routes.kinds]
order = ["plot"]
"""


@pytest.fixture
def station(desk: Desk) -> Desk:
    desk.suite(SUITE)
    (desk.folder / "x.csv").write_bytes("Note;Plot\n'a;\xe9';'b07'\nx;B08\n".encode("latin-1"))
    return desk


def options_of(name: str) -> dict[str, click.Option]:
    command = cli.get_command(click.Context(cli), name)
    assert command is not None
    return {each.opts[0]: each for each in command.params if isinstance(each, click.Option)}


OTHERWISE = (("lookup", "--take"), ("keep", "--suite"), ("propose", "--suite"), ("handover", "--as"))
"""Options that are about something else there; what handover reads is a pattern, and --as what it is written as."""


def test_an_option_is_of_one_kind_and_is_explained_in_the_same_words_everywhere() -> None:
    found: dict[str, set[tuple[str, str]]] = {}
    for name in COMMANDS:
        for option, each in options_of(name).items():
            if option in (*READING, *PATTERN) and (name, option) not in OTHERWISE:
                found.setdefault(option, set()).add((repr(each.type), (each.help or "").split("  ")[0]))
    assert {option for option, kinds in found.items() if len(kinds) > 1} == set()
    for name in TAKE_A_SOURCE:
        assert options_of(name).keys() >= set(READING), name
    for name in (*TAKE_A_PATTERN, "explain"):
        assert options_of(name).keys() >= set(PATTERN), name
    every = [option for name in COMMANDS for option in options_of(name)]
    assert every.count("--otherwise") == 3 and "--pick" not in every and "--missing" not in every


@pytest.mark.parametrize("name", TAKE_A_SOURCE)
def test_the_words_of_reading_hold_in_every_command_that_takes_a_source(station: Desk, name: str) -> None:
    asked = [each.replace("{}", "b0[78]") for each in TAKE_A_SOURCE[name]]
    words = ["--as", "csv", "--column", "Plot", "--delimiter", ";", "--quote", "'", "--encoding", "latin-1"]
    run = station.run(*asked, *words, *(["--flag", "ignore-case"] if name in TAKE_A_PATTERN else []))
    assert run.status in (0, 1) and run.err.count("fieldstick:") == 0, run.err
    expected = {
        "survey": "b07", "try": "2 fit", "why": "b07", "which": "b07", "propose": "takes   all",
        "sample": "b07", "extract": "b07\nB08",
        "validate": "source",
        "select": "'a;\udce9';'b07'", "rewrite": "'a;\udce9';'<b07>'", "split": "x.csv,3", "route": '"read": 2',
        "lookup": "Plot\nb07",
    }[name]  # fmt: skip
    assert expected in run.out + run.err.replace("\n", " "), run
    wrong = station.run(*asked, *words[:3], "Plto", *words[4:])
    assert wrong.status == 2 and "no column 'Plto'; the nearest is 'Plot'" in wrong.err
    refused = station.run(*asked, *words[:8], "--undecodable", "refuse")
    assert refused.status in (1, 2) and "x.csv" in refused.err and "utf-8" in refused.err.lower(), refused


@pytest.mark.parametrize("name", TAKE_A_PATTERN)
def test_the_words_of_a_pattern_hold_wherever_a_pattern_is_taken(station: Desk, name: str) -> None:
    words = ("--flag", "ignore-case", "--suite", "loggers", "--parameter", "n=07", "--reach", "start")
    expression, (first, _, *rest) = "{{letter}}{{=n}}", TAKE_A_SOURCE[name]
    reading = ("--as", "csv", "--column", "Plot", "--delimiter", ";", "--quote", "'", "--encoding", "latin-1")
    as_first = station.run(first, expression, *rest, *words, *reading)
    assert as_first.status in (0, 1) and "fieldstick:" not in as_first.err, as_first.err
    assert as_first == station.run(first, "-e", expression, *rest, *words, *reading)
    unknown = station.run(first, expression, *rest, *words, *reading, "--parameter", "m=1")
    assert unknown.status == 2 and "--parameter m: no pattern here has such a parameter" in unknown.err
    for field, said in (
        ("1=integr", "there is no type 'integr'; the nearest is 'integer'"),
        ("x=date", "field 'x'"),
    ):
        wrong = station.run(first, expression, *rest, *words, *reading, "--field", field)
        assert wrong.status == 2 and said in wrong.err, wrong.err


@pytest.mark.parametrize("name", [*TAKE_A_PATTERN, "explain"])
def test_what_looks_like_an_address_is_never_an_expression(station: Desk, name: str) -> None:
    first, _, *rest = TAKE_A_SOURCE.get(name, ["explain", "{}"])
    for address, words in (
        ("loggers:plto", "'plto'; the nearest is 'plot'"),
        ("logers:plot", "no suite here is named 'logers'; the nearest is 'loggers'"),
    ):
        run = station.run(first, address, *rest)
        assert run.status == 2 and words in run.err and not run.out


@pytest.mark.parametrize(
    ("given", "words"),
    [
        (("--field", "n=integer:%d"), "--field n=integer:%d: a layout stands behind date, time, timestamp alone"),
        (("--field", "n=date:%Q"), "--field n=date:%Q: layout is '%Q', which is none: 'Q' is a bad directive"),
        (("--field", "n=decimal", "--decimal-mark", ";;"), "--decimal-mark ';;': a mark is one character"),
        (("--field", "n=decimal", "--group-mark", ""), "--group-mark '': a mark is one character"),
        (("--field", "n=decimal", "--group-mark", "."), "group_mark and decimal_mark are both '.'"),
        (("--template", "{ nope }"), "the template names the field 'nope', which the pattern does not have"),
    ],
)
def test_what_makes_no_sense_of_a_field_is_a_sentence(desk: Desk, given: tuple[str, ...], words: str) -> None:
    run = desk.run("extract", "-e", r"(?P<n>\d+)", "-", *given, typed="7\n")
    assert run.status == 2 and words in run.err and run.out == ""


def test_help_stands_under_headings(desk: Desk) -> None:
    run = desk.run("extract", "--help", COLUMNS="80")
    places = [run.out.index(f"  {each}:") for each in ("The pattern", "What is read", "What is written", "How")]
    assert places == sorted(places) and max(map(len, run.out.splitlines())) <= 80
    assert places[0] < run.out.index("--reach") < places[1] < run.out.index("--column") < places[2]
    commands = desk.run("--help").out
    headings = [commands.index(f"{heading}:") for heading in GROUPS]
    assert headings == sorted(headings) and all(f"\n  {name} " in commands for name in COMMANDS)
