"""One thing wrong with a suite file."""

from __future__ import annotations

from msgspec import Struct


class Problem(Struct, frozen=True, order=True):
    """One thing wrong with a suite file.

    `line` counts from 1; 0 when the file as a whole is meant.
    """

    file: str
    line: int
    message: str

    def __str__(self) -> str:
        return f"{self.file}:{self.line}: {self.message}" if self.line else f"{self.file}: {self.message}"
