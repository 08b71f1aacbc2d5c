"""Trials as a suite keeps them: a data file, what sorts its texts, and the shares and counts that must come of it."""

from __future__ import annotations

import os
from decimal import Decimal
from typing import TYPE_CHECKING, Any, Literal

from msgspec import Struct

from fieldstick.errors import hint
from fieldstick.suites.model import TrialTable
from fieldstick.suites.samples import OutsideTreeError, within_tree
from fieldstick.suites.suite import OVERALL, Bounds, Trial

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping

    from fieldstick.suites.document import Document
    from fieldstick.suites.operation_reader import PatternHome
    from fieldstick.suites.places import Path
    from fieldstick.suites.suite import By, Operation, Pattern


_READING = {
    name: key
    for name, key in zip(TrialTable.__struct_fields__, TrialTable.__struct_encode_fields__, strict=True)
    if key not in ("data", "route", "patterns", "form", "fits_share", "counts", "note", "with", "record_start")
}
"""Words of reading that a trial may have as keys, but for `record_start`, which names a pattern."""


MOST_KINDS = 120
"""Kinds that a trial tells apart: what a text came to is kept as a byte, and kinds that are gone need their own."""


def read_trials(document: Document, home: PatternHome, operations: Mapping[str, Operation]) -> Iterator[Trial]:
    """Yield the trials of a suite file; what is wrong goes to the document's problems."""
    for index, table in enumerate(document.table.trials if document.table is not None else ()):
        found = _Reader(document, home, operations, ("trials", index)).read(table, index + 1)
        if found is not None:
            yield found


