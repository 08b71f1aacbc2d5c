"""Shapes of texts, coarse: letters and digits told by one of their kind, runs folded. `Ab-07` has the shape `Aa-9`."""

from __future__ import annotations

from msgspec import Struct, field

from fieldstick.lean import compiled_later
from fieldstick.matching.character_kinds import BY_KIND, OTHER_DIGIT

LONGEST = 400
"""Code points of a text that its shape is told by."""

MOST_SHAPES = 1_000
"""Shapes that are told apart; texts of further ones are counted together."""

_RUNS = compiled_later(r"([^\W_])\1*(?=\1)")
"""All of a run of letters or digits but the last."""


def shape_of(text: str) -> str:
    """Return the shape of a text, runs of letters or digits told by one of them."""
    return _RUNS.sub("", text[:LONGEST].translate(BY_KIND).replace(OTHER_DIGIT, "9"))


class ShapeCount(Struct):
    """How many texts have a shape, and the first of them."""

    example: str
    count: int = 0


class Shapes(Struct):
    """Shapes of some texts, and how many texts are of others than those that are told apart."""

    counts: dict[str, ShapeCount] = field(default_factory=dict)
    others: int = 0

    def add(self, text: str) -> None:
        """Take a text in."""
        self._add(shape_of(text), text, 1)

    def merge(self, other: Shapes) -> None:
        """Take in what was counted further on."""
        for shape, each in other.counts.items():
            self._add(shape, each.example, each.count)
        self.others += other.others

    def _add(self, shape: str, example: str, count: int) -> None:
        known = self.counts.get(shape)
        if known is None and len(self.counts) >= MOST_SHAPES:
            self.others += count
            return
        if known is None:
            known = self.counts[shape] = ShapeCount(example)
        known.count += count

    @property
    def ranked(self) -> list[tuple[str, ShapeCount]]:
        """The shapes, the commonest first."""
        return sorted(self.counts.items(), key=lambda each: -each[1].count)
