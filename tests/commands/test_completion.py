"""Shells complete commands, options, suites, patterns, fields and kinds; what installs that does so once."""

from __future__ import annotations

import os
import pty
import select
import shutil
import subprocess
import sys
import time
from pathlib import Path
from typing import TYPE_CHECKING

import pytest

if TYPE_CHECKING:
    from conftest import Desk

SUITE = """
[patterns.battery]
expression = '(?P<volts>\\d)(?P<low> LOW)?'
[patterns.barrier]
expression = '(?P<gate>\\w+) {{=site}}'
parameters = ["site"]
[routes.line-kind]
order = ["battery"]
"""


@pytest.fixture
def station(desk: Desk) -> Desk:
    desk.suite(SUITE)
    desk.suite("[patterns.x]\nexpression = 'x'\n", "notes")
    desk.write("broken.suite.toml", "suite = 'broken'\n[[[")
    desk.write("loggers.log", "x\n")
    return desk


def answers(desk: Desk, line: str) -> list[str]:
    """Return what bash is told of a line."""
    asked = {"COMP_LINE": line, "COMP_POINT": str(len(line)), "_FIELDSTICK_COMPLETE": "bash_complete"}
    run = desk.program(**asked)
    assert run.status == 0, run.err
    return [each.removeprefix("plain,") for each in run.out.split()]


@pytest.mark.parametrize(
    ("line", "expected"),
    [
        ("fieldstick ba", ["baseline"]),
        ("fieldstick check --no-b", ["--no-baseline"]),
        ("fieldstick check --format ju", ["junit"]),
        ("fieldstick extract --as js", ["json", "jsonl"]),
        # bash takes a colon for the end of a word: what stands before it is there already.
        ("fieldstick extract loggers:ba", ["battery", "barrier"]),
        ("fieldstick extract notes:", ["x"]),
        ("fieldstick route ", ["loggers:line-kind", "file,"]),
        ("fieldstick history lo", ["loggers:battery", "loggers:barrier", "loggers"]),
        ("fieldstick check --only no", ["notes:x", "notes"]),
        ("fieldstick try --suite n", ["notes"]),
        ("fieldstick extract loggers:battery --field ", ["volts=", "low="]),
        ("fieldstick extract loggers:battery --field volts=in", ["volts=integer"]),
        ("fieldstick select loggers:barrier --parameter ", ["site="]),
        ("fieldstick extract 'loggers:bat", ["battery"]),
    ],
)
def test_a_line_is_completed(station: Desk, line: str, expected: list[str]) -> None:
    found = [each for each in answers(station, line) if not each.startswith("file,") or "file," in expected]
    if line.endswith("route "):
        found = [each for each in found if not each.startswith("file,")]
        expected = expected[:1]
    assert found == expected


def test_it_is_installed_once_and_says_where(station: Desk) -> None:
    home = {"HOME": str(station.folder), "XDG_DATA_HOME": "", "XDG_CONFIG_HOME": "", "ZDOTDIR": ""}
    station.write(".bashrc", "alias x=y")
    for shell, name in (("bash", ".bashrc"), ("zsh", ".zshrc")):
        for _ in range(2):
            run = station.run("completion", shell, "--install", **home)
            assert run.status == 0 and name in run.out
        script = station.folder / f".local/share/fieldstick/completion.{shell}"
        text = (station.folder / name).read_text()
        assert text.count(str(script)) == 2 and text.count("# completion of fieldstick") == 1 and script.exists()
    assert (station.folder / ".bashrc").read_text().startswith("alias x=y\n[")
    assert station.run("completion", "--install", SHELL="/usr/bin/fish", **home).status == 0
    assert (station.folder / ".config/fish/completions/fieldstick.fish").exists()
    assert "name the shell" in station.run("completion", SHELL="/bin/sh").err


def shell_environment(desk: Desk) -> dict[str, str]:
    """Return an environment in which `fieldstick` is the program under test."""
    desk.write("bin/fieldstick", f"#!/bin/sh\nexec '{sys.executable}' -m fieldstick \"$@\"\n").chmod(0o755)
    return {**os.environ, "PATH": f"{desk.folder / 'bin'}:{os.environ['PATH']}", "HOME": str(desk.folder), "PS1": "> "}


@pytest.mark.parametrize(
    ("shell", "start", "before"),
    [
        ("bash", ["bash", "--norc", "--noprofile", "-i"], "source c.bash"),
        ("zsh", ["zsh", "-f", "-i"], "autoload -Uz compinit && compinit -u -D && source ./c.zsh"),
    ],
)
def test_in_a_real_shell_the_tab_key_completes(station: Desk, shell: str, start: list[str], before: str) -> None:
    if shutil.which(shell) is None:
        pytest.skip(f"{shell} is not installed")
    station.write(f"c.{shell}", station.run("completion", shell).out)
    main, side = pty.openpty()
    environment = {**shell_environment(station), "TERM": "xterm"}
    process = subprocess.Popen(
        start, cwd=station.folder, stdin=side, stdout=side, stderr=side, env=environment, start_new_session=True
    )
    os.close(side)

    def typed(keys: str, until: str) -> None:
        os.write(main, keys.encode())
        found, deadline = b"", time.monotonic() + 30
        while until.encode() not in found:
            left = deadline - time.monotonic()
            assert left > 0 and select.select([main], [], [], left)[0], (keys, found)
            found += os.read(main, 65536)

    try:
        typed(f"{before}; echo re''ady\n", "ready")
        typed("echo fieldstick comple\x15fieldstick comple\t", "completion")
        typed("\x15fieldstick extract loggers:bat\t", "loggers:battery")
        typed("\x15fieldstick route log\t", "loggers:line-kind")
    finally:
        process.kill()
        process.wait()
        os.close(main)


@pytest.mark.skipif(shutil.which("fish") is None, reason="fish is not installed")
def test_in_a_real_fish(station: Desk) -> None:
    station.write("c.fish", station.run("completion", "fish").out)
    asked = 'source c.fish; complete -C "fieldstick comp"; complete -C "fieldstick extract loggers:b"'
    done = subprocess.run(
        ["fish", "--no-config", "-c", asked],
        cwd=station.folder, env=shell_environment(station), capture_output=True, text=True, check=True,
    )  # fmt: skip
    found = [line.partition("\t")[0] for line in done.stdout.splitlines()]
    assert found == ["compare", "completion", "loggers:barrier", "loggers:battery"]
    assert Path(station.folder / "c.fish").stat().st_size
