"""What sources give: texts with their numbers, singly or many at a time, and what was met on the way."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, NamedTuple, Protocol

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

MOST_NAMED = 1000
"""Lines of a kind that are named; further ones are counted alone."""


class Named(list[int]):
    """The numbers of lines of which something is to be said: the first ones, and how many there are in all."""

    def __init__(self, numbers: Sequence[int] = ()) -> None:
        super().__init__()
        self.total = 0
        for number in numbers:
            self.note(number)

    def note(self, number: int) -> None:
        """Add the number of a line; the last one again counts once."""
        if self and self[-1] == number:
            return
        self.total += 1
        if len(self) < MOST_NAMED:
            self.append(number)

    def take_in(self, other: Named) -> None:
        """Add what was noted further on in the same source."""
        self.extend(other[: MOST_NAMED - len(self)])
        self.total += other.total


@dataclass(slots=True)
class Met:
    """What was met while a source was read.

    `undecodable` are lines with bytes that are not text in the encoding, `ragged` rows with more or fewer cells
    than the header, `overlong` texts beyond the limit, which are not read, `missing` rows without a value,
    `not_json` lines that are no JSON. `line_ends` counts how lines end.
    """

    undecodable: Named = field(default_factory=Named)
    ragged: Named = field(default_factory=Named)
    overlong: Named = field(default_factory=Named)
    missing: Named = field(default_factory=Named)
    not_json: Named = field(default_factory=Named)
    line_ends: Counter[str] = field(default_factory=Counter)
    byte_order_mark: bool = False

    def take_in(self, other: Met) -> None:
        """Add what was met further on in the same source."""
        for name in ("undecodable", "ragged", "overlong", "missing", "not_json"):
            getattr(self, name).take_in(getattr(other, name))
        self.line_ends += other.line_ends
        self.byte_order_mark = self.byte_order_mark or other.byte_order_mark


class Item(NamedTuple):
    """A text with its line (from 1); None where a row has no value.

    `row` holds the row's cells by column, None for lines. `raw` is the text as it stands in the source, line end
    included; None where it has no such form.
    """

    number: int
    text: str | None
    row: Mapping[str, Any] | None = None
    raw: str | None = None


@dataclass(slots=True)
class Texts:
    """Texts of one source that follow one another.

    `raws` is None where every text stood there as it is, ended by a line feed. `rows` is None for lines.
    """

    numbers: Sequence[int]
    texts: list[str]
    raws: list[str] | None = None
    rows: list[Mapping[str, Any]] | None = None
    met: Met = field(default_factory=Met)

    def load(self) -> Texts:
        """Return itself; see `Block`."""
        return self

    def raw(self, index: int) -> str:
        """Return the text at `index` as it stands in the source."""
        return self.raws[index] if self.raws is not None else self.texts[index] + "\n"


class Block(Protocol):
    """Texts on their way to whoever works on them."""

    def load(self) -> Texts:
        """Return the texts."""
