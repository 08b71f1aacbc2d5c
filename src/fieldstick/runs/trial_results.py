"""What came of a trial, and what its baseline makes of it."""

from __future__ import annotations

from decimal import Decimal
from typing import TYPE_CHECKING, Literal

from msgspec import Struct, field

from fieldstick.suites.suite import OVERALL

if TYPE_CHECKING:
    from collections.abc import Mapping

    from fieldstick.drafting.diagnosis import Stop
    from fieldstick.matching.result import Result
    from fieldstick.runs.change import Change
    from fieldstick.suites.suite import Bounds, Trial

GAVE_UP = 255
"""What a text came to that spent its budget."""

What = Literal["lost", "gained", "moved", "otherwise", "misses"]
"""What became of texts: they stopped fitting, began to, are of another kind, are captured otherwise; or do not fit."""


class TrialLine(Struct, frozen=True):
    """A text of a trial with its line, or row: how it is read now and, where that is known, how it was read before.

    `stop` is where the match stops in the text now and what was asked for there, None for a text that fits.
    """

    number: int
    text: str
    now: Result | None = None
    before: Result | None = None
    stop: Stop | None = None


class TrialCause(Struct, frozen=True):
    """Texts of a trial that became something together: so many, and the first of them.

    `was` and `now` name the kind, the pattern or the column; None for nothing. `by_data` tells that the data changed
    where they stand. `looked_into` is how many of all texts of the sort were looked into for what they have in common.
    """

    what: What
    was: str | None
    now: str | None
    count: int
    lines: tuple[TrialLine, ...]
    by_data: bool = False


class TrialStanding(Struct, frozen=True):
    """What the baseline makes of a trial.

    `data` says whether the data is the same, was appended to, or changed, from line `data_from` on (to `data_to`, None
    for the end). `patterns` are those whose definition changed, with the changes to their fields. `lost`, `gained`,
    `moved` and `otherwise` count texts whose data is the same; `by_data` those that came out otherwise where the data
    changed. `uncompared` are texts that cannot be held against what was recorded one by one.
    """

    data: Literal["same", "appended", "changed"]
    data_from: int = 0
    data_to: int | None = None
    appended: int = 0
    patterns: Mapping[str, tuple[Change, ...]] = {}
    lost: int = 0
    gained: int = 0
    moved: int = 0
    otherwise: int = 0
    by_data: int = 0
    uncompared: int = 0
    causes: tuple[TrialCause, ...] = ()
    counts: Mapping[str, tuple[int, int]] = {}
    """By name the counts as recorded and now, where they differ."""

    @property
    def regressed(self) -> bool:
        """Whether texts stopped fitting that are the same as they were."""
        return self.lost > 0

    @property
    def changed(self) -> bool:
        """Whether texts that are the same are of another kind, captured otherwise, or began to fit."""
        return bool(self.gained or self.moved or self.otherwise or any(self.patterns.values()))

    @property
    def otherwise_than_recorded(self) -> bool:
        """Whether texts that are the same came to something else."""
        return self.regressed or self.changed


class Shortfall(Struct, frozen=True):
    """A bound that does not hold, and what was found: a share from 0 to 1, or a count."""

    bounds: Bounds
    found: Decimal


class DataDigest(Struct):
    """What the data was: how many lines, or rows, and a digest of each `GROUP` of them."""

    lines: int = 0
    groups: list[str] = field(default_factory=list)
    until: str | None = None
    """The digest of the group that a given line ends, up to that line; None when there is no such line."""


class TrialResult(Struct, frozen=True):
    """What came of a trial.

    `columns` hold a byte a text: for a route one column of kinds, else one for each pattern, or column of the form,
    1 where it fits. `counts` say by name how many texts are of a kind, fit a pattern, have an accepted cell. `error`
    says why the data could not be read to its end; nothing else is then known.
    """

    trial: Trial
    texts: int = 0
    fit: int = 0
    given_up: int = 0
    counts: Mapping[str, int] = {}
    columns: tuple[bytes, ...] = ()
    digest: DataDigest = field(default_factory=DataDigest)
    shortfalls: tuple[Shortfall, ...] = ()
    error: str | None = None
    unread: int = 0
    """Texts, lines or rows that could not be read and were left out."""

    undecodable: int = 0
    seconds: float = 0.0
    misses: tuple[TrialCause, ...] = ()
    """Where the first texts stop that do not fit; looked for where too few do."""

    standing: TrialStanding | None = None
    """What the baseline makes of it; None without one."""

    def share(self, name: str = OVERALL) -> Decimal:
        """Return the share of texts that fit, or that are of a kind, from 0 to 1; 0 where there is no text."""
        count = self.fit if name == OVERALL else self.counts.get(name, 0)
        return Decimal(count) / self.texts if self.texts else Decimal(0)

    @property
    def falls_short(self) -> bool:
        """Whether it could not be run, read nothing, left something out, or a bound does not hold."""
        return self.error is not None or not self.texts or bool(self.shortfalls or self.unread or self.given_up)
