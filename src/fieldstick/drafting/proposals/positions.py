"""Reads and spells how far north or east a place lies: `54°38′N`, `2°21′05.3″W`, `54.2134° N`."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.drafting.context import escaped_text, quantifier
from fieldstick.drafting.proposals.moments import FEWEST_FILLED
from fieldstick.drafting.proposals.spelling import members_of
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Sequence

NAMES = ("lat", "lon", "position")
"""What fields are called of what lies north or south, east or west, or of either."""

_FRACTION = r"\.\d+"
_MINUTES, _SECONDS = "[′'’]", "(?:[″\"”]|''|′′)"
_DEGREES = (
    rf"\d{{1,3}}(?:{_FRACTION})?°"
    rf"(?: ?\d{{1,2}}(?:{_FRACTION})?{_MINUTES}(?: ?\d{{1,2}}(?:{_FRACTION})?{_SECONDS})?)?"
)
FOUND = rf"(?:[NSEW] ?{_DEGREES}(?! ?[NSEW](?! ?\d))|{_DEGREES} ?[NSEW])"
"""What finds positions: the side is told before them or behind."""

SPELLED = r"\d\d°\d′\d″"
"""About how they are spelled: their side is worth as much as a number of its own."""

_PARTS = compiled_later(
    rf"(?:(?P<first>[NSEW])(?P<space> )?)?(?P<degrees>\d+)(?P<parts>{_FRACTION})?°"
    rf"(?:(?P<before> )?(?P<minutes>\d+)(?P<tenths>{_FRACTION})?(?P<minute>{_MINUTES})"
    rf"(?:(?P<between> )?(?P<seconds>\d+)(?P<hundredths>{_FRACTION})?(?P<second>{_SECONDS}))?)?"
    rf"(?:(?P<behind> )?(?P<last>[NSEW]))?"
)
_SIDE = compiled_later("[NSEW]")

Texts = list[str | None]


def name_of(values: Sequence[str]) -> str:
    """Return what positions are called, by their sides."""
    sides = {side for value in values for side in _SIDE.findall(value)}
    return "lat" if sides <= {*"NS"} else "lon" if sides <= {*"EW"} else "position"


def spelled_of(values: Sequence[str]) -> str:
    """Spell positions."""
    cut = [found for found in map(_PARTS.fullmatch, values) if found is not None]
    found = {part: [each[part] for each in cut] for part in _PARTS.groupindex}
    whole = _digits(found["degrees"], 2 if name_of(values) == "lat" else 3)
    whole += _maybe(found["parts"], _fraction(found["parts"]))
    seconds = _blank(found["between"], found["seconds"]) + _measure(found, "seconds", "hundredths", "second")
    of_minutes = [each for each, minute in zip(found["seconds"], found["minutes"], strict=True) if minute]
    minutes = _blank(found["before"], found["minutes"]) + _measure(found, "minutes", "tenths", "minute")
    minutes = _maybe(found["minutes"], minutes + _maybe(of_minutes, seconds))
    first = _maybe(found["first"], _one_of(found["first"]) + _blank(found["space"], found["first"]))
    last = _maybe(found["last"], _blank(found["behind"], found["last"]) + _one_of(found["last"]))
    return f"{first}{whole}°{minutes}{last}"


def _measure(found: dict[str, Texts], number: str, fraction: str, mark: str) -> str:
    """Spell minutes or seconds, which are fewer than sixty as a rule, with their mark."""
    numbers = [each for each in found[number] if each is not None]
    is_filled = all(len(each) == 2 for each in numbers)
    is_sure = len(numbers) >= FEWEST_FILLED or any(each.startswith("0") for each in numbers)
    parts = [part for each, part in zip(found[number], found[fraction], strict=True) if each is not None]
    if any(len(each) > 1 and each >= "6" for each in numbers):
        spelled = r"\d{2}" if is_filled and is_sure else r"\d{1,2}"
    else:
        spelled = r"[0-5]\d" if is_filled and is_sure else r"[0-5]?\d"
    return spelled + _maybe(parts, _fraction(parts)) + _one_of(found[mark])


def _digits(texts: Texts, most: int) -> str:
    sizes = {len(each or "") for each in texts}
    most = max(most, *sizes)
    return rf"\d{quantifier(*sizes, *sizes)}" if len(sizes) == 1 and len(texts) >= FEWEST_FILLED else rf"\d{{1,{most}}}"


def _fraction(texts: Texts) -> str:
    sizes = {len(each) - 1 for each in texts if each is not None}
    several = sum(each is not None for each in texts)
    return rf"\.\d{quantifier(*sizes, *sizes)}" if len(sizes) == 1 and several >= FEWEST_FILLED else _FRACTION


def _blank(blanks: Texts, of: Texts) -> str:
    """Spell the blank before something."""
    return _maybe([blank for blank, each in zip(blanks, of, strict=True) if each is not None], " ")


def _maybe(texts: Texts, spelled: str) -> str:
    """Return what spells texts of which some may be absent, or all."""
    there = [each for each in texts if each is not None]
    if not there:
        return ""
    if len(there) == len(texts):
        return spelled
    return f"{spelled}?" if len(spelled) == 1 else f"(?:{spelled})?"


def _one_of(texts: Texts) -> str:
    """Spell one of those that are there, where any are."""
    different = sorted({each for each in texts if each is not None})
    if len(different) < 2:
        return escaped_text("".join(different))
    if all(len(each) == 1 for each in different):
        return f"[{members_of(different)}]"
    return f"(?:{'|'.join(map(escaped_text, different))})"
