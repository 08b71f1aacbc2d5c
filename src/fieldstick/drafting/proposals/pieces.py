"""What stands at each place of texts of one form."""

from __future__ import annotations

from itertools import chain, pairwise
from typing import TYPE_CHECKING, Literal

from msgspec import Struct, field

from fieldstick.drafting.proposals.spelling import OFTEN

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Sequence

    from fieldstick.drafting.proposals.cutting import Token

CAPITALISED = " Aa"
"""What the kind of a word ends with that begins with a capital, where words are aligned by their kinds."""


class Piece(Struct):
    """What stands at one place of every example of a form.

    `until` is what stands after it in all of them, `within` that it stands between marks.
    """

    kind: str
    values: list[str] = field(default_factory=list)
    until: str = ""
    within: bool = False


class Choice(Struct):
    """What stands at one place in one of several forms, or in some texts not at all."""

    forms: list[Form]
    may_lack: bool


Begin = Literal["parted", "text", "within"]
"""Where keys begin: behind what parts them too, where a text begins, or within it."""


class AnyOrder(Struct):
    """Keys with their values, each the pieces of one, that come in any order, some of them maybe not at all.

    `between` is what parts them. `sizes` are the fewest and the most that a text has.
    """

    pairs: list[list[Piece]]
    between: list[Piece]
    sizes: tuple[int, int]
    begin: Begin


Form = list["Piece | list[Piece] | Choice | AnyOrder"]
"""Pieces in order; a list of them in place of one may be left out, or with one of the kind `again`, come again.

The values of that are how often it does, in each text. What is of a key, `pair` and its name, has one as its value.
"""


BETWEEN = (" ", "-")
"""What stands between the words of one value."""

FEWEST_SECOND = 2
"""Different second words from which on these are more than one that is there or not."""

LIKE = 0.5
"""The share of the different words at a place, of the fewer, that also stand at another where both have the same."""


def have_words_in_common(one: Iterable[str], other: Iterable[str]) -> bool:
    """Tell whether two places have the same words (the overlap coefficient; Szymkiewicz 1934, Simpson 1943)."""
    first, second = ({*filter(str.isalpha, some)} for some in (one, other))
    fewer = min(len(first), len(second))
    return fewer > 0 and len(first & second) >= LIKE * fewer


def is_one_value(words: Sequence[Sequence[str]], alone: Sequence[str]) -> bool:
    """Tell whether a second word that stands in some texts is the rest of the first: one that never stands alone.

    Words that a low line parts are one name however they stand.
    `words` are the first ones, what is between, and the second ones, each by text; `alone` are those with no second.
    """
    firsts, between, seconds = words
    if {*between} == {"_"} and all(map(str.isalpha, {*firsts, *seconds})):
        return True
    often = len(firsts) >= OFTEN * len({*zip(firsts, seconds, strict=True)}) and len({*seconds}) >= FEWEST_SECOND
    # What a hyphen parts may end in a number.
    is_rest = str.isalnum if {*between} == {"-"} else str.isalpha
    are_words = all(map(str.isalpha, firsts)) and all(map(is_rest, seconds)) and {*between} <= {*BETWEEN}
    return often and are_words and bool(alone) and not {*firsts} & {*alone}


def complexity(forms: Sequence[Form]) -> tuple[int, int]:
    """Return how many forms there are, those of choices too, and how many of their parts may be left out."""
    count, parts = len(forms), 0
    for each in chain.from_iterable(forms):
        if isinstance(each, Choice):
            more, inner = complexity(each.forms)
            count, parts = count + more - 1, parts + inner + each.may_lack
        elif isinstance(each, list) and each[0].kind != "again":
            # What is there or not tells a key that is its own.
            parts += not any(piece.kind.startswith("pair ") for piece in each)
    return count, parts


def pieces_in(forms: Iterable[Form | list[Piece]]) -> Iterator[Piece]:
    """Yield the pieces of some forms, those of choices and of what may be left out too."""
    for each in chain.from_iterable(forms):
        if isinstance(each, Choice):
            yield from pieces_in(each.forms)
        elif isinstance(each, AnyOrder):
            yield from pieces_in(each.pairs)
        elif isinstance(each, list):
            yield from pieces_in([each])
        else:
            yield each


def words_in(forms: Iterable[Form]) -> Iterator[str]:
    """Yield the words at all places of some forms."""
    return (value for each in pieces_in(forms) if each.kind == "word" for value in each.values)


