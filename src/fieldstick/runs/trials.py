"""Trials: a suite over a data file, with what its texts came to, counted and by text.

What a text came to is a byte, so that a million of them are a megabyte: the kind of a route, whether a pattern fits,
whether a column of a form is accepted. The lines of the data are digested in groups beside it, so that data that
changed can be told from a pattern that changed.
"""

from __future__ import annotations

import hashlib
import sys
import time
from collections import Counter
from decimal import Decimal
from typing import TYPE_CHECKING, Any, Protocol

from msgspec import Struct
from msgspec.structs import replace

from fieldstick.data.distant import DistantPart, PartSource
from fieldstick.data.json_rows import cell_at
from fieldstick.data.lines import LineBlock
from fieldstick.data.read_options import asked_options, check_text_is_named
from fieldstick.data.rows import text_of
from fieldstick.data.source import Source
from fieldstick.engines.budget import MOST_SPENT, be_patient
from fieldstick.errors import FieldstickError, UsageError
from fieldstick.matching.prepare import prepare
from fieldstick.matching.walks import FitWalk, fit_walk
from fieldstick.operations.form import Form, FormReader
from fieldstick.operations.route import Route, Router, prepare_route
from fieldstick.runs.processes import Processes
from fieldstick.runs.trial_results import GAVE_UP, DataDigest, Shortfall, TrialResult
from fieldstick.suites.suite import OVERALL

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence
    from contextlib import AbstractContextManager

    from fieldstick.data.batch import Batch, Block, SourceNotes
    from fieldstick.matching.matcher import Matcher
    from fieldstick.runs.executor import Executor
    from fieldstick.suites.suite import Trial

ALONE = Processes(None)
"""This machine's processes, as many as suit."""

GROUP = 512
"""Lines of the data that share a digest."""


class Sorter(Protocol):
    """Tells what texts come to, a byte each in one column or several."""

    @property
    def names(self) -> tuple[str, ...]:
        """What the texts are told apart by."""

    @property
    def is_walked(self) -> bool:
        """See `Job`."""

    def columns(self, batch: Batch) -> list[bytes]:
        """Return the columns for the texts of a batch."""


class _ByRoute(Struct):
    router: Router

    @property
    def names(self) -> tuple[str, ...]:
        return self.router.kinds

    @property
    def is_walked(self) -> bool:
        return self.router.walk is not None

    def columns(self, batch: Batch) -> list[bytes]:
        otherwise = len(self.router.matchers)
        if self.router.walk is not None and batch.stored is not None and otherwise < GAVE_UP:
            kinds = self.router.walk.kinds(batch.stored)
            if kinds is not None:
                return [low_bytes(kinds, otherwise)]
        found = self.router.sort(batch.texts)
        try:
            return [bytes(found)]  # type: ignore[arg-type]
        except TypeError:
            return [bytes(GAVE_UP if kind is None else kind for kind in found)]


class _ByPatterns(Struct):
    names: tuple[str, ...]
    matchers: tuple[Matcher, ...]
    walks: tuple[FitWalk | None, ...]

    @property
    def is_walked(self) -> bool:
        return None not in self.walks

    def columns(self, batch: Batch) -> list[bytes]:
        return [self._column(batch, matcher, walk) for matcher, walk in zip(self.matchers, self.walks, strict=True)]

    @staticmethod
    def _column(batch: Batch, matcher: Matcher, walk: FitWalk | None) -> bytes:
        fits = walk.fits(batch.stored) if walk is not None and batch.stored is not None else None
        return low_bytes(fits, 0, fits_as=1) if fits is not None else _as_bytes(matcher.fits(batch.texts))


def low_bytes(finishes: bytearray, otherwise: int, fits_as: int = 0) -> bytes:
    """Return finishes (int16) as bytes, -1 as `otherwise` and the others with `fits_as` added."""
    table = bytes((each + fits_as) % 256 for each in range(255)) + bytes([otherwise])
    return bytes(finishes[sys.byteorder == "big" :: 2]).translate(table)


def _as_bytes(fits: Sequence[bool | None]) -> bytes:
    try:
        return bytes(fits)  # type: ignore[arg-type]
    except TypeError:
        return bytes(GAVE_UP if each is None else each for each in fits)


class _ByForm(Struct):
    names: tuple[str, ...]
    form: FormReader

    @property
    def is_walked(self) -> bool:
        return False

    def columns(self, batch: Batch) -> list[bytes]:
        assert batch.rows is not None
        rows = [{column: text_of(cell_at(row, column)) for column in self.names} for row in batch.rows]
        found = {name: bytearray(b"\x01" * len(rows)) for name in self.names}
        for index, rejects in enumerate(self.form.judge(rows)):
            for each in rejects:
                found[each.column][index] = GAVE_UP if each.why.reason == "gave-up" else 0
        return [bytes(column) for column in found.values()]


