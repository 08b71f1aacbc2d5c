"""What threads read ahead and write behind comes to the same as without them, errors and early ends included."""

from __future__ import annotations

import random
import re
import sys
import tempfile
import threading
from pathlib import Path
from typing import TYPE_CHECKING, Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.data import ahead as ahead_in_thread
from fieldstick.data import compression
from fieldstick.data import source as sources
from fieldstick.data.ahead import LONGEST_WAIT, MOST, ahead
from fieldstick.data.in_turn import InTurn
from fieldstick.data.read_options import ReadOptions
from fieldstick.data.shared_reading import shared
from fieldstick.data.source import Source
from fieldstick.data.text_file import TextFile
from fieldstick.kernels.walkers import NATIVE
from fieldstick.matching import row_walks
from fieldstick.matching.prepare import prepare
from fieldstick.matching.walks import SortWalk
from fieldstick.runs import processes
from fieldstick.runs.select import SelectJob, SelectOptions
from fieldstick.runs.survey import SurveyJob
from fieldstick.workspace import bare_pattern

if TYPE_CHECKING:
    from collections.abc import Iterator

    from tests.conftest import Desk

    from fieldstick.data.batch import StoredTexts


def test_things_are_made_in_order_a_few_before_they_are_asked_for() -> None:
    made: list[int] = []
    maker = threading.Semaphore(0)

    def making() -> Iterator[int]:
        for number in range(50):
            made.append(number)
            maker.release()
            yield number
        raise LookupError("no more")

    found = ahead(making())
    assert next(found) == 0
    for _ in range(MOST + 1):
        assert maker.acquire(timeout=10)
    assert len(made) <= MOST + 1
    with pytest.raises(LookupError, match="no more"):
        assert [next(found) for _ in range(50)] == []
    assert made == list(range(50))


def test_an_early_end_is_one_for_the_thread_too() -> None:
    before = threading.active_count()
    left: list[str] = []

    def making() -> Iterator[int]:
        try:
            yield from range(1000)
        finally:
            left.append("closed")

    found = ahead(making())
    assert next(found) == 0 and threading.active_count() == before + 1
    found.close()  # type: ignore[attr-defined]
    assert threading.active_count() == before and left == ["closed"]


def test_threads_wait_as_long_as_before_for_the_interpreter_whichever_ends_first() -> None:
    before = sys.getswitchinterval()
    first, second = ahead(iter(range(99))), ahead(iter(range(99)))
    assert next(first) == next(second) == 0 and sys.getswitchinterval() == pytest.approx(LONGEST_WAIT)
    first.close()  # type: ignore[attr-defined]
    assert sys.getswitchinterval() == pytest.approx(LONGEST_WAIT)
    assert [*second] == [*range(1, 99)] and sys.getswitchinterval() == before


def test_two_threads_share_what_is_to_be_done_and_it_comes_in_order() -> None:
    waiting, threads = threading.Semaphore(0), set[int]()

    def done(number: int) -> int:
        threads.add(threading.get_ident())
        # Neither could do the first two alone.
        waiting.release() if number == 1 else number or waiting.acquire(timeout=10)
        if number == 40:
            raise LookupError("no more")
        return -number

    before, found, made = threading.active_count(), shared(iter(range(90)), done), list[int]()
    with pytest.raises(LookupError, match="no more"):
        made.extend(found)
    assert made == [-number for number in range(40)] and len(threads) == 2
    assert threading.active_count() == before
    assert [*shared(iter(range(300)), lambda number: number)] == [*range(300)]

    def claims() -> Iterator[int]:
        yield from range(3)
        raise OSError("the disk is gone")

    with pytest.raises(OSError, match="the disk is gone"):
        made.extend(shared(claims(), done))
    assert made[40:] == [0, -1, -2]
    early = shared(iter(range(1000)), lambda number: number)
    assert next(early) == 0 and threading.active_count() == before + 1
    early.close()  # type: ignore[attr-defined]
    assert threading.active_count() == before


