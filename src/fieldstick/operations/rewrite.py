"""Rewrite: a template's text in place of each match of a pattern, in one step or several."""

from __future__ import annotations

from bisect import bisect_left
from typing import TYPE_CHECKING, Any, Literal

import msgspec
from msgspec import Struct, field
from msgspec.structs import replace

from fieldstick.data.cells import texts_by_column
from fieldstick.data.coding import encoded
from fieldstick.data.delimited import with_cell
from fieldstick.data.json_rows import pointer, with_value, with_value_at
from fieldstick.data.passed_on import rows_at
from fieldstick.data.placed import HEAD, replaced
from fieldstick.engines.budget import note_spent
from fieldstick.errors import BudgetSpent, EngineFailure, UsageError, hint
from fieldstick.lean import compiled_later
from fieldstick.matching.expression import ExpressionMatcher
from fieldstick.matching.prepare import prepare
from fieldstick.matching.tally import Tally
from fieldstick.matching.template_fields import template_fields
from fieldstick.matching.walks import row_walk
from fieldstick.suites.sections import Names, OperationTable, SampleTable, Section
from fieldstick.suites.suite import Difference, Operation, Pattern
from fieldstick.suites.templates import MATCH, Template, TemplateError, read_template

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    from fieldstick.data.batch import Batch, StoredTexts
    from fieldstick.data.passed_on import PassedOn
    from fieldstick.data.source import Source
    from fieldstick.data.text_file import TextFile
    from fieldstick.engines.protocol import Span
    from fieldstick.matching.matcher import Matcher
    from fieldstick.matching.row_walks import RowWalk
    from fieldstick.suites.operation_reader import OperationReader
    from fieldstick.suites.places import Path
    from fieldstick.suites.suite import Sample


DEEPEST = 50
MOST_STEPS = 1_000
"""Rewrites that have one another as steps, from the first to the last, and the steps of one, theirs counted in."""


class RewriteSampleTable(SampleTable, frozen=True, kw_only=True):
    """A text and what it becomes; a text that stays as it is becomes itself."""

    becomes: str


class RewriteTable(OperationTable, frozen=True):
    """What is put in place of each match of a pattern, or several rewrites one after the other."""

    pattern: str | None = None
    template: str | None = msgspec.field(default=None, name="with")
    times: Literal["all", "first"] | None = None
    steps: Names | None = None
    samples: list[RewriteSampleTable] = msgspec.field(default_factory=list)


class Rewrite(Operation, frozen=True):
    """Puts a template's text in place of each match, or of the first one; or does several rewrites in order.

    `steps` is empty for a rewrite of its own, which has `pattern` and `template`.
    """

    pattern: Pattern | None = None
    template: Template | None = None
    times: Literal["all", "first"] | None = None
    steps: tuple[Rewrite, ...] = ()

    @property
    def patterns(self) -> tuple[Pattern, ...]:
        """See `Operation.patterns`."""
        own = (self.pattern,) if self.pattern is not None else ()
        return own + tuple(pattern for step in self.steps for pattern in step.patterns)

    @property
    def reason(self) -> tuple[str, str]:
        """See `Operation.reason`."""
        return "becomes-differs", "it becomes another text"

    def made(self, sample: Sample) -> str:
        """See `Operation.made`."""
        return prepare_rewrite(self, sample.values).rewritten(sample.text).after

    def differences(self, expected: Any, made: Any) -> Iterator[Difference]:
        """See `Operation.differences`."""
        if expected != made:
            yield Difference("becomes", None, expected, made)


def read(reader: OperationReader) -> Iterator[Rewrite]:
    """Yield the rewrites of a suite file."""
    rewrites = _Rewrites(reader)
    for name in reader.tables:
        found = rewrites.of(name, ())
        if found is not None:
            yield found


