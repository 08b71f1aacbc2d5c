"""Work done here: by this process, or by workers beside it that are handed payloads over pipes.

Results come in the order of the payloads. Workers are started before anything is handed out, by copies of this process,
so that what they work with need not be carried to them.
"""

from __future__ import annotations

import contextlib
import gc
import os
import sys
import threading
from collections import deque
from contextlib import contextmanager
from itertools import cycle
from typing import TYPE_CHECKING, Any, TypeVar

from fieldstick.data.ahead import pays
from fieldstick.data.limited import Enough
from fieldstick.ending import as_worker, held_back
from fieldstick.engines.budget import watching
from fieldstick.errors import FieldstickError
from fieldstick.runs.executor import Report, WorkerEnded

if TYPE_CHECKING:
    import queue
    from collections.abc import Callable, Generator, Iterable, Iterator, Sequence
    from contextlib import AbstractContextManager
    from multiprocessing.connection import Connection

    from fieldstick.data.batch import Block
    from fieldstick.data.source import Source
    from fieldstick.runs.executor import Job

WORTH_SHARING = 8_000_000
"""Bytes of sources from which on several processes are faster than one."""

MANY_OBJECTS = 200_000
"""Objects made before garbage is looked for: a block makes many rows at once, and none of them refer to each other."""

PIPE = 1 << 20
"""Bytes that a pipe to or from a worker holds, the most that Linux lets anybody ask for."""

PAYLOADS_AHEAD = 3
"""Payloads that each worker may have before it: enough that none waits, few enough to keep memory flat."""

T = TypeVar("T")
P = TypeVar("P")


