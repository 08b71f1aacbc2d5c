"""Reads and spells versions that say more than numbers: `1.4.0-rc2`, `1.4.0+3f2a9c1`, `1.4.0.dev7`, `1.4.0-9-g3f2a`."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

from fieldstick.drafting.context import common_start, escaped_text, quantifier
from fieldstick.drafting.proposals.moments import has_three_numbers
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

_NUMBERS = r"v?\d+(?:\.\d+){2,3}"
_MORE = (
    r"(?:[-.]?(?:rc|dev|alpha|beta|post|pre|a|b)[-.]?\d+|-\d+(?:-g[0-9a-f]{7,})?"
    r"|-(?:SNAPSHOT|rc|dev|alpha|beta|pre|stable|final))(?:\+[0-9A-Za-z.]+)?"
    r"|\+[0-9A-Za-z.]+"
)
_END = r"(?![^\W_]|_\d|\+|\.\d|-\w)"
"""What may not stand behind a version; the rest of a file's name may."""

_WITH_MORE = compiled_later(rf"(?<![\w.]){_NUMBERS}(?:{_MORE}){_END}")
_ANY = compiled_later(rf"(?<![\w.]){_NUMBERS}(?:{_MORE})?{_END}")
_OF_TWO_TOO = compiled_later(rf"(?<![\w.])v?\d+(?:\.\d+){{1,3}}(?:\.?{_MORE})?{_END}")
_PARTS = compiled_later(r"(v?)(\d+(?:\.\d+)*)(.*)")
_LEAD = compiled_later(r"[^\d+]*\+?")
_OF_ONE_DIGIT = compiled_later(r"(?<!\d)\d(?!\d)")
_OF_A_YEAR = compiled_later(r"\d{4}")
_BASE_16 = compiled_later(r"[0-9a-f]+")


def has_more(text: str) -> bool:
    """Tell whether a text holds a version that says more than numbers."""
    return _WITH_MORE.search(text) is not None


FEWEST_OF_OTHERS = 2
"""Versions of two or of four numbers from which on it is no chance that not all have three."""


def have_two_numbers(texts: Sequence[str]) -> bool:
    """Tell whether nearly all texts hold a version, of which most have three numbers, and some two or four."""
    found = [_OF_TWO_TOO.findall(text) for text in texts]
    counts = Counter(each[0].count(".") for each in found if len(each) == 1)
    others = counts[1] + counts[3]
    return counts[2] * 2 > len(texts) and counts.total() * 10 >= len(texts) * 9 and others >= FEWEST_OF_OTHERS


def have_three_numbers(texts: Sequence[str]) -> bool:
    """Tell whether nearly all texts hold a version of three numbers, some with one of a digit, that can be no day."""
    found = [each[0] for each in map(_ANY.search, texts) if each is not None]
    if len(found) * 10 < len(texts) * 9 or not any(map(_OF_ONE_DIGIT.search, found)):
        return False
    return any(map(has_three_numbers, found)) and not any(map(_OF_A_YEAR.search, found))


def versions_in(text: str, *, of_two: bool = False) -> Iterator[tuple[int, int]]:
    """Yield where versions of three or four numbers stand in a text, with more or without; `of_two`, too."""
    return (found.span() for found in (_OF_TWO_TOO if of_two else _ANY).finditer(text))


def spelled_of(values: Sequence[str]) -> str:
    """Return what takes versions: as many numbers as they have, and what follows in some of them."""
    read = [found.groups() for found in map(_PARTS.fullmatch, values) if found is not None]
    begun = {begin for begin, _, _ in read}
    begin = "v?" if len(begun) > 1 else begun.pop()
    numbers = [row.split(".") for _, row, _ in read]
    least, most = min(map(len, numbers)), max(map(len, numbers))
    each = [_digits([row[at] for row in numbers if at < len(row)]) for at in range(most)]
    core = r"\.".join(each[:least]) + "".join(rf"(?:\.{digits})?" for digits in each[least:])
    more = [rest for _, _, rest in read if rest]
    if not more:
        return begin + core
    leads: dict[str, list[str]] = {}
    for rest in more:
        lead = _LEAD.match(rest)
        assert lead is not None
        leads.setdefault(lead[0], []).append(rest[lead.end() :])
    options = [escaped_text(lead) + _rest(rests) for lead, rests in sorted(leads.items())]
    lacks = "?" * (len(more) < len(read))
    rest = f"(?:{'|'.join(options)}){lacks}" if lacks or len(options) > 1 else options[0]
    return f"{begin}{core}{rest}"


def _digits(numbers: Sequence[str]) -> str:
    return r"\d" + quantifier(1, max(map(len, numbers)) if max(map(len, numbers)) <= 2 else None)


def _rest(rests: Sequence[str]) -> str:
    """Return what takes what stands behind the letters or the mark that more begins with."""
    if not any(rests):
        return ""
    if all(map(str.isdecimal, rests)):
        return _digits(rests)
    stays = common_start(rests).rstrip("0123456789")
    if stays and all(each[len(stays) :].isdecimal() for each in rests):
        return escaped_text(stays) + _digits([each[len(stays) :] for each in rests])
    sizes = {len(each) for each in rests}
    if all(map(_BASE_16.fullmatch, rests)):
        return f"[0-9a-f]{quantifier(min(sizes), min(sizes)) if len(sizes) == 1 else '+'}"
    marks = "".join(sorted({each for rest in rests for each in rest if not each.isalnum()} - {"-"}))
    dash = "-" * any("-" in each for each in rests)
    return f"[0-9A-Za-z{marks}{dash}]{'*' if '' in rests else '+'}"