LINES = st.lists(
    st.sampled_from([b"a", b"\n", b"\n", b"\r\n", b"\r", b"x" * 9, b"\xff", b"\xc3\xa9", b"\0"]), max_size=60
).map(b"".join)


@given(
    LINES,
    st.sampled_from([None, 3, 8]),
    st.integers(1, 9),
    st.sampled_from([1, 3, 4096]),
    st.booleans(),
    st.sampled_from(["lines", "records"]),
)
def test_what_is_read_ahead_is_the_same(
    data: bytes, longest: int | None, size: int, end: int, all_on: bool, kind: Any
) -> None:
    begins = (lambda text: text.startswith("a")) if kind == "records" else None
    options = ReadOptions(longest=longest, passes_on=all_on, begins_record=begins)

    def read(path: Path, *, in_thread: bool) -> Any:
        source = Source(str(path), options)
        source.reads_ahead = in_thread
        found = [
            (number, batch.raw(index), text)
            for batch in source.batches()
            for index, (number, text) in enumerate(zip(batch.numbers, batch.texts, strict=True))
        ]
        notes = source.notes
        return "".join(raw for _, raw, _ in found), found, notes.overlong, notes.undecodable, notes.line_ends

    with tempfile.TemporaryDirectory() as folder, pytest.MonkeyPatch.context() as patch:
        path = Path(folder) / "x.log"
        path.write_bytes(data)
        patch.setattr(sources, "BLOCK", size)
        patch.setattr(compression, "_END", end)
        plain = read(path, in_thread=False)
        patch.setattr(sources, "LEAST_AHEAD", 0)
        assert read(path, in_thread=True) == plain


SOME = [
    b"2026-05-04T06:10:00Z probe=B07 moisture=31.4%",
    b"",
    b"\xc3\xa9t\xc3\xa9",
    b"\xff\r",
    b"x" * 3000,
    b"y" * 9000,
]


@pytest.mark.parametrize("end", [b"", b"\n", b"z"])
def test_so_are_lines_that_blocks_are_ended_by_and_what_is_made_of_them_there(
    tmp_path: Path, end: bytes, monkeypatch: pytest.MonkeyPatch
) -> None:
    drawn = random.Random(4)
    data = b"\n".join(drawn.choices(SOME, [40, 5, 10, 5, 2, 1], k=4000)) + end
    path = tmp_path / "x.log"
    path.write_bytes(data)
    monkeypatch.setattr(sources, "BLOCK", 8192)
    monkeypatch.setattr(sources, "LEAST_AHEAD", 0)
    monkeypatch.setattr(ahead_in_thread, "ENOUGH", 0)
    made: list[tuple[bytes, int]] = []
    source = Source(str(path))
    source.reads_ahead, source.beside = True, lambda stored: (stored.data, threading.get_ident())
    raws, surveys = list[str](), []
    for batch in source.batches():
        raws += [batch.raw(index) for index in range(len(batch.numbers))]
        if batch.beside is not None:
            made.append(batch.beside)
            assert batch.stored is not None and batch.beside[0] == batch.stored.data
    assert "".join(raws).encode("utf-8", "surrogateescape").removesuffix(b"\n") == data.removesuffix(b"\n")
    if NATIVE is not None:
        assert {thread for _, thread in made} - {threading.get_ident()} and len(data) > 10 * 65536
    for jobs in (False, True):
        monkeypatch.setattr(processes, "pays", lambda jobs=jobs: jobs)
        job = SurveyJob(by_column=False, of_lines=True, size=len(data))
        processes.Processes(1).run(job, [Source(str(path))])
        found = job.found[""]
        assert found.kinds is not None
        surveys.append((found.shapes, found.texts, found.oddities, len(found.values), found.kinds.all_forms()))
    assert surveys[0] == surveys[1]


