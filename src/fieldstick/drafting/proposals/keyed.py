"""Texts of keys with their values, of which some may be absent, or which come in another order from text to text."""

from __future__ import annotations

import re
from collections import Counter
from itertools import islice, pairwise
from typing import TYPE_CHECKING, NamedTuple

from fieldstick.drafting.proposals.cutting import tokens_of
from fieldstick.drafting.proposals.pieces import AnyOrder, Piece, aligned
from fieldstick.drafting.proposals.shapes import form_of
from fieldstick.lean import compiled_later
from fieldstick.matching.key_order import common_order

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.drafting.proposals.pieces import Begin, Choice, Form

FEWEST_KEYS, MOST_KEYS = 2, 30
"""Different keys from which on, and up to which, texts are told by them."""

_KEYS = tuple(
    compiled_later(rf'(?:(?<=[\s,;&|(\[{{])|\A)([^\W\d][\w.-]*){mark}|"(?:[^"\\]|\\.)*"') for mark in ("=", ": ")
)
"""Where a key stands, or what is quoted, in which none does."""

_LAST = tuple(
    compiled_later(rf'"(?:[^"\\]|\\.)*"|{value}*?(?=[,;)\]}}|&.]?{end})')
    for value, end in ((r'[^\s"]', r"(?:\s|\Z)"), (r'[^"]', r"\Z"))
)
"""The value of the last key: up to a blank, or where others hold these, up to the end."""
_ENDED = compiled_later(r"[\s,;&|]+\Z")


class _Read(NamedTuple):
    """A text by its keys: what stands before them, each with its value, what parts them, and what stands behind."""

    head: str
    values: dict[str, str]
    between: set[str]
    tail: str


def by_keys(texts: Sequence[str]) -> list[Form] | None:
    """Return the one form of texts with the same keys, where some of these may be absent, or are in another order.

    None for others, and where all have all keys in one order, so that they can be read piece by piece.
    """
    for mark, keys in zip(("=", ":"), _KEYS, strict=True):
        found = [_read(text, keys, _LAST[0]) for text in texts]
        rows = [row for row in found if row is not None]
        if len(rows) < len(texts):
            continue
        held = "".join(value for row in rows for value in islice(row.values.values(), len(row.values) - 1))
        parted = "".join(each for row in rows for each in row.between)
        if any(map(str.isspace, held)) and parted.strip():
            rows = [row for text in texts if (row := _read(text, keys, _LAST[1])) is not None]
        return _form(rows, mark)
    return None


def _read(text: str, keys: re.Pattern[str], ends: re.Pattern[str]) -> _Read | None:
    places = [each for each in keys.finditer(text) if each[1]]
    names = [each[1] for each in places]
    if not names or len(set(names)) < len(names):
        return None
    values, between = {}, set()
    for one, other in pairwise(places):
        whole = text[one.end() : other.start()]
        ended = _ENDED.search(whole)
        if ended is None:
            return None
        values[one[1]] = whole[: ended.start()]
        between.add(ended[0])
    last = ends.match(text, places[-1].end())
    if last is None:
        return None
    values[names[-1]] = last[0]
    return _Read(text[: places[0].start()], values, between, text[last.end() :])


def _form(rows: Sequence[_Read], mark: str) -> list[Form] | None:
    between = {each for row in rows for each in row.between}
    counts = Counter(key for row in rows for key in row.values)
    if len(between) != 1 or not FEWEST_KEYS <= len(counts) <= MOST_KEYS:
        return None
    sequences = [keys for keys, _ in Counter(tuple(row.values) for row in rows).most_common()]
    parting = between.pop()
    heads = [row.head for row in rows]
    first = 0
    while all(len(each) > first and each[first] == sequences[0][first] for each in sequences):
        first += 1
    parted = not first and all(each.endswith(parting) for each in heads)
    order = common_order([each[first:] for each in sequences])
    any_order = order is None or not (first or any(counts[key] == len(rows) for key in order))
    if any_order and parted:
        heads = [each.removesuffix(parting) for each in heads]
    head, tail = _beside(heads), _beside([row.tail for row in rows])
    if len(sequences) == 1 or head is None or tail is None:
        return None
    pairs = {}
    for key, count in counts.items():
        stays = count == len(rows) and (not any_order or key in sequences[0][:first])
        pairs[key] = _pair(key, mark, [row.values[key] for row in rows if key in row.values], stays=stays)
    form: Form = [*head]
    for key in sequences[0][:first]:
        form += [*(_parting(parting, len(rows)) if key != sequences[0][0] else ()), *pairs[key]]
    if order is None or any_order:
        left = [pairs[key] for key in counts if key not in sequences[0][:first]]
        sizes = sorted({len(row.values) - first for row in rows})
        begin: Begin = "parted" if first or parted else "within" if head else "text"
        return [[*form, AnyOrder(left, _parting(parting, len(rows)), (sizes[0], sizes[-1]), begin), *tail]]
    # What may be absent has what parts it from the others on the side where one always is.
    started = first > 0
    for key in order:
        may_lack = counts[key] < len(rows)
        apart = _parting(parting, counts[key])
        pair = [*apart, *pairs[key]] if started else [*pairs[key], *(apart if may_lack else ())]
        form += [pair] if may_lack else pair
        started = started or not may_lack
    return [[*form, *tail]]


def _pair(key: str, mark: str, values: list[str], *, stays: bool) -> list[Piece]:
    """Return a key and its value, without its quotes where all are quoted.

    Where it `stays` in all texts, one that is always the same is no value; else it tells that the key is there.
    """
    count = len(values)
    pieces = [Piece(f"pair {key}", [key] * count), Piece(mark, [mark] * count)]
    if mark == ":":
        pieces.append(Piece("blank", [" "] * count))
    same = len(set(values)) == 1
    if same and stays:
        return [*pieces, *aligned([tokens_of(each) for each in values])]
    if all(len(each) > 1 and each[0] == each[-1] == '"' for each in values):
        quote = Piece('"', ['"'] * count)
        return [*pieces, quote, Piece("value" if same else "quoted", [each[1:-1] for each in values]), quote]
    inner = form_of(values) or []
    if len(inner) > 1 and _is_number(inner[0]) and all(_is_same(each) for each in inner[1:]):
        # Behind a number stands its unit.
        return [*pieces, *(each for each in inner if isinstance(each, Piece))]
    return [*pieces, Piece("value", values)]


def _is_number(part: Piece | list[Piece] | Choice | AnyOrder) -> bool:
    return isinstance(part, Piece) and part.kind == "number"


def _is_same(part: Piece | list[Piece] | Choice | AnyOrder) -> bool:
    return isinstance(part, Piece) and len(set(part.values)) == 1 and not part.values[0].isdecimal()


def _parting(text: str, count: int) -> list[Piece]:
    runs = re.findall(r"\s+|\S", text)
    return [Piece("blank" if each.isspace() else each, [each] * count) for each in runs]


def _beside(texts: Sequence[str]) -> Form | None:
    """Return the form of what stands before the keys, or behind; None where that has several."""
    return form_of(texts) if any(texts) else []
