"""What stands after a backslash."""

from __future__ import annotations

import re
import unicodedata
from typing import TYPE_CHECKING

from fieldstick.lean import compiled_later
from fieldstick.syntax.tree import Anchor, Backreference, Character, Node, Quoted, Shorthand

if TYPE_CHECKING:
    from fieldstick.syntax.reader import Reader

CONTROLS = {"a": "\a", "b": "\b", "f": "\f", "n": "\n", "r": "\r", "t": "\t", "v": "\v"}
"""Letters that spell a control character; `b` only inside a class."""

SHORTHANDS = {"d": "digit", "w": "word", "s": "space"}
ANCHORS = {"A": "text-start", "Z": "text-end", "b": "boundary", "B": "not-boundary"}
FOREIGN_SHORTHANDS = {"h": "horizontal-space", "R": "line-end", "X": "cluster", "N": "not-line-end"}
FOREIGN_ANCHORS = {"z": "very-end", "G": "last-match-end", "K": "keep-out", "<": "word-start", ">": "word-end"}

_HEX = {"x": 2, "u": 4, "U": 8}
_BRACED = compiled_later(r"\{([0-9A-Fa-f]+)\}")
_PROPERTY = compiled_later(r"\{\^?[\w:= .-]+\}|[A-Z]")
_LETTER_REFERENCE = compiled_later(r"\{([+-]?\d+|\w+)\}|([+-]?\d+)|<(\w+)>")
_NAMED_REFERENCE = compiled_later(r"\{(\w+)\}|<(\w+)>|'(\w+)'")
LARGEST_OCTAL = 0o377
"""An octal escape spells one byte at the most."""


def read_escape(reader: Reader, start: int, *, in_class: bool) -> tuple[int, Node]:
    """`escape = "\\", ( letter | digits | "x" hex hex | "u" 4 hex | "U" 8 hex | "N{" name "}" | other )`.

    Return the position after the escape, and its node.
    """
    if start + 1 >= len(reader.text):
        meant = "a literal backslash is \\\\"
        raise reader.fault(start, start + 1, "a backslash ends the expression", "a character after it", meant)
    letter = reader.text[start + 1]
    if letter.isdecimal() and letter.isascii():
        return _digits(reader, start, in_class)
    if letter in CONTROLS and (in_class or letter != "b"):
        return _literal(reader, start, start + 2, CONTROLS[letter])
    if letter.lower() in SHORTHANDS:
        node = Shorthand((start, start + 2), f"\\{letter}", SHORTHANDS[letter.lower()], letter.isupper())
        return start + 2, node
    if letter in ANCHORS and not in_class:
        return start + 2, Anchor((start, start + 2), f"\\{letter}", ANCHORS[letter])
    if letter in _HEX:
        return _hexadecimal(reader, start, _HEX[letter])
    if letter == "N" and reader.text.startswith("{", start + 2):
        return _character_name(reader, start)
    if letter.isascii() and letter.isalpha():
        return _foreign(reader, start, letter, in_class)
    if letter in "<>" and not reader.python and not in_class:
        return _foreign(reader, start, letter, in_class)
    return _literal(reader, start, start + 2, letter)


def _literal(reader: Reader, start: int, end: int, character: str) -> tuple[int, Node]:
    return end, Character((start, end), reader.text[start:end], character)


def _hexadecimal(reader: Reader, start: int, size: int) -> tuple[int, Node]:
    braced = _BRACED.match(reader.text, start + 2)
    if braced and not reader.python:
        return _code_point(
            reader,
            start,
            braced.end(),
            braced[1],
            "braced-unicode" if reader.text.startswith("\\u", start) else "braced-code",
        )
    end = start + 2 + size
    digits = reader.text[start + 2 : end]
    if not re.fullmatch(rf"[0-9A-Fa-f]{{{size}}}", digits):
        meant = ""
        if braced:
            meant = f"other engines write it so; here it is {_python_code(int(braced[1], 16))}"
        shown = reader.text[start : start + 2]
        raise reader.fault(
            start,
            min(end, len(reader.text)),
            f"{shown} is cut short",
            f"{size} hexadecimal digits after {shown}",
            meant,
        )
    return _code_point(reader, start, end, digits, None)


def _python_code(code: int) -> str:
    return f"\\x{code:02x}" if code < 0x100 else f"\\u{code:04x}" if code < 0x10000 else f"\\U{code:08x}"


def _code_point(reader: Reader, start: int, end: int, digits: str, construct: str | None) -> tuple[int, Node]:
    code = int(digits, 16)
    if code > 0x10FFFF:
        raise reader.fault(start, end, "there is no such character", "at most 10FFFF")
    if construct:
        reader.foreign(construct, start, end)
    return _literal(reader, start, end, chr(code))


def _character_name(reader: Reader, start: int) -> tuple[int, Node]:
    close = reader.text.find("}", start)
    if close < 0:
        raise reader.fault(start, len(reader.text), "the name of a character is not closed", "} after it")
    name = reader.text[start + 3 : close]
    try:
        character = unicodedata.lookup(name)
    except KeyError:
        character = ""
    if len(character) != 1:
        raise reader.fault(
            start, close + 1, f"there is no character named '{name}'", "a name from the Unicode standard"
        )
    return _literal(reader, start, close + 1, character)


