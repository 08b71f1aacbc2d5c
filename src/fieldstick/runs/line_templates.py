"""Templates of lines: forms of one length told into kinds by the words that stay, and slots for those that vary."""

from __future__ import annotations

from collections import Counter, defaultdict
from typing import TYPE_CHECKING

from msgspec import Struct, field

from fieldstick.matching.shapes import shapes_of
from fieldstick.runs.line_marks import RECORD, SHOWN_RECORD
from fieldstick.runs.line_slots import (
    JOINED,
    LEAST_SHARE,
    NOTHING,
    UNIT,
    around,
    has_word,
    is_said,
    is_word,
    says,
    slot_of,
    template_piece,
    typed_in,
    with_said,
    with_slot,
)

if TYPE_CHECKING:
    from collections.abc import Collection, Iterable, Iterator

MOST_BRANCHES = 40
"""Different words at a place up to which they may part lines into kinds."""

OFTEN = 5
"""Lines that each of more words than that must be in, to part them into kinds; and what is no rare kind, however many
lines there are."""

TOLD, MUCH_BETTER = 0.5, 3
"""How often what follows must be what it mostly is behind a word, and how many times as often as it is at all."""

MOST_WORDS, MOST_ROWS = 40, 50
"""Words that are asked for what follows them, and different lines of each, about and at the most."""

FEWEST = 8
"""Lines from which on it says something that hardly any word comes again."""

ENOUGH_ALIKE = 3
"""Kinds that differ in one word alone, from which on that is a word that varies."""

MANY_ALIKE = 8
"""Such kinds, from which on the first word is one that varies, where half of the lines are of them."""

FEWEST_SAID = 3
"""Words that stay from which on eight kinds that are alike else are of one, though they have no typed slot."""

MANY_SLOTS, MANY_PIECES = 4, 6
"""Slots, and pieces, from which on lines that have the same are of one kind, whatever single word they differ in."""


class Form(Struct):
    """Lines that read the same once their slots are filled in: how many, the line (from 1) and text of the first.

    `stands_for` is how many lines of the source they stand for, where not all were looked at.
    """

    pieces: tuple[str, ...]
    count: int = 0
    first: int = 0
    example: str = ""
    stands_for: float = 0.0
    put_to: Form | None = None
    """The form that it was put to when there were too many."""

    said: set[str] = field(default_factory=set)
    """Pieces with a text in quotes behind a key, as they are in its lines."""

    def home(self) -> Form:
        """Return itself, or the form that it was put to."""
        found = self
        while found.put_to is not None:
            found = found.put_to
        return found

    def add(self, other: Form) -> None:
        """Take lines in that read the same, or are taken to."""
        if other.first < self.first:
            self.first, self.example = other.first, other.example
        self.count += other.count
        self.stands_for += other.stands_for
        self.said |= other.said


class LineKind(Struct):
    """A kind of line: its template, how many lines are of it, its first line, and the forms that are of it.

    `stands_for` is as `Form` has it.
    """

    template: tuple[str, ...]
    count: int = 0
    first: int = 0
    example: str = ""
    stands_for: float = 0.0
    forms: list[Form] = field(default_factory=list)
    mark: str = ""
    """The mark that parts its pieces where no blank does."""

    @property
    def said(self) -> set[str]:
        """Pieces with a text in quotes behind a key, as they are in its lines."""
        return set[str]().union(*(form.said for form in self.forms))

    @property
    def text(self) -> str:
        """The template as it is shown: with what stands in quotes, where that is the same."""
        said = self.said
        joined = " ".join([with_said(each, said) for each in self.template] if said else self.template)
        joined = joined.replace(f": {NOTHING}", ":").replace(f" {JOINED}", "")
        shown = SHOWN_RECORD if self.mark == RECORD else self.mark
        return joined.replace(f" {self.mark.strip(' ')} ", shown) if self.mark else joined

    def take(self, forms: list[Form]) -> None:
        """Take lines in."""
        first = min(forms, key=_first)
        if not self.count or first.first < self.first:
            self.first, self.example = first.first, first.example
        self.count += _count(forms)
        self.stands_for += sum([form.stands_for for form in forms])
        self.forms += forms

    def shapes(self) -> list[Form]:
        """Return the shapes of its lines, the commonest first: how many there are of each, and the first of them."""
        found: dict[str, Form] = {}
        forms = sorted(self.forms, key=_first)
        for form, shape in zip(forms, shapes_of([form.example for form in forms]), strict=True):
            found.setdefault(shape, Form((shape,), 0, form.first, form.example)).add(form)
        return sorted(found.values(), key=commonest)


