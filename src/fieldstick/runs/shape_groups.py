"""Puts texts together that are the same once letters and digits stand by their kind and runs of a kind are folded."""

from __future__ import annotations

import re
from array import array
from collections import Counter
from functools import cache
from itertools import accumulate
from typing import TYPE_CHECKING, Any, NamedTuple

from fieldstick.kernels.walkers import NATIVE
from fieldstick.lean import compiled_later
from fieldstick.matching.character_kinds import OTHER_DIGIT, KindTable, by_kind

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Sequence

    from fieldstick.data.batch import StoredTexts

LONGEST_SHAPE = 60
"""Runs of a text that make up its shape; what follows is folded into one."""

MOST_PLACES = 3
"""Texts of a group of which it is told where they stand, as the walkers have it."""

_RUNS = compiled_later(r"((.)\2*)", re.DOTALL)


Group = tuple[int, "str | bytes", int, int, int, int, Any]
"""Texts that are the same once folded, as they are told: their number; folded; how many they are; the index of the
first; the code points of the shortest and of the longest; and of each run the shortest and the longest length in code
points, one after the other (int32).

Folded, each run is written once, and two blanks where two or more follow one another; a text with a digit of another
alphabet is not folded. It is UTF-8 where lines were put together as they are stored.
"""


class Groups(NamedTuple):
    """The groups of texts, each where its first text stands; for each text the number of its own; and for that number,
    the indexes of the first texts that differ, up to `MOST_PLACES` of them, maybe with -1 after them.

    Texts that were taken into tallies already are `tallied` instead: how many, the shortest and the longest.
    """

    groups: Iterable[Group]
    group_of: Sequence[int]
    places: Callable[[int], Sequence[int]]
    tallied: tuple[int, int, int] = (0, 0, 0)


class ToldApart(NamedTuple):
    """Lines told apart by their shape, as `shaped` of the walkers has them."""

    texts: list[bytes]
    counts: list[int]
    firsts: list[int]
    lengths: bytes
    places: bytes
    runs: bytes
    spans: bytes
    group_of: bytearray


def kinds_of(folded: str) -> str:
    """Return the shape of a folded text: the kind of each run, up to `LONGEST_SHAPE` of them."""
    if OTHER_DIGIT in folded:
        folded = "".join(kind for _, kind in _runs_of(folded))
    kinds = folded.replace("  ", " ")
    return kinds if len(kinds) <= LONGEST_SHAPE else kinds[:LONGEST_SHAPE] + "…"


def take_into(tally: array[int], count: int, shortest: int, longest: int, spans: Any) -> None:
    """Take texts into a tally, with the spans of as many runs (int32)."""
    if NATIVE is not None:
        NATIVE.measured(tally, count, shortest, longest, spans)
        return
    tally[0] += count
    tally[1:3] = array("q", [min(tally[1], shortest), max(tally[2], longest)])
    tally[3::2] = array("q", map(min, tally[3::2], spans[::2]))
    tally[4::2] = array("q", map(max, tally[4::2], spans[1::2]))


def _widen(spans: array[int], others: array[int]) -> None:
    """Have spans hold others, of as many runs, too."""
    spans[::2] = array("i", map(min, spans[::2], others[::2]))
    spans[1::2] = array("i", map(max, spans[1::2], others[1::2]))


def groups_of(texts: Sequence[str]) -> Groups:
    """Return the groups of texts."""
    put = _put_by_kind(texts)
    number_of: dict[str, int] = {}
    numbers: dict[str, int] = {}
    found: list[Group] = []
    for text, count in Counter(put).items():
        folded, spans = _folded(text)
        number = number_of[text] = numbers.setdefault(folded, len(found))
        if number == len(found):
            found.append((number, folded, count, 0, len(text), len(text), spans))
            continue
        _, _, known, _, shortest, longest, held = found[number]
        _widen(held, spans)
        found[number] = number, folded, known + count, 0, min(shortest, len(text)), max(longest, len(text)), held
    group_of = [number_of[text] for text in put]
    places: list[list[int]] = [[] for _ in found]
    for index, number in enumerate(group_of):
        own = places[number]
        if len(own) < MOST_PLACES and all(texts[place] != texts[index] for place in own):
            own.append(index)
    groups = [(*each[:3], own[0], *each[4:]) for each, own in zip(found, places, strict=True)]
    return Groups(groups, group_of, places.__getitem__)


def told_apart(stored: StoredTexts) -> ToldApart:
    """Return lines told apart by their shape; nothing else is asked or changed."""
    assert NATIVE is not None
    group_of = bytearray(4 * stored.count)
    asked = (stored.data, stored.ends or b"", group_of)
    table, unknown = None, [0]
    if not stored.is_ascii():
        table = _kind_table()
    while unknown:
        kinds = table.stored if table is not None else None
        texts, counts, firsts, unknown, lengths, places, runs, spans = NATIVE.shaped(
            *asked, kinds, ord(OTHER_DIGIT), LONGEST_SHAPE, False
        )
        if table is not None:
            table.learn(unknown)
    return ToldApart(texts, counts, firsts, lengths, places, runs, spans, group_of)


def stored_groups(found: ToldApart, tallies: dict[str | bytes, array[int]]) -> Groups:
    """Return the groups of lines, as `groups_of` does, but those of which there are tallies, folded, by their shape."""
    assert NATIVE is not None
    texts, counts, firsts, lengths, places, runs, spans, group_of = found
    left, *tallied = NATIVE.measures(tallies, texts, counts, lengths, runs, spans)
    sizes, many = memoryview(lengths).cast("i"), memoryview(runs).cast("i").tolist()
    ends = [8 * end for end in accumulate(many, initial=0)]
    indexes = memoryview(places).cast("i")

    def group(number: int) -> Group:
        text = texts[number]
        told: Any = spans[ends[number] : ends[number + 1]]
        if not told and text:
            told = _spans_of(text.decode("utf-8", "surrogateescape"))
        return number, text, counts[number], firsts[number], sizes[2 * number], sizes[2 * number + 1], told

    return Groups(
        map(group, left),
        memoryview(group_of).cast("i"),
        lambda number: indexes[MOST_PLACES * number : MOST_PLACES * (number + 1)],
        (tallied[0], tallied[1], tallied[2]),
    )


def _put_by_kind(texts: Sequence[str]) -> list[str]:
    """Return texts with every letter and digit put by its kind."""
    joined = "\n".join(texts)
    # One character beyond ASCII would slow all the others.
    found = by_kind(joined).split("\n") if joined.isascii() else []
    return found if len(found) == len(texts) else [by_kind(text) for text in texts]


@cache
def _kind_table() -> KindTable:
    """Return the kinds of the characters beyond ASCII that were met."""
    return KindTable()


def _folded(text: str) -> tuple[str, array[int]]:
    """Return a text put by kind with its runs folded, and their spans."""
    if OTHER_DIGIT in text:
        return text, _spans_of(text)
    runs = _runs_of(text)
    return "".join("  " if kind == " " and len(run) > 1 else kind for run, kind in runs), _spans(runs)


def _runs_of(text: str) -> list[tuple[str, str]]:
    return _RUNS.findall(text.replace(OTHER_DIGIT, "9"))


def _spans_of(text: str) -> array[int]:
    return _spans(_runs_of(text))


def _spans(runs: Sequence[tuple[str, str]]) -> array[int]:
    sizes = [len(run) for run, _ in runs[:LONGEST_SHAPE]] + [1] * (len(runs) > LONGEST_SHAPE)
    return array("i", [size for size in sizes for _ in range(2)])