@pytest.mark.skipif(NATIVE is None, reason="there are no walkers")
@pytest.mark.parametrize("unfit", [False, True])
def test_lines_are_chosen_in_the_thread_that_reads_too_and_where_its_table_lacks_something_are_not(
    tmp_path: Path, unfit: bool, monkeypatch: pytest.MonkeyPatch
) -> None:
    drawn = random.Random(7)
    usual = [
        f"plot {each}{number:02d} soil {number}.5C by {by}"
        for each in "ABC"
        for number in range(9)
        for by in ("elm", "holm")
    ]
    odd = [f"plot B07 soil {sign}.5C by réa" for sign in "-+éß"]
    lines = [*drawn.choices(usual, k=9000), *drawn.choices([*usual, *odd], k=9000), *drawn.choices(usual, k=9000)]
    path = tmp_path / "x.log"
    path.write_text("\n".join(lines) + "\n", encoding="utf-8")
    for module, name, value in [(sources, "BLOCK", 8192), (sources, "LEAST_AHEAD", 0), (ahead_in_thread, "ENOUGH", 0)]:
        monkeypatch.setattr(module, name, value)
    told, threads = list[bool](), set[int]()
    meanwhile = SortWalk.fits_meanwhile

    def seen(walk: SortWalk, stored: StoredTexts) -> bytearray | None:
        threads.add(threading.get_ident())
        found = meanwhile(walk, stored)
        told.append(found is not None)
        return found

    monkeypatch.setattr(SortWalk, "fits_meanwhile", seen)
    monkeypatch.setattr(processes, "pays", lambda: True)
    monkeypatch.setattr(row_walks, "WORTH_NEW", 0)
    expression = r"plot [AB]\d\d soil [-é]?\d?\.5C by \w+"
    target = TextFile(str(tmp_path / "out"))
    job = SelectJob(prepare(bare_pattern(expression)), target, SelectOptions(unfit))
    processes.Processes(1).run(job, [Source(str(path))])
    target.finish()
    wanted = [line for line in lines if (re.fullmatch(expression, line) is None) is unfit]
    assert (tmp_path / "out").read_text(encoding="utf-8").splitlines() == wanted
    assert set(told) == {False, True} and len(threads) == 2


def test_calls_are_made_in_order_and_none_after_one_that_fails() -> None:
    before, made = threading.active_count(), list[int]()
    turn = InTurn()
    for number in range(20):
        turn.call(made.append, number)
    turn.finish()
    assert made == list(range(20))
    turn = InTurn()
    with pytest.raises(ValueError, match="non-hexadecimal"):
        for ask in (lambda: made.append(20), lambda: bytes.fromhex("no"), *[lambda: made.append(21)] * 20):
            turn.call(ask)
    with pytest.raises(ValueError, match="non-hexadecimal"):
        turn.finish()
    turn = InTurn()
    turn.abandon()
    assert made == list(range(21)) and threading.active_count() == before
    turn = InTurn()
    thread = turn._thread
    del turn
    thread.join(timeout=10)
    assert not thread.is_alive()


@pytest.mark.parametrize("name", ["out.log", "out.log.gz"])
def test_a_file_that_cannot_be_written_to_its_end_is_named_and_not_there(desk: Desk, name: str) -> None:
    """Long after the work is done whose rows they are."""
    lines = [
        f"2026-05-04T06:10:{at % 60:02d}Z probe=B{at * 7919 % 99991:05d} moisture={at % 97}" for at in range(110_000)
    ]
    desk.write("probes.log", "".join(f"{line}\n" for line in lines))
    asked = ("select", "-e", r"\S+ probe=B\d+ moisture=\d+", "probes.log", "--to", name)
    run = desk.program(*asked, most_bytes=200_000)
    assert run.status == 2 and run.err == f"fieldstick: {name}: cannot be written: File too large\n"
    assert [path.name for path in desk.folder.iterdir()] == ["probes.log"]
    assert desk.program(*asked, "--limit", "100000").status == 0
    with_threads, plain = desk.program(*asked), desk.program(*asked[:-2])
    assert plain.out == (desk.folder / "probes.log").read_text() and with_threads.err == plain.err
