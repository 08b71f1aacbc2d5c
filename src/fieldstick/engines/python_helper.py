"""A process that matches on another's behalf, so that it can be ended when a text costs too much.

Run by path with an isolated interpreter; it imports nothing of the package. Frames on standard input and
output are a four-byte big-endian length and a pickle. Each request is answered by two frames: one when the
expression is compiled and matching starts, one with the spans.

When the budget is spent, a timer of this process's own processor time ends it: its default action does so even while
the engine is at work. Where there is no such timer, whoever asked ends this process by the clock.
"""

from __future__ import annotations

import pickle
import re
import signal
import sys
import warnings
from itertools import islice
from typing import IO, Any


def read_frame(stream: IO[bytes]) -> Any | None:
    """Read one frame; None at the end of the stream."""
    head = stream.read(4)
    if len(head) < 4:
        return None
    return pickle.loads(stream.read(int.from_bytes(head, "big")))


def write_frame(stream: IO[bytes], value: Any) -> None:
    """Write one frame and flush."""
    body = pickle.dumps(value, protocol=4)
    stream.write(len(body).to_bytes(4, "big") + body)
    stream.flush()


def find(compiled: re.Pattern[str], text: str, reach: str, wanted: int | None) -> list[Any]:
    """Return the spans of each match, the whole and its groups."""
    if reach == "anywhere":
        return [found.regs for found in islice(compiled.finditer(text), wanted)]
    found = compiled.fullmatch(text) if reach == "whole" else compiled.match(text)
    return [found.regs] if found else []


def serve(source: IO[bytes], sink: IO[bytes]) -> None:
    """Answer requests until the source ends."""
    warnings.simplefilter("ignore")
    signal.signal(signal.SIGINT, signal.SIG_DFL)
    while (request := read_frame(source)) is not None:
        expression, flags, text, reach, wanted, seconds = request
        compiled = re.compile(expression, flags)
        write_frame(sink, "started")
        _set_timer(seconds)
        found: Any
        try:
            found = find(compiled, text, reach, wanted)
        except (SystemError, MemoryError) as error:
            found = str(error) or type(error).__name__
        _set_timer(0)
        write_frame(sink, found)


def _set_timer(seconds: float) -> None:
    """Have this process ended after so many seconds of its own processor time, however busy the machine is."""
    if hasattr(signal, "setitimer"):
        signal.setitimer(signal.ITIMER_PROF, seconds)


if __name__ == "__main__":
    serve(sys.stdin.buffer, sys.stdout.buffer)
