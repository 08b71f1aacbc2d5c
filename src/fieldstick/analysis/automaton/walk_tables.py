"""Tables for the compiled walkers: which of several expressions a text fits, or where the groups of one lie.

A row is a state of a *machine*, which says where a letter leads. Rows are worked out entry by entry, as texts need
them, and written into arrays that the walkers go by; `kernels/_walkers.c` says how these are laid out.
"""

from __future__ import annotations

from array import array
from typing import TYPE_CHECKING, Any, cast

from msgspec import Struct

from fieldstick.analysis.automaton.steps import HERE, Finish
from fieldstick.kernels.walkers import NATIVE

if TYPE_CHECKING:
    from collections.abc import Callable

    from fieldstick.analysis.automaton.program import OutOfReach
    from fieldstick.analysis.automaton.steps import Machine, Moves, Onward
    from fieldstick.kernels.calls import Table

UNKNOWN, DEAD, FIRST_ACT = -1, -2, -3
"""What stands for a row where there is none; see `kernels/_walkers.c`."""

MOST_ENTRIES = 4_000_000
"""Entries of a table, six bytes each."""

MOST_LEAPT = 4096
"""Rows of a table that is walked in leaps: bytes that mostly follow one another, compared at once."""

BYTES_OF_LEAPS = 32
"""Bytes walked, for each entry, that repay working out the leaps anew."""


class Arrays(Struct, frozen=True):
    """A table as the walkers take it, and for each row the row and letter that first led to it.

    `restarts` has for each letter the entry of the row that begins after it; such a row has -1 - letter as its letter.
    `required` are texts that lie in every text that fits: UTF-8, each ended by a line feed.
    """

    stride: int
    slots: int
    least: int
    starts: array[int]
    letters: array[int]
    next: array[int]
    into: array[int]
    acts: array[int]
    finals: array[int]
    origins: array[int]
    restarts: array[int]
    required: array[int]


