"""Beside an ordinary test suite, samples are tests of pytest, and its own ways of choosing and reporting hold."""

from __future__ import annotations

import os
import re
import subprocess
import sys
import xml.etree.ElementTree as ET
from typing import TYPE_CHECKING

import pytest

if TYPE_CHECKING:
    from conftest import Desk

SUITE = """
[patterns.probe]
tags = ["soil"]
expression = 'probe=(?P<plot>[A-F]\\d{2})'
positive = ['probe=B07', 'probe::[B08]']
negative = ['probe=H07']
[patterns.gate]
expression = 'gate=\\w+'
positive = ['gate=north']
[[trials]]
data = "may.log"
patterns = ["probe"]
fits_share = { least = 0.4 }
"""
FAILING = "suites/loggers.suite.toml::probe::[positive 2] probe::[B08]"


@pytest.fixture
def beside(desk: Desk) -> Desk:
    desk.write("test_own.py", "def test_own():\n    assert 1 + 1 == 2\n")
    desk.write("suites/loggers.suite.toml", f'format = 1\nsuite = "loggers"\n{SUITE}')
    desk.write("suites/may.log", "probe=B07\n--\n")
    return desk


def run(desk: Desk, *arguments: str, as_installed: bool = False) -> tuple[int, str]:
    """Run pytest with the plug-in: found as an installed one is, or, which is quicker, named without any other."""
    environment = {key: value for key, value in os.environ.items() if not key.startswith(("PYTEST", "COLUMNS"))}
    named = ["-p", "fieldstick.pytest_plugin", "-p", "xdist.plugin"]
    if not as_installed:
        environment["PYTEST_DISABLE_PLUGIN_AUTOLOAD"] = "1"
    done = subprocess.run(
        [sys.executable, "-m", "pytest", "-v", *([] if as_installed else named), *arguments],
        cwd=desk.folder,
        capture_output=True,
        text=True,
        env=environment,
        check=False,
    )
    return done.returncode, done.stdout + done.stderr


def counts(output: str) -> dict[str, int]:
    last = output.strip().splitlines()[-1]
    return {word.rstrip("s"): int(number) for number, word in re.findall(r"(\d+) (passed|failed|errors?|desel)", last)}


def test_it_is_off_until_it_is_asked_for(beside: Desk) -> None:
    status, output = run(beside, as_installed=True)
    assert status == 0 and counts(output) == {"passed": 1}
    assert counts(run(beside, "--fieldstick", as_installed=True)[1]) == {"passed": 5, "failed": 1}


def test_samples_and_trials_are_tests_with_readable_names(beside: Desk) -> None:
    status, output = run(beside, "--fieldstick")
    assert status == 1 and counts(output) == {"passed": 5, "failed": 1}
    assert f"FAILED {FAILING}" in output and "loggers.suite.toml::[trial] may.log probe PASSED" in output
    # The ruler and the reason are printed.
    assert "    probe::[B08]\n    ━━━━━╳" in output and "it stops at 5: wanted '='; found ':'" in output


def test_the_ini_file_names_suites_wherever_tests_are(beside: Desk) -> None:
    beside.write("pytest.ini", "[pytest]\ntestpaths = tests\nfieldstick_suites = suites\n")
    beside.write("tests/test_more.py", "def test_more(): pass\n")
    status, output = run(beside)
    assert status == 1 and counts(output) == {"passed": 5, "failed": 1} and "test_more PASSED" in output
    assert counts(run(beside, "tests")[1]) == {"passed": 1}


def test_choosing_and_reporting_are_those_of_pytest(beside: Desk) -> None:
    assert counts(run(beside, "--fieldstick", "-k", "gate or test_own")[1]) == {"passed": 2, "desel": 4}
    assert counts(run(beside, "--fieldstick", "-k", "soil and negative")[1])["passed"] == 1
    assert counts(run(beside, FAILING, "--fieldstick")[1]) == {"failed": 1}
    assert counts(run(beside, "--fieldstick", "--lf")[1])["failed"] == 1
    status, output = run(beside, "--fieldstick", "-n", "2", "--junitxml", "out.xml")
    assert status == 1 and counts(output) == {"passed": 5, "failed": 1}
    cases = list(ET.parse(beside.folder / "out.xml").iter("testcase"))
    assert len(cases) == 6 and [case.get("name") for case in cases if case.find("failure") is not None] == [
        "[positive 2] probe::[B08]"
    ]


def test_the_baseline_and_mistakes_count_too(beside: Desk) -> None:
    path = beside.folder / "suites/loggers.suite.toml"
    path.write_text(path.read_text().replace(", 'probe::[B08]'", ""))
    assert beside.run("baseline", "--yes").status == 0
    path.write_text(path.read_text().replace("?P<plot>", "?P<place>"))
    status, output = run(beside, "--fieldstick")
    assert status == 1 and counts(output) == {"passed": 3, "failed": 2}
    assert "was        plot = 'B07'" in output and "1 captured otherwise" in output
    path.write_text(path.read_text().replace("?P<place>", "?P<plot>").replace("'gate=north'", ""))
    status, output = run(beside, "--fieldstick")
    assert status == 1 and "[gone] samples of the baseline FAILED" in output and "gate=north" in output
    path.write_text(path.read_text() + "\n[patterns.broken]\nexpression = 'B(['\n")
    status, output = run(beside, "--fieldstick")
    assert "broken::[expression] FAILED" in output and "unterminated character set at 2" in output
    path.write_text(path.read_text().replace("tags", "tgas"))
    status, output = run(beside, "--fieldstick")
    assert status == 2 and "loggers.suite.toml:5: unknown key 'tgas'; the nearest is 'tags'" in output
    assert "Traceback" not in output
