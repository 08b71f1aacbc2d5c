"""Walks blocks of texts with compiled walkers: which texts fit, and where their fields lie.

What comes of a walk is what `Matcher.read` says of each text; the time is linear in the text, so that none needs a
budget. What the automaton does not hold is not walked: `None` says so, and the texts are read one by one.
"""

from __future__ import annotations

import atexit
from collections import Counter
from typing import TYPE_CHECKING, Protocol

from msgspec import Struct

from fieldstick.analysis.automaton.asked import Joined, Reading
from fieldstick.analysis.automaton.kept_tables import matches_table, reading_table, sorting_table
from fieldstick.data.batch import StoredTexts
from fieldstick.data.placed import HEAD, PlacedRows, counted, gathered, mark
from fieldstick.engines.python import PythonCompiled
from fieldstick.errors import FieldstickError
from fieldstick.kernels.walkers import NATIVE
from fieldstick.matching.expression import ExpressionMatcher
from fieldstick.matching.typed_cells import judges_of

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from fieldstick.analysis.automaton.asked import Asked, How
    from fieldstick.analysis.automaton.kept_tables import KeptTable
    from fieldstick.analysis.automaton.walk_tables import WalkTable
    from fieldstick.kernels.walkers import Progress
    from fieldstick.matching.matcher import Matcher
    from fieldstick.suites.suite import Combination

WORTH_KEPT, WORTH_NEW = 100_000, 1_500_000
"""Bytes from which on it repays to walk: with a table that was kept, and with one that must be made."""

MOST_FILLED = 20_000
"""Entries of a table that are worked out in one run: texts that need more of them are read faster by the engine."""

USUAL_LINE = 40
"""Bytes that a text is reckoned to have at the least, for the room its row takes."""

_DONE, _ASKS, _FULL = 0, 1, 2

NOT_TAKEN, FIRST_BLAME = 1, 2
"""What stands for a row that is left out: its match is not the one that is taken, or the first field is invalid, or the
next, and so on.
"""

MOST_JUDGED = 250


class Walked(Struct):
    """Rows of the texts that fit, how many these are, and how many texts each field kept from fitting."""

    placed: PlacedRows
    fit: int
    invalid: Counter[str]

    @property
    def matched(self) -> int:
        """How many texts the expression matches, whatever their fields."""
        return self.fit + self.invalid.total()


class FitWalk(Protocol):
    """Tells of texts whether they fit."""

    def fits(self, stored: StoredTexts) -> bytearray | None:
        """Tell of each text, as int16, whether it fits (0) or not (-1); None where they cannot be walked."""


class _Walk:
    """A table in use; it is given up for good when something of it is out of reach."""

    def __init__(self, kept: KeptTable) -> None:
        self._kept = kept
        self._seen = 0
        self._filled = 0
        self._given_up = False
        self._is_used = False

    def is_worth(self, size: int) -> bool:
        """Tell whether it repays to walk, so many bytes more having come."""
        if self._given_up:
            return False
        if not self._is_used:
            self._seen += size
            self._is_used = self._seen >= (WORTH_KEPT if self._kept.was_kept else WORTH_NEW)
            if self._is_used:
                atexit.register(self._kept.save)
        return self._is_used

    def run(self, step: Callable[[WalkTable, Progress], Progress]) -> Progress | None:
        """Walk on from where the table lacked something until it lacks nothing more; None when it is given up."""
        progress: Progress = (0, 0, 0, 0, 0, 0)
        try:
            table = self._kept.table()
            while True:
                progress = step(table, progress)
                if progress[0] == _DONE:
                    return progress
                if progress[0] != _ASKS:
                    return None
                self._filled += 1
                if self._filled > MOST_FILLED:
                    break
                table.fill(progress[4], progress[5])
        except (FieldstickError, RecursionError, OverflowError, MemoryError):
            pass
        self._given_up = True
        return None


