"""`draft`: a draft over a source, live."""

from __future__ import annotations

import os
import sys
from contextlib import contextmanager, nullcontext
from typing import TYPE_CHECKING, Any

import click
from msgspec.structs import replace

from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.pattern_options import pattern_options
from fieldstick.commands.source_options import source_options
from fieldstick.commands.sources import sources_of
from fieldstick.ending import Ended, hear_all
from fieldstick.errors import EXIT_PASSED, UsageError
from fieldstick.workspace import Workspace, looks_like_address

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.commands.live.screen import Kept
    from fieldstick.data.read_options import ReadOptions
    from fieldstick.suites.overrides import Overrides

_NO_TERMINAL = "draft needs a terminal to type in; try does the same without"


@headed_command(short_help="Run a draft over a source, live, as it is typed.")
@click.argument("arguments", nargs=-1, metavar="[EXPRESSION|SUITE:PATTERN] SOURCE...")
@pattern_options
@source_options
def command(arguments: tuple[str, ...], expression: str | None, overrides: Overrides, read_options: ReadOptions) -> int:
    """Show the texts of each SOURCE as a draft parts them: what fits on the left, what does not on the right.

    Both heaps change with every key. What fits is shown by kind, what does not by what it stops on; below stands what
    the last keys moved from one to the other, what the piece under the cursor asks for, and the draft. F2 and F3 take
    the chosen text as a positive or negative sample, F4 says why it fits or does not, F5 goes to the next text that
    moved, F6 keeps the draft with its samples, F7 goes back to the draft before, F10 leaves.

    What comes by a pipe (SOURCE -) is read to its end first.
    """
    try:
        from fieldstick.commands.live.screen import DraftScreen
    except ImportError as error:
        raise UsageError(f"draft needs {error.name}: pip install 'fieldstick[draft]'") from error
    from fieldstick.commands.live.worker import Reader

    first, overrides, names = _begun(arguments, expression, overrides)
    if not names and not sys.stdin.isatty():
        names = ("-",)
    if not names:
        raise UsageError("give a source: a file whose texts the draft is held against, or - for what comes by a pipe")
    piped = "-" in names
    files = [each for each in names if each != "-"]
    if files:
        sources_of(files, read_options)
    if not all(stream.isatty() for stream in (sys.stdout, sys.stderr)) or not (piped or sys.stdin.isatty()):
        raise UsageError(_NO_TERMINAL)
    with _from_pipe() if piped else nullcontext("-") as path:
        reader = Reader([path if each == "-" else each for each in names], read_options)
        screen = DraftScreen(reader, first, overrides, lambda name, draft, kept: _keep(name, draft, overrides, kept))
        try:
            screen.run()
        finally:
            reader.stop()
            hear_all()
        if screen.ended_by is not None:
            raise Ended(screen.ended_by)
    return EXIT_PASSED


@contextmanager
def _from_pipe() -> Iterator[str]:
    """Keep what comes on standard input in a file of its own, whose path this gives, and type at the terminal instead.

    Raises UsageError where there is no terminal to type at, and where there is no room for the file.
    """
    import shutil
    import tempfile

    try:
        terminal = os.open("/dev/tty", os.O_RDWR)
    except OSError:
        raise UsageError(_NO_TERMINAL) from None
    with tempfile.TemporaryDirectory(prefix="fieldstick-") as folder:
        path = os.path.join(folder, "standard input")
        try:
            with open(path, "wb") as file:
                shutil.copyfileobj(sys.stdin.buffer, file)
            os.dup2(terminal, sys.stdin.fileno())
        except OSError as error:
            raise UsageError(f"what comes by the pipe cannot be kept: {error.strerror or error}") from None
        finally:
            os.close(terminal)
        yield path


def _begun(
    arguments: tuple[str, ...], expression: str | None, overrides: Overrides
) -> tuple[str, Overrides, tuple[str, ...]]:
    """Return the draft to begin with, empty where none is given, how it reads, and the sources."""
    if expression is not None or not arguments or arguments[0] == "-" or os.path.exists(arguments[0]):
        return expression or "", overrides, arguments
    if not looks_like_address(arguments[0]):
        return arguments[0], overrides, arguments[1:]
    chosen = Workspace().pattern(arguments[0], overrides)
    pattern = chosen.pattern
    if pattern.filling is None or chosen.suite is None:
        raise UsageError(f"'{pattern.name}' is made of others; draft one of these")
    written = pattern.filling.source_text(None) or ""
    kept = replace(
        overrides, reach=pattern.reach, take=pattern.take, flags=tuple(sorted(pattern.flags)),
        suite_file=overrides.suite_file or chosen.suite.file,
    )  # fmt: skip
    return written, kept, arguments[1:]


def _keep(given: str, expression: str, overrides: Overrides, kept: Kept) -> str:
    """Keep a draft with its samples as SUITE:NAME, and return words that say so."""
    from fieldstick.commands.keeping import KeptPattern, keep_with_samples

    suite, colon, name = given.strip().rpartition(":")
    if not colon or not suite or not name:
        raise UsageError("write SUITE:NAME, or FILE.suite.toml:NAME")
    table: dict[str, Any] = {"expression": expression}
    if overrides.reach is not None:
        table["reach"] = overrides.reach
    if overrides.take is not None:
        table["take"] = overrides.take
    if overrides.flags:
        table["flags"] = list(overrides.flags)
    file = keep_with_samples(suite, KeptPattern(name, table, kept.positive, kept.negative))
    return f"kept {name} in {file} with {len(kept.positive)} positive and {len(kept.negative)} negative samples"
