"""The live view: two heaps that follow what is typed, samples taken and kept, and nothing that makes it wait."""

from __future__ import annotations

import asyncio
import os
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path
from typing import TYPE_CHECKING

import pytest
from textual.widgets import Input, OptionList, Static

from fieldstick.commands.draft import _keep
from fieldstick.commands.live.screen import DraftScreen
from fieldstick.commands.live.worker import Reader
from fieldstick.commands.sources import sources_of
from fieldstick.data.read_options import ReadOptions
from fieldstick.runs.heaps import FITS, GIVEN_UP, HeapRun, HeldTexts
from fieldstick.suites.overrides import Overrides
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    from collections.abc import Awaitable, Callable

    from desk import Desk
    from textual.pilot import Pilot

LINES = [f"probe={row}{number:02} moisture={number}.4%" for row in "ABCDEF" for number in range(10)]
LINES += [f"trap={row}{number} frame=00{number}" for row in "AB" for number in range(1, 6)] + ["", "probe=B07 LOW"]
ANYWHERE = Overrides(reach="anywhere")


def driven(file: Path, first: str, steps: Callable[[DraftScreen, Pilot[None]], Awaitable[None]]) -> None:
    """Run the application on a file, 80 cells by 24, and drive it."""

    async def run() -> None:
        reader = Reader([str(file)], ReadOptions())
        screen = DraftScreen(reader, first, ANYWHERE, lambda name, draft, kept: _keep(name, draft, ANYWHERE, kept))
        try:
            async with screen.run_test(size=(80, 24)) as pilot:
                await steps(screen, pilot)
        finally:
            reader.stop()

    asyncio.run(run())


def shown(screen: DraftScreen, name: str) -> str:
    """Return what a line of the screen reads."""
    return str(screen.query_one(f"#{name}", Static).render())


async def until(pilot: Pilot[None], holds: Callable[[], bool]) -> None:
    """Wait for something to be seen, and fail where it is not."""
    for _ in range(600):
        if holds():
            return
        await pilot.pause(0.05)
    raise AssertionError("it was not seen")


def test_the_heaps_follow_what_is_typed_and_the_draft_is_kept_with_its_samples(desk: Desk) -> None:
    desk.write("probes.log", "\n".join(LINES) + "\n")

    async def steps(screen: DraftScreen, pilot: Pilot[None]) -> None:
        await until(pilot, lambda: shown(screen, "fits-head") == "fits 61 · 84.7 %")
        assert shown(screen, "misses-head") == "misses 11" and shown(screen, "moved") == "72 texts"
        assert shown(screen, "piece").startswith(r"\w+")
        await pilot.press("space", "m")
        await until(pilot, lambda: shown(screen, "moved") == "+0 fit now, −1 no longer\nprobe=B07 LOW")
        misses = screen.query_one("#misses", OptionList)
        assert shown(screen, "piece").startswith(" m  ") and misses.option_count == 2
        await pilot.press("f5", "f3")
        assert shown(screen, "moved") == "negative · samples: 0 positive, 1 negative\nprobe=B07 LOW"
        await pilot.press("tab", "f2", "f4")
        await until(pilot, lambda: "it fits" in shown(screen, "why-text"))
        assert "other sample" in " ".join(shown(screen, "why-text").split())
        assert screen.query_one("#why").display and not screen.query_one("#heaps").display
        await pilot.press("escape", "f7")
        assert screen.query_one("#draft", Input).value == r"probe=\w+ "
        await pilot.press("backspace")
        await until(pilot, lambda: "1 wrong: probe=B07 LOW" in shown(screen, "moved"))
        await pilot.press("space", "m")
        await until(pilot, lambda: "1 negative" in shown(screen, "moved") and "wrong" not in shown(screen, "moved"))
        await pilot.press("f6", *"probes.suite.toml:reading", "enter")
        assert "kept reading in probes.suite.toml" in shown(screen, "moved")
        assert screen.query_one("#draft", Input).value == r"probe=\w+ m"
        await pilot.press("f6", *"probes:reading", "enter")
        assert "reading" in shown(screen, "moved") and "kept" not in shown(screen, "moved")

    with pytest.MonkeyPatch.context() as patch:
        patch.chdir(desk.folder)
        driven(desk.folder / "probes.log", r"probe=\w+", steps)
    checked = desk.run("check")
    assert "2 samples" in checked.out, checked.err


def test_what_takes_forever_or_cannot_be_read_never_makes_the_prompt_wait(desk: Desk) -> None:
    desk.write("runaway.log", "".join(f"{'a' * 60}{number}!\n" for number in range(300)) + "wet\n")

    async def steps(screen: DraftScreen, pilot: Pilot[None]) -> None:
        draft = screen.query_one("#draft", Input)
        await pilot.press(*"^(a+)+$")
        assert draft.value == "^(a+)+$"
        await until(pilot, lambda: "given up" in shown(screen, "misses-head"))
        await pilot.press("backspace", "(")
        assert (
            draft.value == "^(a+)+(" and "cannot" not in shown(screen, "piece") and shown(screen, "piece")[:3] == "at "
        )
        await until(pilot, lambda: shown(screen, "moved").startswith("cannot be read"))
        await pilot.press("backspace")
        await until(pilot, lambda: shown(screen, "fits-head").startswith("fits 300"))

    driven(desk.folder / "runaway.log", "", steps)


