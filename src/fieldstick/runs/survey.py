"""Shows what a source holds before any pattern is written: the shapes of its texts, and what is odd about them.

A shape has A for a capital, a for a small letter, 9 for a digit, and every other character as it is; a letter of
another alphabet stands as a sample of that alphabet. Texts whose runs differ in length alone share a shape. Memory
does not grow with the number of texts: beyond a limit, further shapes are counted together, and the result says so.
"""

from __future__ import annotations

import re
import unicodedata
from functools import lru_cache
from typing import TYPE_CHECKING

from msgspec import Struct, field

if TYPE_CHECKING:
    from collections.abc import Iterable

MOST_SHAPES = 20_000
"""Shapes that are kept apart."""

MOST_DISTINCT = 50_000
"""Values of a column that are told apart."""

MOST_EXAMPLES = 3
LONGEST_RUN_SHOWN = 8
"""Letters or digits in a row that a shape shows one by one; longer runs, and those that vary, are folded."""

LONGEST_SHAPE = 60
"""Runs of a text that make up its shape; what follows is folded into one."""

_RUNS = re.compile(r"[A-Z]+|[a-z]+|[0-9]+|[^A-Za-z0-9]", re.DOTALL)
_ODD = re.compile(r"[^\x20-\x7e]")
_SAMPLES = {
    "CYRILLIC": "Ж",
    "GREEK": "Λ",
    "HEBREW": "א",
    "ARABIC": "ع",
    "CJK": "漢",
    "HIRAGANA": "あ",
    "KATAKANA": "ア",
}


class Shape(Struct):
    """A shape: how many texts have it, how long they are, and some of them.

    `runs` holds the shortest and longest length of each run; `first` is the line of the first text.
    """

    kinds: tuple[str, ...]
    runs: list[list[int]]
    count: int = 0
    shortest: int = 0
    longest: int = 0
    first: int = 0
    examples: list[str] = field(default_factory=list)

    @property
    def text(self) -> str:
        """The shape as it is shown: runs folded to one letter and an ellipsis where lengths vary."""
        pieces = []
        for kind, (low, high) in zip(self.kinds, self.runs, strict=True):
            folded = low != high or high > LONGEST_RUN_SHOWN
            pieces.append(f"{kind}…" if folded else kind * low)
        return "".join(pieces)


class Oddity(Struct):
    """Something odd: in how many texts, and the line of the first."""

    count: int = 0
    first: int = 0


class Survey(Struct):
    """What the texts of a source, or of one column, hold.

    `distinct` is exact while `distinct_exact`; else it is a lower bound. `other_shapes` counts texts whose shape came
    after the limit was reached.
    """

    texts: int = 0
    filled: int = 0
    shortest: int | None = None
    longest: int = 0
    shapes: dict[tuple[str, ...], Shape] = field(default_factory=dict)
    other_shapes: int = 0
    oddities: dict[str, Oddity] = field(default_factory=dict)
    values: set[int] = field(default_factory=set)
    distinct_exact: bool = True

    @property
    def distinct(self) -> int:
        """How many different texts there are, or at least are."""
        return len(self.values)

    def add(self, number: int, text: str) -> None:
        """Take in the text of line `number`."""
        self.texts += 1
        size = len(text)
        self.longest = max(self.longest, size)
        self.shortest = size if self.shortest is None else min(self.shortest, size)
        self.filled += bool(text.strip())
        self._note_value(text)
        self._note_oddities(number, text)
        self._note_shape(number, text)

    def _note_value(self, text: str) -> None:
        if len(self.values) < MOST_DISTINCT:
            self.values.add(hash(text))
        elif hash(text) not in self.values:
            self.distinct_exact = False

    def _note_shape(self, number: int, text: str) -> None:
        kinds, sizes = _shape_of(text)
        shape = self.shapes.get(kinds)
        if shape is None:
            if len(self.shapes) >= MOST_SHAPES:
                self.other_shapes += 1
                return
            runs = [[size, size] for size in sizes]
            shape = self.shapes[kinds] = Shape(kinds, runs, shortest=len(text), first=number)
        else:
            for bounds, size in zip(shape.runs, sizes, strict=True):
                if size < bounds[0]:
                    bounds[0] = size
                elif size > bounds[1]:
                    bounds[1] = size
        shape.count += 1
        shape.shortest = min(shape.shortest, len(text))
        shape.longest = max(shape.longest, len(text))
        if len(shape.examples) < MOST_EXAMPLES and text not in shape.examples:
            shape.examples.append(text)

    def _note_oddities(self, number: int, text: str) -> None:
        if not text.strip():
            self._odd("empty" if not text else "blanks alone", number)
        elif text[0].isspace() or text[-1].isspace():
            self._odd("white space at an edge", number)
        if "  " in text:
            self._odd("blanks in a row", number)
        if _ODD.search(text):
            for name in {_oddity(character) for character in set(_ODD.findall(text))}:
                if name:
                    self._odd(name, number)

    def _odd(self, name: str, number: int) -> None:
        found = self.oddities.setdefault(name, Oddity(first=number))
        found.count += 1

    def ranked(self, *, rare: bool = False) -> list[Shape]:
        """Return the shapes, the commonest first, or the rarest."""
        return sorted(self.shapes.values(), key=lambda shape: (shape.count if rare else -shape.count, shape.first))


def survey(texts: Iterable[tuple[int, str]]) -> Survey:
    """Survey texts that come with the number of their line."""
    found = Survey()
    for number, text in texts:
        found.add(number, text)
    return found


def survey_columns(rows: Iterable[tuple[int, dict[str, str]]]) -> dict[str, Survey]:
    """Survey each column of a table."""
    found: dict[str, Survey] = {}
    for number, row in rows:
        for name, text in row.items():
            found.setdefault(name, Survey()).add(number, text)
    return found


def _shape_of(text: str) -> tuple[tuple[str, ...], list[int]]:
    kinds: list[str] = []
    sizes: list[int] = []
    for run in _RUNS.findall(text):
        kind = _kind(run[0])
        if kinds and kinds[-1] == kind:
            sizes[-1] += len(run)
        elif len(kinds) == LONGEST_SHAPE:
            kinds.append("…")
            sizes.append(1)
            break
        else:
            kinds.append(kind)
            sizes.append(len(run))
    return tuple(kinds), sizes


@lru_cache(maxsize=4096)
def _kind(character: str) -> str:
    if character.isascii():
        if character.isalpha():
            return "A" if character.isupper() else "a"
        return "9" if character.isdigit() else character
    if character.isdigit():
        return "9"
    if character.isalpha():
        alphabet = _alphabet(character)
        if alphabet == "LATIN":
            return "A" if character.isupper() else "a"
        return _SAMPLES.get(alphabet, character)
    return character


def _alphabet(character: str) -> str:
    return unicodedata.name(character, "UNKNOWN").split(" ", 1)[0]


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
        alphabet = _alphabet(character)
        return "" if alphabet == "LATIN" else f"{alphabet.lower()} letters"
    if character.isdigit() or category == "Nd":
        return f"{_alphabet(character).lower()} digits"
    if category in ("Mn", "Mc"):
        return "combining mark"
    return ""
