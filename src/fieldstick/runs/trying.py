"""Reads the texts of a source with a draft, to see which fit and which do not."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.data.placed import counted, missed
from fieldstick.matching.result import GAVE_UP, Unfit
from fieldstick.matching.shapes import shape_of
from fieldstick.matching.walks import fit_walk

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable

    from fieldstick.data.batch import Batch
    from fieldstick.data.source import Source
    from fieldstick.drafting.causes import Causes
    from fieldstick.matching.matcher import Matcher
    from fieldstick.matching.result import Result

CHUNK = 1000
"""Texts that are read at one go."""

LOOKED_AT = 2000
"""Texts among which kinds are looked for that are drawn."""


class Tried(Struct, frozen=True):
    """A text with the source and the line (from 1) that it was read from, and what came of it."""

    source: str
    number: int
    result: Result

    @property
    def text(self) -> str:
        """The text."""
        return self.result.text

    @property
    def fits(self) -> bool:
        """Whether the pattern fits."""
        return self.result.fits

    @property
    def gave_up(self) -> bool:
        """Whether the text spent its budget."""
        return self.result.unfit is not None and self.result.unfit.reason == GAVE_UP

    @property
    def of_nothing(self) -> bool:
        """Whether the first match takes nothing out of a text that holds something."""
        place = self.result.place
        return self.fits and place is not None and place[0] == place[1] and self.text != ""


class TryTally(Struct):
    """Counts over all texts of a run; `nothing` are the fitting texts of which the match takes nothing."""

    texts: int = 0
    fit: int = 0
    nothing: int = 0
    gave_up: int = 0

    @property
    def missed(self) -> int:
        """The texts that do not fit; those given up are not among them."""
        return self.texts - self.fit - self.gave_up

    def add(self, tried: Tried) -> None:
        """Count a text."""
        self.texts += 1
        self.fit += tried.fits
        self.nothing += tried.of_nothing
        self.gave_up += tried.gave_up


class Kind(Struct):
    """A kind of text that is drawn once: the first of it, and how many more there are among those looked through."""

    tried: Tried
    more: int = 0


class Trying:
    """Goes through the texts of sources once: some of each kind are kept to be drawn, all are counted.

    Texts that fit are of a kind when they have one shape, texts that do not when they stop on the same. With `causes`
    every miss is taken in there. `walked` tells that texts may be counted without the engine, which an expression that
    takes forever must not be, since that is what a draft is tried for. `each_one` keeps each text as
    a kind of its own.
    """

    def __init__(
        self,
        matcher: Matcher,
        kind_of_miss: Callable[[Tried], str],
        causes: Causes | None = None,
        *,
        walked: bool,
        may_take_nothing: bool,
        each_one: bool = False,
    ) -> None:
        self.tally = TryTally()
        self.kinds: dict[str, Kind] = {}
        self._matcher, self._kind_of_miss, self._causes = matcher, kind_of_miss, causes
        self._walk = fit_walk(matcher) if walked and not may_take_nothing else None
        self._may_take_nothing = may_take_nothing
        self._each_one = each_one

    def run(
        self,
        sources: Iterable[Source],
        most: int,
        progress: Callable[[int], None] | None,
        drawn: Callable[[], None] | None = None,
    ) -> None:
        """Go through all texts. `drawn` is called once, as soon as `most` kinds are known, or enough was looked at."""
        looking = True
        for source in sources:
            for batch in source.batches():
                done = 0
                if looking:
                    done = self._look(source.name, batch, most)
                    if done < len(batch.texts) or self.tally.texts >= LOOKED_AT:
                        looking = False
                        if drawn is not None:
                            drawn()
                self._count(source.name, batch, done)
                if progress is not None:
                    progress(len(batch.numbers))
        if looking and drawn is not None:
            drawn()

    def _look(self, source: str, batch: Batch, most: int) -> int:
        """Read texts one by one, and return how many were read when that was enough."""
        for index, (number, text) in enumerate(zip(batch.numbers, batch.texts, strict=True)):
            if len(self.kinds) >= most or self.tally.texts >= LOOKED_AT:
                return index
            tried = Tried(source, number, self._matcher.read_or_give_up(text))
            self.tally.add(tried)
            if self._causes is not None and not tried.fits and not tried.gave_up:
                self._causes.add(source, number, text)
            kind = f"fits {shape_of(text)}" if tried.fits else self._kind_of_miss(tried)
            if self._each_one:
                kind = f"{len(self.kinds)}"
            if kind in self.kinds:
                self.kinds[kind].more += 1
            else:
                self.kinds[kind] = Kind(tried)
        return len(batch.texts)

    def _count(self, source: str, batch: Batch, done: int) -> None:
        if self._walk is not None and batch.stored is not None and not done:
            found = self._walk.fits(batch.stored)
            if found is not None:
                unfit, fit = counted(found, 1)
                self.tally.texts += batch.stored.count
                self.tally.fit += fit
                if unfit and self._causes is not None:
                    self._causes.add_missed(source, batch, missed(found))
                return
        for start in range(done, len(batch.texts), CHUNK):
            self._count_chunk(source, batch, start)

    def _count_chunk(self, source: str, batch: Batch, start: int) -> None:
        texts, tally = batch.texts[start : start + CHUNK], self.tally
        tally.texts += len(texts)
        fits: list[bool | None]
        if self._may_take_nothing:
            # A match of nothing costs a closer look at each.
            fits = []
            for text, rows in zip(texts, self._matcher.rows(texts, with_place=True), strict=True):
                if isinstance(rows, Unfit):
                    fits.append(None if rows.reason == GAVE_UP else False)
                else:
                    fits.append(True)
                    tally.nothing += bool(rows and rows[0][0] == rows[0][1] and text)
        else:
            fits = self._matcher.fits(texts)
        tally.fit += fits.count(True)
        tally.gave_up += fits.count(None)
        if self._causes is not None:
            for index, each in enumerate(fits):
                if each is False:
                    self._causes.add(source, batch.numbers[start + index], texts[index])
