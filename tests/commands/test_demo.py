"""`demo`, `schema` and the command line's own manners."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING

from fieldstick.commands.main import COMMANDS
from fieldstick.demo.story import lay_out

if TYPE_CHECKING:
    from conftest import Desk


def test_the_story_runs_to_its_end_on_the_real_files(desk: Desk) -> None:
    run = desk.program("demo", "--into", "here")
    assert run.status == 0
    assert "3 regressed, 1 changed" in run.out
    verdict = "47 patterns and 9 operations in 5 suites; 2 trials hold; against the baseline nothing"
    assert run.out.count(verdict) == 2 and "15 texts fit no more: battery" in run.out
    assert "Of 500 rows, 127 accepted, 373 rejected for 597 cells." in run.out and "… and 245 more lines" in run.out
    assert (desk.folder / "here/notes-for-visitors.txt").read_text(encoding="utf-8").count("54°…N") == 3
    assert "(?=\\d{6} )" in (desk.folder / "here" / "loggers.suite.toml").read_text(encoding="utf-8")
    again = desk.run("demo", "--into", "here")
    assert again.status == 2 and "is there already; nothing was written" in again.err


def test_a_single_file_in_the_way_is_kept_and_nothing_else_is_written(desk: Desk) -> None:
    kept = desk.write("here/permits.suite.toml", "mine")
    assert desk.run("demo", "--into", "here").status == 2
    assert kept.read_text() == "mine" and len(list((desk.folder / "here").iterdir())) == 1


def test_the_demo_holds_what_it_promises(desk: Desk) -> None:
    lay_out(desk.folder)
    data = json.loads(desk.run("check", "--format", "json").out)
    assert data["totals"]["samples"] >= 150 and sum(len(each["patterns"]) for each in data["suites"]) >= 25
    assert len((desk.folder / "data/loggers-2026-05.log").read_bytes().splitlines()) >= 5000


def test_the_schema_is_printed_as_json(desk: Desk) -> None:
    assert json.loads(desk.run("schema").out)["properties"]["patterns"]


def test_every_command_explains_itself_and_an_unknown_one_gets_the_nearest(desk: Desk) -> None:
    listed = desk.run("--help")
    for name in COMMANDS:
        assert name in listed.out
        shown = desk.run(name, "--help")
        assert shown.status == 0 and shown.out.startswith(f"Usage: fieldstick {name}")
    wrong = desk.run("chek")
    assert wrong.status == 2 and "the nearest is 'check'" in wrong.err
