"""Which texts may hold a match of a pattern whose parameters take one value after another."""

from __future__ import annotations

from collections import defaultdict
from itertools import chain
from typing import TYPE_CHECKING

from fieldstick.analysis.literals import Either, needs, read_alone

if TYPE_CHECKING:
    from collections.abc import Iterable, Mapping, Sequence

    from fieldstick.analysis.literals import Need
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
        self._needs = self._of(pattern)

    def _of(self, pattern: Pattern) -> tuple[Need, ...]:
        """Return what a match holds."""
        if pattern.combination is not None:
            members = tuple(self._of(each) for each in pattern.members)
            if pattern.combination == "any_of":
                return (Either(members),) if all(members) else ()
            return tuple(chain.from_iterable(members)) if pattern.combination == "all_of" else ()
        assert pattern.filling is not None
        parsed = read_alone(pattern.filling.text(self._names), pattern.flags)
        return tuple(needs(parsed)) if parsed is not None else ()

    def filled(self, values: Mapping[str, str]) -> list[str] | None:
        """Return the texts for some values, each in canonical form; None when nothing is required."""
        found = self._best(self._needs, {name: values.get(name, "") for name in self._names})
        return None if found is None else [canonical(each) for each in found]

    def _best(self, several: tuple[Need, ...], values: Mapping[str, str]) -> list[str] | None:
        """Return the texts, one of which is held, of the need that tells most: whose shortest text is longest."""
        found = [made for need in several if (made := self._choices(need, values)) is not None]
        return max(found, key=lambda each: (min(map(len, each)), -len(each)), default=None)

    def _choices(self, need: Need, values: Mapping[str, str]) -> list[str] | None:
        if isinstance(need, Either):
            made = [self._best(branch, values) for branch in need.branches]
            known = [each for each in made if each is not None]
            return list(chain.from_iterable(known)) if len(known) == len(made) else None
        for name, stand_in in self._names.items():
            need = need.replace(stand_in, values[name])
        return [need] if need else None


class Candidates:
    """Texts by the pieces of some characters in them, so that those that hold a literal are found at once."""

    def __init__(self, pattern: Pattern, texts: Sequence[str]) -> None:
        self._required = RequiredTexts(pattern)
        self._texts = [*map(canonical, texts)]
        self._by_length: dict[int, dict[str, list[int]]] = {}

    def of(self, values: Mapping[str, str]) -> Iterable[int]:
        """Return the indexes of the texts that may fit, the pattern's parameters standing for some values, in order."""
        required = self._required.filled(values)
        if required is None:
            return range(len(self._texts))
        found = [self._with(text) for text in dict.fromkeys(required)]
        return found[0] if len(found) == 1 else sorted(set(chain.from_iterable(found)))

    def _with(self, text: str) -> list[int]:
        length = min(GRAM, len(text))
        known = self._grams(length)
        grams = [known.get(text[at : at + length], []) for at in range(len(text) - length + 1)]
        rare = sorted(grams, key=len)
        if len(rare) > 1 and rare[0]:
            return sorted(set(rare[0]).intersection(rare[1]))
        return rare[0]

    def _grams(self, length: int) -> dict[str, list[int]]:
        """Return the texts by their pieces of so many characters, made when first asked for."""
        if length not in self._by_length:
            found: dict[str, list[int]] = defaultdict(list)
            for index, text in enumerate(self._texts):
                for gram in {text[at : at + length] for at in range(len(text) - length + 1)}:
                    found[gram].append(index)
            self._by_length[length] = found
        return self._by_length[length]


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
        self._first = dict(zip(reversed(texts), range(len(texts) - 1, -1, -1), strict=True))
        self._more: dict[str, list[int]] = defaultdict(list)
        if len(self._first) < len(texts):
            for index, text in enumerate(texts):
                if self._first[text] != index:
                    self._more[text].append(index)

    def of(self, values: Mapping[str, str]) -> Sequence[int]:
        """Return the indexes of the texts that fit, in order."""
        first = self._first.get(values[self.parameter])
        return () if first is None else (first, *self._more.get(values[self.parameter], ()))
