"""Says in plain words what a node asks for, exactly: what a dot leaves out, what `\\d` takes in."""

from __future__ import annotations

import unicodedata
from typing import TYPE_CHECKING

from fieldstick.syntax.tree import (
    Alternation,
    Anchor,
    Backreference,
    Character,
    CharClass,
    Conditional,
    Dot,
    Group,
    Look,
    Node,
    Range,
    Repeat,
    Sequence,
    Shorthand,
    literal_of,
    spelled,
    without_asides,
)

if TYPE_CHECKING:
    from fieldstick.syntax.tree import ClassItem

Flags = frozenset[str]

_NAMED = {
    " ": "a blank",
    "\t": "a tab",
    "\n": "a line feed",
    "\r": "a carriage return",
    "\xa0": "a no-break space",
    "\f": "a form feed",
    "\v": "a vertical tab",
    "\x00": "a null character",
    "\x1b": "an escape character",
}
_SHORTHANDS = {
    "digit": ("a digit of any alphabet", "a digit 0 to 9"),
    "word": ("a letter or digit of any alphabet or _", "a letter a to z or A to Z, a digit or _"),
    "space": ("a white-space character", "a blank, tab or line end"),
    "horizontal-space": ("a blank or tab", "a blank or tab"),
    "line-end": ("a line end of any kind", "a line end of any kind"),
    "cluster": ("a character with its combining marks", "a character with its combining marks"),
    "not-line-end": ("any character but a line end", "any character but a line end"),
}
_SHORT = {"digit": "a digit", "word": "a letter, digit or _", "space": "white space"}
_ANCHORS = {
    "text-start": "the start of the text",
    "line-start": "the start of the text",
    "text-end": "the very end of the text",
    "line-end": "the end of the text, or before a line feed that ends it",
    "boundary": "a word boundary: a letter, digit or _ on one side alone",
    "not-boundary": "no word boundary",
    "very-end": "the very end of the text",
    "last-match-end": "where the match before ended",
    "keep-out": "from here on, the match",
    "word-start": "the start of a word",
    "word-end": "the end of a word",
}


def character_words(character: str) -> str:
    """Name one character: in quotes, or by name where it cannot be seen."""
    if character in _NAMED:
        return _NAMED[character]
    if character == "'":
        return "an apostrophe"
    if character.isprintable() and not unicodedata.combining(character):
        return f"'{character}'"
    name = unicodedata.name(character, "").lower()
    return f"U+{ord(character):04X}" + (f" ({name})" if name else "")


def text_words(text: str) -> str:
    """Name a run of characters."""
    return character_words(text) if len(text) == 1 else f"'{text}'"


def phrase(node: Node, flags: Flags, *, short: bool = False) -> str:
    """Say what a node asks for, as a noun phrase; `short` leaves out what is usually known."""
    if isinstance(node, Character):
        either = " in either case" if "ignore-case" in flags and node.character.swapcase() != node.character else ""
        return character_words(node.character) + either
    if isinstance(node, Dot):
        return "any character" if "dotall" in flags else "any character but a line feed"
    if isinstance(node, Shorthand):
        return _shorthand(node, flags, short)
    if isinstance(node, CharClass):
        return _class(node, flags, short)
    if isinstance(node, Anchor):
        return _anchor(node, flags)
    if isinstance(node, Repeat):
        return repeat_words(node, phrase(node.item, flags, short=short))
    if isinstance(node, Backreference):
        return f"what {_group_name(node.number, node.name)} captured, once more"
    if isinstance(node, Look):
        side = "followed by" if node.ahead else "after"
        return f"{'not ' if node.negated else ''}{side} {phrase(node.body, flags, short=True)}"
    if isinstance(node, Conditional):
        return f"one of two, by whether {_group_name(node.number, node.name)} took part"
    return _compound(node, flags, short)


def _compound(node: Node, flags: Flags, short: bool) -> str:
    literal = literal_of(node)
    if literal is not None:
        either = " in either case" if "ignore-case" in flags and literal.swapcase() != literal else ""
        return text_words(literal) + either if literal else "nothing"
    if isinstance(node, Alternation):
        return " or ".join(phrase(option, flags, short=True) for option in node.options)
    if isinstance(node, Group):
        inner = phrase(node.body, flags, short=short)
        return f"{_group_name(node.number, node.name)} ({inner})" if node.number is not None else inner
    if isinstance(node, Sequence):
        parts = [phrase(item, flags, short=True) for item in without_asides(node.items)]
        return ", then ".join(parts[:4]) + (" and more" if len(parts) > 4 else "") if parts else "nothing"
    return f"'{spelled(node)}'"


def _group_name(number: int | None, name: str | None) -> str:
    return f"group {number} '{name}'" if name else f"group {number}"


def _shorthand(node: Shorthand, flags: Flags, short: bool) -> str:
    if node.name.startswith(("property ", "posix ")):
        kind, _, name = node.name.partition(" ")
        words = f"a character with the property {name}" if kind == "property" else f"a character of the kind {name}"
        return f"anything but {words}" if node.negated else words
    any_alphabet, ascii_only = _SHORTHANDS.get(node.name, (node.name, node.name))
    words = ascii_only if "ascii" in flags else any_alphabet
    if short:
        words = _SHORT.get(node.name, words)
    return f"anything but {words}" if node.negated else words


def _class(node: CharClass, flags: Flags, short: bool) -> str:
    words = [_item(item, flags, short) for item in node.items]
    several = len(words) > 1 or isinstance(node.items[0], Range)
    joined = ", ".join(words[:-1]) + f" or {words[-1]}" if len(words) > 1 else words[0]
    either = ""
    if "ignore-case" in flags and any(_has_case(item) for item in node.items):
        either = " in either case"
    if node.negated:
        return f"anything but {joined}{either}"
    return (f"one of {joined}" if several else joined) + either


def _has_case(item: ClassItem) -> bool:
    if isinstance(item, Range):
        return item.first.character.isalpha()
    return isinstance(item, Character) and item.character.swapcase() != item.character


def _item(item: ClassItem, flags: Flags, short: bool) -> str:
    if isinstance(item, Range):
        return f"{_plain(item.first.character)} to {_plain(item.last.character)}"
    if isinstance(item, Character):
        return character_words(item.character)
    return phrase(item, flags, short=True) if not isinstance(item, CharClass) else _class(item, flags, short)


def _plain(character: str) -> str:
    return character if character.isalnum() else character_words(character)


def _anchor(node: Anchor, flags: Flags) -> str:
    if "multiline" in flags and node.name == "line-start":
        return "the start of a line"
    if "multiline" in flags and node.name == "line-end":
        return "the end of a line"
    return _ANCHORS[node.name]


def quantity(least: int, most: int | None) -> str:
    """Say how often."""
    if (least, most) == (0, 1):
        return "optional"
    if most is None:
        return {0: "any number of times", 1: "once or more"}.get(least, f"{least} times or more")
    if least == most:
        return "once" if least == 1 else f"exactly {least} times"
    return f"at most {most} times" if least == 0 else f"{least} to {most} times"


def repeat_words(node: Repeat, item: str) -> str:
    """Say what is repeated, how often, and who gives back first."""
    words = f"{item}, {quantity(node.least, node.most)}"
    if node.mode == "lazy":
        words += ", as few as possible"
    elif node.mode == "possessive":
        words += ", giving none back"
    return words
