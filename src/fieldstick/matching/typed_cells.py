"""Typed fields of many rows at once: judged and rewritten by the walkers, what is unusual by the field's own rules."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable
from decimal import Decimal
from typing import TYPE_CHECKING

from fieldstick.data.placed import HEAD
from fieldstick.data.rows import text_of
from fieldstick.kernels.walkers import NATIVE
from fieldstick.suites.fieldtypes import Unconverted

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.data.placed import PlacedRows
    from fieldstick.matching.result import Layout
    from fieldstick.suites.fieldtypes import FieldSpec

MOST_REMEMBERED = 50_000
"""Unusual texts of one field that are remembered, so that one met again costs a look."""

MOST_WRITTEN = 40
"""Bytes that a value which the walkers rewrite takes at the most."""

MOST_LISTED = 64
"""Texts of a closed list that are compared one by one; with more, each is looked up."""

MOST_DIGITS = 18


Head = tuple[bytes, bytearray, int, bytearray, int, int, int, int, bytearray, bytearray]
"""What each way of the walkers to judge a column takes first."""

Kernel = Callable[[Head], int]


class Judge:
    """Judges the cells of one field."""

    def __init__(self, group: int, name: str, spec: FieldSpec) -> None:
        self.name = name
        self._spec = spec
        self._index = HEAD + 2 * group
        self._kernel = _kernel(spec)
        self._remembered: dict[bytes, bytes | None] = {}

    def judge(self, placed: PlacedRows, blame: int) -> None:
        """Refuse the rows whose cell is invalid, and put what is written otherwise than it stands in its place.

        A row that is refused gets `blame` in `placed.refused`; one that is refused already is not looked at.
        """
        unusual = bytearray(placed.count)
        if self._kernel is None:
            unusual[:] = b"\1" * placed.count
        else:
            used = len(placed.side)
            placed.side.extend(bytes(MOST_WRITTEN * (placed.count + 1)))
            head = (placed.data, placed.side, used, placed.rows, placed.width, placed.count, self._index, blame)
            used = self._kernel((*head, placed.refused, unusual))
            del placed.side[used:]
        at = unusual.find(1)
        if at >= 0:
            self._judge_unusual(placed, unusual, at, blame)

    def _judge_unusual(self, placed: PlacedRows, unusual: bytearray, at: int, blame: int) -> None:
        view = memoryview(placed.rows).cast("i")
        data, side, size = placed.data, placed.side, len(placed.data)
        while at >= 0:
            place = at * placed.width + self._index
            start, end = view[place], view[place + 1]
            if start >= 0 and not placed.refused[at]:
                cell = data[start:end]
                written = self._remembered[cell] if cell in self._remembered else self._written(cell)
                if written is None:
                    placed.refused[at] = blame
                elif written != cell:
                    view[place] = size + len(side)
                    view[place + 1] = size + len(side) + len(written)
                    side += written
            at = unusual.find(1, at + 1)

    def _written(self, cell: bytes) -> bytes | None:
        """Return a cell as it is written; None when it is invalid."""
        if len(self._remembered) >= MOST_REMEMBERED:
            self._remembered.clear()
        try:
            value = self._spec.value(cell.decode("utf-8", "surrogateescape"))
        except Unconverted:
            written = None
        else:
            written = (text_of(value) or "").encode("utf-8", "surrogateescape")
        self._remembered[cell] = written
        return written


def judges_of(layout: Layout) -> list[Judge]:
    """Return what judges the typed fields of a pattern, in their order."""
    found = []
    for index in layout.typed:
        spec = layout.specs[index]
        assert spec is not None
        found.append(Judge(index + 1, layout.names[index], spec))
    return found


def _kernel(spec: FieldSpec) -> Kernel | None:
    """Return the walkers' way to judge a field; None where there is none."""
    assert NATIVE is not None
    native = NATIVE
    if spec.type == "boolean":
        texts = [*spec.true, *spec.false]
        written = [b"true"] * len(spec.true) + [b"false"] * len(spec.false)
        return None if spec.one_of else _listing(texts, written)
    if spec.one_of:
        plain = spec.type == "text" and spec.least is None and spec.most is None
        return _listing(list(spec.one_of), None) if plain else None
    if spec.type in ("integer", "decimal"):
        mark, group = _byte(spec.decimal_mark), _byte(spec.group_mark)
        least, most = _scaled(spec.least), _scaled(spec.most)
        if mark is None or group is None or least is None or most is None:
            return None
        with_fraction, bounds = spec.type == "decimal", (least or None, most or None)
        return lambda head: native.numbers(*head, with_fraction, mark, group, *bounds)
    if spec.type in ("date", "time", "timestamp") and spec.layout is None:
        given = [each for each in (spec.least, spec.most) if each is not None]
        offsets = {getattr(each, "tzinfo", None) is not None for each in given}
        if len(offsets) > 1:
            return None
        moments = (spec.type != "time", spec.type != "date", _micros(spec.least), _micros(spec.most), True in offsets)
        return lambda head: native.moments(*head, *moments)
    return None


def _listing(texts: Sequence[str], written: list[bytes] | None) -> Kernel | None:
    assert NATIVE is not None
    native = NATIVE
    if len(texts) > MOST_LISTED:
        return None
    try:
        listed = [text.encode("utf-8", "surrogateescape") for text in texts]
    except UnicodeEncodeError:
        return None
    return lambda head: native.listed(*head, listed, written)


def _byte(mark: str | None) -> int | None:
    """Return a mark as a byte, -1 where there is none; None where it is more than one byte."""
    if mark is None:
        return -1
    return ord(mark) if len(mark) == 1 and mark.isascii() else None


def _scaled(bound: int | Decimal | None) -> tuple[int, int] | tuple[()] | None:
    """Return a bound as an integer and the power of ten that divides it, () for none; None for too large a one."""
    if bound is None:
        return ()
    sign, digits, exponent = Decimal(bound).as_tuple()
    assert isinstance(exponent, int)
    if exponent > 0:
        digits, exponent = (*digits, *[0] * min(exponent, MOST_DIGITS + 1)), 0
    if len(digits) > MOST_DIGITS or -exponent > MOST_DIGITS:
        return None
    return int("".join(map(str, digits)) or "0") * (-1 if sign else 1), -exponent


_EPOCH = dt.datetime(1970, 1, 1)


def _micros(bound: dt.date | dt.time | dt.datetime | None) -> int | None:
    """Return a bound as microseconds since 1970 (in UTC if it has an offset), or since midnight."""
    if bound is None:
        return None
    if isinstance(bound, dt.time):
        offset = bound.utcoffset() or dt.timedelta()
        since = dt.datetime.combine(_EPOCH, bound.replace(tzinfo=None)) - offset - _EPOCH
    elif isinstance(bound, dt.datetime):
        since = bound.replace(tzinfo=None) - (bound.utcoffset() or dt.timedelta()) - _EPOCH
    else:
        since = dt.datetime.combine(bound, dt.time()) - _EPOCH
    return since // dt.timedelta(microseconds=1)