class TrialJob:
    """Sorts the texts of a trial."""

    tells_numbers = True
    """See `Job`: groups of lines are told by where they lie."""

    def __init__(self, sorter: Sorter, count: int, until: int | None = None) -> None:
        self.found: list[list[bytes]] = [[] for _ in range(count)]
        self._sorter, self._until = sorter, until

    @property
    def is_walked(self) -> bool:
        """See `Job`."""
        return self._sorter.is_walked

    def work(self, source: str, batch: Batch) -> list[bytes]:
        """See `Job.work`."""
        return self._sorter.columns(batch)

    def take(self, source: Source, made: list[bytes]) -> None:
        """See `Job.take`."""
        for column, more in zip(self.found, made, strict=True):
            column.append(more)

    def opened(self, part: DistantPart, first: int) -> DigestedPart:
        """See `PartsJob.opened`."""
        return DigestedPart(part, first, self._until)

    def told(self, source: PartSource) -> DataDigest:
        """See `PartsJob.told`."""
        assert isinstance(source, DigestedPart)
        return source.digest

    def take_told(self, source: Source, told: DataDigest) -> None:
        """See `PartsJob.take_told`."""
        assert isinstance(source, DigestedSource)
        known = source.digest
        source.digest = DataDigest(told.lines, known.groups + told.groups, known.until or told.until)

    def close(self, sources: Sequence[Source]) -> None:
        """See `Job.close`."""


class Digester:
    """Digests lines, or rows, in groups on their way; also those up to a line, if that is asked.

    `before` is how many lines came before the first that is given here: a group that began among them is left out.
    """

    def __init__(self, until: int | None, before: int = 0) -> None:
        self.digest = DataDigest(before)
        self._until = until
        self._hash = hashlib.blake2b(digest_size=8)
        self._skipped = -before % GROUP

    def note_lines(self, data: bytes) -> None:
        """Take lines in."""
        at = 0
        count = data.count(b"\n")
        if not data.endswith(b"\n"):
            data, count = data + b"\n", count + 1
        width = len(data) // count
        while count:
            step = min(self._left(), count)
            end = len(data) if step == count else _after_line(data, at, step, width)
            self._hash.update(memoryview(data)[at:end])
            self._counted(step)
            at, count = end, count - step

    def note_items(self, batch: Batch) -> None:
        """Take in texts that are no lines, or rows."""
        for index, text in enumerate(batch.texts):
            row = batch.rows[index] if batch.rows is not None else None
            told = text if row is None else repr([(name, text_of(value)) for name, value in row.items()])
            self._hash.update(told.encode("utf-8", "surrogatepass") + b"\0")
            self._counted(1)

    def end(self) -> None:
        """Note the last group, which may be short."""
        if self.digest.lines % GROUP and not self._skipped:
            self.digest.groups.append(self._hash.hexdigest())

    @property
    def is_skipping(self) -> bool:
        """Whether the group that is on its way began before what is given here."""
        return bool(self._skipped)

    def _left(self) -> int:
        """Return how many lines there are to the next one at which something is to be noted."""
        left = GROUP - self.digest.lines % GROUP
        if self._until is not None and self.digest.lines < self._until:
            left = min(left, self._until - self.digest.lines)
        return left

    def _counted(self, step: int) -> None:
        self.digest.lines += step
        if self.digest.lines == self._until and not self._skipped:
            self.digest.until = self._hash.copy().hexdigest()
        if not self.digest.lines % GROUP:
            if not self._skipped:
                self.digest.groups.append(self._hash.hexdigest())
            self._hash = hashlib.blake2b(digest_size=8)
            self._skipped = 0


def digested(blocks: Iterator[Block], digester: Digester) -> Iterator[Block]:
    """Yield blocks, digested on their way."""
    for block in blocks:
        if isinstance(block, LineBlock):
            digester.note_lines(block.data)
        else:
            for batch in block.parts():
                digester.note_items(batch)
        yield block


class DigestedSource(Source):
    """A source whose lines, or rows, are digested on their way."""

    def __init__(self, name: str, options: Any, until: int | None) -> None:
        super().__init__(name, options)
        self.until = until
        self.digest = DataDigest()

    def blocks(self) -> Iterator[Block]:
        """See `Source.blocks`."""
        digester = Digester(self.until)
        yield from digested(super().blocks(), digester)
        digester.end()
        self.digest = digester.digest

    def is_cut_by_lines(self) -> bool:
        """See `Source.is_cut_by_lines`; rows are digested as they are read, one after the other."""
        return super().is_cut_by_lines() and self.table_kind() == "lines"


class DigestedPart(PartSource):
    """A part of such a source: the groups that begin in it are digested, the last of them to its end."""

    def __init__(self, part: DistantPart, first: int, until: int | None) -> None:
        super().__init__(part, first)
        self._digester = Digester(until, first - 1)

    def blocks(self) -> Iterator[Block]:
        """See `Source.blocks`."""
        yield from digested(super().blocks(), self._digester)
        if self.notes.overlong:
            raise UsageError("texts that are longer than is read; run this trial without --cluster")
        begun = self.digest.lines % GROUP
        last_here = self.digest.lines
        if begun and not self._digester.is_skipping:
            following = self.lines_after(GROUP - begun)
            if following:
                self._digester.note_lines(following)
            self._digester.end()
        self.digest.lines = last_here

    @property
    def digest(self) -> DataDigest:
        """What the lines were."""
        return self._digester.digest


