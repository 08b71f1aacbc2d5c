"""What is looked for first in lines: a text that every one that fits holds, where few lines fit and fewer hold it."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from fieldstick.analysis.automaton.kept_tables import KeptTable
    from fieldstick.data.batch import StoredTexts

RARE = 8
"""Fewer than one in so many lines are few."""

PIECE = 1 << 16
"""Bytes in which texts are counted, to know which of them is the rarest."""

AGAIN = 32
"""Blocks after which they are counted once more."""


class Sought:
    """The text that is looked for first, if any. Blocks of lines tell which it is, and whether there is one."""

    def __init__(self, kept: KeptTable) -> None:
        self._kept = kept
        self._left = 0
        self.text: bytes | None = None

    def note(self, stored: StoredTexts, fit: int) -> None:
        """Note how many of the lines of a block fit."""
        if fit * RARE >= stored.count or stored.cells is not None:
            self.text, self._left = None, 0
            return
        if self._left > 0:
            self._left -= 1
        elif stored.data:
            self._left, self.text = AGAIN - 1, self._rarest(stored.data[:PIECE])
        else:
            # Lines that nobody held: the next ones are.
            self.text = None

    def _rarest(self, piece: bytes) -> bytes | None:
        """Return the text that every line that fits holds, and the fewest lines of a piece; None where many hold it."""
        counts = [(piece.count(text), -len(text), text) for text in self._kept.required]
        least = min(counts, default=None)
        return least[2] if least is not None and least[0] * RARE < piece.count(b"\n") else None
