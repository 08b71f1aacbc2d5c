"""What a draft makes of texts that are held in memory: those that fit, those that do not, and those that moved.

Those that fit are told by kind, those that do not by cause. The first texts are looked into one by one, so that they
can be shown at once; then all are counted. What came of every text is one byte, so that two drafts are held against
each other text by text.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.data.placed import missed
from fieldstick.drafting.causes import Causes
from fieldstick.errors import PatienceLost
from fieldstick.matching.result import GAVE_UP
from fieldstick.matching.shapes import shape_of
from fieldstick.matching.walks import fit_walk

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Iterator, Mapping

    from fieldstick.data.batch import Batch
    from fieldstick.data.source import Source
    from fieldstick.drafting.causes import Cause
    from fieldstick.matching.matcher import Matcher
    from fieldstick.matching.result import Result

AT_ONCE, LOOKED_AT = 200, 2_000
"""Texts after which something is shown, and those that are looked into one by one."""

CHUNK = 1_000
"""Texts that are read at one go."""

MOST_MOVERS = 50
"""Movers of each direction that are named."""

MISSES, FITS, GIVEN_UP = 0, 1, 2
"""What came of a text, as a byte."""


_TURNED = bytes(each == MISSES for each in range(256))
"""Outcomes as what is missed, and what is missed as outcomes of texts that were not given up."""


class HeldText(Struct, frozen=True):
    """A text, its source and its line there (from 1)."""

    source: str
    number: int
    text: str


class FitKind(Struct):
    """Texts that fit and have one shape: the first of them, what was captured of it, and how many there are."""

    first: HeldText
    result: Result
    count: int = 1


class Movers(Struct, frozen=True):
    """Texts that fit now and did not before, those that did and do not, how many they are, and the first of each."""

    gained: int
    lost: int
    first_gained: tuple[HeldText, ...]
    first_lost: tuple[HeldText, ...]


class Heaps(Struct, frozen=True):
    """What came of texts: how many were counted and fit, kinds of those that fit among the first, causes of misses.

    `outcomes` has a byte a text once all were counted, and is empty before. `halted` says why counting stopped early.
    """

    texts: int
    fit: int
    gave_up: int
    kinds: tuple[FitKind, ...]
    causes: tuple[Cause, ...]
    looked_at: int
    outcomes: bytes = b""
    movers: Movers | None = None
    halted: str | None = None

    @property
    def missed(self) -> int:
        """The texts that do not fit; those given up are not among them."""
        return self.texts - self.fit - self.gave_up


class HeldTexts:
    """The texts of sources, read once and kept as they are stored."""

    def __init__(self, sources: Iterable[Source]) -> None:
        self._batches = [(source.name, batch) for source in sources for batch in source.batches()]
        self.count = sum(len(batch.numbers) for _, batch in self._batches)

    def batches(self) -> Iterator[tuple[str, Batch]]:
        """Yield the name of a source and some of its texts."""
        yield from self._batches

    def at(self, indexes: Iterable[int]) -> list[HeldText]:
        """Return the texts of these numbers (from 0, rising)."""
        found: list[HeldText] = []
        wanted = iter(indexes)
        index = next(wanted, None)
        before = 0
        for name, batch in self._batches:
            size = len(batch.numbers)
            while index is not None and index < before + size:
                place = index - before
                found.append(HeldText(name, batch.numbers[place], batch.texts[place]))
                index = next(wanted, None)
            before += size
        return found


class HeapRun:
    """One draft over held texts. `walked` tells that texts may be counted without the engine."""

    def __init__(
        self, held: HeldTexts, matcher: Matcher, *, walked: bool, values: Mapping[str, str] | None = None
    ) -> None:
        self._held, self._matcher = held, matcher
        self._walk = fit_walk(matcher) if walked else None
        self._causes = Causes(matcher, values=values)
        self._kinds: dict[str, FitKind] = {}
        self._outcomes = bytearray()
        self._looked_at = 0
        self._going_on: Callable[[], None] = lambda: None

    def run(
        self,
        shown: Callable[[Callable[[], Heaps]], None],
        before: bytes = b"",
        going_on: Callable[[], None] | None = None,
    ) -> Heaps:
        """Go through all texts and return what came of them; `shown` is called on the way with what tells what is
        known.

        `before` are the outcomes under the draft before this one, for the movers. `going_on` is called every now and
        then; what it raises ends the run.
        """
        halted = None
        self._going_on = going_on or (lambda: None)
        try:
            for name, batch in self._held.batches():
                done = self._look(name, batch, shown)
                self._count(name, batch, done)
                if len(self._outcomes) > LOOKED_AT:
                    shown(self._heaps)
        except PatienceLost as error:
            halted = str(error)
        whole = halted is None
        outcomes = bytes(self._outcomes) if whole else b""
        return self._heaps(outcomes, self._movers(before, outcomes) if whole else None, halted)

    def _heaps(self, outcomes: bytes = b"", movers: Movers | None = None, halted: str | None = None) -> Heaps:
        kinds = sorted(self._kinds.values(), key=lambda each: -each.count)
        fit, gave_up = (self._outcomes.count(each) for each in (FITS, GIVEN_UP))
        return Heaps(
            len(self._outcomes),
            fit,
            gave_up,
            tuple(kinds),
            tuple(self._causes.ranked),
            self._looked_at,
            outcomes,
            movers,
            halted,
        )

    def _look(self, name: str, batch: Batch, shown: Callable[[Callable[[], Heaps]], None]) -> int:
        """Look into the first texts one by one, and return how many of these were."""
        if self._looked_at >= LOOKED_AT:
            return 0
        for index, (number, text) in enumerate(zip(batch.numbers, batch.texts, strict=True)):
            if self._looked_at >= LOOKED_AT:
                return index
            self._looked_at += 1
            self._going_on()
            result = self._matcher.read_or_give_up(text)
            gave_up = result.unfit is not None and result.unfit.reason == GAVE_UP
            self._outcomes.append(FITS if result.fits else GIVEN_UP if gave_up else MISSES)
            if result.fits:
                kind = self._kinds.get(shape_of(text))
                if kind is None:
                    self._kinds[shape_of(text)] = FitKind(HeldText(name, number, text), result)
                else:
                    kind.count += 1
            elif not gave_up:
                self._causes.add(name, number, text)
            if self._looked_at == AT_ONCE or gave_up:
                shown(self._heaps)
        return len(batch.numbers)

    def _count(self, name: str, batch: Batch, done: int) -> None:
        if not done and self._walk is not None and batch.stored is not None:
            found = self._walk.fits(batch.stored)
            if found is not None:
                self._take(name, batch, 0, missed(found).translate(_TURNED))
                return
        for start in range(done, len(batch.numbers), CHUNK):
            self._going_on()
            read = self._matcher.fits(batch.texts[start : start + CHUNK])
            outcomes = bytes(GIVEN_UP if each is None else FITS if each else MISSES for each in read)
            self._take(name, batch, start, outcomes)

    def _take(self, name: str, batch: Batch, start: int, outcomes: bytes) -> None:
        self._going_on()
        self._outcomes += outcomes
        self._causes.add_missed(name, batch, outcomes.translate(_TURNED), start)

    def _movers(self, before: bytes, now: bytes) -> Movers | None:
        if len(before) != len(now):
            return None
        gained: list[int] = []
        lost: list[int] = []
        if before != now:
            for index, (one, other) in enumerate(zip(before, now, strict=True)):
                if one != other and FITS in (one, other):
                    (gained if other == FITS else lost).append(index)
        first = [tuple(self._held.at(each[:MOST_MOVERS])) for each in (gained, lost)]
        return Movers(len(gained), len(lost), *first)
