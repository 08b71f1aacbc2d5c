"""The program's first moments: an interrupt ends it at once and without a word, since there is nothing to tidy up; what
is imported is not gone through again and again for cycles of garbage, which it has none of.

Nothing is imported here that the interpreter has not loaded already.
"""

import _signal  # type: ignore[import-not-found]
import gc
import os

OBJECTS = 100_000
"""Objects that are made, less those that are gone, between two searches for cycles of garbage."""

gc.set_threshold(OBJECTS, *gc.get_threshold()[1:])


def _end(number: int, frame: object) -> None:
    os._exit(128 + number)


if _signal.getsignal(_signal.SIGINT) is _signal.default_int_handler:
    _signal.signal(_signal.SIGINT, _end)


def main() -> None:
    """Run the command line and exit with its status."""
    from fieldstick.commands.main import main as run

    run()
