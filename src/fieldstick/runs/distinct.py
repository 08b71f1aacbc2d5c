"""How many different texts there are: exactly while they are few, estimated when they are many."""

from __future__ import annotations

from array import array
from typing import TYPE_CHECKING
from zlib import crc32

from fieldstick.kernels.walkers import NATIVE

if TYPE_CHECKING:
    from collections.abc import Callable, Collection

    from fieldstick.data.batch import StoredTexts

MOST_EXACT = 50_000
"""Texts that are told apart one by one."""

SKETCH = 4096
"""Smallest hashes that are kept; the estimate is within some 1.6 % two times out of three."""


_HASHES, _NUMBERS = 2**32, 2**64
_MULTIPLIER = 2654435761
"""Spreads a checksum, which texts that are much alike share most bits of, over all hashes (Knuth, TAOCP 3, 6.4)."""


def _stored(text: str) -> bytes:
    """Return a text as a source would store it, bytes that are no UTF-8 as they were."""
    try:
        return text.encode("utf-8", "surrogateescape")
    except UnicodeEncodeError:
        return text.encode("utf-8", "surrogatepass")


def _hashed(text: str) -> int:
    return crc32(_stored(text)) * _MULTIPLIER % _HASHES


def _number(text: str) -> int:
    """Return a number of 64 bits that tells texts apart, the one that the walkers have of it where they are there."""
    return hash(text) % _NUMBERS or 1 if NATIVE is None else NATIVE.scatter(_stored(text))


class _Numbers:
    """Numbers of 64 bits that are known, up to `MOST_EXACT` of them; none of them is zero."""

    def __init__(self) -> None:
        self._count = 0
        self._table = bytearray(8 * 1024)
        """They, as the walkers look for them, and room for at least as many again."""

        self._known: set[int] = set()
        """They, where there are no walkers."""

    def __len__(self) -> int:
        return self._count

    def learn(self, numbers: bytes | array[int]) -> memoryview:
        """Return those of some (uint64) that were not known; as many as there is room for are from now on."""
        given, room = memoryview(numbers).cast("B").cast("Q"), MOST_EXACT - self._count
        if NATIVE is None:
            new = array("Q", {*given} - self._known).tobytes()
            self._known.update(memoryview(new).cast("Q")[:room])
        else:
            while len(self._table) < 16 * min(self._count + len(given), MOST_EXACT):
                wider = bytearray(2 * len(self._table))
                NATIVE.learn(wider, self._table, self._count)
                self._table = wider
            new = NATIVE.learn(self._table, given, room)
        found = memoryview(new).cast("Q")
        self._count += min(len(found), room)
        return found


class Distinct:
    """Counts different texts in memory that does not grow.

    One that is `to_be_merged` into another keeps the texts themselves while they are few.

    Beyond `MOST_EXACT` the count comes from the smallest of their hashes (K. Beyer et al., "On Synopses for
    Distinct-Value Estimation Under Multiset Operations", 2007): the k-th smallest of hashes spread evenly over 0 to 1
    lies at about k divided by their number. The hash is the same in every run.
    """

    def __init__(self, *, to_be_merged: bool = False) -> None:
        self._known = _Numbers()
        self._texts: set[str] | None = set() if to_be_merged else None
        self._smallest = array("I")
        self._waiting: set[int] = set()
        self._added = 0
        self.is_exact = True

    def merge(self, other: Distinct) -> None:
        """Take in what another took, that was made `to_be_merged`: numbers may differ from process to process."""
        added = self._added + other._added
        if other.is_exact:
            self.add_many(other._texts or ())
        else:
            self.is_exact = False
            self._waiting.update(other._smallest, other._waiting)
            self._sift()
        self._added = added

    def add_many(self, texts: Collection[str]) -> None:
        """Take texts in."""
        self._added += len(texts)
        fresh = self._told_apart(texts) if self.is_exact else texts
        bound = self._smallest[-1] if len(self._smallest) == SKETCH else _HASHES
        self._waiting.update([value for value in map(_hashed, fresh) if value < bound])
        if len(self._waiting) >= SKETCH:
            self._sift()

    def add_stored(self, stored: StoredTexts, texts: Callable[[], Collection[str]]) -> None:
        """Take in lines as they are stored; `texts` makes texts of them, where those themselves are kept."""
        if NATIVE is None or stored.cells is not None or stored.ends is None:
            self.add_many(texts())
            return
        self._added += stored.count
        if not self.is_exact or self._holds_new(stored, texts):
            made = NATIVE.sketch(stored.data, stored.ends, _MULTIPLIER, self._smallest, SKETCH)
            self._smallest = array("I", made)

    def _holds_new(self, stored: StoredTexts, texts: Callable[[], Collection[str]]) -> bool:
        if self._texts is not None:
            return bool(self._told_apart(texts()))
        assert NATIVE is not None and stored.ends is not None
        return len(self._learn(NATIVE.scatters(stored.data, stored.ends))) > 0

    def _told_apart(self, texts: Collection[str]) -> Collection[str]:
        """Return the texts that were not there yet; while they are few they are known from now on."""
        numbers = list(map(_number, texts))
        new = set(self._learn(array("Q", numbers)))
        fresh = {text for text, number in zip(texts, numbers, strict=True) if number in new} if new else set()
        if self._texts is not None:
            self._texts = self._texts.union(fresh) if self.is_exact else set()
        return fresh

    def _learn(self, numbers: bytes | array[int]) -> memoryview:
        """Return the numbers of texts that were not there yet; while they are few they are known from now on."""
        room = MOST_EXACT - len(self._known)
        new = self._known.learn(numbers)
        self.is_exact = len(new) <= room
        return new

    def _sift(self) -> None:
        """Keep the smallest hashes alone; what is larger than all of them need not be looked at again."""
        self._smallest = array("I", sorted(self._waiting.union(self._smallest))[:SKETCH])
        self._waiting.clear()

    def __len__(self) -> int:
        """Return how many there are, or about how many, rounded to three digits."""
        if self.is_exact:
            return len(self._known)
        self._sift()
        estimate = (SKETCH - 1) * _HASHES // max(self._smallest[-1], 1)
        return max(min(int(float(f"{estimate:.3g}")), self._added), len(self._known))
