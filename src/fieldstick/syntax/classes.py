"""Character classes: `[...]`."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from fieldstick.lean import compiled_later
from fieldstick.syntax.escapes import read_escape
from fieldstick.syntax.tree import Character, CharClass, Range, SetOperation, Shorthand

if TYPE_CHECKING:
    from fieldstick.syntax.reader import Reader
    from fieldstick.syntax.tree import ClassItem

_TAKEN_AWAY = compiled_later(r"-\[(?:\\.|[^\]\\])+\]\]", re.DOTALL)
"""A class that is taken away from the one that it ends, as in `[a-z-[aeiou]]`."""

_POSIX = compiled_later(r"\[:(\^?)([a-z]+):\]")
_OPERATIONS = ("&&", "--", "~~")


NESTING = ("java", "java-unicode", "rust", "ruby", "oniguruma", "ecmascript-v")
"""Engines whose classes hold classes; elsewhere a bracket in a class is itself."""

OPERATIONS = {
    **dict.fromkeys(("java", "java-unicode", "ruby", "oniguruma"), ("&&",)),
    "ecmascript-v": ("&&", "--"),
    "rust": ("&&", "--", "~~"),
}
"""What may stand between classes in a class, by engine."""

TAKING_AWAY = ("xsd", "dotnet")
"""Engines whose classes may end with one that is taken away."""

EMPTY_CLASSES = frozenset({"ecmascript", "ecmascript-v", "node"})
"""Engines that read `[]` and `[^]` as classes: of nothing, and of anything (ECMA-262, ClassContents)."""


def read_class(reader: Reader, start: int) -> tuple[int, CharClass]:
    """`class = "[", [ "^" ], item, { item }, "]"`; a "]" in the first place is an item, but for JavaScript."""
    negated = reader.text.startswith("[^", start)
    position = first = start + (2 if negated else 1)
    items: list[ClassItem] = []
    while True:
        if position >= len(reader.text):
            meant = "a literal bracket is \\["
            raise reader.fault(
                start, len(reader.text), "this character class is not closed", "] after its characters", meant
            )
        if reader.text[position] == "]" and (position > first or reader.engine in EMPTY_CLASSES):
            return position + 1, CharClass((start, position + 1), negated, tuple(items))
        position, item = _item(reader, position, start)
        items.append(item)


def _item(reader: Reader, start: int, opening: int) -> tuple[int, ClassItem]:
    """`item = single, [ "-", single ]`; a "-" before the closing bracket is itself."""
    if not reader.python:
        found = _foreign_item(reader, start)
        if found is not None:
            return found
    position, first = _single(reader, start)
    text = reader.text
    if not text.startswith("-", position) or text.startswith("-]", position):
        return position, first
    if position + 1 >= len(text):
        raise reader.fault(opening, len(text), "this character class is not closed", "] after its characters")
    combines = reader.engine is None or "--" in OPERATIONS.get(reader.engine, ())
    if not reader.python and combines and text.startswith("--", position):
        return position, first
    if reader.engine in (None, *TAKING_AWAY) and _TAKEN_AWAY.match(text, position):
        return position, first
    end, last = _single(reader, position + 1)
    if not isinstance(first, Character) or not isinstance(last, Character):
        meant = "a literal hyphen is \\-, or stands last"
        raise reader.fault(start, end, f"{text[start:end]} is no range: one of its ends is not a character", "", meant)
    if last.character < first.character:
        turned = f"{last.spelling}-{first.spelling}"
        raise reader.fault(
            start, end, f"the range {text[start:end]} runs backwards", turned, "a literal hyphen is \\-, or stands last"
        )
    return end, Range((start, end), first, last)


def _single(reader: Reader, start: int) -> tuple[int, Character | Shorthand]:
    if reader.text[start] == "\\":
        end, node = read_escape(reader, start, in_class=True)
        assert isinstance(node, Character | Shorthand)
        return end, node
    character = reader.text[start]
    return start + 1, Character((start, start + 1), character, character)


def _foreign_item(reader: Reader, start: int) -> tuple[int, ClassItem] | None:
    posix = _POSIX.match(reader.text, start)
    if posix:
        reader.foreign("posix-class", start, posix.end())
        return posix.end(), Shorthand((start, posix.end()), posix[0], f"posix {posix[2]}", bool(posix[1]))
    operations = _OPERATIONS if reader.engine is None else OPERATIONS.get(reader.engine, ())
    for spelling in operations:
        if reader.text.startswith(spelling, start) and not reader.text.startswith(f"{spelling}]", start):
            reader.foreign("set-difference" if spelling == "--" else "set-operation", start, start + 2)
            return start + 2, SetOperation((start, start + 2), spelling)
    nests = reader.engine in (None, *NESTING) or (reader.engine in TAKING_AWAY and reader.text[start - 1] == "-")
    if reader.text[start] == "[" and nests:
        return read_class(reader, start)
    return None
