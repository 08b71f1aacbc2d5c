"""Route: texts sorted into kinds; the first pattern that fits a text names its kind."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from itertools import compress
from operator import not_
from typing import TYPE_CHECKING, Any

import msgspec
from msgspec import Struct, field
from msgspec.structs import replace

from fieldstick.data.coding import encoded
from fieldstick.data.elsewhere import StaysHere
from fieldstick.data.named_rows import NamedRows
from fieldstick.data.passed_on import columns_of, rows_at
from fieldstick.data.placed import counted, gathered
from fieldstick.data.storage import join, make_folder
from fieldstick.data.text_file import TextFile
from fieldstick.errors import hint
from fieldstick.files import PartFile, is_file_name
from fieldstick.matching.prepare import prepare
from fieldstick.matching.tally import Tally
from fieldstick.matching.walks import KindWalk, kind_walk
from fieldstick.suites.sections import Members, OperationTable, SampleTable, Section
from fieldstick.suites.suite import Difference, Operation, Pattern

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.data.batch import Batch
    from fieldstick.data.rows import Sink
    from fieldstick.data.source import Source
    from fieldstick.matching.matcher import Matcher
    from fieldstick.suites.operation_reader import OperationReader
    from fieldstick.suites.places import Path
    from fieldstick.suites.suite import Sample

NO_FILE_NAME = "a kind names a file too; use letters, digits, blanks and . + - _, a letter or digit first"

OTHERWISE = "unknown"

MOST_OVERLAPS = 8
"""Texts of each overlap that are named."""


class RouteSampleTable(SampleTable, frozen=True, kw_only=True):
    """A text and the kind it is of."""

    kind: str


class RouteTable(OperationTable, frozen=True, kw_only=True):
    """Patterns in order; the first one that fits a text names its kind."""

    order: Members
    otherwise: str = OTHERWISE
    samples: list[RouteSampleTable] = msgspec.field(default_factory=list)


class Route(Operation, frozen=True):
    """Names the kind of a text: the first pattern that fits."""

    order: tuple[Pattern, ...] = ()
    otherwise: str = OTHERWISE

    @property
    def patterns(self) -> tuple[Pattern, ...]:
        """See `Operation.patterns`."""
        return self.order

    @property
    def kinds(self) -> tuple[str, ...]:
        """The kinds in order, the one for all other texts last."""
        return (*(pattern.name for pattern in self.order), self.otherwise)

    @property
    def reason(self) -> tuple[str, str]:
        """See `Operation.reason`."""
        return "kind-differs", "it is of another kind"

    def made(self, sample: Sample) -> str:
        """See `Operation.made`."""
        return prepare_route(self).kind(sample.text)

    def differences(self, expected: Any, made: Any) -> Iterator[Difference]:
        """See `Operation.differences`."""
        if expected != made:
            yield Difference("kind", None, expected, made)


def read(reader: OperationReader) -> Iterator[Route]:
    """Yield the routes of a suite file."""
    for name, table in reader.tables.items():
        found = _route(reader, name, table)
        if found is not None:
            yield found


def _route(reader: OperationReader, name: str, table: RouteTable) -> Route | None:
    path: Path = (reader.section, name)
    order: list[Pattern] = []
    for index, address in enumerate(table.order):
        where: Path = (*path, "order", index)
        pattern = reader.home.member(address, where)
        if pattern is None:
            continue
        if pattern.name in [each.name for each in order]:
            reader.problem(where, f"the kind '{pattern.name}' is there twice")
        if pattern.parameters:
            reader.problem(where, f"'{address}' has parameters, for which a route has no values")
        order.append(pattern)
    if table.otherwise in [each.name for each in order]:
        reader.problem((*path, "otherwise"), f"'{table.otherwise}' is a kind of the route already")
    if len(order) < len(table.order):
        return None
    if not is_file_name(table.otherwise):
        reader.problem((*path, "otherwise"), f"'{table.otherwise}': {NO_FILE_NAME}")
        return None
    made = Route(name, table.about, tuple(table.tags), (), path, tuple(order), table.otherwise)
    samples = reader.text_samples(made, table.samples, lambda sample: sample.kind)
    for sample in samples:
        kind = sample.expected.outcome if sample.expected is not None else None
        if kind not in made.kinds:
            reader.problem((*sample.path, "kind"), f"the route has no kind '{kind}'{hint(str(kind), made.kinds)}")
    return replace(made, samples=samples)


SECTION = Section("routes", RouteTable, RouteSampleTable, read)


class Router(Struct, frozen=True):
    """A route made ready. A kind is the index of its pattern in the order; the one for all others comes last."""

    kinds: tuple[str, ...]
    matchers: tuple[Matcher, ...]
    walk: KindWalk | None = None

    def kind(self, text: str) -> str:
        """Return the kind of a text. Raises BudgetSpent."""
        for name, matcher in zip(self.kinds, self.matchers, strict=False):
            if matcher.read(text).fits:
                return name
        return self.kinds[-1]

    def sort(self, texts: Sequence[str]) -> list[int | None]:
        """Return the kind of each text by its index in `kinds`; None where that was given up."""
        found: list[int | None] = [len(self.matchers)] * len(texts)
        left: Sequence[int] = range(len(texts))
        for kind, matcher in enumerate(self.matchers):
            fits = matcher.fits(texts)
            if None in fits:
                for index, each in zip(left, fits, strict=True):
                    if each is None:
                        found[index] = None
                fits = [each is not False for each in fits]
            for index in compress(left, fits):
                if found[index] is not None:
                    found[index] = kind
            others = list(map(not_, fits))
            left, texts = list(compress(left, others)), list(compress(texts, others))
            if not left:
                break
        return found

    def overlaps(self, texts: Sequence[str]) -> list[tuple[int, ...]]:
        """Return every kind whose pattern fits, for each text."""
        found: list[list[int]] = [[] for _ in texts]
        for kind, matcher in enumerate(self.matchers):
            for index, each in enumerate(matcher.fits(texts)):
                if each:
                    found[index].append(kind)
        return [tuple(each) for each in found]


def prepare_route(route: Route) -> Router:
    """Make a route ready. Raises ExpressionError, EngineUnusable and UsageError as `prepare` does."""
    matchers = tuple(prepare(pattern) for pattern in route.order)
    return Router(route.kinds, matchers, kind_walk(matchers))


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


Heap = str | bytes | list[Mapping[str, Any]]
"""Texts of a kind as they stand, as UTF-8 if they are bytes, or as rows."""


class KindFiles(StaysHere):
    """A file for each kind in a folder, all of them put in place at the end, or none."""

    def __init__(
        self, folder: str, kinds: Sequence[str], ending: str, *, append: bool = False, grows: bool = False
    ) -> None:
        make_folder(folder)
        self.paths = {kind: join(folder, f"{kind}{ending}") for kind in kinds}
        self._targets: list[TextFile] = []
        self._headers: dict[int, str] = {}
        try:
            for kind in kinds:
                self._targets.append(TextFile(self.paths[kind], append=append, grows=grows))
        except BaseException:
            self.abandon()
            raise

    def write(self, kind: int, source: Source, text: str | bytes) -> None:
        """Write texts of a kind, by its index, as UTF-8 if they are bytes; a table's header before them."""
        self._targets[kind].follow(source.coding)
        if source.header and self._headers.get(kind) != source.header:
            held = self._targets[kind].held
            if kind in self._headers or held is None or held.strip() != encoded(source.header).strip():
                self._targets[kind].write(source.header)
            self._headers[kind] = source.header
        if isinstance(text, bytes):
            self._targets[kind].write_utf8(text)
        else:
            self._targets[kind].write(text)

    def complete(self) -> list[PartFile]:
        """Return the files, which are then to be put in place together."""
        return [part for target in self._targets for part in target.complete()]

    def abandon(self) -> None:
        """Drop all files."""
        for target in self._targets:
            target.abandon()


