"""Fieldstick from Python: no printing, no exiting, everything typed."""

from __future__ import annotations

import subprocess
import sys
from typing import TYPE_CHECKING

import pytest

import fieldstick

if TYPE_CHECKING:
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
    script = "import fieldstick, sys; print([m for m in ('click', 'rich', 'pydantic', 'tomli') if m in sys.modules])"
    done = subprocess.run([sys.executable, "-I", "-c", script], capture_output=True, text=True, check=True)
    assert done.stdout == "[]\n"
