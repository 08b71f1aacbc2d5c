"""Runs a draft expression over the texts of a source: where it lands, what it misses, what a change costs."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct, field

from fieldstick.engines.budget import run_within, timer_usable
from fieldstick.engines.python import ENGINE, TIMER_TEXT_LIMIT, PythonCompiled
from fieldstick.errors import BudgetSpent, EngineFailure

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable

    from fieldstick.engines.protocol import Reach, Spans, Take

CHUNK = 1000
"""Texts that share one budget; when it is spent, each of them gets its own."""

BUDGET_MS = 1000


class Text(Struct, frozen=True):
    """A text with the source and the line (from 1) that it was read from."""

    source: str
    number: int
    text: str


class Landing(Struct, frozen=True):
    """Where an expression landed in a text: the taken matches, none for a miss; `gave_up` when the budget was spent."""

    text: Text
    matches: tuple[Spans, ...]
    gave_up: bool = False

    @property
    def fits(self) -> bool:
        """Whether there is a match to take."""
        return bool(self.matches)

    @property
    def of_nothing(self) -> bool:
        """Whether the first match takes nothing out of a text that holds something."""
        return bool(self.matches) and self.matches[0][0][0] == self.matches[0][0][1] and self.text.text != ""


class Tally(Struct):
    """Counts over all texts of a run."""

    texts: int = 0
    fit: int = 0
    nothing: int = 0
    gave_up: int = 0

    @property
    def missed(self) -> int:
        """The texts that do not fit; those given up are not among them."""
        return self.texts - self.fit - self.gave_up


class Lander(Struct, frozen=True):
    """An expression compiled for landing on texts."""

    compiled: PythonCompiled
    reach: Reach
    take: Take = "first"

    @classmethod
    def of(cls, expression: str, flags: frozenset[str], reach: Reach, take: Take = "first") -> Lander:
        """Compile; raises ExpressionError."""
        return cls(ENGINE.compile(expression, flags), reach, take)

    def land(self, text: Text) -> Landing:
        """Match one text within its budget."""
        wanted = 1 if self.take == "first" else None
        try:
            found = self.compiled.matches(text.text, self.reach, BUDGET_MS, wanted)
        except (BudgetSpent, EngineFailure):
            return Landing(text, (), gave_up=True)
        return Landing(text, tuple(self._taken(found)))

    def _taken(self, found: list[Spans]) -> list[Spans]:
        if self.take in ("first", "all"):
            return found
        number = -1 if self.take == "last" else self.take
        assert isinstance(number, int)
        index = number - 1 if number > 0 else number
        return found[index : index + 1 or None] if -len(found) <= index < len(found) else []

    def count(self, chunks: Iterable[list[str]], tally: Tally, progress: Callable[[int], None] | None = None) -> None:
        """Count fits and misses of many texts; the same counts as `land` gives one by one."""
        quick = self._quick()
        for chunk in chunks:
            counts = self._chunk(chunk, quick)
            tally.texts += len(chunk)
            tally.fit += counts[0]
            tally.nothing += counts[1]
            tally.gave_up += counts[2]
            if progress is not None:
                progress(len(chunk))

    def _quick(self) -> Callable[[list[str]], tuple[int, int, int]] | None:
        """Return a way to count a chunk at one go, where the take needs no more than the first match."""
        if self.take != "first" or not timer_usable():
            return None
        method = self.compiled.first_match(self.reach)

        def count(chunk: list[str]) -> tuple[int, int, int]:
            found = [each for each in map(method, chunk) if each is not None]
            nothing = sum(1 for each in found if each.end() == each.start() and each.string)
            return len(found), nothing, 0

        return count

    def _chunk(
        self, chunk: list[str], quick: Callable[[list[str]], tuple[int, int, int]] | None
    ) -> tuple[int, int, int]:
        if quick is not None and max(map(len, chunk)) <= TIMER_TEXT_LIMIT:
            try:
                return run_within(BUDGET_MS, quick, chunk)
            except (BudgetSpent, SystemError):
                pass
        landings = [self.land(Text("", 0, each)) for each in chunk]
        fit = sum(each.fits for each in landings)
        return fit, sum(each.of_nothing for each in landings), sum(each.gave_up for each in landings)


class Shift(Struct, frozen=True):
    """A text on which two expressions differ: gained, lost, or captured otherwise."""

    kind: str
    before: Landing
    now: Landing


class Shifts(Struct):
    """How two expressions differ over a source: counts, and the first texts of each kind."""

    gained: int = 0
    lost: int = 0
    otherwise: int = 0
    first: list[Shift] = field(default_factory=list)


def shift(before: Landing, now: Landing, names: tuple[tuple[str, ...], tuple[str, ...]]) -> Shift | None:
    """Tell how a text came out otherwise; None when it did not. Groups are compared by name."""
    if before.fits != now.fits:
        return Shift("gained" if now.fits else "lost", before, now)
    if before.fits and _captured(before, names[0]) != _captured(now, names[1]):
        return Shift("otherwise", before, now)
    return None


def _captured(landing: Landing, names: tuple[str, ...]) -> list[dict[str, tuple[int, int]]]:
    return [dict(zip(("", *names), spans, strict=True)) for spans in landing.matches]


def compare(
    texts: Iterable[Text], before: Lander, now: Lander, *, most: int, progress: Callable[[int], None] | None = None
) -> tuple[Shifts, Tally]:
    """Run two expressions over texts and say on which they differ; `most` shifts of each kind are kept."""
    found, tally = Shifts(), Tally()
    kept = {"gained": 0, "lost": 0, "otherwise": 0}
    names = (before.compiled.group_names, now.compiled.group_names)
    for number, text in enumerate(texts, 1):
        one, other = before.land(text), now.land(text)
        tally.texts += 1
        tally.fit += other.fits
        tally.nothing += other.of_nothing
        tally.gave_up += other.gave_up
        each = shift(one, other, names)
        if each is not None:
            setattr(found, each.kind, getattr(found, each.kind) + 1)
            if kept[each.kind] < most:
                kept[each.kind] += 1
                found.first.append(each)
        if progress is not None and number % CHUNK == 0:
            progress(CHUNK)
    return found, tally
