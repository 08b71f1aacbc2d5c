"""What two versions of suites differ in, with everything a rendering needs and nothing of how it looks."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from msgspec import Struct, field

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.analysis.relation import Relation
    from fieldstick.runs.results import SampleResult
    from fieldstick.runs.trial_results import TrialCause, TrialResult
    from fieldstick.suites.suite import Bounds, Operation, Pattern, Sample, Suite, Trial

Became = Literal["same", "altered", "new", "gone", "renamed"]
"""What became of a suite, or of a pattern or operation of it."""

SampleBecame = Literal["worse", "mended", "new", "gone", "fields"]
FieldBecame = Literal["new", "gone", "renamed", "renumbered", "retyped", "bounds"]


MUCH_SLOWER, LEAST_SECONDS = 3.0, 0.05
"""How many times as long the newer version must take for the same texts to be told of, and how much longer at least."""

SHORTEST_SECONDS = 1e-4
"""What a clock that ticks seldom may take for no time at all."""


def times_as_long(was: float, now: float) -> float | None:
    """Return how many times as long the newer version took, given seconds, where that is much; None elsewhere."""
    times = now / max(was, SHORTEST_SECONDS)
    return times if now - was > LEAST_SECONDS and times > MUCH_SLOWER else None


class SampleChange(Struct, frozen=True):
    """A sample that came out otherwise: judged under both versions, whichever of them has it.

    `now_in` names the pattern that has it now, where it was moved. `is_gone` tells that the newer version has it no
    more, whatever else became of it; `only_names` that fields of it are called otherwise, and nothing else.
    """

    sample: Sample
    was: SampleResult
    now: SampleResult
    change: SampleBecame
    is_gone: bool = False
    now_in: str | None = None
    only_names: bool = False


class FieldChange(Struct, frozen=True):
    """A field that is otherwise: what it was and is, in words; a `renumbered` one that has a name keeps it."""

    name: str
    change: FieldBecame
    was: str
    now: str

    @property
    def is_worse(self) -> bool:
        """Whether somebody who reads the field has to know: it is there no more, or not as it was."""
        return self.change != "new" and not (self.change == "renumbered" and not self.name.isdecimal())


class PartChange(Struct, frozen=True):
    """A part whose text changed: as a suite calls it, what it was and is, and where it stands now."""

    name: str
    was: str
    now: str
    file: str
    line: int


class Lines(Struct):
    """Lines of trials and of other sources: how many of them came out otherwise, and what they have in common."""

    gained: int = 0
    lost: int = 0
    otherwise: int = 0
    causes: tuple[tuple[str, TrialCause], ...] = ()
    """Each with the source that it was found in."""

    def __bool__(self) -> bool:
        return bool(self.gained or self.lost or self.otherwise)


class PatternChange(Struct, frozen=True):
    """What became of a pattern or an operation.

    `altered` are the keys of it that differ; `through` the parts, or members, that it differs through. `slower` says
    how many times as long the newer one reads the same texts, where that is much. `relation` is how the texts that its
    expression takes relate to those it took, where the expression differs.
    """

    name: str
    change: Became
    was: Pattern | Operation | None = None
    now: Pattern | Operation | None = None
    altered: tuple[str, ...] = ()
    through: tuple[str, ...] = ()
    samples: tuple[SampleChange, ...] = ()
    fields: tuple[FieldChange, ...] = ()
    lines: Lines = field(default_factory=Lines)
    slower: float | None = None
    relation: Relation | None = None

    @property
    def was_name(self) -> str | None:
        """What it was called; None for one that is new."""
        return self.was.name if self.was is not None else None

    @property
    def worse_samples(self) -> int:
        """How many samples came out worse, or with other fields."""
        return sum(each.change in ("worse", "fields") for each in self.samples)

    @property
    def worse_fields(self) -> int:
        """How many fields are gone, or are not what they were."""
        return sum(each.is_worse for each in self.fields)

    @property
    def is_worse(self) -> bool:
        """Whether something got worse for somebody who uses it."""
        return self.change == "gone" or bool(self.worse_samples or self.worse_fields)

    @property
    def is_told(self) -> bool:
        """Whether there is anything to tell of it."""
        return self.change != "same" or bool(self.samples or self.fields or self.lines)


class TrialChange(Struct, frozen=True):
    """A trial over the data of the newer version, under both: `now` holds what differs against `was`.

    `data` says what became of the data itself between the versions, in words; None where it is the same. One of the
    two results is None where the trial is new, or gone. `bounds` are those that are otherwise: older and newer ones.
    """

    trial: Trial
    was: TrialResult | None
    now: TrialResult | None
    data: str | None = None
    bounds: tuple[tuple[Bounds | None, Bounds | None], ...] = ()

    @property
    def is_worse(self) -> bool:
        """Whether it falls short now, and did not before."""
        return self.now is not None and self.now.falls_short and self.was is not None and not self.was.falls_short

    @property
    def is_told(self) -> bool:
        """Whether there is anything to tell of it."""
        if self.now is None or self.was is None or self.data is not None or self.bounds or self.is_worse:
            return True
        standing = self.now.standing
        return standing is not None and standing.otherwise_than_recorded


class SuiteChange(Struct, frozen=True):
    """What became of a suite; `was` or `now` is None for one that is new, or gone."""

    change: Became
    was: Suite | None
    now: Suite | None
    patterns: tuple[PatternChange, ...] = ()
    trials: tuple[TrialChange, ...] = ()

    @property
    def suite(self) -> Suite:
        """The newer of the two, or the one there is."""
        found = self.now or self.was
        assert found is not None
        return found

    @property
    def is_worse(self) -> bool:
        """Whether something in it got worse for somebody who uses it."""
        return (
            self.change == "gone"
            or any(each.is_worse for each in self.patterns)
            or any(each.is_worse for each in self.trials)
        )


class Comparison(Struct, frozen=True):
    """Two versions held against each other: how they were named, the parts and suites that differ, and all others."""

    was: str
    now: str
    suites: tuple[SuiteChange, ...]
    parts: tuple[PartChange, ...] = ()

    @property
    def is_worse(self) -> bool:
        """Whether something got worse for somebody who uses one of the suites."""
        return any(each.is_worse for each in self.suites)

    def told(self) -> Iterator[tuple[SuiteChange, PatternChange]]:
        """Yield each pattern of which there is something to tell, with its suite."""
        for suite in self.suites:
            for each in suite.patterns:
                if each.is_told:
                    yield suite, each
