"""Which texts may hold a match of a pattern whose parameters take one value after another."""

from __future__ import annotations

from collections import defaultdict
from itertools import chain
from typing import TYPE_CHECKING

from fieldstick.analysis.literals import read_alone, required_runs

if TYPE_CHECKING:
    from collections.abc import Iterable, Mapping, Sequence

    from fieldstick.suites.suite import Pattern

GRAM = 3
"""Code points of the pieces by which texts are found."""

_PRIVATE = 0xF0000
"""A code point of nobody's, from which on one stands for each parameter while an expression is read."""


class _Canonical(dict[int, str]):
    """Maps a character to one that stands for all that it is taken for when case is ignored, and maybe for more.

    Four characters beyond ASCII are taken for one of ASCII: dotted and dotless i, long s and the kelvin sign.
    """

    def __missing__(self, code: int) -> str:
        character = chr(code)
        found = {"\u0130": "i", "\u0131": "i", "\u017f": "s", "\u212a": "k"}.get(character)
        self[code] = found if found is not None else character.casefold()[0]
        return self[code]


_CANONICAL = _Canonical()


def canonical(text: str) -> str:
    """Return a text of as many characters, the same for all texts that ignoring case takes for one another."""
    return text.lower() if text.isascii() else text.translate(_CANONICAL)


class RequiredTexts:
    """Texts of which every text that a pattern fits holds one, for any values of its parameters."""

    def __init__(self, pattern: Pattern) -> None:
        self._names = {name: chr(_PRIVATE + place) for place, name in enumerate(pattern.parameters)}
        self._runs = self._of(pattern)

    def _of(self, pattern: Pattern) -> list[list[str]] | None:
        """Return the runs of characters that a match holds, a list for each member one of which must fit."""
        if pattern.combination is not None:
            members = [self._of(each) for each in pattern.members]
            if pattern.combination == "any_of":
                return None if None in members else [runs for each in members for runs in each or ()]
            known = [each for each in members if each is not None] if pattern.combination == "all_of" else []
            return max(known, key=lambda each: min(len(max(runs, key=len)) for runs in each), default=None)
        assert pattern.filling is not None
        parsed = read_alone(pattern.filling.text(self._names), pattern.flags)
        runs = [run for run in required_runs(parsed) if run] if parsed is not None else []
        return [runs] if runs else None

    def filled(self, values: Mapping[str, str]) -> list[str] | None:
        """Return the texts for some values, each in canonical form; None when nothing is required."""
        if self._runs is None:
            return None
        found = []
        for runs in self._runs:
            for name, stand_in in self._names.items():
                runs = [run.replace(stand_in, values.get(name, "")) for run in runs]
            found.append(canonical(max(runs, key=len)))
        return found


class Candidates:
    """Texts by the pieces of three characters in them, so that those that hold a literal are found at once."""

    def __init__(self, pattern: Pattern, texts: Sequence[str]) -> None:
        self._required = RequiredTexts(pattern)
        self._count = len(texts)
        self._grams: dict[str, list[int]] = defaultdict(list)
        for index, text in enumerate(map(canonical, texts)):
            for gram in {text[at : at + GRAM] for at in range(len(text) - GRAM + 1)}:
                self._grams[gram].append(index)

    def of(self, values: Mapping[str, str]) -> Iterable[int]:
        """Return the indexes of the texts that may fit, the pattern's parameters standing for some values, in order."""
        required = self._required.filled(values)
        if required is None or min(map(len, required)) < GRAM:
            return range(self._count)
        found = [self._with(text) for text in required]
        return found[0] if len(found) == 1 else sorted(set(chain.from_iterable(found)))

    def _with(self, text: str) -> list[int]:
        grams = [self._grams.get(text[at : at + GRAM], []) for at in range(len(text) - GRAM + 1)]
        rare = sorted(grams, key=len)
        if len(rare) > 1 and rare[0]:
            return sorted(set(rare[0]).intersection(rare[1]))
        return rare[0]


def exact_parameter(pattern: Pattern) -> str | None:
    """Return the parameter whose value is the only text that a pattern fits; None where it fits others too, or is read
    otherwise.
    """
    filling = pattern.filling
    if (
        filling is None
        or pattern.reach != "whole"
        or pattern.flags - {"ascii", "multiline", "dotall"}
        or pattern.fields
    ):
        return None
    pieces = [piece for piece in filling.pieces if piece.text or piece.parameter is not None]
    plain = len(pieces) == 1 and pattern.engine == "python" and pattern.take in ("first", "last", "all")
    return pieces[0].parameter if plain else None


class ExactTexts:
    """Texts by themselves, for a pattern that fits the value of its one parameter alone."""

    def __init__(self, parameter: str, texts: Sequence[str]) -> None:
        self.parameter = parameter
        self._places: dict[str, list[int]] = {}
        for index, text in enumerate(texts):
            self._places.setdefault(text, []).append(index)

    def of(self, values: Mapping[str, str]) -> Sequence[int]:
        """Return the indexes of the texts that fit, in order."""
        return self._places.get(values[self.parameter], ())
