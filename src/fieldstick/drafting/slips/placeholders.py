"""Expressions with the placeholders of something else: of file names, of dates, of a program's output, of a form."""

from __future__ import annotations

import re
from itertools import count, groupby
from typing import TYPE_CHECKING

from msgspec.structs import replace

from fieldstick.drafting.context import Proposal, escaped, quantifier
from fieldstick.engines.probing import compiled_by_engine, matched_within
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from fieldstick.drafting.context import MatchCase, RepairContext

_FILE_NAME = r"(?=.*[*?])(?:[\w\s/,:=@~-]|(?<![.\])])[*?]|\.(?![*?+]))+"
"""What may be a name of files with `*` and `?`: nothing in it that only an expression has."""

_CONVERSION = r"%(?:(?P<flags>[-+0 #]*)(?P<width>\d{0,3})(?:\.(?P<places>\d{1,3}))?(?P<letter>[dixXfgs]))"
_BRACED = r"\$?\{(?P<name>[a-zA-Z_]\w*)?(?::(?P<own>[^{}]*))?\}"
_ANGLED = r"(?<![(?\\P])<(?P<name>[a-zA-Z][\w-]*)>"
_DATE_PARTS = {
    "YYYY": 4, "yyyy": 4, "MM": 2, "DD": 2, "dd": 2, "HH": 2, "hh": 2, "mm": 2, "ss": 2, "SS": 2, "SSS": 3,
    "%Y": 4, "%m": 2, "%d": 2, "%H": 2, "%M": 2, "%S": 2, "%y": 2, "%f": 6, "%j": 3,
}  # fmt: skip
"""How many digits stand for the letters of a date's layout, and for the codes of ISO C's `strftime`."""

MILLISECONDS = 20

_DATE = "|".join(sorted(_DATE_PARTS, key=len, reverse=True))


def placeholders(context: RepairContext) -> Iterator[Proposal]:
    """See `written_elsewhere`."""
    yield from written_elsewhere(context.case)


def written_elsewhere(case: MatchCase) -> Iterator[Proposal]:
    """An expression in which something stands for others as it does elsewhere, and does not here."""
    yield from _file_name(case)
    yield from _date(case)
    for mark, found, meant, what in (
        ("%", _CONVERSION, _converted, "a program's output"),
        ("{", _BRACED, _braced, "a template"),
        ("<", _ANGLED, _angled, "a line that shows how something is written"),
        ("#", "#+", _hashes, "a form"),
    ):
        if mark in case.expression:
            yield from _each(case, found, meant, what)
    yield from _picture(case)


def _file_name(case: MatchCase) -> Iterator[Proposal]:
    """`*` for any characters and `?` for one, as in names of files."""
    if "\\" in case.expression or re.fullmatch(_FILE_NAME, case.expression) is None:
        return
    if "**" in case.expression and "/" not in case.expression:
        # Twice it stands for folders alone.
        return
    meant = {"*": ".*", "?": "."}
    made = "".join(meant.get(each) or escaped(each) for each in case.expression)
    words = f"* and ? stand for others as they do in names of files: {made}"
    # A mark after a letter may well be a quantifier.
    sure = case.expression[0] in "*?" or re.search(r"[^\w][*?]|\*\.", case.expression) is not None
    yield Proposal(replace(case, expression=made), words, 0.7 if sure else 1.0)


def _date(case: MatchCase) -> Iterator[Proposal]:
    """The layout of a date in letters."""
    if sum(each in case.expression for each in _DATE_PARTS) < 2:
        return
    parts = re.findall(_DATE, case.expression)
    if len(parts) < 2 or len(set(parts)) < len(parts):
        return
    made = re.sub(_DATE, lambda found: _digits(_DATE_PARTS[found[0]]), case.expression)
    words = f"{' '.join(parts)} are the parts of a date, and stand for digits: {made}"
    yield Proposal(replace(case, expression=made), words, 0.6)


def _digits(times: int) -> str:
    return rf"\d{quantifier(times, times)}"