def _digits(reader: Reader, start: int, in_class: bool) -> tuple[int, Node]:
    text = reader.text
    octal = re.compile("[0-7]{1,3}").match(text, start + 1)
    if text[start + 1] == "0" or in_class:
        if octal is None:
            raise reader.fault(
                start, start + 2, f"\\{text[start + 1]} stands in a class, where no group can be referred to"
            )
        size = min(len(octal[0]), 3)
        return _octal(reader, start, start + 1 + size)
    if octal and len(octal[0]) == 3:
        return _octal(reader, start, start + 4)
    found = re.compile("[0-9]{1,2}").match(text, start + 1)
    assert found is not None
    end, number = found.end(), int(found[0])
    reader.check_reference(number, start, end)
    return end, Backreference((start, end), text[start:end], number, None)


def _octal(reader: Reader, start: int, end: int) -> tuple[int, Node]:
    code = int(reader.text[start + 1 : end], 8)
    if code > LARGEST_OCTAL:
        raise reader.fault(
            start, end, "an octal escape beyond \\377", "at most \\377", "use \\x or \\u for other characters"
        )
    return _literal(reader, start, end, chr(code))


def _foreign(reader: Reader, start: int, letter: str, in_class: bool) -> tuple[int, Node]:
    """An escape that Python's engine does not have."""
    end = start + 2
    if letter in "pP":
        return _property(reader, start, letter)
    if letter == "k" and not in_class:
        return _named_reference(reader, start)
    if letter.lower() == "h" or (letter in FOREIGN_SHORTHANDS and not in_class):
        reader.foreign(
            {"h": "horizontal-space", "H": "horizontal-space"}.get(letter, FOREIGN_SHORTHANDS.get(letter, "")),
            start,
            end,
        )
        name = FOREIGN_SHORTHANDS.get(letter, "horizontal-space")
        return end, Shorthand((start, end), f"\\{letter}", name, letter == "H")
    if letter in FOREIGN_ANCHORS and not in_class:
        reader.foreign(FOREIGN_ANCHORS[letter], start, end)
        return end, Anchor((start, end), f"\\{letter}", FOREIGN_ANCHORS[letter])
    if letter == "e":
        reader.foreign("escape-character", start, end)
        return _literal(reader, start, end, "\x1b")
    if letter == "Q" and not in_class:
        return _quoted(reader, start)
    if letter == "g" and not in_class:
        return _group_by_letter(reader, start)
    raise reader.fault(start, end, f"\\{letter} means nothing", "", _escape_meant(letter, in_class))


def _quoted(reader: Reader, start: int) -> tuple[int, Node]:
    close = reader.text.find("\\E", start)
    end = len(reader.text) if close < 0 else close + 2
    reader.foreign("quoted-run", start, end)
    return end, Quoted((start, end), reader.text[start:end], reader.text[start + 2 : end if close < 0 else close])


def _group_by_letter(reader: Reader, start: int) -> tuple[int, Node]:
    found = _LETTER_REFERENCE.match(reader.text, start + 2)
    end = found.end() if found else start + 2
    reader.foreign("group-by-letter", start, end)
    if found is None:
        raise reader.fault(start, end, "\\g needs the number or name of a group", "\\g{1}")
    which = next(each for each in found.groups() if each)
    if not which.lstrip("+-").isdecimal():
        return end, Backreference((start, end), reader.text[start:end], reader.number_of(which, start, end), which)
    number = int(which)
    number = len(reader.groups) + 1 + number if which.startswith("-") else number
    reader.check_reference(number, start, end)
    return end, Backreference((start, end), reader.text[start:end], number, None)


def _escape_meant(letter: str, in_class: bool) -> str:
    if in_class and letter in "ABZ":
        return f"\\{letter} is an anchor and has no place in a class"
    if letter.lower() in "dws":
        return ""
    return f"a literal '{letter}' is written without the backslash; a literal backslash is \\\\"


def _property(reader: Reader, start: int, letter: str) -> tuple[int, Node]:
    found = _PROPERTY.match(reader.text, start + 2)
    end = found.end() if found else start + 2
    reader.foreign("property", start, end)
    if found is None:
        raise reader.fault(start, end, f"\\{letter} needs the name of a property", "\\p{...}")
    spelling = reader.text[start:end]
    return end, Shorthand((start, end), spelling, f"property {found[0].strip('{}')}", letter == "P")


def _named_reference(reader: Reader, start: int) -> tuple[int, Node]:
    found = _NAMED_REFERENCE.match(reader.text, start + 2)
    end = found.end() if found else start + 2
    name = next((each for each in found.groups() if each), None) if found else None
    reader.foreign("named-reference", start, end, f"(?P={name})" if name else "")
    if name is None:
        raise reader.fault(start, end, "\\k needs the name of a group", "\\k<name>")
    number = reader.number_of(name, start, end)
    return end, Backreference((start, end), reader.text[start:end], number, name)
