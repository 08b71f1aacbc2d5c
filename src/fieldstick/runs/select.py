"""Selects the texts that fit, or do not, as they stand in their source."""

from __future__ import annotations

from collections import deque
from functools import partial
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fieldstick.data.batch import Glance
from fieldstick.data.later import Later, later_for
from fieldstick.data.limited import Enough
from fieldstick.data.passed_on import PassedOn, rows_at
from fieldstick.data.placed import counted, gathered
from fieldstick.matching.tally import DOES_NOT_FIT, Tally, tallied
from fieldstick.matching.walks import SortWalk, fit_walk

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Mapping, Sequence

    from fieldstick.data.batch import Batch, StoredTexts
    from fieldstick.data.source import Source
    from fieldstick.data.text_file import TextFile
    from fieldstick.matching.matcher import Matcher

Line = tuple[int, str, bool]
"""A text's number, the text as it stands in its source, and whether it is one that was asked for."""


class PassedRows(Struct, frozen=True):
    """Texts that were asked for, as rows."""

    rows: list[Mapping[str, Any]]


class Told(Struct, frozen=True, gc=False):
    """How many lines of a block fit, and those that were asked for."""

    fit: int
    lines: bytes


Selected = list[Line] | bytes | Later | PassedRows


class SelectOptions(Struct, frozen=True):
    """What is asked of a selection: texts that do not fit with `unfit`, `around` lines about each, their place, and no
    more of them than `limit`. Of several `columns` it is enough that one cell fits, of those up to `longest` code
    points.
    """

    unfit: bool = False
    around: int = 0
    with_place: bool = False
    limit: int | None = None
    columns: tuple[str, ...] = ()
    longest: int | None = None


class SelectJob:
    """Writes the texts that fit, or do not, in their order.

    A text that spent its budget is neither; it is named in the tally. With `rows` they are passed on as rows; without
    a target either the texts are counted alone.
    """

    def __init__(
        self,
        matcher: Matcher,
        target: TextFile | None,
        asked: SelectOptions = SelectOptions(),
        rows: PassedOn | None = None,
    ) -> None:
        self._matcher, self._target, self._asked, self._rows = matcher, target, asked, rows
        self._walk = fit_walk(matcher)
        self._writer = Writer(target, asked)
        self._tallies: dict[int, Tally] = {}
        self._left = asked.limit

    def work(self, source: str, batch: Batch) -> tuple[Selected, Tally]:
        """See `Job.work`."""
        walked = self._as_told(batch) or self._walked(source, batch)
        if walked is not None:
            return walked
        fits = self._fits(batch)
        wanted = not self._asked.unfit
        if self._left is not None:
            fits = self._within_limit(fits, wanted)
        tally = tallied(fits, source, batch.numbers[: len(fits)])
        if self._rows is not None:
            return self._as_rows(source, batch, [index for index, fit in enumerate(fits) if fit is wanted]), tally
        if self._target is None:
            return [], tally
        lines = [
            (number, batch.raw(index), fit is wanted)
            for index, (number, fit) in enumerate(zip(batch.numbers, fits, strict=False))
            if self._asked.around > 0 or fit is wanted
        ]
        return lines, tally

    @property
    def beside(self) -> Callable[[StoredTexts], Told | None] | None:
        """See `Job`: lines are told apart while further ones are read, where that is all that is asked of them."""
        return self._told if self._is_plain else None

    @property
    def glance(self) -> Callable[[int, int, int], Glance | None] | None:
        """See `Job`: lines are picked where few fit, likewise."""
        return self._picked if self._is_plain else None

    @property
    def _is_plain(self) -> bool:
        asked = self._asked
        more = asked.columns or asked.around or asked.with_place or self._left is not None or self._rows is not None
        return isinstance(self._walk, SortWalk) and not more

    def _told(self, stored: StoredTexts) -> Told | None:
        assert isinstance(self._walk, SortWalk)
        fits = self._walk.fits_meanwhile(stored)
        if fits is None:
            return None
        chosen = _chosen(stored, fits, self._asked.unfit) if self._target is not None else b""
        return Told(counted(fits, 1)[1], chosen)

    def _picked(self, file: int, place: int, size: int) -> Glance | None:
        assert isinstance(self._walk, SortWalk)
        picked = self._walk.pick(file, place, size, unfit=self._asked.unfit, giving=self._target is not None)
        if picked is None:
            return None
        lines, fit, returns, chosen = picked
        return Glance(lines, returns, Told(fit, chosen))

    def _as_told(self, batch: Batch) -> tuple[Selected, Tally] | None:
        """Return what was told of a batch while it was read, if that was."""
        told: Told | None = batch.beside
        if told is None or batch.stored is None or not isinstance(self._walk, SortWalk):
            return None
        self._walk.note(batch.stored, told.fit)
        return told.lines, _tallied(batch.stored.count, told.fit)

    def _walked(self, source: str, batch: Batch) -> tuple[Selected, Tally] | None:
        """Return the lines asked for as they stand, where walkers can tell them; None where they cannot."""
        by_text = self._rows is None
        if self._asked.columns:
            return None
        if self._walk is None or batch.stored is None or self._asked.around or (by_text and self._asked.with_place):
            return None
        fits = self._walk.fits(batch.stored)
        if fits is None:
            return None
        unfit, fit = counted(fits, 1)
        if self._left is not None:
            if (unfit if self._asked.unfit else fit) > self._left:
                return None
            self._left -= unfit if self._asked.unfit else fit
        tally = _tallied(batch.stored.count, fit)
        if self._rows is not None:
            view = memoryview(fits).cast("h")
            wanted = [index for index, each in enumerate(view) if (each < 0) is self._asked.unfit]
            return self._as_rows(source, batch, wanted), tally
        if self._target is None:
            return b"", tally
        size = len(batch.stored.data)
        return later_for(self._target, size, _chosen, batch.stored, fits, self._asked.unfit), tally

    def _fits(self, batch: Batch) -> list[bool | None]:
        """Tell of each text, or of each row of several columns, whether it fits; None where that was given up."""
        asked = self._asked
        if not asked.columns:
            return self._matcher.fits(batch.texts)
        from fieldstick.data.cells import texts_by_column

        found: list[bool | None] = [False] * len(batch.numbers)
        for texts in texts_by_column(batch, asked.columns, asked.longest):
            there = [index for index, text in enumerate(texts) if text is not None and not found[index]]
            for index, fit in zip(there, self._matcher.fits([texts[index] or "" for index in there]), strict=True):
                found[index] = fit if fit or found[index] is not None else None
        return found

    def _within_limit(self, fits: list[bool | None], wanted: bool) -> list[bool | None]:
        """Return which texts fit, up to the last one that is asked for."""
        assert self._left is not None
        for index, each in enumerate(fits):
            if each is wanted:
                self._left -= 1
                if self._left == 0:
                    return fits[: index + 1]
        return fits

    def _as_rows(self, source: str, batch: Batch, wanted: list[int]) -> PassedRows:
        rows = rows_at(source, batch, wanted)
        if self._asked.with_place and batch.rows is not None:
            numbers = batch.numbers
            rows = [{"source": source, "line": numbers[index], **row} for index, row in zip(wanted, rows, strict=True)]
        return PassedRows(rows)

    @property
    def is_walked(self) -> bool:
        """See `Job`."""
        return self._walk is not None and not self._asked.columns

    @property
    def tells_numbers(self) -> bool:
        """See `Job`."""
        return self._asked.with_place or self._rows is not None

    def take(self, source: Source, made: tuple[Selected, Tally]) -> None:
        """See `Job.take`."""
        lines, tally = made
        known = self._tallies.get(id(source))
        if known is None:
            self._tallies[id(source)] = tally
        else:
            known.merge(tally)
        if isinstance(lines, PassedRows):
            assert self._rows is not None
            self._rows.take(source, lines.rows)
        else:
            self._writer.write(source, lines)
        if self._left == 0:
            raise Enough

    def close(self, sources: Sequence[Source]) -> None:
        """See `Job.close`; a table that has a header alone keeps it."""
        for source in sources if not self._tallies else ():
            if self._rows is not None:
                self._rows.take(source, ())
            else:
                self._writer.write(source, [])

    def tally(self, source: Source) -> Tally:
        """Return the tally of one source."""
        return self._tallies.get(id(source), Tally())


