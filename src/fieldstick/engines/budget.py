"""Keeps a text's budget by a timer signal, where the system and the thread allow it, and its bound of memory.

The standard library's engine looks for signals as it backtracks, so that a handler that raises stops it.
The timer counts the processor time of this process, the system's work for it too, not the clock: a busy machine makes
no text time out.
Signals reach the main thread alone, and not every system has the timer; elsewhere `helper` keeps the budget.
"""

from __future__ import annotations

import threading
from contextlib import contextmanager
from typing import TYPE_CHECKING, Any, TypeVar

from fieldstick.engines import memory
from fieldstick.errors import BudgetSpent, PatienceLost

if TYPE_CHECKING:
    import signal
    from collections.abc import Callable, Iterator
else:
    # See `ending`.
    import _signal as signal

T = TypeVar("T")

_HAS_TIMER = hasattr(signal, "setitimer") and hasattr(signal, "SIGPROF")

_handler_set = False
"""Whether the timer's signal is handled here now."""

_armed_for: int | None = None
"""The budget in milliseconds that the running text has; None when none is running."""

_left = 0
"""What is left of it, in milliseconds, when the timer next goes off."""

UNBOUND = 20
"""Milliseconds of a text's budget after which memory is bound, too: most texts are done long before."""


MOST_SPENT = 10
"""Texts that may spend their budget in work on data before it is stopped: the next ones are likely to do so too."""

_patience: int | None = None
"""How many more texts may spend their budget; None for any number."""


def be_patient(most: int | None) -> None:
    """Say how many texts may spend their budget from now on; None for any number."""
    global _patience
    _patience = most


def patience() -> int | None:
    """Return how many more texts may spend their budget; None for any number."""
    return _patience


def note_spent() -> None:
    """Note that a text spent its budget. Raises PatienceLost when too many have."""
    global _patience
    if _patience is not None:
        _patience -= 1
        if _patience <= 0:
            raise PatienceLost(MOST_SPENT)


def _out_of_budget(number: int, frame: Any) -> None:
    global _armed_for, _left
    if _armed_for is None:
        return
    if _left > 0:
        left, _left = _left, 0
        memory.bind()
        signal.setitimer(signal.ITIMER_PROF, left / 1000)
        return
    spent, _armed_for = _armed_for, None
    raise BudgetSpent(spent)


def timer_usable() -> bool:
    """Tell whether the timer can stop a match in this thread."""
    return _HAS_TIMER and threading.current_thread() is threading.main_thread()


@contextmanager
def watching() -> Iterator[None]:
    """Hold the signal handler for a run over many texts, so that each need not set it up.

    The handler that was there is put back at the end. Does nothing where the timer is not usable.
    """
    global _handler_set
    if _handler_set or not timer_usable():
        yield
        return
    before = signal.signal(signal.SIGPROF, _out_of_budget)
    _handler_set = True
    try:
        yield
    finally:
        _handler_set = False
        signal.signal(signal.SIGPROF, before)


def run_within(budget_ms: int, call: Callable[..., T], *arguments: Any) -> T:
    """Call `call` in the main thread and return what it returns.

    Raises BudgetSpent when it takes more than `budget_ms` milliseconds of processor time, MemoryError for more memory
    than `memory` has it.
    """
    global _armed_for, _left
    if not _handler_set:
        with watching():
            return run_within(budget_ms, call, *arguments)
    first = min(budget_ms, UNBOUND)
    _armed_for, _left = budget_ms, budget_ms - first
    signal.setitimer(signal.ITIMER_PROF, first / 1000)
    try:
        return call(*arguments)
    finally:
        _armed_for = None
        signal.setitimer(signal.ITIMER_PROF, 0)
        memory.release()
