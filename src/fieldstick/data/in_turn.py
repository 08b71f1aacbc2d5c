"""Makes calls in a thread, one after the other, so that whoever asked for them goes on meanwhile."""

from __future__ import annotations

import threading
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    import queue
    from collections.abc import Callable

    Calls = queue.SimpleQueue[tuple[Callable[..., Any], tuple[Any, ...]] | None]

MOST = 4
"""Calls that may wait: few enough to keep memory flat."""


class InTurn:
    """Makes calls in the order in which they are asked for, a little later.

    What one raises is raised from the next call of a method here; none is made after it. The thread ends with
    `finish`, with `abandon`, or with this object. Raises RuntimeError where no thread can be started.
    """

    def __init__(self) -> None:
        from _queue import SimpleQueue

        self._calls: Calls = SimpleQueue()
        self._room = threading.Semaphore(MOST)
        self._errors: list[BaseException] = []
        self._thread = threading.Thread(target=_work, args=(self._calls, self._room, self._errors), daemon=True)
        self._thread.start()

    def call(self, function: Callable[..., Any], *arguments: Any) -> None:
        """Have a call made. Raises what an earlier one raised."""
        self._room.acquire()
        self._raise()
        self._calls.put((function, arguments))

    def finish(self) -> None:
        """Wait until all calls are made. Raises what one raised."""
        self._end()
        self._raise()

    def abandon(self) -> None:
        """Make none of the calls that wait."""
        self._errors.append(InterruptedError())
        self._end()

    def _raise(self) -> None:
        if self._errors:
            raise self._errors[0]

    def _end(self) -> None:
        self._calls.put(None)
        self._thread.join()

    def __del__(self) -> None:
        if hasattr(self, "_thread"):
            self._calls.put(None)


def _work(calls: Calls, room: threading.Semaphore, errors: list[BaseException]) -> None:
    """Make the calls of a queue until it ends, none after one that raises."""
    while (asked := calls.get()) is not None:
        function, arguments = asked
        try:
            if not errors:
                function(*arguments)
        except BaseException as error:
            errors.append(error)
        del asked, function, arguments
        room.release()
