"""A progress bar on standard error for work that takes a while; none when that is not a terminal."""

from __future__ import annotations

import sys
from contextlib import contextmanager
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence

    from rich.progress import Progress, TaskID

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
    total = None if None in sizes else sum(size for size in sizes if size is not None)
    if (total is not None and total < WORTH_A_BYTE_BAR) or not sys.stderr.isatty() or any(s.grows for s in sources):
        yield None
        return
    with _ByteBar(sources, total) as bar:
        yield bar.tell


class _ByteBar:
    """Shows how far sources are read, how fast, and how long it will take, where that is known.

    Nothing is shown until so much is read that it may take longer than a glance.
    """

    def __init__(self, sources: Sequence[Source], total: int | None) -> None:
        self._sources, self._total = sources, total
        self._shown: Progress | None = None
        self._task: TaskID | None = None

    def __enter__(self) -> _ByteBar:
        if self._total is not None:
            self._show()
        return self

    def _show(self) -> None:
        from rich.console import Console
        from rich.progress import (
            BarColumn,
            DownloadColumn,
            Progress,
            TextColumn,
            TimeElapsedColumn,
            TimeRemainingColumn,
            TransferSpeedColumn,
        )

        last = TimeRemainingColumn() if self._total is not None else TimeElapsedColumn()
        columns = (TextColumn("reading"), BarColumn(), DownloadColumn(), TransferSpeedColumn(), last)
        self._shown = Progress(*columns, console=Console(stderr=True), transient=True)
        self._task = self._shown.add_task("reading", total=self._total)
        self._shown.start()

    def tell(self, count: int) -> None:
        """Be told of texts done."""
        consumed = sum(source.consumed for source in self._sources)
        if self._shown is None and consumed >= WORTH_A_BYTE_BAR:
            self._show()
        if self._shown is not None and self._task is not None:
            self._shown.update(self._task, completed=consumed)

    def __exit__(self, *raised: object) -> None:
        if self._shown is not None:
            self._shown.stop()
