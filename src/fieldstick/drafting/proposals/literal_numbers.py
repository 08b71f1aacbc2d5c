"""Spells numbers as programs write them: another base, digits in groups by `_`, exponents, letters that end them.

Each text is parted by one grammar. What a number may have is then said by the parts it has before the point and after
it: a whole one may need the exponent that one with a point can lack.
"""

from __future__ import annotations

import re
from collections import defaultdict
from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.drafting.context import quantifier
from fieldstick.drafting.proposals.spelling import cases_of_base_16, members_of
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

_NUMBER = compiled_later(
    r"(?:(?P<base>0(?:[xX](?=[0-9A-Fa-f_])|[bB](?=[01_]+(?:[G-Zg-z]|\Z))|[oO](?=[0-7_]+(?:[G-Zg-z]|\Z))))"
    r"(?P<digits>_?[0-9A-Fa-f][0-9A-Fa-f_]*?)(?P<ending>(?:[G-Zg-z][A-Za-z]{0,3})?)"
    r"|(?P<whole>[0-9_]*)(?P<point>\.?)(?P<fraction>[0-9_]*)"
    r"(?:(?P<letter>[eE])(?P<sign>[+-]?)(?P<exponent>[0-9_]+))?(?P<suffix>[A-Za-z]{0,4}))"
)

BY_CHANCE = 0.05
"""How likely something may be by chance that all numbers of a kind have, or none of them."""

FEWEST_AS_LONG = 5
"""Numbers from which on it is no chance that they have equally many digits."""

FEWEST_WITHOUT_ZERO = 6
"""Numbers of several digits from which on it is no chance that none begins with 0, where 0 is one of them."""


class Parted(Struct, frozen=True):
    """The parts of a number, and its kind: which of whole digits, point and fraction it has, or its base.

    The kinds of numbers to base 10 are `W`, `W.`, `W.F` and `.F`, of others the letter of the base, which `base` holds
    as it stands.
    """

    kind: str
    whole: str
    fraction: str
    exponent: str
    suffix: str
    base: str = ""


def parted(text: str) -> Parted | None:
    """Return the parts of a number; None for what is none."""
    found = _NUMBER.fullmatch(text)
    if found is None:
        return None
    base, whole, fraction = (found[each] or "" for each in ("base", "whole", "fraction"))
    if base:
        return Parted(base[1].lower(), found["digits"], "", "", found["ending"], base[1])
    if not re.search("[0-9]", whole + fraction):
        return None
    kind = "W" * bool(whole) + "." * bool(found["point"]) + "F" * bool(fraction)
    exponent = f"{found['letter']}{found['sign']}{found['exponent']}" if found["letter"] else ""
    return Parted(kind, whole, fraction, exponent, found["suffix"])


def are_literal(values: Sequence[str]) -> bool:
    """Tell whether texts are numbers, of which some are not just digits with one point."""
    parts: list[Parted] = []
    for each in set(values):
        found = parted(each.lstrip("+-") if each[1:] else each)
        if found is None:
            return False
        parts.append(found)
    return any(each.kind not in ("W", "W.F") or each.exponent or each.suffix or "_" in each.whole for each in parts)


