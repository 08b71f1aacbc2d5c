"""Reads the text of an expression into its tree.

The notation is that of Python's engine, as its reference describes it, and, where no engine is named, that of other
engines in wide use. Each reading function's docstring is the rule it implements.
"""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.lean import compiled_later
from fieldstick.syntax.classes import read_class
from fieldstick.syntax.escapes import read_escape
from fieldstick.syntax.groups import read_parenthesis
from fieldstick.syntax.reader import Reader
from fieldstick.syntax.tree import (
    Alternation,
    Anchor,
    Aside,
    Character,
    Dot,
    FlagSetting,
    Node,
    Repeat,
    Sequence,
)

if TYPE_CHECKING:
    from fieldstick.syntax.tree import Group, Mode
    from fieldstick.syntax.widths import Width

FLAG_LETTERS = {"ignore-case": "i", "multiline": "m", "dotall": "s", "verbose": "x", "ascii": "a"}
FLAG_NAMES = {letter: name for name, letter in FLAG_LETTERS.items()}


def scoped(flags: frozenset[str], group: Group) -> frozenset[str]:
    """Return the flags that hold inside a group: those around it, unless it is one like `(?i-s:...)`."""
    if group.kind != "flags":
        return flags
    switched_on = {FLAG_NAMES.get(letter, "unicode") for letter in group.on}
    if "unicode" in switched_on:
        flags -= {"ascii"}
    return (flags | switched_on) - {FLAG_NAMES.get(letter, "") for letter in group.off} - {"unicode"}


VERBOSE_BLANKS = " \t\n\r\v\f"
MOST_TURNS = 2**32 - 1
"""A bound that Python's engine takes for "without end", and refuses when written out."""

MOST_DIGITS = 10
"""Digits of a bound, zeros before it aside, that are looked at: those of `MOST_TURNS`."""

DEEPEST = 90
"""Groups in groups that are read; deeper ones are refused before the interpreter's own limit."""

_LINE_COMMENT = compiled_later(r"#(?:\\.|[^\\\n])*\n?", re.DOTALL)
"""A backslash takes the character after it along, a line feed too: the engine reads escapes before comments."""
_BOUNDS = compiled_later(r"\{([0-9]*)(,?)([0-9]*)\}")


class Parsed(Struct, frozen=True, dict=True):
    """An expression read: its tree, its capture groups and the flags that hold for all of it.

    `groups` has a name or None for each group in order. `foreign` lists what Python's engine does not have, as
    construct key and span.
    """

    expression: str
    tree: Node
    groups: tuple[str | None, ...]
    flags: frozenset[str]
    widths: dict[int, Width]
    foreign: tuple[tuple[str, tuple[int, int]], ...] = ()


def parse(expression: str, flags: frozenset[str] = frozenset(), *, engine: str | None = "python") -> Parsed:
    """Read `expression` as the engine would; with `engine` None, or another than Python's, the notation of all is read,
    with what that one reads otherwise than all others.

    Raises SyntaxFault with the place, what was expected, and what may have been meant.
    """
    reader = Reader(expression, engine == "python", set(flags), read_alternation, read_sequence)
    reader.engine = engine
    tree = _whole(reader)
    for number, (start, end) in reader.conditions.items():
        if number > len(reader.groups):
            raise reader.fault(start, end, f"there is no group {number} to depend on")
    if reader.python and {"ascii", "unicode"} <= reader.flags:
        raise reader.fault(0, len(expression), "the flags ascii and u exclude each other")
    return Parsed(
        expression,
        tree,
        tuple(reader.groups),
        frozenset(reader.flags - {"unicode"}),
        reader.widths,
        tuple(reader.foreign_found),
    )


def _whole(reader: Reader) -> Node:
    """`expression = alternation, end`."""
    end, tree = read_alternation(reader, 0, "verbose" in reader.flags)
    if end < len(reader.text):
        raise reader.fault(
            end, end + 1, "this parenthesis closes nothing", "an opening one before it", "a literal parenthesis is \\)"
        )
    return tree


def read_alternation(reader: Reader, start: int, verbose: bool) -> tuple[int, Node]:
    """`alternation = sequence, { "|", sequence }`."""
    reader.depth += 1
    if reader.depth > DEEPEST:
        raise reader.fault(start, start + 1, "groups are nested too deeply")
    options: list[Node] = []
    position = start
    while True:
        first = reader.depth == 1 and not options
        position, option = read_sequence(reader, position, verbose, may_set_flags=first)
        options.append(option)
        if not reader.text.startswith("|", position):
            break
        position += 1
        verbose = _verbose_after(option, verbose)
    reader.depth -= 1
    tree = options[0] if len(options) == 1 else Alternation((start, position), tuple(options))
    return position, tree


def read_sequence(reader: Reader, start: int, verbose: bool, *, may_set_flags: bool = False) -> tuple[int, Node]:
    """`sequence = { atom, [ quantifier ] | aside }`, up to "|", ")" or the end."""
    items: list[Node] = []
    position = start
    while position < len(reader.text) and reader.text[position] not in "|)":
        character = reader.text[position]
        if verbose and (character in VERBOSE_BLANKS or character == "#"):
            position, aside = _aside(reader, position)
            items.append(aside)
            continue
        quantified = _quantifier(reader, position)
        if quantified is not None:
            position = _repeat(reader, position, quantified, items)
            continue
        position, node = _atom(reader, position, verbose)
        if isinstance(node, FlagSetting):
            _set_flags(reader, node, items, may_set_flags)
            verbose = _verbose_after(node, verbose)
        items.append(node)
    if len(items) == 1:
        return position, items[0]
    return position, Sequence((start, position), tuple(items))