class _Rewrites:
    """The rewrites of a suite, which may have each other as steps."""

    def __init__(self, reader: OperationReader) -> None:
        self._reader = reader
        self._made: dict[str, Rewrite | None] = {}
        self._extents: dict[str, tuple[int, int]] = {}

    def of(self, name: str, trail: tuple[str, ...]) -> Rewrite | None:
        """Return the rewrite of that name; None when it is too wrong to be one."""
        if name not in self._made:
            table: RewriteTable = self._reader.tables[name]
            path: Path = (self._reader.section, name)
            made = self._steps(name, table, path, trail) if table.steps else self._single(name, table, path)
            self._made[name] = made
            if made is not None:
                samples = self._reader.text_samples(made, table.samples, lambda sample: sample.becomes)
                self._made[name] = replace(made, samples=samples)
        return self._made[name]

    def _single(self, name: str, table: RewriteTable, path: Path) -> Rewrite | None:
        problem = self._reader.problem
        if table.pattern is None or table.template is None:
            problem(path, "a rewrite has a pattern and with, its template; or steps, the names of other rewrites")
            return None
        pattern = self._reader.home.member(table.pattern, (*path, "pattern"))
        try:
            template = read_template(table.template)
        except TemplateError as error:
            problem((*path, "with"), str(error))
            return None
        if pattern is None:
            return None
        if pattern.combination in ("all_of", "none_of"):
            problem((*path, "pattern"), f"'{table.pattern}' is {pattern.combination}: it has no match to replace")
            return None
        if table.times is not None and pattern.take not in ("first", "all"):
            problem((*path, "times"), f"the pattern takes {pattern.take}, so times says nothing; leave it out")
        try:
            template.check(self._reader.home.fields_of(pattern))
        except TemplateError as error:
            problem((*path, "with"), str(error))
            return None
        return Rewrite(name, table.about, tuple(table.tags), (), path, pattern, template, table.times)

    def _steps(self, name: str, table: RewriteTable, path: Path, trail: tuple[str, ...]) -> Rewrite | None:
        assert table.steps is not None
        problem, known = self._reader.problem, self._reader.tables
        for key in table.given() & {"pattern", "with", "times"}:
            problem((*path, key), f"'{key}' beside 'steps': the steps have their own")
        steps: list[Rewrite] = []
        for index, each in enumerate(table.steps):
            where: Path = (*path, "steps", index)
            if each not in known:
                problem(where, f"there is no rewrite '{each}'{hint(each, known)}")
            elif each in (*trail, name):
                round_trip = [*trail, name, each]
                circle = " → ".join(round_trip[round_trip.index(each) :])
                problem(where, f"rewrites go round in a circle: {circle}")
            elif len(trail) >= DEEPEST:
                problem(where, f"rewrites are made of one another more than {DEEPEST} deep")
            else:
                step = self.of(each, (*trail, name))
                if step is not None:
                    steps.append(step)
        if len(steps) < len(table.steps):
            return None
        depth = 1 + max(self._extents.get(each, (0, 1))[0] for each in table.steps)
        count = sum(self._extents.get(each, (0, 1))[1] for each in table.steps)
        self._extents[name] = depth, count
        if depth > DEEPEST or count > MOST_STEPS:
            limits = f"more than {DEEPEST} deep, or of more than {MOST_STEPS:,} steps in all"
            problem((*path, "steps"), f"rewrites are made of one another {limits}")
            return None
        return Rewrite(name, table.about, tuple(table.tags), (), path, steps=tuple(steps))


_CR_LF = compiled_later("\r\n")

SECTION = Section("rewrites", RewriteTable, RewriteSampleTable, read)


class Rewritten(Struct, frozen=True):
    """A text rewritten: what it became, and where something was put in place of something else.

    `places` pairs the span before with the span after, as code-point offsets into `before` and `after`. It is
    empty when more than one step changed something: the offsets of one are then not those of another. `steps` are
    those that changed something, each what the one before it made, where there are several.
    """

    before: str
    after: str
    places: tuple[tuple[Span, Span], ...]
    count: int = 0
    """How many matches were replaced, in all steps."""

    steps: tuple[Rewritten, ...] = ()

    @property
    def changed(self) -> bool:
        """Whether it became another text."""
        return self.before != self.after


