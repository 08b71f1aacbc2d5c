"""Places of an engine that counts in other units than code points, as code points."""

from __future__ import annotations

from itertools import accumulate
from typing import TYPE_CHECKING, Literal

from fieldstick.errors import EngineFailure

if TYPE_CHECKING:
    from collections.abc import Iterable

Unit = Literal["points", "bytes", "halves"]
"""What offsets count: code points, bytes of UTF-8, or code units of UTF-16 (halves of surrogate pairs)."""


def in_points(text: str, offsets: Iterable[int], unit: Unit) -> list[int]:
    """Return offsets into `text` as code points; -1 stays what it is.

    Raises EngineFailure for one that lies within a character.
    """
    given = list(offsets)
    widest = max(text, default="")
    if unit == "points" or widest < "\x80" or (unit == "halves" and widest < "\U00010000"):
        return given
    width = _bytes if unit == "bytes" else _halves
    known = {place: number for number, place in enumerate(accumulate(map(width, text), initial=0))}
    try:
        return [each if each < 0 else known[each] for each in given]
    except KeyError:
        raise EngineFailure("the engine found a match that begins or ends within a character") from None


def _bytes(character: str) -> int:
    return 1 if character < "\x80" else 2 if character < "\u0800" else 3 if character < "\U00010000" else 4


def _halves(character: str) -> int:
    return 1 if character < "\U00010000" else 2
