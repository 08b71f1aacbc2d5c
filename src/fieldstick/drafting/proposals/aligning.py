"""Shapes of texts aligned, the commonest first; by words that some texts have alone, too."""

from __future__ import annotations

from collections import Counter, defaultdict
from itertools import combinations
from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.drafting.proposals.cutting import Token
from fieldstick.drafting.proposals.pieces import CAPITALISED, Choice, Piece
from fieldstick.drafting.proposals.shapes import FEWEST_OF_KEY, ended, of_rows

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.drafting.proposals.pieces import Form

MOST_KEYS = 12
"""Different words that shapes are aligned by, at the most."""

MOST_ALIGNED = 24
"""Pieces of a form that shapes are aligned to."""


class Column(Struct):
    """A piece of one kind that some texts have: the token of each, by the text's number."""

    kind: str
    cells: dict[int, Token]

    @property
    def piece(self) -> Piece:
        """What stands there."""
        return Piece(self.kind.removesuffix(CAPITALISED), [each.text for each in self.cells.values()])


def keys_of(rows: Sequence[Sequence[Token]]) -> set[str]:
    """Return the words that some texts have, and others do not, but several of them."""
    counts = Counter(each for row in rows for each in {token.text for token in row if token.kind in ("word", "chunk")})
    keys = {
        each
        for each, count in counts.items()
        if FEWEST_OF_KEY <= count < len(rows) and each.isalpha() and len(each) > 1
    }
    return keys if len(keys) <= MOST_KEYS else set()


def kinds_of(keys: set[str], rows: Sequence[Sequence[Token]]) -> dict[str, str]:
    """Return the kind of each key: its own, or that of others which stand in its place and never beside it."""
    places: dict[str, set[int]] = defaultdict(set)
    within: dict[str, set[int]] = defaultdict(set)
    for number, row in enumerate(rows):
        for place, token in enumerate(row):
            if token.text in keys:
                places[token.text].add(place)
                within[token.text].add(number)
    kinds: dict[str, str] = {}
    for key in sorted(keys, key=lambda each: (-len(within[each]), each)):
        alike = [
            each
            for each in kinds
            if kinds[each] == each and places[each] & places[key] and not within[each] & within[key]
        ]
        kinds[key] = alike[0] if alike else key
        if alike:
            places[alike[0]] |= places[key]
            within[alike[0]] |= within[key]
    return kinds


def with_keys(row: Sequence[Token], kinds: dict[str, str]) -> list[Token]:
    """Return pieces of a text, of which the words that are keys are each of a kind of its own."""
    found = []
    for each in row:
        kind = f"key {kinds[each.text]}" if each.text in kinds else each.kind
        if kind in ("word", "chunk") and each.text[0].isupper() and each.text[1:].islower():
            kind += CAPITALISED
        found.append(Token(kind, each.text))
    return found


def by_alignment(rows: Sequence[Sequence[Token]], *, choices: bool = False) -> list[Form] | None:
    """Return the one form that all shapes are aligned to, one after the other, the commonest first.

    What not all texts have may be left out, or with `choices` be one of a few forms. None where that takes too many
    pieces.
    """
    by_shape: dict[tuple[str, ...], list[int]] = defaultdict(list)
    for number, tokens in enumerate(rows):
        by_shape[tuple(each.kind for each in tokens)].append(number)
    columns: list[Column] = []
    for shape in sorted(by_shape, key=lambda shape: (-len(by_shape[shape]), -len(shape))):
        columns = _with_shape(columns, shape, by_shape[shape], rows)
        if len(columns) > MOST_ALIGNED:
            return None
    form: Form = []
    slot: list[Column] = []
    for each in columns:
        if len(each.cells) < len(rows):
            slot.append(each)
            continue
        form += [*_slot(slot, len(rows), choices), each.piece]
        slot = []
    return [ended([*form, *_slot(slot, len(rows), choices)])]


def _slot(columns: Sequence[Column], count: int, choices: bool) -> Form:
    """Return what stands between two pieces that all texts have: one of a few forms, else each piece if it is there."""
    numbers = {number for each in columns for number in each.cells}
    stretches = {frozenset(each.cells) for each in columns}
    # What never stands beside the other, one of which is always there, is one of two.
    either = sum(map(len, stretches)) == count == len(numbers)
    if len(stretches) > 1 and (choices or either):
        rows = [[each.cells[number] for each in columns if number in each.cells] for number in sorted(numbers)]
        forms = of_rows(rows, every=True)
        if forms is not None and (choices or not _have_kinds_in_common(forms)):
            return [Choice(forms, len(numbers) < count)]
    made: Form = []
    before: set[int] = set()
    for each in columns:
        present = set(each.cells)
        if made and isinstance(made[-1], list) and present == before:
            made[-1].append(each.piece)
        else:
            made.append([each.piece])
        before = present
    return made


def _have_kinds_in_common(forms: Sequence[Form]) -> bool:
    """Tell whether two forms have a value of the same kind, which rather is one and the same."""
    kinds = [
        {part.kind for each in form for part in (each if isinstance(each, list) else [each]) if isinstance(part, Piece)}
        for form in forms
    ]
    return any(one & other & {"word", "number", "chunk"} for one, other in combinations(kinds, 2))


def _with_shape(
    columns: Sequence[Column], shape: Sequence[str], numbers: Sequence[int], rows: Sequence[Sequence[Token]]
) -> list[Column]:
    kinds = [each.kind for each in columns]
    made: list[Column] = []
    at = place = 0
    for column, token in (*common_places(kinds, shape), (len(kinds), len(shape))):
        made += columns[at:column]
        made += [
            Column(shape[each], {number: rows[number][each] for number in numbers}) for each in range(place, token)
        ]
        if column < len(kinds):
            columns[column].cells.update({number: rows[number][token] for number in numbers})
            made.append(columns[column])
        at, place = column + 1, token + 1
    return made


def common_places(one: Sequence[str], other: Sequence[str]) -> list[tuple[int, int]]:
    """Return where in both the longest stands that two rows hold in the same order.

    One row of the table is one number, of a bit for each piece (M. Crochemore et al., "A Fast and Practical Bit-Vector
    Algorithm for the Longest Common Subsequence Problem", 2001).
    """
    width, full = len(one), (1 << len(one)) - 1
    masks: dict[str, int] = defaultdict(int)
    for place, each in enumerate(reversed(one)):
        masks[each] |= 1 << place
    state = full
    states = [state]
    for each in reversed(other):
        met = state & masks.get(each, 0)
        state = (state + met | state - met) & full
        states.append(state)

    def longest(i: int, j: int) -> int:
        """Return how long the longest is of what is left from two places on: each bit that is not set is one."""
        left = width - i
        return left - (states[len(other) - j] & ((1 << left) - 1)).bit_count()

    found: list[tuple[int, int]] = []
    i = j = 0
    while i < width and j < len(other):
        if one[i] == other[j]:
            found.append((i, j))
            i, j = i + 1, j + 1
        elif longest(i + 1, j) >= longest(i, j + 1):
            i += 1
        else:
            j += 1
    return found
