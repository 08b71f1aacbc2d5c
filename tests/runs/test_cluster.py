"""Work on a cluster gives what it gives here, whatever happens to a worker: real processes, a store that speaks S3."""

from __future__ import annotations

import csv
import json
import os
import re
import signal
import subprocess
import sys
import time
from contextlib import nullcontext
from typing import TYPE_CHECKING, Any

import pytest
from distributed import Client

from fieldstick.data.read_options import ReadOptions
from fieldstick.data.source import Source, open_sources
from fieldstick.errors import UsageError
from fieldstick.runs import cluster
from fieldstick.runs.cluster import Cluster
from fieldstick.runs.executor import WorkerEnded
from servers import content_of, put

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence
    from pathlib import Path

    from conftest import Desk
    from fieldstick.data.batch import Batch

PATTERN = (
    "[patterns.reading]\n"
    "expression = '(?P<plot>[A-F]\\d\\d) moisture=(?P<moisture>\\d+\\.\\d)%'\n"
    "fields.moisture = { type = 'decimal', most = 100 }\npositive = ['A01 moisture=3.1%']\n"
    "[patterns.gate]\nexpression = 'gate \\w+'\npositive = ['gate g']\n"
    "[routes.kind]\norder = ['reading', 'gate']\n"
    "[[trials]]\ndata = 'readings.log'\nroute = 'kind'\nfits_share = { least = 0.5 }\n"
    "[[trials]]\ndata = 'odd.log'\npatterns = ['reading', 'gate']\ncounts.gate = { least = 1 }\n"
)


def line(number: int) -> str:
    if number % 7 == 0:
        return f"gate opened {number}" if number % 2 else f"gate g{number}"
    return f"{'ABCDEF'[number % 6]}{number % 100:02} moisture={number % 110}.{number % 10}%"


LINES = [line(number) for number in range(24_000)]


class Grid:
    """A scheduler and two workers, as processes on the loopback."""

    def __init__(self, folder: Path, environment: dict[str, str]) -> None:
        self._folder = folder
        # The workers are to find the jobs of this module.
        own = {
            "DASK_DISTRIBUTED__SCHEDULER__ALLOWED_FAILURES": "1",
            # How long it looks for a worker that was killed while it had a result.
            "DASK_DISTRIBUTED__COMM__TIMEOUTS__CONNECT": "3s",
            "PYTHONPATH": os.pathsep.join(sys.path),
        }
        self._environment = os.environ | environment | own
        self._told = folder / "scheduler.json"
        self._running: list[subprocess.Popen[bytes]] = []
        self._start("dask_scheduler", "--port", "0", "--no-dashboard", "--scheduler-file", str(self._told))
        while not self._told.exists() or not self._told.read_text():
            time.sleep(0.05)
        self.address: str = json.loads(self._told.read_text())["address"]
        for _ in range(2):
            self._start("dask_worker", "--nthreads", "1", "--no-dashboard", "--scheduler-file", str(self._told))

    def _start(self, name: str, *options: str) -> None:
        command = [sys.executable, "-m", f"distributed.cli.{name}", "--host", "127.0.0.1", *options]
        log = (self._folder / f"{name}{len(self._running)}.log").open("wb")
        made = subprocess.Popen(command, cwd=self._folder, env=self._environment, stdout=log, stderr=log)
        self._running.append(made)

    def pids(self) -> list[int]:
        """Return the processes of the workers, both of them being there."""
        with Client(self.address, set_as_default=False) as client:
            client.wait_for_workers(2, timeout=60)
            return list(client.run(os.getpid).values())

    def end(self) -> None:
        for each in reversed(self._running):
            each.terminate()
            each.wait(30)


@pytest.fixture(scope="module")
def grid(tmp_path_factory: pytest.TempPathFactory, s3: dict[str, str]) -> Iterator[Grid]:
    made = Grid(tmp_path_factory.mktemp("grid"), s3)
    yield made
    made.end()


