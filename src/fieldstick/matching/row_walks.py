"""Walks blocks of texts with compiled walkers by one expression: which texts fit, and where their fields lie.

What comes of a walk is what `Matcher.read` says of each text; the time is linear in the text, so that none needs a
budget. What the automaton does not hold is not walked: `None` says so, and the texts are read one by one.
"""

from __future__ import annotations

import atexit
from array import array
from collections import Counter
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fieldstick.analysis.automaton.kept_tables import matches_table, reading_table
from fieldstick.data.batch import StoredTexts
from fieldstick.data.placed import HEAD, PlacedRows, counted, mark
from fieldstick.errors import FieldstickError
from fieldstick.kernels.walkers import NATIVE
from fieldstick.matching.sought import Sought

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from fieldstick.analysis.automaton.asked import Reading
    from fieldstick.analysis.automaton.kept_tables import KeptTable
    from fieldstick.analysis.automaton.walk_tables import WalkTable
    from fieldstick.engines.protocol import Spans, Take
    from fieldstick.kernels.calls import Progress
    from fieldstick.matching.result import Layout
    from fieldstick.matching.typed_cells import Judge

WORTH_KEPT, WORTH_NEW = 100_000, 1_500_000
"""Bytes from which on it repays to walk: with a table that was kept, and with one that must be made."""

MOST_FILLED, BYTES_OF_ENTRY = 3_000, 1_000
"""Entries of a table that are worked out in one run, and bytes walked for each entry more: texts that need more of them
are read faster by the engine.
"""

USUAL_LINE = 40
"""Bytes that a text is reckoned to have at the least, for the room its row takes."""

MOST_BYTES = 1 << 30
"""Bytes of one block."""

DONE, _ASKS, _FULL = 0, 1, 2

NOT_TAKEN, FIRST_BLAME = 1, 2
"""What stands for a row that is left out: its match is not the one that is taken, or the first field is invalid, or the
next, and so on.
"""

MOST_JUDGED = 250


class Walked(Struct):
    """Rows of the texts that fit, how many these are, and how many texts each field kept from fitting."""

    placed: PlacedRows
    fit: int
    invalid: Counter[str]

    @property
    def matched(self) -> int:
        """How many texts the expression matches, whatever their fields."""
        return self.fit + self.invalid.total()


def _judges_of(layout: Layout) -> list[Judge]:
    from fieldstick.matching.typed_cells import judges_of

    return judges_of(layout)


class Walk:
    """A table in use; it is given up for good when something of it is out of reach."""

    def __init__(self, kept: KeptTable) -> None:
        self._kept = kept
        self._seen = 0
        self._walked = self._filled = 0
        self._given_up = False
        self._is_used = False

    def is_worth(self, size: int) -> bool:
        """Tell whether it repays to walk, so many bytes more having come."""
        if self._given_up:
            return False
        if not self._is_used:
            self._seen += size
            self._is_used = self._seen >= (WORTH_KEPT if self._kept.was_kept else WORTH_NEW)
            if self._is_used:
                atexit.register(self._kept.save)
        return self._is_used

    def run(self, stored: StoredTexts, step: Callable[[WalkTable, Progress], Progress]) -> Progress | None:
        """Walk texts, on from where the table lacked something until it lacks nothing more.

        None when that is given up.
        """
        self._walked += len(stored.data)
        progress: Progress = (0, 0, 0, 0, 0, 0)
        try:
            table = self._kept.table()
            table.prepare(stored.data, stored.cells)
            while True:
                progress = step(table, progress)
                if progress[0] == DONE:
                    return progress
                if progress[0] != _ASKS:
                    return None
                self._filled += 1
                if self._filled > MOST_FILLED + self._walked // BYTES_OF_ENTRY:
                    break
                table.fill(progress[4], progress[5])
        except (FieldstickError, RecursionError, OverflowError, MemoryError):
            pass
        self._given_up = True
        return None


