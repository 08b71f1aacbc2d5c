"""`check`, `baseline` and `new`, run as their users run them."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time
import xml.etree.ElementTree as ET
from typing import TYPE_CHECKING

import pytest

if TYPE_CHECKING:
    from conftest import Desk

GOOD = "[patterns.p]\nexpression = '(?P<plot>[A-F]\\d)'\ntags = ['soil']\npositive = ['A1', 'B2']\nnegative = ['G1']\n"
BAD = GOOD.replace("'G1'", "'F1'")


def test_a_new_suite_checks_clean_and_a_loosened_one_does_not(desk: Desk) -> None:
    assert desk.run("new", "loggers").status == 0
    clean = desk.run("check")
    assert clean.status == 0
    assert clean.out.splitlines()[-1].startswith("All 3 samples pass")
    suite = desk.folder / "loggers.suite.toml"
    suite.write_text(suite.read_text().replace(r"\d+\.\d)%", r"\d+(\.\d)?)%"))
    loosened = desk.run("check")
    assert loosened.status == 1
    assert "loggers:probe-reading  negative 1  loggers.suite.toml:27" in loosened.out
    assert "moisture always carries one decimal" in loosened.out


def test_new_never_overwrites_and_wants_a_name(desk: Desk) -> None:
    desk.write("x.suite.toml", "mine")
    taken, unnamed = desk.run("new", "x"), desk.run("new", "9x")
    assert (taken.status, unnamed.status) == (2, 2)
    assert (desk.folder / "x.suite.toml").read_text() == "mine"
    assert "is there already" in taken.err and "is not a name" in unnamed.err


def test_suites_are_found_below_folders_and_chosen_by_address_and_tag(desk: Desk) -> None:
    desk.suite(GOOD)
    desk.write("deep/er/two.suite.toml", f'format = 1\nsuite = "two"\n{GOOD.replace("soil", "gate")}')
    desk.write(".hidden/three.suite.toml", "broken")

    def checked(*arguments: str) -> list[str]:
        run = desk.run("check", "--format", "json", *arguments)
        return [f"{s['suite']}:{p['name']}" for s in json.loads(run.out)["suites"] for p in s["patterns"]]

    assert checked() == ["loggers:p", "two:p"]
    assert checked("deep") == checked("--only", "two:p") == checked("--tag", "gate") == ["two:p"]
    assert checked("--only", "deep/er/two.suite.toml:p") == checked("--only", "two") == ["two:p"]


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["--only", "logers:p"], "no suite here is named 'logers'; the nearest is 'loggers'"),
        (["--only", "loggers:q"], "has no pattern 'q'"),
        (["--tag", "sol"], "no pattern here has the tag 'sol'; the nearest is 'soil'"),
        (["--report", "jsn=x"], "there is no kind 'jsn'; the nearest is 'json'"),
        (["--report", "json"], "name a file"),
        (["--report", "json=gone/x.json"], "gone/x.json: cannot be written"),
        (["gone"], "gone: there is no such file or folder"),
        (["empty"], "no suite found"),
        (["--jobs", "0"], "--jobs"),
    ],
)
def test_a_wrong_call_is_a_sentence_and_status_2(desk: Desk, arguments: list[str], words: str) -> None:
    desk.suite(GOOD)
    (desk.folder / "empty").mkdir()
    run = desk.run("check", *arguments)
    assert run.status == 2 and words in run.err


def test_a_suite_without_a_sample_does_not_pass(desk: Desk) -> None:
    desk.suite("[patterns.p]\nexpression = 'a'\n")
    run = desk.run("check")
    assert run.status == 2 and "no sample tests p" in run.err and "nothing was checked" in run.err


def test_an_expression_that_cannot_be_read_fails_though_no_sample_tests_it(desk: Desk) -> None:
    broken = """
