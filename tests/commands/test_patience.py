"""Texts that take forever: each has its budget, by processor time, and too many of them stop the work."""

from __future__ import annotations

import sys
from typing import TYPE_CHECKING

import pytest

from fieldstick.engines.budget import MOST_SPENT
from fieldstick.engines.helper import matches_in_helper
from fieldstick.errors import BudgetSpent

if TYPE_CHECKING:
    from conftest import Desk

SLOW = "(a+)+;(?<=(?!c);)"
SUITE = f"""
[patterns.slow]
expression = '{SLOW}'
budget_ms = 30
positive = ['aa;']
[rewrites.slow]
pattern = "slow"
with = "x"
[splits.slow]
pattern = "slow"
[routes.slow]
order = ["slow"]
[forms.slow]
columns = {{ v = "slow" }}
"""
COMMANDS = [
    ("extract", "loggers:slow", "x.log", "--to", "o.csv"),
    ("select", "loggers:slow", "x.log", "--to", "o.csv"),
    ("split", "loggers:slow", "x.log", "--to", "o.csv"),
    ("rewrite", "loggers:slow", "x.log", "--to", "o.csv"),
    ("route", "loggers:slow", "x.log", "--into", "o.csv"),
    ("validate", "--form", "loggers:slow", "x.csv", "--rejects", "o.csv"),
    ("lookup", "loggers:slow", "x.csv", "--column", "v", "--give", "v", "--to", "o.csv"),
    ("try", "loggers:slow", "x.log"),
]


def laid_out(desk: Desk, slow: int) -> None:
    desk.suite(SUITE)
    texts = ["aa;", *(["a" * 40] * slow), "aaa;"]
    desk.write("x.log", "".join(f"{text}\n" for text in texts))
    desk.write("x.csv", "v\n" + "".join(f"{text}\n" for text in texts))


@pytest.mark.parametrize("command", COMMANDS, ids=lambda command: command[0])
def test_work_stops_after_too_many_and_goes_on_when_told_to(desk: Desk, command: tuple[str, ...]) -> None:
    laid_out(desk, MOST_SPENT)
    stopped = desk.run(*command)
    assert stopped.status == 1 and f"stopped, since {MOST_SPENT} texts each took longer" in stopped.err
    assert not any(each.is_file() for each in desk.folder.glob("o.csv*")) and not list(desk.folder.glob("o.csv/*"))
    patient = desk.run(*command, "--patient")
    assert "stopped, since" not in patient.err and (patient.status == 1 or command[0] == "try")


@pytest.mark.parametrize("command", COMMANDS[:5], ids=lambda command: command[0])
def test_a_few_are_given_up_and_named(desk: Desk, command: tuple[str, ...]) -> None:
    laid_out(desk, MOST_SPENT - 1)
    run = desk.run(*command)
    assert run.status == 1 and f"{MOST_SPENT - 1} texts given up" in run.err and "x.log:2" in run.err


@pytest.mark.skipif(sys.platform == "win32", reason="no timer of processor time")
def test_the_helper_counts_its_own_processor_time() -> None:
    request = (SLOW, 0, "a" * 5000, "whole", 1)
    with pytest.raises(BudgetSpent):
        matches_in_helper(request, 50)
    assert matches_in_helper((r"x*", 0, "ab" * 3000, "anywhere", None), 500)[0] == ((0, 0),)
