"""Work done on a Dask cluster: its workers read parts of the sources themselves, and what they make comes back here.

Every part is taken once, in the order of the sources unless any order does. A worker that dies or is lost has its parts
done by another; what it had begun is dropped whole, so that no row is lost or there twice. Numbers of lines are known
once all parts before are counted: a part that names lines is done again with the right number where it was done before.
"""

from __future__ import annotations

import contextlib
import logging
import threading
import traceback
from collections import deque
from hashlib import blake2b
from typing import TYPE_CHECKING, Any

from msgspec import Struct
from msgspec.structs import replace

from fieldstick.data.distant import PART, DistantPart, Told, batches_in, distant_parts, is_named
from fieldstick.data.extras import needed
from fieldstick.data.storage import is_url, stored
from fieldstick.engines.budget import be_patient, note_spent, patience
from fieldstick.errors import FieldstickError, UsageError
from fieldstick.matching.tally import Tally
from fieldstick.runs.executor import Report, WorkerEnded

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Iterator, Sequence
    from contextlib import AbstractContextManager

    from fieldstick.data.batch import SourceNotes
    from fieldstick.data.source import Source
    from fieldstick.runs.executor import Job

AHEAD = 3
"""Parts that each thread of the cluster may have before it, done or not: enough that none waits, few enough to keep
memory flat here.
"""

PATIENCE = 20
"""Seconds after which a scheduler that does not answer, or has no worker, is given up."""

MOST_KEPT = 4
"""Jobs that a thread of a worker keeps ready."""

WHAT = "--cluster"

Result = tuple[Any, Any, int]
"""What a job made of a batch, what was met in it, and how many texts it had."""


class Done(Struct):
    """What became of a part: results in order and what is known of its source, or the words of what went wrong."""

    results: list[Result]
    told: Told | None
    own: Any = None
    wrong: str | None = None
    is_defect: bool = False


def work_on(key: str, packed: bytes, part: DistantPart, first: int, spending: int | None) -> Done:
    """Do a job on a part, in a worker; its first line has the number `first`.

    `spending` is how many texts may yet spend their budget, None for any number.
    """
    be_patient(spending)
    try:
        job = _job(key, packed)
        own: Any = job if hasattr(job, "opened") else None
        source = own.opened(part, first) if own is not None else part.opened(first)
        results = [(job.work(part.name, batch), batch.notes, len(batch.numbers)) for batch in batches_in(source)]
        if getattr(job, "keeps_parts", False):
            results = job.keep(part, results)  # type: ignore[attr-defined]
        return Done(results, source.told(), own.told(source) if own is not None else None)
    except FieldstickError as error:
        return Done([], None, wrong=str(error))
    except ImportError as error:
        return Done([], None, wrong=f"{error}; install there what is here")
    except Exception:
        return Done([], None, wrong=traceback.format_exc(), is_defect=True)


def count_lines(part: DistantPart) -> int:
    """Count the lines of a part, in a worker."""
    return part.count_lines()


_kept = threading.local()


def _job(key: str, packed: bytes) -> Job[Any]:
    """Return a job of this thread's own, made ready once: its walkers know the texts of earlier parts."""
    jobs: dict[str, Job[Any]] = _kept.__dict__.setdefault("jobs", {})
    if key not in jobs:
        while len(jobs) >= MOST_KEPT:
            jobs.pop(next(iter(jobs)))
        jobs[key] = needed("cloudpickle", WHAT, "cluster").loads(packed)
    return jobs[key]


class _Suspect(Exception):
    """Workers ended while they had a piece, it or another one being the cause."""


class _Numbers:
    """How many lines the parts of one source have, as far as that is known, and which number each begins with."""

    def __init__(self) -> None:
        self.firsts = [1]
        self._lines: dict[int, int] = {}

    def count(self, index: int, lines: int) -> None:
        """Note how many lines a part has."""
        self._lines[index] = lines
        while (known := self._lines.get(len(self.firsts) - 1)) is not None:
            self.firsts.append(self.firsts[-1] + known)

    def is_counted(self, index: int) -> bool:
        """Tell whether the lines of a part are counted."""
        return index in self._lines


class _Piece:
    """A part of one of the sources on its way, its place among them, and its future."""

    def __init__(self, source: Source, part: DistantPart, place: int, index: int, numbers: _Numbers) -> None:
        self.source, self.part = source, part
        self.place, self.index, self.numbers = place, index, numbers
        self.future: Any = None

    @property
    def number(self) -> int | None:
        """The number of its first line; None as long as that is not known."""
        return self.numbers.firsts[self.index] if self.index < len(self.numbers.firsts) else None