class RowWalk(_Walk):
    """Tells where the fields of a pattern lie in each match that is taken of a text that fits."""

    def __init__(self, matcher: ExpressionMatcher, reading: Reading) -> None:
        self._take = matcher.pattern.take
        self._several = self._take != "first" and reading.reach == "anywhere"
        super().__init__(matches_table(reading) if self._several else reading_table(reading))
        self._judges = judges_of(matcher.layout)
        self._width = HEAD + 2 * len(matcher.compiled.group_names) + 2
        self._out = bytearray()

    @property
    def several(self) -> bool:
        """Whether a text may have several matches; none of them is then empty."""
        return self._several

    def rows(self, stored: StoredTexts, first: int = 1, *, as_written: bool = True) -> Walked | None:
        """Return the rows of texts, the first of number `first`; None where they cannot be walked.

        The rows are good until the next ones are asked for: their room is used again. Typed cells are given as they are
        written, or as they stand in the text.
        """
        if not self.is_worth(len(stored.data)):
            return None
        assert NATIVE is not None
        native = NATIVE
        room = 4 * self._width * (max(len(stored.data) // USUAL_LINE, stored.count // 8) + 16)
        if len(self._out) < room:
            self._out = bytearray(room)
        data, cells = stored.data, stored.cells

        def step(table: WalkTable, progress: Progress) -> Progress:
            while True:
                out = self._out
                _, at, number, count, _, _ = progress
                if self._several:
                    restarts = table.arrays.restarts
                    progress = native.read_all(data, cells, table.walked, 0, restarts, at, number, out, count)
                else:
                    progress = native.read(data, cells, table.walked, 0, at, number, out, count, None)
                if progress[0] != _FULL:
                    return progress
                self._out = out + bytearray(len(out))

        done = self.run(step)
        if done is None:
            return None
        placed = PlacedRows(data, self._out, self._width, done[3], first, numbers_of_texts=stored.numbers)
        if self._take not in ("first", "all"):
            self._leave_untaken_out(placed)
        if as_written or not self._judges:
            return self._judged(placed)
        places = bytes(placed.rows)
        walked = self._judged(placed)
        placed.rows[:] = places
        return walked

    def fits(self, stored: StoredTexts) -> bytearray | None:
        """See `FitWalk.fits`."""
        walked = self.rows(stored)
        if walked is None:
            return None
        found = bytearray(b"\xff\xff" * stored.count)
        mark(walked.placed, found)
        return found

    def _leave_untaken_out(self, placed: PlacedRows) -> None:
        """Leave all matches of a text out but the one that is taken; a text that has too few has none."""
        take = -1 if self._take == "last" else self._take
        assert isinstance(take, int)
        if not self._several and take in (1, -1):
            return
        placed.refused = bytearray([NOT_TAKEN]) * placed.count
        numbers = placed.numbers()
        at = 0
        while at < placed.count:
            end = at + 1
            while end < placed.count and numbers[end] == numbers[at]:
                end += 1
            taken = at + take - 1 if take > 0 else end + take
            if at <= taken < end:
                placed.refused[taken] = 0
            at = end

    def _judged(self, placed: PlacedRows) -> Walked:
        """Judge the typed fields: a text of which one is invalid does not fit, whatever its other matches hold."""
        invalid: Counter[str] = Counter()
        if self._judges and placed.count:
            placed.refused = placed.refused or bytearray(placed.count)
            placed.side = bytearray()
            for blame, judge in enumerate(self._judges, FIRST_BLAME):
                judge.judge(placed, blame)
            if self._several:
                self._refuse_whole_texts(placed)
            for blame, judge in enumerate(self._judges, FIRST_BLAME):
                if count := placed.refused.count(blame):
                    invalid[judge.name] += count
        fit = placed.left
        if self._several and self._take == "all":
            refused = placed.refused or bytes(placed.count)
            fit = len({each for each, left_out in zip(placed.numbers(), refused, strict=True) if not left_out})
        return Walked(placed, fit, invalid)

    @staticmethod
    def _refuse_whole_texts(placed: PlacedRows) -> None:
        """Leave out all matches of a text of which one is refused, the first of these alone being blamed."""
        numbers, refused = placed.numbers(), placed.refused
        for row, blame in enumerate(bytes(refused)):
            if blame < FIRST_BLAME or refused[row] == NOT_TAKEN:
                continue
            first = row
            while first > 0 and numbers[first - 1] == numbers[row]:
                first -= 1
            end = row + 1
            while end < placed.count and numbers[end] == numbers[row]:
                end += 1
            refused[first:end] = bytes([NOT_TAKEN]) * (end - first)
            refused[row] = blame


class SortWalk(_Walk):
    """Tells which of several each text fits first."""

    def __init__(self, asked: Sequence[Asked]) -> None:
        super().__init__(sorting_table(asked))

    def fits(self, stored: StoredTexts) -> bytearray | None:
        """See `FitWalk.fits`; each text is given the number of the first that it fits."""
        if not self.is_worth(len(stored.data)):
            return None
        assert NATIVE is not None
        native = NATIVE
        out = bytearray(2 * stored.count)

        def step(table: WalkTable, progress: Progress) -> Progress:
            return native.sort(stored.data, stored.cells, table.walked, 0, progress[1], progress[2], out)

        return out if self.run(step) is not None else None


class KindWalk:
    """Tells which of several patterns each text fits first, fields counted in."""

    def __init__(self, sort: SortWalk, matchers: Sequence[Matcher]) -> None:
        self._sort = sort
        self._matchers = matchers
        self._typed = {kind: fit_walk(each) for kind, each in enumerate(matchers) if asked_by(each) is None}

    def kinds(self, stored: StoredTexts) -> bytearray | None:
        """Return for each text, as int16, the first that it fits, -1 for none; None where they cannot be walked."""
        found = self._sort.fits(stored)
        if found is None:
            return None
        for kind in self._typed:
            if counted(found, len(self._matchers))[kind + 1] and not self._is_sorted_on(stored, found, kind):
                return None
        return found

    def _is_sorted_on(self, stored: StoredTexts, found: bytearray, kind: int) -> bool:
        """Give the texts of a kind whose fields are invalid to the kinds after it; tell whether that could be done."""
        view = memoryview(found).cast("h")
        places = [place for place, each in enumerate(view) if each == kind]
        part = _part_of(stored, found, kind, len(self._matchers), places)
        walk = self._typed[kind]
        fits = walk.fits(part) if walk is not None else None
        if fits is None:
            return False
        refused = [index for index, each in enumerate(memoryview(fits).cast("h")) if each < 0]
        if not refused:
            return True
        every = texts_of(part)
        texts = [every[index] for index in refused]
        places = [places[index] for index in refused]
        for place in places:
            view[place] = -1
        for later in range(kind + 1, len(self._matchers)):
            told = self._matchers[later].fits(texts)
            if None in told:
                return False
            for place, each in zip(places, told, strict=True):
                if each:
                    view[place] = later
            places = [place for place, each in zip(places, told, strict=True) if not each]
            texts = [text for text, each in zip(texts, told, strict=True) if not each]
        return True


def _part_of(stored: StoredTexts, found: bytearray, kind: int, kinds: int, places: list[int]) -> StoredTexts:
    """Return the texts of one kind alone."""
    if stored.cells is None:
        heap_of = [-1] * (kinds + 1)
        heap_of[kind + 1] = 0
        return StoredTexts(gathered(stored, found, heap_of)[0], len(places))
    cells = stored.cells[:0]
    for place in places:
        cells.extend(stored.cells[2 * place : 2 * place + 2])
    return StoredTexts(stored.data, len(places), cells=cells)


def texts_of(stored: StoredTexts) -> list[str]:
    """Return the texts, without line ends; bytes that are no UTF-8 as PEP 383 has them."""
    data, cells = stored.data, stored.cells
    if cells is None:
        return data.decode("utf-8", "surrogateescape").replace("\r\n", "\n").split("\n")[: stored.count]
    return [data[start:end].decode("utf-8", "surrogateescape") for start, end in zip(*[iter(cells)] * 2, strict=True)]


def reading_of(matcher: Matcher) -> Reading | None:
    """Return how a matcher reads; None where the walkers have no part in it."""
    if not isinstance(matcher, ExpressionMatcher) or not isinstance(matcher.compiled, PythonCompiled):
        return None
    return Reading(matcher.compiled.expression, matcher.pattern.reach, matcher.pattern.flags)


def row_walk(matcher: Matcher) -> RowWalk | None:
    """Return the walk for the rows of a matcher; None where there is none."""
    reading = reading_of(matcher)
    if NATIVE is None or reading is None:
        return None
    assert isinstance(matcher, ExpressionMatcher)
    return RowWalk(matcher, reading) if len(matcher.layout.typed) <= MOST_JUDGED else None


def sort_walk(matchers: Sequence[Matcher]) -> SortWalk | None:
    """Return the walk that sorts by several matchers whose fields decide nothing; None where there is none."""
    if NATIVE is None:
        return None
    asked = [asked_by(each) for each in matchers]
    found = [each for each in asked if each is not None]
    return SortWalk(found) if len(found) == len(asked) else None


def fit_walk(matcher: Matcher) -> FitWalk | None:
    """Return the walk that tells whether texts fit; None where there is none."""
    return sort_walk([matcher]) or row_walk(matcher)


def kind_walk(matchers: Sequence[Matcher]) -> KindWalk | None:
    """Return the walk that sorts texts by several matchers; None where there is none."""
    asked = [asked_by(each) or reading_of(each) for each in matchers]
    known = [each for each in asked if each is not None]
    if NATIVE is None or not known or len(known) < len(asked):
        return None
    return KindWalk(SortWalk(known), matchers)


_HOW: dict[Combination, How] = {"any_of": "any", "all_of": "all", "none_of": "none"}


def asked_by(matcher: Matcher) -> Asked | None:
    """Return what a matcher asks for; None where that is more than its expressions say, or no walk has it."""
    if isinstance(matcher, ExpressionMatcher):
        plain = not matcher.layout.typed and matcher.pattern.take in ("first", "last", "all")
        return reading_of(matcher) if plain else None
    members = [asked_by(each) for each in getattr(matcher, "members", ())]
    found = tuple(each for each in members if each is not None)
    if len(found) < len(members) or matcher.pattern.combination is None:
        return None
    return Joined(_HOW[matcher.pattern.combination], found)
