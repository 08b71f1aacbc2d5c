"""Several processes give what one gives, in the same order, for every command at work."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from typing import TYPE_CHECKING

import pyarrow.parquet as pq
import pytest

from fieldstick.demo.story import lay_out

if TYPE_CHECKING:
    from conftest import Desk

LOG = "long.log"
COMMANDS = {
    "extract": ("extract", "loggers:probe-reading", LOG, "--with-place"),
    "extract several": ("extract", "loggers:battery", "loggers:trap-frame", LOG, "data/field-notes.txt"),
    "extract nothing": ("extract", "loggers:gate-pass", LOG, "--otherwise", "-", "--format", "jsonl"),
    "template": ("extract", "loggers:trap-frame", LOG, "--template", "{line} {beast:upper} {frame:value}"),
    "records": ("extract", "loggers:fault-report", LOG, "--record-start", "loggers:fault-head"),
    "select": ("select", "loggers:any-line", LOG, "--not", "--around", "2", "--with-place"),
    "rewrite": ("rewrite", "loggers:for-visitors", LOG, "--to", "-"),
    "preview": ("rewrite", "loggers:mask-pass", LOG, "--show", "40"),
    "split": ("split", "-e", "[ =]", LOG, "--drop-empty"),
    "wide": ("split", "-e", "[ =]", LOG, "--wide"),
    "route": ("route", "loggers:line-kind", LOG, "--overlaps"),
    "validate": ("validate", "loggers:any-line", LOG, "--rejects", "-"),
    "a table": ("validate", "data/permits-2026.csv", "--form", "permits:permit", "--rejects", "-"),
}


@pytest.fixture
def station(desk: Desk) -> Desk:
    lay_out(desk.folder)
    content = (desk.folder / "data/loggers-2026-05.log").read_bytes()
    (desk.folder / LOG).write_bytes(content + content.replace(b"\n", b"\r\n") + b"\n" * 5000 + content + b"no end")
    return desk


@pytest.mark.parametrize("name", COMMANDS)
def test_the_number_of_processes_makes_no_difference(station: Desk, name: str) -> None:
    one, three = (station.run(*COMMANDS[name], "--jobs", jobs) for jobs in ("1", "3"))
    assert one == three and len(one.out) > 100 and one.status in (0, 1)


def test_nor_does_it_for_files_that_are_no_text(station: Desk) -> None:
    tables = []
    for jobs in ("1", "3"):
        station.run("extract", "loggers:battery", LOG, "--to", "b.parquet", "--jobs", jobs)
        tables.append(pq.read_table(station.folder / "b.parquet"))
    assert tables[0].equals(tables[1]) and tables[0].num_rows == 3 * 249


def test_an_answer_for_nothing_makes_the_columns_texts(station: Desk) -> None:
    station.run("extract", "loggers:battery", LOG, "--to", "b.parquet", "--otherwise", "none")
    table = pq.read_table(station.folder / "b.parquet")
    assert {str(field.type) for field in table.schema} == {"string"}
    assert table.column("volts").to_pylist().count("none") == table.num_rows - 3 * 249


@pytest.mark.parametrize("jobs", ["1", "2"])
def test_an_interrupt_while_replacing_leaves_the_file_as_it_was(station: Desk, jobs: str) -> None:
    big = station.folder / "big.log"
    big.write_bytes((station.folder / LOG).read_bytes() * 12)
    before = big.read_bytes()
    command = [sys.executable, "-m", "fieldstick", "rewrite", "loggers:for-visitors", "big.log", "--in-place"]
    with subprocess.Popen(
        [*command, "--jobs", jobs], cwd=station.folder, stderr=subprocess.PIPE, text=True, start_new_session=True
    ) as process:
        while not list(station.folder.glob(".big.log.*")):
            assert process.poll() is None
            time.sleep(0.01)
        os.killpg(process.pid, signal.SIGINT)
        assert process.stderr is not None and process.stderr.read().strip() == "fieldstick: interrupted"
    assert process.returncode in (130, -signal.SIGINT) and big.read_bytes() == before
    assert not list(station.folder.glob(".big.log.*")) and not list(station.folder.glob("*.before"))


def test_a_big_source_into_a_pipe_that_closes_ends_at_once(station: Desk) -> None:
    big = station.folder / "big.log"
    big.write_bytes((station.folder / LOG).read_bytes() * 40)
    for jobs in ("1", "3"):
        program = f"{sys.executable} -m fieldstick select loggers:probe-reading big.log --jobs {jobs} | head -1"
        done = subprocess.run(
            ["bash", "-c", program], cwd=station.folder, capture_output=True, text=True, check=False, timeout=60
        )
        assert done.stdout.count("\n") == 1 and done.stderr == ""
