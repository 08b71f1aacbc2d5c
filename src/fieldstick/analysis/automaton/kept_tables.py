"""Tables for the walkers, kept in the user's cache by what they are of: a run goes on where the last one ended."""

from __future__ import annotations

from array import array
from typing import TYPE_CHECKING

from fieldstick.analysis.automaton.asked import Joined
from fieldstick.analysis.automaton.walk_tables import Arrays, WalkTable
from fieldstick.cache import RememberedBytes

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence

    from fieldstick.analysis.automaton.asked import Asked, Reading
    from fieldstick.analysis.automaton.steps import Machine
    from fieldstick.kernels.calls import Table
    from fieldstick.syntax.parser import Parsed

WALKS = "walks"

FORM = 3
"""The form in which tables are kept, counted on with each change of it."""

MOST_REGARDED = 1 << 30
"""Characters; that a text has to have more of them at the least is not minded."""

_CODES = "IHiHiiiiB"
"""The types of the arrays that are kept, in the order of `Arrays`."""


class KeptTable:
    """A table that tells places (`reading_table`) or sorts (`sorting_table`), and its place in the cache."""

    def __init__(self, kind: str, asked: object, make: Callable[[], Machine]) -> None:
        self._make = make
        self._kept = RememberedBytes(WALKS, [FORM, kind, asked])
        data = self._kept.read()
        arrays = _unpacked(data) if data is not None else None
        self.was_kept = arrays is not None
        """Whether it need not be made from nothing."""
        self._table: WalkTable | None = None
        self._arrays = arrays

    def table(self) -> WalkTable:
        """Return the table, made when it is first asked for. Raises OutOfReach, SyntaxFault."""
        if self._table is None:
            self._table = WalkTable(self._make, self._arrays)
            if self._arrays is not None and not self._table.is_sound:
                self._table = WalkTable(self._make)
        return self._table

    @property
    def settled(self) -> Table | None:
        """A copy of the table that no thread changes, where there is one; see `WalkTable`."""
        return self._table.settled if self._table is not None else None

    @property
    def required(self) -> list[bytes]:
        """Texts that lie in every text that fits, as they are stored; none as long as there is no table."""
        return self._table.arrays.required.tobytes().split(b"\n")[:-1] if self._table is not None else []

    def save(self) -> None:
        """Keep the table, if it has grown."""
        if self._table is not None and self._table.grown:
            self._kept.save(_packed(self._table.arrays))
            self._table.grown = False


def reading_table(reading: Reading) -> KeptTable:
    """Return the table that tells where a match and its groups lie."""

    def make() -> Machine:
        from fieldstick.analysis.automaton.building import program_of
        from fieldstick.analysis.automaton.machines import TaggedMachine
        from fieldstick.analysis.automaton.threads import Automaton
        from fieldstick.syntax.parser import parse

        parsed = parse(reading.expression, reading.flags)
        return TaggedMachine(Automaton(program_of(parsed, reading.reach)), _fewest(parsed), _required(parsed))

    return KeptTable("read", _key(reading), make)


def matches_table(reading: Reading) -> KeptTable:
    """Return the table that tells where each match of a text and its groups lie, for what is sought anywhere.

    What looks behind, or may match nothing, is out of reach: where the next match begins then hangs on more than the
    character before it.
    """

    def make() -> Machine:
        from fieldstick.analysis.automaton.building import program_of
        from fieldstick.analysis.automaton.machines import TaggedMachine
        from fieldstick.analysis.automaton.program import OutOfReach
        from fieldstick.analysis.automaton.threads import Automaton
        from fieldstick.syntax.parser import parse

        parsed = parse(reading.expression, reading.flags)
        program, least = program_of(parsed, reading.reach), _fewest(parsed)
        if program.behind or not least:
            raise OutOfReach("a match of nothing, or look-behind, where a text may have several matches")
        return TaggedMachine(Automaton(program), least, _required(parsed), restarts=True)

    return KeptTable("read-all", _key(reading), make)


def sorting_table(asked: Sequence[Asked]) -> KeptTable:
    """Return the table that tells which of several a text fits first."""

    def make() -> Machine:
        from fieldstick.analysis.automaton.asked import readings_of
        from fieldstick.analysis.automaton.languages import joined_language, languages_of
        from fieldstick.analysis.automaton.machines import SortingMachine

        tables = iter(languages_of([reading for each in asked for reading in readings_of(each)]))
        required = _required_by(asked[0]) if len(asked) == 1 else ()
        return SortingMachine([joined_language(each, tables) for each in asked], min(map(_least, asked)), required)

    return KeptTable("sort", [_key(each) for each in asked], make)


def _least(asked: Asked) -> int:
    """Return a number of characters that what fits has at the least."""
    if isinstance(asked, Joined):
        if asked.how == "none":
            return 0
        return (min if asked.how == "any" else max)(map(_least, asked.parts))
    from fieldstick.syntax.parser import parse

    return _fewest(parse(asked.expression, asked.flags))


def _fewest(parsed: Parsed) -> int:
    from fieldstick.syntax.widths import width

    return min(width(parsed.tree)[0], MOST_REGARDED)


def _required_by(asked: Asked) -> list[str]:
    """Return texts that lie in all that fits; of several expressions, none where it is enough that one fits."""
    if isinstance(asked, Joined):
        return [text for part in asked.parts for text in _required_by(part)] if asked.how == "all" else []
    from fieldstick.syntax.parser import parse

    return _required(parse(asked.expression, asked.flags))


def _required(parsed: Parsed) -> list[str]:
    from fieldstick.analysis.literals import required_literals

    return [text for text in sorted(required_literals(parsed)) if text.encode(errors="replace").decode() == text]


def _key(asked: Asked) -> object:
    if isinstance(asked, Joined):
        return [asked.how, [_key(part) for part in asked.parts]]
    return [asked.expression, asked.reach, sorted(asked.flags)]


def _packed(arrays: Arrays) -> bytes:
    parts = [getattr(arrays, name) for name in Arrays.__struct_fields__[3:]]
    head = array("q", [arrays.stride, arrays.slots, arrays.least, *map(len, parts)])
    return head.tobytes() + b"".join(part.tobytes() for part in parts)


def _unpacked(data: bytes) -> Arrays | None:
    head = array("q")
    size = head.itemsize * (3 + len(_CODES))
    try:
        head.frombytes(data[:size])
        stride, slots, least, *lengths = head
        return Arrays(stride, slots, least, *_cut(data, size, lengths))
    except (ValueError, TypeError):
        return None


def _cut(data: bytes, at: int, lengths: Sequence[int]) -> Iterator[array[int]]:
    for code, length in zip(_CODES, lengths, strict=True):
        part = array(code)
        stop = at + length * part.itemsize
        part.frombytes(data[at:stop])
        if len(part) != length:
            raise ValueError("a table that was cut short")
        at = stop
        yield part
