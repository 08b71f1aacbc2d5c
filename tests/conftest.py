"""What the tests share: a folder to work in and the real program."""

from __future__ import annotations

import os
import subprocess
import sys
from dataclasses import dataclass
from typing import TYPE_CHECKING

import pytest

if TYPE_CHECKING:
    from pathlib import Path


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

    def run(self, *arguments: str, typed: str = "", **environment: str) -> Run:
        """Run the program as a user would, its output going to pipes."""
        done = subprocess.run(
            [sys.executable, "-m", "fieldstick", *arguments],
            cwd=self.folder,
            input=typed,
            capture_output=True,
            text=True,
            encoding="utf-8",
            env={**os.environ, "PYTHONIOENCODING": "utf-8", **environment},
            timeout=120,
            check=False,
        )
        assert "Traceback" not in done.stderr, done.stderr
        return Run(done.returncode, done.stdout, done.stderr)


@pytest.fixture
def desk(tmp_path: Path) -> Desk:
    """An empty folder to work in."""
    return Desk(tmp_path)
