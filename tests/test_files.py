"""Files appear whole or not at all, several all or none, whatever goes wrong at whatever step."""

from __future__ import annotations

import errno
import multiprocessing
import os
import signal
import subprocess
import sys
from typing import TYPE_CHECKING, Any

import pytest

from conftest import read_suite
from fieldstick import files
from fieldstick.comparing.baseline import read_baseline, records_of, write_baseline
from fieldstick.errors import UsageError
from fieldstick.files import PartFile, put_in_place
from fieldstick.kernels.walkers import NATIVE
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    from collections.abc import Callable
    from pathlib import Path

    from conftest import Desk

STEPS = ("fsync", "chmod", "link", "replace")
"""The calls of the system that putting files in place takes, any of which may fail."""


def failing(monkeypatch: pytest.MonkeyPatch, step: str, at: int, raised: BaseException) -> None:
    """Let the `at`-th call of a step fail."""
    plain: Callable[..., Any] = getattr(os, step)
    calls = 0

    def call(*arguments: Any, **settings: Any) -> Any:
        nonlocal calls
        calls += 1
        if calls == at:
            raise raised
        return plain(*arguments, **settings)

    monkeypatch.setattr(os, step, call)


@pytest.mark.parametrize("at", [1, 2, 3])
@pytest.mark.parametrize("step", STEPS)
@pytest.mark.parametrize("raised", [OSError(errno.ENOSPC, "No space left on device"), KeyboardInterrupt()])
def test_several_files_are_replaced_all_or_none(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, step: str, at: int, raised: BaseException
) -> None:
    for name in ("one", "three"):
        (tmp_path / name).write_text("old")
    parts = [PartFile(tmp_path / name) for name in ("one", "two", "three")]
    for part in parts:
        part.stream.write(b"new")
    with monkeypatch.context() as patch:
        failing(patch, step, at, raised)
        try:
            put_in_place(parts)
            fine = True
        except (UsageError, KeyboardInterrupt) as error:
            fine = False
            assert isinstance(error, KeyboardInterrupt) or "cannot be written: No space left" in str(error)
    # Where it cannot have a second name, what is replaced is kept as a copy; two of three files are there already.
    assert fine is (step == "link" and (isinstance(raised, OSError) or at == 3))
    found = {each.name: each.read_text() for each in tmp_path.iterdir()}
    assert found == (dict.fromkeys(("one", "two", "three"), "new") if fine else {"one": "old", "three": "old"})


@pytest.mark.parametrize("can", [True, False])
def test_what_can_be_made_again_gets_the_name_of_what_was_there_before_at_once(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, can: bool
) -> None:
    swapped: list[bytes] = []

    def swap(one: bytes, other: bytes) -> bool:
        swapped.append(other)
        return can and NATIVE is not None and NATIVE.swap(one, other)

    (tmp_path / "kept.log").write_text("old")
    (tmp_path / "kept.log").chmod(0o640)
    (tmp_path / "link.log").symlink_to("kept.log")
    for name in ("link.log", "new.log"):
        part = PartFile(tmp_path / name, synced=False, swap=swap)
        part.stream.write(b"new")
        part.finish()
    assert swapped == [os.fsencode(tmp_path / "kept.log")]
    assert {each.name: each.read_text() for each in tmp_path.iterdir()} == dict.fromkeys(
        ("kept.log", "link.log", "new.log"), "new"
    )
    assert (tmp_path / "link.log").is_symlink() and (tmp_path / "kept.log").stat().st_mode & 0o777 == 0o640
    (tmp_path / "kept.log").write_text("old")
    parts = [PartFile(tmp_path / name, synced=False, swap=swap) for name in ("kept.log", "newer.log")]
    with monkeypatch.context() as patch:
        failing(patch, "replace", 1 if can else 2, OSError(errno.ENOSPC, "No space left on device"))
        with pytest.raises(UsageError, match="cannot be written"):
            put_in_place(parts)
    assert (tmp_path / "kept.log").read_text() == "old" and len(list(tmp_path.iterdir())) == 3


def test_what_a_killed_process_left_is_removed_by_the_next_and_what_a_living_one_has_is_not(tmp_path: Path) -> None:
    code = (
        "import os; from fieldstick.files import PartFile; part = PartFile('x.csv'); part.stream.write(b'half');"
        "part.stream.flush(); print(part.part); os.kill(os.getpid(), 9)"
    )
    killed = subprocess.run([sys.executable, "-c", code], cwd=tmp_path, capture_output=True, text=True, check=False)
    assert killed.returncode == -signal.SIGKILL and os.path.exists(tmp_path / killed.stdout.strip())
    files._looked_through.clear()
    own = PartFile(tmp_path / "y.csv")
    other = PartFile(tmp_path / "z.csv")
    assert {each.name for each in tmp_path.iterdir()} == {os.path.basename(own.part), os.path.basename(other.part)}


def add_samples(folder: str, name: str) -> None:
    os.chdir(folder)
    from fieldstick.commands.main import run

    for number in range(8):
        assert run(["sample", "loggers:plot", f"{name}{number:02}", "--positive"]) == 0
        assert run(["keep", f"p-{name}-{number}", r"\d", "--suite", "loggers.suite.toml"]) == 0


