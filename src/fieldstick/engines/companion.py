"""A process in which an engine runs, so that a text that takes it too long costs that process and nothing else.

Requests and answers are lines of words parted by blanks; an expression, a text, a name or a message is an `x` and the
hexadecimal digits of its UTF-8, so that a line needs no quoting anywhere. Offsets count in the engine's own unit.

    ready VERSION UNIT                     said once, by the companion
    c KEY FLAGS EXPRESSION                 compile; FLAGS are letters of `imsxa`, or `-`
      ok NAME …                            one name a group, a lone `x` for one without
      no OFFSET MESSAGE                    refused; -1 for no place
    m KEY REACH WANTED TEXT                match with what KEY stands for; WANTED 0 for all
      is START,END,START,END…;…            the matches, each with its groups, -1 for no part; `is` alone for none
      err MESSAGE                          the engine broke down on the text

A text's budget is the processor time that the companion spends on it; where a process's time cannot be read, the clock.
"""

from __future__ import annotations

import atexit
import os
import queue
import signal
import subprocess
import threading
import time
from typing import TYPE_CHECKING

from fieldstick.engines import memory
from fieldstick.errors import BudgetSpent, EngineFailure, EngineUnusable

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Iterator, Sequence

PATIENCE = 20.0
"""Seconds that a companion has to say that it is ready, or to compile an expression."""

_LOOK = 0.02
"""Seconds after which is looked how much processor time a text has cost so far."""

_IN_FLIGHT = 128
"""Requests that a companion is given before its answers are waited for."""


class CompanionEnded(Exception):
    """The process ended before it answered; its text is what it said last."""


def coded(text: str) -> str:
    """Return a text as a word of a line. Raises UnicodeEncodeError for half of a surrogate pair."""
    return "x" + text.encode().hex()


def decoded(word: str) -> str:
    """Return the text that a word stands for."""
    return bytes.fromhex(word[1:]).decode("utf-8", "replace")