class Cluster:
    """The workers of a Dask scheduler at an address; see `Executor`."""

    def __init__(self, address: str, *, any_order: bool = False, part: int | None = None) -> None:
        self._distributed = needed("distributed", WHAT, "cluster")
        self._address, self._any_order = address, any_order
        self._size = part or PART

    def run(
        self,
        job: Job[Any],
        sources: Sequence[Source],
        progress: AbstractContextManager[Callable[[int], None] | None] | None = None,
    ) -> None:
        """See `Executor.run`."""
        packed = needed("cloudpickle", WHAT, "cluster").dumps(job)
        states = [_state(source) for source in sources]
        with self._client() as client, Report(progress) as report:
            _Run(self, client, job, packed, report).over(list(self._pieces(sources)))
        for source, before in zip(sources, states, strict=True):
            source.changed = before is not None and _state(source) != before
        job.close(sources)

    @property
    def any_order(self) -> bool:
        """Whether results may be taken as they come."""
        return self._any_order

    def _pieces(self, sources: Sequence[Source]) -> Iterator[_Piece]:
        place = 0
        for source in sources:
            source.read_elsewhere = 0
            numbers = _Numbers()
            for index, part in enumerate(distant_parts(source, self._size)):
                yield _Piece(source, replace(part, number=place), place, index, numbers)
                place += 1

    @contextlib.contextmanager
    def _client(self) -> Iterator[Any]:
        """Connect to the scheduler. Raises UsageError where none answers, or it has no workers."""
        for name in ("distributed", "tornado", "asyncio"):
            logging.getLogger(name).setLevel(logging.CRITICAL)
        try:
            client = self._distributed.Client(self._address, timeout=PATIENCE, set_as_default=False)
        except (OSError, ValueError, TimeoutError) as error:
            words = str(error).split("\n")[0] or type(error).__name__
            raise UsageError(f"--cluster {self._address}: no scheduler answers there: {words}") from None
        try:
            try:
                client.wait_for_workers(1, timeout=PATIENCE)
            except (OSError, TimeoutError):
                raise UsageError(f"--cluster {self._address}: the scheduler has no workers") from None
            yield client
        finally:
            client.close()


