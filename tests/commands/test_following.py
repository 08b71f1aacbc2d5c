"""A file that grows is followed: each line once, as it comes, over to the file that takes its place, until the end."""

from __future__ import annotations

import os
import select
import signal
import subprocess
import sys
import time
from typing import TYPE_CHECKING, Any

import pytest

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator
    from pathlib import Path

    from conftest import Desk

SUITE = (
    "[patterns.reading]\nexpression = '(?P<plot>[A-F]\\d\\d) m=(?P<m>\\d+)'\n"
    "[patterns.gate]\nexpression = 'gate .*'\n"
    "[routes.kind]\norder = ['reading', 'gate']\n"
)


class Following:
    """The program as it follows a file."""

    def __init__(self, desk: Desk, *arguments: str) -> None:
        self._running = subprocess.Popen(
            [sys.executable, "-m", "fieldstick", *arguments, "--follow"],
            cwd=desk.folder,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
        )
        self._pipe = self._running.stdout.fileno()  # type: ignore[union-attr]
        self.out = ""

    def wait_for(self, there: Callable[[], bool]) -> None:
        """Wait until something is there, or half a minute is over."""
        deadline = time.monotonic() + 30
        while not there() and time.monotonic() < deadline and self._running.poll() is None:
            if select.select([self._pipe], [], [], 0.01)[0]:
                self.out += os.read(self._pipe, 1 << 16).decode()
        assert there(), self.out

    def end(self, number: int = signal.SIGINT) -> tuple[int, str]:
        """End it, and return its exit status and what it said."""
        self._running.send_signal(number)
        out, err = self._running.communicate(timeout=30)
        self.out += out.decode()
        return self._running.returncode, err.decode()


@pytest.fixture
def followed(desk: Desk) -> Iterator[Callable[..., Following]]:
    desk.suite(SUITE)
    made: list[Any] = []

    def start(*arguments: str) -> Following:
        made.append(Following(desk, *arguments))
        return made[-1]

    yield start
    for each in made:
        each._running.kill()


def add(path: Path, text: str) -> None:
    with path.open("a", encoding="utf-8") as stream:
        stream.write(text)


def test_lines_come_as_they_are_written_over_rotations_and_cuts(desk: Desk, followed: Callable[..., Following]) -> None:
    path = desk.write("a.log", "A01 m=1\nB02 m")
    running = followed("extract", "loggers:reading", "a.log", "--with-place")
    running.wait_for(lambda: "A01,1\n" in running.out)
    assert "B02" not in running.out
    add(path, "=2\ngate opened\n")
    running.wait_for(lambda: "B02,2\n" in running.out)
    # Another file takes its place, the old one's last line having no end.
    add(path, "C03 m=3\nD04 m=4")
    path.rename(desk.folder / "a.log.1")
    running.wait_for(lambda: "D04,4\n" in running.out)
    time.sleep(0.3)
    desk.write("a.log", "E05 m=5\n")
    running.wait_for(lambda: "E05,5\n" in running.out)
    # It is cut short and begun anew.
    path.write_text("F6\n")
    add(path, "F06 m=6\n")
    running.wait_for(lambda: "F06,6\n" in running.out)
    status, err = running.end()
    rows = [line.split(",")[1:2] + line.split(",")[4:] for line in running.out.splitlines()[1:]]
    assert [row[1:] for row in rows] == [
        ["A01", "1"],
        ["B02", "2"],
        ["C03", "3"],
        ["D04", "4"],
        ["E05", "5"],
        ["F06", "6"],
    ]
    assert [row[0] for row in rows] == ["1", "2", "4", "5", "6", "8"]
    assert status == 0 and "read 8 texts: 6 fit" in err


def test_what_is_followed_is_sorted_into_files_that_grow(desk: Desk, followed: Callable[..., Following]) -> None:
    path = desk.write("a.log", "A01 m=1\n")
    running = followed("route", "loggers:kind", "a.log", "--into", "k", "--from-now")
    kept = desk.folder / "k" / "gate.log"
    running.wait_for(kept.exists)
    time.sleep(1)
    add(path, "gate opened\nB02 m=2\nodd\n")
    running.wait_for(lambda: (desk.folder / "k" / "unknown.log").read_text() == "odd\n")
    assert kept.read_text() == "gate opened\n" and (desk.folder / "k" / "reading.log").read_text() == "B02 m=2\n"
    status, err = running.end(signal.SIGTERM)
    assert status == 0 and "read 3 texts" in err


def test_a_pipe_is_passed_on_as_it_comes(desk: Desk) -> None:
    desk.suite(SUITE)
    command = [sys.executable, "-m", "fieldstick", "select", "loggers:gate", "-"]
    running = subprocess.Popen(
        command, cwd=desk.folder, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL
    )
    assert running.stdin is not None and running.stdout is not None
    running.stdin.write(b"gate opened\nA01 m=1\n")
    running.stdin.flush()
    assert running.stdout.readline() == b"gate opened\n"
    running.stdin.close()
    assert running.wait(30) == 0


def test_what_cannot_be_followed_is_refused(desk: Desk) -> None:
    desk.suite(SUITE)
    desk.write("a.log", "A01 m=1\n")
    desk.write("a.csv", "Text\nA01 m=1\n")
    (desk.folder / "latin.log").write_bytes(b"\xff\xfea\0")
    for arguments, words in [
        (("-",), "--follow follows a file"),
        (("a.log", "a.csv"), "one file; name it"),
        (("a.csv", "--column", "Text"), "--follow reads lines"),
        (("latin.log", "--encoding", "utf-16"), "plain text in UTF-8"),
        (("a.log", "--to", "o.parquet"), "with --follow write text"),
        (("a.log", "--jobs", "2"), "leave --jobs"),
    ]:
        run = desk.run("extract", "loggers:reading", *arguments, "--follow")
        assert run.status == 2 and words in run.err, run.err
    assert "--from-now goes with --follow" in desk.run("extract", "loggers:reading", "a.log", "--from-now").err
