"""Tells numbers from the few marks and words that stand before or behind them in some texts: `<44`, `c. 5`, `12+`."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.drafting.context import common_start, escaped_text
from fieldstick.drafting.proposals.cutting import tokens_of
from fieldstick.drafting.proposals.pieces import Piece, aligned
from fieldstick.drafting.proposals.wording import choice_of
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.drafting.proposals.pieces import Form

AFFIX = "affix"
"""The kind of what stands beside numbers."""

FEWEST_NUMBERS = 4
"""Different numbers, at the least, for what stands beside them to be no part of them."""

MOST_AFFIXES, FEWEST_OF_AFFIX = 5, 2
"""What may stand before numbers, or behind them, and in how many texts each does on average."""

# What opens is closed again, and a sign belongs to its number.
_WITH_NUMBER = compiled_later(r"([^\d([{+-]*)(\d+(?:\.\d+)?)([^\d)\]}-]*)")


def by_affixes(texts: Sequence[str]) -> list[Form] | None:
    """Return the form of texts that are a number each, with one of a few things before or behind it, or none; or None
    where that is not so.
    """
    found = [each for each in map(_WITH_NUMBER.fullmatch, texts) if each is not None]
    if len(found) < len(texts):
        return None
    before, numbers, behind = ([each[place] for each in found] for place in (1, 2, 3))
    if any(each[-1:].isalpha() for each in before):
        # Letters with the number right behind them are a code.
        return None
    sizes = [len({*some}) for some in (before, behind)]
    if len({*numbers}) < FEWEST_NUMBERS or max(sizes) == 1:
        return None
    if max(sizes) > MOST_AFFIXES or max(sizes) * FEWEST_OF_AFFIX > len(texts):
        return None
    return [[*_affix(before), Piece("number", numbers), *_affix(behind)]]


def spelled_affix(values: Sequence[str]) -> tuple[str, str]:
    """Return how what stands beside numbers is spelled, and the name of its field where it is one of several."""
    different = sorted(set(values))
    if len(different) == 1:
        return escaped_text(different[0]), ""
    return choice_of(different), "word" if any(map(str.isalpha, different)) else "sign"


def _shared_before(values: Sequence[str]) -> str:
    """Return the words that all of some begin with, with the blank behind them, or all that they are."""
    shared = common_start(values)
    return shared if {*values} == {shared} else shared[: shared.rfind(" ") + 1]


def _affix(values: Sequence[str]) -> Form:
    """Return what stands at one side of numbers, which may be nothing: first what all have, then what some have."""
    shared = _shared_before(values)
    # What all have may say what the number is called.
    stays: Form = [*aligned([tokens_of(shared)] * len(values))]
    rests = [each[len(shared) :] for each in values]
    given = [*filter(None, rests)]
    if not given:
        return stays
    piece = Piece(AFFIX, given)
    return [*stays, piece] if len(given) == len(values) else [*stays, [piece]]