class Step(Struct, frozen=True):
    """One pattern made ready, and the template of what stands in place of its matches."""

    matcher: Matcher
    template: Template

    def rewritten(self, text: str) -> Rewritten:
        """Rewrite a text; one that the pattern does not fit stays as it is. Raises BudgetSpent."""
        reading = self.matcher.read(text)
        if not reading.fits:
            return Rewritten(text, text, ())
        made: list[str] = []
        places: list[tuple[Span, Span]] = []
        at = length = 0
        for match in reading.matches:
            start, end = match.place
            new = self.template.filled(template_fields(match))
            made += [text[at:start], new]
            length += start - at
            places.append(((start, end), (length, length + len(new))))
            length += len(new)
            at = end
        return Rewritten(text, "".join([*made, text[at:]]), tuple(places), len(places))


class Replacing(Struct, frozen=True):
    """A step as walkers do it: what stands in place of a match, a text by its index or -1 - n for the cell at n."""

    walk: RowWalk
    parts: tuple[int, ...]
    texts: tuple[str, ...]

    def replaced(self, stored: StoredTexts) -> tuple[bytes, int, int] | None:
        """Return the texts rewritten, how many of them changed, and how many matches in those were replaced.

        None where walkers cannot tell.
        """
        if not stored.are_all() or (stored.returns and any("\n" in text for text in self.texts)):
            return None
        walked = self.walk.rows(stored, as_written=False)
        if walked is None:
            return None
        made = replaced(walked.placed, self.parts, [encoded(text) for text in self.texts])
        walked.placed.let_go()
        return made


def replacing(step: Step) -> Replacing | None:
    """Return how walkers do a step; None where they cannot."""
    walk = row_walk(step.matcher)
    if walk is None or not isinstance(step.matcher, ExpressionMatcher):
        return None
    parts: list[int] = []
    texts: list[str] = []
    layout = step.matcher.layout
    for piece in step.template.pieces:
        if isinstance(piece, str):
            parts.append(len(texts))
            texts.append(piece)
        elif piece.name in layout.names and not piece.treatment:
            parts.append(-1 - (HEAD + 2 * (layout.names.index(piece.name) + 1)))
        elif piece.name == MATCH and not piece.treatment:
            parts.append(-1 - HEAD)
        else:
            return None
    return Replacing(walk, tuple(parts), tuple(texts))


class Rewriter(Struct, frozen=True):
    """A rewrite made ready: its steps in order."""

    steps: tuple[Step, ...]

    def rewritten(self, text: str) -> Rewritten:
        """Rewrite a text, each step what the one before it made. Raises BudgetSpent."""
        made = [Rewritten(text, text, ())]
        for step in self.steps:
            made.append(step.rewritten(made[-1].after))
        changing = [each for each in made if each.changed]
        places = changing[0].places if len(changing) == 1 else ()
        return Rewritten(text, made[-1].after, places, sum(each.count for each in made), tuple(changing))

    def may_change(self, texts: Sequence[str]) -> Sequence[bool | None]:
        """Tell in bulk which texts may change; of several steps only doing them tells."""
        return self.steps[0].matcher.fits(texts) if len(self.steps) == 1 else [True] * len(texts)


def prepare_rewrite(rewrite: Rewrite, values: Mapping[str, str] | None = None) -> Rewriter:
    """Make a rewrite ready, the parameters of its patterns standing for `values`.

    Raises ExpressionError, EngineUnusable and UsageError as `prepare` does.
    """
    return Rewriter(tuple(_steps_of(rewrite, values or {})))


def _steps_of(rewrite: Rewrite, values: Mapping[str, str]) -> Iterator[Step]:
    for step in rewrite.steps:
        yield from _steps_of(step, values)
    if not rewrite.steps:
        assert rewrite.pattern is not None and rewrite.template is not None
        yield _step(rewrite.pattern, rewrite.template, rewrite.times, values)


