"""Does work on the blocks of sources, in several processes if asked, and gives the results in order."""

from __future__ import annotations

import contextlib
import gc
import os
import queue
import signal
import sys
import threading
import traceback
from collections import deque
from contextlib import contextmanager
from itertools import cycle
from typing import TYPE_CHECKING, Any, Protocol, TypeVar

from fieldstick.engines.budget import watching
from fieldstick.errors import FieldstickError

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence
    from multiprocessing.connection import Connection

    from fieldstick.data.batch import Block, SourceNotes, Texts
    from fieldstick.data.source import Source

WORTH_SHARING = 8_000_000
"""Bytes of sources from which on several processes are faster than one."""

MANY_OBJECTS = 200_000
"""Objects made before garbage is looked for: a block makes many rows at once, and none of them refer to each other."""

PIPE = 1 << 20
"""Bytes that a pipe to or from a worker holds, the most that Linux lets anybody ask for."""

BLOCKS_AHEAD = 3
"""Blocks that each process may have before it: enough that none waits, few enough to keep memory flat."""

T = TypeVar("T", covariant=True)


class WorkerEnded(FieldstickError):
    """A worker process ended before its work was done."""

    def __init__(self) -> None:
        super().__init__("a worker process ended before its work was done; is memory short? --jobs 1 needs less")


class Work(Protocol[T]):
    """Something to be done with the texts of a block; it goes to other processes as a copy."""

    def __call__(self, source: str, texts: Texts) -> T:
        """Do it; `source` is the source's name."""


def fitting_jobs(sources: Sequence[Source]) -> int:
    """Return how many processes suit the sources: one for each core, or one alone where little is read."""
    sizes = [source.size for source in sources]
    if sys.platform != "linux" or None in sizes or sum(size or 0 for size in sizes) < WORTH_SHARING:
        return 1
    return len(os.sched_getaffinity(0))


def done(
    work: Work[T], sources: Sequence[Source], *, jobs: int = 1, progress: Callable[[int], None] | None = None
) -> Iterator[tuple[Source, T]]:
    """Yield what `work` makes of each block, in the order of the sources and of their texts.

    `progress` is called with the number of texts just worked on. Raises UsageError when a source cannot be read.
    """
    gc.set_threshold(MANY_OBJECTS)
    if jobs <= 1 or not hasattr(os, "fork"):
        with watching():
            for source in sources:
                for block in source.blocks():
                    for texts in block.parts():
                        made = work(source.name, texts)
                        source.merge(texts.notes)
                        if progress is not None:
                            progress(len(texts.numbers))
                        yield source, made
        return
    yield from _shared(work, sources, jobs, progress)


def _shared(
    work: Work[T], sources: Sequence[Source], jobs: int, progress: Callable[[int], None] | None
) -> Iterator[tuple[Source, T]]:
    """Hand blocks to the workers in turn, and take the results back in the same turn."""
    waiting: deque[tuple[Source, Worker]] = deque()

    def finished() -> Iterator[tuple[Source, T]]:
        source, worker = waiting.popleft()
        for made, notes, count in worker.result():
            source.merge(notes)
            if progress is not None:
                progress(count)
            yield source, made

    with _workers(work, jobs) as workers:
        turn = cycle(workers)
        for source in sources:
            for block in source.blocks():
                if len(waiting) >= jobs * BLOCKS_AHEAD:
                    yield from finished()
                worker = next(turn)
                worker.hand(source.name, block)
                waiting.append((source, worker))
            while waiting:
                yield from finished()


@contextmanager
def _workers(work: Work[Any], jobs: int) -> Iterator[list[Worker]]:
    workers: list[Worker] = []
    try:
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
    """A process that works on the blocks it is handed, one after the other, and ends when there are no more."""

    def __init__(self, work: Work[Any], others: list[Connection]) -> None:
        import multiprocessing

        context = multiprocessing.get_context("fork")
        blocks, self.handing = context.Pipe(duplex=False)
        self.taking, results = context.Pipe(duplex=False)
        _widen(self.handing)
        _widen(results)
        to_close = [*others, self.handing, self.taking]
        self.process = context.Process(target=_serve, args=(work, blocks, results, to_close), daemon=True)
        self.process.start()
        blocks.close()
        results.close()

    def hand(self, source: str, block: Block) -> None:
        """Hand a block over. Raises WorkerEnded."""
        try:
            self.handing.send((source, block))
        except OSError:
            raise WorkerEnded from None

    def result(self) -> list[tuple[Any, SourceNotes, int]]:
        """Return what was made of the block that was handed over first. Raises WorkerEnded, or what the work did."""
        try:
            fine, found = self.taking.recv()
        except (EOFError, OSError):
            raise WorkerEnded from None
        if fine:
            results: list[tuple[Any, SourceNotes, int]] = found
            return results
        words, is_ours = found
        raise FieldstickError(words) if is_ours else RuntimeError(words)


def _widen(connection: Connection) -> None:
    """Let a pipe hold what a worker may have before it, so that nobody waits for the other side to read."""
    with contextlib.suppress(ImportError, OSError, AttributeError):
        import fcntl

        fcntl.fcntl(connection.fileno(), fcntl.F_SETPIPE_SZ, PIPE)


def _serve(work: Work[Any], blocks: Connection, results: Connection, to_close: list[Connection]) -> None:
    """Work on blocks until there are no more; a thread takes them in, so that whoever hands them over never waits."""
    for each in to_close:
        each.close()
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    inbox: queue.SimpleQueue[tuple[str, Block] | None] = queue.SimpleQueue()
    threading.Thread(target=_take_in, args=(blocks, inbox), daemon=True).start()
    with watching(), contextlib.suppress(OSError):
        while (handed := inbox.get()) is not None:
            results.send(_worked(work, *handed))
    # Nothing is left to be tidied up, and what was inherited is not this process's to end.
    os._exit(0)


def _take_in(connection: Connection, inbox: queue.SimpleQueue[tuple[str, Block] | None]) -> None:
    try:
        while True:
            inbox.put(connection.recv())
    except (EOFError, OSError):
        inbox.put(None)


def _worked(work: Work[Any], source: str, block: Block) -> tuple[bool, Any]:
    results = []
    try:
        for texts in block.parts():
            results.append((work(source, texts), texts.notes, len(texts.numbers)))
    except FieldstickError as error:
        return False, (str(error), True)
    except Exception:
        return False, (traceback.format_exc(), False)
    return True, results
