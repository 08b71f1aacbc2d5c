"""Says in plain words what a node asks for, exactly: what a dot leaves out, what `\\d` takes in."""

from __future__ import annotations

import re
import unicodedata
from typing import TYPE_CHECKING

from fieldstick.engines.probing import character_test
from fieldstick.syntax.parser import scoped
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
    from collections.abc import Sequence as Sequence_

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


MOST_LISTED = 12
"""Alternatives, or items of a class, that are listed; further ones are counted."""

_COMMON = ((0x20, 0x2FFF), (0x3000, 0x9FFF), (0xAC00, 0xD7A3), (0xF900, 0xFAFF), (0xFF00, 0xFFEE), (0x1F300, 0x1FAFF))
"""Code points of scripts and symbols that fonts usually have."""

_FOLDED = {"\u212a": "the kelvin sign K", "\u017f": "the long s ſ", "\u0130": "the dotted İ", "\u0131": "the dotless ı"}
"""What else ignoring case takes for k, s and i."""


def character_words(character: str) -> str:
    """Name one character: in quotes, or by name where it cannot be seen, or hardly any font has it."""
    if character in _NAMED:
        return _NAMED[character]
    if character == "'":
        return "an apostrophe"
    common = any(first <= ord(character) <= last for first, last in _COMMON)
    if character.isprintable() and not unicodedata.combining(character) and common:
        return f"'{character}'"
    name = unicodedata.name(character, "").lower()
    return f"U+{ord(character):04X}" + (f" ({name})" if name else "")


def text_words(text: str) -> str:
    """Name a run of characters, in quotes that do not stand in it."""
    if len(text) == 1:
        return character_words(text)
    quotes = "''" if "'" not in text else '""' if '"' not in text else "“”"
    return f"{quotes[0]}{text}{quotes[1]}"


def listed(words: Sequence_[str], *, apart: str = " or ", joint: str = " or ") -> str:
    """List words, the last after `joint`; many are counted."""
    if len(words) > MOST_LISTED:
        return apart.join(words[: MOST_LISTED - 2]) + f"{joint}{len(words) - MOST_LISTED + 2:,} others"
    return apart.join(words[:-1]) + joint + words[-1] if len(words) > 1 else words[0]


def _in_either_case(text: str, flags: Flags) -> str:
    """Say that case is ignored where a text has any, and what else is taken for its letters then."""
    if "ignore-case" not in flags or text.swapcase() == text == text.casefold():
        return ""
    if text.lower() == text.upper():
        return ""
    also = ""
    if len(text) == 1 and "ascii" not in flags:
        test = character_test(re.escape(text), frozenset({"ignore-case"}))
        others = [name for each, name in _FOLDED.items() if each != text and test(each)]
        also = f", {' and '.join(others)} too" if others else ""
    return f" in either case{also}"


def phrase(node: Node, flags: Flags, *, short: bool = False) -> str:
    """Say what a node asks for, as a noun phrase; `short` leaves out what is usually known."""
    if isinstance(node, Character):
        return character_words(node.character) + _in_either_case(node.character, flags)
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
        either = ", in either case" if "ignore-case" in flags else ""
        return f"what {_group_name(node.number, node.name)} captured, once more{either}"
    if isinstance(node, Look):
        side = "followed by" if node.ahead else "after"
        return f"{'not ' if node.negated else ''}{side} {phrase(node.body, flags, short=True)}"
    if isinstance(node, Conditional):
        return f"one of two, by whether {_group_name(node.number, node.name)} took part"
    return _compound(node, flags, short)


def _compound(node: Node, flags: Flags, short: bool) -> str:
    literal = literal_of(node)
    if literal is not None:
        return text_words(literal) + _in_either_case(literal, flags) if literal else "nothing"
    if isinstance(node, Alternation):
        return listed([phrase(option, flags, short=True) for option in node.options])
    if isinstance(node, Group):
        inner = phrase(node.body, scoped(flags, node), short=short)
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


_LETTERS = {
    frozenset({r"\d", "_"}): "a letter of any alphabet",
    frozenset({r"\d"}): "a letter of any alphabet or _",
    frozenset({"_"}): "a letter or digit of any alphabet",
}
"""What is left of a letter, digit or _ when some of it is taken away, as in `[^\\W\\d_]`."""


def _class(node: CharClass, flags: Flags, short: bool) -> str:
    inverse = [item for item in node.items if isinstance(item, Shorthand) and item.negated]
    if node.negated and len(inverse) == 1 and inverse[0].name in _SHORT:
        return _without(inverse[0], [item for item in node.items if item is not inverse[0]], flags, short)
    if not node.negated and {spelled(item) for item in node.items} == {r"\W", "_"}:
        return "anything but a letter or digit" + ("" if short or "ascii" in flags else " of any alphabet")
    words = [_item(item, flags, short) for item in node.items]
    several = len(words) > 1 or isinstance(node.items[0], Range)
    joined = listed(words, apart=", ")
    either = ""
    if "ignore-case" in flags and any(_has_case(item) for item in node.items):
        either = " in either case"
    if node.negated:
        return f"anything but {joined}{either}"
    return (f"one of {joined}" if several else joined) + either


def _without(kind: Shorthand, others: Sequence_[ClassItem], flags: Flags, short: bool) -> str:
    """Say what is left of a kind of character, which a negated class names by its opposite, as `\\W`."""
    spelling = frozenset(spelled(item) for item in others)
    if kind.name == "word" and spelling in _LETTERS:
        left = _LETTERS[spelling]
        return left.replace("of any alphabet", "a to z or A to Z") if "ascii" in flags else left
    words = _SHORTHANDS[kind.name]["ascii" in flags] if not short else _SHORT[kind.name]
    left_out = listed([_item(item, flags, True) for item in others], apart=", ") if others else ""
    return f"{words} but not {left_out}" if left_out else words


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
    words = _ANCHORS[node.name]
    return words.replace("a letter,", "a letter a to z or A to Z,") if "ascii" in flags else words


def quantity(least: int, most: int | None) -> str:
    """Say how often."""
    if most == 0:
        return "none of it"
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
