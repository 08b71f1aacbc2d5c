"""Which lines of a large source are looked at to tell its kinds of line: the first ones, and ever fewer further on.

All of a small source are. Of a larger one each line that is looked at stands for as many as were passed by for it, so
that what is counted is about what it would be, wherever in the source it lies (stratified systematic sampling: W. G.
Cochran, "Sampling Techniques", 1977).
"""

from __future__ import annotations

from math import log
from typing import TYPE_CHECKING, NamedTuple

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.data.batch import Batch, StoredTexts

MOST_BYTES, ENOUGH_FORMS = 2_000_000, 2_000
"""Bytes of lines of which all are looked at, unless more follow and the first of them have so many forms: then no more
than these are.
"""

FURTHER = 4
"""Of what follows, one part in so many of these bytes is looked at whenever there is e times as much: ever more lines
of the same source say ever less. It is ever thinner where nobody knows how much there is, and else lies evenly.
"""

LEAST_BYTES, RUNS = 10_000, 8
"""Bytes of lines from which on they are looked at together, and in how many runs that lie evenly in a block."""

FEW_OF = 4
"""How many times as many lines as forms are wanted for each form to be among them."""

_TURN = 0.618
"""The golden section: so much further on between two places of the last runs the next ones are."""

Looked = tuple["Batch", float]
"""Lines to be looked at, and how many lines each of them stands for."""


class LineSample:
    """The lines of a source that are looked at, block by block; its size in bytes may be known."""

    def __init__(self, size: int | None = None) -> None:
        self._size = size or 0
        self._bytes = self._first_bytes = 0
        self._looks_at_all = True
        self._due = self._place = 0.0
        """Bytes that are to be looked at by now, and where between two places of runs."""

        self._passed = 0
        """Lines that no line that was looked at stands for yet."""

        self._held: list[tuple[Batch, StoredTexts]] = []
        """What follows the first lines, of what may be a small source."""

    def of(self, batch: Batch, stored: StoredTexts, forms: int) -> Iterator[Looked]:
        """Yield what is to be looked at, now that more lines came; those that were looked at have so many forms."""
        if self._looks_at_all and (self._bytes >= MOST_BYTES or forms >= ENOUGH_FORMS):
            self._looks_at_all = False
        if self._looks_at_all:
            self._bytes += len(stored.data)
            self._first_bytes = self._bytes
            yield batch, 1.0
            return
        self._held.append((batch, stored))
        if self._bytes + sum([len(each.data) for _, each in self._held]) > MOST_BYTES:
            held, self._held = self._held, []
            for each in held:
                yield from self._of_further(*each)

    def rest(self) -> Iterator[Looked]:
        """Yield what is to be looked at, now that no more lines come: all of a small source."""
        held, self._held = self._held, []
        for batch, stored in held:
            yield batch, 1.0
            self._bytes += len(stored.data)

    def _of_further(self, batch: Batch, stored: StoredTexts) -> Iterator[Looked]:
        self._passed += stored.count
        self._bytes += len(stored.data)
        self._due += len(stored.data) * self._first_bytes / FURTHER * self._thinness()
        if self._due < LEAST_BYTES or not stored.count:
            return
        runs = min(RUNS, stored.count)
        apart = stored.count / runs
        length = min(self._due / len(stored.data), 1.0) * apart
        self._place = (self._place + _TURN) % 1
        starts = [at * apart + self._place * (apart - length) for at in range(runs)]
        some = batch.some([(int(start), max(int(start + length), int(start) + 1)) for start in starts])
        yield some, self._passed / len(some.numbers)
        self._due, self._passed = 0.0, 0

    def _thinness(self) -> float:
        """Return one over the bytes so far, or the mean of it over all that is to come."""
        if self._first_bytes < self._bytes <= self._size:
            return log(self._size / self._first_bytes) / (self._size - self._first_bytes)
        return 1 / self._bytes


class LookedAt(NamedTuple):
    """A line that was looked at, how many it stands for, and the number of its form."""

    text: str
    weight: float
    form: int


MOST_TEXT, FEWEST = 300_000, 400
"""Code points of texts in all from which on fewer of them are enough, and how many these are at the least."""


def evenly(lines: Sequence[LookedAt], most: int) -> list[str]:
    """Return the texts of lines; of more than so many those that lie evenly, and one of each form, if forms are few.

    Of long lines fewer are enough (`MOST_TEXT`).
    """
    length = sum([len(each.text) for each in lines])
    most = min(most, max(FEWEST, MOST_TEXT * len(lines) // max(length, 1)))
    if len(lines) <= most:
        return [each.text for each in lines]
    apart = sum([each.weight for each in lines]) / most
    few = len({each.form for each in lines}) * FEW_OF <= most
    found, passed, seen = [], 0.0, set[int]()
    for each in lines:
        passed += each.weight
        if passed >= apart or (few and each.form not in seen):
            found.append(each.text)
            passed %= apart
        seen.add(each.form)
    return found
