"""Kinds of characters: A for capitals, a for small letters, 9 for digits, a sample of each further alphabet."""

from __future__ import annotations

import unicodedata
from functools import lru_cache
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Iterable

DIGITS_FOLDED = bytes.maketrans(b"0123456789", b"9" * 10)
"""Maps bytes to themselves, those of digits to that of 9."""

OTHER_DIGIT = "\uf8ff"
"""Stands for a digit beyond ASCII, which has the shape of any digit and is odd all the same."""

_SAMPLES = {
    "CYRILLIC": "Ж",
    "GREEK": "Λ",
    "HEBREW": "א",
    "ARABIC": "ع",
    "CJK": "漢",
    "HIRAGANA": "あ",
    "KATAKANA": "ア",
    "HANGUL": "한",
    "THAI": "ก",
    "ARMENIAN": "Ա",
    "GEORGIAN": "ა",
    "ETHIOPIC": "አ",
}
_ITSELF, _CODE_POINTS = 1, 0x110000


@lru_cache(maxsize=4096)
def kind_of(character: str) -> str:
    """Return the character that stands for all of a kind; one that is neither letter nor digit stands for itself."""
    if character.isascii():
        if character.isalpha():
            return "A" if character.isupper() else "a"
        return "9" if character.isdigit() else character
    if character.isdigit():
        return OTHER_DIGIT
    if character.isalpha():
        alphabet = alphabet_of(character)
        if alphabet == "LATIN":
            return "A" if character.isupper() else "a"
        return _sample_of(alphabet) or character
    return character


@lru_cache
def _sample_of(alphabet: str) -> str | None:
    """Return the letter that stands for all of an alphabet; None for what is no alphabet."""
    if alphabet not in _SAMPLES:
        try:
            return unicodedata.lookup(f"{alphabet} LETTER A")
        except KeyError:
            return None
    return _SAMPLES[alphabet]


def alphabet_of(character: str) -> str:
    """Return the first word of a character's name in Unicode, which for letters tells their alphabet."""
    return unicodedata.name(character, "UNKNOWN").split(" ", 1)[0]


_ASCII_BY_KIND = bytes(ord(kind_of(chr(code))) if code < 0x80 else code for code in range(0x100))
"""Maps each byte of ASCII to its kind, which is faster."""


class _ByKind(dict[int, str]):
    def __missing__(self, code: int) -> str:
        self[code] = kind_of(chr(code))
        return self[code]


BY_KIND = _ByKind()
"""Maps each character to its kind, for `str.translate`."""


def by_kind(text: str) -> str:
    """Return a text with each character put by its kind."""
    return text.encode().translate(_ASCII_BY_KIND).decode() if text.isascii() else text.translate(BY_KIND)


class KindTable:
    """The kinds of characters beyond ASCII as the walkers have them, which are learned as they are met.

    `stored` holds a number of 32 bits for each code point: its kind, 1 for itself, 0 while it is not known.
    """

    def __init__(self) -> None:
        self.stored = bytearray(4 * _CODE_POINTS)

    def learn(self, codes: Iterable[int]) -> None:
        """Note the kinds of some code points."""
        numbers = memoryview(self.stored).cast("I")
        for code in set(codes):
            kind = ord(kind_of(chr(code)))
            numbers[code] = kind if kind != code else _ITSELF
