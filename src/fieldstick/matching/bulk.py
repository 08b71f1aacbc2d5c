"""Reads many texts with one pattern: the same as `ReadyPattern.read` one by one, by a shorter road.

Texts go through in chunks that share one budget; when a chunk spends it, each of its texts is read on its own.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fieldstick.engines.budget import run_within, timer_usable
from fieldstick.engines.python import TIMER_TEXT_LIMIT, PythonCompiled
from fieldstick.errors import BudgetSpent, EngineFailure
from fieldstick.matching.matcher import CombinationMatcher, ExpressionMatcher, Matcher
from fieldstick.suites.fieldtypes import Unconverted

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.matching.result import Match, Result
    from fieldstick.suites.fieldtypes import FieldSpec

CHUNK = 1000
"""Texts that share one budget."""

WORTH_ANALYSIS = 100_000
"""Code points of lines from which on it repays to find out what lets an expression be read faster."""

MOST_REMEMBERED = 50_000
"""Converted texts of one field that are remembered, so that a value met again costs a look."""

WORTH_A_LITERAL = 2000
"""Texts from which on it repays to find out what every fitting text holds."""

_UNKNOWN = object()

GAVE_UP = "gave-up"
DID_NOT_MATCH = "did-not-match"


class Miss(Struct, frozen=True):
    """Why a text gave no row: `did-not-match`, `field-invalid` with the field and the words, or `gave-up`."""

    reason: str
    field: str | None = None
    words: str | None = None


NO_MATCH = Miss(DID_NOT_MATCH)
OUT_OF_BUDGET = Miss(GAVE_UP, words="reading it took longer than the budget")

Row = list[Any]
"""The values of a match's fields in order, None for absent; with its place asked for, start and end before them."""

Lines = Callable[[], list[str]]
BlockRoad = Callable[[str, Lines, str | None], tuple[list[Any], list["Miss"]] | None]
"""A block, what cuts it into lines, and what stands for absent → its rows and misses, None for another road."""

Captured = list[Row] | Miss
"""The rows of a text, one for each taken match, or why there are none."""