class Writer:
    """Writes selected lines with those around them; a table's header stands before its rows."""

    def __init__(self, target: TextFile | None, asked: SelectOptions) -> None:
        self._target, self._asked = target, asked
        self._before: deque[Line] = deque(maxlen=max(asked.around, 1))
        self._after = 0
        self._passed = self._last = 0
        self._source: Source | None = None
        self._header = ""

    def write(self, source: Source, lines: Sequence[Line] | bytes | Later) -> None:
        """Write what is to be written of lines that follow the ones before; bytes are selected lines as they stand."""
        if self._target is None:
            return
        if source is not self._source:
            if self._source is not None:
                # What stands in another source does not follow.
                self._passed += 1
            self._source, self._after = source, 0
            self._before.clear()
            self._target.follow(source.coding)
            if source.header and source.header != self._header:
                self._header = source.header
                self._target.write(_ended(source.header))
        if isinstance(lines, bytes | Later):
            self._target.write_utf8(lines, may_wait=not source.shares_work)
            return
        shown = (
            self._with_those_around(source, lines) if self._asked.around else map(partial(self._shown, source), lines)
        )
        self._target.write("".join(shown))

    def _with_those_around(self, source: Source, lines: Sequence[Line]) -> Iterator[str]:
        """Yield lines with those around them, an empty one where something was left out between."""
        for line in lines:
            self._passed += 1
            if line[2]:
                taken = [*self._before, line]
                self._before.clear()
                self._after = self._asked.around
            elif self._after:
                taken = [line]
                self._after -= 1
            else:
                self._before.append(line)
                continue
            if 0 < self._last < self._passed - len(taken):
                yield "\n"
            self._last = self._passed
            yield from map(partial(self._shown, source), taken)

    def _shown(self, source: Source, line: Line) -> str:
        number, raw, selected = line
        text = _ended(raw)
        if self._asked.with_place:
            role = ("fits\t" if selected else "near\t") if self._asked.around else ""
            text = f"{source.name}\t{number}\t{role}{text}"
        return text


def _tallied(read: int, fit: int) -> Tally:
    """Return the tally of texts of which so many fit."""
    tally = Tally(read=read, fit=fit)
    if fit < read:
        tally.misses[DOES_NOT_FIT, None] = read - fit
    return tally


def _chosen(stored: StoredTexts, fits: bytearray, unfit: bool) -> bytes:
    """Return the texts that fit, or do not, as they stand."""
    return gathered(stored, fits, [0, -1] if unfit else [-1, 0])[0]


def _ended(raw: str) -> str:
    return raw if raw.endswith("\n") else raw + "\n"