class _Run:
    """One job on its way through a cluster."""

    def __init__(self, cluster: Cluster, client: Any, job: Job[Any], packed: bytes, report: Report) -> None:
        self._cluster, self._client, self._job, self._report = cluster, client, job, report
        self._packed = packed
        self._key = blake2b(packed, digest_size=16).hexdigest()
        threads = sum(each["nthreads"] for each in client.scheduler_info(n_workers=-1)["workers"].values())
        self._ahead = AHEAD * max(1, threads)
        self._notes: list[tuple[_Piece, SourceNotes]] = []

    def over(self, pieces: list[_Piece]) -> None:
        """Do the job on all pieces."""
        try:
            if getattr(self._job, "tells_numbers", False):
                self._count(pieces)
            if self._cluster.any_order:
                self._as_they_come(pieces)
            else:
                self._in_order(pieces)
        except BaseException:
            self._client.cancel([each.future for each in pieces if each.future is not None], force=True)
            raise
        # What was met is told in the order of the sources, whatever order it came in.
        for piece, notes in sorted(self._notes, key=lambda each: each[0].place):
            piece.source.merge(notes)

    def _in_order(self, pieces: list[_Piece]) -> None:
        waiting: deque[_Piece] = deque()
        left = iter(pieces)
        while True:
            while len(waiting) < self._ahead and (piece := next(left, None)) is not None:
                self._submit(piece)
                waiting.append(piece)
            if not waiting:
                return
            piece = waiting.popleft()
            try:
                done = self._done(piece)
            except _Suspect:
                done = self._alone(piece, waiting)
            self._take(piece, self._rightly_numbered(piece, done, waiting))

    def _as_they_come(self, pieces: list[_Piece]) -> None:
        going = needed("distributed", WHAT, "cluster").as_completed([], loop=self._client.loop)
        by_future: dict[Any, _Piece] = {}
        later: list[_Piece] = []
        left = iter(pieces)

        def submit_next() -> None:
            piece = next(left, None)
            if piece is not None:
                self._submit(piece)
                by_future[piece.future] = piece
                going.add(piece.future)

        for _ in range(self._ahead):
            submit_next()
        for future in going:
            piece = by_future.pop(future)
            try:
                done = self._done(piece)
            except _Suspect:
                later.append(piece)
                submit_next()
                continue
            assert done.told is not None
            if done.told.first != piece.number and _names_lines(done):
                later.append(piece)
            else:
                self._take(piece, done)
            submit_next()
        for piece in sorted(later, key=lambda each: each.place):
            self._take(piece, self._alone(piece, ()))

    def _submit(self, piece: _Piece) -> None:
        first = piece.number or 1
        piece.future = self._client.submit(
            work_on, self._key, self._packed, piece.part, first, patience(), pure=False, retries=0
        )

    def _alone(self, piece: _Piece, others: Iterable[_Piece]) -> Done:
        """Return what becomes of a piece with nothing else on its way.

        Of several that workers had when they ended, this tells which one ends them. Raises WorkerEnded with its place.
        """
        for each in others:
            each.future.cancel()
        try:
            done = self._again(piece)
        except _Suspect:
            words = "the workers that had it ended, one after the other; is memory short?"
            raise WorkerEnded(f"{self._place(piece)}: {words}") from None
        for each in others:
            self._submit(each)
        return done

    def _done(self, piece: _Piece) -> Done:
        """Return what became of a piece. Raises UsageError and WorkerEnded, the place named, and _Suspect."""
        try:
            done: Done = piece.future.result()
        except Exception as error:
            if type(error).__name__ == "KilledWorker":
                raise _Suspect from None
            raise self._lost(piece, error) from None
        finally:
            # The scheduler may forget what is here.
            piece.future = None
        if done.wrong is not None:
            words = done.wrong.removeprefix(f"{piece.part.path}: ").removeprefix(f"{piece.part.name}: ")
            if done.is_defect:
                raise RuntimeError(f"{self._place(piece)}: {done.wrong}")
            raise UsageError(f"{self._place(piece)}: {words}, on a worker of the cluster")
        assert done.told is not None
        piece.numbers.count(piece.index, done.told.lines)
        return done

    def _lost(self, piece: _Piece, error: Exception) -> FieldstickError:
        kind = type(error).__name__
        if isinstance(error, ImportError):
            return UsageError(
                f"a worker of the cluster lacks what is here ({error}); install the same Fieldstick there"
            )
        words = str(error).split("\n")[0] or kind
        return WorkerEnded(f"{piece.part.name}: the cluster is gone: {words}")

    def _place(self, piece: _Piece) -> str:
        """Name the source and the first line of a piece."""
        if piece.part.end is None:
            return piece.part.name
        number = piece.number
        if number is None:
            before = replace(piece.part, start=0, end=piece.part.start)
            with contextlib.suppress(Exception):
                number = 1 + self._client.submit(count_lines, before, pure=False).result()
        return f"{piece.part.name}:{number}" if number is not None else piece.part.name

    def _count(self, pieces: Sequence[_Piece]) -> None:
        """Count the lines of pieces that are not counted yet, on the workers. Raises UsageError."""
        uncounted = [each for each in pieces if not each.numbers.is_counted(each.index) and each.part.end is not None]
        try:
            found = self._client.gather(self._client.map(count_lines, [each.part for each in uncounted], pure=False))
        except Exception as error:
            raise UsageError(f"the lines cannot be counted on the cluster: {error}") from None
        for piece, lines in zip(uncounted, found, strict=True):
            piece.numbers.count(piece.index, lines)

    def _rightly_numbered(self, piece: _Piece, done: Done, others: Iterable[_Piece]) -> Done:
        """Return what became of a piece, done again if lines are named that were numbered from 1."""
        assert done.told is not None
        if done.told.first == piece.number or not _names_lines(done):
            return done
        try:
            return self._again(piece)
        except _Suspect:
            return self._alone(piece, others)

    def _again(self, piece: _Piece) -> Done:
        self._submit(piece)
        return self._done(piece)

    def _take(self, piece: _Piece, done: Done) -> None:
        assert done.told is not None
        source = piece.source
        done.told.tell(source)
        for made, notes, count in done.results:
            done.told.notes.merge(notes)
            for tally in _tallies(made):
                for _ in range(tally.given_up):
                    note_spent()
            self._report.tell(count)
            self._job.take(source, made)
        if hasattr(self._job, "take_told"):
            self._job.take_told(source, done.own)
        source.read_elsewhere = (source.read_elsewhere or 0) + (piece.part.size or source.size or 0)
        if is_named(done.told.notes):
            if source.read_options.refuse_undecodable and done.told.notes.undecodable:
                source.merge(done.told.notes)
            self._notes.append((piece, done.told.notes))


def _names_lines(done: Done) -> bool:
    """Tell whether lines are named in what became of a piece."""
    assert done.told is not None
    named = is_named(done.told.notes) or any(is_named(notes) for _, notes, _ in done.results)
    return named or any(tally.gave_up for made, _, _ in done.results for tally in _tallies(made))


def _tallies(made: Any) -> Iterator[Tally]:
    """Yield the tallies in what a job made."""
    for each in made if isinstance(made, tuple) else (made,):
        if isinstance(each, Tally):
            yield each
        elif isinstance(each, list) and each and isinstance(each[0], Tally):
            yield from each


def _state(source: Source) -> Any:
    """Return what changes when a source is written to."""
    import os

    if source.path is None:
        return None
    if is_url(source.path):
        return stored(source.path).state()
    found = os.stat(source.path)
    return found.st_size, found.st_mtime_ns
