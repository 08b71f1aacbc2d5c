"""What stands where in the text of a suite file: names that are defined, and where they are used.

Works on files that are half written too: what cannot be told is left out. Positions are code points from the start.
"""

from __future__ import annotations

import re
from bisect import bisect_left, bisect_right
from functools import cached_property
from typing import TYPE_CHECKING, Literal

from msgspec import Struct

from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Iterator

Kind = Literal["part", "pattern"]

_HEAD = compiled_later(r"^[ \t]*(\[\[?)[ \t]*([^\]\n]+?)[ \t]*\]\]?", re.MULTILINE)
_ASSIGNED = compiled_later(r"^[ \t]*([A-Za-z0-9_.-]+|\"[^\"\n]*\"|'[^'\n]*')[ \t]*=[ \t]*", re.MULTILINE)
_PART = compiled_later(r"(?<!\\)\{\{(?:([^\W\d_][\w-]*)\.)?([^\W\d_][\w-]*)\}\}")
MEMBER_KEYS = ("any_of", "all_of", "none_of", "order", "patterns", "pattern", "record_start")
"""Keys whose values name patterns."""

_MEMBERS = compiled_later(
    rf"\b({'|'.join(MEMBER_KEYS)})[ \t]*=[ \t]*"
    r"(\[[^\]]*\]|\"[^\"\n]*\"|'[^'\n]*')"
)
_QUOTED = compiled_later(r"\"([^\"\n]*)\"|'([^'\n]*)'")


Encoding = Literal["utf-8", "utf-16", "utf-32"]
"""What the characters of a line are counted in: two sides agree on one (LSP 3.17, PositionEncodingKind)."""

_WIDTH = {"utf-8": 1, "utf-16": 2, "utf-32": 4}
"""Bytes of a unit of each."""


def _units(text: str, encoding: Encoding) -> int:
    """Return how many units of an encoding a text has."""
    return len(text.encode(f"{encoding}-le" if encoding != "utf-8" else encoding, "surrogatepass")) // _WIDTH[encoding]


class Named(Struct, frozen=True):
    """A name at a place, of a part or of a pattern; `alias` is the borrowed suite that it is of, if it is of one."""

    kind: Kind
    name: str
    start: int
    end: int
    alias: str | None = None


