"""Keeps a text's budget by matching in a helper process that is ended when the budget is spent.

Used where the timer signal cannot serve: in threads other than the main one, on systems without the timer,
and for long texts, in which the engine looks for signals too seldom.
"""

from __future__ import annotations

import atexit
import os
import queue
import signal
import subprocess
import sys
import threading
from pathlib import Path
from typing import Any

from fieldstick.engines import memory
from fieldstick.engines.python_helper import read_frame, write_frame
from fieldstick.errors import BudgetSpent, FieldstickError

_HAS_TIMER = hasattr(signal, "setitimer") and hasattr(signal, "SIGPROF")
"""Whether the helper ends itself when its processor time is spent."""


class HelperEnded(FieldstickError):
    """The helper process ended before it answered."""

    def __init__(self) -> None:
        super().__init__("the helper process that keeps the budget ended; is memory short?")


class Helper:
    """One helper process and the thread that reads its answers."""

    def __init__(self) -> None:
        script = Path(__file__).with_name("python_helper.py")
        self._process = subprocess.Popen(
            [sys.executable, "-I", "-S", str(script)],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
        )
        memory.bind_other(self._process.pid)
        self._answers: queue.SimpleQueue[Any] = queue.SimpleQueue()
        threading.Thread(target=self._listen, daemon=True).start()

    def _listen(self) -> None:
        assert self._process.stdout is not None
        try:
            while (answer := read_frame(self._process.stdout)) is not None:
                self._answers.put(answer)
        except (OSError, ValueError):
            pass
        self._answers.put(None)

    def ask(self, request: tuple[Any, ...], budget_ms: int) -> list[Any]:
        """Send a request and wait for its spans.

        Raises BudgetSpent or HelperEnded; the helper is then of no further use.
        """
        assert self._process.stdin is not None
        try:
            write_frame(self._process.stdin, (*request, budget_ms / 1000))
        except OSError:
            raise HelperEnded from None
        self._answer(None)
        try:
            found: Any = self._answer(None if _HAS_TIMER else budget_ms / 1000)
        except queue.Empty:
            raise BudgetSpent(budget_ms) from None
        except HelperEnded:
            if _HAS_TIMER and self._process.wait() == -signal.SIGPROF:
                raise BudgetSpent(budget_ms) from None
            raise
        if isinstance(found, str):
            raise MemoryError if found == MemoryError.__name__ else SystemError(found)
        spans: list[Any] = found
        return spans

    def _answer(self, seconds: float | None) -> Any:
        answer = self._answers.get(timeout=seconds)
        if answer is None:
            raise HelperEnded
        return answer

    def end(self) -> None:
        """End the process at once."""
        self._process.kill()
        for stream in (self._process.stdin, self._process.stdout):
            if stream is not None:
                try:
                    stream.close()
                except OSError:
                    pass
        self._process.wait()


_lock = threading.Lock()
_helper: tuple[int, Helper] | None = None


def matches_in_helper(request: tuple[Any, ...], budget_ms: int) -> list[Any]:
    """Match in the helper process, which is started when there is none yet.

    Raises BudgetSpent when matching takes longer than `budget_ms` milliseconds of the helper's processor time.
    """
    with _lock:
        try:
            return _helper_of_this_process().ask(request, budget_ms)
        except HelperEnded:
            # An interrupt meant for the whole process group ends an idle helper too: a new one may serve.
            _drop()
        except BaseException:
            _drop()
            raise
        try:
            return _helper_of_this_process().ask(request, budget_ms)
        except BaseException:
            _drop()
            raise


def _helper_of_this_process() -> Helper:
    global _helper
    if _helper is None or _helper[0] != os.getpid():
        _helper = (os.getpid(), Helper())
    return _helper[1]


@atexit.register
def _drop() -> None:
    global _helper
    if _helper is not None and _helper[0] == os.getpid():
        _helper[1].end()
    _helper = None
