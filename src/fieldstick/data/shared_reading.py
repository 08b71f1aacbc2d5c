"""Does what is to be done about each of many things in two threads, whichever has time, and hands it over in order.

Whoever asks for the things does not wait for one that the other thread is at, as long as there are others to do.
"""

from __future__ import annotations

import threading
from collections import deque
from typing import TYPE_CHECKING, Generic, TypeVar

from fieldstick.data.ahead import MOST, WAITS

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

C = TypeVar("C")
T = TypeVar("T")


def shared(claims: Iterator[C], done: Callable[[C], T]) -> Iterator[T]:
    """Yield what is `done` about each claim, in their order, up to `MOST` of it before it is asked for.

    Both threads take claims, one at a time, and do them at once. What claims or doing them raise is raised here, in its
    place. At an end before that of the claims the other thread has ended, too. Where none can be started, all is done
    in this one.
    """
    hands = _Hands(claims, done)
    try:
        hands.start()
    except RuntimeError:
        yield from map(done, claims)
        return
    WAITS.shorten()
    try:
        while (found := hands.next()) is not None:
            yield found.result()
    finally:
        hands.end()
        WAITS.restore()


class _Slot(Generic[C, T]):
    """A claim, what came of it, and a lock that is free once something did."""

    __slots__ = ("_claim", "_error", "_thing", "ready")

    def __init__(self, claim: C | None, error: BaseException | None = None) -> None:
        self._claim, self._error = claim, error
        self._thing: T | None = None
        self.ready = threading.Lock()
        if error is None:
            self.ready.acquire()

    def do(self, done: Callable[[C], T]) -> None:
        """Do what is to be done about it."""
        if self._error is None:
            try:
                self._thing = done(self._claim)  # type: ignore[arg-type]
            except BaseException as error:
                self._error = error
            self.ready.release()

    def result(self) -> T:
        """Return what came of it, or raise what did."""
        if self._error is not None:
            raise self._error
        return self._thing  # type: ignore[return-value]


class _Hands(threading.Thread, Generic[C, T]):
    """The other thread, and what both share: the claims that are not taken, and those that are, in their order."""

    def __init__(self, claims: Iterator[C], done: Callable[[C], T]) -> None:
        super().__init__(daemon=True)
        self._claims, self._done = claims, done
        self._taken: deque[_Slot[C, T]] = deque()
        self._taking = threading.Lock()
        self._room = threading.Semaphore(MOST)
        self._is_over = False

    def run(self) -> None:
        """See `Thread.run`."""
        while self._room.acquire() and not self._is_over:
            slot = self._claim()
            if slot is None:
                return
            slot.do(self._done)

    def next(self) -> _Slot[C, T] | None:
        """Return the next claim that is done; None where there are no more."""
        while True:
            first = self._taken[0] if self._taken else None
            if first is not None and first.ready.acquire(blocking=False):
                break
            slot = self._claim() if self._room.acquire(blocking=False) else None
            if slot is not None:
                slot.do(self._done)
                continue
            # What the other thread has taken meanwhile comes before an end.
            first = self._taken[0] if self._taken else None
            if first is None:
                return None
            first.ready.acquire()
            break
        self._taken.popleft()
        self._room.release()
        return first

    def _claim(self) -> _Slot[C, T] | None:
        """Take the next claim; None where there are no more."""
        with self._taking:
            try:
                slot: _Slot[C, T] = _Slot(next(self._claims))
            except StopIteration:
                return None
            except BaseException as error:
                self._claims = iter(())
                slot = _Slot(None, error)
            self._taken.append(slot)
            return slot

    def end(self) -> None:
        """Have it end as soon as it can, and wait for that."""
        self._is_over = True
        self._room.release()
        self.join()
