"""Baselines: stable, readable, whole, and honest about what changed."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TYPE_CHECKING

import pytest

from conftest import read_suite
from fieldstick.comparing.baseline import baseline_text, read_baseline, records_of, write_baseline
from fieldstick.errors import UsageError
from fieldstick.runs.check import Choice
from fieldstick.suites.finding import baseline_path
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    from conftest import Desk
    from fieldstick.runs.results import SuiteResult

BODY = """
[patterns.p]
expression = '(?P<k>[a-z]+)=(?P<v>\\d+)'
positive = ['a=1', 'b=22', 'c=333']
negative = ['x=y']
[patterns.q]
expression = '\\d+'
positive = ['7']
"""


def check(desk: Desk, body: str, *only: str) -> SuiteResult:
    (result,) = Workspace().check([read_suite(desk.suite(body))], Choice(only)).suites
    return result


def record(desk: Desk, body: str) -> None:
    result = check(desk, body)
    write_baseline(result.suite, records_of(result), read_baseline(result.suite))


def standings(result: SuiteResult) -> dict[str, str | None]:
    return {each.sample.text: each.standing for pattern in result.patterns for each in pattern.samples}


def test_moving_samples_about_changes_nothing(desk: Desk) -> None:
    moved = BODY.replace("['a=1', 'b=22', 'c=333']", "['c=333', 'a=1', 'b=22']")
    patterns = moved.split("[patterns.q]")
    moved = f"[patterns.q]{patterns[1]}{patterns[0]}"
    texts = [baseline_text("loggers", records_of(check(desk, body))) for body in (BODY, moved)]
    assert texts[0] == texts[1]
    record(desk, BODY)
    assert set(standings(check(desk, moved)).values()) == {"steady"}


def test_a_baseline_has_one_sample_a_line_and_hides_nothing(desk: Desk) -> None:
    body = BODY + '[patterns.r]\nexpression = ".*"\npositive = ["\\u202eé\\u001b", "%s"]\n' % ("long" * 5000)
    record(desk, body)
    written = Path(baseline_path(read_suite(desk.folder / "loggers.suite.toml").location)).read_text(encoding="utf-8")
    assert sum('"outcome"' in line for line in written.splitlines()) == written.count('"outcome"') == 7
    assert "\u202e" not in written and "\\u202eé\\u001b" in written
    assert max(map(len, written.splitlines())) < 600
    assert list(json.loads(written)["samples"]) == ["p", "q", "r"]
    assert set(standings(check(desk, body)).values()) == {"steady"}


def test_every_kind_of_change_is_told_apart(desk: Desk) -> None:
    before = BODY.replace("positive = ['7']", "positive = ['7', 'seven']")
    record(desk, before)
    after = BODY.replace("[a-z]+)=(?P<v>\\d+)'", "[a-z]+)=(?P<v>\\d)\\d?'").replace("'a=1', ", "'a=1', 'd=4', ")
    after = after.replace("expression = '\\d+'", "expression = '\\d+|seven'").replace("['7']", "['seven']")
    result = check(desk, after)
    expected = {
        "a=1": "steady",
        "d=4": "new",
        "b=22": "changed",
        "c=333": "regressed",
        "x=y": "steady",
        "seven": "mended",
    }
    assert standings(result) == expected
    assert [(gone.pattern, gone.text) for gone in result.gone] == [("q", "7")]
    (changed,) = [each for each in result.patterns[0].samples if each.standing == "changed"]
    assert [(each.name, each.before, each.now) for each in changed.changes] == [("v", "'22'", "'2'")]


@pytest.mark.parametrize(
    ("change", "told"),
    [
        (("(?P<v>", "(?P<w>"), [("v", "'1'", "no such field"), ("w", "no such field", "'1'")]),
        (("(?P<k>[a-z]+)", "([a-z]+)"), [("1", "no such field", "'a'"), ("k", "'a'", "no such field")]),
        (("\\d+)'", "\\d+)'\nfields.v = { type = 'integer' }"), [("v", "'1' (type text)", "'1' (type integer)")]),
        (
            ("(?P<k>[a-z]+)=(?P<v>\\d+)'", "(?P<k>[a-z]*).(?P<v>.*?)'\nreach = 'start'"),
            [("the match", "0 to 3", "0 to 2"), ("v", "'1'", "''")],
        ),
        (("'(?P<k>[a-z]+)=(?P<v>", "'(?P<k>[a-z]+)=(?P<v>(?=(?P<n>.))?"), [("n", "no such field", "'1'")]),
    ],
)
def test_a_renamed_renumbered_or_retyped_field_is_seen(
    desk: Desk, change: tuple[str, str], told: list[tuple[str, str, str]]
) -> None:
    record(desk, BODY)
    result = check(desk, BODY.replace(*change, 1))
    first = result.patterns[0].samples[0]
    assert first.standing == "changed"
    assert [(each.name, each.before, each.now) for each in first.changes] == told


def test_a_long_text_is_shortened_and_a_change_at_its_end_is_seen(desk: Desk) -> None:
    body = "[patterns.r]\nexpression = '(?P<all>.*?)z*'\npositive = ['%s']\n" % ("long" * 500 + "z")
    record(desk, body)
    held = (desk.folder / "loggers.baseline.json").read_text(encoding="utf-8")
    assert f"{'long' * 15}… (2000 characters, sha256 " in held and len(held) < 1000
    (sample,) = check(desk, body.replace("z*'", "'")).patterns[0].samples
    assert [each.name for each in sample.changes] == ["all"]
    assert "(2000 characters" in sample.changes[0].before and "(2001 characters" in sample.changes[0].now


def test_a_field_that_moved_is_seen(desk: Desk) -> None:
    body = "[patterns.p]\nexpression = '(?P<k>a)a'\npositive = ['aa']\n"
    record(desk, body)
    (sample,) = check(desk, body.replace("(?P<k>a)a", "a(?P<k>a)")).patterns[0].samples
    assert [each.now for each in sample.changes] == ["'a' (place 1 to 2)"]


def test_checking_one_pattern_says_nothing_of_the_others(desk: Desk) -> None:
    record(desk, BODY)
    assert check(desk, BODY.replace("'a=1', ", ""), "loggers:q").gone == ()


@pytest.mark.parametrize(
    "content", ["", "[]", '{"format": 2, "samples": {}}', '{"format": 1, "samples": {"p": {"x": 1}}}']
)
def test_a_file_that_is_no_baseline_is_a_sentence(desk: Desk, content: str) -> None:
    desk.write("loggers.baseline.json", content)
    with pytest.raises(UsageError, match="not a baseline"):
        read_baseline(read_suite(desk.suite(BODY)))


def test_a_baseline_that_cannot_be_written_leaves_the_old_one(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    record(desk, BODY)
    before = (desk.folder / "loggers.baseline.json").read_bytes()

    def full(descriptor: int) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("os.fsync", full)
    with pytest.raises(UsageError, match="No space left"):
        record(desk, BODY.replace("'a=1', ", ""))
    assert (desk.folder / "loggers.baseline.json").read_bytes() == before
    assert sorted(path.name for path in desk.folder.iterdir()) == ["loggers.baseline.json", "loggers.suite.toml"]
