"""Makes things in a thread before they are asked for, and hands them over in their order."""

from __future__ import annotations

import os
import threading
from typing import TYPE_CHECKING, Generic, TypeVar

if TYPE_CHECKING:
    import queue
    from collections.abc import Iterable, Iterator

T = TypeVar("T")

MOST = 3
"""Things that are made before one of them is asked for: few enough to keep memory flat."""


def pays() -> bool:
    """Tell whether another thread can run beside this one: there is more than one processor for this process."""
    return len(os.sched_getaffinity(0)) > 1 if hasattr(os, "sched_getaffinity") else (os.cpu_count() or 1) > 1


def ahead(made: Iterable[T]) -> Iterator[T]:
    """Yield what an iterable gives, up to `MOST` of it made in a thread before it is asked for.

    What the iterable raises is raised here, in its place. At an end before that of the iterable, the thread has ended,
    too. Where no thread can be started, all is made when it is asked for.
    """
    maker = _Maker(made)
    try:
        maker.start()
    except RuntimeError:
        yield from made
        return
    try:
        while (found := maker.ready.get()) is not None:
            if isinstance(found, BaseException):
                raise found
            yield found.thing
            maker.room.release()
    finally:
        maker.end()


class _Made(Generic[T]):
    __slots__ = ("thing",)

    def __init__(self, thing: T) -> None:
        self.thing = thing


class _Maker(threading.Thread, Generic[T]):
    """Makes things while there is room for them; what it is `ready` with ends with None, or with what was raised."""

    def __init__(self, made: Iterable[T]) -> None:
        from _queue import SimpleQueue

        super().__init__(daemon=True)
        self.ready: queue.SimpleQueue[_Made[T] | BaseException | None] = SimpleQueue()
        self.room = threading.Semaphore(MOST)
        self._made = made
        self._is_over = False

    def run(self) -> None:
        """See `Thread.run`."""
        try:
            for each in self._made:
                self.ready.put(_Made(each))
                del each
                self.room.acquire()
                if self._is_over:
                    return
            self.ready.put(None)
        except BaseException as error:
            self.ready.put(error)

    def end(self) -> None:
        """Have it end as soon as it can, and wait for that."""
        self._is_over = True
        self.room.release()
        self.join()
