"""The process that reads for the live view answers the newest draft alone, and is begun anew when it cannot answer."""

from __future__ import annotations

import os
import signal
import time
from typing import TYPE_CHECKING

from fieldstick.commands.live import worker
from fieldstick.commands.live.worker import Draft, Found, Reader
from fieldstick.data.read_options import ReadOptions
from fieldstick.suites.overrides import Overrides

if TYPE_CHECKING:
    from collections.abc import Iterator
    from contextlib import AbstractContextManager

    import pytest

    from conftest import Desk

ANYWHERE = Overrides(reach="anywhere")


def reading(desk: Desk, text: str) -> AbstractContextManager[Reader]:
    """Begin a process that reads a file of that text, and end it."""
    from contextlib import contextmanager

    desk.write("probes.log", text)

    @contextmanager
    def begun() -> Iterator[Reader]:
        reader = Reader([str(desk.folder / "probes.log")], ReadOptions())
        try:
            yield reader
        finally:
            reader.stop()

    return begun()


def answer(reader: Reader, number: int) -> list[Found]:
    """Wait for all that is found of a draft."""
    made: list[Found] = []
    for _ in range(1_200):
        made += [each for each in reader.found() if each.number in (number, -1)]
        if made and made[-1].whole:
            return made
        time.sleep(0.025)
    raise AssertionError("no answer")


def test_the_newest_draft_is_answered_and_an_older_one_dropped(desk: Desk) -> None:
    with reading(desk, "probe=B07\ntrap=A4\n" * 3_000) as reader:
        for number in range(1, 20):
            reader.ask(Draft(number, "p(?:r|o|b|e)*" + "x?" * number, ANYWHERE))
        heaps = answer(reader, 19)[-1].heaps
        assert heaps is not None and (heaps.texts, heaps.fit, heaps.movers) == (6_000, 6_000, None)
        reader.ask(Draft(20, "trap", ANYWHERE, heaps.outcomes, positive=("probe",), negative=("trap", "hag")))
        found = answer(reader, 20)[-1]
        assert found.heaps is not None and found.heaps.movers is not None
        assert (found.heaps.movers.gained, found.heaps.movers.lost) == (0, 3_000)
        assert found.heaps.movers.first_lost[1].number == 3 and found.broken == ("probe", "trap")


def test_what_cannot_be_read_is_an_answer_with_its_place(desk: Desk) -> None:
    with reading(desk, "wet\n") as reader:
        reader.ask(Draft(1, "(wet", ANYWHERE))
        found = answer(reader, 1)[-1]
        assert found.fault is not None and found.heaps is None and found.position == 0
        reader.ask(Draft(2, "{{plot}}", ANYWHERE))
        assert "--suite" in (answer(reader, 2)[-1].fault or "")
        reader.ask(Draft(3, "we", Overrides(), text="wet", width=60))
        assert any("wanted the end" in segment.text for line in answer(reader, 3)[-1].why or () for segment in line)


def test_a_source_that_cannot_be_read_is_said(desk: Desk) -> None:
    with reading(desk, "wet\n") as reader:
        assert reader.found() is not None
    (desk.folder / "probes.log").unlink()
    reader = Reader([str(desk.folder / "probes.log")], ReadOptions())
    try:
        assert "probes.log" in (answer(reader, -1)[-1].fault or "")
    finally:
        reader.stop()


def test_a_process_that_is_stuck_or_gone_is_replaced(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(worker, "PATIENCE", 1.0)
    with reading(desk, "wet\n") as reader:
        reader.ask(Draft(1, "wet", ANYWHERE))
        answer(reader, 1)
        stuck = reader._process.pid
        assert stuck is not None
        os.kill(stuck, signal.SIGSTOP)
        reader.ask(Draft(2, "we", ANYWHERE))
        assert answer(reader, 2)[-1].heaps is not None and reader._process.pid != stuck
        gone = reader._process.pid
        assert gone is not None
        os.kill(gone, signal.SIGKILL)
        reader._process.join()
        reader.ask(Draft(3, "w", ANYWHERE))
        assert answer(reader, 3)[-1].whole
