"""Prose at the end of lines: kinds that begin alike and go on in words, hardly a line like another, are one."""

from __future__ import annotations

from collections import defaultdict
from functools import lru_cache
from itertools import takewhile
from typing import TYPE_CHECKING

from fieldstick.lean import compiled_later
from fieldstick.runs.line_slots import (
    LEAST_SHARE,
    MOST_REMEMBERED,
    WORD,
    WORDS,
    is_of,
    is_told,
    says,
    slot_of,
    typed_in,
)
from fieldstick.runs.line_templates import LineKind, is_rare, rank

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

_WORDS = compiled_later(r"⟨word⟩|(?<!⟨)\b[^\W\d_][\w'-]*\b(?! ?[a-z]*⟩)")

FEW_KINDS, MANY_KINDS = 12, 120
"""Kinds that are few, and many: where few are of most lines, and not many others are there, there is no prose to be
told from them.
"""

LEAST_OF_PROSE, MOST_OF_PROSE = 5, 4
"""Kinds that begin alike from which on they are prose, and lines of each, on average, up to which they are."""

FEWEST_SLOTS = 2
"""Typed slots from which on kinds that have the same are of one, whatever their words."""

MOST_PIECES = 60
"""Pieces of a line that are told apart; what follows is one."""


def without_words(pieces: tuple[str, ...]) -> tuple[str, ...]:
    """Return the slots that a line begins with, and one for all that follows."""
    slots = takewhile(lambda piece: piece.startswith("⟨"), pieces)
    return (*slots, WORDS)


def prose_together(kinds: list[LineKind], lines: int) -> list[LineKind]:
    """Put kinds together that begin alike and go on in prose: many, with hardly a line of each.

    Where few kinds are of most lines, that is what begins with a word that stays.
    """
    are_few = len(kinds) < MANY_KINDS and sum(kind.count for kind in kinds[:FEW_KINDS]) * 10 >= 9 * lines
    few = [kind for kind in kinds if kind.count == 1 or is_rare(kind, lines)]
    prose = {
        kind.template: kind for kind in kinds if kind.template[-1:] == (WORDS,) and len(kind.template) <= MOST_PIECES
    }
    for template, count in _prose_of(few, 0, lines) if _is_prose(few, lines) else ():
        if (len(template) == 1 and count * 10 < lines) or (are_few and not says(template)):
            continue
        prose.setdefault(template, LineKind(template))
    if not prose:
        return kinds
    rare = set(map(id, few))
    rest = []
    for kind in kinds:
        if prose.get(kind.template) is kind:
            continue
        # What has a rare kind's head, or goes on after it in words alone, is of the prose that has that head.
        places = range(len(kind.template), -1, -1)
        if id(kind) not in rare:
            places = range(len(kind.template), _end_of_words(kind.template) - 1, -1)
        # What begins with a slot is no prose that begins with any word.
        opens = kind.template[:1] and (kind.template[0] in (WORD, WORDS) or not kind.template[0].startswith("⟨"))
        heads = ((*kind.template[:place], WORDS) for place in places if place or opens)
        home = next((prose[head] for head in heads if head in prose), None)
        if home is None and id(kind) in rare:
            home = next((each for each in prose.values() if _begins_as(kind.template, each.template)), None)
        if home is None:
            rest.append(kind)
        else:
            home.take(kind.forms)
    return sorted([*(kind for kind in prose.values() if kind.count), *rest], key=rank)


def typed_together(kinds: list[LineKind], lines: int) -> list[LineKind]:
    """Put kinds together that have the same slots at the same places, many with hardly a line of each: words vary."""
    by_slots: dict[tuple[str, ...], list[LineKind]] = defaultdict(list)
    for kind in kinds:
        if kind.count == 1 or kind.count * LEAST_SHARE < MOST_OF_PROSE * lines:
            by_slots[tuple(map(_slots_alone, kind.template))].append(kind)
    made: list[LineKind] = []
    gone: set[int] = set()
    for slots, some in by_slots.items():
        if len(typed_in(slots)) < FEWEST_SLOTS or not _is_prose(some, lines):
            continue
        template = tuple(slot_of(places) for places in zip(*(kind.template for kind in some), strict=True))
        if is_told(template):
            joined = LineKind(template)
            for kind in some:
                joined.take(kind.forms)
            made.append(joined)
            gone |= set(map(id, some))
    return sorted([*made, *(kind for kind in kinds if id(kind) not in gone)], key=rank) if made else kinds


@lru_cache(maxsize=MOST_REMEMBERED)
def _slots_alone(piece: str) -> str:
    """Return a piece with a slot for each word, and the marks around it."""
    return _WORDS.sub(WORD, piece)


def _begins_as(template: tuple[str, ...], prose: tuple[str, ...]) -> bool:
    """Tell whether a template begins with what prose has before its words, where that says something."""
    head = prose[:-1]
    return len(template) > len(head) and says(head) and is_of(template[: len(head)], head)


def _is_prose(kinds: Sequence[LineKind], lines: int) -> bool:
    """Tell whether kinds are many, with hardly a line of each, and together no rare thing."""
    count = sum(kind.count for kind in kinds)
    return len(kinds) >= LEAST_OF_PROSE and count <= MOST_OF_PROSE * len(kinds) and count * LEAST_SHARE >= lines


def _prose_of(kinds: Sequence[LineKind], place: int, lines: int) -> Iterator[tuple[tuple[str, ...], int]]:
    """Yield templates for kinds that are prose and alike up to a place: what they begin with, and a slot for words.

    With each comes how many lines are of it.

    Where a few pieces that they have at the place part most of them, and each part is prose, it is those parts.
    """
    by_piece: dict[tuple[str, ...], list[LineKind]] = defaultdict(list)
    for kind in kinds:
        by_piece[kind.template[place : place + 1]].append(kind)
    parts = [some for piece, some in by_piece.items() if piece and _is_prose(some, lines)]
    parted = {id(kind) for some in parts for kind in some}
    others = [kind for kind in kinds if id(kind) not in parted]
    if len(parts) > FEW_KINDS or sum(kind.count for kind in others) * 4 > sum(kind.count for kind in kinds):
        parts, others = [], [*kinds]
    for some in parts:
        yield from _prose_of(some, place + 1, lines)
    if _is_prose(others, lines):
        yield (*kinds[0].template[:place], WORDS), sum(kind.count for kind in others)


def _end_of_words(template: tuple[str, ...]) -> int:
    """Return the place from which on a template has words that vary alone."""
    place = len(template)
    while place and template[place - 1] in (WORD, WORDS):
        place -= 1
    return place