@pytest.mark.parametrize("expression", [r"probe=(?P<plot>[A-C]\d\d)", "(a+)+$", r"\d\.4%$", ""])
def test_the_heaps_are_what_reading_each_text_gives(desk: Desk, expression: str) -> None:
    lines = [*LINES * 60, "a" * 40 + "!"]
    desk.write("probes.log", "\n".join(lines) + "\n")
    held = HeldTexts(sources_of([str(desk.folder / "probes.log")], ReadOptions()))
    matcher = Workspace().pattern(None, ANYWHERE, expression=expression).matcher
    other = Workspace().pattern(None, ANYWHERE, expression=r"frame|LOW").matcher
    before = HeapRun(held, other, walked=True).run(lambda known: None)
    heaps = HeapRun(held, matcher, walked=False).run(lambda known: None, before.outcomes)
    fits = [matcher.read_or_give_up(each).fits for each in lines]
    assert [each == FITS for each in heaps.outcomes] == fits and heaps.fit == sum(fits) and heaps.texts == len(lines)
    assert sum(each.count for each in heaps.causes) == heaps.missed == heaps.outcomes.count(0)
    assert heaps.gave_up == heaps.outcomes.count(GIVEN_UP)
    gained = [text for text, now in zip(lines, fits, strict=True) if now and not other.read_or_give_up(text).fits]
    assert heaps.movers is not None and heaps.movers.gained == len(gained)
    assert [each.text for each in heaps.movers.first_gained] == gained[:50]


def test_it_says_what_it_needs(desk: Desk) -> None:
    desk.write("probes.log", "\n".join(LINES) + "\n")
    assert "needs a terminal" in desk.run("draft", "probe").err
    assert "needs a terminal" in desk.run("draft", "probe", "probes.log").err
    assert "needs a terminal" in desk.run("draft", "probe", "-").err
    assert "nothing.log" in desk.run("draft", "probe", "nothing.log").err


class Pane:
    """A terminal in which a program runs, typed at through tmux."""

    def __init__(self, name: str, program: str) -> None:
        self._name = name
        self("new-session", "-d", "-x", "80", "-y", "24", program)

    def __call__(self, *words: str) -> str:
        command = ["tmux", "-L", self._name, "-u", *words]
        return subprocess.run(command, capture_output=True, text=True, check=False, encoding="utf-8").stdout

    def seen(self, words: str) -> bool:
        """Wait until words are on the screen."""
        for _ in range(600):
            if words in self("capture-pane", "-p"):
                return True
            time.sleep(0.05)
        return False


def goes_on(number: int) -> bool:
    """Tell whether a process runs still: one that has ended, and of which nobody took note yet, has no command line."""
    command = Path(f"/proc/{number}/cmdline")
    return command.exists() and command.read_bytes() != b""


in_tmux = pytest.mark.skipif(shutil.which("tmux") is None, reason="tmux is not here (Debian: tmux)")
BEGUN = f"LC_ALL=C.UTF-8 '{sys.executable}' -m fieldstick draft"


@in_tmux
@pytest.mark.parametrize("colour", [True, False])
@pytest.mark.parametrize("source", ["probes.log", "-"])
def test_it_is_typed_at_in_a_terminal(desk: Desk, colour: bool, source: str) -> None:
    desk.write("probes.log", "\n".join(LINES) + "\n")
    begun = f"{'' if colour else 'NO_COLOR=1 '}{BEGUN} {source} --reach start"
    program = f"cd '{desk.folder}'; {'cat probes.log | ' * (source == '-')}{begun}"
    pane = Pane(f"draft-{colour}-{len(source)}", f"{program}; echo left; sleep 20")
    try:
        assert pane.seen("72 texts"), pane("capture-pane", "-p")
        pane("send-keys", "-l", "probe=[A-C]")
        assert pane.seen("fits 31 · 43.1 %") and pane.seen("misses 41") and pane.seen("› probe=[A-C]")
        pane("send-keys", "F10")
        assert pane.seen("left")
    finally:
        pane("kill-server")


@in_tmux
@pytest.mark.skipif(not Path("/proc/self").exists(), reason="needs /proc")
@pytest.mark.parametrize("by", ["its terminal", "a signal"])
def test_it_ends_with_its_terminal_and_by_a_signal_however_busy_it_is(desk: Desk, by: str) -> None:
    desk.write("long.log", "x=1 " * 1_000_000)
    begun = f"""sh -c 'echo $$ > pid; exec env LC_ALL=C.UTF-8 "{sys.executable}" -m fieldstick draft long.log'"""
    pane = Pane(f"ended-{len(by)}", f"cd '{desk.folder}'; {begun}; echo left $?; cat")
    try:
        assert pane.seen("F10")
        pane("send-keys", "-l", "x")
        time.sleep(0.3)
        number = int((desk.folder / "pid").read_text())
        if by == "a signal":
            os.kill(number, signal.SIGTERM)
            assert pane.seen("left 143"), pane("capture-pane", "-p")
        else:
            pane("kill-server")
        assert any(not goes_on(number) or time.sleep(0.05) for _ in range(600)), "it went on without a terminal"
    finally:
        pane("kill-server")