def _first(form: Form) -> int:
    return form.first


def rank(kind: LineKind) -> tuple[int, int]:
    """Return what kinds are sorted by, those that have most of the lines that were looked at first."""
    return -kind.count, kind.first


def is_rare(kind: LineKind, lines: int) -> bool:
    """Tell whether few of so many lines are of a kind, and few at all."""
    return kind.count * LEAST_SHARE < lines and kind.count < OFTEN


def commonest(each: LineKind | Form) -> tuple[float, int]:
    """Return what kinds or forms are sorted by, those that stand for most lines first."""
    return -round(each.stands_for, 6), each.first


Free = dict[tuple[str, ...], set[str]]
"""Words that vary behind what lines begin with."""

_Told = tuple[tuple[str, ...], list[Form]]
"""A template and the forms that are of it."""


def parted(forms: list[Form], since: int, free: Free) -> list[_Told]:
    """Part forms of one length into kinds, each with its template: by places from `since` on.

    Words that vary are put into `free`, by the pieces before them.
    """
    if len(forms) == 1:
        return [(forms[0].pieces, forms)]
    columns = _Columns(forms)
    for place in range(since, columns.width):
        if columns.is_same(place):
            continue
        words = Counter[str]()
        for piece, count in columns.pieces(place).items():
            words[_key_of(piece)] += count
        if len(words) == 1:
            continue
        if _parts(words, columns.total):
            rare = {word for word, count in words.items() if count * LEAST_SHARE < columns.total}
        elif _tell_what_follows(words, columns, place):
            rare = {word for word, count in words.items() if count < OFTEN}
        else:
            continue
        branches: dict[str, list[Form]] = defaultdict(list)
        for form in forms:
            word = _key_of(form.pieces[place])
            branches["" if word in rare else word].append(form)
        if len(branches) == 1:
            continue
        found = [each for some in branches.values() for each in parted(some, place + 1, free)]
        return _alike_together(found, place, free, first=place == _first_word(forms[0].pieces))
    return [(columns.template(), forms)]


class _Columns:
    """Forms of one length by the places of their pieces."""

    def __init__(self, forms: list[Form]) -> None:
        self._columns = list(zip(*[form.pieces for form in forms], strict=True))
        self.width = len(self._columns)
        self._counts = counts = [form.count for form in forms]
        self._commonest: dict[int, float] = {}
        self.total = sum(counts)
        # Most forms of lines that vary are there once: those the interpreter's own loops count.
        self._more = [(at, count - 1) for at, count in enumerate(counts) if count != 1]

    def is_same(self, place: int) -> bool:
        """Tell whether all have the same piece at a place."""
        return len(set(self._columns[place])) == 1

    def pieces(self, place: int) -> Counter[str]:
        """Return how many lines have which piece at a place."""
        column = self._columns[place]
        found = Counter(column)
        for at, count in self._more:
            found[column[at]] += count
        return found

    def told_behind(self, place: int, words: Collection[str]) -> Iterator[tuple[float, float]]:
        """Yield for each later place how often a piece is the commonest there: behind each of some words, and of all.

        Some lines of each word are looked at, and places where all have much the same are left out.
        """
        rows: dict[str, list[int]] = {word: [] for word in words}
        keys = {piece: key for piece in set(self._columns[place]) if (key := _key_of(piece)) in rows}
        for at, piece in enumerate(self._columns[place]):
            if piece in keys and len(rows[keys[piece]]) < MOST_ROWS:
                rows[keys[piece]].append(at)
        total = sum([self._counts[at] for some in rows.values() for at in some])
        for later in range(place + 1, self.width):
            alone = self._commonest_at(later)
            if alone * MUCH_BETTER > 1:
                continue
            told = 0
            for some in rows.values():
                counts = Counter[str]()
                for at in some:
                    counts[_key_of(self._columns[later][at])] += self._counts[at]
                told += max(counts.values())
            yield told / total, alone

    def _commonest_at(self, place: int) -> float:
        """Return the share of lines that have the commonest key at a place."""
        if place not in self._commonest:
            counts = Counter[str]()
            for piece, count in self.pieces(place).items():
                counts[_key_of(piece)] += count
            self._commonest[place] = max(counts.values()) / self.total
        return self._commonest[place]

    def template(self) -> tuple[str, ...]:
        """Return what forms have in common, place by place."""
        return tuple(
            self._columns[place][0] if self.is_same(place) else template_piece(self.pieces(place))
            for place in range(self.width)
        )


