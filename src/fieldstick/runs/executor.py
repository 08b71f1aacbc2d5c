"""Who does a job on all the texts of sources: this process, workers beside it, or those of a cluster; one protocol."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Protocol, TypeVar

from fieldstick.errors import FieldstickError

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence
    from contextlib import AbstractContextManager

    from fieldstick.data.batch import Batch
    from fieldstick.data.distant import DistantPart, PartSource
    from fieldstick.data.source import Source

T = TypeVar("T")


class Job(Protocol[T]):
    """Work on the batches of sources, and what becomes of its results.

    A job that has a true `is_walked` is done by walkers, as far as they can, and its sources are read ahead meanwhile;
    one that has a true `tells_numbers` says of each text where it stands. What a job makes `beside` of lines as
    they are stored, and asks or changes nothing else for, may be made while they are read, in another thread too; the
    batch has it. So has it what a job makes of whole lines at a `glance`, before anybody knows where each ends.
    """

    def work(self, source: str, batch: Batch) -> T:
        """Do the work on a batch of the source of that name; elsewhere, on a copy of the job."""

    def take(self, source: Source, made: T) -> None:
        """Take what was made of a batch; called in the order of the sources and of their texts."""

    def close(self, sources: Sequence[Source]) -> None:
        """Do what is left to do when everything was taken."""


class PartsJob(Job[T], Protocol):
    """A job that has more to do with a part of a source that is read elsewhere than to work on its batches."""

    def opened(self, part: DistantPart, first: int) -> PartSource:
        """Open a part there, its first line of number `first`. Raises UsageError."""

    def told(self, source: PartSource) -> Any:
        """Return what is known there when the part was read to its end."""

    def take_told(self, source: Source, told: Any) -> None:
        """Take that here; called after what was made of the part's batches was taken."""


class Executor(Protocol):
    """Does a job on all the texts of sources, small and large alike."""

    def run(
        self,
        job: Job[Any],
        sources: Sequence[Source],
        progress: AbstractContextManager[Callable[[int], None] | None] | None = None,
    ) -> None:
        """Do a job. `progress` gives what is to be told of texts done. Raises UsageError when a source cannot be read,
        WorkerEnded when whoever did the work is gone.
        """


class WorkerEnded(FieldstickError):
    """A worker ended before its work was done."""

    def __init__(
        self, words: str = "a worker process ended before its work was done; is memory short? --jobs 1 needs less"
    ) -> None:
        super().__init__(words)


class Report:
    """Tells of texts done, once the work has begun."""

    def __init__(self, progress: AbstractContextManager[Callable[[int], None] | None] | None) -> None:
        self._progress = progress
        self._tell: Callable[[int], None] | None = None

    def __enter__(self) -> Report:
        if self._progress is not None:
            self._tell = self._progress.__enter__()
        return self

    def __exit__(self, *raised: Any) -> None:
        if self._progress is not None:
            self._progress.__exit__(*raised)

    def tell(self, count: int) -> None:
        """Tell of so many more."""
        if self._tell is not None:
            self._tell(count)
