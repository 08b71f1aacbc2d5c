"""Names what is odd about a text: what is easily overlooked, and what belongs to another alphabet."""

from __future__ import annotations

import unicodedata
from functools import lru_cache

from fieldstick.lean import compiled_later
from fieldstick.matching.character_kinds import alphabet_of

_ODD = compiled_later(r"[^\x20-\x7e]")


def oddities_of(text: str) -> tuple[str, ...]:
    """Name what is odd about a text: printable ASCII, blanks one by one within, has nothing."""
    found = []
    if not text.strip():
        found.append("blanks alone" if text else "empty")
    elif text[0].isspace() or text[-1].isspace():
        found.append("white space at an edge")
    if "  " in text:
        found.append("blanks in a row")
    if not (text.isascii() and text.isprintable()):
        found += sorted({name for character in set(_ODD.findall(text)) if (name := _oddity(character))})
    return tuple(found)


@lru_cache(maxsize=4096)
def _oddity(character: str) -> str:
    """Name what is odd about a character that is not plain ASCII; empty for what is common in Latin text."""
    if character == "\t":
        return "tab"
    category = unicodedata.category(character)
    if "\udc80" <= character <= "\udcff":
        return "byte that is not UTF-8"
    if category == "Cc":
        return f"control character U+{ord(character):04X}"
    if category == "Zs":
        return unicodedata.name(character).lower()
    if category in ("Cf", "Zl", "Zp", "Cs", "Co", "Cn"):
        return f"invisible character U+{ord(character):04X} ({unicodedata.name(character, 'no name').lower()})"
    if character.isalpha():
        alphabet = alphabet_of(character)
        return "" if alphabet == "LATIN" else f"{alphabet.lower()} letters"
    if character.isdigit() or category == "Nd":
        return f"{alphabet_of(character).lower()} digits"
    if category in ("Mn", "Mc"):
        return "combining mark"
    return ""