def _key_of(piece: str) -> str:
    """Return a piece, of one that is a key with its value the key alone: a value varies."""
    at = piece.find("=")
    at = piece.find(": ") if at < 0 else at
    return piece[: at + 1] if at > 0 else piece


def _parts(words: Counter[str], total: int) -> bool:
    """Tell whether the words at a place part lines into kinds: a few of them, each again and again."""
    if total >= FEWEST and 3 * len(words) > 2 * total:
        # Nearly every line has its own.
        return False
    common = [word for word, count in words.items() if count * LEAST_SHARE >= total]
    if not 1 <= len(common) <= MOST_BRANCHES or sum(words[word] for word in common) * 10 < 9 * total:
        return False
    return any(has_word(UNIT.sub("", word)) for word in common)


def _tell_what_follows(words: Counter[str], columns: _Columns, place: int) -> bool:
    """Tell whether very many words at a place, nearly each of them often there, tell how lines go on.

    What comes most often at some place further on must be right far more often once the word is known.
    """
    often = sorted([word for word, count in words.items() if count >= OFTEN])
    if len(words) <= MOST_BRANCHES or sum([words[word] for word in often]) * 4 < 3 * columns.total:
        return False
    if not any(has_word(UNIT.sub("", word)) for word in words):
        return False
    some = often[:: max(1, len(often) // MOST_WORDS)]
    return any(told >= TOLD and told >= MUCH_BETTER * alone for told, alone in columns.told_behind(place, some))


def _first_word(pieces: tuple[str, ...]) -> int:
    """Return the first place that holds a word, and no slot alone."""
    return next((at for at, piece in enumerate(pieces) if has_word(piece)), -1)


def _alike_together(found: list[_Told], place: int, free: Free, *, first: bool) -> list[_Told]:
    """Put kinds together that differ in the word at a place alone, where that is a word that varies.

    It is where enough of them are alike; where several ways in which lines go on have the same words there, which then
    say nothing of what follows; and where so much is the same that it can hardly be another kind of line, unless the
    word has lines of other kinds for the most part.
    """
    if len(found) == 1:
        return found
    groups: dict[tuple[str, ...], list[_Told]] = defaultdict(list)
    for template, forms in found:
        groups[(*template[:place], "", *template[place + 1 :])].append((template, forms))
    if len(groups) == len(found):
        return _pairs_together(found, place)
    lines = Counter[str]()
    counts: dict[tuple[str, ...], int] = {}
    for template, forms in found:
        counts[template] = counts.get(template, 0) + _count(forms)
    for template, count in counts.items():
        lines[template[place]] += count
    full = _going_with_all(groups, place, counts)
    made: list[_Told] = []
    for rest, group in groups.items():
        if len(group) == 1:
            made += group
            continue
        holds = [template[place] for template, _ in group]
        enough = len(group) >= ENOUGH_ALIKE and (
            "⟨" in "".join(rest) or all("⟨" in each and has_word(each) for each in holds)
        )
        if enough and first:
            enough = go_on_alike(rest, {template[place]: counts[template] for template, _ in group}, lines)
        joined = group if enough or rest in full else []
        if not joined:
            slots = len(typed_in(rest))
            if slots >= MANY_SLOTS or (says(rest) and slots and sum(map(is_said, rest)) >= MANY_PIECES):
                joined = [each for each in group if 2 * counts[each[0]] >= lines[each[0][place]]]
        if len(joined) > 1:
            words = {template[place] for template, _ in joined}
            if first:
                free.setdefault(rest[:place], set()).update(words)
            made.append((with_slot(rest, place, words), [form for _, forms in joined for form in forms]))
            made += [each for each in group if each not in joined]
        else:
            made += group
    return _pairs_together(made, place)


def is_said_so(rest: tuple[str, ...], count: int) -> bool:
    """Tell whether so many kinds that are alike but for a word say enough else that it is one which varies."""
    words = sum(map(has_word, rest))
    return words >= MANY_PIECES or (count >= MANY_ALIKE and words >= FEWEST_SAID)


def go_on_alike(rest: tuple[str, ...], counts: dict[str, int], lines: Counter[str]) -> bool:
    """Tell whether a first word varies, of which so many lines each go on alike, of those that have each such word.

    What a line begins with says where it comes from, unless nearly all go on alike; where words have brackets around
    them, of those that have the same.
    """
    share = sum(counts.values())
    brackets = set(map(around, counts))
    if len(brackets) == 1 and all(*brackets):
        lines = Counter({word: count for word, count in lines.items() if around(word) in brackets})
    has_words, many = says(rest), len(counts) >= MANY_ALIKE
    if 20 * share >= 19 * lines.total() and (has_words or len(typed_in(rest)) > (0 if many else 1)):
        return True
    return has_words and many and 2 * share >= lines.total() and 5 * len(counts) >= 4 * len(lines)


def _pairs_together(found: list[_Told], place: int) -> list[_Told]:
    """Put kinds together that differ in two words one after the other, as names do, where enough are alike else."""
    if len(found) < ENOUGH_ALIKE:
        return found
    groups: dict[tuple[str, ...], list[_Told]] = defaultdict(list)
    for template, forms in found:
        both = template[place : place + 2]
        stays = len(both) == 2 and all(map(is_word, both))
        hole = ("", "") if stays else both
        groups[(*template[:place], *hole, *template[place + 2 :])].append((template, forms))
    made: list[_Told] = []
    for rest, group in groups.items():
        if len(group) < ENOUGH_ALIKE:
            made += group
            continue
        words = [sorted({template[at] for template, _ in group}) for at in (place, place + 1) if at < len(rest)]
        if min(map(len, words)) >= ENOUGH_ALIKE and (says(rest) or len(typed_in(rest)) > 1):
            joined = (*rest[:place], *map(slot_of, words), *rest[place + 2 :])
            made.append((joined, [form for _, forms in group for form in forms]))
        else:
            made += group
    return made


def _count(forms: Iterable[Form]) -> int:
    return sum([form.count for form in forms])


def _going_with_all(
    groups: dict[tuple[str, ...], list[_Told]], place: int, counts: dict[tuple[str, ...], int]
) -> set[tuple[str, ...]]:
    """Return the rests of templates, two or more, that nearly all words at a place go with, each again and again.

    They have words that stay, and most lines are of them.
    """
    words = {rest: {template[place] for template, _ in group if counts[template] > 1} for rest, group in groups.items()}
    every = set().union(*words.values())
    full = {rest for rest, own in words.items() if len(own) > 1 and 5 * len(own) >= 4 * len(every) and says(rest)}
    if len(full) < 2:
        return set()
    lines = {rest: sum([counts[template] for template, _ in group]) for rest, group in groups.items()}
    most = 2 * sum(lines[rest] for rest in full) >= sum(lines.values())
    return full if most else set()