def test_programs_that_change_one_suite_at_once_lose_nothing(desk: Desk) -> None:
    desk.suite("[patterns.plot]\nexpression = '[A-Z]\\d\\d'\n")
    context = multiprocessing.get_context("spawn")
    workers = [context.Process(target=add_samples, args=(str(desk.folder), name)) for name in "ABC"]
    for each in workers:
        each.start()
    for each in workers:
        each.join()
    plot, *kept = read_suite(desk.folder / "loggers.suite.toml").patterns.values()
    assert {sample.text for sample in plot.samples} == {f"{name}{n:02}" for name in "ABC" for n in range(8)}
    assert len(kept) == 24


def test_a_file_that_another_program_is_changing_is_refused_after_a_while(
    desk: Desk, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = desk.suite("[patterns.plot]\nexpression = '[A-Z]\\d\\d'\n")
    before = path.read_text()
    monkeypatch.setattr(files, "PATIENCE", 0.05)
    with files.locked(path):
        run = desk.run("sample", "loggers:plot", "B07", "--positive")
    assert run.status == 2 and "is being changed by another program; nothing was written" in run.err
    assert path.read_text() == before


def test_a_baseline_recorded_meanwhile_is_not_overwritten(desk: Desk) -> None:
    path = desk.suite("[patterns.plot]\nexpression = '[A-Z]\\d\\d'\npositive = ['B07']\n")
    (result,) = Workspace().check([read_suite(path)]).suites
    write_baseline(result.suite, records_of(result), None)
    with pytest.raises(UsageError, match="recorded by another program meanwhile"):
        write_baseline(result.suite, {}, None)
    write_baseline(result.suite, {}, read_baseline(result.suite))


@pytest.mark.skipif(not os.path.exists("/dev/stdout"), reason="no such names here")
def test_what_is_open_already_is_written_to_and_keeps_what_it_holds(desk: Desk) -> None:
    desk.suite("[patterns.p]\nexpression = '[A-z]'\npositive = ['a']\n")
    asked = [sys.executable, "-m", "fieldstick", "check", "--report"]
    with (desk.folder / "out.txt").open("wb") as out:
        out.write(b"before\n")
        out.flush()
        subprocess.run([*asked, "annotations=/dev/stdout"], cwd=desk.folder, stdout=out, check=True)
    text = (desk.folder / "out.txt").read_text()
    assert text.startswith("before\nsuite") and "no baseline; 1 hazard (fieldstick hazards).\n::warning" in text
    piped = subprocess.run(
        [*asked, "annotations=/dev/fd/1"], cwd=desk.folder, capture_output=True, text=True, check=True
    )
    assert "no baseline; 1 hazard (fieldstick hazards).\n::warning" in piped.stdout and piped.stderr == ""
    closed = subprocess.run([*asked, "tap=/dev/fd/77"], cwd=desk.folder, capture_output=True, text=True, check=False)
    assert closed.returncode == 2 and "/dev/fd/77: cannot be written" in closed.stderr


def test_what_cannot_be_made_again_is_on_the_disk_before_it_replaces_anything(
    desk: Desk, monkeypatch: pytest.MonkeyPatch
) -> None:
    synced: list[int] = []
    plain = os.fsync
    monkeypatch.setattr(os, "fsync", lambda number: (synced.append(number), plain(number))[1])
    desk.write("probe.log", "plot B07\nplot C12\n")
    desk.suite("[patterns.plot]\nexpression = 'plot'\npositive = ['plot']\n")
    assert desk.run("select", "-e", "plot B.*", "probe.log", "--to", "kept.log").status == 0
    assert desk.run("extract", "-e", "plot (.*)", "probe.log", "--to", "kept.parquet").status == 0
    assert not synced
    given = ("-e", "plot", "--reach", "anywhere", "--with", "bed", "probe.log", "--in-place")
    assert desk.run("rewrite", *given).status == 0
    assert len(synced) == 1
    assert desk.run("select", "-e", "bed B.*", "probe.log", "--to", "kept.log", "--append").status == 0
    assert len(synced) == 2
    assert desk.run("baseline", "--yes").status == 0
    assert len(synced) > 2


def test_a_table_is_written_and_read_without_a_library_that_nobody_asks_for(desk: Desk) -> None:
    desk.write("probe.log", "plot B07\nplot C12\n")
    told = "import atexit, sys; atexit.register(lambda: print('numpy' in sys.modules, file=sys.stderr)); "
    code = told + "from fieldstick.start import main; main()"
    wrote = ["extract", "-e", "plot (?P<plot>.*)", "probe.log", "--to", "plots.parquet"]
    read = ["extract", "-e", "(?P<row>[A-F]).*", "plots.parquet", "--column", "plot"]
    for command in (wrote, read):
        done = subprocess.run(
            [sys.executable, "-c", code, *command], cwd=desk.folder, capture_output=True, text=True, check=True
        )
        assert done.stderr.split()[-1] == "False"
    assert done.stdout.split() == ["row", "B", "C"]
