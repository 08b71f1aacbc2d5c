"""Which of many patterns fit a text, or the texts of a source, and which of the others came furthest."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.data.placed import counted, missed
from fieldstick.drafting.diagnosis import Stop, stop_of
from fieldstick.drafting.judge import deciding
from fieldstick.drafting.read_here import parsed_here
from fieldstick.errors import ExpressionError
from fieldstick.matching.prepare import prepare
from fieldstick.matching.result import DID_NOT_MATCH, GAVE_UP
from fieldstick.matching.walks import fit_walk

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence

    from fieldstick.data.source import Source
    from fieldstick.matching.matcher import Matcher
    from fieldstick.matching.result import Result
    from fieldstick.suites.suite import Pattern, Suite


class Candidate(Struct, frozen=True):
    """A pattern made ready, and the suite that keeps it."""

    suite: Suite
    pattern: Pattern
    matcher: Matcher

    @property
    def address(self) -> str:
        """How it is named in a command."""
        return f"{self.suite.name}:{self.pattern.name}"


class Candidates(Struct, frozen=True):
    """Patterns that can be asked, those that need a value first, and those whose expression does not compile."""

    ready: tuple[Candidate, ...]
    parametric: tuple[str, ...] = ()
    broken: tuple[str, ...] = ()


class Fit(Struct, frozen=True):
    """A pattern that fits a text, and what it captures."""

    candidate: Candidate
    reading: Result

    @property
    def covered(self) -> int:
        """Code points that its taken matches take."""
        return sum(end - start for start, end in (match.place for match in self.reading.matches))


class Near(Struct, frozen=True):
    """A pattern that does not fit: how far it came, where it stopped, or else why it does not fit."""

    candidate: Candidate
    came: int
    stop: Stop | None
    words: str


class Found(Struct, frozen=True):
    """What came of a text: the patterns that fit, those that take most of it first, and the others, nearest first."""

    text: str
    fits: tuple[Fit, ...]
    near: tuple[Near, ...]


def candidates_of(suites: Sequence[Suite]) -> Candidates:
    """Make all patterns of suites ready."""
    ready: list[Candidate] = []
    parametric: list[str] = []
    broken: list[str] = []
    for suite in suites:
        for pattern in suite.patterns.values():
            address = f"{suite.name}:{pattern.name}"
            if pattern.parameters:
                parametric.append(address)
                continue
            try:
                ready.append(Candidate(suite, pattern, prepare(pattern)))
            except ExpressionError:
                broken.append(address)
    return Candidates(tuple(ready), tuple(parametric), tuple(broken))


def which_fit(candidates: Sequence[Candidate], text: str) -> Found:
    """Ask every pattern about a text."""
    fits: list[Fit] = []
    near: list[Near] = []
    for each in candidates:
        reading = each.matcher.read_or_give_up(text)
        if reading.fits:
            fits.append(Fit(each, reading))
        else:
            near.append(_near(each, reading))
    fits.sort(key=lambda each: (-each.covered, -len(each.reading.fields)))
    near.sort(key=lambda each: -each.came)
    return Found(text, tuple(fits), tuple(near))


def _near(candidate: Candidate, reading: Result) -> Near:
    unfit = reading.unfit
    assert unfit is not None
    if unfit.reason == GAVE_UP:
        return Near(candidate, 0, None, unfit.words)
    if unfit.reason != DID_NOT_MATCH:
        # Where a field is refused, the expression matched to its end.
        return Near(candidate, len(reading.text) + 1, None, unfit.words)
    member = deciding(candidate.pattern, reading.text, {})
    parsed = parsed_here(member.pattern, {})
    if parsed is None:
        return Near(candidate, 0, None, "its expression cannot be read here")
    stop = stop_of(parsed, reading.text, member.pattern.reach)
    if stop is None:
        return Near(candidate, 0, None, unfit.words)
    return Near(candidate, stop.text - stop.start, stop, "")


class Share(Struct):
    """How many texts of a source a pattern fits, and the source and line (from 1) of the first."""

    candidate: Candidate
    fit: int = 0
    first: tuple[str, int, str] | None = None


class Shares(Struct):
    """What came of a source: each pattern's share, how many texts there are, how many none fits, and one of these."""

    shares: list[Share]
    texts: int = 0
    none: int = 0
    unknown: tuple[str, int, str] | None = None

    @property
    def ranked(self) -> list[Share]:
        """The patterns that fit something, those that fit most first."""
        return sorted((each for each in self.shares if each.fit), key=lambda each: -each.fit)


def which_in(
    candidates: Sequence[Candidate], sources: Sequence[Source], progress: Callable[[int], None] | None = None
) -> Shares:
    """Ask every pattern about every text of sources."""
    found = Shares([Share(each) for each in candidates])
    walks = [fit_walk(each.matcher) for each in candidates]
    for source in sources:
        for batch in source.batches():
            count = len(batch.numbers)
            any_fits = bytearray(count)
            for share, walk in zip(found.shares, walks, strict=True):
                told = walk.fits(batch.stored) if walk is not None and batch.stored is not None else None
                if told is not None:
                    fitting: Iterator[int] = (index for index, each in enumerate(missed(told)) if not each)
                    share.fit += counted(told, 1)[1]
                else:
                    judged = share.candidate.matcher.fits(batch.texts)
                    fitting = (index for index, each in enumerate(judged) if each)
                    share.fit += judged.count(True)
                for index in fitting:
                    any_fits[index] = 1
                    if share.first is None:
                        share.first = (source.name, batch.numbers[index], batch.texts[index])
            found.texts += count
            found.none += any_fits.count(0)
            if found.unknown is None and 0 in any_fits:
                index = any_fits.index(0)
                found.unknown = (source.name, batch.numbers[index], batch.texts[index])
            if progress is not None:
                progress(count)
    return found
