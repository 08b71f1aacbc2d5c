"""The mark that parts lines into the cells of a record, where it is not blanks that part words."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Sequence

FEWEST_LINES = 3
"""Lines from which on it is no chance that a mark stands in all of them."""

_MARKS = {"\t": 1, "|": 1, ";": 1, ",": 2, "#": 2, "^": 2, "~": 2, "\u00a6": 2, ":": 2}
"""Marks that lines may be parted by instead of blanks, a record in each, and how many a line has at the least then."""

_WITH_BLANKS = {" | ": 2, "; ": 2}
"""Marks with blanks beside them, and how many a line has at the least: where what stands between is several words."""

RECORD, SHOWN_RECORD = "\ufdd0", "␊"
"""What stands in the place of a line feed within a record of several lines, which no text has (The Unicode Standard,
section 23.7), and what is shown for it.
"""
CONTINUED = "\ufdd1"
"""And where the next line begins with a blank, so that it goes on with the one before."""

TABS = compiled_later(r"\t+")
GROUP = "[0-9A-Fa-f]{1,4}"
"""A group of an address of which zeros in a row are left out (RFC 4291)."""

_COLONS_WITHIN = compiled_later(
    r"(?<![\w:.])\d\d?:\d\d(?::\d\d)?(?![\w:])|(?:[0-9A-Fa-f]{2}:){5}"
    rf"|(?:^|(?<= ))(?:{GROUP}:){{1,7}}(?::{GROUP}){{1,6}}(?=[ /%]|$)"
)
"""A time or an address, which colons are part of."""


def as_one_line(text: str) -> str:
    """Return a record of several lines as one."""
    if "\n" not in text:
        return text
    made = text.rstrip("\n").replace("\n", RECORD)
    return made.replace(f"{RECORD} ", CONTINUED).replace(f"{RECORD}\t", CONTINUED)


def parting_mark(lines: Sequence[str]) -> str:
    """Return the mark that parts lines into the cells of a record, as blanks part words; empty where none does.

    It stands in nearly every line but comments, hardly ever beside a blank, and more often than blanks do. Tabs that
    lay columns out, of which there are more and fewer from cell to cell, are one: two of them are returned. Or it
    stands beside blanks, as often in nearly every line, and words part no cells: then it is returned with these.
    Records of several lines are parted into these.
    """
    if sum(RECORD in each for each in lines) * 10 >= 9 * sum(map(bool, lines)) > 0:
        return RECORD
    filled = [each for each in lines if each.strip()]
    filled = [each for each in filled if not each.startswith("#")] or filled
    blanks = sum(each.count(" ") for each in filled)
    if len(filled) < FEWEST_LINES:
        return ""
    for mark, least in _MARKS.items():
        counts = [each.count(mark) for each in filled]
        parts = sum(count >= least for count in counts) * 10 >= 9 * len(filled)
        beside = sum(each.count(f"{mark} ") + each.count(f" {mark}") for each in filled)
        if not parts or sum(counts) <= blanks or beside * 10 > sum(counts):
            continue
        if mark == "\t":
            runs = [len(TABS.findall(each)) for each in filled]
            return mark * (1 + (len(set(runs)) < len(set(counts))))
        # Times, addresses and lists have colons: those of records are as many in each line.
        usual = max(Counter(counts).values())
        if mark != ":" or (usual * 10 >= 9 * len(filled) and not any(map(_COLONS_WITHIN.search, filled))):
            return mark
    words = max(Counter(len(each.split()) for each in filled).values())
    for mark, least in _WITH_BLANKS.items():
        usual, having = Counter(each.count(mark) for each in filled).most_common(1)[0]
        if usual >= least and having * 10 >= 9 * len(filled) and words * 10 < 9 * len(filled):
            return mark
    return ""
