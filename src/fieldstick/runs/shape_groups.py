"""Puts texts together that are the same once letters and digits stand by their kind and runs of a kind are folded."""

from __future__ import annotations

import re
from array import array
from collections import Counter
from functools import cache
from typing import TYPE_CHECKING, Any, NamedTuple

from fieldstick.kernels.walkers import NATIVE
from fieldstick.lean import compiled_later
from fieldstick.matching.character_kinds import OTHER_DIGIT, KindTable, by_kind

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.data.batch import StoredTexts

LONGEST_SHAPE = 60
"""Runs of a text that make up its shape; what follows is folded into one."""

MOST_PLACES = 3
"""Texts of a group of which it is told where they stand, as the walkers have it."""

_RUNS = compiled_later(r"((.)\2*)", re.DOTALL)


class Group(NamedTuple):
    """Texts that are the same once folded: how many, the code points of the shortest and of the longest.

    `places` are the indexes of the first ones that differ, up to `MOST_PLACES` of them, maybe with -1 after them, and
    `spans`, of each run, the shortest and the longest length in code points, one after the other (int32). `folded`
    has each run written once, and two blanks where two or more follow one another; a text with a digit of
    another alphabet is not folded. It is UTF-8 where lines were put together as they are stored.
    """

    folded: str | bytes
    texts: int
    places: Sequence[int]
    shortest: int
    longest: int
    spans: Any

    @property
    def text(self) -> str:
        """What `folded` holds, as text."""
        return self.folded if isinstance(self.folded, str) else self.folded.decode("utf-8", "surrogateescape")


def kinds_of(folded: str) -> str:
    """Return the shape of a folded text: the kind of each run, up to `LONGEST_SHAPE` of them."""
    if OTHER_DIGIT in folded:
        folded = "".join(kind for _, kind in _runs_of(folded))
    kinds = folded.replace("  ", " ")
    return kinds if len(kinds) <= LONGEST_SHAPE else kinds[:LONGEST_SHAPE] + "…"


def widen(spans: array[int], others: Any) -> None:
    """Have spans hold others, of as many runs, too."""
    if NATIVE is not None:
        NATIVE.widen(spans, others)
        return
    spans[::2] = array("i", map(min, spans[::2], others[::2]))
    spans[1::2] = array("i", map(max, spans[1::2], others[1::2]))


def groups_of(texts: Sequence[str]) -> tuple[list[Group], list[int]]:
    """Return the groups of texts, each where its first text stands, and for each text the number of its own."""
    put = _put_by_kind(texts)
    number_of: dict[str, int] = {}
    numbers: dict[str, int] = {}
    found: list[Group] = []
    for text, count in Counter(put).items():
        folded, spans = _folded(text)
        number = number_of[text] = numbers.setdefault(folded, len(found))
        if number == len(found):
            found.append(Group(folded, count, [], len(text), len(text), spans))
            continue
        known = found[number]
        widen(known.spans, spans)
        shortest, longest = min(known.shortest, len(text)), max(known.longest, len(text))
        found[number] = known._replace(texts=known.texts + count, shortest=shortest, longest=longest)
    numbered = [number_of[text] for text in put]
    for index, number in enumerate(numbered):
        places: Any = found[number].places
        if len(places) < MOST_PLACES and all(texts[place] != texts[index] for place in places):
            places.append(index)
    return found, numbered


def stored_groups(stored: StoredTexts, group_of: bytearray) -> Iterator[Group]:
    """Yield the groups of lines, as `groups_of` does; the number of each line's own goes to `group_of` (int32)."""
    assert NATIVE is not None
    asked = (stored.data, stored.ends or b"", group_of)
    table, unknown = None, [0]
    if not stored.is_ascii():
        table = _kind_table()
    while unknown:
        kinds = table.stored if table is not None else None
        texts, counts, _, unknown, lengths, places, runs, spans = NATIVE.shaped(
            *asked, kinds, ord(OTHER_DIGIT), LONGEST_SHAPE, False
        )
        if table is not None:
            table.learn(unknown)
    sizes, indexes, at = memoryview(lengths).cast("i"), memoryview(places).cast("i"), 0
    for number, many in enumerate(memoryview(runs).cast("i")):
        span: Any = spans[at : at + 8 * many]
        at += 8 * many
        if not many and texts[number]:
            span = _spans_of(texts[number].decode("utf-8", "surrogateescape"))
        first = indexes[MOST_PLACES * number : MOST_PLACES * (number + 1)]
        yield Group(texts[number], counts[number], first, sizes[2 * number], sizes[2 * number + 1], span)


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
