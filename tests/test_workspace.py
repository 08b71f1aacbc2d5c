"""Fieldstick from Python: no printing, no exiting, everything typed."""

from __future__ import annotations

import subprocess
import sys
from typing import TYPE_CHECKING

import pytest

import fieldstick

if TYPE_CHECKING:
    from pathlib import Path

    from conftest import Desk

BODY = (
    "[patterns.p]\nexpression = '(?P<plot>[A-F])(?P<n>\\d)'\nfields.n = { type = 'integer' }\npositive = ['A1', 'G1']\n"
)


def test_a_suite_is_loaded_read_with_and_checked(desk: Desk, capfd: pytest.CaptureFixture[str]) -> None:
    path = desk.suite(BODY)
    suite = fieldstick.load_suite(path)
    reading = suite.pattern("p").read("B7")
    assert reading.fits
    field = reading.fields["n"]
    assert field is not None and field.value == 7
    assert not suite.pattern("p").read("G7").fits
    for given in (suite, path, str(path)):
        result = fieldstick.check(given)
        assert (result.totals.passed, result.totals.fail, result.all_well) == (1, 1, False)
    assert list(suite) == ["p"]
    named = desk.suite("[patterns.of]\nexpression = 'at {{=name}}'\nparameters = ['name']\n", "named")
    assert fieldstick.load_suite(named).pattern("of", name="a.b").read("at a.b").fits
    assert capfd.readouterr() == ("", "")


def test_what_is_wrong_is_raised_with_its_line(desk: Desk) -> None:
    with pytest.raises(fieldstick.SuiteFileError) as caught:
        fieldstick.load_suite(desk.suite(BODY + "reech = 1\n"))
    assert [(each.line, each.message.split(";")[0]) for each in caught.value.problems] == [(7, "unknown key 'reech'")]


def test_every_public_name_is_there() -> None:
    assert all(getattr(fieldstick, name) is not None for name in fieldstick.__all__)
    with pytest.raises(AttributeError):
        fieldstick.nothing_of_the_kind  # noqa: B018


def test_importing_the_package_imports_nothing_heavy() -> None:
    assert loaded("import fieldstick", "click", "rich", "msgspec", "tomli") == []


def loaded(script: str, *modules: str) -> list[str]:
    """Return which of the modules a fresh interpreter has loaded after a script."""
    script += f"\nimport sys\nprint(*[each for each in {modules!r} if each in sys.modules], file=sys.stderr)"
    done = subprocess.run([sys.executable, "-I", "-c", script], capture_output=True, text=True, check=True)
    return done.stderr.splitlines()[-1].split()


HEAVY = (
    "rich", "pyarrow", "openpyxl", "sqlite3", "csv", "json", "multiprocessing", "pathlib", "tempfile",
    "dataclasses", "click_option_group", "fieldstick.demo.story", "fieldstick.runs.survey",
    "fieldstick.drafting.tracer", "fieldstick.data.parquet", "fieldstick.data.xlsx", "fieldstick.reporting.as_junit",
    "fieldstick.suites.tables",
)  # fmt: skip


@pytest.mark.parametrize(
    ("call", "needs"),
    [
        (["--version"], set()),
        (["check", "loggers.suite.toml"], set()),
        (["extract", "loggers.suite.toml:p", "x.log", "--to", "x.csv"], {"csv"}),
        (["extract", "loggers.suite.toml:p", "x.log", "--to", "x.jsonl"], {"json"}),
        (["select", "loggers.suite.toml:p", "x.log"], set()),
        (["why", "loggers.suite.toml:p", "A1"], {"fieldstick.drafting.tracer"}),
        (["check", "loggers.suite.toml", "--report", "junit=x.xml"], {"fieldstick.reporting.as_junit"}),
    ],
)
def test_a_command_imports_what_it_needs_and_nothing_else(desk: Desk, call: list[str], needs: set[str]) -> None:
    desk.suite(BODY.replace(", 'G1'", ""))
    desk.write("x.log", "A1\n")
    if call[0] == "check":
        desk.run("check", "loggers.suite.toml")  # what is found out once is remembered
    script = f"import os\nos.chdir({str(desk.folder)!r})\nfrom fieldstick.commands.main import run\nrun({call!r})"
    assert set(loaded(script, *HEAVY)) == needs


def test_uses_are_ready_from_python(tmp_path: Path) -> None:
    from fieldstick.demo.story import lay_out

    lay_out(tmp_path)
    loggers = fieldstick.load_suite(tmp_path / "loggers.suite.toml")
    permits = fieldstick.load_suite(tmp_path / "permits.suite.toml")
    records = fieldstick.load_suite(tmp_path / "records.suite.toml")
    assert loggers.rewrite("mask-pass").rewritten("pass=LM-2207 in").after == "pass=*****07 in"
    assert loggers.route("line-kind").kind("-- log rotated --") == "unknown"
    assert permits.split("purposes").pieces("light traps, two nights") == ("light traps", "two nights")
    rejects = permits.form("permit").judge([{"Heads": "seven", "Load": "80kg"}])[0]
    assert [each.column for each in rejects] == ["Permit code", "Leader", "Heads", "First day"]
    rows = [{"Locality": "Whin Sike", "Site code": "S02"}, {"Locality": "Fen", "Site code": "S01"}]
    lookup = records.lookup("site-of", rows)
    assert lookup.find({"begins": "whin"}).answers == ({"Site code": "S02"},)
    assert lookup.find({"begins": "x"}).answers == ({"Site code": "unlisted"},)
    with pytest.raises(fieldstick.UsageError, match="the suite 'permits' has no form 'permt'; the nearest is 'permit'"):
        permits.form("permt")
    with pytest.raises(fieldstick.UsageError, match="the rows have no column 'Locality'"):
        records.lookup("site-of", [{"Local": "x"}])
