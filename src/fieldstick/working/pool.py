"""Does work on the blocks of sources, in several processes if asked, and gives the results in order."""

from __future__ import annotations

import gc
import os
import signal
import sys
from collections import deque
from contextlib import ExitStack, contextmanager
from typing import TYPE_CHECKING, Any, Protocol, TypeVar

from fieldstick.engines.budget import watching
from fieldstick.errors import FieldstickError

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence
    from concurrent.futures import Future, ProcessPoolExecutor

    from fieldstick.data.items import Block, Met, Texts
    from fieldstick.data.texts import Source

WORTH_SHARING = 8_000_000
"""Bytes of sources from which on several processes are faster than one."""

MANY_OBJECTS = 200_000
"""Objects made before garbage is looked for: a block makes many rows at once, and none of them refer to each other."""

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
    if jobs <= 1:
        with watching():
            for source in sources:
                for block in source.blocks():
                    for texts in block.parts():
                        made = work(source.name, texts)
                        source.take_in(texts.met)
                        if progress is not None:
                            progress(len(texts.numbers))
                        yield source, made
        return
    yield from _shared(work, sources, jobs, progress)


def _shared(
    work: Work[T], sources: Sequence[Source], jobs: int, progress: Callable[[int], None] | None
) -> Iterator[tuple[Source, T]]:
    from concurrent.futures import BrokenExecutor

    waiting: deque[tuple[Source, Future[list[tuple[T, Met, int]]]]] = deque()

    def finished() -> Iterator[tuple[Source, T]]:
        source, future = waiting.popleft()
        try:
            results = future.result()
        except BrokenExecutor:
            raise WorkerEnded from None
        for made, met, count in results:
            source.take_in(met)
            if progress is not None:
                progress(count)
            yield source, made

    with _workers(work, jobs) as pool:
        for source in sources:
            for block in source.blocks():
                waiting.append((source, pool.submit(_load_and_work, source.name, block)))
                while len(waiting) > jobs * BLOCKS_AHEAD:
                    yield from finished()
            while waiting:
                yield from finished()


@contextmanager
def _workers(work: Any, jobs: int) -> Iterator[ProcessPoolExecutor]:
    import multiprocessing
    from concurrent.futures import ProcessPoolExecutor

    method = "fork" if sys.platform == "linux" else "spawn"
    context = multiprocessing.get_context(method)
    pool = ProcessPoolExecutor(jobs, context, initializer=_start, initargs=(work,))
    try:
        yield pool
    except BaseException:
        for process in list((pool._processes or {}).values()):
            process.kill()
        pool.shutdown(wait=False, cancel_futures=True)
        raise
    pool.shutdown()


_work: Work[Any] | None = None
"""What this worker process does."""

_watch = ExitStack()
"""Holds the budget's signal handler for as long as this process lives."""


def _start(work: Work[Any]) -> None:
    global _work
    _work = work
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    _watch.enter_context(watching())


def _load_and_work(source: str, block: Block) -> list[tuple[Any, Met, int]]:
    assert _work is not None
    results = []
    for texts in block.parts():
        results.append((_work(source, texts), texts.met, len(texts.numbers)))
    return results
