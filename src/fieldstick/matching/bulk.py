"""Reads many texts with one expression: the same as `Matcher.read` one by one, by shorter roads.

Texts go through in chunks that share one budget; when a chunk spends it, or has a text too long to be stopped in,
walkers read it in time linear in its length, and where they cannot, each of its texts is read on its own.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.engines.budget import run_within, timer_usable
from fieldstick.engines.python import TIMER_TEXT_LIMIT, PythonCompiled
from fieldstick.errors import BudgetSpent
from fieldstick.matching.result import FIELD_INVALID, NO_MATCH, OUT_OF_BUDGET, Unfit
from fieldstick.suites.fieldtypes import Unconverted

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from fieldstick.engines.protocol import Compiled, Spans
    from fieldstick.matching.matcher import Matcher, Row, Rows
    from fieldstick.matching.result import Layout
    from fieldstick.matching.row_walks import RowWalk
    from fieldstick.suites.fieldtypes import FieldSpec

CHUNK = 1000
"""Texts that share one budget."""

MOST_REMEMBERED = 50_000
"""Converted texts of one field that are remembered, so that a value met again costs a look."""

WORTH_A_LITERAL = 2000
"""Texts from which on it repays to find out what every fitting text holds."""

_UNKNOWN = object()


class BulkRoads:
    """The shorter roads of one expression; what one cannot do is done by the matcher, text by text."""

    def __init__(self, matcher: Matcher, compiled: Compiled, layout: Layout) -> None:
        self._matcher, self._pattern = matcher, matcher.pattern
        self._whole = not matcher.field_names
        self._compiled = compiled if isinstance(compiled, PythonCompiled) else None
        self._convert = _converters(layout)
        self._layout = layout
        self._walk: Any = _UNKNOWN
        self.engine_alone = False
        """Whether texts that spend their budget are given up, though walkers could read them."""

        self._row_roads: dict[bool, Callable[[Sequence[str]], list[Rows]] | None] = {}
        self._asked = 0
        self._required: Any = _UNKNOWN
        self._fitting = self._fitting_road()

    def fits(self, texts: Sequence[str]) -> list[bool | None]:
        """Tell of each text whether the pattern fits; None where that was given up."""
        if self._fitting is not None and self._required is _UNKNOWN:
            self._asked += len(texts)
            if self._asked > WORTH_A_LITERAL:
                self._required = self._required_literal()
                self._fitting = self._fitting_road()
        return self._through(texts, self._fitting, self._fits_one, self._fits_at)

    def rows(self, texts: Sequence[str], *, with_place: bool) -> list[Rows]:
        """Return the rows of each text, or why it has none."""
        if with_place not in self._row_roads:
            self._row_roads[with_place] = self._row_road(with_place)

        def single(text: str) -> Rows:
            return self._matcher.rows_of(self._matcher.read_or_give_up(text), with_place=with_place)

        def walked(text: str, spans: Spans) -> Rows:
            return self._row_at(text, spans, with_place=with_place)

        return self._through(texts, self._row_roads[with_place], single, walked)

    def _required_literal(self) -> str | None:
        from fieldstick.analysis.literals import required_literal_of

        assert self._compiled is not None
        return required_literal_of(self._compiled.expression, self._pattern.flags)

    def _fits_at(self, text: str, spans: Spans) -> bool:
        """Tell whether a text fits whose first match lies there."""
        return not isinstance(self._row_at(text, spans, with_place=False), Unfit)

    def _row_at(self, text: str, spans: Spans, *, with_place: bool) -> Rows:
        """Return the row of a text whose first match lies there, or why it has none."""
        chosen = spans[:1] if self._whole else spans[1:]
        row: Row = [text[start:end] if end >= 0 else None for start, end in chosen]
        unfit = self._convert(row) if self._convert is not None else None
        if unfit is not None:
            return unfit
        return [[*spans[0], *row]] if with_place else [row]

    def _linear(
        self, texts: Sequence[str], single: Callable[[str], Any], walked: Callable[[str, Spans], Any]
    ) -> list[Any]:
        """Read texts that the engine may not read in time, by a walk, which takes time for their length alone."""
        if self._walk is _UNKNOWN:
            self._walk = self._made_walk()
        spans = self._walk.spans(texts) if self._walk is not None else None
        if spans is None:
            return [single(text) for text in texts]
        missed: Any = False if walked == self._fits_at else NO_MATCH
        return [missed if each is None else walked(text, each) for text, each in zip(texts, spans, strict=True)]

    def _made_walk(self) -> RowWalk | None:
        from fieldstick.kernels.walkers import NATIVE

        if NATIVE is None or self._compiled is None or self.engine_alone:
            return None
        from fieldstick.analysis.automaton.asked import Reading
        from fieldstick.matching.row_walks import RowWalk

        pattern = self._pattern
        return RowWalk(Reading(self._compiled.expression, pattern.reach, pattern.flags), self._layout, "first")

    def _through(
        self,
        texts: Sequence[str],
        quick: Callable[[Sequence[str]], list[Any]] | None,
        single: Callable[[str], Any],
        walked: Callable[[str, Spans], Any],
    ) -> list[Any]:
        if quick is None or not timer_usable():
            return [single(text) for text in texts]
        budget_ms = self._pattern.budget_ms
        found: list[Any] = []
        for start in range(0, len(texts), CHUNK):
            chunk = texts[start : start + CHUNK]
            if len(max(chunk, key=len)) > TIMER_TEXT_LIMIT:
                found += self._linear(chunk, single, walked)
                continue
            try:
                found += run_within(budget_ms, quick, chunk)
            except (BudgetSpent, SystemError, RuntimeError, MemoryError):
                found += self._linear(chunk, single, walked)
        return found

    def _fits_one(self, text: str) -> bool | None:
        unfit = self._matcher.read_or_give_up(text).unfit
        return None if unfit is OUT_OF_BUDGET else unfit is None

    def _row_road(self, with_place: bool) -> Callable[[Sequence[str]], list[Rows]] | None:
        """Return the road for a pattern that takes its first match; None for any other."""
        if self._compiled is None or self._pattern.take != "first":
            return None
        method = self._compiled.first_match(self._pattern.reach)
        convert, whole = self._convert, self._whole

        def plain(texts: Sequence[str]) -> list[Rows]:
            return [NO_MATCH if found is None else [[*found.groups()]] for found in map(method, texts)]

        def full(texts: Sequence[str]) -> list[Rows]:
            rows: list[Rows] = []
            for found in map(method, texts):
                if found is None:
                    rows.append(NO_MATCH)
                    continue
                row: Row = [found[0]] if whole else [*found.groups()]
                unfit = convert(row) if convert is not None else None
                if unfit is not None:
                    rows.append(unfit)
                else:
                    rows.append([[found.start(), found.end(), *row]] if with_place else [row])
            return rows

        return full if convert is not None or whole or with_place else plain

    def _fitting_road(self) -> Callable[[Sequence[str]], list[bool]] | None:
        convert, take = self._convert, self._pattern.take
        if self._compiled is None or take not in ("first", "last", "all") or (convert and take != "first"):
            return None
        method = self._compiled.first_match(self._pattern.reach)
        required = self._required
        if isinstance(required, str):
            if convert is None:
                return lambda texts: [required in text and method(text) is not None for text in texts]
            return lambda texts: [
                required in text and (found := method(text)) is not None and convert([*found.groups()]) is None
                for text in texts
            ]
        if convert is None:
            return lambda texts: [found is not None for found in map(method, texts)]
        return lambda texts: [found is not None and convert([*found.groups()]) is None for found in map(method, texts)]


def _converters(layout: Layout) -> Callable[[Row], Unfit | None] | None:
    """Return what converts a row in place and says why one does not convert; None where no field has a type."""
    typed = [(index, layout.names[index], *_remembering(layout.specs[index])) for index in layout.typed]
    if not typed:
        return None

    def convert(row: Row) -> Unfit | None:
        for index, name, remembered, value in typed:
            text = row[index]
            if text is not None:
                try:
                    row[index] = remembered[text] if text in remembered else value(text)
                except Unconverted as why:
                    return Unfit(FIELD_INVALID, f"the field '{name}' {why}", name)
        return None

    return convert


def _remembering(spec: FieldSpec | None) -> tuple[dict[str, Any], Callable[[str], Any]]:
    assert spec is not None
    remembered: dict[str, Any] = {}

    def value(text: str) -> Any:
        if len(remembered) >= MOST_REMEMBERED:
            remembered.clear()
        found = remembered[text] = spec.value(text)
        return found

    return remembered, value