def _set_flags(reader: Reader, node: FlagSetting, items: list[Node], allowed: bool) -> None:
    at_start = allowed and all(isinstance(item, Aside | FlagSetting) for item in items)
    if reader.python and not at_start:
        scoped = node.spelling[:-1] + ":...)"
        raise reader.fault(
            *node.span, "flags for the whole expression stand at its start", "", f"for a part of it write {scoped}"
        )
    if at_start:
        reader.flags |= {FLAG_NAMES.get(letter, "unicode") for letter in node.flags}
        reader.flags -= {FLAG_NAMES.get(letter, "") for letter in node.off}
    else:
        reader.foreign("flags-further-on", *node.span)


def _verbose_after(node: Node, verbose: bool) -> bool:
    """Tell whether the notation is verbose after a node that may set flags, as options do for those after them."""
    for item in node.items if isinstance(node, Sequence) else (node,):
        if isinstance(item, FlagSetting):
            verbose = (verbose or "x" in item.flags) and "x" not in item.off
    return verbose


def _aside(reader: Reader, start: int) -> tuple[int, Aside]:
    """`aside = blank, { blank } | "#", { any but line feed }, [ line feed ]`, in verbose notation."""
    end = start
    if reader.text[start] == "#":
        found = _LINE_COMMENT.match(reader.text, start)
        assert found is not None
        check_no_lone_backslash(reader, found.end())
        return found.end(), Aside(found.span(), found[0], "comment")
    while end < len(reader.text) and reader.text[end] in VERBOSE_BLANKS:
        end += 1
    return end, Aside((start, end), reader.text[start:end], "blank")


def check_no_lone_backslash(reader: Reader, end: int) -> None:
    """Make sure that a comment does not end where a backslash ends the expression."""
    if reader.text[end:] == "\\":
        raise reader.fault(end, end + 1, "a backslash ends the expression", "a character after it")


def _atom(reader: Reader, start: int, verbose: bool) -> tuple[int, Node]:
    """`atom = "." | "^" | "$" | class | "(", ... | "\\", ... | any other character`."""
    character = reader.text[start]
    if character == "\\":
        return read_escape(reader, start, in_class=False)
    if character == "[":
        return read_class(reader, start)
    if character == "(":
        return read_parenthesis(reader, start, verbose)
    end = start + 1
    if character == ".":
        return end, Dot((start, end))
    if character in "^$":
        return end, Anchor((start, end), character, "line-start" if character == "^" else "line-end")
    return end, Character((start, end), character, character)


def _quantifier(reader: Reader, start: int) -> tuple[int, int, int | None] | None:
    """`quantifier = "*" | "+" | "?" | "{", [ digits ], [ ",", [ digits ] ], "}"`, but not "{}".

    Return its end and its bounds; None when none stands here.
    """
    simple: dict[str, tuple[int, int | None]] = {"*": (0, None), "+": (1, None), "?": (0, 1)}
    character = reader.text[start]
    if character in simple:
        return (start + 1, *simple[character])
    found = _BOUNDS.match(reader.text, start) if character == "{" else None
    if found is None or found[0] == "{}":
        return None
    least, comma, most = found.groups()
    if len(least.lstrip("0")) > MOST_DIGITS or len(most.lstrip("0")) > MOST_DIGITS:
        raise reader.fault(start, found.end(), "a bound too large for the engine")
    low = int(least[-MOST_DIGITS:] or 0)
    high = (int(most[-MOST_DIGITS:]) if most else None) if comma else low
    if low >= MOST_TURNS or (high or 0) >= MOST_TURNS:
        raise reader.fault(start, found.end(), "a bound too large for the engine")
    if high is not None and high < low:
        raise reader.fault(
            start, found.end(), f"the bounds are the wrong way round: {low} is more than {high}", f"{{{high},{low}}}"
        )
    return found.end(), low, high


def _repeat(reader: Reader, start: int, quantified: tuple[int, int, int | None], items: list[Node]) -> int:
    """`repeat = atom, quantifier, [ "?" | "+" ]`; put it in the place of the atom it repeats."""
    end, least, most = quantified
    between: list[Aside] = []
    while items and isinstance(items[-1], Aside):
        last = items.pop()
        assert isinstance(last, Aside)
        between.insert(0, last)
    shown = reader.text[start:end]
    if not items or isinstance(items[-1], Anchor | FlagSetting):
        meant = f"a literal {shown[0]} is \\{shown[0]}"
        raise reader.fault(start, end, f"there is nothing for {shown} to repeat", "something before it", meant)
    item = items.pop()
    if isinstance(item, Repeat):
        meant = f"(?:{reader.text[item.span[0] : item.span[1]]}){shown} repeats what is repeated"
        raise reader.fault(start, end, f"{shown} stands after another quantifier", "", meant)
    mode: Mode = "greedy"
    if reader.text.startswith("?", end):
        mode, end = "lazy", end + 1
    elif reader.text.startswith("+", end):
        mode, end = "possessive", end + 1
    items.append(Repeat((item.span[0], end), item, tuple(between), reader.text[start:end], least, most, mode))
    return end
