"""What the tests share: a folder to work in and the real program."""

from __future__ import annotations

import datetime as dt
import fcntl
import io
import os
import pty
import random
import resource
import select
import struct
import subprocess
import sys
import termios
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import pytest
from hypothesis import settings

from fieldstick.commands.main import run
from fieldstick.operations import SECTIONS
from fieldstick.reporting.cells import Charset
from fieldstick.reporting.lines import Page, lines_of
from fieldstick.suites import loader, sections
from harvest import expressions
from servers import postgresql, s3

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Sequence
    from pathlib import Path

    from fieldstick.reporting.document import Block
    from fieldstick.suites.suite import Suite


__all__ = ["postgresql", "s3"]

EXHAUSTIVE = os.environ.get("FIELDSTICK_TESTS") == "exhaustive"
"""Whether all harvested expressions are to be tried, and many more examples of each law: `make exhaustive`."""

TODAY = dt.date.today().toordinal()
"""A number that is another one each day, for what takes turns."""

# No test has a time limit that decides: an example may be slow on a busy machine. They are others each day.
settings.register_profile("house", deadline=None, max_examples=25)
settings.register_profile("exhaustive", deadline=None, max_examples=1000)
settings.load_profile("exhaustive" if EXHAUSTIVE else "house")


@pytest.hookimpl(tryfirst=True)
def pytest_configure(config: pytest.Config) -> None:
    """Draw the same examples all day, others each day; `make exhaustive` names its seed."""
    if config.getoption("hypothesis_seed", None) is None:
        config.option.hypothesis_seed = str(TODAY)


def read_suite(path: str | Path) -> Suite:
    """Read a suite file as every command does."""
    return loader.read_suite(path, SECTIONS)


def read_suites(paths: Sequence[str | Path]) -> list[Suite]:
    """Read suite files as every command does."""
    return loader.read_suites(paths, SECTIONS)


def json_schema() -> dict[str, Any]:
    """Return the JSON Schema of the suite file."""
    return sections.json_schema(SECTIONS)


def plain(blocks: Iterable[Block], width: int = 80, encoding: str = "utf-8") -> list[str]:
    """Render a document as lines of text alone, blanks at their ends left out."""
    page = Page(width, Charset(encoding))
    return ["".join(segment.text for segment in line).rstrip() for line in lines_of(blocks, page)]


def _written(stream: io.TextIOWrapper) -> str:
    stream.flush()
    written: bytes = stream.buffer.getvalue()  # type: ignore[attr-defined]
    return written.decode("utf-8", "surrogateescape")


@dataclass(frozen=True)
class Run:
    """How a run of the program ended."""

    status: int
    out: str
    err: str


@dataclass(frozen=True)
class Desk:
    """A folder with files in it, and the program run there."""

    folder: Path

    def write(self, name: str, content: str) -> Path:
        """Write a file, folders and all."""
        path = self.folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(content, encoding="utf-8")
        return path

    def suite(self, body: str, name: str = "loggers") -> Path:
        """Write a suite file with its header."""
        return self.write(f"{name}.suite.toml", f'format = 1\nsuite = "{name}"\n{body}')

    def run(self, *arguments: str, typed: str = "", encoding: str = "utf-8", **environment: str) -> Run:
        """Call the command line inside this process, with streams, folder and environment of its own."""
        out, err = (io.TextIOWrapper(io.BytesIO(), encoding=encoding, newline="") for _ in range(2))
        typed_in = io.TextIOWrapper(
            io.BufferedReader(io.BytesIO(typed.encode("utf-8", "surrogateescape"))), encoding=encoding
        )
        with pytest.MonkeyPatch.context() as patch:
            patch.chdir(self.folder)
            for name, value in environment.items():
                patch.setenv(name, value)
            for name, stream in (("stdin", typed_in), ("stdout", out), ("stderr", err)):
                patch.setattr(sys, name, stream)
            status = run(list(arguments))
        return Run(status, _written(out), _written(err))

    def program(self, *arguments: str, typed: str = "", most_bytes: int | None = None, **environment: str) -> Run:
        """Run the program as a user would, its output going to pipes; no file it writes may exceed `most_bytes`."""

        def limited() -> None:
            if most_bytes is not None:
                resource.setrlimit(resource.RLIMIT_FSIZE, (most_bytes, most_bytes))

        done = subprocess.run(
            [sys.executable, "-m", "fieldstick", *arguments],
            cwd=self.folder,
            input=typed,
            capture_output=True,
            text=True,
            encoding="utf-8",
            errors="surrogateescape",
            env={**os.environ, "PYTHONIOENCODING": "utf-8", **environment},
            timeout=120,
            check=False,
            preexec_fn=limited,
        )
        assert "Traceback" not in done.stderr, done.stderr
        return Run(done.returncode, done.stdout, done.stderr)

    def in_terminal(self, *arguments: str, keys: str = "", **environment: str) -> str:
        """Run the program in a terminal of 80 by 24 cells, with keys typed ahead; return all that is shown."""
        main, side = pty.openpty()
        fcntl.ioctl(side, termios.TIOCSWINSZ, struct.pack("HHHH", 24, 80, 0, 0))
        inherited = {key: value for key, value in os.environ.items() if key not in ("NO_COLOR", "COLUMNS")}
        process = subprocess.Popen(
            [sys.executable, "-m", "fieldstick", *arguments],
            cwd=self.folder,
            stdin=side,
            stdout=side,
            stderr=side,
            env={**inherited, "TERM": "xterm-256color", "PYTHONIOENCODING": "utf-8", **environment},
            start_new_session=True,
        )
        os.close(side)
        os.write(main, keys.encode())
        written = b""
        try:
            while select.select([main], [], [], 30)[0] and (piece := os.read(main, 65536)):
                written += piece
        except OSError:
            pass  # the terminal ends with the program
        process.kill()
        os.close(main)
        process.wait(60)
        return written.decode("utf-8").replace("\r\n", "\n")


@pytest.fixture(scope="session", autouse=True)
def _own_cache(tmp_path_factory: pytest.TempPathFactory) -> Iterator[None]:
    """Keep what is remembered from run to run apart from what the user's own runs remember."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("XDG_CACHE_HOME", str(tmp_path_factory.mktemp("cache")))
        yield


@pytest.fixture
def desk(tmp_path: Path) -> Desk:
    """An empty folder to work in."""
    return Desk(tmp_path)


@pytest.fixture(scope="session")
def harvested() -> tuple[str, ...]:
    """Real expressions: a twentieth of those harvested, others each day, or all of them."""
    found = expressions()
    assert len(found) > 3000
    return found if EXHAUSTIVE else tuple(random.Random(TODAY).sample(found, len(found) // 20))
