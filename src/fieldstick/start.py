"""The program's first moments: an interrupt ends it at once and without a word, since there is nothing to tidy up.

Nothing is imported here that the interpreter has not loaded already.
"""

import _signal  # type: ignore[import-not-found]
import os


def _end(number: int, frame: object) -> None:
    os._exit(128 + number)


if _signal.getsignal(_signal.SIGINT) is _signal.default_int_handler:
    _signal.signal(_signal.SIGINT, _end)


def main() -> None:
    """Run the command line and exit with its status."""
    from fieldstick.commands.main import main as run

    run()
