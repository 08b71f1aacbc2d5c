"""Texts that did not fit, written beside what is made of those that do, each with its reason."""

from __future__ import annotations

from itertools import compress
from typing import TYPE_CHECKING, Any

from fieldstick.data.elsewhere import StaysHere
from fieldstick.data.limited import Enough
from fieldstick.data.placed import missed
from fieldstick.data.rows import Column
from fieldstick.matching.walks import fit_walk

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from fieldstick.data.batch import Batch
    from fieldstick.data.rows import TableSink
    from fieldstick.data.source import Source
    from fieldstick.matching.matcher import Matcher
    from fieldstick.runs.extract import ExtractJob

REJECT_COLUMNS = (
    Column("source", "text"),
    Column("line", "integer"),
    Column("reason", "text"),
    Column("words", "text"),
    Column("text", "text"),
)
"""What is told of a text that did not fit: where it stands, the reason by name and in words, and itself."""


class Rejects(StaysHere):
    """Takes texts that did not fit and writes a row for each; `reason_of` says why, by name and in words."""

    def __init__(self, table: TableSink, reason_of: Callable[[str, int, str], tuple[str, str]]) -> None:
        self._table, self._reason_of = table, reason_of
        self.count = 0

    def take(self, source: str, unfit: Sequence[tuple[int, str]]) -> None:
        """Write texts of a source."""
        rows = [[source, number, *self._reason_of(source, number, text), text] for number, text in unfit]
        self.count += len(rows)
        self._table.write(self._table.encode(rows))


class RejectingJob:
    """A job of one pattern, and the texts that it does not fit beside."""

    keeps_parts = False
    tells_numbers = True

    def __init__(self, job: ExtractJob, matcher: Matcher, rejects: Rejects) -> None:
        self._job, self._matcher, self._rejects = job, matcher, rejects
        self._walk = fit_walk(matcher)

    @property
    def is_walked(self) -> bool:
        """See `Job`."""
        return bool(getattr(self._job, "is_walked", False))

    def work(self, source: str, batch: Batch) -> tuple[Any, list[tuple[int, str]]]:
        """See `Job.work`."""
        return self._job.work(source, batch), self._missed(batch)

    def _missed(self, batch: Batch) -> list[tuple[int, str]]:
        told = self._walk.fits(batch.stored) if self._walk is not None and batch.stored is not None else None
        if told is not None:
            unfit = list(compress(range(len(batch.numbers)), missed(told)))
        else:
            unfit = [index for index, each in enumerate(self._matcher.fits(batch.texts)) if not each]
        return [(batch.numbers[index], batch.texts[index]) for index in unfit]

    def take(self, source: Source, made: tuple[Any, list[tuple[int, str]]]) -> None:
        """See `Job.take`."""
        result, unfit = made
        before = self._missed_so_far
        try:
            self._job.take(source, result)
        except Enough:
            # What stands behind the text that gave the last row was not read.
            self._rejects.take(source.name, unfit[: self._missed_so_far - before])
            raise
        self._rejects.take(source.name, unfit)

    @property
    def _missed_so_far(self) -> int:
        return sum([tally.missed for tally in self._job.tallies])

    def close(self, sources: Sequence[Source]) -> None:
        """See `Job.close`."""
        self._job.close(sources)
