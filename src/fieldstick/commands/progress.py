"""A progress bar on standard error for work that takes a while; none when that is not a terminal."""

from __future__ import annotations

import sys
from contextlib import contextmanager
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence

    from fieldstick.data.source import Source

WORTH_A_BAR = 3000
"""Samples from which on a check may take longer than a glance."""

WORTH_A_PATTERN_BAR = 8
"""Patterns from which on looking for gaps may take longer than a glance."""


@contextmanager
def sample_progress(total: int) -> Iterator[Callable[[int], None] | None]:
    """Yield what is to be told of samples done, or None when no bar is shown."""
    with _counted("judging", total, WORTH_A_BAR) as told:
        yield told


@contextmanager
def pattern_progress(total: int) -> Iterator[Callable[[int], None] | None]:
    """Yield what is to be told of patterns looked into, or None when no bar is shown."""
    with _counted("looking into patterns", total, WORTH_A_PATTERN_BAR) as told:
        yield told


@contextmanager
def _counted(what: str, total: int, worth: int) -> Iterator[Callable[[int], None] | None]:
    if total < worth or not sys.stderr.isatty():
        yield None
        return
    from rich.console import Console
    from rich.progress import BarColumn, MofNCompleteColumn, Progress, TextColumn, TimeRemainingColumn

    columns = (TextColumn(what), BarColumn(), MofNCompleteColumn(), TimeRemainingColumn())
    with Progress(*columns, console=Console(stderr=True), transient=True) as bar:
        task = bar.add_task(what, total=total)
        yield lambda done: bar.advance(task, done)


WORTH_A_BYTE_BAR = 5_000_000
"""Bytes of sources from which on reading them may take longer than a glance."""


@contextmanager
def byte_progress(sources: Sequence[Source], *, writes_to: str | None = "") -> Iterator[Callable[[int], None] | None]:
    """Yield what is to be told of texts done, or None when no bar is shown; it shows how far the sources are read.

    `writes_to` is the file that is written meanwhile; None or `-` for standard output, beside which no bar is drawn
    when that is a terminal.
    """
    if writes_to in (None, "-") and sys.stdout.isatty():
        yield None
        return
    sizes = [source.size for source in sources]
    total = sum(size for size in sizes if size is not None)
    if None in sizes or total < WORTH_A_BYTE_BAR or not sys.stderr.isatty():
        yield None
        return
    from rich.console import Console
    from rich.progress import BarColumn, DownloadColumn, Progress, TextColumn, TimeRemainingColumn, TransferSpeedColumn

    columns = (TextColumn("reading"), BarColumn(), DownloadColumn(), TransferSpeedColumn(), TimeRemainingColumn())
    with Progress(*columns, console=Console(stderr=True), transient=True) as bar:
        task = bar.add_task("reading", total=total)
        yield lambda _: bar.update(task, completed=sum(source.consumed for source in sources))
