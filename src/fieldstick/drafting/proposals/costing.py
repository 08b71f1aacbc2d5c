"""Counts what speaks against forms of texts, and for them, whatever texts an expression of them takes.

All is a share of texts near to examples: what costs 0.1 is as bad as to take one more in ten of these.
"""

from __future__ import annotations

from functools import cache
from typing import TYPE_CHECKING, Any

from fieldstick.drafting.proposals.cutting import tokens_of
from fieldstick.drafting.proposals.forms import BESIDE
from fieldstick.drafting.proposals.gutters import have_as_many_tabs
from fieldstick.drafting.proposals.heads import ARTICLES
from fieldstick.drafting.proposals.pieces import (
    AnyOrder,
    Piece,
    complexity,
    glued_in,
    is_of_one,
    pieces_in,
    torn_in,
    unlike_in,
)
from fieldstick.drafting.proposals.special_pieces import SPECIAL
from fieldstick.drafting.proposals.spelling import FEWEST_MARKS
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    from fieldstick.drafting.proposals.forms import Way
    from fieldstick.drafting.proposals.pieces import Form

TYPED = 0.02
"""What a field of a type is worth, as a share of texts near by taken."""

MOMENT = 0.025
"""What each number is worth that is part of a date or time, more than as a field of its own."""

SPLIT = 0.08
"""What it costs that a number with a point is told as two, more than that both are typed."""

UNTOLD = 0.1
"""What it costs that the moments that lines begin with are no field, since the lines are told as several forms."""

HIDDEN = 0.4
"""What it costs that a moment or the like, that all texts have, is no field, since they are told as one piece."""

SHAPELESS = 0.1
"""What it costs that a way tells no pieces apart, as a share of texts near by taken."""

UNLIKE = 0.1
"""What it costs that a piece is letters in some texts and digits in others, as a share of texts near by taken."""

GLUED = 0.05
"""What it costs that letters or digits may be left out beside others, as a share of texts near by taken."""

FORM, PART = 0.05, 0.019
"""What each form beyond the first costs, and each part that may be left out, as a share of texts near by taken."""

NAMELESS, MANY_NAMED = 0.1, 40
"""What it costs that there are several forms, whose fields have no names, where texts are more than so many."""

PROSE_AGAIN = 0.3
"""What it costs that prose is told as words that come again and again, with one of a few marks between."""

BY_CHANCE = 0.1
"""What it costs that a blank parts two texts of which the first has blanks of its own."""

SENTENCE = 0.2
"""What it costs that the word which sentences begin with is told from the rest of them."""

TORN = 0.4
"""What it costs that rows of a table are told as several forms."""

TORN_BRACKET = 0.2
"""What it costs that a part which may be left out, or stands in another's place, closes a bracket that others open."""

ALONE = 0.1
"""What each of several forms costs that one text alone has: it tells nothing of others."""

LISTED = 0.06
"""What it is worth that a list goes on as long as it may, as a share of texts near by taken."""

KEYED = 0.05
"""What it is worth that each value is that of its key, as a share of texts near by taken."""

ONE_KEY, FEWEST_KEYS = 0.3, 1.5
"""What it costs that texts have fewer keys than these on average, in any order."""

COLLOCATED = 0.05
"""What it is worth that words which come with one another are one value, as a share of texts near by taken."""

TABLE = 0.15
"""What it is worth that what stands below one another is one column, as a share of texts near by taken."""

ASIDE = 0.08
"""What it is worth that what stands in brackets in some texts is told from what all of them have."""

REQUESTED = 0.08
"""What it is worth that a request is told by its parts, of which one may be anything, as a share of texts near by."""

FEW_PARTS, MANY_PARTS = 2, 0.08
"""Parts that may be left out from which on nobody tells what is there together, and what each more of them costs."""

MOST_LOOKED_AT = 20
"""Texts that tell whether all are lines of a log."""


def _cost_of_several(texts: Sequence[str]) -> float:
    """Return what it costs that texts are told as several forms, beside what each form does."""
    return NAMELESS * (len(texts) > MANY_NAMED) + TORN * have_as_many_tabs(texts)


def cost_of(way: Way, forms: list[Form], texts: Sequence[str]) -> float:
    """Return what speaks against forms of texts, whatever they are spelled by."""
    count, parts = complexity(forms)
    return (
        FORM * (count - 1)
        + (_cost_of_several(texts) if len(forms) > 1 else 0.0)
        + ALONE * (sum(map(is_of_one, forms)) if len(forms) > 1 else 0)
        + PART * parts
        - LISTED * (way in ("items", "lists"))
        - KEYED * (way == "pairs")
        + ONE_KEY * (way == "pairs" and any(_have_one_key(form, len(texts)) for form in forms))
        - COLLOCATED * (way in ("values", "chosen values"))
        - TABLE * (way == "gutters")
        - ASIDE * (way in BESIDE)
        - REQUESTED * any(isinstance(each, Piece) and each.kind == "method" for form in forms for each in form)
        + MANY_PARTS * max(0, parts - FEW_PARTS)
        + UNLIKE * sum(unlike_in(form) for form in forms)
        + GLUED * sum(map(glued_in, forms))
        + UNTOLD * (len(forms) > 1 and all(map(_begins_with_moment, forms)))
        + (_shapelessness(forms) if way == "whole" and sum(map(len, forms)) == 1 else 0.0)
        + HIDDEN * (way == "whole" and any(map(_hides_special, forms)))
        + BY_CHANCE * sum(map(_parted_by_chance, forms))
        + TORN_BRACKET * sum(map(torn_in, forms))
        + SENTENCE * sum(map(_cuts_sentence, forms))
        + PROSE_AGAIN * (way in ("again", "names again") and any(map(_is_prose_again, forms)))
    )