def unlike_in(form: Form) -> int:
    """Return how many pieces are letters alone in some texts and digits alone in others, and both together in none."""
    found = 0
    for each in form:
        for values in [each.values] if isinstance(each, Piece) and each.kind in ("word", "chunk") else []:
            kinds = {(any(map(str.isalpha, value)), any(map(str.isdecimal, value))) for value in values}
            found += {(True, False), (False, True)} <= kinds and (True, True) not in kinds
    return found


def is_of_one(form: Form) -> bool:
    """Tell whether but one text, or the same one again, is of a form."""
    return all(len(set(each.values)) == 1 for each in form if isinstance(each, Piece))


def glued_in(form: Form) -> int:
    """Return how many parts that may be left out are letters or digits beside others, with nothing between."""
    runs = ("word", "number", "chunk")
    found = 0
    for one, other in pairwise(form):
        first = one[-1] if isinstance(one, list) else one
        second = other[0] if isinstance(other, list) else other
        if isinstance(first, Piece) and isinstance(second, Piece) and first.kind in runs and second.kind in runs:
            found += isinstance(one, list) or isinstance(other, list)
    return found


_BRACKETS = {"(": 1, "[": 1, "{": 1, ")": -1, "]": -1, "}": -1}


def torn_in(form: Form) -> int:
    """Return how many parts that may be left out, or stand in another's place, close a bracket that they do not open.

    One that is that bracket alone is no such part: it goes with one before that opens it.
    """
    rows = [each.forms if isinstance(each, Choice) else [each] for each in form if isinstance(each, Choice | list)]
    return sum(any(len(one) > 1 and _closes_more(one) for one in row) for row in rows)


def _closes_more(form: Sequence[object]) -> bool:
    """Tell whether a form closes a bracket that it does not open."""
    depth = 0
    for each in form:
        mark = each.values[0] if isinstance(each, Piece) and each.values else ""
        for character in mark if not mark.isalnum() else "":
            depth += _BRACKETS.get(character, 0)
            if depth < 0:
                return True
    return False


def is_of_code(pieces: Form, at: int) -> bool:
    """Tell whether a hyphen or a point stands right beside a piece, as between the parts of a code."""
    beside = (*pieces[max(at - 1, 0) : at], *pieces[at + 1 : at + 2])
    return any(isinstance(each, Piece) and each.kind in ("-", ".") for each in beside)


def aligned(rows: Iterable[Sequence[Token]]) -> list[Piece]:
    """Return the pieces of rows of tokens of the same kinds, place by place."""
    columns = zip(*rows, strict=True)
    return [Piece(each[0].kind.removesuffix(CAPITALISED), [token.text for token in each]) for each in columns]


def coming_again(rows: Sequence[Sequence[Sequence[Token]]]) -> Form:
    """Return the form of rows of a first stretch, and others that are alike among themselves."""
    first = aligned([row[0] for row in rows])
    times = Piece("again", [str(len(row) - 1) for row in rows])
    return [*first, [times, *aligned([stretch for row in rows for stretch in row[1:]])]]


def ended_alike(form: Form) -> Form:
    """Return a form where a mark that ends what may be left out, and texts without it, stands behind what may be.

    So `x2)` and `x2, y1)` end in `(?:, y1)?\\)`, not in `[,)](?: y1\\))?`.
    """
    made = list(form)
    for at, (mark, part) in enumerate(pairwise(form)):
        if not isinstance(mark, Piece) or not isinstance(part, list) or part[0].kind == "again":
            continue
        last = part[-1]
        ends = {each[-1:] for each in last.values}
        begins = set(mark.values) - ends
        if len(ends) != 1 or len(begins) != 1 or sum(each in begins for each in mark.values) != len(last.values):
            continue
        [end], [begin] = ends, begins
        if len(begin) == 1 and not begin.isalnum() and not begin.isspace() and end and not end.isalnum():
            bare = [each[:-1] for each in last.values]
            kept = [Piece(last.kind, bare, end, last.within)] if all(bare) else []
            if len(part) + len(kept) > 1 and (kept or not any(bare)):
                made[at] = [Piece(begin, [begin] * len(bare)), *part[:-1], *kept]
                made[at + 1] = Piece(end, [end] * len(mark.values))
    return made
