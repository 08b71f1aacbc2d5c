"""Puts kinds of line together that differ in what stands in brackets, or does not: `sent ⟨maybe (number KB)⟩`."""

from __future__ import annotations

from collections import defaultdict
from typing import TYPE_CHECKING

from fieldstick.lean import compiled_later
from fieldstick.runs.line_merging import together
from fieldstick.runs.line_slots import TYPED, has_word

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

    from fieldstick.runs.line_templates import LineKind

FEWEST_WORDS = 3
"""Words beside what stands in brackets that kinds must have alike."""

MOST_PIECES = 6
"""Pieces within brackets, at the most."""

_OPENS, _CLOSES = compiled_later(r"[(\[](?![)\]]).*"), compiled_later(r"[^()\[\]]*[)\]][,;.:]?")
_SINGLE = compiled_later(r"(?:\([^()]+\)|\[[^\[\]]+\])[,;.:]?")

Aside = tuple[str, ...]
"""The pieces of what stands in brackets."""


def asides_together(kinds: Iterable[LineKind]) -> list[LineKind]:
    """Return kinds, those together that are the same but for what stands in brackets in some of them alone."""
    parted = {kind.template: _parted(kind.template) for kind in kinds}
    groups: dict[tuple[str, ...], list[dict[int, Aside]]] = defaultdict(list)
    for bare, asides in parted.values():
        groups[bare].append(asides)
    joined = {bare: each for bare, group in groups.items() if (each := _joined(bare, group)) is not None}
    return together(kinds, lambda kind: joined.get(parted[kind.template][0], kind.template))


def _parted(template: tuple[str, ...]) -> tuple[tuple[str, ...], dict[int, Aside]]:
    """Return the pieces of a template without those in brackets, and these by how many others stand before them."""
    bare: list[str] = []
    asides: dict[int, Aside] = {}
    at = 0
    while at < len(template):
        end = _end_of_aside(template, at)
        if end and bare and len(bare) not in asides:
            asides[len(bare)] = template[at:end]
            at = end
        else:
            bare.append(template[at])
            at += 1
    return tuple(bare), asides


def _end_of_aside(template: tuple[str, ...], at: int) -> int:
    """Return where what stands in brackets ends that begins at a place; 0 where none does."""
    if _SINGLE.fullmatch(template[at]):
        return at + 1
    if not _OPENS.fullmatch(template[at]) or any(each in template[at] for each in ")]"):
        return 0
    for end in range(at + 1, min(at + MOST_PIECES, len(template))):
        if _CLOSES.fullmatch(template[end]):
            return end + 1
        if any(each in template[end] for each in "([)]"):
            return 0
    return 0


def _joined(bare: tuple[str, ...], group: Sequence[dict[int, Aside]]) -> tuple[str, ...] | None:
    """Return the template of kinds that have the same pieces but for what stands in brackets; None where these differ,
    or say too little beside it.
    """
    if len(group) < 2 or sum(map(has_word, bare)) < FEWEST_WORDS:
        return None
    known: dict[int, set[Aside]] = defaultdict(set)
    for asides in group:
        for place, aside in asides.items():
            known[place].add(aside)
    if any(len(several) > 1 for several in known.values()):
        return None
    made: list[str] = []
    for place in range(len(bare) + 1):
        if place in known:
            aside = known[place].pop()
            stays = all(place in asides for asides in group)
            made += aside if stays else (f"⟨maybe {TYPED.sub(lambda slot: slot[1], ' '.join(aside))}⟩",)
        made += bare[place : place + 1]
    return tuple(made)
