"""Writes what is handed over in a thread, so that whoever made it goes on meanwhile."""

from __future__ import annotations

import threading
from typing import TYPE_CHECKING, BinaryIO

from fieldstick.data.later import Later

if TYPE_CHECKING:
    import queue

MOST = 4
"""Pieces that may wait to be written: few enough to keep memory flat."""


class Behind:
    """Takes the place of a stream's `write`: pieces are written in their order, a little later.

    What writing raises is raised from the next call here; nothing is written after it. Raises RuntimeError where no
    thread can be started.
    """

    def __init__(self, stream: BinaryIO) -> None:
        from _queue import SimpleQueue

        self._stream = stream
        self._waiting: queue.SimpleQueue[bytes | Later | None] = SimpleQueue()
        self._room = threading.Semaphore(MOST)
        self._error: BaseException | None = None
        self._thread = threading.Thread(target=self._write, daemon=True)
        self._thread.start()

    def write(self, data: bytes | Later) -> None:
        """Have bytes made, if they are not, and written. Raises what that raised for earlier ones."""
        self._room.acquire()
        self._raise()
        self._waiting.put(data)

    def finish(self) -> None:
        """Wait until all is written. Raises what that raised."""
        self._end()
        self._raise()

    def abandon(self) -> None:
        """Write no more of what waits."""
        self._error = self._error or InterruptedError()
        self._end()

    def _raise(self) -> None:
        if self._error is not None:
            raise self._error

    def _end(self) -> None:
        self._waiting.put(None)
        self._thread.join()

    def _write(self) -> None:
        while (data := self._waiting.get()) is not None:
            try:
                if self._error is None:
                    self._stream.write(data.made() if isinstance(data, Later) else data)
            except BaseException as error:
                self._error = error
            self._room.release()
