"""`check --watch` checks again what a saved file touches, and tells what came out otherwise since the last look."""

from __future__ import annotations

import os
import select
import signal
import subprocess
import sys
import time
from contextlib import contextmanager
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Iterator
    from pathlib import Path

    from conftest import Desk

COMMON = "[parts]\nplot = '[A-F]\\d{2}'\n[patterns.plot]\nexpression = '{{plot}}'\npositive = ['B07']\n"
LOGGERS = """
borrow = { common = "common.suite.toml" }
[patterns.probe]
expression = 'probe={{common.plot}}'
positive = ['probe=B07', 'probe=C01', { file = "long.txt" }]
[patterns.gate]
expression = 'gate=\\w+'
positive = ['gate=north']
[[trials]]
data = "may.log"
patterns = ["probe"]
fits_share = { least = 0.5 }
"""


class Watcher:
    """The program while it watches: what it says until it falls silent."""

    def __init__(self, process: subprocess.Popen[bytes]) -> None:
        self.process = process

    def said(self, until: str) -> str:
        """Return what is written up to a line that holds some words."""
        assert self.process.stdout is not None
        found, deadline = b"", time.monotonic() + 60
        while until.encode() not in found:
            left = deadline - time.monotonic()
            assert left > 0 and select.select([self.process.stdout], [], [], left)[0], found.decode()
            piece = os.read(self.process.stdout.fileno(), 65536)
            assert piece, found.decode()
            found += piece
        return found.decode()


@contextmanager
def watching(desk: Desk, ending: signal.Signals = signal.SIGINT) -> Iterator[Watcher]:
    process = subprocess.Popen(
        [sys.executable, "-m", "fieldstick", "check", "--watch"],
        cwd=desk.folder,
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        env={**os.environ, "PYTHONIOENCODING": "utf-8"},
    )
    try:
        yield Watcher(process)
        process.send_signal(ending)
        assert process.wait(30) == 128 + ending
    finally:
        process.kill()
        process.wait()


def edit(path: Path, before: str, after: str) -> None:
    text = path.read_text()
    assert before in text
    path.write_text(text.replace(before, after))


def test_each_file_that_a_suite_is_made_of_is_watched(desk: Desk) -> None:
    common, loggers = desk.suite(COMMON, "common"), desk.suite(LOGGERS)
    long, data = desk.write("long.txt", "probe=D04"), desk.write("may.log", "probe=B07\nprobe=C07\n")
    desk.suite("[patterns.x]\nexpression = 'x'\npositive = ['x']\n", "other")
    with watching(desk) as program:
        assert "All 6 samples pass" in program.said("Watching 3 suites")
        edit(loggers, "gate=\\w+'", "gate=\\d+'")
        said = program.said("Of 6 samples, 1 fails")
        assert "loggers.suite.toml\nfails      loggers:gate  positive 1" in said and "probe=B07" not in said
        edit(loggers, "gate=\\d+'", "gate=(\\w+'")
        assert "cannot be judged" in program.said("cannot be judged:")
        edit(loggers, "positive = ['gate", "postive = ['gate")
        program.said("unknown key 'postive'")
        edit(loggers, "postive", "positive")
        edit(loggers, "gate=(\\w+'", "gate=\\w+'")
        assert "passes     loggers:gate  positive 1" in program.said("All 6 samples pass")
        # A part of a borrowed suite: one cause, whatever fails through it.
        edit(common, "[A-F]", "[G-H]")
        said = program.said("4 fail")
        assert "fail through common.plot" in said and "other:x" not in said
        edit(common, "[G-H]", "[A-F]")
        program.said("All 6 samples pass")
        long.write_text("probe=Z04")
        assert "long.txt" in program.said("Of 6 samples, 1 fails")
        long.write_text("probe=D05")
        program.said("All 6 samples pass")
        data.write_text("probe=B07\n--\n--\n")
        assert "it is 33.3 %" in program.said("a trial falls short")
        desk.suite("[patterns.y]\nexpression = 'y'\npositive = ['y']\n", "fresh")
        assert "new        fresh:y" in program.said("in 4 suites")
        (desk.folder / "fresh.suite.toml").unlink()
        assert "gone       fresh:y" in program.said("in 3 suites")


def test_a_signal_to_end_is_told_from_an_interrupt_and_mistakes_stand_on_lines_of_their_own(desk: Desk) -> None:
    desk.suite(COMMON, "common")
    loggers = desk.suite(LOGGERS.partition("[[trials]]")[0].replace(', { file = "long.txt" }', ""))
    with watching(desk, signal.SIGTERM) as program:
        program.said("Watching 2 suites")
        edit(loggers, "positive = ['", "postive = ['")
        assert program.said("\nloggers.suite.toml:10: unknown").count("unknown key 'postive'") == 2


def test_what_cannot_be_watched_is_a_sentence(desk: Desk) -> None:
    desk.suite(COMMON)
    run = desk.run("check", "--watch", "--format", "json")
    assert run.status == 2 and "--watch prints text alone" in run.err
