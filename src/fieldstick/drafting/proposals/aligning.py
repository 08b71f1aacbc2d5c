"""Shapes of texts aligned, the commonest first; by words that some texts have alone, too."""

from __future__ import annotations

from collections import Counter, defaultdict
from itertools import combinations
from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.drafting.proposals.cutting import Token
from fieldstick.drafting.proposals.pieces import CAPITALISED, Choice, Piece, have_words_in_common, is_one_value
from fieldstick.drafting.proposals.shapes import FEWEST_OF_KEY, ended, of_rows

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Sequence

    from fieldstick.drafting.proposals.pieces import Form

MOST_KEYS = 20
"""Different words that shapes are aligned by, at the most."""

MOST_ALIGNED = 40
"""Pieces of a form that shapes are aligned to."""


class Column(Struct):
    """A piece of one kind that some texts have: the token of each, by the text's number."""

    kind: str
    cells: dict[int, Token]

    def texts(self, numbers: Iterable[int]) -> list[str]:
        """Return what texts of some numbers have there."""
        return [self.cells[number].text for number in numbers]

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
    order = [number for numbers in sorted(by_shape.values(), key=len, reverse=True) for number in numbers]
    for start, end in _stretches(columns):
        _slide(columns, start, end, order)
    columns = _joined(columns, order)
    form: Form = []
    slot: list[Column] = []
    for each in columns:
        if len(each.cells) < len(rows):
            slot.append(each)
            continue
        form += [*_slot(slot, len(rows), choices), each.piece]
        slot = []
    return [ended([*form, *_slot(slot, len(rows), choices)])]


def _stretches(columns: Sequence[Column]) -> Iterator[tuple[int, int]]:
    """Yield where columns begin and end that the same texts have, beside one that more have."""
    start = 0
    for end in range(1, len(columns) + 1):
        if end == len(columns) or columns[end].cells.keys() != columns[start].cells.keys():
            yield start, end
            start = end


def _slide(columns: Sequence[Column], start: int, end: int, order: Sequence[int]) -> None:
    """Let what only some texts have begin further left, where others then have the same words at the same places.

    What these have right before it is of the kind of its end, and is moved there.
    """
    having = columns[start].cells.keys()
    lacking = columns[start - 1].cells.keys() - having if start else set()
    gained = most = steps = 0
    for step in range(1, start + 1 if lacking else 1):
        left, right = columns[start - step], columns[end - step]
        if left.kind != right.kind or left.cells.keys() != having | lacking:
            break
        moved = left.texts(lacking)
        gained += have_words_in_common(right.texts(having), moved) - have_words_in_common(left.texts(having), moved)
        # What stands between two words is rather left out before the second than behind the first.
        ends_so = left.kind == "blank" and columns[end - step - 1].kind.startswith(("word", "key "))
        if gained > most or (gained == most and step == steps + 1 and ends_so):
            most, steps = gained, step
    for step in range(1, steps + 1):
        left, right = columns[start - step], columns[end - step]
        cells = right.cells | {number: left.cells.pop(number) for number in lacking}
        right.cells = {number: cells[number] for number in order if number in cells}


def _joined(columns: Sequence[Column], order: Sequence[int]) -> list[Column]:
    """Return columns of which a word, and another that some words are followed by and no others, are one."""
    made: list[Column] = []
    for start, end in _stretches(columns):
        first, some = made[-1] if made else None, columns[start:end]
        numbers = some[0].cells.keys()
        if first is None or len(some) != 2 or not numbers < first.cells.keys():
            made += some
            continue
        words = [each.texts(numbers) for each in (first, *some)]
        if not is_one_value(words, first.texts(first.cells.keys() - numbers)):
            made += some
            continue
        whole = {number: Token("word", "".join(each)) for number, *each in zip(numbers, *words, strict=True)}
        cells = first.cells | whole
        made[-1] = Column("word", {number: cells[number] for number in order if number in cells})
    return made


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
            may_lack = len(numbers) < count
            merged = _with_words_merged(forms)
            if merged is None:
                return [Choice(forms, may_lack)]
            return [merged] if may_lack else [*merged]
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


def _with_words_merged(forms: Sequence[Form]) -> list[Piece] | None:
    """Return the one form of several that differ in which word stands at one place, None where they differ in more."""
    rows = [[part for part in form if isinstance(part, Piece)] for form in forms]
    if {len(row) for row in rows} != {len(form) for form in forms} or len({len(row) for row in rows}) > 1:
        return None
    merged: list[Piece] = []
    words = 0
    for several in zip(*rows, strict=True):
        first, kinds = several[0], {each.kind for each in several}
        values = [value for each in several for value in each.values]
        if len(kinds) > 1:
            words += 1
            if not all(kind in ("word", "chunk") or kind.startswith("key ") for kind in kinds):
                return None
            if not all(map(str.isalpha, values)):
                return None
        merged.append(Piece("word" if len(kinds) > 1 else first.kind, values, first.until, first.within))
    return merged if words == 1 else None


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
