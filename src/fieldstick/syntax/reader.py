"""What is known while an expression is read: its text, its flags, its groups; and how what is wrong is told.

The readers of characters, classes and groups share it; those of groups come back through it to the reader of all.
"""

from __future__ import annotations

from collections.abc import Callable

from msgspec import Struct, field

from fieldstick.errors import SyntaxFault, hint
from fieldstick.syntax.constructs import BY_KEY
from fieldstick.syntax.tree import Node
from fieldstick.syntax.widths import Width, width

Inner = Callable[["Reader", int, bool], tuple[int, Node]]
"""Reads from a position on, verbose or not; gives the position after it, and the node."""


class Reader(Struct):
    """What is known while an expression is read."""

    text: str
    python: bool
    flags: set[str]
    read_alternation: Inner
    """Reads what a group holds, up to the parenthesis that closes it."""
    read_sequence: Inner
    """Reads one option of what a group holds."""
    names: dict[str, int] = field(default_factory=dict)
    groups: list[str | None] = field(default_factory=list)
    widths: dict[int, Width] = field(default_factory=dict)
    """The widths of the groups that are closed."""
    behind: int | None = None
    """Inside a look-behind: how many groups were open or closed before it."""
    conditions: dict[int, tuple[int, int]] = field(default_factory=dict)
    foreign_found: list[tuple[str, tuple[int, int]]] = field(default_factory=list)
    depth: int = 0
    engine: str | None = None
    """The engine whose notation is read, None for that of all."""

    def fault(self, start: int, end: int, rule: str, expected: str = "", meant: str = "") -> SyntaxFault:
        """Return a fault at a place."""
        return SyntaxFault(self.text, start, end, rule, expected, meant)

    def foreign(self, key: str, start: int, end: int, instead: str = "") -> None:
        """Note a construct of other engines; where Python's notation is asked for, refuse it."""
        self.foreign_found.append((key, (start, end)))
        if self.python:
            construct = BY_KEY[key]
            here = instead or construct.instead
            shown = self.text[start:end]
            raise self.fault(
                start,
                end,
                f"{shown} is notation of other engines ({construct.meaning})",
                "",
                f"here it is {here}" if here else "",
            )

    def width_of(self, node: Node) -> Width:
        """Return the width of a tree among the groups read so far."""
        return width(node, self.widths)

    def open_group(self, name: str | None, start: int, end: int) -> int:
        """Number a capture group."""
        number = len(self.groups) + 1
        if name is not None:
            if name in self.names and not self.python:
                self.foreign("duplicate-name", start, end)
            elif name in self.names:
                raise self.fault(
                    start,
                    end,
                    f"there are two groups named '{name}' (the first is group {self.names[name]})",
                    "another name",
                )
            self.names.setdefault(name, number)
        self.groups.append(name)
        return number

    def number_of(self, name: str, start: int, end: int) -> int:
        """Return the number of a named group that stands before."""
        number = self.names.get(name)
        if number is None:
            known = hint(name, self.names) if self.names else ""
            raise self.fault(start, end, f"there is no group named '{name}' before this{known}")
        self.check_reference(number, start, end)
        return number

    def check_reference(self, number: int, start: int, end: int) -> None:
        """Make sure that a group can be referred back to."""
        if number > len(self.groups) or number < 1:
            there = f"there are {len(self.groups)} before it" if self.groups else "there is none before it"
            raise self.fault(
                start,
                end,
                f"group {number} cannot be referred to: {there}",
                "",
                "a literal digit after a group is written [1] or \\x31" if self.python else "",
            )
        if number not in self.widths:
            raise self.fault(start, end, f"group {number} is still open here and cannot be referred to")
        self.check_behind(number, start, end)

    def check_behind(self, number: int, start: int, end: int) -> None:
        """Make sure that a look-behind does not refer to a group of its own."""
        if self.behind is None:
            return
        if number not in self.widths:
            raise self.fault(start, end, f"group {number} is still open here and cannot be referred to")
        if number > self.behind:
            raise self.fault(
                start, end, f"group {number} stands in the same look-behind and cannot be referred to there"
            )
