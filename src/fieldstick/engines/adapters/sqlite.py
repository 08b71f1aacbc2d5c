"""The operator REGEXP of the program `sqlite3`: it says yes or no, and nothing of places."""

from __future__ import annotations

import shutil
import subprocess
from typing import TYPE_CHECKING

from fieldstick.engines.adapters.adapter import Refused

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable

    from fieldstick.engines.adapters.adapter import Spans
    from fieldstick.engines.places import Unit

_DONE = "done"


class Expression:
    """See `adapter.Expression`."""

    names = ()

    def __init__(self, ask: Callable[[str, str], bool], expression: str) -> None:
        self._ask, self._expression = ask, expression

    def matches(self, text: str, reach: str, wanted: int | None) -> Iterable[Spans]:
        """See `adapter.Expression`."""
        if "\0" in text:
            raise ValueError("a text of SQLite ends at the character of code 0")
        return [[(0, len(text))]] if self._ask(f"^({self._expression})$", text) else []


class Adapter:
    """See `adapter.Adapter`."""

    unit: Unit = "points"

    def __init__(self) -> None:
        program = shutil.which("sqlite3")
        if program is None:
            raise OSError("the program sqlite3 is not on the path")
        self._running = subprocess.Popen(
            [program, "-batch", "-noheader", ":memory:"],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            encoding="utf-8",
        )
        version = self._asked("SELECT sqlite_version();")
        if self._asked("SELECT 'a' REGEXP 'a';") != ["1"]:
            raise OSError("this sqlite3 has no operator REGEXP")
        self.version = f"SQLite {version[0]}"

    def _asked(self, statement: str) -> list[str]:
        """Return the lines of an answer."""
        assert self._running.stdin is not None and self._running.stdout is not None
        self._running.stdin.write(f"{statement}\n.print {_DONE}\n")
        self._running.stdin.flush()
        lines: list[str] = []
        while (line := self._running.stdout.readline()) and line != f"{_DONE}\n":
            lines.append(line.rstrip("\n"))
        return lines

    def _fits(self, expression: str, text: str) -> bool:
        said = self._asked(f"SELECT {_literal(text)} REGEXP {_literal(expression)};")
        if said not in (["0"], ["1"]):
            raise ValueError(said[0].rpartition(": ")[2] if said else "no answer")
        return said == ["1"]

    def compile(self, expression: str, flags: frozenset[str]) -> Expression:
        """See `adapter.Adapter`."""
        if "\0" in expression:
            raise Refused("it holds the character of code 0")
        try:
            self._fits(expression, "")
        except ValueError as error:
            raise Refused(str(error)) from None
        return Expression(self._fits, expression)


def _literal(text: str) -> str:
    return f"CAST(X'{text.encode().hex()}' AS TEXT)"