class _Reader(Struct):
    document: Document
    home: PatternHome
    operations: Mapping[str, Operation]
    path: Path

    def problem(self, key: str | None, words: str) -> None:
        self.document.problem(self.path if key is None else (*self.path, key), words)

    def read(self, table: TrialTable, number: int) -> Trial | None:
        location = self._location(table.data)
        sorted_by = self._sorted_by(table)
        if location is None or sorted_by is None:
            return None
        by, operation, patterns = sorted_by
        folder = os.path.dirname(self.document.file)
        reading = {key: getattr(table, name) for name, key in _READING.items()}
        start = self._begins_record(table.record_start)
        made = Trial(
            number=number,
            data=table.data,
            file=os.path.normpath(os.path.join(folder, table.data)),
            location=location,
            by=by,
            operation=operation,
            patterns=patterns,
            bounds=(),
            path=self.path,
            reading={key: value for key, value in reading.items() if value is not None},
            begins_record=start,
            values=table.values or {},
            note=table.note,
        )
        self._check_values(made)
        bounds = (*self._bounds("share", table.fits_share, made), *self._bounds("count", table.counts, made))
        return Trial(**{name: getattr(made, name) for name in made.__struct_fields__} | {"bounds": bounds})

    def _location(self, data: str) -> str | None:
        try:
            return within_tree(self.document, data)
        except OutsideTreeError as error:
            self.problem("data", str(error))
            return None

    def _sorted_by(self, table: TrialTable) -> tuple[By, Operation | None, tuple[Pattern, ...]] | None:
        given = [key for key in ("route", "patterns", "form") if getattr(table, key) is not None]
        if len(given) != 1:
            if not any(self.document.is_damaged((*self.path, key)) for key in ("route", "patterns", "form")):
                told = " and ".join(given)
                words = f"the trial has {told}; give one of them" if given else "a trial has route, patterns or form"
                self.problem(None, words)
            return None
        if table.patterns is not None:
            where = (*self.path, "patterns")
            found = [self.home.member(name, (*where, index)) for index, name in enumerate(table.patterns)]
            patterns = tuple(each for each in found if each is not None)
            for name in {each.name for each in patterns if patterns.count(each) > 1}:
                self.problem("patterns", f"'{name}' is there twice")
            return ("patterns", None, patterns) if len(patterns) == len(found) else None
        by: By = "route" if table.route is not None else "form"
        name = table.route or table.form or ""
        operation = self.operations.get(f"{by}s.{name}")
        if operation is None:
            if not self.document.is_damaged((f"{by}s", name)):
                known = [each.own_name for each in self.operations.values() if each.section == f"{by}s"]
                self.problem(by, f"the suite has no {by} '{name}'{hint(name, known)}")
            return None
        if len(operation.kinds) > MOST_KINDS:
            words = f"the {by} '{name}' tells {len(operation.kinds)} kinds apart; a trial at most {MOST_KINDS}"
            self.problem(by, words)
            return None
        return by, operation, ()

    def _begins_record(self, what: str | None) -> Pattern | None:
        """Return the pattern of a line that begins a record: one of the suite, or an expression for its start."""
        if what is None:
            return None
        alias, colon, name = what.rpartition(":")
        where = (*self.path, "record_start")
        table = self.document.table
        known = table is not None and (
            what in table.patterns or (colon and alias in table.borrow and name.isidentifier())
        )
        if known:
            return self.home.member(what, where)
        bare = self.home.bare(what, None, where)
        return None if bare is None else bare.with_reach("start")

    def _check_values(self, made: Trial) -> None:
        parameters = {name for pattern in made.used for name in pattern.parameters}
        for name in made.values:
            if name not in parameters:
                self.document.problem(
                    (*self.path, "with", name), f"there is no parameter '{name}'{hint(name, parameters)}"
                )
        for name in sorted(parameters - made.values.keys()):
            self.problem(None, f"the trial gives no value for '{name}'; add with = {{ {name} = '…' }}")

    def _bounds(self, what: Literal["share", "count"], given: Any, trial: Trial) -> Iterator[Bounds]:
        """Read `fits_share` or `counts`: numbers for all texts, or by name a number, or least and most."""
        key = "fits_share" if what == "share" else "counts"
        if given is None:
            return
        if what == "share" and isinstance(given, int | Decimal) and not isinstance(given, bool):
            given = {"least": given, "most": given}
        if not isinstance(given, dict):
            self.problem(
                key, f"{key} is a table, such as {{ least = {'0.9' if what == 'share' else '5'} }}, or one by name"
            )
            return
        overall = {side: value for side, value in given.items() if side in ("least", "most")}
        named = {name: value for name, value in given.items() if name not in overall}
        asked = [
            *([(OVERALL, overall, (key,))] if overall else []),
            *((name, each, (key, name)) for name, each in named.items()),
        ]
        for name, each, where in asked:
            if name and name not in trial.names:
                self.document.problem(
                    (*self.path, *where), f"nothing of the trial is called '{name}'{hint(name, trial.names)}"
                )
                continue
            limits = each if isinstance(each, dict) else {"least": each, "most": each}
            wrong = [side for side in limits if side not in ("least", "most")]
            if wrong:
                self.document.problem((*self.path, *where), f"unknown key '{wrong[0]}'; a bound has least and most")
                continue
            if not all(self._is_limit(what, value, where) for value in limits.values()):
                continue
            least, most = (None if limits.get(side) is None else Decimal(limits[side]) for side in ("least", "most"))
            if least is not None and most is not None and least > most:
                self.document.problem((*self.path, *where), f"least {least} is more than most {most}")
                continue
            yield Bounds(what, name, least, most, (*self.path, *where))

    def _is_limit(self, what: str, value: Any, where: tuple[str, ...]) -> bool:
        number = isinstance(value, int | Decimal) and not isinstance(value, bool)
        if what == "share" and not (number and 0 <= value <= 1):
            self.document.problem((*self.path, *where), f"a share is a number from 0 to 1, not {_written(value)}")
            return False
        if what == "count" and not (isinstance(value, int) and number and value >= 0):
            self.document.problem((*self.path, *where), f"a count is a whole number, not {_written(value)}")
            return False
        return True


def _written(value: Any) -> str:
    return f"'{value}'" if isinstance(value, str) else str(value).lower() if isinstance(value, bool) else str(value)
