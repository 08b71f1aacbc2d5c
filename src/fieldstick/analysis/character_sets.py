"""The characters that a node takes, as the running engine has them: kinds of characters and case are asked of it.

The engine is asked once about every code point of the planes that hold kinds of characters (`\\d`, `\\w`, `\\s`), and
under ignore-case once about every character that has case; all else is read off the tree.
"""

from __future__ import annotations

import re
import warnings
from functools import cache, lru_cache

from fieldstick.engines.probing import engine_flags
from fieldstick.syntax.characters import EVERYTHING, CharacterSet
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import SINGLE, Character, CharClass, Dot, Node, Range, Shorthand, spelled

_LETTERS = {"digit": "d", "word": "w", "space": "s"}
_LINE_FEED = CharacterSet.of_text("\n")

_PLANES = ((0, 0x40000), (0xE0000, 0xE1000))
"""Where characters of more than one kind lie; the planes between and after are unassigned or for private use."""

_CASED_PLANES = 0x20000
"""Code points below which every character lies that has a capital or a small letter."""


def characters_of(node: Node, flags: frozenset[str] = frozenset()) -> CharacterSet:
    """Return the characters that a node takes which takes exactly one, or an item of a class.

    Raises TypeError for another kind of node.
    """
    if not isinstance(node, SINGLE | Range):
        raise TypeError(f"a {type(node).__name__} does not take exactly one character")
    return _taken(_asked_for(node), flags & {"ignore-case", "dotall", "ascii"})


def _asked_for(node: Node) -> str:
    """Return a spelling that means outside a class what the node means where it stands."""
    match node:
        case Character():
            return re.escape(node.character)
        case Range():
            return f"[{re.escape(node.first.character)}-{re.escape(node.last.character)}]"
        case _:
            return spelled(node)


@lru_cache(maxsize=4096)
def _taken(spelling: str, flags: frozenset[str]) -> CharacterSet:
    node = parse(spelling).tree
    plain = _plain(node, flags)
    if "ignore-case" not in flags:
        return plain
    with_case = CharacterSet.of_text(cased_characters())
    return (plain - with_case) | CharacterSet.of_text("".join(_runs_taken(spelling, flags, cased_characters())))


def _plain(node: Node, flags: frozenset[str]) -> CharacterSet:
    """Return what a node takes when case matters."""
    match node:
        case Character():
            return CharacterSet.of_text(node.character)
        case Range():
            return CharacterSet(((ord(node.first.character), ord(node.last.character)),))
        case Dot():
            return EVERYTHING if "dotall" in flags else ~_LINE_FEED
        case Shorthand():
            found = kind_of_character(node.name, ascii_alone="ascii" in flags)
            return ~found if node.negated else found
        case CharClass():
            listed = CharacterSet.of(pair for item in node.items for pair in _plain(item, flags).intervals)
            return ~listed if node.negated else listed
    raise TypeError(f"a {type(node).__name__} does not take exactly one character")


@cache
def kind_of_character(name: str, *, ascii_alone: bool) -> CharacterSet:
    """Return the characters of a kind (`digit`, `word`, `space`) as the running engine has it."""
    letter = _LETTERS[name]
    # Runs of the others are passed by as runs, too: to search at each of them takes three times as long.
    runs = re.compile(f"(\\{letter}+)|\\{letter.upper()}+", re.ASCII if ascii_alone else 0)
    return CharacterSet.of(
        (first + found.start(), first + found.end() - 1)
        for first, last in (((0, 0x80),) if ascii_alone else _PLANES)
        for found in runs.finditer(_every_character(first, last))
        if found[1]
    )


def _spans_taken(spelling: str, flags: frozenset[str], text: str) -> list[tuple[int, int]]:
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        return [found.span() for found in re.finditer(f"(?:{spelling})+", text, engine_flags(flags))]


def _runs_taken(spelling: str, flags: frozenset[str], text: str) -> list[str]:
    return [text[start:end] for start, end in _spans_taken(spelling, flags, text)]


def _every_character(first: int, last: int) -> str:
    """Return the characters from one code point to before another, by way of the bytes of UTF-32."""
    start, stop = first & ~0xFF, (last + 0xFF) & ~0xFF
    quads = bytearray(4 * (stop - start))
    quads[0::4] = bytes(range(0x100)) * ((stop - start) >> 8)
    for place, shift in ((1, 8), (2, 16)):
        quads[place::4] = b"".join(bytes([(block >> shift) & 0xFF]) * 0x100 for block in range(start, stop, 0x100))
    return quads.decode("utf-32-le", "surrogatepass")[first - start : last - start]


@cache
def cased_characters() -> str:
    """Return every character that another one stands for, or that stands for another, when case is ignored."""
    size = 128
    blocks = (_every_character(first, first + size) for first in range(0, _CASED_PLANES, size))
    found: set[str] = set()
    for block in blocks:
        if cased_forms(block) != {block}:
            for character in block:
                forms = cased_forms(character)
                if forms != {character}:
                    found.update(character, *forms)
    return "".join(sorted(found))


def cased_forms(text: str) -> set[str]:
    """Return the forms of a text in other case, itself among them."""
    return {text.lower(), text.upper(), text.title(), text.casefold(), text}
