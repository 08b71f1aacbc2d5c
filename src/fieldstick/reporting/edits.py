"""Which stretches of a text are new after a change of it."""

from __future__ import annotations

SHORTEST_KEPT = 3
"""Characters between two changes from which on they are two, and not one with what stands between."""

MOST_COMPARED = 250_000
"""Pairs of a character before and one after from which on what lies between what stays at both ends is one change."""


def new_stretches(before: str, after: str) -> list[tuple[int, int]]:
    """Return where a text is new, in code points; a stretch of none stands where something was left out."""
    # Most that is printed shows no change.
    from difflib import SequenceMatcher

    head = 0
    while head < min(len(before), len(after)) and before[head] == after[head]:
        head += 1
    tail = 0
    while tail < min(len(before), len(after)) - head and before[-1 - tail] == after[-1 - tail]:
        tail += 1
    old, new = before[head : len(before) - tail], after[head : len(after) - tail]
    if len(old) * len(new) > MOST_COMPARED:
        return [(head, head + len(new))]
    found: list[tuple[int, int]] = []
    for tag, _, _, start, end in SequenceMatcher(None, old, new, autojunk=False).get_opcodes():
        if tag == "equal":
            continue
        if found and start - found[-1][1] < SHORTEST_KEPT:
            start = found.pop()[0]
        found.append((start, end))
    return [(head + start, head + end) for start, end in found]
