"""Rewrites the texts of sources: previewed, or written with everything around them as it was."""

from __future__ import annotations

import csv
import io
from typing import TYPE_CHECKING

from msgspec import Struct, field

from fieldstick.data.jsonvalues import parsed, pointer
from fieldstick.data.rowtext import json_cell
from fieldstick.errors import BudgetSpent, EngineFailure
from fieldstick.matching.bulk import BulkReader
from fieldstick.matching.tally import Tally
from fieldstick.runs.executor import done

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping, Sequence

    from fieldstick.data.batch import Texts
    from fieldstick.data.source import Source
    from fieldstick.data.text_file import Target
    from fieldstick.matching.rewriting import ReadyRewrite, Rewritten

MARK = "\N{ZERO WIDTH NO-BREAK SPACE}"


class RewriteTally(Tally):
    """Counts of a rewrite: `fit` are the texts that became others, `rows` the places that were replaced in them.

    `shown` holds the first texts that changed, with their numbers.
    """

    shown: list[tuple[str, int, Rewritten]] = field(default_factory=list)


class Table(Struct, frozen=True):
    """How the rows of a table are written again: the column that is rewritten, and the form of the rows."""

    column: str
    kind: str
    delimiter: str = ","
    quote: str = '"'


def rewrite(
    ready: ReadyRewrite,
    sources: Sequence[Source],
    target: Target | None,
    *,
    table: Table | None = None,
    show: int = 0,
    jobs: int = 1,
    progress: Callable[[int], None] | None = None,
) -> RewriteTally:
    """Rewrite each text; without a target, only tell what would change, the first `show` of it whole.

    What does not change is written as it stands, line ends and marks included. A text that spends its budget is
    written as it was and named in the tally. Raises UsageError when a source cannot be read, or the target not
    written.
    """
    tally = RewriteTally()
    work = RewriteWork(ready, _quick_reader(ready), table, target is not None, show)
    header_of: Source | None = None
    for source, (text, found) in done(work, sources, jobs=jobs, progress=progress):
        tally.merge(found)
        tally.shown += found.shown[: show - len(tally.shown)]
        if target is not None:
            if source is not header_of and header_of is None:
                target.write(source.header)
            header_of = source
            target.write(text)
    if target is not None and header_of is None:
        target.write("".join(source.header for source in sources[:1]))
    return tally


def _quick_reader(ready: ReadyRewrite) -> BulkReader | None:
    """Return what tells in bulk which texts may change; None for several steps, where only doing them tells."""
    return BulkReader(ready.steps[0].ready) if len(ready.steps) == 1 else None


class RewriteWork(Struct, frozen=True):
    """The work on a block: its texts rewritten, and the tally."""

    ready: ReadyRewrite
    quick: BulkReader | None
    table: Table | None
    write: bool
    show: int

    def __call__(self, source: str, texts: Texts) -> tuple[str, RewriteTally]:
        """See `Work`."""
        tally = RewriteTally(read=len(texts.texts) - len(texts.without_text))
        fits: Sequence[bool | None] = self.quick.fits(texts.texts) if self.quick else [True] * len(texts.texts)
        made: list[str] = []
        for index, (text, number, fit) in enumerate(zip(texts.texts, texts.numbers, fits, strict=True)):
            may_change = fit is not False and index not in texts.without_text
            found = self._rewritten(text, source, number, tally) if may_change else None
            if found is not None and found.changed:
                tally.fit += 1
                tally.rows += found.count
                if len(tally.shown) < self.show:
                    tally.shown.append((source, number, found))
                if self.write:
                    row = texts.rows[index] if texts.rows is not None else None
                    made.append(self._raw(texts.raw(index), found, row))
            elif self.write:
                made.append(texts.raw(index))
        return "".join(made), tally

    def _rewritten(self, text: str, source: str, number: int, tally: RewriteTally) -> Rewritten | None:
        try:
            return self.ready.rewritten(text)
        except (BudgetSpent, EngineFailure):
            tally.give_up(source, number)
            return None

    def _raw(self, raw: str, found: Rewritten, row: Mapping[str, object] | None) -> str:
        if self.table is None or row is None:
            return put_back(raw, found.before, found.after)
        if self.table.kind == "csv":
            return _csv_row(raw, {**row, self.table.column: found.after}, self.table)
        return _json_row(raw, self.table.column, found.after)


def put_back(raw: str, before: str, after: str) -> str:
    """Return a text as it stands in its source, with another in its place; mark and line ends stay."""
    lead = MARK if raw.startswith(MARK) and not before.startswith(MARK) else ""
    rest = raw[len(lead) :]
    if rest.startswith(before):
        return lead + after + rest[len(before) :]
    # A record of several lines, whose CR LF were read as LF.
    end = rest[len(rest.rstrip("\r\n")) :]
    return lead + after.replace("\n", "\r\n") + end


def _csv_row(raw: str, cells: Mapping[str, object], table: Table) -> str:
    sink = io.StringIO(newline="")
    end = raw[len(raw.rstrip("\r\n")) :]
    csv.writer(sink, delimiter=table.delimiter, quotechar=table.quote, lineterminator="\r\n").writerow(cells.values())
    return sink.getvalue()[:-2] + end


def _json_row(raw: str, column: str, text: str) -> str:
    value = parsed(raw.removeprefix(MARK))
    keys = pointer(column)
    lead = MARK if raw.startswith(MARK) else ""
    end = raw[len(raw.rstrip("\r\n")) :]
    if not keys:
        return lead + json_cell(text) + end
    holder = value
    for key in keys[:-1]:
        holder = holder[int(key)] if isinstance(holder, list) else holder[key]
    if isinstance(holder, list):
        holder[int(keys[-1])] = text
    else:
        holder[keys[-1]] = text
    return lead + json_cell(value) + end
