"""`demo`: the demo's files in a folder of the user's, and the whole job walked through on them."""

from __future__ import annotations

import shlex
import signal
import subprocess
import sys
import textwrap
from pathlib import Path

import click

from fieldstick.demo.story import STORY, Edit, Run, Tell, apply_edit, ending, lay_out
from fieldstick.errors import EXIT_SIGNALLED, FieldstickError
from fieldstick.reporting.document import BLANK, said
from fieldstick.reporting.terminal import Terminal


@click.command(short_help="Lay out the demo data and walk through the job with it.")
@click.option(
    "--into", default="larkmoor", show_default=True, metavar="DIR", help="The folder to lay the files out in."
)
def command(into: str) -> None:
    """Lay out the suites and data of the Larkmoor Field Station and walk through the job with them.

    Every step is the real command, run on the files just laid out. Files that are there are never overwritten.
    """
    folder = Path(into)
    terminal = Terminal.of()
    number = lay_out(folder)
    _tell(terminal, f"Laid out {number} files in {folder}.")
    for step in STORY:
        if isinstance(step, Tell):
            _tell(terminal, step.words)
        elif isinstance(step, Edit):
            _edit(terminal, folder, step)
        else:
            _run(terminal, folder, step)
    terminal.show(said(line) for line in ending(str(folder)).splitlines())


def _tell(terminal: Terminal, words: str) -> None:
    lines = textwrap.wrap(words, min(terminal.width, 96))
    terminal.show([*map(said, lines), BLANK])


def _edit(terminal: Terminal, folder: Path, edit: Edit) -> None:
    number, before, after = apply_edit(folder, edit)
    terminal.show([said((f"{edit.file}, line {number}", "quiet"))])
    for label, line, tone in (("was", before, "warn"), ("is", after, "good")):
        terminal.show([said((f"  {label:<4}", "quiet"), (line, tone))])
    terminal.show([BLANK])


def _run(terminal: Terminal, folder: Path, step: Run) -> None:
    shown = f"  > fieldstick {shlex.join(step.arguments)}"
    terminal.show([said((shown, "strong"), (f"   (in {folder})", "quiet")), BLANK])
    terminal.stream.flush()
    try:
        command = [sys.executable, "-m", "fieldstick", *step.arguments]
        if step.shown is None:
            status = subprocess.run(command, cwd=folder, check=False).returncode
        else:
            status = _first_lines(terminal, command, folder, step.shown)
    except KeyboardInterrupt:
        raise SystemExit(EXIT_SIGNALLED + signal.SIGINT) from None
    if status != step.status:
        raise FieldstickError(f"the demo stops: the command ended with {status}, not {step.status}")
    terminal.show([BLANK])


def _first_lines(terminal: Terminal, command: list[str], folder: Path, most: int) -> int:
    """Run a command, show the first lines of its output, say how many more there are, and return its status."""
    done = subprocess.run(command, cwd=folder, stdout=subprocess.PIPE, check=False, encoding="utf-8")
    lines = done.stdout.splitlines()
    more = len(lines) - most
    terminal.show(map(said, lines[:most]))
    if more > 0:
        terminal.show([said((f"… and {more:,} more lines", "quiet"))])
    return done.returncode
