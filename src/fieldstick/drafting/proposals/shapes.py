"""Texts that are cut alike, read piece by piece; with a stretch more they are the same, and that may be left out."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from functools import lru_cache
from itertools import takewhile
from typing import TYPE_CHECKING

from fieldstick.drafting.context import common_start
from fieldstick.drafting.proposals.cutting import Told, tokens_of, told
from fieldstick.drafting.proposals.literal_numbers import are_literal
from fieldstick.drafting.proposals.pieces import (
    AnyOrder,
    Choice,
    Piece,
    aligned,
    coming_again,
    complexity,
    have_words_in_common,
    is_one_value,
)
from fieldstick.drafting.proposals.special_pieces import DURATION, SPECIAL, VERSION
from fieldstick.drafting.proposals.spelling import OFTEN, are_of_base_16

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from fieldstick.drafting.proposals.cutting import Cut, Token
    from fieldstick.drafting.proposals.pieces import Form

FEW_FORMS, MOST_FORMS, FOR_A_FORM = 3, 5, 6
"""Ways in which examples are cut that are told from one another, of few examples and of many; so many for each."""

MOST_PIECES = 200
"""Pieces of a text beyond which it is not read piece by piece."""

RARE = 12
"""One in so many examples may be of a form that is left out."""

FEWEST_ALIKE = 4
"""Pieces from which on what all of them begin or end with is taken to stay."""

FEW_VALUES = 8
"""Different chunks up to which they are listed as they stand, where they come often."""

FEW_MARKS = 3
"""Different marks that all chunks begin or end with, which are told from the rest of them."""

FEWEST_OF_KEY = 3
"""Texts from which on what comes in them is no chance."""


def by_shape(texts: Sequence[str], needed: set[str], cut: Cut) -> list[Form] | None:
    """Return the forms of texts, pieces by place; None where there are too many."""
    return of_rows([tokens_of(text, cut) for text in texts], every=bool(needed))


def of_rows(rows: Sequence[Sequence[Token]], *, every: bool) -> list[Form] | None:
    """Return the forms of texts that are cut, pieces by place; of `every` text, or without those of rare forms."""
    if max(map(len, rows), default=0) > MOST_PIECES:
        return None
    by_shape: dict[tuple[str, ...], list[Sequence[Token]]] = defaultdict(list)
    for row in rows:
        by_shape[tuple(each.kind for each in row)].append(row)
    folded = _repeating(by_shape)
    if folded is not None:
        return [folded]
    most = min(MOST_FORMS, max(FEW_FORMS, len(rows) // FOR_A_FORM))
    if len(by_shape) > 4 * most:
        return None
    forms: list[Form] = []
    for shape in sorted(by_shape, key=lambda shape: (-len(shape), -len(by_shape[shape]))):
        pieces = aligned(by_shape[shape])
        if not any(_take_in(known, shape, pieces) for known in forms):
            forms.append([*pieces])
    rare = [form for form in forms if _support(form) * RARE < len(rows) and not every]
    kept = [form for form in forms if form not in rare]
    lost = sum(map(_support, rare)) * RARE > len(rows)
    return None if len(kept) > most or lost else [ended(form) for form in kept]


def _repeating(by_shape: Mapping[tuple[str, ...], list[Sequence[Token]]]) -> Form | None:
    """Return the form of texts of words parted alike, of any number; None where that is not what they are."""
    lengths = {len(shape) for shape in by_shape}
    parting = {kind for shape in by_shape for kind in shape[1::2]}
    words = {kind for shape in by_shape for kind in shape[::2]}
    if len(lengths) < 3 or words != {"word"} or len(parting) != 1 or any(length % 2 == 0 for length in lengths):
        return None
    rows = [row for some in by_shape.values() for row in some]
    tabs = {each.text == "\t" for row in rows for each in row[1::2]}
    if len(tabs) > 1:
        # A tab parts cells, and blanks the words in them.
        return None
    return coming_again([[row[:1], *(row[at : at + 2] for at in range(1, len(row), 2))] for row in rows])


def _take_in(form: Form, shape: tuple[str, ...], pieces: list[Piece]) -> bool:
    """Take a shorter form into a longer one that has a stretch more; tell whether that is so."""
    bare = [each for each in form if isinstance(each, Piece)]
    if len(bare) < len(form):
        if any(isinstance(each, Choice) for each in form):
            return False
        full: list[Piece] = []
        for each in form:
            full += each if isinstance(each, list) else [each] if isinstance(each, Piece) else []
        for some in (bare, full):
            if [each.kind for each in some] == list(shape):
                for known, piece in zip(some, pieces, strict=True):
                    known.values += piece.values
                return True
        return False
    flat = [each.kind for each in bare]
    more = len(flat) - len(shape)
    places = [
        at
        for at in range(len(shape), -1, -1)
        if more > 0 and flat[:at] == list(shape[:at]) and flat[at + more :] == list(shape[at:])
    ]
    if not places:
        return False

    def fixed(at: int) -> int:
        """Return how many pieces are the same in all texts, or of the same words, when it begins at a place."""
        both = zip([*bare[:at], *bare[at + more :]], pieces, strict=True)
        apart = "blank" in flat[at : at + more]
        return sum(
            len({*known.values, *piece.values}) == 1 or (apart and have_words_in_common(known.values, piece.values))
            for known, piece in both
        )

    # Of those that agree best, the one that ends as late as it can begins with what parts it from the rest.
    at = max(places, key=lambda at: (fixed(at), flat[at : at + more] == ["blank", "word"]))
    if _unlike([*bare[:at], *bare[at + more :]], pieces):
        return False
    some = bare[at : at + more]
    if at and more == 2 and is_one_value([each.values for each in bare[at - 1 : at + 2]], pieces[at - 1].values):
        first = bare[at - 1]
        first.values = list(map("".join, zip(first.values, *(each.values for each in some), strict=True)))
        form[at : at + more] = []
    else:
        form[at : at + more] = [some]
    for known, piece in zip([*bare[:at], *bare[at + more :]], pieces, strict=True):
        known.values += piece.values
    return True


def _unlike(known: list[Piece], pieces: list[Piece]) -> bool:
    """Tell whether pieces that were the same again and again would no longer be: two words, or a word and a mark."""
    kept = [set(each.values) for each in known if len(each.values) >= FOR_A_FORM]
    if len(kept) < len(known):
        return False
    broken = [own for own, piece in zip(kept, pieces, strict=True) if len(own) == 1 and own != set(piece.values)]
    return sum(any(map(str.isalpha, min(each))) for each in broken) > 1


def _support(form: Form) -> int:
    return max((len(each.values) for each in form if isinstance(each, Piece)), default=0)


def ended(form: Form) -> Form:
    """Tell what chunks have in the middle from what all of them begin and end with."""
    made: Form = []
    for each in form:
        if isinstance(each, list):
            made.append([inner for piece in each for inner in _ends(piece)])
        elif isinstance(each, (Choice, AnyOrder)):
            made.append(each)
        elif each.kind == "chunk" and are_literal(each.values):
            made.append(Piece("literal", each.values))
        else:
            for piece in _without_sign(each):
                made += _ends(piece) if isinstance(piece, Piece) else [piece]
    return made


def _without_sign(piece: Piece) -> Form:
    """Tell a sign that some chunks begin with from the rest of them."""
    signed = [each[0] for each in piece.values if each[:1] in ("+", "-")]
    if piece.kind != "chunk" or not FEWEST_OF_KEY <= len(signed) < len(piece.values) or "" in piece.values:
        return [piece]
    rest = [each.lstrip("+-") if each[0] in "+-" else each for each in piece.values]
    return [[Piece("mark", signed)], Piece("chunk", rest, piece.until)] if all(rest) else [piece]


def _ends(piece: Piece) -> list[Piece]:
    values = piece.values
    different = set(values)
    if piece.kind != "chunk" or len(values) < FEWEST_ALIKE or len(different) == 1 or all(map(_is_marks, values)):
        return [piece]
    if len(different) <= FEW_VALUES and len(values) >= OFTEN * len(different):
        return _marks_apart(piece)
    if are_of_base_16(different):
        return [piece]
    # Blanks that fill a column up are no part of what stays, where some values have more of them.
    before = _shared_start(values).rstrip()
    rests = [each[len(before) :] for each in values]
    head = _one_of_few([each[:1] for each in rests]) if all(each[1:] for each in rests) else None
    rests = [each[1:] for each in rests] if head is not None else rests
    after = _shared_start([each[::-1] for each in rests])[::-1].lstrip()
    middle = [each[: len(each) - len(after)] for each in rests]
    tail = _one_of_few([each[-1:] for each in middle], cases=False) if not after and all(middle) else None
    middle = [each[:-1] for each in middle] if tail is not None else middle
    parts = [
        Piece("word", [before] * len(values)),
        *([head] if head is not None else []),
        Piece("chunk", middle, after[:1], _is_mark(before[-1:]) and _is_mark(after[:1])),
        *([tail] if tail is not None else []),
        Piece("word", [after] * len(values)),
    ]
    return [each for each in parts if any(each.values)]


def _marks_apart(piece: Piece) -> list[Piece]:
    """Tell a key and marks that all values of a few begin and end with from the values themselves."""
    values = piece.values
    key = re.match(r"([^\W\d]\w*)=", common_start(values))
    if key is not None and all(len(each) > key.end() for each in values):
        rest = Piece(piece.kind, [each[key.end() :] for each in values], piece.until, piece.within)
        return [Piece("word", [key[1]] * len(values)), Piece("=", ["="] * len(values)), *_marks_apart(rest)]
    head = "".join(takewhile(_is_mark, common_start(values)))
    rests = [each[len(head) :] for each in values]
    tail = "".join(takewhile(_is_mark, common_start([each[::-1] for each in rests])))[::-1]
    middle = [each[: len(each) - len(tail)] for each in rests]
    if not (head or tail) or not all(middle):
        return [piece]
    inner = Piece("chunk", middle, tail[:1], _is_mark(head[-1:]) and _is_mark(tail[:1]))
    before, after = ([Piece(mark, [mark] * len(values)) for mark in marks] for marks in (head, tail))
    return [*before, inner, *after]


def _is_mark(character: str) -> bool:
    return character != "" and not character.isalnum() and not character.isspace()


def _is_marks(text: str) -> bool:
    return all(map(_is_mark, text))


def _one_of_few(ends: Sequence[str], *, cases: bool = True) -> Piece | None:
    """Return what many chunks begin or end with: one of two or three marks, or a letter small or capital; else None."""
    times = Counter(ends)
    if not 1 < len(times) <= FEW_MARKS or min(times.values()) < FEWEST_OF_KEY:
        return None
    marks = all(map(_is_mark, times))
    one = cases and len(times) == 2 and len({each.casefold() for each in times}) == 1
    return Piece("mark", [*ends]) if marks or one else None


def _shared_start(values: Sequence[str]) -> str:
    """Return what texts begin with; of few, no letters or digits where they go on with more of the like."""
    found = common_start(values)
    if len(values) < 3 * FEWEST_ALIKE and any(each[len(found) : len(found) + 1].isalnum() for each in values):
        found = re.sub(r"[^\W_]+\Z", "", found)
    # One small letter that all words have is part of them.
    if any(each[len(found) : len(found) + 1].islower() for each in values):
        found = re.sub(r"(?<![^\W_])[a-z]\Z", "", found)
    # A first digit that all numbers have is part of them, and so is all before a fraction.
    goes_on = any(each[len(found) : len(found) + 1].isdecimal() for each in values)
    return re.sub(r"(?:(?<!\d)\d|(?<![\w.])\d+\.\d*)\Z", "", found) if goes_on else found


def is_with_special(form: Form) -> bool:
    """Tell whether a form has a date, an address or the like among other pieces."""
    kinds = [each.kind for each in form if isinstance(each, Piece)]
    return len(form) > 1 and any(kind in SPECIAL and kind not in (DURATION, VERSION) for kind in kinds)


def form_of(texts: Sequence[str]) -> Form | None:
    """Return the one form of texts, of which none is left out; None where they have several."""
    return _form_of(tuple(texts), told())


@lru_cache(maxsize=256)
def _form_of(texts: tuple[str, ...], _: Told) -> Form | None:
    cuts: tuple[Cut, ...] = ("runs", "words")
    made = [forms for cut in cuts if (forms := by_shape(texts, set(texts), cut)) is not None and len(forms) == 1]
    if made:
        return min(made, key=complexity)[0]
    # What blanks part says more than one class of all that stands there.
    parted = by_shape(texts, set(texts), "chunks") if any(map(str.isspace, "".join(texts))) else None
    return parted[0] if parted is not None and len(parted) == 1 and complexity(parted)[1] == 0 else None