class _Numbers:
    """Numbers of one column, and how each of their parts is spelled."""

    def __init__(self, numbers: Sequence[Parted]) -> None:
        self._numbers = numbers

    def spelled(self) -> str:
        """Spell the numbers, those together that need the same after their digits."""
        needs: dict[tuple[str, str, bool], list[str]] = defaultdict(list)
        kinds = dict.fromkeys(each.kind for each in self._numbers)
        for kind in kinds:
            either = self._need_either([kind])
            needs[self._need(kind, "exponent"), self._need(kind, "suffix"), either].append(kind)
        ways = []
        for (exponent, suffix, either), some in needs.items():
            digits = self._digits(some)
            if either:
                ways.append(digits + self._exponent("") + self._suffix("?"))
                exponent, suffix = "-", ""
            ways.append(digits + self._exponent(exponent) + self._suffix(suffix))
        return ways[0] if len(ways) == 1 else f"(?:{'|'.join(ways)})"

    def _need(self, kind: str, part: str) -> str:
        """Return the quantifier of a part for numbers of a kind: none where each must have it, `-` where none may."""
        share = sum(bool(getattr(each, part)) for each in self._numbers) / len(self._numbers)
        own = [bool(getattr(each, part)) for each in self._numbers if each.kind == kind]
        if share in (0, 1):
            return "-" if share == 0 else ""
        if all(own) and (share ** len(own) < BY_CHANCE or part == "exponent"):
            return ""
        return "-" if not any(own) and (1 - share) ** len(own) < BY_CHANCE else "?"

    def _need_either(self, kinds: Sequence[str]) -> bool:
        """Tell whether all numbers of some kinds have an exponent or an ending, and several do not have one of them."""
        own = [(bool(each.exponent), bool(each.suffix)) for each in self._numbers if each.kind in kinds]
        return all(map(any, own)) and min(own.count((True, False)), own.count((False, True))) > 1

    def _exponent(self, need: str) -> str:
        exponents = [each.exponent for each in self._numbers if each.exponent]
        if need == "-" or not exponents:
            return ""
        letter = _one_of({each[0] for each in exponents})
        signed = [each[1] in "+-" for each in exponents]
        # What may be less than none may have the other sign too.
        sign = "[+-]" + "?" * (not all(signed)) if any(signed) else ""
        digits = [each[1:].lstrip("+-") for each in exponents]
        spelled = letter + sign + self._run(digits)
        return f"(?:{spelled})?" if need == "?" else spelled

    def _suffix(self, need: str) -> str:
        suffixes = [each.suffix for each in self._numbers if each.suffix]
        if need == "-" or not suffixes:
            return ""
        letters = set("".join(suffixes))
        if sum(each.swapcase() in letters for each in letters) > 2:
            letters |= set(map(str.swapcase, letters))
        return _one_of(letters) + quantifier(0 if need == "?" else 1, max(map(len, suffixes)))

    def _digits(self, kinds: Sequence[str]) -> str:
        ways = [self._based(each) for each in kinds if each in "xbo"]
        after = {each.removeprefix("W") for each in kinds if each.startswith("W")}
        if after:
            ways.append(self._whole() + self._after(after))
        if ".F" in kinds:
            ways.append(rf"\.{self._run(self._fractions())}")
        return ways[0] if len(ways) == 1 else f"(?:{'|'.join(ways)})"

    def _after(self, kinds: set[str]) -> str:
        """Spell what comes after whole digits: nothing, a point, a point and a fraction, or one of these."""
        if kinds <= {"", "."}:
            return {1: "", 2: r"\.?"}[len(kinds)] if "" in kinds else r"\."
        spelled = r"\." + self._run(["", *self._fractions()] if "." in kinds else self._fractions())
        return f"(?:{spelled})?" if "" in kinds else spelled

    def _fractions(self) -> list[str]:
        return [each.fraction for each in self._numbers if each.fraction]

    def _based(self, base: str) -> str:
        own = [each for each in self._numbers if each.kind == base]
        digits = "".join(each.whole for each in own)
        members = {"b": "01", "o": "0-7", "x": f"0-9{cases_of_base_16(digits)}"}[base]
        return f"0{_one_of({each.base for each in own})}[{members}{'_' * ('_' in digits)}]+"

    def _whole(self) -> str:
        wholes = [each.whole for each in self._numbers if each.whole and each.kind[:1] == "W"]
        longer = [each for each in wholes if len(each) > 1]
        zero = any(each.kind == "W" and each.whole == "0" for each in self._numbers)
        if zero and len(longer) >= FEWEST_WITHOUT_ZERO and not any(each[0] in "0_" for each in longer):
            return "(?:0|[1-9][0-9_]*)" if "_" in "".join(wholes) else r"(?:0|[1-9]\d*)"
        return self._run(wholes)

    @staticmethod
    def _run(digits: Iterable[str]) -> str:
        """Spell digits, with what groups them; as many as there are where they are always as many."""
        values = list(digits)
        if "_" in "".join(values):
            if any(each[:1] == "_" for each in values):
                return "[0-9_]" + ("*" if "" in values else "+")
            return r"(?:\d[0-9_]*)?" if "" in values else r"\d[0-9_]*"
        lengths = set(map(len, values))
        if len(lengths) == 1 and len(values) >= FEWEST_AS_LONG:
            return r"\d" + quantifier(len(values[0]), len(values[0]))
        return r"\d" + ("*" if "" in values else "+")


def _one_of(letters: set[str]) -> str:
    return "".join(letters) if len(letters) == 1 else f"[{''.join(sorted(letters))}]"


def literals_of(values: Sequence[str]) -> str:
    """Return how numbers are spelled, where `are_literal` is true of them."""
    numbers = [found for each in values if (found := parted(each.lstrip("+-"))) is not None]
    signs = {each[0] for each in values if each[0] in "+-"}
    sign = "" if not signs else "[+-]" if len(signs) == 2 else members_of(signs).replace("+", r"\+")
    always = all(each[0] in "+-" for each in values)
    return sign + "?" * (bool(signs) and not always) + _Numbers(numbers).spelled()
