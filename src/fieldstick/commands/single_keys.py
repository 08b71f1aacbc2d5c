"""Keys that count as they are typed, also those that were typed before they were asked for."""

from __future__ import annotations

import os
import signal
import sys
from contextlib import contextmanager
from typing import TYPE_CHECKING

import click

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

try:
    import termios
    import tty
except ImportError:  # there are none on Windows
    termios = tty = None  # type: ignore[assignment]


@contextmanager
def single_keys() -> Iterator[Callable[[], str]]:
    """Give what waits for the next key of the terminal at standard input; none is lost between two calls.

    The terminal is as it was afterwards. `KeyboardInterrupt` is raised at the end of what is typed.
    """
    if termios is None:
        yield click.getchar
        return
    number = sys.stdin.fileno()
    before = termios.tcgetattr(number)

    def listen(*_: object) -> None:
        tty.setcbreak(number, termios.TCSADRAIN)  # the usual way throws away what was typed ahead

    def key() -> str:
        typed = os.read(number, 1)
        if typed in (b"", b"\x04"):
            raise KeyboardInterrupt
        return typed.decode("latin-1")

    listen()
    resumed = signal.signal(signal.SIGCONT, listen)  # a shell gives back its own terminal
    try:
        yield key
    finally:
        signal.signal(signal.SIGCONT, resumed)
        termios.tcsetattr(number, termios.TCSADRAIN, before)