class Companion:
    """One process and the threads that read what it says."""

    def __init__(self, command: Sequence[str], *, bounded: bool, by_clock: bool = False) -> None:
        """Start it; `by_clock` when others do the work, whose time is not seen here.

        Raises CompanionEnded when it does not come to be ready, OSError when it cannot be started.
        """
        self._by_clock = by_clock
        self._process = subprocess.Popen(
            command,
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            env={**os.environ, "LC_ALL": "C.UTF-8", "PYTHONUTF8": "1"},
            start_new_session=True,
        )
        self.known: dict[str, list[str]] = {}
        """The answers to what it was told to compile."""

        self._answers: queue.SimpleQueue[list[str] | None] = queue.SimpleQueue()
        self._last_words = b""
        threading.Thread(target=self._listen, daemon=True).start()
        self._complaints = threading.Thread(target=self._hear, daemon=True)
        self._complaints.start()
        try:
            self.version, self.unit = self._introduced()
        except BaseException:
            self.end()
            raise
        if bounded:
            memory.bind_other(self._process.pid)

    def _introduced(self) -> tuple[str, str]:
        try:
            word, version, unit = self.answer(None)
        except ValueError:
            raise CompanionEnded("it did not say that it is ready") from None
        if word != "ready":
            raise CompanionEnded("it did not say that it is ready")
        return decoded(version), unit

    def _listen(self) -> None:
        assert self._process.stdout is not None
        try:
            for line in self._process.stdout:
                self._answers.put(line.decode("ascii", "replace").split())
        except (OSError, ValueError):
            pass
        self._answers.put(None)

    def _hear(self) -> None:
        assert self._process.stderr is not None
        try:
            while piece := self._process.stderr.read1(4096):  # type: ignore[attr-defined]
                self._last_words = (self._last_words + piece)[-4000:]
        except (OSError, ValueError):
            pass

    def send(self, *requests: tuple[str, ...]) -> None:
        """Send requests at once, each the words of a line. Raises CompanionEnded."""
        assert self._process.stdin is not None
        try:
            self._process.stdin.write("".join([f"{' '.join(words)}\n" for words in requests]).encode())
            self._process.stdin.flush()
        except (OSError, ValueError):
            raise CompanionEnded(self._said()) from None

    def answer(self, budget_ms: int | None) -> list[str]:
        """Return the words of the next answer. Raises BudgetSpent, or CompanionEnded."""
        found = self._wait(PATIENCE, PATIENCE) if budget_ms is None else self._within(budget_ms / 1000)
        if found is None:
            raise CompanionEnded(self._said())
        if not found:
            raise BudgetSpent(budget_ms or int(PATIENCE * 1000))
        return found

    def _wait(self, seconds: float, most: float) -> list[str] | None:
        """Return the next answer, nothing said for none within so many seconds, None for a process that has ended."""
        try:
            return self._answers.get(timeout=min(seconds, most))
        except queue.Empty:
            return []

    def _within(self, budget: float) -> list[str] | None:
        found = self._wait(_LOOK, budget)
        if found != []:
            return found
        started, before = time.monotonic(), self._spent()
        while (now := self._spent()) is not None and before is not None:
            # What it spent before it was first looked at is counted in.
            if now - before + _LOOK >= budget or time.monotonic() - started > PATIENCE + 20 * budget:
                return []
            found = self._wait(_LOOK, budget)
            if found != []:
                return found
        return self._wait(budget - _LOOK, budget) if budget > _LOOK else []

    def _spent(self) -> float | None:
        """Return the seconds of processor time that the process has had; None where that cannot be told."""
        if self._by_clock:
            return None
        try:
            with open(f"/proc/{self._process.pid}/stat", "rb") as stream:
                fields = stream.read().rpartition(b")")[2].split()
            return (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")
        except (OSError, ValueError, IndexError):
            return None

    def _said(self) -> str:
        """Return the last line of what it complained of."""
        self._complaints.join(1)
        lines = [line.strip() for line in self._last_words.decode("utf-8", "replace").splitlines() if line.strip()]
        return lines[-1][:300] if lines else "its process ended"

    def end(self) -> None:
        """End the process at once, and what it started."""
        try:
            os.killpg(self._process.pid, signal.SIGKILL)
        except (OSError, AttributeError):
            self._process.kill()
        for stream in (self._process.stdin, self._process.stdout, self._process.stderr):
            if stream is not None:
                try:
                    stream.close()
                except OSError:
                    pass
        self._process.wait()


class Companions:
    """The companion of one engine in this process: started when it is first asked, and anew when it was ended."""

    def __init__(self, engine: str, start: Callable[[], Companion]) -> None:
        self._engine, self._start = engine, start
        self._running: tuple[int, Companion] | None = None
        self._lock = threading.Lock()
        _all.append(self)

    def running(self) -> Companion:
        """Return the companion. Raises EngineUnusable when it cannot be started."""
        if self._running is None or self._running[0] != os.getpid():
            try:
                self._running = (os.getpid(), self._start())
            except (CompanionEnded, OSError) as error:
                raise EngineUnusable(self._engine, str(error)) from None
        return self._running[1]

    def drop(self) -> None:
        """End the companion; the next request starts another."""
        running, self._running = self._running, None
        if running is not None and running[0] == os.getpid():
            running[1].end()

    def compiled(self, key: str, flags: str, expression: str) -> list[str]:
        """Have an expression compiled under a key; return the answer."""
        with self._lock:
            try:
                return self._know(self.running(), (key, flags, expression))
            except CompanionEnded:
                self.drop()
            try:
                return self._know(self.running(), (key, flags, expression))
            except CompanionEnded as error:
                self.drop()
                raise EngineFailure(f"the engine broke down on the expression: {error}") from None

    def _know(self, companion: Companion, asked: tuple[str, str, str]) -> list[str]:
        key = asked[0]
        if key not in companion.known:
            companion.send(("c", *asked))
            try:
                companion.known[key] = companion.answer(None)
            except BudgetSpent:
                self.drop()
                raise EngineFailure("the engine does not come to an end with the expression") from None
        return companion.known[key]

    def matched(
        self, asked: tuple[str, str, str], requests: Sequence[tuple[str, ...]], budget_ms: int
    ) -> Iterator[list[str] | BudgetSpent | EngineFailure]:
        """Yield the answer to each request in order; one that ends the companion costs no other its answer.

        `asked` is what was compiled: its key, flags and expression.
        """
        with self._lock:
            done, faltered = 0, 0
            while done < len(requests):
                companion = self.running()
                try:
                    self._know(companion, asked)
                    for answer in _answers(companion, requests[done:], budget_ms):
                        yield answer
                        done += 1
                        faltered = 0
                except BudgetSpent as spent:
                    self.drop()
                    yield spent
                    done += 1
                except CompanionEnded as ended:
                    # An idle one may have been ended by somebody else: a new one may serve.
                    self.drop()
                    faltered += 1
                    if faltered > 1:
                        yield EngineFailure(f"the engine broke down on this text: {ended}")
                        done, faltered = done + 1, 0
                except BaseException:
                    # Somebody interrupts while answers are on their way.
                    self.drop()
                    raise


def _answers(companion: Companion, requests: Sequence[tuple[str, ...]], budget_ms: int) -> Iterator[list[str]]:
    """Yield the answer to each request; the next ones are on their way meanwhile."""
    sent = 0
    for number in range(len(requests)):
        # A lump at a time: each costs a call of the system.
        if sent - number <= _IN_FLIGHT // 2 and sent < len(requests):
            companion.send(*requests[sent : number + _IN_FLIGHT])
            sent = min(number + _IN_FLIGHT, len(requests))
        yield companion.answer(budget_ms)


_all: list[Companions] = []


@atexit.register
def _drop_all(several: Iterable[Companions] = _all) -> None:
    for each in several:
        each.drop()
