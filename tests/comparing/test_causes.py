"""One broken part, member or pattern shows as one cause, whatever fails through it, and the same on every run."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING, Any

import pytest

if TYPE_CHECKING:
    from conftest import Desk

COMMON = """
format = 1
suite = "common"
[parts]
clock = '\\d{2}:\\d{2}'
stamp = '\\d{4}T{{clock}}Z'
[patterns.stamp]
expression = '{{stamp}}'
positive = ['2026T06:10Z', '2026T06:11Z']
negative = ['2026T06:1Z']
"""
LOGGERS = """
borrow = { common = "common.suite.toml" }
[parts]
plot = '[A-F]\\d{2}'
[patterns.probe]
expression = '{{common.stamp}} probe={{plot}}'
positive = ['2026T06:10Z probe=B07', '2026T06:10Z probe=C01']
negative = ['2026T06:10Z probe=07']
[patterns.gate]
expression = '{{common.stamp}} gate=(?P<gate>north|quarry)'
positive = ['2026T06:10Z gate=north']
negative = ['2026T06:10Z gate=south']
[patterns.any]
any_of = ["probe", "gate"]
positive = ['2026T06:10Z gate=quarry']
negative = ['x']
[routes.kind]
order = ["probe", "gate"]
otherwise = "rest"
[[routes.kind.samples]]
text = '2026T06:10Z gate=quarry'
kind = "gate"
"""


@pytest.fixture
def two(desk: Desk) -> Desk:
    desk.write("common.suite.toml", COMMON)
    desk.suite(LOGGERS)
    desk.run("baseline", "--yes")
    return desk


def causes_of(desk: Desk, *options: str) -> list[tuple[str, str, int | None, int]]:
    first, again = (json.loads(desk.run("check", "--format", "json", *options).out) for _ in range(2))
    assert first == again
    found: list[dict[str, Any]] = first.get("causes", [])
    return [(each["kind"], each["through"], each["line"], len(each["samples"])) for each in found]


def edit(desk: Desk, name: str, before: str, after: str) -> None:
    path = desk.folder / f"{name}.suite.toml"
    text = path.read_text()
    assert before in text
    path.write_text(text.replace(before, after))


def test_a_clean_run_has_no_cause(two: Desk) -> None:
    assert causes_of(two) == []


@pytest.mark.parametrize("options", [(), ("--no-baseline",)])
def test_what_fails_through_a_part_stands_under_the_innermost_one(two: Desk, options: tuple[str, ...]) -> None:
    edit(two, "common", "clock = '\\d{2}:\\d{2}'", "clock = '\\d{2}:\\d{3}'")
    assert causes_of(two, *options) == [("part", "common.clock", 5, 7)]
    run = two.run("check", *options)
    head = "cause      7 samples of 4 patterns and 1 operation fail through common.clock  common.suite.toml:5"
    assert run.out.splitlines()[0] == head
    assert run.out.count("because ") == 1 and run.out.count("fails ") == 7


@pytest.mark.parametrize("options", [(), ("--no-baseline",)])
def test_a_part_that_takes_too_little_is_the_cause_of_what_stops_behind_it(two: Desk, options: tuple[str, ...]) -> None:
    edit(two, "common", "clock = '\\d{2}:\\d{2}'", "clock = '\\d{2}:\\d'")
    assert causes_of(two, *options)[0][:3] == ("part", "common.clock", 5)


def test_a_part_that_takes_too_much_is_the_cause_of_negative_samples_that_fit_now(two: Desk) -> None:
    edit(
        two,
        "loggers",
        "[patterns.gate]",
        "[patterns.trap]\nexpression = 'trap={{plot}}'\nnegative = ['trap=07']\n[patterns.gate]",
    )
    two.run("baseline", "--yes")
    edit(two, "loggers", "plot = '[A-F]", "plot = '[A-F]?")
    assert causes_of(two) == [("part", "loggers.plot", 6, 2)]
    assert [kind for kind, *_ in causes_of(two, "--no-baseline")] == ["place", "place"], (
        "nothing shows that they changed"
    )


def test_a_part_that_does_not_compile_is_shown_once_with_what_is_wrong(two: Desk) -> None:
    edit(two, "common", "clock = '\\d{2}:\\d{2}'", "clock = '\\d{2}:(\\d{2}'")
    assert causes_of(two, "--no-baseline") == [("part", "common.clock", 5, 11)]
    run = two.run("check")
    assert run.out.count("because") == 1 and "this parenthesis is not closed" in run.out
    assert "error      loggers:routes.kind  its sample" in run.out


def test_a_member_is_the_cause_of_what_is_made_of_it(two: Desk) -> None:
    edit(two, "loggers", "north|quarry", "north|quary")
    edit(two, "loggers", "positive = ['2026T06:10Z gate=north']", "positive = ['2026T06:10Z gate=quarry']")
    assert causes_of(two) == [("pattern", "loggers:gate", 11, 3)]


def test_samples_of_one_pattern_that_stop_at_one_place_are_told_together(two: Desk) -> None:
    edit(two, "loggers", "probe={{plot}}", "probe={{plot}}!")
    edit(
        two, "loggers", "positive = ['2026T06:10Z probe=B07'", "positive = ['2026T06:10Z B07', '2026T06:10Z probe=B07'"
    )
    assert causes_of(two) == [("place", "loggers:probe", None, 1), ("place", "loggers:probe", None, 2)]


def test_what_is_gone_fails_by_name_and_text_unless_that_is_tolerated(two: Desk) -> None:
    edit(two, "loggers", ", '2026T06:10Z probe=C01'", "")
    edit(two, "loggers", "[patterns.gate]", "[patterns.passes]")
    edit(two, "loggers", '["probe", "gate"]', '["probe", "passes"]')
    edit(two, "loggers", 'kind = "gate"', 'kind = "passes"')
    (two.folder / "common.suite.toml").rename(two.folder / "shared.suite.toml")
    edit(two, "loggers", "common.suite.toml", "shared.suite.toml")
    run = two.run("check", "--tolerate", "changed")
    assert run.status == 1 and "4 gone" not in run.out and "6 gone" in run.out
    assert "gone       the suite common  common.baseline.json is left of it, with 3 samples" in run.out
    assert "gone       loggers:gate  with its 2 samples; now 2 of them in loggers:passes" in run.out
    assert "gone       loggers:probe  positive  2026T06:10Z probe=C01" in run.out
    tolerated = two.run("check", "--tolerate", "changed", "--tolerate", "gone")
    assert tolerated.status == 0 and "6 gone (tolerated)" in tolerated.out
    assert two.run("check", "--no-baseline").status == 0
    for form, failing in (("tap", "not ok"), ("junit", "<failure")):
        strict, lax = (
            two.run("check", "--tolerate", "changed", *more, "--format", form) for more in ((), ("--tolerate", "gone"))
        )
        assert strict.out.count(failing) == 6 and lax.out.count(failing) == 0


def test_what_is_new_never_fails_and_a_failing_sample_cannot_be_deleted_unseen(two: Desk) -> None:
    edit(
        two,
        "loggers",
        "negative = ['2026T06:10Z probe=07']",
        "negative = ['2026T06:10Z probe=07', '2026T06:10Z probe=7']",
    )
    assert two.run("check").status == 0
    edit(two, "loggers", "plot = '[A-F]", "plot = '[A-B]")
    assert two.run("check").status == 1
    edit(two, "loggers", ", '2026T06:10Z probe=C01'", "")
    assert two.run("check").status == 1