class SuiteText:
    """The text of a suite file, looked through once."""

    def __init__(self, text: str) -> None:
        self.text = text
        self._starts = [0, *(found.end() for found in re.finditer("\n", text))]

    def at(self, line: int, character: int, encoding: Encoding = "utf-16") -> int:
        """Return the position of a line (from 0) and a character of it, counted in units of an encoding."""
        if line >= len(self._starts):
            return len(self.text)
        start = self._starts[line]
        end = self._starts[line + 1] - 1 if line + 1 < len(self._starts) else len(self.text)
        units, at = 0, start
        while at < end and units < character:
            units += _units(self.text[at], encoding)
            at += 1
        return at

    def place(self, position: int, encoding: Encoding = "utf-16") -> tuple[int, int]:
        """Return the line (from 0) and the character, counted in units of an encoding, of a position."""
        line = bisect_right(self._starts, position) - 1
        return line, _units(self.text[self._starts[line] : position], encoding)

    def changed_to(self, text: str) -> tuple[int, int, str]:
        """Return the stretch in which another text differs from this one, and what it has there."""
        least = min(len(self.text), len(text))
        # Whole stretches are compared at once: a suite may be long.
        head = bisect_left(range(least), True, key=lambda at: not text.startswith(self.text[: at + 1]))
        tail = bisect_left(range(least - head), True, key=lambda at: not text.endswith(self.text[-1 - at :]))
        return head, len(self.text) - tail, text[head : len(text) - tail]

    def line_span(self, line: int) -> tuple[int, int]:
        """Return where what stands on a line (from 1) begins and ends, white space around it left out."""
        index = min(max(line, 1), len(self._starts)) - 1
        start = self._starts[index]
        end = self._starts[index + 1] - 1 if index + 1 < len(self._starts) else len(self.text)
        written = self.text[start:end]
        return start + len(written) - len(written.lstrip()), start + len(written.rstrip())

    def head_line(self, line: int) -> int:
        """Return the line (from 1) on which the table begins that a line stands in; the line itself outside of one."""
        head = self._head(self.line_span(line)[1])
        return self.place(head[0])[0] + 1 if head is not None else line

    @property
    def says_suite(self) -> bool:
        """Whether it has the keys that every suite begins with."""
        found = {each[1] for each in _ASSIGNED.finditer(self.text) if not self.table_at(each.start())}
        return {"format", "suite"} <= found

    @cached_property
    def heads(self) -> list[tuple[int, str]]:
        """Where each table begins, and what it is called."""
        return [(found.start(), found[2].replace(" ", "")) for found in _HEAD.finditer(self.text)]

    def table_at(self, position: int) -> str:
        """Return the name of the table that a position stands in, empty for none."""
        head = self._head(position)
        return head[1] if head is not None else ""

    def _head(self, position: int) -> tuple[int, str] | None:
        """Return where the table begins that a position stands in, and what it is called."""
        index = bisect_right(self.heads, position, key=lambda head: head[0]) - 1
        return self.heads[index] if index >= 0 else None

    @cached_property
    def defined(self) -> list[Named]:
        """The parts and patterns that the file defines."""
        return list(self._defined())

    def _defined(self) -> Iterator[Named]:
        seen: set[str] = set()
        for found in _HEAD.finditer(self.text):
            words = found[2].replace(" ", "").split(".")
            if found[1] == "[" and words[0] == "patterns" and len(words) == 2 and words[1] not in seen:
                seen.add(words[1])
                start = self.text.index(words[1], found.start(2) + len("patterns"))
                yield Named("pattern", words[1], start, start + len(words[1]))
        for found in _ASSIGNED.finditer(self.text):
            table, name = self.table_at(found.start()), found[1].strip("\"'")
            start = found.start(1) + (found[1][0] in "\"'")
            if table == "parts":
                yield Named("part", name, start, start + len(name))
            elif not table and name.startswith("parts."):
                yield Named("part", name[6:], start + 6, start + len(name))

    @cached_property
    def used(self) -> list[Named]:
        """Where parts and patterns are used, of this suite or of borrowed ones."""
        found = [Named("part", each[2], each.start(2), each.end(2), each[1]) for each in _PART.finditer(self.text)]
        for each in _MEMBERS.finditer(self.text):
            for quoted in _QUOTED.finditer(each[2]):
                written = quoted[1] if quoted[1] is not None else quoted[2]
                alias, colon, name = written.rpartition(":")
                start = each.start(2) + quoted.start() + 1 + len(alias) + len(colon)
                found.append(Named("pattern", name, start, start + len(name), alias or None))
        return found

    def name_at(self, position: int) -> Named | None:
        """Return the name that a position stands on."""
        return next((each for each in (*self.used, *self.defined) if each.start <= position <= each.end), None)

    def pattern_at(self, position: int) -> str | None:
        """Return the pattern in whose table, or tables below it, a position stands."""
        words = self.table_at(position).split(".")
        return words[1] if words[0] == "patterns" and len(words) > 1 else None

    @cached_property
    def borrowed(self) -> dict[str, str]:
        """The files that the suite borrows from, by the alias."""
        found = {}
        for each in _ASSIGNED.finditer(self.text):
            if self.table_at(each.start()) == "borrow":
                quoted = _QUOTED.match(self.text, each.end())
                if quoted is not None:
                    found[each[1]] = quoted[1] if quoted[1] is not None else quoted[2]
        inline = re.search(r"^borrow[ \t]*=[ \t]*\{([^}]*)\}", self.text, re.MULTILINE)
        if inline is not None:
            for each in re.finditer(r"([\w-]+)[ \t]*=[ \t]*(?:\"([^\"]*)\"|'([^']*)')", inline[1]):
                found[each[1]] = each[2] if each[2] is not None else each[3]
        return found

    def expression_at(self, position: int) -> tuple[str, int] | None:
        """Return the expression or part that a position stands in, as it is read, and the place in it.

        None outside of one, and where it is spelled with escapes, so that places differ.
        """
        for found in re.finditer(
            r"^[ \t]*(?:\w[\w.-]*\.)?([\w-]+)[ \t]*=[ \t]*('''(.*?)'''|\"\"\"(.*?)\"\"\"|'([^'\n]*)'|\"([^\"\n]*)\")",
            self.text,
            re.MULTILINE | re.DOTALL,
        ):
            is_part = self.table_at(found.start()) == "parts"
            if found[1] not in ("expression", "at") and not is_part:
                continue
            group = next(number for number in (3, 4, 5, 6) if found[number] is not None)
            start, end = found.span(group)
            if start <= position <= end:
                written = found[group]
                if group in (4, 6) and "\\" in written:
                    return None
                if group in (3, 4) and written.startswith("\n"):
                    start, written = start + 1, written[1:]
                return written, max(0, position - start)
        return None
