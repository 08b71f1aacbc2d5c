"""Texts of keys with their values, of which some may be absent, or which come in another order from text to text."""

from __future__ import annotations

import re
from collections import Counter
from itertools import islice, pairwise, takewhile
from typing import TYPE_CHECKING

from fieldstick.drafting.context import common_start
from fieldstick.drafting.proposals.cutting import tokens_of
from fieldstick.drafting.proposals.labelled_lines import ReadByKeys, labelled_rows
from fieldstick.drafting.proposals.parting import by_parting
from fieldstick.drafting.proposals.pieces import AnyOrder, Choice, Piece, aligned
from fieldstick.drafting.proposals.shapes import form_of
from fieldstick.drafting.proposals.special_pieces import SPECIAL
from fieldstick.lean import compiled_later
from fieldstick.matching.keys import BEFORE_KEY, KEY, QUOTED_VALUE, common_order

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from fieldstick.drafting.proposals.pieces import Begin, Form

FEWEST_KEYS, MOST_KEYS = 2, 30
"""Different keys from which on, and up to which, texts are told by them."""

_KEYS = tuple(compiled_later(rf"{BEFORE_KEY}({KEY}){mark}|{QUOTED_VALUE}") for mark in ("=", ": "))
"""Where a key stands, or what is quoted, in which none does."""

_LAST = tuple(
    compiled_later(rf"{QUOTED_VALUE}|{value}*?(?=[,;)\]}}|&]?{end}|\.\Z)")
    for value, end in ((r'[^\s"]', r"(?:\s|\Z)"), (r'[^"]', r"\Z"))
)
"""The value of the last key: up to a blank, or where others hold these, up to the end."""
_ENDED = compiled_later(r"[\s,;&|]+\Z")


def by_keys(texts: Sequence[str]) -> list[Form] | None:
    """Return the one form of texts with the same keys, where some of these may be absent, or are in another order.

    None for others, and where all have all keys in one order, each of one word, so that they can be read piece by
    piece. Lines of a record that begin with what their value is of are told as keys before others are.
    """
    if (labelled := labelled_rows(texts)) is not None:
        mark, records = labelled
        return _form(records, mark)
    for mark, keys in zip(("=", ":"), _KEYS, strict=True):
        rows = _all_read(texts, keys, _LAST[0])
        if rows is None:
            continue
        inner = (value for row in rows for value in islice(row.values.values(), len(row.values) - 1))
        held = "".join(value for value in inner if value[:1] != '"')
        parted = "".join(each for row in rows for each in row.between)
        tails = [row.tail for row in rows]
        behind = form_of(tails) if any(tails) else []
        several = behind is None or any(not isinstance(each, Piece) for each in behind)
        if several or (any(map(str.isspace, held)) and parted.strip()):
            rows = _all_read(texts, keys, _LAST[1]) or rows
        return _form(rows, mark)
    return None


def _all_read(texts: Sequence[str], keys: re.Pattern[str], ends: re.Pattern[str]) -> list[ReadByKeys] | None:
    """Return all texts by their keys; None as soon as one has none."""
    rows = []
    for text in texts:
        row = _read(text, keys, ends)
        if row is None:
            return None
        rows.append(row)
    return rows


def _read(text: str, keys: re.Pattern[str], ends: re.Pattern[str]) -> ReadByKeys | None:
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
    return ReadByKeys(text[: places[0].start()], values, between, text[last.end() :])


def _form(rows: Sequence[ReadByKeys], mark: str) -> list[Form] | None:
    between = {each for row in rows for each in row.between}
    counts = Counter(key for row in rows for key in row.values)
    sequences = [keys for keys, _ in Counter(tuple(row.values) for row in rows).most_common()]
    if len(between) != 1 or not FEWEST_KEYS <= len(counts) <= MOST_KEYS:
        return None
    plain = len(sequences) == 1 and not rows[0].blanks
    if plain and (not any(map(_has_words, rows)) or any(_is_said([row.values[key] for row in rows]) for key in counts)):
        return None
    return _Keys(rows, mark, between.pop(), sequences, counts).form()


def _has_words(row: ReadByKeys) -> bool:
    """Tell whether a value is of several words, so that not every blank parts keys."""
    return any(" " in each and each[:1] != '"' for each in row.values.values())


