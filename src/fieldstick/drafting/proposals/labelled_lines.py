"""Reads records of several lines, as filled in forms are, of which lines begin with what their value is of."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    import re
    from collections.abc import Mapping, Sequence

FEWEST_LABELS = 2
"""Lines with a label that half of the records have, at the least."""

_LINE = compiled_later(r"\n(?![ \t])")
LEADER = "leader"
"""Points that lead from a label to what is filled in, as a mark."""

_LABELLED = {
    **{mark: compiled_later(rf"(?s)([^\W\d](?:[^\n:=]{{0,38}}[^\s:=])?)([ \t]*)({mark})([ \t]*)(.*)") for mark in ":="},
    LEADER: compiled_later(r"(?s)([^\W\d](?:[^\n:=.]{0,38}[^\s:=.])?)([ \t]*)(\.{2,})([ \t]*)(.*)"),
}


class ReadByKeys(NamedTuple):
    """A text by its keys: what stands before them, each with its value, what parts them, and what stands behind.

    `blanks` are those behind a label, before and after the mark that ends it, and behind its value, with that mark; of
    other keys there are none.
    """

    head: str
    values: dict[str, str]
    between: set[str]
    tail: str
    blanks: Mapping[str, tuple[str, str, str, str]] = {}


def labelled_rows(texts: Sequence[str]) -> tuple[str, list[ReadByKeys]] | None:
    """Return the mark that ends labels, and records by these; None where some have others, or lines that have none.

    A line that begins with a blank goes on with the value of the one before it.
    """
    for mark, labelled in _LABELLED.items():
        rows = []
        for text in texts:
            row = _read(text, labelled)
            if row is None:
                break
            rows.append(row)
        else:
            several = [row for row in rows if len(row.values) >= FEWEST_LABELS]
            return (mark, rows) if 2 * len(several) >= len(rows) else None
    return None


def _read(text: str, labels: re.Pattern[str]) -> ReadByKeys | None:
    body = text.rstrip("\n")
    lines = _LINE.split(body)
    found = [labels.fullmatch(line) for line in lines]
    first = next((at for at, each in enumerate(found) if each is not None), len(found))
    labelled = [each for each in found[first:] if each is not None]
    values = {each[1]: each[5].rstrip() for each in labelled}
    if len(labelled) < len(found) - first or not 0 < len(values) == len(labelled):
        return None
    head = "".join(f"{line}\n" for line in lines[:first])
    blanks = {each[1]: (each[2], each[4], each[5][len(each[5].rstrip()) :], each[3]) for each in labelled}
    return ReadByKeys(head, values, {"\n"}, text[len(body) :], blanks)
