"""Reads lines of a table whose columns stand one below the other, parted by blanks at places that all lines share."""

from __future__ import annotations

from itertools import groupby
from typing import TYPE_CHECKING

from fieldstick.drafting.proposals.cutting import tokens_of
from fieldstick.drafting.proposals.pieces import Piece
from fieldstick.drafting.proposals.shapes import ended, form_of
from fieldstick.drafting.proposals.special_pieces import SPECIAL
from fieldstick.drafting.proposals.wording import REPEATED

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.drafting.proposals.pieces import Form

FEWEST_LINES, FEWEST_CELLS = 5, 3
"""Lines and cells from which on blanks at the same places are no chance."""

TAB = 8
"""Places from one tab stop to the next."""

MOST_PIECES_OF_CELL = 4
"""Pieces of what stands in a cell up to which each is told."""


def by_gutters(texts: Sequence[str]) -> list[Form] | None:
    """Return the form of lines whose cells begin or end at the same places, None where they do not.

    That they do is shown by cells that are filled up with blanks, more in one line than in another. What stands in the
    last column may hold blanks.
    """
    if len(texts) < FEWEST_LINES or not all(texts) or any("\n" in each for each in texts):
        return None
    if (by_tabs := _by_tabs(texts)) is not None:
        return by_tabs
    cells = _cells_of(texts)
    always = [column for column in cells if all(each.strip() for each in column)]
    if len(always) < FEWEST_CELLS or cells[-1] != always[-1] or not _are_filled_up(cells):
        return None
    form: Form = []
    blanks = [""] * len(texts)
    for number, column in enumerate(cells):
        # Blanks that a cell begins with stand behind those that end the one before it.
        before = [f"{one}{cell[: len(cell) - len(cell.lstrip())]}" for one, cell in zip(blanks, column, strict=True)]
        filled = [at for at, cell in enumerate(column) if cell.strip()]
        parting = [before[at] for at in filled]
        pieces = _cell([column[at].strip() for at in filled], is_last=number == len(cells) - 1)
        if len(filled) < len(texts):
            some = _pieces_alone(pieces) or [Piece("gap", [column[at].strip() for at in filled], " ")]
            form.append([Piece("blank", parting), *some])
        elif any(parting):
            blank = Piece("blank", [each for each in parting if each])
            form += [blank if all(parting) else [blank], *pieces]
        else:
            form += pieces
        blanks = [cell[len(cell.rstrip()) :] if cell.strip() else one for one, cell in zip(before, column, strict=True)]
    return [form]


def _by_tabs(texts: Sequence[str]) -> list[Form] | None:
    """Return the form of lines that have as many cells, a tab between each two; None where they have not."""
    if not have_as_many_tabs(texts):
        return None
    form: Form = []
    columns = [*zip(*(text.split("\t") for text in texts), strict=True)]
    for number, column in enumerate(columns):
        if number:
            form.append(Piece("blank", ["\t"] * len(texts)))
        filled = [each for each in column if each]
        pieces = _cell(filled, is_last=number == len(columns) - 1) if filled else []
        if filled and len(filled) < len(texts):
            form.append(_pieces_alone(pieces) or [Piece("gap", filled, "\t")])
        else:
            form += pieces
    return [form]


def have_as_many_tabs(texts: Sequence[str]) -> bool:
    """Tell whether texts are rows of cells that tabs part, as many in each."""
    tabs = texts[0].count("\t")
    return tabs > 0 and all(each.count("\t") == tabs for each in texts)


def _pieces_alone(form: Form) -> list[Piece]:
    """Return the pieces of a form that has nothing else; none of one that has."""
    pieces = [each for each in form if isinstance(each, Piece)]
    return pieces if len(pieces) == len(form) else []


def _cells_of(texts: Sequence[str]) -> list[list[str]]:
    """Return the columns of lines, each the cells of all of them with the blanks around; an empty one is not filled.

    What some lines have with one blank before it goes on with what stands there.
    """
    stops = [*map(_stops_of, texts)]
    places = _places_of_cells([each.expandtabs(TAB) for each in texts])
    columns = [
        [text[at[start] : at[end] if end is not None else None] for text, at in zip(texts, stops, strict=True)]
        for start, end in places
    ]
    made: list[list[str]] = []
    for column in columns:
        goes_on = bool(made) and not all(map(str.strip, column))
        if goes_on and any(
            one.rstrip() and cell.strip() and len(one) - len(one.rstrip()) + len(cell) - len(cell.lstrip()) == 1
            for one, cell in zip(made[-1], column, strict=True)
        ):
            made[-1] = list(map("".join, zip(made[-1], column, strict=True)))
        else:
            made.append(column)
    return made


def _stops_of(text: str) -> list[int]:
    """Return which character of a text stands in each of the places that it takes, tabs as many as they do."""
    found: list[int] = []
    for number, character in enumerate(text):
        found += [number] * (TAB - len(found) % TAB if character == "\t" else 1)
    return found


def _places_of_cells(texts: Sequence[str]) -> list[tuple[int, int | None]]:
    """Return where columns begin and end, in code points: what parts them is blank in all lines, and within no date."""
    width = min(map(len, texts))
    blank = [all(text[at] == " " for text in texts) for at in range(width)]
    for text in texts[:FEWEST_LINES]:
        at = 0
        for token in tokens_of(text, "runs"):
            if token.kind in SPECIAL:
                blank[at : at + len(token.text)] = [False] * len(token.text)
            at += len(token.text)
    starts = [0]
    for is_blank, some in groupby(range(width), key=blank.__getitem__):
        run = [*some]
        if is_blank and run[0] and run[-1] < width - 1:
            starts.append(run[-1] + 1)
    return [*zip(starts, [*starts[1:], None], strict=True)]


def _are_filled_up(columns: Sequence[Sequence[str]]) -> bool:
    """Tell whether some column is filled up with blanks, more in one line than in another, so that the next stands."""
    return any(len({len(each.strip()) for each in column}) > 1 for column in columns[:-1])


def _cell(values: list[str], *, is_last: bool) -> Form:
    form = form_of(values)
    if form is not None and (is_last or _is_plain(form)):
        return form
    if not any(" " in each for each in values):
        return ended([Piece("chunk", values, "" if is_last else " ")])
    is_prose = is_last and len(set(values)) >= REPEATED
    return [Piece("prose" if is_prose else "gap", values, "" if is_last else " ")]


def _is_plain(form: Form) -> bool:
    """Tell whether a form is of a few pieces that all values have."""
    return len(form) <= MOST_PIECES_OF_CELL and all(isinstance(each, Piece) for each in form)