class BulkReader:
    """Reads lists of texts with a pattern made ready.

    `names` are the fields, in the order of the values of a row; a pattern without groups has the one field
    `match`, the text that it matched.
    """

    def __init__(self, ready: Matcher, *, with_place: bool = False) -> None:
        self.ready = ready
        self.with_place = with_place
        self.names = ready.field_names or ("match",)
        self._whole = not ready.field_names
        self._asked = 0
        self._required: Any = _UNKNOWN
        self._quick = self._quick_road()
        self._fitting = self._fitting_road()
        self._convert = _converters(ready) if isinstance(ready, ExpressionMatcher) else None
        self._block_road: BlockRoad | None = None
        self._seen = 0
        self._members: tuple[BulkReader, ...] = ()
        if isinstance(ready, CombinationMatcher):
            self._members = tuple(BulkReader(each, with_place=with_place) for each in ready.members)

    def types(self) -> dict[str, str]:
        """Return the type of each field's values; `mixed` where members of a combination differ."""
        if isinstance(self.ready, ExpressionMatcher):
            layout = self.ready.layout
            own = {name: spec.type if spec else "text" for name, spec in zip(layout.names, layout.specs, strict=True)}
            return own or {"match": "text"}
        found: dict[str, str] = {}
        for member in self._members:
            for name, kind in member.types().items():
                found[name] = kind if found.get(name, kind) == kind else "mixed"
        return {name: found.get(name, "text") for name in self.names}

    def captured(self, texts: Sequence[str]) -> list[Captured]:
        """Return what each text gave."""
        if self._members and self.ready.pattern.combination == "any_of":
            return self._any_captured(texts)
        return self._through(texts, self._quick, self._captured_of)

    def block_rows(self, block: str, cut: Lines, *, blank_absent: bool) -> tuple[list[Any], list[Miss]] | None:
        """Return the rows of the lines of a block that fit, and why those do not whose fields are invalid.

        Each line of the block ends with a line feed; `cut` gives its lines.

        None when the lines must be read one by one. With `blank_absent` an absent field comes as an empty text.
        """
        if self._block_road is None:
            self._seen += len(block)
            if self._seen < WORTH_ANALYSIS or self._quick is None or self.with_place:
                return None
            self._block_road = self._made_block_road()
        try:
            return self._block_road(block, cut, "" if blank_absent else None)
        except (BudgetSpent, SystemError, RuntimeError, MemoryError):
            return None

    def _made_block_road(self) -> BlockRoad:
        from fieldstick.analysis.literals import SEPARATORS, LineReader, has_long_line

        ready = self.ready
        assert isinstance(ready, ExpressionMatcher) and isinstance(ready.compiled, PythonCompiled)
        reach, budget_ms = ready.pattern.reach, ready.pattern.budget_ms
        line_reader = LineReader(ready.compiled.expression, ready.pattern.flags)
        plain = ready.compiled.first_match(reach)
        quick = line_reader.ascii_variant.first_match(reach) if line_reader.ascii_variant is not None else plain
        convert, whole = self._convert, self._whole

        def found(block: str, cut: Lines, absent: str | None) -> tuple[list[Any], list[Miss]]:
            lines = line_reader.lines(block, cut)
            matches = list(map(plain if any(each in block for each in SEPARATORS) else quick, lines))
            if quick is not plain and not block.isascii():
                for index, is_ascii in enumerate(map(str.isascii, lines)):
                    if not is_ascii:
                        matches[index] = plain(lines[index])
            if whole:
                return [(match[0],) for match in matches if match is not None], []
            if convert is None:
                return [match.groups(absent) for match in matches if match is not None], []
            return _converted([match.groups() for match in matches if match is not None], convert)

        def road(block: str, cut: Lines, absent: str | None) -> tuple[list[Any], list[Miss]] | None:
            if not timer_usable() or has_long_line(block):
                return None
            return run_within(budget_ms, found, block, cut, absent)

        return road

    def fits(self, texts: Sequence[str]) -> list[bool | None]:
        """Tell of each text whether the pattern fits; None where that was given up."""
        if self._members:
            return self._members_fit(texts)
        if self._fitting is not None and self._required is _UNKNOWN:
            self._asked += len(texts)
            if self._asked > WORTH_A_LITERAL:
                self._required = self._found_literal()
                self._fitting = self._fitting_road()
        return self._through(texts, self._fitting, self._fits_one)

    def _found_literal(self) -> str | None:
        from fieldstick.analysis.literals import LineReader

        ready = self.ready
        assert isinstance(ready, ExpressionMatcher) and isinstance(ready.compiled, PythonCompiled)
        return LineReader(ready.compiled.expression, ready.pattern.flags).required_literal

    def _through(
        self, texts: Sequence[str], quick: Callable[[Sequence[str]], list[Any]] | None, single: Callable[[str], Any]
    ) -> list[Any]:
        if quick is None or not timer_usable():
            return [single(text) for text in texts]
        budget_ms = self.ready.pattern.budget_ms
        found: list[Any] = []
        for start in range(0, len(texts), CHUNK):
            chunk = texts[start : start + CHUNK]
            if len(max(chunk, key=len)) > TIMER_TEXT_LIMIT:
                found += [single(text) for text in chunk]
                continue
            try:
                found += run_within(budget_ms, quick, chunk)
            except (BudgetSpent, SystemError, RuntimeError, MemoryError):
                found += [single(text) for text in chunk]
        return found

    def _fits_one(self, text: str) -> bool | None:
        try:
            return self.ready.read(text).fits
        except (BudgetSpent, EngineFailure):
            return None

    def _captured_of(self, text: str) -> Captured:
        try:
            reading = self.ready.read(text)
        except (BudgetSpent, EngineFailure):
            return OUT_OF_BUDGET
        if reading.unfit is not None:
            unfit = reading.unfit
            return NO_MATCH if unfit.reason == DID_NOT_MATCH else Miss(unfit.reason, unfit.field, unfit.words)
        return self.rows_of(reading)

    def rows_of(self, reading: Result) -> list[Row]:
        """Return the rows of a reading that fits."""
        if not reading.matches:
            return [[0, 0, *self._absent()] if self.with_place else self._absent()]
        return [self._row(match, reading.also) for match in reading.matches]

    def _absent(self) -> Row:
        return [None] * len(self.names)

    def _row(self, match: Match, also: tuple[Match, ...]) -> Row:
        if self._whole:
            values: Row = [match.text]
        else:
            fields = dict(match.fields)
            for other in also:
                for name, value in other.fields.items():
                    fields.setdefault(name, value)
            values = [(found.value if (found := fields.get(name)) else None) for name in self.names]
        return [*match.place, *values] if self.with_place else values

    def _quick_road(self) -> Callable[[Sequence[str]], list[Captured]] | None:
        """Return the road for a pattern with one expression that takes its first match; None for any other."""
        ready = self.ready
        if not isinstance(ready, ExpressionMatcher) or not isinstance(ready.compiled, PythonCompiled):
            return None
        if ready.pattern.take != "first":
            return None
        method = ready.compiled.first_match(ready.pattern.reach)
        convert = _converters(ready)
        whole, with_place = self._whole, self.with_place

        def plain(texts: Sequence[str]) -> list[Captured]:
            return [NO_MATCH if found is None else [[*found.groups()]] for found in map(method, texts)]

        def full(texts: Sequence[str]) -> list[Captured]:
            rows: list[Captured] = []
            for found in map(method, texts):
                if found is None:
                    rows.append(NO_MATCH)
                    continue
                row: Row = [found[0]] if whole else [*found.groups()]
                miss = convert(row) if convert is not None else None
                if miss is not None:
                    rows.append(miss)
                else:
                    rows.append([[found.start(), found.end(), *row]] if with_place else [row])
            return rows

        return full if convert is not None or whole or with_place else plain

    def _fitting_road(self) -> Callable[[Sequence[str]], list[bool]] | None:
        ready = self.ready
        if not isinstance(ready, ExpressionMatcher) or not isinstance(ready.compiled, PythonCompiled):
            return None
        convert = _converters(ready)
        if ready.pattern.take not in ("first", "last", "all") or (convert and ready.pattern.take != "first"):
            return None
        method = ready.compiled.first_match(ready.pattern.reach)
        required_literal = self._required
        if isinstance(required_literal, str):
            if convert is None:
                return lambda texts: [required_literal in text and method(text) is not None for text in texts]
            return lambda texts: [
                required_literal in text and (found := method(text)) is not None and convert([*found.groups()]) is None
                for text in texts
            ]
        if convert is None:
            return lambda texts: [found is not None for found in map(method, texts)]
        return lambda texts: [found is not None and convert([*found.groups()]) is None for found in map(method, texts)]

    def _any_captured(self, texts: Sequence[str]) -> list[Captured]:
        """Give each text to the members in turn, until one fits."""
        found: list[Captured] = [NO_MATCH] * len(texts)
        left: list[int] = list(range(len(texts)))
        for member in self._members:
            places = [self.names.index(name) for name in member.names] if not member._whole else []
            gave = member.captured([texts[index] for index in left])
            still = []
            for index, each in zip(left, gave, strict=True):
                if isinstance(each, Miss):
                    if each.reason == GAVE_UP:
                        found[index] = each
                    else:
                        still.append(index)
                else:
                    found[index] = [self._widened(row, places, member) for row in each]
            left = still
        return found

    def _widened(self, row: Row, places: list[int], member: BulkReader) -> Row:
        head = 2 if self.with_place else 0
        wide = [*row[:head], *self._absent()]
        if member._whole and self._whole:
            wide[head] = row[head]
        for place, value in zip(places, row[head:], strict=False):
            wide[head + place] = value
        return wide

    def _members_fit(self, texts: Sequence[str]) -> list[bool | None]:
        """Combine what the members say, each asked only of the texts that are not decided yet."""
        combination = self.ready.pattern.combination
        decides, decided = {"any_of": (True, True), "all_of": (False, False), "none_of": (True, False)}[
            combination or "any_of"
        ]
        found: list[bool | None] = [not decided] * len(texts)
        left = list(range(len(texts)))
        for member in self._members:
            still = []
            for index, fits in zip(left, member.fits([texts[index] for index in left]), strict=True):
                if fits is None:
                    found[index] = None
                elif fits is decides:
                    found[index] = decided
                else:
                    still.append(index)
            left = still
        return found


def _converted(rows: list[tuple[Any, ...]], convert: Callable[[Row], Miss | None]) -> tuple[list[Any], list[Miss]]:
    kept, misses = [], []
    for each in rows:
        row = [*each]
        miss = convert(row)
        if miss is None:
            kept.append(row)
        else:
            misses.append(miss)
    return kept, misses


def _converters(ready: ExpressionMatcher) -> Callable[[Row], Miss | None] | None:
    """Return what converts a row in place and says why one does not convert; None where no field has a type."""
    layout = ready.layout
    typed = [(index, layout.names[index], *_remembering(layout.specs[index])) for index in layout.typed]
    if not typed:
        return None

    def convert(row: Row) -> Miss | None:
        for index, name, remembered, value in typed:
            text = row[index]
            if text is not None:
                try:
                    row[index] = remembered[text] if text in remembered else value(text)
                except Unconverted as why:
                    return Miss("field-invalid", name, f"the field '{name}' {why}")
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