def _after_line(data: bytes, at: int, lines: int, width: int) -> int:
    """Return the offset behind so many lines from `at` on, looked for from where lines of that `width` end."""
    place = min(len(data), at + lines * width)
    # Counting line ends is some twenty times as fast as looking for each.
    count = data.count(b"\n", at, place)
    while count < lines:
        place = data.index(b"\n", place) + 1
        count += 1
    place = data.rindex(b"\n", at, place)
    for _ in range(count - lines):
        place = data.rindex(b"\n", at, place)
    return place + 1


def reading_of(trial: Trial) -> Any:
    """Return how the data of a trial is read. Raises UsageError."""
    begins = None
    if trial.begins_record is not None:
        matcher = prepare(trial.begins_record)
        begins = lambda line: matcher.read(line).fits  # noqa: E731
    made = asked_options(trial.reading, begins, str)
    if trial.by == "form":
        return replace(made, rows_wanted=True)
    check_text_is_named(made, str)
    return made


def sorter_of(trial: Trial) -> Sorter:
    """Return what sorts the texts of a trial. Raises ExpressionError and EngineUnusable."""
    if isinstance(trial.operation, Route):
        return _ByRoute(prepare_route(trial.operation))
    if isinstance(trial.operation, Form):
        return _ByForm(trial.names, FormReader(trial.operation, trial.values))
    matchers = tuple(prepare(each, each.own_values(trial.values)) for each in trial.patterns)
    return _ByPatterns(trial.names, matchers, tuple(map(fit_walk, matchers)))


def run_trial(
    trial: Trial,
    *,
    executor: Executor = ALONE,
    until: int | None = None,
    progress: Callable[[Sequence[Source]], AbstractContextManager[Any]] | None = None,
) -> TrialResult:
    """Run a trial: what cannot be read or judged stands in its `error`.

    `executor` does the work; the lines up to `until` get a digest of their own.
    """
    started = time.perf_counter()
    be_patient(MOST_SPENT)
    try:
        sorter = sorter_of(trial)
        source = DigestedSource(trial.location, reading_of(trial), until)
        source.name = trial.file
        count = 1 if isinstance(trial.operation, Route) else len(trial.names)
        job = TrialJob(sorter, count, until)
        executor.run(job, [source], progress([source]) if progress else None)
        if source.ended_early is not None or source.changed:
            raise UsageError(source.ended_early or "it was written to while it was read")
    except FieldstickError as error:
        words = str(error).replace(trial.location, trial.file)
        return TrialResult(trial, error=words, seconds=time.perf_counter() - started)
    finally:
        be_patient(None)
    return _summed(trial, tuple(map(b"".join, job.found)), source, time.perf_counter() - started)


def _summed(trial: Trial, columns: tuple[bytes, ...], source: DigestedSource, seconds: float) -> TrialResult:
    texts = len(columns[0])
    if trial.by == "route":
        kinds = Counter(columns[0])
        counts = {name: kinds[code] for code, name in enumerate(trial.names)}
        given_up, fit = kinds[GAVE_UP], texts - kinds[GAVE_UP] - kinds[len(trial.names) - 1]
    else:
        counts = {name: column.count(1) for name, column in zip(trial.names, columns, strict=True)}
        given_up = sum(column.count(GAVE_UP) for column in columns)
        fit = _together(columns, any_of=trial.by == "patterns").count(1)
    made = TrialResult(
        trial, texts, fit, given_up, counts, columns, source.digest,
        unread=_unread(source.notes), undecodable=source.notes.undecodable.total, seconds=seconds,
    )  # fmt: skip
    return replace(made, shortfalls=tuple(_shortfalls(made)))


def _together(columns: Sequence[bytes], *, any_of: bool) -> bytes:
    """Return of each text whether some column has it fit, or all do: as numbers of many digits, at one go."""
    plain = [int.from_bytes(column.translate(_ONE_OR_NOT), "big") for column in columns]
    made = plain[0]
    for each in plain[1:]:
        made = made | each if any_of else made & each
    return made.to_bytes(len(columns[0]), "big")


_ONE_OR_NOT = bytes(code == 1 for code in range(256))


def _unread(notes: SourceNotes) -> int:
    return notes.overlong.total + notes.missing.total + notes.not_json.total + notes.too_deep.total


def _shortfalls(result: TrialResult) -> Iterator[Shortfall]:
    for bounds in result.trial.bounds:
        if bounds.what == "share":
            found = result.share(bounds.name)
        else:
            found = Decimal(result.fit if bounds.name == OVERALL else result.counts[bounds.name])
        if not bounds.holds(found):
            yield Shortfall(bounds, found)
