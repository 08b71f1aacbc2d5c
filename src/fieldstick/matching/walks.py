"""Walks blocks of texts by matchers: one, several in order, or those that a pattern made of patterns has.

See `row_walks` for what a walk comes to.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Protocol

from fieldstick.analysis.automaton.asked import Joined, Reading
from fieldstick.analysis.automaton.kept_tables import sorting_table
from fieldstick.data.batch import StoredTexts
from fieldstick.data.placed import counted, gathered
from fieldstick.engines.python import PythonCompiled
from fieldstick.kernels.walkers import NATIVE
from fieldstick.matching.expression import ExpressionMatcher
from fieldstick.matching.row_walks import DONE, MOST_JUDGED, RowWalk, Walk
from fieldstick.matching.sought import Sought

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.analysis.automaton.asked import Asked, How
    from fieldstick.analysis.automaton.walk_tables import WalkTable
    from fieldstick.kernels.calls import Picked, Progress
    from fieldstick.matching.matcher import Matcher
    from fieldstick.suites.suite import Combination


MOST_IN_VAIN = 6
"""Blocks in which lines were to be picked in vain, up to which twice as many are passed by each time."""


class FitWalk(Protocol):
    """Tells of texts whether they fit."""

    def fits(self, stored: StoredTexts) -> bytearray | None:
        """Tell of each text, as int16, whether it fits (0) or not (-1); None where they cannot be walked."""


class SortWalk(Walk):
    """Tells which of several each text fits first."""

    def __init__(self, asked: Sequence[Asked]) -> None:
        self._asked = tuple(asked)
        super().__init__(sorting_table(asked))
        self._sought = Sought(self._kept)
        self._in_vain = self._passed_by = 0

    def __reduce__(self) -> tuple[Any, ...]:
        return made_sort_walk, (self._asked,)

    def fits(self, stored: StoredTexts) -> bytearray | None:
        """See `FitWalk.fits`; each text is given the number of the first that it fits."""
        if not self.is_worth(len(stored.data)):
            return None
        assert NATIVE is not None
        native = NATIVE
        out = bytearray(2 * stored.count)
        data, cells, ends, sought = stored.data, stored.cells, stored.ends, self._sought.text

        def step(table: WalkTable, progress: Progress) -> Progress:
            return native.sort(data, cells, table.walked, 0, progress[1], progress[2], out, sought, ends)

        if self.run(stored, step) is None:
            return None
        self._sought.note(stored, counted(out, 1)[1])
        return out

    def pick(self, file: int, place: int, size: int, *, unfit: bool, giving: bool) -> Picked | None:
        """Read lines of a file and pick those that fit, or do not, where a text is looked for first, in any thread.

        None where something is lacking for that; none are given but with `giving`.
        """
        settled, sought = self._kept.settled, self._sought.text
        if settled is None or sought is None or NATIVE is None:
            return None
        if self._passed_by:
            self._passed_by -= 1
            return None
        picked = NATIVE.pick(file, place, size, settled, sought, unfit, giving)
        if picked is None:
            # What is not all ASCII here will hardly be further on, and to find that out takes time.
            self._in_vain = min(self._in_vain + 1, MOST_IN_VAIN)
            self._passed_by = 2**self._in_vain
            return None
        self._in_vain = 0
        return picked

    def note(self, stored: StoredTexts, fit: int) -> None:
        """Note how many of the texts of a block fit that was told of meanwhile."""
        self._sought.note(stored, fit)

    def fits_meanwhile(self, stored: StoredTexts) -> bytearray | None:
        """Tell the same in another thread than the one that walks; None where something is lacking for that."""
        settled = self._kept.settled
        if settled is None:
            return None
        assert NATIVE is not None
        out = bytearray(2 * stored.count)
        ended = NATIVE.sort(stored.data, stored.cells, settled, 0, 0, 0, out, self._sought.text, stored.ends)[0]
        return out if ended == DONE else None


class KindWalk:
    """Tells which of several patterns each text fits first, fields counted in."""

    def __init__(self, sort: SortWalk, matchers: Sequence[Matcher]) -> None:
        self._sort = sort
        self._matchers = matchers
        self._typed = {kind: fit_walk(each) for kind, each in enumerate(matchers) if asked_by(each) is None}

    def __reduce__(self) -> tuple[Any, ...]:
        return kind_walk, (tuple(self._matchers),)

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
        every = part.texts()
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
    return RowWalk(reading, matcher.layout, matcher.pattern.take) if len(matcher.layout.typed) <= MOST_JUDGED else None


def sort_walk(matchers: Sequence[Matcher]) -> SortWalk | None:
    """Return the walk that sorts by several matchers whose fields decide nothing; None where there is none."""
    if NATIVE is None:
        return None
    asked = [asked_by(each) for each in matchers]
    found = [each for each in asked if each is not None]
    return SortWalk(found) if len(found) == len(asked) else None


def made_sort_walk(asked: Sequence[Asked]) -> SortWalk | None:
    """Return a walk; None where there are no walkers."""
    return SortWalk(asked) if NATIVE is not None else None


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