class WalkTable:
    """A machine's table, as far as it was needed. With `kept` arrays the machine is made only when they lack something.

    Raises OutOfReach as making the machine does.
    """

    def __init__(self, make: Callable[[], Machine], kept: Arrays | None = None) -> None:
        assert NATIVE is not None
        self._make = make
        self._machine: Machine | None = None
        self._states: list[Any] = []
        self._row_of: dict[Any, int] = {}
        self._act_of: dict[tuple[int, ...], int] = {}
        self._finish_of: dict[tuple[int, ...], int] = {}
        self.grown = False
        """Whether it holds more than what was kept."""
        if kept is None:
            self.arrays = self._begun()
        else:
            self.arrays = kept
        self._direct = memoryview(NATIVE.spread(self.arrays.starts, self.arrays.letters))
        self.walked = self._walked()
        """What the walkers take."""
        self._is_leapt = False
        self._since = 0
        self.settled: Table | None = None
        """A copy to be walked in another thread, as long as nothing is lacking and leaps are known."""

    def _walked(self, leap_of: bytes = b"", leaps: bytes = b"") -> Table:
        each = self.arrays
        parts = each.starts, each.letters, each.next, each.into, each.acts, each.finals
        return (self._direct, *parts, leap_of, leaps, each.stride, each.slots, each.least)

    def prepare(self, data: bytes, cells: Any) -> None:
        """Have texts that are about to be walked be walked in leaps, when working these out is repaid."""
        entries = len(self.arrays.next)
        self._since += len(data)
        if not self._is_leapt and len(self) <= MOST_LEAPT and self._since >= BYTES_OF_LEAPS * entries:
            assert NATIVE is not None
            if self._machine is not None:
                self._fill_loops()
            self.walked = self._walked(*NATIVE.leaps(self._walked(), data, cells, 0, bool(self.arrays.restarts)))
            self._is_leapt, self._since = True, 0
            self.settled = cast("Table", tuple(each[:] if isinstance(each, array) else each for each in self.walked))

    def __len__(self) -> int:
        """Return how many rows there are so far."""
        return len(self.arrays.next) // self.arrays.stride

    @property
    def is_sound(self) -> bool:
        """Whether every entry leads to what is there."""
        assert NATIVE is not None
        return NATIVE.is_sound(self.walked)

    def fill(self, row: int, letter: int) -> None:
        """Work out an entry. Raises OutOfReach when the table would become too large."""
        if self._machine is None:
            self._recover()
            if self.arrays.next[row * self.arrays.stride + letter] != UNKNOWN:
                return
        if self._is_leapt:
            self.walked, self._is_leapt, self.settled = self._walked(), False, None
        self._work_out(row, letter)

    def _work_out(self, row: int, letter: int) -> None:
        assert self._machine is not None
        self.grown = True
        found = self._machine.step(self._states[row], letter)
        place = row * self.arrays.stride + letter
        self.arrays.next[place], self.arrays.into[place] = self._entry(found, row, letter)

    def _fill_loops(self) -> None:
        """Work out what each letter of ASCII leads to from rows that lead to themselves, where that is still open.

        A leap over what stays there is then one over all but few characters.
        """
        stride = self.arrays.stride
        letters = sorted(set(self._direct.cast("H")[:128]))
        for row in range(len(self)):
            entries = self.arrays.next[row * stride : (row + 1) * stride]
            if row * stride in entries:
                for letter in letters:
                    if entries[letter] == UNKNOWN:
                        self._work_out(row, letter)

    def _begun(self) -> Arrays:
        machine = self._machine = self._make()
        alphabet = machine.alphabet
        starts, letters = alphabet.runs
        made = self.arrays = Arrays(
            alphabet.size + 2,
            machine.slots,
            machine.least,
            array("I", starts),
            array("H", letters),
            array("i"),
            array("H"),
            array("i"),
            array("i"),
            array("i"),
            array("i"),
            array("B", "".join([text + "\n" for text in machine.required]).encode()),
        )
        self._row(machine.start, 0, 0)
        for letter in range(alphabet.size if machine.restarts else 0):
            made.restarts.append(self._row(machine.restart(letter), 0, -1 - letter) * made.stride)
        return made

    def _recover(self) -> None:
        """Work out the state of every row that was kept, each from the one that first led to it."""
        kept = self.arrays
        machine = self._machine = self._make()
        starts, letters = machine.alphabet.runs
        if list(kept.starts) != starts or list(kept.letters) != letters:
            raise _out_of_reach("a table that was kept for something else")
        self._states = [machine.start]
        for row in range(1, len(self)):
            origin, letter = kept.origins[2 * row : 2 * row + 2]
            if letter < 0:
                self._states.append(machine.restart(-1 - letter))
                continue
            found = machine.step(self._states[origin], letter)
            if found is None or isinstance(found, Finish):
                raise _out_of_reach("a table that was kept for something else")
            self._states.append(found.state)
        self._row_of = {state: row for row, state in enumerate(self._states)}
        at = 0
        while at < len(kept.acts):
            stop = at + 3 + 2 * kept.acts[at + 2]
            self._act_of[tuple(kept.acts[at:stop])] = at
            at = stop
        for number in range(len(kept.finals) // kept.slots if kept.slots else 0):
            self._finish_of[tuple(kept.finals[number * kept.slots : (number + 1) * kept.slots])] = number

    def _entry(self, found: Onward | Finish | None, row: int, letter: int) -> tuple[int, int]:
        """Return where a letter leads, and the register that takes the place before it."""
        if found is None:
            return DEAD, 0
        if isinstance(found, Finish):
            return self._act(-1, self._finish(found), ()), 0
        target = self._row(found.state, row, letter) * self.arrays.stride
        if not found.moves:
            return target, 0
        if len(found.moves) == 1 and found.moves[0][1] == HERE:
            return target, found.moves[0][0]
        return self._act(target, -1, found.moves), 0

    def _finish(self, found: Finish) -> int:
        if not self.arrays.slots:
            return found.kind
        number = self._finish_of.get(found.places)
        if number is None:
            number = self._finish_of[found.places] = len(self._finish_of)
            self.arrays.finals.extend(found.places)
        return number

    def _act(self, target: int, finish: int, moves: Moves) -> int:
        record = (target, finish, len(moves), *[each for move in moves for each in move])
        number = self._act_of.get(record)
        if number is None:
            number = self._act_of[record] = len(self.arrays.acts)
            self.arrays.acts.extend(record)
        return FIRST_ACT - number

    def _row(self, state: Any, origin: int, letter: int) -> int:
        row = self._row_of.get(state)
        if row is None:
            row = len(self._states)
            if (row + 1) * self.arrays.stride > MOST_ENTRIES:
                raise _out_of_reach(f"more than {row:,} rows of its table")
            self._row_of[state] = row
            self._states.append(state)
            self.arrays.next.extend([UNKNOWN] * self.arrays.stride)
            self.arrays.into.extend([0] * self.arrays.stride)
            self.arrays.origins.extend((origin, letter))
        return row


def _out_of_reach(words: str) -> OutOfReach:
    from fieldstick.analysis.automaton.program import OutOfReach

    return OutOfReach(words)
