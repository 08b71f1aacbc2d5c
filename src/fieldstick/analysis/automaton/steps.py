"""What tables for the walkers are made from: machines that say for a state and a letter what follows."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Protocol

from msgspec import Struct

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.analysis.automaton.alphabet import Alphabet

NIL, HERE = -1, -2
"""Where a place comes from that is in no register: from nowhere, or from where the walk is."""

MOST_REGISTERS = 512
"""Register 0 is nobody's: what needs no place writes it there."""

Moves = tuple[tuple[int, int], ...]
"""Registers and where each gets its place from: another register, or HERE."""


class Onward(Struct, frozen=True):
    """The state that a letter leads to, and what happens to the registers on the way."""

    state: Any
    moves: Moves = ()


class Finish(Struct, frozen=True):
    """The text fits whatever follows: where each of its places comes from; what it fits as, where there are several."""

    places: tuple[int, ...]
    kind: int = 0


class Machine(Protocol):
    """Says for a state and a letter what follows; None when nothing fits any more."""

    @property
    def alphabet(self) -> Alphabet:
        """The letters."""

    @property
    def slots(self) -> int:
        """How many places are told of a text that fits."""

    @property
    def least(self) -> int:
        """The fewest characters of a text that fits."""

    @property
    def required(self) -> Sequence[str]:
        """Texts that lie in every text that fits, without line feeds."""

    @property
    def start(self) -> Any:
        """The state that a text begins in."""

    @property
    def restarts(self) -> bool:
        """Whether a text may be gone on with after a match, from the state that `restart` gives."""

    def restart(self, letter: int) -> Any:
        """Return the state that begins after a character of a letter, all matches before it being told."""

    def step(self, state: Any, letter: int) -> Onward | Finish | None:
        """Return what follows. Raises OutOfReach when there is too much of it."""
