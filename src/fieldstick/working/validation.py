"""Validates rows: the accepted ones and the rejected ones, each reject with its reason."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

from msgspec import Struct, field

from fieldstick.data.jsonvalues import MISSING, pointer, text_of, value_at
from fieldstick.matching.forms import GAVE_UP
from fieldstick.matching.tally import Tally
from fieldstick.runs.executor import done

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping, Sequence
    from typing import Any

    from fieldstick.data.batch import Texts
    from fieldstick.data.sink import TableSink
    from fieldstick.data.source import Source
    from fieldstick.matching.forms import ReadyForm, Reject

VALUE = "value"
"""What the only column is called when lines are validated, not rows."""

MOST_SHOWN = 200


class ValidationTally(Tally):
    """Counts of a validation: `fit` are the accepted rows; `rejects` counts cells by column and reason.

    `shown` holds the first rejects with source and row.
    """

    rejects: Counter[tuple[str, str]] = field(default_factory=Counter)
    shown: list[tuple[str, int, Reject]] = field(default_factory=list)

    @property
    def rejected(self) -> int:
        """The rows that were rejected."""
        return self.read - self.fit

    def merge(self, other: Tally) -> None:
        """Add the counts of rows further on."""
        Tally.merge(self, other)
        if isinstance(other, ValidationTally):
            self.rejects += other.rejects
            self.shown += other.shown[: MOST_SHOWN - len(self.shown)]


def validate(
    form: ReadyForm,
    sources: Sequence[Source],
    *,
    accepted: Callable[[Source, str, list[Mapping[str, Any]]], None] | None = None,
    rejects: TableSink | None = None,
    jobs: int = 1,
    progress: Callable[[int], None] | None = None,
) -> ValidationTally:
    """Judge each row; hand accepted rows on as they stand and as cells, and write a row for each rejected cell.

    Raises UsageError when a source cannot be read or has no such column, or something cannot be written.
    """
    tally = ValidationTally()
    work = Validate(form, accepted is not None)
    for source, (raw, rows, found, told) in done(work, sources, jobs=jobs, progress=progress):
        tally.merge(found)
        if accepted is not None:
            accepted(source, raw, rows)
        if rejects is not None:
            rejects.write(rejects.encode(told))
    return tally


class Validate(Struct, frozen=True):
    """The work on a block: its accepted rows, the tally, and a row for each rejected cell."""

    form: ReadyForm
    keep: bool

    def __call__(
        self, source: str, texts: Texts
    ) -> tuple[str, list[Mapping[str, Any]], ValidationTally, list[list[Any]]]:
        """See `Work`."""
        rows = (
            [self._cells(row) for row in texts.rows]
            if texts.rows is not None
            else [{VALUE: text} for text in texts.texts]
        )
        judged = self.form.judge(rows)
        tally = ValidationTally(read=len(rows))
        told: list[list[Any]] = []
        raws: list[str] = []
        kept: list[Mapping[str, Any]] = []
        for index, rejects in enumerate(judged):
            number = texts.numbers[index]
            if not rejects:
                tally.fit += 1
                if self.keep:
                    raw = texts.raw(index)
                    raws.append(raw if raw.endswith("\n") else raw + "\n")
                    kept.append(texts.rows[index] if texts.rows is not None else rows[index])
            for each in rejects:
                tally.rejects[each.column, each.reason] += 1
                if each.reason == GAVE_UP:
                    tally.give_up(source, number)
                if len(tally.shown) < MOST_SHOWN:
                    tally.shown.append((source, number, each))
                told.append([source, number, each.column, each.value, each.reason, each.words, each.message])
        return "".join(raws), kept, tally, told

    def _cells(self, row: Mapping[str, Any]) -> dict[str, str | None]:
        """Return the cells of the form's columns as texts; a column that begins with a slash is a JSON Pointer."""
        found: dict[str, str | None] = {}
        for column in self.form.columns:
            value = row.get(column, MISSING)
            if value is MISSING and column.startswith("/"):
                value = value_at(row, pointer(column))
            found[column] = text_of(value)
        return found
