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
from fieldstick.drafting.proposals.spelling import members_of, ranges_of

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

_NUMBER = re.compile(
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
    """The parts of a number, and its kind: which of whole digits, point and fraction it has, or its base."""

    kind: str
    whole: str
    fraction: str
    exponent: str
    suffix: str


def parted(text: str) -> Parted | None:
    """Return the parts of a number; None for what is none."""
    found = _NUMBER.fullmatch(text)
    if found is None:
        return None
    base, whole, fraction = (found[each] or "" for each in ("base", "whole", "fraction"))
    if base:
        return Parted(base[1].lower(), found["digits"], "", "", found["ending"])
    if not re.search("[0-9]", whole + fraction):
        return None
    kind = "W" * bool(whole) + "." * bool(found["point"]) + "F" * bool(fraction)
    exponent = f"{found['letter']}{found['sign']}{found['exponent']}" if found["letter"] else ""
    return Parted(kind, whole, fraction, exponent, found["suffix"])


def are_literal(values: Sequence[str]) -> bool:
    """Tell whether texts are numbers, of which some are not just digits with one point."""
    parts = [parted(each.lstrip("+-") if each[1:] else each) for each in values]
    return all(parts) and any(
        each is not None and (each.kind not in ("W", "W.F") or each.exponent or each.suffix or "_" in each.whole)
        for each in parts
    )


class _Numbers:
    """Numbers of one column, and how each of their parts is spelled."""

    def __init__(self, numbers: Sequence[Parted], texts: Sequence[str]) -> None:
        self._numbers = numbers
        self._texts = texts

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
        letters = sorted({each[0] for each in exponents})
        signed = [each[1] in "+-" for each in exponents]
        # What may be less than none may have the other sign too.
        sign = "[+-]" + "?" * (not all(signed)) if any(signed) else ""
        digits = [each[1:].lstrip("+-") for each in exponents]
        spelled = (letters[0] if len(letters) == 1 else f"[{''.join(letters)}]") + sign
        spelled += self._run(digits)
        return f"(?:{spelled})?" if need == "?" else spelled

    def _suffix(self, need: str) -> str:
        suffixes = [each.suffix for each in self._numbers if each.suffix]
        if need == "-" or not suffixes:
            return ""
        letters = sorted(set("".join(suffixes)))
        if sum(each.swapcase() in letters for each in letters) > 2:
            letters = sorted({*letters, *map(str.swapcase, letters)})
        spelled = letters[0] if len(letters) == 1 else f"[{''.join(letters)}]"
        most = max(map(len, suffixes))
        return spelled + quantifier(0 if need == "?" else 1, most)

    def _digits(self, kinds: Sequence[str]) -> str:
        bases = [each for each in kinds if each.isalpha() and each.islower()]
        ways = [self._based(each) for each in bases]
        whole, fraction = self._whole(), self._run([each.fraction for each in self._numbers if each.fraction])
        after = {each.removeprefix("W") for each in kinds if each.startswith("W")}
        pointed = r"\." + (fraction if "." not in after else self._run(["", *self._fractions()]))
        if after:
            optional = "" in after
            bare = after == {"", "."}
            tail = r"\." if after <= {"", "."} else pointed
            tail = tail if after != {""} else ""
            ways.append(whole + (f"{tail}?" if bare else f"(?:{tail})?" if optional and tail else tail))
        if ".F" in kinds:
            ways.append(rf"\.{fraction}")
        return ways[0] if len(ways) == 1 else f"(?:{'|'.join(ways)})"

    def _fractions(self) -> list[str]:
        return [each.fraction for each in self._numbers if each.fraction]

    def _based(self, base: str) -> str:
        digits = "".join(each.whole for each in self._numbers if each.kind == base)
        letters = {text[text.index("0") + 1] for text in self._texts if re.match(f"[+-]?0{base}", text, re.IGNORECASE)}
        kinds = {"b": "01", "o": "0-7"}.get(base, "")
        if not kinds:
            kinds = "0-9" + "A-F" * any(map(str.isupper, digits)) + "a-f" * any(map(str.islower, digits))
        spelled = (
            base
            if letters == {base}
            else members_of(letters)
            if len(letters) == 1
            else f"[{ranges_of(sorted(letters))}]"
        )
        return f"0{spelled}[{kinds}{'_' * ('_' in digits)}]+"

    def _whole(self) -> str:
        wholes = [each.whole for each in self._numbers if each.whole and each.kind[:1] == "W"]
        longer = [each for each in wholes if len(each) > 1]
        if (
            any(each.kind == "W" and each.whole == "0" for each in self._numbers)
            and len(longer) >= FEWEST_WITHOUT_ZERO
            and not any(each[0] in "0_" for each in longer)
        ):
            return rf"(?:0|[1-9]{'[0-9_]' if '_' in ''.join(wholes) else chr(92) + 'd'}*)"
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
            return r"\d" + quantifier(lengths.pop(), max(map(len, values)))
        return r"\d" + ("*" if "" in values else "+")


def literals_of(values: Sequence[str]) -> str:
    """Return how numbers are spelled, where `are_literal` is true of them."""
    numbers = [found for each in values if (found := parted(each.lstrip("+-"))) is not None]
    signs = {each[0] for each in values if each[0] in "+-"}
    sign = "" if not signs else "[+-]" if len(signs) == 2 else members_of(signs).replace("+", r"\+")
    always = all(each[0] in "+-" for each in values)
    return sign + "?" * (bool(signs) and not always) + _Numbers(numbers, values).spelled()