def fitting_jobs(sources: Sequence[Source], job: Job[Any], form: str = "") -> int:
    """Return how many processes suit a job: one for each pair of a processor's threads, or one alone.

    One alone where little is read, where walkers do the work, which leaves too little to share, and for rows that go to
    a `form` of file which is no text: handing them over costs more than others finding them saves. Two threads of one
    core gained nothing in any of the works that were measured.
    """
    if form in ("parquet", "sqlite", "xlsx", "database") or getattr(job, "is_walked", False):
        return 1
    sizes = [source.size for source in sources]
    if sys.platform != "linux" or None in sizes or sum(size or 0 for size in sizes) < WORTH_SHARING:
        return 1
    return max(1, processors() // 2)


def processors() -> int:
    """Return how many processors, threads of a core each, this process may use; one where the system does not say."""
    return len(os.sched_getaffinity(0)) if sys.platform == "linux" else os.cpu_count() or 1


class Processes:
    """Does work in so many processes, None for as many as suit a job; in this one where the system cannot copy it.

    `form` is the form of file that rows go to.
    """

    def __init__(self, jobs: int | None = 1, form: str = "") -> None:
        self._jobs = jobs if hasattr(os, "fork") else 1
        self._form = form

    def map(
        self,
        work: Callable[[P], T],
        payloads: Iterable[P],
        meanwhile: AbstractContextManager[Any] | None = None,
    ) -> Generator[T, None, None]:
        """Yield what `work` makes of each payload, in order.

        `meanwhile` is entered once the workers have started: what it starts, such as a thread that draws a progress
        bar, is not copied into them. Raises what the work raises, and WorkerEnded.
        """
        jobs = self._jobs or 1
        with contextlib.ExitStack() as stack:
            if jobs <= 1:
                stack.enter_context(meanwhile or contextlib.nullcontext())
                stack.enter_context(watching())
                yield from map(work, payloads)
                return
            workers = stack.enter_context(_workers(work, jobs))
            stack.enter_context(meanwhile or contextlib.nullcontext())
            waiting: deque[Worker] = deque()
            turn = cycle(workers)
            for payload in payloads:
                if len(waiting) >= jobs * PAYLOADS_AHEAD:
                    yield waiting.popleft().result()
                worker = next(turn)
                worker.hand(payload)
                waiting.append(worker)
            while waiting:
                yield waiting.popleft().result()

    def run(
        self,
        job: Job[Any],
        sources: Sequence[Source],
        progress: AbstractContextManager[Callable[[int], None] | None] | None = None,
    ) -> None:
        """Do a job on all the texts of sources, small and large alike.

        `progress` gives what is to be told of texts done. What a job takes may say that it is enough. Raises UsageError
        when a source cannot be read.
        """
        gc.set_threshold(MANY_OBJECTS)
        jobs = self._jobs or fitting_jobs(sources, job, self._form)
        is_shared = jobs <= 1 and getattr(job, "is_walked", False) and pays()
        for source in sources if is_shared else ():
            source.reads_ahead = True
            source.beside = getattr(job, "beside", None)
            source.glance = getattr(job, "glance", None)
        report = Report(progress)
        waiting: deque[Source] = deque()

        def payloads() -> Generator[tuple[str, Block], None, None]:
            for source in sources:
                for block in source.blocks():
                    waiting.append(source)
                    yield source.name, block

        def work(payload: tuple[str, Block]) -> Iterator[tuple[Any, Any, int]] | list[tuple[Any, Any, int]]:
            name, block = payload
            made = ((job.work(name, batch), batch.notes, len(batch.numbers)) for batch in block.parts())
            return made if jobs <= 1 else list(made)

        with (
            contextlib.suppress(Enough),
            contextlib.closing(payloads()) as read,
            contextlib.closing(Processes(jobs).map(work, read, report)) as going,
        ):
            for results in going:
                source = waiting.popleft()
                for made, notes, count in results:
                    source.merge(notes)
                    report.tell(count)
                    job.take(source, made)
        job.close(sources)


@contextmanager
def _workers(work: Callable[[Any], Any], jobs: int) -> Iterator[list[Worker]]:
    workers: list[Worker] = []
    try:
        # Its ending is for this process to see to: a worker is never told of an interrupt, from its first moment.
        with held_back():
            for _ in range(jobs):
                workers.append(Worker(work, [end for each in workers for end in (each.handing, each.taking)]))
        yield workers
        for worker in workers:
            worker.handing.close()
    except BaseException:
        for worker in workers:
            worker.process.kill()
        raise
    finally:
        for worker in workers:
            worker.process.join()


class Worker:
    """A process that works on the payloads it is handed, one after the other, and ends when there are no more."""

    def __init__(self, work: Callable[[Any], Any], others: list[Connection]) -> None:
        import multiprocessing

        context = multiprocessing.get_context("fork")
        payloads, self.handing = context.Pipe(duplex=False)
        self.taking, results = context.Pipe(duplex=False)
        _widen(self.handing)
        _widen(results)
        to_close = [*others, self.handing, self.taking]
        self.process = context.Process(target=_serve, args=(work, payloads, results, to_close), daemon=True)
        self.process.start()
        payloads.close()
        results.close()

    def hand(self, payload: Any) -> None:
        """Hand a payload over. Raises WorkerEnded."""
        try:
            self.handing.send(payload)
        except OSError:
            raise WorkerEnded from None

    def result(self) -> Any:
        """Return what was made of the payload that was handed over first. Raises WorkerEnded, or what the work did."""
        try:
            fine, found = self.taking.recv()
        except (EOFError, OSError):
            raise WorkerEnded from None
        if fine:
            return found
        raise found


def _widen(connection: Connection) -> None:
    """Let a pipe hold what a worker may have before it, so that nobody waits for the other side to read."""
    with contextlib.suppress(ImportError, OSError, AttributeError):
        import fcntl

        fcntl.fcntl(connection.fileno(), fcntl.F_SETPIPE_SZ, PIPE)


def _serve(work: Callable[[Any], Any], payloads: Connection, results: Connection, to_close: list[Connection]) -> None:
    """Work on payloads until there are no more; a thread takes them in, so that whoever hands them over never waits."""
    for each in to_close:
        each.close()
    import queue

    # From here on an interrupt is nothing to this process, but still ends what it starts to match on its behalf.
    as_worker()
    inbox: queue.SimpleQueue[tuple[Any] | None] = queue.SimpleQueue()
    threading.Thread(target=_receive, args=(payloads, inbox), daemon=True).start()
    with watching(), contextlib.suppress(OSError):
        while (handed := inbox.get()) is not None:
            results.send(_worked(work, handed[0]))
    # Nothing is left to be tidied up, and what was inherited is not this process's to end.
    os._exit(0)


def _receive(connection: Connection, inbox: queue.SimpleQueue[tuple[Any] | None]) -> None:
    try:
        while True:
            inbox.put((connection.recv(),))
    except (EOFError, OSError):
        inbox.put(None)


def _worked(work: Callable[[Any], Any], payload: Any) -> tuple[bool, Any]:
    try:
        return True, work(payload)
    except FieldstickError as error:
        return False, error
    except Exception:
        import traceback

        return False, RuntimeError(traceback.format_exc())
