"""Puts kinds of line together that differ in how many things a list has: `[⟨number⟩, ⟨number⟩]`, longer or shorter."""

from __future__ import annotations

from collections import defaultdict
from typing import TYPE_CHECKING, NamedTuple

from fieldstick.lean import compiled_later
from fieldstick.runs.line_merging import together

if TYPE_CHECKING:
    from collections.abc import Collection, Iterable

    from fieldstick.runs.line_templates import LineKind

FEWEST_LENGTHS = 3
"""Different lengths of a list from which on it is one of any length: two are lines with something more or less."""

LONGEST_ITEM = 3
"""Pieces of an item, as of a number with its unit, at the most."""

_OPENED = compiled_later(r"([\[({]*)(.*)")
_SLOT = compiled_later(r"⟨[a-z ]+⟩")

Item = tuple[str, ...]
"""The pieces of an item of a list, without what parts it from the next."""


class _Stretch(NamedTuple):
    """A piece of a template, or several that are a list: what stands before, an item, what parts items, how many."""

    before: str
    item: Item = ()
    mark: str = ""
    behind: str = ""
    length: int = 1

    @property
    def pieces(self) -> tuple[str, ...]:
        """The pieces of a template that it is."""
        if not self.item:
            return (self.before,)
        *first, last = self.item
        made = [*(*first, last + self.mark) * (self.length - 1), *first, last + self.behind]
        return (self.before + made[0], *made[1:])

    @property
    def as_any_length(self) -> tuple[str, ...]:
        """The pieces that a list of any length is: the slot of its items for several."""
        one = self._replace(length=1).pieces
        return tuple(each.replace("⟩", "s⟩", 1) if _SLOT.search(each) else each for each in one)


def lists_together(kinds: Iterable[LineKind]) -> list[LineKind]:
    """Return kinds, those together that are the same but for the lengths of lists, whose items are alike."""
    templates = [kind.template for kind in kinds]
    items = {each.item for template in templates for each in _stretches(template, ()) if each.length > 1}
    known = {template: _stretches(template, items) for template in templates} if items else {}
    alike: dict[tuple[tuple[str, Item, str], ...], list[tuple[_Stretch, ...]]] = defaultdict(list)
    for stretches in known.values():
        alike[_without_lengths(stretches)].append(stretches)

    def template_of(kind: LineKind) -> tuple[str, ...]:
        group = alike[_without_lengths(known[kind.template])] if known else []
        if len(group) < FEWEST_LENGTHS:
            return kind.template
        made: list[str] = []
        for several in zip(*group, strict=True):
            lengths = {each.length for each in several}
            made += several[0].pieces if len(lengths) == 1 else several[0].as_any_length
        return tuple(made)

    return together(kinds, template_of)


def _without_lengths(stretches: tuple[_Stretch, ...]) -> tuple[tuple[str, Item, str], ...]:
    return tuple((each.before, each.item, each.behind) for each in stretches)


def _stretches(template: tuple[str, ...], alone: Collection[Item]) -> tuple[_Stretch, ...]:
    """Return the pieces of a template, those of a list as one; an item by itself is one where it is `alone`."""
    made: list[_Stretch] = []
    at = 0
    while at < len(template):
        sizes = range(1, min(LONGEST_ITEM, len(template) - at) + 1)
        lists = (_list_at(template, at, size, alone) for size in sizes)
        found = max((each for each in lists if each), key=_size, default=_Stretch(template[at]))
        made.append(found)
        at += len(found.pieces)
    return tuple(made)


def _size(stretch: _Stretch) -> int:
    return len(stretch.pieces)


def _list_at(template: tuple[str, ...], at: int, size: int, alone: Collection[Item]) -> _Stretch | None:
    """Return the list that stands at a place, of items of so many pieces; None where there is none."""
    opened = _OPENED.fullmatch(template[at])
    before, first = opened.groups() if opened is not None else ("", "")
    pieces = (first, *template[at + 1 : at + size])
    mark = pieces[-1][-1:] if pieces[-1][-1:] in (",", ";") else ""
    item = (*pieces[:-1], pieces[-1].removesuffix(mark))
    if not mark or not any(map(_SLOT.search, item)):
        known = [each for each in alone if len(each) == size and each[:-1] == pieces[:-1]]
        by_itself = next((each for each in known if _ends_as(pieces[-1], each[-1])), None)
        return (
            _Stretch(before, by_itself, "", pieces[-1].removeprefix(by_itself[-1])) if by_itself is not None else None
        )
    length, end = 1, at + size
    while template[end : end + size] == (*item[:-1], item[-1] + mark):
        length, end = length + 1, end + size
    last = template[end : end + size]
    if len(last) < size or last[:-1] != item[:-1] or not _ends_as(last[-1], item[-1]):
        return None
    return _Stretch(before, item, mark, last[-1].removeprefix(item[-1]), length + 1)


def _ends_as(piece: str, item: str) -> bool:
    """Tell whether a piece is the last one of an item, with marks behind it alone."""
    return piece.startswith(item) and not any(map(str.isalnum, piece[len(item) :]))
