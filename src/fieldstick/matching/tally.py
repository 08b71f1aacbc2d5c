"""What work on data came to: how much was read, how much fitted, why the rest did not."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

from msgspec import Struct, field

from fieldstick.matching.result import GAVE_UP

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.matching.result import Unfit

DOES_NOT_FIT = "does-not-fit"
"""The reason of texts of which it is known alone that they do not fit."""

MOST_NAMED = 20
"""Texts that were given up and are named; further ones are counted alone."""


class Tally(Struct):
    """Counts of texts and rows. `misses` is by reason and field; `gave_up` names source and line of the first."""

    read: int = 0
    fit: int = 0
    rows: int = 0
    misses: Counter[tuple[str, str | None]] = field(default_factory=Counter)
    gave_up: list[tuple[str, int]] = field(default_factory=list)

    @property
    def missed(self) -> int:
        """The texts that did not fit, those given up among them."""
        return self.misses.total()

    @property
    def given_up(self) -> int:
        """The texts that were given up because they spent their budget."""
        return self.misses[GAVE_UP, None]

    def miss(self, unfit: Unfit, source: str, number: int) -> None:
        """Count a text that did not fit."""
        self.misses[unfit.reason, unfit.field] += 1
        if unfit.reason == GAVE_UP and len(self.gave_up) < MOST_NAMED:
            self.gave_up.append((source, number))

    def give_up(self, source: str, number: int) -> None:
        """Count a text that spent its budget."""
        self.misses[GAVE_UP, None] += 1
        if len(self.gave_up) < MOST_NAMED:
            self.gave_up.append((source, number))

    def merge(self, other: Tally) -> None:
        """Add the counts of texts further on."""
        self.read += other.read
        self.fit += other.fit
        self.rows += other.rows
        for what, count in other.misses.items():
            self.misses[what] += count
        if other.gave_up:
            self.gave_up += other.gave_up[: MOST_NAMED - len(self.gave_up)]


def tallied(fits: Sequence[bool | None], source: str, numbers: Sequence[int]) -> Tally:
    """Count texts by whether they fit, None for one that was given up; for those that do not, nobody asked why."""
    tally = Tally(read=len(fits), fit=fits.count(True))
    missed = fits.count(False)
    if missed:
        tally.misses[DOES_NOT_FIT, None] = missed
    if tally.fit + missed < tally.read:
        for number, each in zip(numbers, fits, strict=True):
            if each is None:
                tally.give_up(source, number)
    return tally
