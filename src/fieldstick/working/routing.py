"""Sorts the texts of sources into kinds: a file a kind, the counts, and the texts that several patterns fit."""

from __future__ import annotations

from collections import Counter
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec import Struct, field

from fieldstick.data.text_file import Target
from fieldstick.errors import UsageError
from fieldstick.matching.tally import Tally
from fieldstick.runs.executor import done

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from fieldstick.data.batch import Texts
    from fieldstick.data.source import Source
    from fieldstick.matching.routing import ReadyRoute

MOST_OVERLAPS = 8
"""Texts of each overlap that are named."""


class RouteTally(Tally):
    """Counts of a route: texts by kind, in all and by source, and those that several patterns fit.

    `overlaps` counts by the kinds that fit; `overlapping` names the first texts of each.
    """

    kinds: Counter[str] = field(default_factory=Counter)
    overlaps: Counter[tuple[str, ...]] = field(default_factory=Counter)
    overlapping: dict[tuple[str, ...], list[tuple[str, int, str]]] = field(default_factory=dict)

    def merge(self, other: Tally) -> None:
        """Add the counts of texts further on."""
        Tally.merge(self, other)
        if isinstance(other, RouteTally):
            self.kinds += other.kinds
            self.overlaps += other.overlaps
            for kinds, texts in other.overlapping.items():
                known = self.overlapping.setdefault(kinds, [])
                known += texts[: MOST_OVERLAPS - len(known)]


class KindFiles:
    """A file for each kind in a folder, all of them put in place at the end, or none."""

    def __init__(self, folder: str, kinds: Sequence[str], ending: str, encoding: str) -> None:
        self.folder = Path(folder)
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise UsageError(f"{folder}: cannot be made: {error.strerror or error}") from None
        self.paths = {kind: self.folder / f"{kind}{ending}" for kind in kinds}
        self._targets: list[Target] = []
        self._headers: dict[int, str] = {}
        try:
            for kind in kinds:
                self._targets.append(Target(str(self.paths[kind]), encoding=encoding))
        except BaseException:
            self.abandon()
            raise

    def write(self, kind: int, source: Source, text: str) -> None:
        """Write texts of a kind, by its index; a table's header before them."""
        if source.header and self._headers.get(kind) != source.header:
            self._headers[kind] = source.header
            self._targets[kind].write(source.header)
        self._targets[kind].write(text)

    def finish(self) -> None:
        """Put all files in place."""
        for target in self._targets:
            target.finish()

    def abandon(self) -> None:
        """Drop all files."""
        for target in self._targets:
            target.abandon()


def route(
    ready: ReadyRoute,
    sources: Sequence[Source],
    files: KindFiles | None,
    *,
    with_overlaps: bool = False,
    jobs: int = 1,
    progress: Callable[[int], None] | None = None,
) -> RouteTally:
    """Sort each text into its kind, and write it as it stands to the kind's file.

    A text that spends its budget is counted apart, and written with those of no kind. Raises UsageError when a
    source cannot be read, or a file not written.
    """
    tally = RouteTally()
    for source, (texts, found) in done(
        RouteWork(ready, files is not None, with_overlaps), sources, jobs=jobs, progress=progress
    ):
        tally.merge(found)
        if files is not None:
            for kind, text in texts.items():
                files.write(kind, source, text)
    return tally


class RouteWork(Struct, frozen=True):
    """The work on a block: its texts joined by kind, and the tally."""

    ready: ReadyRoute
    write: bool
    with_overlaps: bool

    def __call__(self, source: str, texts: Texts) -> tuple[dict[int, str], RouteTally]:
        """See `Work`."""
        kinds = self.ready.kinds
        otherwise = len(kinds) - 1
        found = self.ready.sort(texts.texts)
        for index in texts.without_text:
            found[index] = otherwise
        tally = RouteTally(read=len(found))
        counts = Counter(found)
        tally.kinds.update({kinds[kind]: count for kind, count in counts.items() if kind is not None})
        if None in counts:
            for index, kind in enumerate(found):
                if kind is None:
                    tally.give_up(source, texts.numbers[index])
        joined = self._joined(texts, [otherwise if kind is None else kind for kind in found]) if self.write else {}
        tally.fit = tally.kinds.total() - tally.kinds[kinds[otherwise]]
        if self.with_overlaps:
            self._note_overlaps(source, texts, tally)
        return joined, tally

    def _joined(self, texts: Texts, found: list[int]) -> dict[int, str]:
        """Return the texts of each kind as they stand, each with a line end."""
        heaps: list[list[str]] = [[] for _ in self.ready.kinds]
        put = [heap.append for heap in heaps]
        if texts.as_they_stand:
            for kind, text in zip(found, texts.texts, strict=True):
                put[kind](text)
            return {kind: "\n".join(heap) + "\n" for kind, heap in enumerate(heaps) if heap}
        for index, kind in enumerate(found):
            raw = texts.raw(index)
            put[kind](raw if raw.endswith("\n") else raw + "\n")
        return {kind: "".join(heap) for kind, heap in enumerate(heaps) if heap}

    def _note_overlaps(self, source: str, texts: Texts, tally: RouteTally) -> None:
        for index, several in enumerate(self.ready.overlaps(texts.texts)):
            if len(several) > 1:
                names = tuple(self.ready.kinds[kind] for kind in several)
                tally.overlaps[names] += 1
                known = tally.overlapping.setdefault(names, [])
                if len(known) < MOST_OVERLAPS:
                    known.append((source, texts.numbers[index], texts.texts[index]))
