"""Parts what stands at one place of a form further, where all values of it are alike enough."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.drafting.proposals.cutting import NOT_GIVEN, tokens_of
from fieldstick.drafting.proposals.pieces import AnyOrder, Choice, Piece, complexity
from fieldstick.drafting.proposals.quoting import QUOTES
from fieldstick.drafting.proposals.shapes import by_shape, form_of, is_with_special
from fieldstick.drafting.proposals.special_pieces import SPECIAL
from fieldstick.drafting.proposals.wording import REPEATED
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.proposals.pieces import Form

FEWEST_OF_OPTION = 2
"""Texts from which on a word that not all of them have is no chance."""

MOST_QUOTED = 9
"""Pieces of what stands in quotes up to which each is told."""

MOST_VALUE_FORMS = 3
"""Forms of the value of a key up to which it is told as one of them."""

NOTHING = frozenset(("-", "NULL", "null", "None", "none", "nil", "NaN", "nan", "NA", *NOT_GIVEN))
"""What may stand in the place of a number that there is none of."""

_MIXED = ("chunk", "gap", "word")
"""Pieces whose values may be numbers and others."""

_UNSIGNED = compiled_later(r"\d+(?:\.\d+)?")
_WIDE = compiled_later(r"( {2,}|\t+)")
"""What parts columns rather than words."""

_DIGITS = compiled_later(r"[-+]?\d+(?:\.\d+)?")


def spread(form: Form | list[Piece]) -> Iterator[Piece | list[Piece] | Choice | AnyOrder]:
    """Give the pieces of a form; what stands between marks or words is parted where all texts have it."""
    for each in form:
        if not isinstance(each, Piece):
            yield each
        elif each.kind in _MIXED and not NOTHING.isdisjoint(each.values):
            yield from _number_or_nothing(each)
        elif (inner := _inner_of(each)) is not None:
            yield from inner
        elif each.kind in ("gap", "chunk"):
            yield from _parts_of(each)
        else:
            yield each


class Spreads:
    """Remembers the pieces of forms, which are the same however they are spelled."""

    def __init__(self) -> None:
        self._known: dict[int, tuple[Form | list[Piece], Form]] = {}
        """By what tells a form from others as long as it is there, which it is here."""

    def of(self, form: Form | list[Piece]) -> Form:
        """Return the pieces of a form, numbers with their signs."""
        known = self._known.get(id(form))
        if known is None:
            known = self._known[id(form)] = (form, with_signs([*spread(form)]))
        return known[1]


def _parts_of(piece: Piece) -> Iterator[Piece | list[Piece] | Choice | AnyOrder]:
    """Give a piece without the blanks around it, its columns apart, or what it begins with."""
    for each in _edges_apart(piece):
        columns = _columns_apart(each) if each.kind != "blank" else [each]
        if len(columns) > 1:
            yield from spread(columns)
        else:
            yield from _special_ahead(each) if each.kind == "gap" else [each]


def with_signs(form: Form) -> Form:
    """Return a form whose numbers have their signs, where all have one, and nothing but a blank stands before it."""
    made: Form = []
    for each in form:
        signed = _signed(made[-2:], each) if isinstance(each, Piece) else None
        if signed is not None:
            made[-1] = signed
        else:
            made.append(each)
    return made


def _signed(before: Form, number: Piece) -> Piece | None:
    """Return a number with the sign that is all that stands right before it; None where there is none."""
    *behind, sign = before or [number]
    if not isinstance(sign, Piece) or sign.kind != "mark" or not {*sign.values} <= {"+", "-"}:
        return None
    if not all(isinstance(each, Piece) and each.kind in ("blank", "(", "=") for each in behind):
        return None
    if len(sign.values) != len(number.values) or not all(map(_UNSIGNED.fullmatch, number.values)):
        return None
    return Piece("number", list(map("".join, zip(sign.values, number.values, strict=True))), number.until)


def _number_or_nothing(piece: Piece) -> Iterator[Piece | Choice]:
    """Give a piece of which some values say that there is none, and all others are numbers, as one or the other."""
    numbers = [each for each in piece.values if each not in NOTHING]
    nothing = [each for each in piece.values if each in NOTHING]
    is_one = len(set(nothing)) == 1 and len(nothing) >= FEWEST_OF_OPTION
    if not is_one or not numbers or not all(map(_DIGITS.fullmatch, numbers)):
        yield piece
        return
    said = Piece("word" if nothing[0].isalnum() else nothing[0], nothing)
    yield Choice([[said], [Piece("number", numbers, piece.until, piece.within)]], may_lack=False)


def _edges_apart(piece: Piece) -> Iterator[Piece]:
    """Give a piece without the blanks that all of its values begin or end with, and these."""
    values = piece.values
    heads = [each[: len(each) - len(each.lstrip())] for each in values]
    tails = [each[len(each.rstrip()) :] for each in values]
    if not any(map(str.strip, values)) or not (all(map(str.strip, values)) or all(tails)):
        yield piece
        return
    if all(heads) and all(map(str.strip, values)):
        yield Piece("blank", heads)
        values = [each.lstrip() for each in values]
    if not all(tails):
        yield Piece(piece.kind, values, piece.until, piece.within)
        return
    yield Piece(
        piece.kind, [each.rstrip() for each in values], tails[0][0] if len(set(tails)) == 1 else " ", piece.within
    )
    yield Piece("blank", tails)


def _columns_apart(piece: Piece) -> list[Piece]:
    """Give what stands between tabs or several blanks, and these, where all values have them equally often."""
    rows = [_WIDE.split(each) for each in piece.values]
    sizes = {*map(len, rows)}
    if len(sizes) > 1 or sizes == {1}:
        return [piece]
    columns = [[*column] for column in zip(*rows, strict=True)]
    last = len(columns) - 1
    return [
        Piece("blank", column)
        if at % 2
        else Piece("gap", column, piece.until if at == last else " ", piece.within and at == last)
        for at, column in enumerate(columns)
    ]


def _special_ahead(piece: Piece) -> list[Piece]:
    """Give a piece without the date or the like that all of its values begin with, and this, where a blank follows."""
    rows = [tokens_of(each, "runs") for each in piece.values]
    kinds = {tuple(each.kind for each in row[:2]) for row in rows}
    if len(kinds) != 1 or not all(len(row) > 2 for row in rows):
        return [piece]
    [(first, behind)] = kinds
    if first not in SPECIAL or behind != "blank":
        return [piece]
    rests = ["".join(each.text for each in row[2:]) for row in rows]
    return [
        Piece(first, [row[0].text for row in rows]),
        Piece("blank", [row[1].text for row in rows]),
        Piece(piece.kind, rests, piece.until, piece.within),
    ]


def few_forms(values: list[str]) -> list[Form] | None:
    """Return the forms of values, two or three of a few pieces that some hold digits in; None where they are others."""
    has_digits = [any(map(str.isdecimal, each)) for each in values]
    forms = by_shape(values, {*values}, "runs") if any(has_digits) and "" not in values else None
    if forms is None or not 1 < len(forms) <= MOST_VALUE_FORMS or complexity(forms)[1]:
        return None
    are_few = all(
        len(form) <= MOST_QUOTED and all(isinstance(each, Piece) and len(each.values) >= REPEATED for each in form)
        for form in forms
    )
    return forms if are_few else None


def _inner_of(piece: Piece) -> Form | None:
    """Return the form of what stands between others; of what marks enclose, if a moment or the like is part of it."""
    if piece.kind != "gap" or "" in piece.values or len(piece.values) < REPEATED:
        return None
    inner = form_of(piece.values)
    is_open = piece.until not in QUOTES
    return inner if is_open or (inner is not None and is_with_special(inner)) else None
