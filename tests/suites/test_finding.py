"""Suites and patterns are found by name and path, and files are written whole or not at all."""

from __future__ import annotations

from typing import TYPE_CHECKING

import pytest

from fieldstick.errors import UsageError, hint
from fieldstick.files import write_whole
from fieldstick.suites.finding import find_suites, split_address
from fieldstick.syntax.scan import group_names, scan

if TYPE_CHECKING:
    from pathlib import Path

    from conftest import Desk


@pytest.mark.parametrize(
    ("address", "parts"),
    [
        ("loggers:probe", ("loggers", "probe")),
        ("a/b.suite.toml:probe", ("a/b.suite.toml", "probe")),
        ("C:/a/b.suite.toml", ("C:/a/b.suite.toml", None)),
        ("C:/a/b.suite.toml:probe", ("C:/a/b.suite.toml", "probe")),
        ("loggers", ("loggers", None)),
    ],
)
def test_an_address_is_a_suite_and_a_pattern(address: str, parts: tuple[str, str | None]) -> None:
    assert split_address(address) == parts


def test_each_suite_is_found_once_however_often_it_is_named(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    desk.write("a/x.suite.toml", "")
    desk.write("b/y.suite.toml", "")
    desk.write("b/z.toml", "")
    monkeypatch.chdir(desk.folder)
    assert find_suites() == ["a/x.suite.toml", "b/y.suite.toml"]
    assert find_suites(["a/x.suite.toml", "a", "."]) == ["a/x.suite.toml", "b/y.suite.toml"]
    assert find_suites(["b/z.toml"]) == ["b/z.toml"], "a file that is named is taken at its word"


def test_hints_name_the_nearest_or_what_there_is() -> None:
    assert hint("reech", ["reach", "take"]) == "; the nearest is 'reach'"
    assert hint("zzz", ["reach", "take"]) == "; there are reach, take"
    assert hint("zzz", []) == "; there are none here"
    assert hint("q", [f"name{number}" for number in range(20)]).endswith("and 8 more")


def test_a_file_keeps_its_mode_and_no_trace_is_left_beside_it(tmp_path: Path) -> None:
    target = tmp_path / "x.json"
    write_whole(target, "one")
    target.chmod(0o640)
    write_whole(target, "zwei é")
    assert target.read_text(encoding="utf-8") == "zwei é"
    assert target.stat().st_mode & 0o777 == 0o640
    assert [path.name for path in tmp_path.iterdir()] == ["x.json"]
    with pytest.raises(UsageError, match="cannot be written"):
        write_whole(tmp_path / "gone" / "x.json", "one")


def test_an_interrupt_while_writing_leaves_the_old_file(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    target = tmp_path / "x.json"
    write_whole(target, "one")

    def interrupted(descriptor: int) -> None:
        raise KeyboardInterrupt

    monkeypatch.setattr("os.fsync", interrupted)
    with pytest.raises(KeyboardInterrupt):
        write_whole(target, "two")
    assert target.read_text() == "one" and len(list(tmp_path.iterdir())) == 1


@pytest.mark.parametrize(
    ("expression", "verbose", "groups"),
    [
        (r"(a)(?:b)(?P<n>c)", False, ("1", "n")),
        (r"\((a)[(](?#()", False, ("1",)),
        (r"[]()](a)[^]()](b)", False, ("1", "2")),
        ("(a) # (b\n(c)", True, ("1", "2")),
        ("(a) # (b\n(c)", False, ("1", "2", "3")),
        (r"(?=(a))(?<=b)(?P=n)(?i:(c))", False, ("1", "2")),
        ("(?x)(a) # (b", False, ("1",)),
    ],
)
def test_a_scan_counts_capture_groups(expression: str, verbose: bool, groups: tuple[str, ...]) -> None:
    assert group_names(scan(expression, verbose=verbose).groups) == groups


@pytest.mark.parametrize(
    ("expression", "uses"),
    [
        ("{{plot}}", [("plot", False, False)]),
        ("[{{set}}]{{=v}}", [("set", False, True), ("v", True, False)]),
        ("{{c.stamp}}", [("c.stamp", False, False)]),
        (r"\{{plot}}", []),
        ("{{ plot }}", [("", False, False)]),
        ("(?x)a # {{plot}}", []),
    ],
)
def test_a_scan_finds_the_parts_that_are_used(expression: str, uses: list[tuple[str, bool, bool]]) -> None:
    assert [(use.name, use.parameter, use.in_class) for use in scan(expression).uses] == uses
