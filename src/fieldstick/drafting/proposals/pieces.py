"""What stands at each place of texts of one form."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct, field

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

    from fieldstick.drafting.proposals.cutting import Token

CAPITALISED = " Aa"
"""What the kind of a word ends with that begins with a capital, where words are aligned by their kinds."""


class Piece(Struct):
    """What stands at one place of every example of a form; `until` is what stands after a gap in all of them."""

    kind: str
    values: list[str] = field(default_factory=list)
    until: str = ""


class Choice(Struct):
    """What stands at one place in one of several forms, or in some texts not at all."""

    forms: list[Form]
    may_lack: bool


Form = list["Piece | list[Piece] | Choice"]
"""Pieces in order; a list of them in place of one may be left out, or with one of the kind `again`, come again."""


def parts_of(form: Form) -> tuple[int, int]:
    """Return how many choices more than one a form has, and how many parts that may be left out."""
    more = parts = 0
    for each in form:
        if isinstance(each, Choice):
            inner = [parts_of(one) for one in each.forms]
            more += len(each.forms) - 1 + sum(one for one, _ in inner)
            parts += each.may_lack + sum(one for _, one in inner)
        elif isinstance(each, list) and each[0].kind != "again":
            parts += 1
    return more, parts


def unlike_in(form: Form) -> int:
    """Return how many pieces are letters alone in some texts and digits alone in others, and both together in none."""
    found = 0
    for each in form:
        for values in [each.values] if isinstance(each, Piece) and each.kind in ("word", "chunk") else []:
            kinds = {(any(map(str.isalpha, value)), any(map(str.isdigit, value))) for value in values}
            found += {(True, False), (False, True)} <= kinds and (True, True) not in kinds
    return found


def aligned(rows: Iterable[Sequence[Token]]) -> list[Piece]:
    """Return the pieces of rows of tokens of the same kinds, place by place."""
    columns = zip(*rows, strict=True)
    return [Piece(each[0].kind.removesuffix(CAPITALISED), [token.text for token in each]) for each in columns]