@pytest.fixture(autouse=True)
def small_parts(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(cluster, "PART", 20_000)


class Listing:
    """Collects the numbered texts of batches; `tells_numbers` has them numbered right at once."""

    def __init__(self, *, tells_numbers: bool = True, ends_at: str = "nowhere", slow: float = 0) -> None:
        self.lines: list[tuple[str, int, str]] = []
        self.pids: set[int] = set()
        self.tells_numbers, self._ends_at, self._slow = tells_numbers, ends_at, slow

    def work(self, source: str, batch: Batch) -> tuple[int, list[tuple[str, int, str]]]:
        time.sleep(self._slow)
        if self._ends_at in batch.texts:
            os.kill(os.getpid(), signal.SIGKILL)
        return os.getpid(), [(source, number, text) for number, text in zip(batch.numbers, batch.texts, strict=True)]

    def take(self, source: Source, made: tuple[int, list[tuple[str, int, str]]]) -> None:
        self.pids.add(made[0])
        self.lines += made[1]

    def close(self, sources: Sequence[Source]) -> None:
        pass


class Refusing(Listing):
    """Refuses a certain line."""

    def work(self, source: str, batch: Batch) -> Any:
        if self._ends_at in batch.texts:
            raise UsageError("no such thing")
        return Listing.work(self, source, batch)


@pytest.mark.parametrize("any_order", [False, True])
def test_a_worker_that_dies_loses_and_doubles_nothing(grid: Grid, tmp_path: Path, any_order: bool) -> None:
    path = tmp_path / "readings.log"
    path.write_text("\n".join(LINES) + "\nlast line without an end")
    victim = grid.pids()[0]
    killed: list[int] = []

    def tell(count: int) -> None:
        if not killed:
            killed.append(victim)
            os.kill(victim, signal.SIGKILL)

    job = Listing(slow=0.002)
    sources = open_sources((str(path), str(path)))
    Cluster(grid.address, any_order=any_order).run(job, sources, nullcontext(tell))
    expected = [(str(path), number, text) for number, text in enumerate([*LINES, "last line without an end"], 1)]
    found = sorted(job.lines[: len(expected)]) + job.lines[len(expected) :] if any_order else job.lines
    if any_order:
        assert sorted(job.lines) == sorted(expected * 2)
    else:
        assert found == expected * 2
    assert killed and not any(source.changed for source in sources)


def test_lines_are_cut_as_they_are_here_wherever_a_part_ends(grid: Grid, tmp_path: Path) -> None:
    path = tmp_path / "odd.log"
    content = b"first\r\n" + b"x" * 60 + b"\n\n\n" + b"\xc3\xa9\xff \r\n" * 90 + b"\x00\n" + b"y" * 3000 + b"\nz"
    path.write_bytes(content * 3)
    here = Listing()
    plain = open_sources((str(path),), ReadOptions(longest=2000))
    for batch in plain[0].batches():
        here.take(plain[0], here.work(str(path), batch))
    for size in (1, 97, 701, 2999, 40_000):
        there = Listing()
        sources = open_sources((str(path),), ReadOptions(longest=2000))
        # So many parts of one byte are too many to send; the first lines have every kind of line end.
        if size == 1:
            path.write_bytes(content[:171])
        Cluster(grid.address, part=size).run(there, sources if size > 1 else open_sources((str(path),)))
        if size == 1:
            assert [text for _, _, text in there.lines] == content[:171].decode("utf-8", "surrogateescape").replace(
                "\r\n", "\n"
            ).split("\n")
            path.write_bytes(content * 3)
            continue
        assert there.lines == here.lines
        assert sources[0].notes.undecodable == plain[0].notes.undecodable
        assert sources[0].notes.overlong == plain[0].notes.overlong


def test_the_commands_give_the_same_bytes_there_and_here(grid: Grid, desk: Desk) -> None:
    desk.suite(PATTERN)
    text = "\n".join(LINES[:6000]) + "\n"
    desk.write("readings.log", text)
    odd = text.encode().replace(b"A06 moisture=6.6%", b"A06 moisture=6.6\xff")
    url = put("readings.log", odd)
    (desk.folder / "odd.log").write_bytes(odd)
    table = desk.folder / "rows.csv"
    cells = [[text.split()[0], f'said "{number}"\nand left'] for number, text in enumerate(LINES[:1500])]
    with table.open("w", newline="") as stream:
        csv.writer(stream).writerows([["Plot", "Note"], *cells])
    commands = [
        ("extract", "loggers:reading", "readings.log", "--to", "out.csv"),
        ("extract", "loggers:reading", "readings.log", "odd.log", "--to", "out.jsonl"),
        ("extract", "loggers:reading", "readings.log", "--with-place", "--to", "out.parquet"),
        ("extract", "loggers:reading", "readings.log", "--template", "{line} {plot}", "--to", "out.txt"),
        ("select", "loggers:gate", "odd.log", "--not", "--to", "out.log"),
        ("select", "loggers:gate", "readings.log", "--around", "1", "--with-place", "--to", "out.log"),
        ("select", "-e", "[A-F]", "rows.csv", "--column", "Plot", "--reach", "start", "--to", "out.csv"),
        ("route", "loggers:kind", "odd.log", "--overlaps"),
        ("survey", "odd.log", "readings.log"),
        ("survey", "rows.csv"),
        ("validate", "-e", "[A-F]\\d\\d", "rows.csv", "--column", "Plot", "--show", "3", "--accepted", "out.csv"),
        ("validate", "loggers:reading", "odd.log", "--rejects", "out.csv"),
        ("check", "--format", "json"),
        ("baseline", "--yes"),
        ("check",),
    ]
    for command in commands:
        here = desk.run(*command)
        made = content(desk, command)
        if command == ("baseline", "--yes"):
            desk.write("readings.log", text.replace("gate g0", "gate g 0").replace("A06", "G06"))
            continue
        there = desk.run(*command, "--cluster", grid.address)
        seconds = r'"seconds": [\d.]+|\d+\.\d s'
        told = [(run.status, re.sub(seconds, "", run.out), run.err) for run in (there, here)]
        assert told[0] == told[1], command
        assert content(desk, command) == made
    assert "the data changed, in lines" in here.out
    here = desk.run("extract", "loggers:reading", "odd.log", "--to", "here.csv")
    there = desk.run("extract", "loggers:reading", url, "--to", "s3://larkmoor/out.csv", "--cluster", grid.address)
    assert there.err == here.err.replace("odd.log", url)
    assert content_of("out.csv") == (desk.folder / "here.csv").read_bytes()
    mixed = desk.run("extract", "loggers:reading", url, "--to", "mixed.csv", "--cluster", grid.address, "--any-order")
    assert sorted((desk.folder / "mixed.csv").read_bytes().splitlines()) == sorted(content_of("out.csv").splitlines())
    assert mixed.err == there.err


def test_workers_write_parts_themselves_each_whole(grid: Grid, desk: Desk) -> None:
    desk.suite(PATTERN)
    desk.write("a.log", "\n".join(LINES[:6000]) + "\n")
    desk.write("b.log", "nothing\n" * 3000)
    here = desk.run("extract", "loggers:reading", "a.log", "b.log", "--with-place").out.splitlines()
    command = ("extract", "loggers:reading", "a.log", "b.log", "--with-place", "--cluster", grid.address, "--any-order")
    for folder in (str(desk.folder / "parts"), "s3://larkmoor/parts"):
        run = desk.run(*command, "--parts", folder)
        assert run.status == 0 and f"{len(here) - 1:,} fit" in run.err
        again = desk.run(*command, "--parts", folder)
        assert again.status == 2 and "holds something already" in again.err
    parts = sorted((desk.folder / "parts").iterdir())
    assert len(parts) > 3 and [line for part in parts for line in part.read_text().splitlines()[1:]] == here[1:]
    assert [content_of(f"parts/{part.name}") for part in parts] == [part.read_bytes() for part in parts]
    desk.run(
        "extract",
        "loggers:reading",
        "loggers:gate",
        "a.log",
        "--cluster",
        grid.address,
        "--parts",
        "both",
        "--format",
        "parquet",
    )
    kept = desk.run("select", "-e", "gate g\\d*", "both/gate", "--column", "match").out.splitlines()
    assert len(kept) - 1 == sum(each.startswith("gate g") for each in LINES[:6000])
    assert desk.run("extract", "loggers:reading", "a.log", "--parts", "alone").status == 2
    summed = desk.run(*command, "--parts", "summed", "--summary")
    assert summed.status == 2 and "they do not come here" in summed.err and not (desk.folder / "summed").exists()


def content(desk: Desk, command: Sequence[str]) -> bytes | None:
    written = [
        desk.folder / command[at + 1] for at, each in enumerate(command) if each in ("--to", "--accepted", "--rejects")
    ]
    return written[0].read_bytes() if written else None


def test_what_goes_wrong_names_its_source_and_line(grid: Grid, desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    path = desk.write("readings.log", "\n".join([*LINES[:5000], "end here", *LINES]) + "\n")
    with pytest.raises(WorkerEnded, match=r"readings\.log:4\d\d\d: the workers that had it ended"):
        Cluster(grid.address).run(Listing(ends_at="end here", tells_numbers=False), open_sources((str(path),)))
    grid.pids()
    refusing = desk.folder / "bad.log"
    refusing.write_bytes(("\n".join(LINES) + "\n").encode() + b"bad \xff\n")
    options = ReadOptions(refuse_undecodable=True)
    with pytest.raises(UsageError, match=rf"bad\.log:{len(LINES) + 1}: bytes that are not utf-8"):
        Cluster(grid.address).run(Listing(tells_numbers=False), open_sources((str(refusing),), options))
    with pytest.raises(UsageError, match=r"readings\.log:4\d\d\d: no such thing, on a worker of the cluster"):
        Cluster(grid.address).run(Refusing(ends_at="end here"), open_sources((str(path),)))
    desk.suite(PATTERN)
    monkeypatch.setattr(cluster, "PATIENCE", 1)
    for arguments, words in [
        (("readings.log", "--cluster", "tcp://127.0.0.1:1"), "--cluster tcp://127.0.0.1:1: no scheduler answers there"),
        (("-", "--cluster", grid.address), "standard input is read here alone"),
        (("readings.log", "--cluster", grid.address, "--jobs", "2"), "not both"),
        (("readings.log", "--any-order"), "--any-order goes with --cluster"),
    ]:
        run = desk.run("extract", "loggers:reading", *arguments, "--to", "never.csv")
        assert run.status == 2 and words in run.err and not (desk.folder / "never.csv").exists()
