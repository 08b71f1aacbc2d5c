"""The program's first moments and its last: before there is anything to tidy up an interrupt ends it at once, without a
word; what is imported is not gone through again and again for cycles of garbage, of which it has none, nor taken
apart in the end.

Nothing is imported here that the interpreter has not loaded already.
"""

import _signal  # type: ignore[import-not-found]
import atexit
import gc
import os
import sys

OBJECTS = 100_000
"""Objects that are made, less those that are gone, between two searches for cycles of garbage."""

gc.set_threshold(OBJECTS, *gc.get_threshold()[1:])


def _end(number: int, frame: object) -> None:
    os._exit(128 + number)


if _signal.getsignal(_signal.SIGINT) is _signal.default_int_handler:
    _signal.signal(_signal.SIGINT, _end)


_STREAMS = (("stdin", "r", os.O_WRONLY), ("stdout", "w", os.O_RDONLY), ("stderr", "w", os.O_WRONLY))
"""Standard streams by their number, how each is used, and how one that is closed is opened in its place."""


def _fill_closed() -> None:
    """Open standard streams that are closed, so that no file gets their number, and using them is an error in words.

    What is said on standard error goes nowhere then.
    """
    for number, (name, mode, opening) in enumerate(_STREAMS):
        if getattr(sys, name) is None:
            opened = os.open(os.devnull, opening)
            if opened != number:
                os.dup2(opened, number)
                os.close(opened)
            os.set_inheritable(number, True)
            stream = os.fdopen(number, mode, encoding="utf-8", errors="surrogateescape", closefd=False)
            setattr(sys, name, stream)


_status: list[int] = []
"""The status that the command line came to, once it has."""


def _leave() -> None:
    """End the process, once threads have ended and all else that is done at its end is done: this is asked last."""
    if _status:
        from contextlib import suppress

        with suppress(OSError, ValueError):
            sys.stderr.flush()
        os._exit(_status[0])


# Where somebody was there first, as what measures a program is, it ends as any other does.
if getattr(atexit, "_ncallbacks", lambda: 1)() == 0:
    atexit.register(_leave)


def main() -> None:
    """Run the command line and exit with its status."""
    if None in (sys.stdin, sys.stdout, sys.stderr):
        _fill_closed()
    from fieldstick.own_modules import find_own_modules

    find_own_modules()
    from fieldstick.lean import PUT_OFF, leanly, spare_compiling, spare_datetime

    spare_compiling()
    spare_datetime()
    with leanly(PUT_OFF):
        from fieldstick.commands.main import main as run

    _status.append(run())
    sys.exit(_status[0])
