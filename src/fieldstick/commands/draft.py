"""`draft`: a draft over a source, live."""

from __future__ import annotations

import os
import sys
from typing import TYPE_CHECKING, Any

import click
from msgspec.structs import replace

from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.pattern_options import pattern_options
from fieldstick.commands.source_options import source_options
from fieldstick.commands.sources import sources_of
from fieldstick.errors import EXIT_PASSED, UsageError
from fieldstick.workspace import Workspace, looks_like_address

if TYPE_CHECKING:
    from fieldstick.commands.live.screen import Kept
    from fieldstick.data.read_options import ReadOptions
    from fieldstick.suites.overrides import Overrides


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
    """
    try:
        from fieldstick.commands.live.screen import DraftScreen
    except ImportError as error:
        raise UsageError(f"draft needs {error.name}: pip install 'fieldstick[draft]'") from error
    from fieldstick.commands.live.worker import Reader

    first, overrides, names = _begun(arguments, expression, overrides)
    if not names:
        raise UsageError("give a source: a file whose texts the draft is held against")
    if "-" in names:
        raise UsageError("draft is typed at a terminal, and reads files alone; write what comes by a pipe to one first")
    sources_of(names, read_options)
    if not all(stream.isatty() for stream in (sys.stdin, sys.stdout, sys.stderr)):
        raise UsageError("draft needs a terminal to type in; try does the same without")
    reader = Reader(names, read_options)
    screen = DraftScreen(reader, first, overrides, lambda name, draft, kept: _keep(name, draft, overrides, kept))
    try:
        screen.run()
    finally:
        reader.stop()
    return EXIT_PASSED


def _begun(
    arguments: tuple[str, ...], expression: str | None, overrides: Overrides
) -> tuple[str, Overrides, tuple[str, ...]]:
    """Return the draft to begin with, empty where none is given, how it reads, and the sources."""
    if expression is not None or not arguments or os.path.exists(arguments[0]):
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
    from fieldstick.commands.keeping import keep_with_samples

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
    file = keep_with_samples(suite, name, table, kept.positive, kept.negative)
    return f"kept {name} in {file} with {len(kept.positive)} positive and {len(kept.negative)} negative samples"
