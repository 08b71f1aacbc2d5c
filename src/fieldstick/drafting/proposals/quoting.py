"""Spells what stands in quotes or brackets: anything but the mark that ends it, or that mark where it is escaped."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from fieldstick.drafting.context import class_spelling, escaped

if TYPE_CHECKING:
    from collections.abc import Sequence

QUOTES = frozenset("\"'`)]}>")
"""Marks that end what they enclose."""

FEWEST_ESCAPED = 2
"""Texts from which on a mark that stands in them, though it ends them, is escaped there by no chance."""


def enclosed_by(until: str, values: Sequence[str]) -> str:
    """Return how what a mark ends is spelled; nothing where it is made up of one kind of character, or not enclosed.

    Of marks that enclose nothing elsewhere, there must be a mark in it. Where the mark stands in it too, each is
    doubled, or has the same other mark before it.
    """
    amount = "*" if "" in values else "+"
    used = set("".join(values))
    if until not in used:
        kinds = {"9" if each.isdecimal() else "a" if each.isalnum() else "," for each in used}
        return anything_until(until, values) if (len(kinds) > 1 if until in QUOTES else "," in kinds) else ""
    if sum(until in each for each in values) < FEWEST_ESCAPED:
        return ""
    before = {each[at - 1] for each in values for at in range(1, len(each)) if each[at] == until} - {until}
    for escape in (*sorted(before), until):
        if escape.isalnum() or escape.isspace():
            continue
        mark, inner = escaped(escape), class_spelling(until)
        ways = [f"(?:[^{inner}]|{mark}{mark}){amount}"]
        if escape != until:
            ways = [with_escapes(until, escape, values), f"(?:{mark}{escaped(until)}|[^{inner}]){amount}"]
        for spelled in ways:
            if all(re.fullmatch(spelled, each, re.DOTALL) for each in values):
                return spelled
    return ""


def with_escapes(until: str, escape: str, values: Sequence[str]) -> str:
    """Return how all is spelled up to a mark, which stands in it where another escapes it, as that may anything."""
    both = class_spelling(until) + class_spelling(escape)
    return f"(?:[^{both}]|{escaped(escape)}.){'*' if '' in values else '+'}"


def anything_until(until: str, values: Sequence[str]) -> str:
    """Return how all is spelled that a mark ends."""
    return f"[^{class_spelling(until)}]{'*' if '' in values else '+'}"