def _have_one_key(form: Form, count: int) -> bool:
    """Tell whether hardly one of so many texts has more than a key, whichever: it is what they begin with."""
    return any(
        isinstance(each, AnyOrder) and sum(len(pair[0].values) for pair in each.pairs) < FEWEST_KEYS * count
        for each in form
    )


def _parted_by_chance(form: Form) -> int:
    """Return how often a blank parts anything from anything, of which the first may hold blanks as well."""
    # Where all have as many it is no chance, and words alone are made one text, however many there are.
    return sum(
        one.kind == other.kind == "gap"
        and len({len(each.split()) for each in one.values}) > 1
        and not "".join(one.values).replace(" ", "").isalnum()
        for one, other in _beside_blanks(form)
    )


def _cuts_sentence(form: Form) -> bool:
    """Tell whether the word that sentences begin with, as `The`, is told from the rest of them."""
    return any(
        rest.kind in ("gap", "prose")
        and one.kind in ("word", "gap")
        and not ARTICLES.isdisjoint(map(str.lower, one.values))
        and len({*one.values}) > 1
        for one, rest in _beside_blanks(form)
    )


def _beside_blanks(form: Form) -> Iterator[tuple[Piece, Piece]]:
    """Yield what stands before a blank and behind it, the same one in all texts."""
    for one, blank, other in zip(form, form[1:], form[2:], strict=False):
        if (
            isinstance(one, Piece)
            and isinstance(blank, Piece)
            and isinstance(other, Piece)
            and {*blank.values} == {" "}
        ):
            yield one, other


def _is_prose_again(form: Form) -> bool:
    """Tell whether what comes again in a form is words, parted by blanks with one mark or another: prose."""
    for part in form:
        if isinstance(part, list) and part[0].kind == "again" and len(part) > 1:
            marks = {*"".join(part[1].values)}
            if " " in marks and len(marks) > FEWEST_MARKS:
                return True
    return False


def _shapelessness(forms: list[Form]) -> float:
    """Return what it costs that a way tells no pieces apart: more of what has words or numbers that blanks part."""
    values = forms[0][0].values if forms[0] and isinstance(forms[0][0], Piece) else []
    parted = bool(values) and all(" " in each.strip() for each in values)
    return SHAPELESS * (1 + parted) + UNTOLD * all(map(_are_lines_of_log, forms))


def _hides_special(form: Form) -> bool:
    """Tell whether some piece of a form has a moment or the like among other things, in all texts."""
    for piece in form:
        if isinstance(piece, Piece) and piece.kind == "chunk":
            rows = [tokens_of(each, "runs") for each in piece.values[:MOST_LOOKED_AT]]
            if all(len(row) > 1 and any(each.kind in SPECIAL for each in row) for row in rows):
                return True
    return False


def _begins_with_moment(form: Form) -> bool:
    """Tell whether a form is that of lines of a log: it begins with a date or time, and goes on."""
    return len(form) > 2 and isinstance(form[0], Piece) and form[0].kind in SPECIAL


def _are_lines_of_log(form: Form) -> bool:
    """Tell whether what is one piece are lines that begin with a date or time, and go on."""
    values = form[0].values[:MOST_LOOKED_AT] if form and isinstance(form[0], Piece) else []
    rows = [tokens_of(each, "runs") for each in values]
    return bool(rows) and all(len(row) > 2 and row[0].kind in SPECIAL for row in rows)


_MAY_BE_MOMENT = ("gap", "quoted", "value", "chunk", "word")
"""Pieces that may turn out to be dates and times."""


@cache
def _most_numbers() -> int:
    """Return the most numbers that a date and time is made of."""
    return max(each.numbers for each in SPECIAL.values())


def most_gained(forms: Sequence[Form]) -> float:
    """Return the most that fields of types can be worth, whatever forms are spelled by."""
    gained = 0.0
    for each in pieces_in(forms):
        numbers = SPECIAL[each.kind].numbers if each.kind in SPECIAL else 0
        numbers = _most_numbers() if each.kind in _MAY_BE_MOMENT else numbers
        gained += TYPED + MOMENT * numbers * (len(forms) == 1)
    return gained


_PARTED_BY_POINTS = compiled_later(r"\(\?P<(\w+)>[^()]*\)((?:\\\.\(\?P<\w+>[^()]*\))+)")
_NAMED = compiled_later(r"\?P<(\w+)>")


def split_in(expression: str, fields: Mapping[str, Mapping[str, Any]]) -> int:
    """Return how many pairs of integers there are with nothing but a point between, and no third one."""
    found = 0
    for first, others in _PARTED_BY_POINTS.findall(expression):
        names = [first, *_NAMED.findall(others)]
        found += len(names) == 2 and all(fields.get(each, {}).get("type") == "integer" for each in names)
    return found
