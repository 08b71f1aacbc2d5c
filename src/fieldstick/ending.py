"""The signals that ask a program to end, all of them heard as an interrupt, so that each leaves things as tidy."""

from __future__ import annotations

from contextlib import contextmanager
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    import signal
    from collections.abc import Callable, Iterator
else:
    # `signal` makes names of all numbers, which takes longer than all that is asked of it when a command begins.
    import _signal as signal

INTERRUPT: int = signal.SIGINT
"""The signal of the keyboard."""

SIGNALS = tuple(getattr(signal, name) for name in ("SIGINT", "SIGTERM", "SIGHUP") if hasattr(signal, name))


class Ended(KeyboardInterrupt):
    """A signal other than that of the keyboard asked this process to end; `number` is the signal's."""

    def __init__(self, number: int) -> None:
        super().__init__(number)
        self.number = number


def hear_all() -> None:
    """Have each signal that would end this process without a word raise `Ended`; one that is ignored stays so."""
    for each in SIGNALS:
        if signal.getsignal(each) not in (signal.SIG_IGN, signal.default_int_handler):
            signal.signal(each, _raise)


def hear_none() -> None:
    """Ignore the signals from now on."""
    for each in SIGNALS:
        signal.signal(each, signal.SIG_IGN)


_heard: list[int] = []
"""The signals that were heard: compiled code may make an interrupt of its own of what they raise."""


def _raise(number: int, frame: Any) -> None:
    _heard.append(number)
    raise Ended(number)


def ending_signal(error: BaseException) -> int:
    """Return the signal that an interrupt, or what was made of it, came from."""
    for each in (error, error.__cause__, error.__context__):
        if isinstance(each, Ended):
            return each.number
    return _heard[-1] if _heard else signal.SIGINT


@contextmanager
def at_leisure() -> Iterator[Callable[[], bool]]:
    """Take the first signal for a wish to come to an end, which what this gives tells; the next one ends at once."""
    asked: list[int] = []
    before = {each: signal.getsignal(each) for each in SIGNALS}

    def note(number: int, frame: Any) -> None:
        asked.append(number)
        for each, handler in before.items():
            signal.signal(each, handler)

    for each, handler in before.items():
        if handler != signal.SIG_IGN:
            signal.signal(each, note)
    try:
        yield lambda: bool(asked)
    finally:
        for each, handler in before.items():
            signal.signal(each, handler)


@contextmanager
def undisturbed() -> Iterator[None]:
    """Ignore further signals while what the first one ended is tidied up."""
    before = [(each, signal.signal(each, signal.SIG_IGN)) for each in SIGNALS]
    try:
        yield
    finally:
        for each, handler in before:
            signal.signal(each, handler)


@contextmanager
def held_back() -> Iterator[None]:
    """Let the signals wait until the end of this, for this process and whatever is started here."""
    if not hasattr(signal, "pthread_sigmask"):
        yield
        return
    before = signal.pthread_sigmask(signal.SIG_BLOCK, SIGNALS)
    try:
        yield
    finally:
        signal.pthread_sigmask(signal.SIG_SETMASK, before)


def as_worker() -> None:
    """Be a process that another one ends: an interrupt is nothing to it, what else asks it to end does so at once."""
    for each in SIGNALS:
        if each == signal.SIGINT:
            signal.signal(each, signal.SIG_IGN)
        elif signal.getsignal(each) != signal.SIG_IGN:
            signal.signal(each, signal.SIG_DFL)
    signal.pthread_sigmask(signal.SIG_UNBLOCK, SIGNALS)
