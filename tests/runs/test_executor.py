"""Work shared among processes gives what one process gives, in the same order, and ends when it must."""

from __future__ import annotations

import os
import signal
import time
from contextlib import contextmanager, nullcontext
from pathlib import Path
from typing import TYPE_CHECKING, Any

import pytest

from fieldstick.data.read_options import ReadOptions
from fieldstick.data.source import Source, open_sources
from fieldstick.errors import UsageError
from fieldstick.runs.executor import WorkerEnded
from fieldstick.runs.processes import WORTH_SHARING, Processes, fitting_jobs

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.data.batch import Batch


class Listing:
    """Collects the numbered texts of batches as they stand, and which processes had them."""

    def __init__(self) -> None:
        self.lines: list[tuple[str, int, str, str]] = []
        self.pids: set[int] = set()
        self.closed = False

    def work(self, source: str, batch: Batch) -> tuple[int, list[tuple[str, int, str, str]]]:
        lines = [
            (source, number, text, batch.raw(index))
            for index, (number, text) in enumerate(zip(batch.numbers, batch.texts, strict=True))
        ]
        return os.getpid(), lines

    def take(self, source: Source, made: tuple[int, list[tuple[str, int, str, str]]]) -> None:
        self.pids.add(made[0])
        self.lines += made[1]

    def close(self, sources: Sequence[Source]) -> None:
        self.closed = True


class Ending(Listing):
    """Ends the process that has the batch with a certain line."""

    def work(self, source: str, batch: Batch) -> Any:
        if "end here" in batch.texts:
            os.kill(os.getpid(), signal.SIGKILL)
        return Listing.work(self, source, batch)


def sources(folder: Path, *contents: bytes, **read_options: Any) -> list[Source]:
    for number, content in enumerate(contents):
        (folder / f"{number}.log").write_bytes(content)
    return open_sources(
        tuple(str(folder / f"{number}.log") for number in range(len(contents))), ReadOptions(**read_options)
    )


LONG = b"".join(b"line %d \xc3\xa9\r\n" % number if number % 3 else b"\n" for number in range(120_000))
OTHER = b"\xef\xbb\xbffirst\n" + b"x" * 300_000 + b"\nbad \xff byte\nno end"


def test_several_processes_give_the_same_in_the_same_order(tmp_path: Path) -> None:
    found = []
    for jobs in (1, 3):
        opened = sources(tmp_path, LONG, OTHER, b"", LONG[:100_000])
        counted: list[int] = []
        job = Listing()
        Processes(jobs).run(job, opened, nullcontext(counted.append))
        assert sum(counted) == len(job.lines) and job.closed
        found.append((job.lines, [(each.notes, each.consumed) for each in opened]))
        assert (job.pids == {os.getpid()}) is (jobs == 1)
    assert found[0] == found[1]
    raws = "".join(raw for _, _, _, raw in found[0][0]).encode("utf-8", "surrogateescape")
    assert raws == LONG + OTHER.removeprefix(b"\xef\xbb\xbf") + LONG[:100_000]
    per_source = [number for name, number, _, _ in found[0][0] if name.endswith("0.log")]
    assert per_source == list(range(1, 120_001))


def test_what_was_met_in_other_processes_is_told_of_the_source(tmp_path: Path) -> None:
    (source,) = sources(tmp_path, b"good\n" * 50_000 + b"bad \xff\n" + b"good\n" * 50_000)
    Processes(2).run(Listing(), [source])
    assert source.undecodable == [50_001]
    refusing = sources(tmp_path, b"good\n" * 50_000 + b"bad \xff\n", refuse_undecodable=True)
    with pytest.raises(UsageError, match=r"0\.log:50001: bytes that are not utf-8"):
        Processes(2).run(Listing(), refusing)


def test_a_worker_that_ends_is_a_sentence(tmp_path: Path) -> None:
    opened = sources(tmp_path, b"fine\n" * 100_000 + b"end here\n" + b"fine\n" * 100_000)
    with pytest.raises(WorkerEnded, match="is memory short"):
        Processes(2).run(Ending(), opened)


def test_workers_end_when_nobody_wants_more(tmp_path: Path) -> None:
    results = Processes(2).map(lambda _: os.getpid(), range(1000))
    pid = next(iter(results))
    results.close()  # type: ignore[attr-defined]
    deadline = time.monotonic() + 30
    while is_running(pid) and time.monotonic() < deadline:
        time.sleep(0.01)
    assert not is_running(pid)


def is_running(pid: int) -> bool:
    try:
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0] != "Z"
    except FileNotFoundError:
        return False


def test_little_to_read_is_read_by_one_process_and_so_is_what_walkers_do(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(os, "sched_getaffinity", lambda _: range(8))
    job = Listing()
    assert fitting_jobs(sources(tmp_path, b"few\n"), job) == 1
    with (tmp_path / "0.log").open("wb") as stream:
        stream.truncate(WORTH_SHARING + 1)
    large = open_sources((str(tmp_path / "0.log"),))
    assert fitting_jobs(large, job) == 4
    assert fitting_jobs(large, job, "parquet") == 1
    assert fitting_jobs(open_sources(("-", str(tmp_path / "0.log"))), job) == 1
    job.is_walked = True  # type: ignore[attr-defined]
    assert fitting_jobs(large, job) == 1


def test_many_small_files_are_shared_among_processes(tmp_path: Path) -> None:
    opened = sources(tmp_path, *(b"one line\n" for _ in range(40)))
    job = Listing()
    Processes(3).run(job, opened)
    assert len(job.pids) == 3 and os.getpid() not in job.pids
    assert [name for name, *_ in job.lines] == [source.name for source in opened]


def test_what_goes_on_meanwhile_begins_when_the_workers_have_started(tmp_path: Path) -> None:
    begun: list[str] = []

    @contextmanager
    def meanwhile() -> Iterator[None]:
        begun.append("meanwhile")
        yield

    found = list(Processes(2).map(lambda _: list(begun), range(4), meanwhile()))
    assert begun == ["meanwhile"] and found == [[]] * 4
