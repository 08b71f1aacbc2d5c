"""Shapes of texts, coarse: letters and digits told by one of their kind, runs folded. `Ab-07` has the shape `Aa-9`."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct, field

from fieldstick.data.placed import texts_as_lines
from fieldstick.kernels.walkers import NATIVE
from fieldstick.lean import compiled_later
from fieldstick.matching.character_kinds import OTHER_DIGIT, by_kind

if TYPE_CHECKING:
    from collections.abc import Sequence

LONGEST = 400
"""Code points of a text that its shape is told by."""

WORTH_WALKING = 20
"""Texts from which on walkers are faster."""

MOST_SHAPES = 1_000
"""Shapes that are told apart; texts of further ones are counted together."""

_RUNS = compiled_later(r"([^\W_])\1*(?=\1)")
"""All of a run of letters or digits but the last."""


def shape_of(text: str) -> str:
    """Return the shape of a text, runs of letters or digits told by one of them."""
    return _RUNS.sub("", by_kind(text[:LONGEST]).replace(OTHER_DIGIT, "9"))


def shapes_of(texts: Sequence[str]) -> list[str]:
    """Return the shape of each text."""
    walked = _walked(texts)
    if walked is None:
        return list(map(shape_of, texts))
    shapes, _, _, group_of = walked
    told = [shape.decode() for shape in shapes]
    return list(map(told.__getitem__, group_of))


def _walked(texts: Sequence[str]) -> tuple[Sequence[bytes], Sequence[int], Sequence[int], Sequence[int]] | None:
    """Return the different shapes of texts, how many have each, the index of the first that has, and for each text the
    number of its own; None where walkers are not worth their while, or cannot tell.
    """
    lines = texts_as_lines(texts) if NATIVE is not None and len(texts) >= WORTH_WALKING else None
    if NATIVE is None or lines is None or not lines.is_ascii() or lines.longest > LONGEST:
        return None
    group_of = bytearray(4 * lines.count)
    shapes, counts, firsts, *_ = NATIVE.shaped(lines.data, lines.ends or b"", group_of, None, ord(OTHER_DIGIT), 0, True)
    return shapes, counts, firsts, memoryview(group_of).cast("i")


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

    def add_many(self, texts: Sequence[str]) -> None:
        """Take texts in, in their order."""
        walked = _walked(texts)
        if walked is None:
            for text in texts:
                self.add(text)
            return
        shapes, counts, firsts, _ = walked
        for shape, count, first in zip(shapes, counts, firsts, strict=True):
            self._add(shape.decode(), texts[first], count)

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
