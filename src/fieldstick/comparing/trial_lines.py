"""Texts of a trial looked at once more: those at some places of its data, and where a match stops in them."""

from __future__ import annotations

from collections import defaultdict
from typing import TYPE_CHECKING, Any, NamedTuple

from fieldstick.analysis.effort import Effort
from fieldstick.data.json_rows import cell_at
from fieldstick.data.rows import text_of
from fieldstick.data.source import Source
from fieldstick.drafting.diagnosis import stop_of
from fieldstick.drafting.judge import deciding
from fieldstick.drafting.tracer import trace
from fieldstick.errors import FieldstickError
from fieldstick.matching.prepare import prepare
from fieldstick.runs.trial_results import TrialCause, TrialLine, TrialResult
from fieldstick.runs.trials import reading_of
from fieldstick.syntax.parser import parse

if TYPE_CHECKING:
    from collections.abc import Hashable, Iterator, Mapping, Sequence

    from fieldstick.suites.suite import Pattern, Trial

LOOKED_INTO = 300
"""Texts of each sort that are looked into for what they have in common."""

SHOWN = 3
"""Texts of each cause that are shown."""

STEPS = 1_500_000
STEPS_OF_ONE = 20_000
"""Steps for which all texts, and one text, are traced."""


class TrialText(NamedTuple):
    """A text of a trial: its line or row, and for a form the cells of its row."""

    number: int
    text: str
    row: Mapping[str, Any] | None = None

    def of(self, name: str | None) -> str:
        """Return the text that a name speaks of: of a form the cell of that column."""
        if self.row is None or name is None:
            return self.text
        return text_of(cell_at(self.row, name)) or ""


def trial_texts(trial: Trial) -> Iterator[TrialText]:
    """Yield the texts of a trial in order. Raises UsageError."""
    for batch in Source(trial.location, reading_of(trial)).batches():
        rows = batch.rows if trial.by == "form" else None
        for index, number in enumerate(batch.numbers):
            yield TrialText(number, batch.texts[index], rows[index] if rows is not None else None)


def texts_at(trial: Trial, positions: set[int]) -> dict[int, TrialText]:
    """Return the texts at some positions, counted from 0. Raises UsageError."""
    found: dict[int, TrialText] = {}
    last = max(positions, default=-1)
    for at, text in enumerate(trial_texts(trial) if positions else ()):
        if at in positions:
            found[at] = text
        if at >= last:
            break
    return found


class Looking:
    """Looks into texts that do not fit, as long as there are steps left."""

    def __init__(self, used: Sequence[Pattern], values: Mapping[str, str]) -> None:
        self.used, self.values = used, values
        self._effort = Effort(STEPS)

    def into(self, pattern: Pattern | None, number: int, text: str) -> tuple[TrialLine, Hashable]:
        """Return a text as a pattern reads it, and what it has in common with others: where its match stops."""
        bare = TrialLine(number, text)
        if pattern is None:
            return bare, None
        own = pattern.own_values(self.values)
        try:
            now = prepare(pattern, own).read_or_give_up(text)
        except FieldstickError:
            return bare, None
        line = TrialLine(number, text, now)
        if now.fits or (now.unfit is not None and now.unfit.field is not None):
            return line, now.unfit.field if now.unfit is not None else None
        if not self._effort.spend(len(text)):
            return line, None
        leaf = deciding(pattern, text, own).pattern
        if leaf.filling is None or leaf.engine != "python":
            return line, None
        parsed = parse(leaf.filling.text({name: own[name] for name in leaf.parameters}), leaf.flags)
        traced = trace(parsed, text, leaf.reach, steps=STEPS_OF_ONE)
        self._effort.spend(2 * traced.steps)
        stop = stop_of(parsed, text, leaf.reach) if traced.spans is None else None
        if stop is None:
            return line, None
        return TrialLine(number, text, now, None, stop), (leaf.name, stop.expression)

    def furthest(self, number: int, text: str) -> tuple[TrialLine, Hashable, str]:
        """Look into a text that none of the patterns fits, with the one of them that came furthest."""
        looked = [(*self.into(pattern, number, text), pattern.name) for pattern in self.used]
        return max(looked, key=lambda each: _reached(each[0]))


def _reached(line: TrialLine) -> int:
    """Tell how far a match came in a text that does not fit: beyond its end where a field alone keeps it out."""
    if line.stop is not None:
        return line.stop.text
    unfit = line.now.unfit if line.now is not None else None
    return len(line.text) + 1 if unfit is not None and unfit.field is not None else -1


def misses_of(result: TrialResult) -> tuple[TrialCause, ...]:
    """Say where the first texts stop that do not fit, those that stop at one place together, most of them first."""
    trial = result.trial
    positions: dict[str | None, list[int]]
    if trial.by == "form":
        positions = {name: _first(column, 0) for name, column in zip(trial.names, result.columns, strict=True)}
    elif trial.by == "route":
        positions = {None: _first(result.columns[0], len(trial.names) - 1)}
    else:
        missed = bytes(1 not in each for each in zip(*result.columns, strict=True))
        positions = {None: _first(missed, 1)}
    try:
        texts = texts_at(trial, {at for found in positions.values() for at in found})
    except FieldstickError:
        return ()
    looking = Looking(trial.used, trial.values)
    groups: dict[Hashable, list[TrialLine]] = defaultdict(list)
    named: dict[Hashable, str] = {}
    for name, found in positions.items():
        for at in found:
            number, text = texts[at].number, texts[at].of(name)
            if name is None:
                line, place, nearest = looking.furthest(number, text)
            else:
                (line, place), nearest = looking.into(trial.called.get(name), number, text), name
            groups[nearest, place].append(line)
            named[nearest, place] = nearest
    return tuple(
        TrialCause("misses", None, named[key], len(lines), tuple(lines[:SHOWN]))
        for key, lines in sorted(groups.items(), key=lambda item: -len(item[1]))
    )


def _first(column: bytes, code: int) -> list[int]:
    """Return where a byte stands in a column, the first places."""
    found: list[int] = []
    at = column.find(code)
    while at >= 0 and len(found) < LOOKED_INTO:
        found.append(at)
        at = column.find(code, at + 1)
    return found
