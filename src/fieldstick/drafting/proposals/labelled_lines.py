"""Reads records of several lines, as filled in forms are, of which lines begin with what their value is of."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

FEWEST_LABELS = 2
"""Lines with a label from which on a record is read by them."""

_LINE = compiled_later(r"\n(?![ \t])")
_LABELLED = compiled_later(r"(?s)([^\W\d](?:[^\n:=]{0,38}[^\s:=])?):([ \t]*)(.*)")


class ReadByKeys(NamedTuple):
    """A text by its keys: what stands before them, each with its value, what parts them, and what stands behind.

    `blanks` are those between a label and its value; of other keys there are none.
    """

    head: str
    values: dict[str, str]
    between: set[str]
    tail: str
    blanks: Mapping[str, str] = {}


def labelled_rows(texts: Sequence[str]) -> list[ReadByKeys] | None:
    """Return records by their labels; None as soon as one has lines behind a label that have none, or one twice.

    A line that begins with a blank goes on with the value of the one before it.
    """
    rows = []
    for text in texts:
        row = _read(text)
        if row is None:
            return None
        rows.append(row)
    return rows


def _read(text: str) -> ReadByKeys | None:
    body = text.rstrip("\n")
    lines = _LINE.split(body)
    found = [_LABELLED.fullmatch(line) for line in lines]
    first = next((at for at, each in enumerate(found) if each is not None), len(found))
    labelled = [each for each in found[first:] if each is not None]
    values = {each[1]: each[3].rstrip() for each in labelled}
    if len(labelled) < len(found) - first or not FEWEST_LABELS <= len(values) == len(labelled):
        return None
    head = "".join(f"{line}\n" for line in lines[:first])
    blanks = {each[1]: each[2] for each in labelled}
    return ReadByKeys(head, values, {"\n"}, text[len(body) :], blanks)
