"""Finds out what lets many lines be read faster without reading any of them otherwise.

Texts that every fitting line holds let other lines be passed by unread. Lines of ASCII are read with the expression
compiled for ASCII alone, where the two cannot differ, and with short fixed repeats written out.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.engines.python import ENGINE, TIMER_TEXT_LIMIT, PythonCompiled
from fieldstick.errors import ExpressionError
from fieldstick.syntax.faults import SyntaxFault
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import (
    SINGLE,
    Aside,
    Character,
    FlagSetting,
    Group,
    Node,
    Repeat,
    Sequence,
    spelled,
    walk,
)

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from fieldstick.syntax.parser import Parsed

SHORTEST_LITERAL = 2
LONGEST_WRITTEN_OUT = 8
"""Turns of a fixed repeat up to which it is written out: `\\d{4}` as `\\d\\d\\d\\d`, which the engine runs faster."""

RARE = 8
"""A needle found in fewer than one of this many lines is searched for, instead of cutting all lines apart."""

USUAL_LINE = 64
"""Code points that a line is reckoned to have where counting them would cost more than it saves."""

LOOK_AGAIN = 15
"""Blocks that are taken to hold as many needles as the one before them."""

SEPARATORS = "\x1c\x1d\x1e\x1f"
"""What `\\s` takes in ASCII text, but not when compiled for ASCII alone."""


class LineReader:
    """What is known of an expression: a text that every match holds, and its twin for lines of ASCII."""

    def __init__(self, expression: str, flags: frozenset[str]) -> None:
        self.required_literal: str | None = None
        self.ascii_variant: PythonCompiled | None = None
        self._common = 0
        try:
            parsed = parse(expression, flags)
        except SyntaxFault:
            return
        if parsed.foreign:
            return
        self.required_literal = required_literal(parsed)
        self.ascii_variant = _ascii_variant(parsed, flags)

    def lines(self, block: str, cut: Callable[[], list[str]]) -> list[str]:
        """Return the lines of a block in which a match may lie; `cut` gives all of its lines.

        Each line ends with a line feed in the block. Where the needle is rare, the block is not cut.
        """
        required_literal = self.required_literal
        if required_literal is None:
            return cut()
        if self._common:
            self._common -= 1
        elif block.count(required_literal) * RARE * USUAL_LINE < len(block):
            return list(_lines_with(block, required_literal))
        else:
            self._common = LOOK_AGAIN
        return [line for line in cut() if required_literal in line]


def _lines_with(block: str, required_literal: str) -> Iterator[str]:
    at = block.find(required_literal)
    while at >= 0:
        end = block.index("\n", at)
        yield block[block.rfind("\n", 0, at) + 1 : end]
        at = block.find(required_literal, end)


def has_long_line(block: str) -> bool:
    """Tell whether a line of a block may be longer than the timer can stop a match in."""
    at, end = 0, len(block)
    while at < end:
        after = block.rfind("\n", at, at + TIMER_TEXT_LIMIT) + 1
        if after == 0:
            return True
        at = after
    return False


def required_literal(parsed: Parsed) -> str | None:
    """Return the longest text that is known to lie in every match of an expression; None when none is known."""
    if "ignore-case" in parsed.flags or _sets_flags(parsed.tree):
        return None
    runs = {run for run in _runs(parsed.tree) if len(run) >= SHORTEST_LITERAL and "\n" not in run}
    return max(runs, key=lambda run: (len(run), run), default=None)


def _sets_flags(tree: Node) -> bool:
    return any(
        (isinstance(node, FlagSetting) and "i" in node.flags) or (isinstance(node, Group) and "i" in node.on)
        for node in walk(tree)
    )


def _runs(node: Node) -> Iterator[str]:
    """Yield the runs of characters that a match of a node holds for sure."""
    if isinstance(node, Character):
        yield node.character
    elif isinstance(node, Group) and node.kind in ("capture", "plain", "atomic", "flags"):
        yield from _runs(node.body)
    elif isinstance(node, Repeat) and node.least >= 1:
        yield from _runs(node.item)
    elif isinstance(node, Sequence):
        run = ""
        for item in node.items:
            if isinstance(item, Character):
                run += item.character
            elif not isinstance(item, Aside):
                yield run
                run = ""
                yield from _runs(item)
        yield run


def _ascii_variant(parsed: Parsed, flags: frozenset[str]) -> PythonCompiled | None:
    """Return an expression that does to lines of ASCII what this one does; None when that is not sure."""
    if not parsed.expression.isascii() or not _stays_ascii(parsed):
        return None
    try:
        ascii_variant = ENGINE.compile(written_out(parsed), flags | {"ascii"})
    except ExpressionError:
        return None
    return ascii_variant if len(ascii_variant.group_names) == len(parsed.groups) else None


def _stays_ascii(parsed: Parsed) -> bool:
    """Tell whether no character beyond ASCII can stand for one of ASCII when case is ignored."""
    return all(not isinstance(node, Character) or node.character.isascii() for node in walk(parsed.tree))


def written_out(parsed: Parsed) -> str:
    """Write short fixed repeats of one character out; the expression asks for the same."""
    text = parsed.expression
    made, at = [], 0
    for node in walk(parsed.tree):
        if not isinstance(node, Repeat) or not isinstance(node.item, SINGLE) or node.between:
            continue
        if node.least == node.most and 2 <= node.least <= LONGEST_WRITTEN_OUT and node.mode == "greedy":
            start, end = node.span
            made += [text[at:start], spelled(node.item) * node.least]
            at = end
    return "".join([*made, text[at:]])