class RowWalk(Walk):
    """Tells where the fields of a pattern lie in each match that is taken of a text that fits."""

    def __init__(self, reading: Reading, layout: Layout, take: Take) -> None:
        self._take, self._layout = take, layout
        self._several = self._take != "first" and reading.reach == "anywhere"
        super().__init__(matches_table(reading) if self._several else reading_table(reading))
        self._judges = _judges_of(layout) if layout.typed else []
        self._width = HEAD + 2 * len(layout.names) + 2
        self._rooms: list[bytearray] = []
        """Where rows were written that nobody needs any more."""

        self._reading = reading
        self._sought = Sought(self._kept)

    def __reduce__(self) -> tuple[Any, ...]:
        return made_row_walk, (self._reading, self._layout, self._take)

    @property
    def several(self) -> bool:
        """Whether a text may have several matches; none of them is then empty."""
        return self._several

    def spans(self, texts: Sequence[str]) -> list[Spans | None] | None:
        """Return where the first match of each text and its groups lie, in code points, None for one without a match.

        None where they cannot be walked. However few they are, they are: the engine could not read them in time.
        """
        encoded = [_stored(text) for text in texts]
        data, cells = b"".join([each for each in encoded if each is not None]), array("i")
        if self._several or self._given_up or None in encoded or len(data) >= MOST_BYTES:
            return None
        at = 0
        for each in encoded:
            size = len(each or b"")
            cells.extend((at, at + size))
            at += size
        assert NATIVE is not None
        native, out = NATIVE, bytearray(4 * self._width * (len(texts) + 1))

        def step(table: WalkTable, progress: Progress) -> Progress:
            return native.read(data, cells, table.walked, 0, progress[1], progress[2], out, progress[3], None, None)

        done = self.run(StoredTexts(data, len(texts), cells=cells), step)
        if done is None:
            return None
        found: list[Spans | None] = [None] * len(texts)
        rows = memoryview(out).cast("i")
        for row in range(done[3]):
            number, start, _, *places = rows[row * self._width : (row + 1) * self._width]
            text = encoded[number]
            assert text is not None
            points = [_points(text, each - start) if each >= 0 else -1 for each in places]
            pairs = zip(points[::2], points[1::2], strict=True)
            found[number] = tuple([(begin, end) if end >= 0 else (-1, -1) for begin, end in pairs])
        return found

    def rows(self, stored: StoredTexts, first: int = 1, *, as_written: bool = True) -> Walked | None:
        """Return the rows of texts, the first of number `first`; None where they cannot be walked.

        Their room is used again once they are let go. Typed cells are given as they are written, or as they stand in
        the text.
        """
        if not self.is_worth(len(stored.data)):
            return None
        assert NATIVE is not None
        native = NATIVE
        room = 4 * self._width * (max(len(stored.data) // USUAL_LINE, stored.count // 8) + 16)
        out = self._rooms.pop() if self._rooms else bytearray()
        if len(out) < room:
            out = bytearray(room)
        data, cells, ends = stored.data, stored.cells, stored.ends
        sought = self._sought.text

        def step(table: WalkTable, progress: Progress) -> Progress:
            nonlocal out
            while True:
                _, at, number, count, _, _ = progress
                if self._several:
                    restarts = table.arrays.restarts
                    progress = native.read_all(
                        data, cells, table.walked, 0, restarts, at, number, out, count, sought, ends
                    )
                else:
                    progress = native.read(data, cells, table.walked, 0, at, number, out, count, sought, ends)
                if progress[0] != _FULL:
                    return progress
                out = out + bytearray(len(out))

        done = self.run(stored, step)
        if done is None:
            return None
        self._sought.note(stored, done[3])
        placed = PlacedRows(data, out, self._width, done[3], first, numbers_of_texts=stored.numbers, rooms=self._rooms)
        if self._take not in ("first", "all"):
            self._leave_untaken_out(placed)
        if as_written or not self._judges:
            return self._judged(placed)
        places = bytes(placed.rows)
        walked = self._judged(placed)
        placed.rows[:] = places
        return walked

    def fits(self, stored: StoredTexts) -> bytearray | None:
        """See `FitWalk.fits`."""
        walked = self.rows(stored)
        if walked is None:
            return None
        found = bytearray(b"\xff\xff" * stored.count)
        mark(walked.placed, found)
        walked.placed.let_go()
        return found

    def _leave_untaken_out(self, placed: PlacedRows) -> None:
        """Leave all matches of a text out but the one that is taken; a text that has too few has none."""
        take = -1 if self._take == "last" else self._take
        assert isinstance(take, int)
        if not self._several and take in (1, -1):
            return
        placed.refused = bytearray([NOT_TAKEN]) * placed.count
        numbers = placed.numbers()
        at = 0
        while at < placed.count:
            end = at + 1
            while end < placed.count and numbers[end] == numbers[at]:
                end += 1
            taken = at + take - 1 if take > 0 else end + take
            if at <= taken < end:
                placed.refused[taken] = 0
            at = end

    def _judged(self, placed: PlacedRows) -> Walked:
        """Judge the typed fields: a text of which one is invalid does not fit, whatever its other matches hold."""
        invalid: Counter[str] = Counter()
        if self._judges and placed.count:
            placed.refused = placed.refused or bytearray(placed.count)
            placed.side = bytearray()
            for blame, judge in enumerate(self._judges, FIRST_BLAME):
                judge.judge(placed, blame)
            if self._several:
                self._refuse_whole_texts(placed)
            for blame, judge in enumerate(self._judges, FIRST_BLAME):
                if count := placed.refused.count(blame):
                    invalid[judge.name] += count
        fit = placed.left
        if self._several and self._take == "all" and placed.count:
            last = memoryview(placed.rows).cast("i")[placed.width * (placed.count - 1)]
            found = bytearray(b"\xff\xff" * (last + 1))
            mark(placed, found)
            fit = counted(found, 1)[1]
        return Walked(placed, fit, invalid)

    @staticmethod
    def _refuse_whole_texts(placed: PlacedRows) -> None:
        """Leave out all matches of a text of which one is refused, the first of these alone being blamed."""
        numbers, refused = placed.numbers(), placed.refused
        for row, blame in enumerate(bytes(refused)):
            if blame < FIRST_BLAME or refused[row] == NOT_TAKEN:
                continue
            first = row
            while first > 0 and numbers[first - 1] == numbers[row]:
                first -= 1
            end = row + 1
            while end < placed.count and numbers[end] == numbers[row]:
                end += 1
            refused[first:end] = bytes([NOT_TAKEN]) * (end - first)
            refused[row] = blame


def made_row_walk(reading: Reading, layout: Layout, take: Take) -> RowWalk | None:
    """Return a walk; None where there are no walkers."""
    return RowWalk(reading, layout, take) if NATIVE is not None else None


def _stored(text: str) -> bytes | None:
    """Return a text as UTF-8, bytes that are none kept; None where that does not give the text back."""
    if text.isascii():
        return text.encode()
    try:
        data = text.encode("utf-8", "surrogateescape")
    except UnicodeEncodeError:
        return None
    return data if data.decode("utf-8", "surrogateescape") == text else None


def _points(text: bytes, place: int) -> int:
    """Return a place in bytes as one in code points."""
    return place if text.isascii() else len(text[:place].decode("utf-8", "surrogateescape"))
