"""Templates of lines: forms of one length told into kinds by the words that stay, and slots for those that vary."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from typing import TYPE_CHECKING

from msgspec import Struct, field

from fieldstick.matching.shapes import shape_of

if TYPE_CHECKING:
    from collections.abc import Iterable

MOST_BRANCHES = 40
"""Different words at a place up to which they may part lines into kinds."""

LEAST_SHARE = 200
"""One in so many lines of a group must have a word for it to part them."""

FEWEST = 8
"""Lines from which on it says something that hardly any word comes again."""

ENOUGH_ALIKE = 3
"""Kinds that differ in one word alone, from which on that is a word that varies."""

_WORD = re.compile(r"[^\W\d_]")
TYPED = re.compile(r"⟨([a-z ]+)⟩")

WORD, WORDS = "⟨word⟩", "⟨words⟩"


class Form(Struct):
    """Lines that read the same once their slots are filled in: how many, the line (from 1) and text of the first."""

    pieces: tuple[str, ...]
    count: int = 0
    first: int = 0
    example: str = ""


class LineKind(Struct):
    """A kind of line: its template, how many lines are of it, its first line, and the shapes of its lines."""

    template: tuple[str, ...]
    count: int = 0
    first: int = 0
    example: str = ""
    shapes: dict[str, Form] = field(default_factory=dict)
    members: set[tuple[str, ...]] = field(default_factory=set)
    """The forms that are of it, by their pieces."""

    mark: str = ""
    """The mark that parts its pieces where no blank does."""

    @property
    def text(self) -> str:
        """The template as it is shown."""
        joined = " ".join(self.template)
        return joined.replace(f" {self.mark} ", self.mark) if self.mark else joined

    def take(self, form: Form) -> None:
        """Take lines in."""
        self.members.add(form.pieces)
        self._take(shape_of(form.example), form)

    def merge(self, other: LineKind) -> None:
        """Take the lines of another kind in."""
        self.members |= other.members
        for shape, form in other.shapes.items():
            self._take(shape, form)

    def _take(self, shape: str, form: Form) -> None:
        if not self.count or form.first < self.first:
            self.first, self.example = form.first, form.example
        self.count += form.count
        known = self.shapes.setdefault(shape, Form((), 0, form.first, form.example))
        known.count += form.count


def rank(kind: LineKind) -> tuple[int, int]:
    return -kind.count, kind.first


def parted(forms: list[Form], since: int, lines: int) -> list[tuple[tuple[str, ...], list[Form]]]:
    """Part forms of one length into kinds, each with its template: by places from `since` on."""
    if len(forms) == 1:
        return [(forms[0].pieces, forms)]
    total = sum(form.count for form in forms)
    for place in range(since, len(forms[0].pieces)):
        words = Counter[str]()
        for form in forms:
            words[_key_of(form.pieces[place])] += form.count
        if len(words) == 1 or not _parts(words, total):
            continue
        rare = {word for word, count in words.items() if count * LEAST_SHARE < total}
        branches: dict[str, list[Form]] = defaultdict(list)
        for form in forms:
            word = _key_of(form.pieces[place])
            branches["" if word in rare else word].append(form)
        if len(branches) == 1:
            continue
        found = [each for some in branches.values() for each in parted(some, place + 1, lines)]
        return _alike_together(found, place, first=place == _first_word(forms[0].pieces))
    return [(_template(forms), forms)]


def _key_of(piece: str) -> str:
    """Return a piece, of one that is a key with its value the key alone: a value varies."""
    at = piece.find("=")
    return piece[: at + 1] if at > 0 else piece


def _parts(words: Counter[str], total: int) -> bool:
    """Tell whether the words at a place part lines into kinds: a few of them, each again and again."""
    if total >= FEWEST and 3 * len(words) > 2 * total:
        # Nearly every line has its own.
        return False
    common = [word for word, count in words.items() if count * LEAST_SHARE >= total]
    if not 1 <= len(common) <= MOST_BRANCHES or sum(words[word] for word in common) * 10 < 9 * total:
        return False
    return any(_WORD.search(TYPED.sub("", word)) for word in common)


def _first_word(pieces: tuple[str, ...]) -> int:
    """Return the first place that holds a word, and no slot alone."""
    return next((at for at, piece in enumerate(pieces) if _WORD.search(TYPED.sub("", piece))), -1)


def _alike_together(
    found: list[tuple[tuple[str, ...], list[Form]]], place: int, *, first: bool
) -> list[tuple[tuple[str, ...], list[Form]]]:
    """Put kinds together that differ in the word at a place alone, where there are enough of them."""
    groups: dict[tuple[str, ...], list[tuple[tuple[str, ...], list[Form]]]] = defaultdict(list)
    for template, forms in found:
        groups[(*template[:place], "", *template[place + 1 :])].append((template, forms))
    made: list[tuple[tuple[str, ...], list[Form]]] = []
    for group in groups.values():
        slots = sum(piece.startswith("⟨") for piece in group[0][0])
        if first or len(group) < ENOUGH_ALIKE or not slots:
            made += group
            continue
        values = [template[place] for template, _ in group]
        joined = [*group[0][0]]
        joined[place] = _slot_of(values)
        made.append((tuple(joined), [form for _, forms in group for form in forms]))
    return made


def _template(forms: list[Form]) -> tuple[str, ...]:
    return tuple(_slot_of(values) for values in zip(*(form.pieces for form in forms), strict=True))


def _slot_of(values: Iterable[str]) -> str:
    """Return what stands for pieces that differ: what they begin and end with alike, and a slot between."""
    different = list(dict.fromkeys(values))
    if len(different) == 1:
        return different[0]
    keys = {each[: each.find("=") + 1] for each in different}
    head = keys.pop() if len(keys) == 1 else ""
    rests = {each.removeprefix(head) for each in different}
    kinds = {_kind_of(each) for each in rests}
    tails = {each[-1:] for each in rests}
    tail = tails.pop() if len(tails) == 1 else ""
    tail = tail if tail and not tail.isalnum() and tail not in "⟩_" else ""
    widest = next((each for each in kinds if all(_takes(each, other) for other in kinds)), "word")
    return f"{head}⟨{widest}⟩{tail}"


def _kind_of(piece: str) -> str:
    bare = piece.rstrip(",;:.)]")
    found = TYPED.fullmatch(bare)
    if found is not None:
        return found[1]
    if " " in bare:
        return "words"
    # What is made of numbers and the like, joined by marks, is told by that.
    return "version" if TYPED.search(bare) and not re.search(r"[^-+~.:_]", TYPED.sub("", bare)) else "word"


def folded(template: tuple[str, ...]) -> tuple[str, ...]:
    """Return a template with words that vary one after the other as one slot."""
    made: list[str] = []
    for piece in template:
        made.append(piece)
        if made[-3:] == [WORD] * 3:
            made[-3:] = [WORDS]
        elif made[-2:] == [WORDS, WORD]:
            made.pop()
    return tuple(made)


def without_rare(ranked: list[LineKind], lines: int) -> list[LineKind]:
    """Put rare kinds to a commoner one of which they are: a word of theirs is one that varies there."""
    common = [kind for kind in ranked if kind.count * LEAST_SHARE >= lines]
    rest = []
    for kind in ranked[len(common) :]:
        home = next((each for each in common if _is_of(kind.template, each.template)), None)
        if home is None:
            rest.append(kind)
        else:
            home.merge(kind)
    return [*common, *rest]


def _is_of(pieces: tuple[str, ...], template: tuple[str, ...]) -> bool:
    """Tell whether pieces are those of a template, whose slots take pieces of their kind."""
    return len(pieces) == len(template) and all(
        one == other or (other.startswith("⟨") and _takes(_kind_of(other), _kind_of(one)))
        for one, other in zip(pieces, template, strict=True)
    )


def _takes(slot: str, kind: str) -> bool:
    """Tell whether a slot takes a piece of some kind."""
    if slot in ("word", "words"):
        return kind != "words" or slot == "words"
    return slot == kind or kind in _NARROWER.get(slot, ())


_NARROWER = {"version": ("number", "identifier", "date"), "identifier": ("number",)}
"""What else a slot takes."""