def _each(case: MatchCase, places: str, meant: Callable[[re.Match[str]], str], what: str) -> Iterator[Proposal]:
    first = re.search(places, case.expression)
    if first is None or first[0] in case.text:
        return
    made = re.sub(places, meant, case.expression)
    words = f"{first[0]} stands for others as it does in {what}"
    yield Proposal(replace(case, expression=made), f"{words}: {meant(first)}", 0.7)
    narrow = _as_in(case, places, meant)
    if narrow != made:
        # A brace may as well be meant as itself.
        cost = 0.95 if first[0].startswith("{") else 0.69
        yield Proposal(replace(case, expression=narrow), f"{words}, of the kind that the text has there", cost)


def _as_in(case: MatchCase, places: str, meant: Callable[[re.Match[str]], str]) -> str:
    """Return an expression with digits or letters for placeholders that take these alone of the text."""
    numbers = count()
    asked = re.sub(places, lambda found: f"(?P<p{next(numbers)}_>{meant(found)})", case.expression)
    compiled = compiled_by_engine(asked, case.flags)
    whole = compiled.fullmatch if compiled is not None else None
    found = matched_within(MILLISECONDS, lambda: whole(case.text)) if whole is not None else None
    numbers = count()

    def narrowed(place: re.Match[str]) -> str:
        # What stands in a class is none of the groups.
        taken = (found.groupdict().get(f"p{next(numbers)}_") or "") if found is not None else ""
        kind = r"\d+" if taken.isdecimal() else r"\w+" if taken.isalnum() else ""
        return _ANY.sub(lambda _: kind, meant(place)) if kind else meant(place)

    return re.sub(places, narrowed, case.expression)


_ANY = compiled_later(r"(?:\.|\\S)\+")


def _converted(found: re.Match[str]) -> str:
    """Return what C's `printf` writes for a conversion."""
    letter, width = found["letter"], found["width"]
    if letter in "di":
        return _digits(int(width)) if width and "0" in found["flags"] else r"\d+"
    if letter in "fg":
        return rf"\d+\.\d{quantifier(int(found['places']), int(found['places']))}" if found["places"] else r"\d+\.\d+"
    return {"x": "[0-9a-f]+", "X": "[0-9A-F]+"}.get(letter, ".+")


def _braced(found: re.Match[str]) -> str:
    # Some say behind the name what may stand there.
    own = found["own"] if found["own"] and _IS_EXPRESSION.search(found["own"]) else ".+"
    return f"(?P<{found['name']}>{own})" if found["name"] else f"({own})"


_IS_EXPRESSION = compiled_later(r"\\[dwsDWS]|\[[^\]]+\]|\.[*+]")


def _angled(found: re.Match[str]) -> str:
    return rf"(?P<{found['name'].replace('-', '_')}>\S+)"


def _hashes(found: re.Match[str]) -> str:
    return _digits(len(found[0]))


def _picture(case: MatchCase) -> Iterator[Proposal]:
    """`LM-9999`, `A99`, `nnn-nn`: the same letter or digit again and again for any of its kind, as forms have it."""
    shown, text = case.expression, case.text
    if len(shown) != len(text) or not re.fullmatch(_PICTURE, shown) or not re.search(_STANDS, shown):
        return
    pieces = []
    for written, found in zip(shown, text, strict=True):
        kind = r"\d" if found.isdigit() else "[A-Z]" if found.isupper() else "[a-z]"
        if written == found and written not in "9AXnN":
            pieces.append(escaped(written))
        elif written in "9nN" and found.isdigit():
            pieces.append(r"\d")
        elif written in "AX" and found.isalnum():
            pieces.append(kind if written == "X" or found.isupper() else r"\w")
        else:
            return
    made = "".join(piece + quantifier(times, times) for piece, times in _runs(pieces))
    yield Proposal(replace(case, expression=made), f"a character stands for any of its kind: {made}", 0.7)


_PICTURE = r"[\w\s/.:,-]+"
_STANDS = r"9|n{2}|N{2}|X{2}|A\d|A{2}"


def _runs(pieces: list[str]) -> Iterator[tuple[str, int]]:
    """Yield pieces with how often they come one after the other, those that are themselves one by one."""
    for piece, run in groupby(pieces):
        times = len(list(run))
        yield from [(piece, times)] if len(piece) > 1 and piece[0] in "[\\" else [(piece, 1)] * times


RULES = (placeholders,)