class KindRows(StaysHere):
    """A table of rows for each kind, all of them put in place at the end, or none."""

    def __init__(self, sink: Sink, kinds: Sequence[str]) -> None:
        self._sink = sink
        self._kinds = [NamedRows(sink, kind) for kind in kinds]

    def take(self, source: Source, kind: int, rows: list[Mapping[str, Any]]) -> None:
        """Take rows of a kind, by its index."""
        for each in self._kinds:
            each.expect(columns_of(source))
        for row in rows:
            self._kinds[kind].add(row)

    def complete(self) -> list[PartFile]:
        """Write what is left to write, and return the files, which are then to be put in place together."""
        for each in self._kinds:
            each.finish()
        return self._sink.complete()

    def abandon(self) -> None:
        """Drop all files."""
        self._sink.abandon()


class RouteJob:
    """Sorts each text into its kind, and writes it as it stands to the kind's file.

    A text that spends its budget is counted apart, and written with those of no kind. With `tables` the texts are
    passed on as rows.
    """

    def __init__(
        self, router: Router, files: KindFiles | None, *, with_overlaps: bool, tables: KindRows | None = None
    ) -> None:
        self.tally = RouteTally()
        self._router, self._files, self._with_overlaps = router, files, with_overlaps
        self._tables = tables

    def work(self, source: str, batch: Batch) -> tuple[Mapping[int, Heap], RouteTally]:
        """See `Job.work`."""
        walked = self._walked(source, batch)
        if walked is not None:
            return walked
        kinds = self._router.kinds
        otherwise = len(kinds) - 1
        found = self._router.sort(batch.texts)
        for index in batch.without_text:
            found[index] = otherwise
        tally = RouteTally(read=len(found))
        counts = Counter(found)
        tally.kinds.update({kinds[kind]: count for kind, count in counts.items() if kind is not None})
        if None in counts:
            for index, kind in enumerate(found):
                if kind is None:
                    tally.give_up(source, batch.numbers[index])
        sorted_in = [otherwise if kind is None else kind for kind in found]
        joined: Mapping[int, Heap] = {}
        if self._tables is not None:
            joined = self._as_rows(source, batch, sorted_in)
        elif self._files is not None:
            joined = self._joined(batch, sorted_in)
        tally.fit = tally.kinds.total() - tally.kinds[kinds[otherwise]]
        if self._with_overlaps:
            self._note_overlaps(source, batch, tally)
        return joined, tally

    def _walked(self, source: str, batch: Batch) -> tuple[Mapping[int, Heap], RouteTally] | None:
        """Return the lines of each kind as they stand, where walkers can tell them; None where they cannot."""
        if self._router.walk is None or batch.stored is None or self._with_overlaps:
            return None
        found = self._router.walk.kinds(batch.stored)
        if found is None:
            return None
        kinds = self._router.kinds
        otherwise = len(kinds) - 1
        of_none, *counts = counted(found, otherwise)
        tally = RouteTally(read=batch.stored.count, fit=sum(counts))
        tally.kinds.update({kind: count for kind, count in zip(kinds, (*counts, of_none), strict=True) if count})
        if self._tables is not None:
            sorted_in = [otherwise if each < 0 else each for each in memoryview(found).cast("h")]
            return self._as_rows(source, batch, sorted_in), tally
        if self._files is None:
            return {}, tally
        heaps = gathered(batch.stored, found, [otherwise, *range(otherwise)])
        return {kind: heap for kind, heap in enumerate(heaps) if heap}, tally

    def _as_rows(self, source: str, batch: Batch, found: list[int]) -> dict[int, list[Mapping[str, Any]]]:
        """Return the texts of each kind as rows."""
        heaps: dict[int, list[Mapping[str, Any]]] = {}
        for kind, row in zip(found, rows_at(source, batch, range(len(found))), strict=True):
            heaps.setdefault(kind, []).append(row)
        return heaps

    def _joined(self, batch: Batch, found: list[int]) -> dict[int, str]:
        """Return the texts of each kind as they stand, each with a line end."""
        heaps: list[list[str]] = [[] for _ in self._router.kinds]
        put = [heap.append for heap in heaps]
        if batch.as_they_stand:
            for kind, text in zip(found, batch.texts, strict=True):
                put[kind](text)
            return {kind: "\n".join(heap) + "\n" for kind, heap in enumerate(heaps) if heap}
        for index, kind in enumerate(found):
            raw = batch.raw(index)
            put[kind](raw if raw.endswith("\n") else raw + "\n")
        return {kind: "".join(heap) for kind, heap in enumerate(heaps) if heap}

    def _note_overlaps(self, source: str, batch: Batch, tally: RouteTally) -> None:
        for index, several in enumerate(self._router.overlaps(batch.texts)):
            if len(several) > 1:
                names = tuple(self._router.kinds[kind] for kind in several)
                tally.overlaps[names] += 1
                known = tally.overlapping.setdefault(names, [])
                if len(known) < MOST_OVERLAPS:
                    known.append((source, batch.numbers[index], batch.texts[index]))

    @property
    def is_walked(self) -> bool:
        """See `Job`."""
        return self._router.walk is not None

    @property
    def tells_numbers(self) -> bool:
        """See `Job`."""
        return self._with_overlaps or self._tables is not None

    def take(self, source: Source, made: tuple[Mapping[int, Heap], RouteTally]) -> None:
        """See `Job.take`."""
        texts, found = made
        self.tally.merge(found)
        for kind, text in texts.items():
            if isinstance(text, list):
                assert self._tables is not None
                self._tables.take(source, kind, text)
            else:
                assert self._files is not None
                self._files.write(kind, source, text)

    def close(self, sources: Sequence[Source]) -> None:
        """See `Job.close`."""
