"""Makes things in a thread before they are asked for, and hands them over in their order."""

from __future__ import annotations

import os
import sys
import threading
from typing import TYPE_CHECKING, Generic, TypeVar

if TYPE_CHECKING:
    import queue
    from collections.abc import Callable, Iterable, Iterator

T = TypeVar("T")

MOST = 6
"""Things that are made before one of them is asked for: few enough to keep memory flat."""

LONGEST_WAIT = 0.0005
"""Seconds that one thread waits for the interpreter while another has it: most of what they do needs none."""

ENOUGH = 2
"""Things that are ready from which on a thread has time for more than making them."""


def pays() -> bool:
    """Tell whether another thread can run beside this one: there is more than one processor for this process."""
    return len(os.sched_getaffinity(0)) > 1 if hasattr(os, "sched_getaffinity") else (os.cpu_count() or 1) > 1


def ahead(made: Iterable[T], finished: Callable[[T], T] | None = None) -> Iterator[T]:
    """Yield what an iterable gives, up to `MOST` of it made in a thread before it is asked for.

    A thing may be `finished` there, too, which whoever asks for it can do as well: where enough are ready, it is.
    What the iterable raises is raised here, in its place. At an end before that of the iterable, the thread has ended,
    too. Where no thread can be started, all is made when it is asked for.
    """
    maker = _Maker(made, finished)
    try:
        maker.start()
    except RuntimeError:
        yield from made
        return
    WAITS.shorten()
    try:
        while (found := maker.ready.get()) is not None:
            if isinstance(found, BaseException):
                raise found
            yield found.thing
            maker.room.release()
    finally:
        maker.end()
        WAITS.restore()


class _Waits:
    """How long threads wait for the interpreter: less while any makes things ahead, in whatever order they end."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._makers, self._usual = 0, 0.0

    def shorten(self) -> None:
        """Have them wait less from now on."""
        with self._lock:
            if not self._makers:
                self._usual = sys.getswitchinterval()
                sys.setswitchinterval(min(self._usual, LONGEST_WAIT))
            self._makers += 1

    def restore(self) -> None:
        """Have them wait as before, once nobody needs less."""
        with self._lock:
            self._makers -= 1
            if not self._makers:
                sys.setswitchinterval(self._usual)


WAITS = _Waits()


class _Made(Generic[T]):
    __slots__ = ("thing",)

    def __init__(self, thing: T) -> None:
        self.thing = thing


class _Maker(threading.Thread, Generic[T]):
    """Makes things while there is room for them; what it is `ready` with ends with None, or with what was raised."""

    def __init__(self, made: Iterable[T], finished: Callable[[T], T] | None) -> None:
        from _queue import SimpleQueue

        super().__init__(daemon=True)
        self.ready: queue.SimpleQueue[_Made[T] | BaseException | None] = SimpleQueue()
        self.room = threading.Semaphore(MOST)
        self._made, self._finished = made, finished
        self._is_over = False

    def run(self) -> None:
        """See `Thread.run`."""
        try:
            for each in self._made:
                has_time = self.ready.qsize() >= ENOUGH
                self.ready.put(_Made(self._finished(each) if self._finished is not None and has_time else each))
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