def _step(pattern: Pattern, template: Template, times: str | None, values: Mapping[str, str]) -> Step:
    """Make one pattern ready to be replaced: all its matches, or the first one.

    A pattern that takes its last match, or one by number, has that one replaced.
    """
    if pattern.combination in ("all_of", "none_of"):
        raise UsageError(f"'{pattern.name}' is {pattern.combination}: it has no match to replace")
    known = pattern.own_values(values)
    matcher = prepare(pattern.taking("first" if times == "first" else "all"), known)
    template.check(matcher.field_names)
    return Step(matcher, template)


class RewriteTally(Tally):
    """Counts of a rewrite: `fit` are the texts that became others, `rows` the places that were replaced in them.

    `shown` holds the first texts that changed, with their numbers.
    """

    shown: list[tuple[str, int, Rewritten]] = field(default_factory=list)


class TableForm(Struct, frozen=True):
    """How the rows of a table are written again: the column that is rewritten, or several of which each cell up to
    `longest` code points is, and the form of the rows.
    """

    column: str
    kind: str
    delimiter: str = ","
    quote: str = '"'
    columns: tuple[str, ...] = ()
    longest: int | None = None


class RewriteJob:
    """Rewrites each text; without a target, only tells what would change, the first `show` of it whole.

    What does not change is written as it stands, line ends and marks included; with `rows` all is passed on as rows. A
    text that spends its budget is written as it was and named in the tally.
    """

    def __init__(
        self,
        rewriter: Rewriter,
        target: TextFile | None,
        *,
        table: TableForm | None = None,
        show: int = 0,
        rows: PassedOn | None = None,
    ) -> None:
        self.tally = RewriteTally()
        self._rows = rows
        self._rewriter, self._target, self._table, self._show = rewriter, target, table, show
        several = table is not None and bool(table.columns)
        by_walk = len(rewriter.steps) == 1 and not show and rows is None and not several
        self._replacing = replacing(rewriter.steps[0]) if by_walk else None
        self._header: str | None = None
        self._source: Source | None = None
        self._open_end = False

    def work(self, source: str, batch: Batch) -> tuple[str | bytes | list[Mapping[str, Any]], RewriteTally]:
        """See `Job.work`."""
        stored = batch.stored
        if self._replacing is not None and stored is not None and (self._table is None or stored.cells is None):
            done = self._replacing.replaced(stored)
            if done is not None:
                whole, changed, count = done
                return whole, RewriteTally(read=stored.count, fit=changed, rows=count)
        if self._table is not None and self._table.columns:
            return self._work_on_columns(self._table, source, batch)
        tally = RewriteTally(read=len(batch.texts) - len(batch.without_text))
        fits = self._rewriter.may_change(batch.texts)
        made: list[str] = []
        rows = rows_at(source, batch, range(len(batch.numbers))) if self._rows is not None else []
        for index, (text, number, fit) in enumerate(zip(batch.texts, batch.numbers, fits, strict=True)):
            may_change = fit and index not in batch.without_text
            if fit is None:
                tally.give_up(source, number)
            found = self._rewritten(text, source, number, tally) if may_change else None
            if found is not None and found.changed:
                tally.fit += 1
                tally.rows += found.count
                if len(tally.shown) < self._show:
                    tally.shown.append((source, number, found))
                if self._rows is not None:
                    rows[index] = self._row(rows[index], found.after)
                elif self._target is not None:
                    row = batch.rows[index] if batch.rows is not None else None
                    made.append(self._raw(batch.raw(index), found, row))
            elif self._target is not None:
                made.append(batch.raw(index))
        return rows if self._rows is not None else "".join(made), tally

    def _work_on_columns(
        self, table: TableForm, source: str, batch: Batch
    ) -> tuple[str | list[Mapping[str, Any]], RewriteTally]:
        """Rewrite the cells of several columns, each a text of its own."""
        tally = RewriteTally()
        rows = rows_at(source, batch, range(len(batch.numbers))) if batch.rows is not None else []
        raws = [batch.raw(index) for index in range(len(batch.numbers))] if self._target is not None else []
        for column, texts in zip(table.columns, texts_by_column(batch, table.columns, table.longest), strict=True):
            there = [index for index, text in enumerate(texts) if text is not None]
            tally.read += len(there)
            fits = self._rewriter.may_change([texts[index] or "" for index in there])
            for index, fit in zip(there, fits, strict=True):
                number = batch.numbers[index]
                if fit is None:
                    tally.give_up(source, number)
                found = self._rewritten(texts[index] or "", source, number, tally) if fit else None
                if found is None or not found.changed:
                    continue
                tally.fit += 1
                tally.rows += found.count
                if len(tally.shown) < self._show:
                    tally.shown.append((source, number, found))
                if raws:
                    raws[index] = self._raw(raws[index], found, rows[index], column)
                rows[index] = self._row(rows[index], found.after, column)
        return rows if self._rows is not None else "".join(raws), tally

    def _row(self, row: Mapping[str, Any], after: str, column: str | None = None) -> Mapping[str, Any]:
        """Return a row with what its text, or the one of a column, became."""
        if self._table is None:
            return {**row, "text": after}
        column = column if column is not None else self._table.column
        if not column.startswith("/") or column in row:
            return {**row, column: after}
        changed: Mapping[str, Any] = with_value_at(row, pointer(column), after)
        return changed

    def _rewritten(self, text: str, source: str, number: int, tally: RewriteTally) -> Rewritten | None:
        try:
            return self._rewriter.rewritten(text)
        except (BudgetSpent, EngineFailure):
            note_spent()
            tally.give_up(source, number)
            return None

    def _raw(self, raw: str, found: Rewritten, row: Mapping[str, object] | None, column: str | None = None) -> str:
        if self._table is None or row is None:
            return put_back(raw, found)
        column = column if column is not None else self._table.column
        if self._table.kind == "csv":
            return with_cell(raw, list(row).index(column), found.after, self._table.delimiter, self._table.quote)
        return with_value(raw, pointer(column), found.after)

    @property
    def is_walked(self) -> bool:
        """See `Job`."""
        return self._replacing is not None

    def take(self, source: Source, made: tuple[str | bytes | list[Mapping[str, Any]], RewriteTally]) -> None:
        """See `Job.take`."""
        text, found = made
        self.tally.merge(found)
        self.tally.shown += found.shown[: self._show - len(self.tally.shown)]
        if isinstance(text, list):
            assert self._rows is not None
            # A line that is no JSON has no row; it is named in the notes.
            self._rows.take(source, filter(None, text))
        elif self._target is not None:
            self._target.follow(source.coding)
            if self._header is None:
                self._header = source.header
                self._target.write(source.header)
            elif source.header.rstrip("\r\n") != self._header.rstrip("\r\n"):
                raise UsageError(f"{source.name} has another header than the sources before it; rewrite it alone")
            if self._source is not source and self._open_end:
                self._target.write("\n")
            self._source = source
            if isinstance(text, bytes):
                self._open_end = False
                self._target.write_utf8(text)
                return
            self._open_end = not text.endswith(("\n", "\r")) if text else self._open_end
            self._target.write(text)

    def close(self, sources: Sequence[Source]) -> None:
        """See `Job.close`."""
        if self._target is not None and self._header is None and sources:
            self._target.follow(sources[0].coding)
            self._target.write(sources[0].header)


def put_back(raw: str, found: Rewritten) -> str:
    """Return a text as it stands in its source, rewritten: what lies in no replaced match stays, line ends too.

    What is put in place has the line ends that the text has most of.
    """
    returns = raw.count("\r\n")
    end = "\r\n" if returns * 2 > raw.count("\n") and raw != found.before else "\n"
    for step in found.steps or (found,):
        raw = _with_step(raw, step, end)
    return raw


def _with_step(raw: str, step: Rewritten, end: str) -> str:
    # A record's text has LF where its source has CR LF: how many stand before an offset parts the two.
    feeds = [] if raw.startswith(step.before) else [each.start() - at for at, each in enumerate(_CR_LF.finditer(raw))]
    made: list[str] = []
    at = 0
    for (start, stop), (begins, ends) in step.places:
        made += [raw[at : start + bisect_left(feeds, start)], step.after[begins:ends].replace("\n", end)]
        at = stop + bisect_left(feeds, stop)
    return "".join([*made, raw[at:]])
