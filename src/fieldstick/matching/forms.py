"""Forms made ready: each cell of a record read with the pattern of its column."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.errors import BudgetSpent, EngineFailure
from fieldstick.matching.bulk import BulkReader
from fieldstick.matching.matcher import Matcher, prepare

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from fieldstick.suites.uses import Form

BLANK = "blank"
GAVE_UP = "gave-up"


class Reject(Struct, frozen=True):
    """Why a cell is rejected.

    `reason` is `blank`, `did-not-match`, `field-invalid` or `gave-up`; `words` say it as a clause; `message` is what
    whoever entered it should be told.
    """

    column: str
    value: str
    reason: str
    words: str
    message: str | None = None


class ReadyForm:
    """A form made ready: judges rows, given as texts by column, None for no value."""

    def __init__(self, form: Form) -> None:
        self.columns = tuple(column for column, _ in form.columns)
        self._ready: tuple[Matcher, ...] = tuple(prepare(pattern) for _, pattern in form.columns)
        self._readers = tuple(BulkReader(each) for each in self._ready)
        self._required = frozenset(form.required)
        self._blank = frozenset(form.blank)

    def judge(self, rows: Sequence[Mapping[str, str | None]]) -> list[list[Reject]]:
        """Return the rejects of each row, in the order of the columns; none for a row that is accepted."""
        found: list[list[Reject]] = [[] for _ in rows]
        for column, ready, reader in zip(self.columns, self._ready, self._readers, strict=True):
            cells = [row.get(column) for row in rows]
            entered = [index for index, cell in enumerate(cells) if not self._is_blank(cell)]
            if column in self._required:
                for index in set(range(len(rows))).difference(entered):
                    found[index].append(self._missing(column, cells[index], ready))
            fits = reader.fits([cells[index] or "" for index in entered])
            for index, each in zip(entered, fits, strict=True):
                if not each:
                    found[index].append(self._reject(column, cells[index] or "", ready))
        return found

    def _is_blank(self, cell: str | None) -> bool:
        return cell is None or not cell.strip() or cell in self._blank

    @staticmethod
    def _missing(column: str, cell: str | None, ready: Matcher) -> Reject:
        return Reject(column, cell or "", BLANK, "nothing is entered, and something must be", ready.pattern.message)

    @staticmethod
    def _reject(column: str, cell: str, ready: Matcher) -> Reject:
        try:
            reading = ready.read(cell)
        except (BudgetSpent, EngineFailure):
            return Reject(column, cell, GAVE_UP, "reading it took longer than the budget", ready.pattern.message)
        unfit = reading.unfit
        if unfit is None:
            # The bulk road spent its budget on it, and this one did not: it fits after all.
            return Reject(column, cell, GAVE_UP, "reading it took about as long as the budget", ready.pattern.message)
        return Reject(column, cell, unfit.reason, unfit.words, reading.message or ready.pattern.message)