FEWEST_OF_STEMS = 8
"""Values of which it is no chance that each of several words begins alike in all."""

_STEM = compiled_later(r"\W*[^\W\d_]{2}")
_SMALL_WORD = compiled_later(r"(?<!\S)[a-z]{2,}(?!\S)")


def _is_said(values: Sequence[str]) -> bool:
    """Tell whether values differ and say something in the same words, which others may tell piece by piece."""
    if len(set(values)) == 1:
        return False
    words = set(_SMALL_WORD.findall(values[0]))
    for each in values:
        words &= set(_SMALL_WORD.findall(each)) if words else words
    apart = [each.split(" ") for each in values]
    if words or len(values) < FEWEST_OF_STEMS or len(set(map(len, apart))) > 1:
        return bool(words)
    return sum(_STEM.match(common_start(each)) is not None for each in zip(*apart, strict=True)) > 1


class _Keys:
    """The keys of texts, those first that all begin with; `counts` is how many texts have each."""

    def __init__(
        self,
        rows: Sequence[ReadByKeys],
        mark: str,
        between: str,
        sequences: Sequence[tuple[str, ...]],
        counts: Mapping[str, int],
    ) -> None:
        self._rows, self._mark, self._between, self._counts = rows, mark, between, counts
        same = takewhile(lambda keys: len(set(keys)) == 1, zip(*sequences, strict=False))
        self._first = [keys[0] for keys in same]
        self._left = [key for key in counts if key not in self._first]
        self._order = common_order([keys[len(self._first) :] for keys in sequences])

    def form(self) -> list[Form] | None:
        """Return the form of the texts; None where what stands beside the keys has several."""
        order = self._order
        if not self._first and not any(self._counts[key] == len(self._rows) for key in order or ()):
            # What parts keys would stand before the first of them, or not, as it comes.
            order = None
        heads = [row.head for row in self._rows]
        parted = order is None and not self._first and all(each.endswith(self._between) for each in heads)
        head = _beside([each.removesuffix(self._between) for each in heads] if parted else heads)
        tail = _beside([row.tail for row in self._rows])
        if head is None or tail is None:
            return None
        form: Form = [*head]
        for number, key in enumerate(self._first):
            form += [*(self._parting(key) if number else ()), *self._always(key)]
        if order is not None:
            return [[*form, *self._in_order(order), *tail]]
        if any(self._rows[0].blanks and not row.values.get(key, key) for row in self._rows for key in self._left):
            # One that is empty is told from others by where it stands.
            return None
        sizes = [len(row.values) - len(self._first) for row in self._rows]
        begin: Begin = "parted" if self._first or parted else "within" if head else "text"
        left = [self._pair(key, stays=False) for key in self._left]
        return [[*form, AnyOrder(left, self._parting(self._left[0]), (min(sizes), max(sizes)), begin), *tail]]

    def _in_order(self, order: Sequence[str]) -> Form:
        """Return keys in order: what parts one that may be absent from others is on the side where one always is."""
        form: Form = []
        started = bool(self._first)
        for key in order:
            may_lack = self._counts[key] < len(self._rows)
            apart = self._parting(key) if started or may_lack else []
            if may_lack:
                pair = self._filled(key)
                bare = self._empty(key, pair)
                pair, bare = ([*apart, *each] if started else [*each, *apart] for each in (pair, bare))
                form.append(Choice([[*pair], [*bare]], may_lack=True) if len(bare) > len(apart) else pair)
            else:
                form += [*apart, *self._always(key)] if started else [*self._always(key), *apart]
            started = started or not may_lack
        return form

    def _always(self, key: str) -> Form:
        """Return a key that all texts have, and its value; one that is empty in some of them is absent there."""
        pieces = self._filled(key)
        bare = self._empty(key, pieces)
        if not bare:
            return [*self._pair(key, stays=True)]
        fixed = self._up_to_mark(pieces, len(self._rows))
        value, blanks = pieces[len(fixed) :], bare[len(fixed) :]
        # Of what may be any text, blanks alone are none.
        return [*fixed, Choice([[*value], [*blanks]], may_lack=False) if blanks else value]

    def _filled(self, key: str) -> list[Piece]:
        """Return a key and its value where that is not empty."""
        return self._pair(key, stays=False, rows=[row for row in self._rows if row.values.get(key)])

    def _empty(self, key: str, pair: Sequence[Piece]) -> list[Piece]:
        """Return a key and blanks where a record has it without a value; nothing where none does, or all do."""
        left = [row.blanks[key][1] for row in self._rows if key in row.blanks and not row.values[key]]
        if not left or len(left) == self._counts[key]:
            return []
        return [*self._up_to_mark(pair, len(left)), *([Piece("blank", ["", *left])] if any(left) else [])]

    def _up_to_mark(self, pair: Sequence[Piece], count: int) -> list[Piece]:
        """Return a key with the mark behind it, as so many records have it."""
        end = 1 + [each.kind for each in pair].index(self._mark)
        return [Piece(each.kind, [each.values[0]] * count) for each in pair[:end]]

    def _pair(self, key: str, *, stays: bool, rows: Sequence[ReadByKeys] = ()) -> list[Piece]:
        """Return a key and its value, and blanks behind that."""
        having = [row for row in rows or self._rows if key in row.values]
        behind = [row.blanks[key][2] if key in row.blanks else "" for row in having]
        pair = self._key_and_value(key, having, stays=stays)
        return [*pair, Piece("blank", behind)] if any(behind) else pair

    def _key_and_value(self, key: str, having: Sequence[ReadByKeys], *, stays: bool) -> list[Piece]:
        """Return a key and its value, without its quotes where all are quoted.

        Where it `stays` in all texts, one that is always the same is no value; else it tells that the key is there.
        """
        values = [row.values[key] for row in having]
        count = len(values)
        around = [row.blanks.get(key, ("", " " * (self._mark == ":"), "", self._mark)) for row in having]
        before, after, marks = ([each[at] for each in around] for at in (0, 1, 3))
        pieces = [
            Piece(f"pair {key}", [key] * count),
            *([Piece("blank", before)] if any(before) else []),
            Piece(self._mark, marks),
            *([Piece("blank", after)] if any(after) else []),
        ]
        same = len(set(values)) == 1
        if same and stays:
            return [*pieces, *aligned([tokens_of(each) for each in values])]
        if all(len(each) > 1 and each[0] == each[-1] == '"' for each in values):
            quote = Piece('"', ['"'] * count)
            bare = [each[1:-1] for each in values]
            is_plain = not same and '"' not in "".join(bare)
            return [*pieces, quote, Piece("quoted" if is_plain else "value", bare, '"'), quote]
        inner = form_of(values) or []
        varying = [each for each in inner if not _is_same(each)]
        has_unit = len(inner) > 1 and varying == inner[:1] and _is_number(inner[0])
        if has_unit or (len(varying) > 1 and all(map(_is_moment, varying))):
            # Behind a number stands its unit, between two dates what they have to do with each other.
            return [*pieces, *(each for each in inner if isinstance(each, Piece))]
        return [*pieces, Piece("value", values, self._between.strip()[:1] or self._between[0])]

    def _parting(self, key: str) -> list[Piece]:
        """Return what parts a key from another."""
        runs = re.findall(r"\s+|\S", self._between)
        count = self._counts[key]
        return [Piece("blank" if each.isspace() else each, [each] * count) for each in runs]


def _is_number(part: Piece | list[Piece] | Choice | AnyOrder) -> bool:
    return isinstance(part, Piece) and part.kind == "number"


def _is_moment(part: Piece | list[Piece] | Choice | AnyOrder) -> bool:
    return isinstance(part, Piece) and part.kind in SPECIAL


def _is_same(part: Piece | list[Piece] | Choice | AnyOrder) -> bool:
    return isinstance(part, Piece) and len(set(part.values)) == 1 and not part.values[0].isdecimal()


def _beside(texts: Sequence[str]) -> Form | None:
    """Return the form of what stands before the keys, or behind, parted by its marks; None where it has several."""
    if not any(texts):
        return []
    parted = by_parting(texts, "gap") if (form := form_of(texts)) is None else None
    return form if parted is None else parted[0]