[parts]
code = '[z-a]'
[patterns.a]
expression = 'B(\\d'
[patterns.b]
expression = '{{code}}x'
[patterns.c]
expression = 'y{{code}}{{=plot}}'
parameters = ['plot']
[patterns.either]
any_of = ['a', 'b']
[splits.s]
at = '('
"""
    desk.suite(GOOD + broken)
    run = desk.run("check")
    assert run.status == 1 and "All 3 samples pass, but 4 expressions cannot be read" in run.out
    assert "loggers:a  no sample  loggers.suite.toml:12\n    B(\\d\n     ╳\n" in run.out
    assert run.out.count("bad character range z-a at 1 of") == 1 and "loggers:splits.s" in run.out
    assert "no sample tests either" in run.err
    found = json.loads(desk.run("check", "--format", "json", "--jobs", "2").out)
    named = {each["name"]: each.get("broken") for each in found["suites"][0]["patterns"]}
    assert named["a"]["fault"] == {"text": "B(\\d", "position": 1, "part": None} and not found["well"]
    assert [name for name, each in named.items() if each] == ["a", "b", "c"]
    counts = ET.fromstring(desk.run("check", "--format", "junit").out).attrib
    assert (counts["tests"], counts["errors"]) == ("7", "4")
    tap = desk.run("check", "--format", "tap").out
    assert tap.startswith("TAP version 14\n1..7\n") and tap.count("\nnot ok") == 4 and "not ok 7" in tap
    told = desk.run("check", "--format", "annotations").out.splitlines()
    assert [each.partition(",line=")[2].partition(",")[0] for each in told[:3]] == ["12", "10", "20"]
    # Nothing else but it: it is what was checked.
    desk.suite("[patterns.p]\nexpression = '('\n")
    run = desk.run("check")
    assert run.status == 1 and run.out.endswith("1 expression cannot be read: 1 pattern in 1 suite; no baseline.\n")


def test_mistakes_of_every_file_come_first_and_nothing_is_judged(desk: Desk) -> None:
    desk.suite(GOOD + "reech = 'whole'\n")
    desk.suite("[patterns.p]\n", name="other")
    run = desk.run("check")
    assert run.status == 2 and run.out == ""
    assert run.err.splitlines() == [
        "loggers.suite.toml:8: unknown key 'reech'; the nearest is 'reach'",
        "other.suite.toml:3: the pattern has no expression, any_of, all_of or none_of",
    ]


def test_an_engine_that_is_not_usable_is_status_3_and_the_others_are_judged(desk: Desk) -> None:
    desk.suite(GOOD + "[patterns.q]\nexpression = 'a'\nengines = ['elsewhere', 'python']\npositive = ['a']\n")
    run = desk.run("check")
    assert run.status == 3 and "engine 'elsewhere' is not usable here" in run.out
    assert "Of 4 samples, 1 cannot be judged" in run.out


def test_several_processes_find_the_same_as_one(desk: Desk) -> None:
    many = "".join(BAD.replace("patterns.p", f"patterns.p{number}") for number in range(300))
    desk.suite(many)
    runs = [desk.run("check", "--format", "json", "--jobs", jobs) for jobs in ("1", "3")]
    assert runs[0].status == runs[1].status == 1
    assert json.loads(runs[0].out) == json.loads(runs[1].out)


def test_reports_are_written_beside_what_is_printed(desk: Desk) -> None:
    desk.suite(BAD)
    kinds = (("json", "json"), ("junit", "xml"), ("tap", "tap"), ("text", "txt"))
    run = desk.run("check", *(f"--report={kind}=o.{ending}" for kind, ending in kinds))
    assert json.loads((desk.folder / "o.json").read_text())["totals"]["fail"] == 1
    assert ET.parse(desk.folder / "o.xml").getroot().attrib["failures"] == "1"
    assert "not ok 3" in (desk.folder / "o.tap").read_text()
    assert (desk.folder / "o.txt").read_text() == run.out


def test_the_round_of_a_baseline(desk: Desk) -> None:
    path = desk.suite(GOOD)
    asked = desk.run("baseline", typed="n\n")
    assert asked.status == 1 and not (desk.folder / "loggers.baseline.json").exists()
    assert desk.run("baseline").status == 2, "nobody there to answer"
    assert desk.run("baseline", typed="y\n").status == 0
    assert "Nothing to record" in desk.run("baseline").out
    path.write_text(path.read_text().replace("A-F", "B-F"))
    run = desk.run("check")
    assert run.status == 1 and "regressed" in run.out and "against the baseline 1 regressed" in run.out
    assert "no baseline" in desk.run("check", "--no-baseline").out
    path.write_text(path.read_text().replace("(?P<plot>[B-F]", "(?P<row>[A-F]"))
    renamed = desk.run("check")
    assert renamed.status == 1 and "2 changed" in renamed.out and "is         row = 'A1'" in renamed.out
    tolerated = desk.run("check", "--tolerate", "changed")
    assert tolerated.status == 0 and "2 changed (tolerated)" in tolerated.out
    shown = desk.run("baseline", "--yes")
    assert "plot: 'A1' → no such field" in shown.out
    assert "nothing changed" in desk.run("check").out


def test_a_baseline_is_not_recorded_while_samples_time_out(desk: Desk) -> None:
    desk.suite(GOOD + f"[patterns.q]\nexpression = '(a+)+$'\nbudget_ms = 50\npositive = ['{'a' * 40}b']\n")
    refused = desk.run("baseline", "--yes")
    assert refused.status == 2 and "--even-so" in refused.err
    assert not (desk.folder / "loggers.baseline.json").exists()
    assert desk.run("baseline", "--yes", "--even-so").status == 0
    still = desk.run("check")
    assert still.status == 1 and "1 timed out" in still.out and "nothing changed" in still.out


@pytest.mark.parametrize("jobs", ["1", "2"])
@pytest.mark.parametrize("expression", ["(a+)+$", "(?:a*b)+$"])
def test_an_interrupt_stops_at_once_with_status_130(desk: Desk, jobs: str, expression: str) -> None:
    text = "a" * (40 if "+)+" in expression else 2_000_000)
    desk.suite(
        f"[patterns.p]\nexpression = '{expression}'\nreach = 'anywhere'\nbudget_ms = 600000\npositive = ['{text}b!']\n"
    )
    process = subprocess.Popen(
        [sys.executable, "-m", "fieldstick", "check", "--jobs", jobs],
        cwd=desk.folder,
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        start_new_session=True,
    )
    with pytest.raises(subprocess.TimeoutExpired):
        process.wait(2)
    started = time.perf_counter()
    os.killpg(process.pid, signal.SIGINT)
    _, err = process.communicate(timeout=30)
    assert time.perf_counter() - started < 10
    assert process.returncode == 130
    assert b"Traceback" not in err and b"interrupted" in err
    with pytest.raises(ProcessLookupError):
        while time.perf_counter() - started < 20:
            os.killpg(process.pid, 0)  # until nothing is left of all that it had started
            time.sleep(0.05)


def test_a_reader_that_leaves_early_ends_the_run_without_a_word(desk: Desk) -> None:
    desk.suite("".join(BAD.replace("patterns.p", f"patterns.p{number}") for number in range(400)))
    command = f"{sys.executable} -m fieldstick check | head -n 1"
    done = subprocess.run(command, shell=True, cwd=desk.folder, capture_output=True, text=True, timeout=60, check=False)
    assert done.stdout.count("\n") == 1 and done.stderr == ""


def test_an_output_without_box_characters_still_reads(desk: Desk) -> None:
    desk.suite(BAD)
    run = desk.run("check", encoding="ascii", COLUMNS="40")
    assert "    ||\n    plot" in run.out and run.out.isascii()


def test_a_name_where_a_path_is_asked_for_is_told_what_takes_it(desk: Desk) -> None:
    desk.suite(BAD)
    for name in ("loggers", "loggers:p"):
        run = desk.run("check", name)
        assert run.status == 2 and f"--only {name} checks what has that name" in run.err
    assert "--only" not in desk.run("check", "loggers.suite.tml").err


@pytest.mark.parametrize(("extra", "coloured"), [({}, True), ({"NO_COLOR": "1"}, False), ({"TERM": "dumb"}, False)])
def test_colour_is_for_terminals_without_no_color(desk: Desk, extra: dict[str, str], coloured: bool) -> None:
    desk.suite(BAD)
    shown = desk.in_terminal("check", **extra)
    assert "loggers:p" in shown
    assert ("\x1b[" in shown) == coloured
