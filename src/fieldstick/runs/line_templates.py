"""Templates of lines: forms of one length told into kinds by the words that stay, and slots for those that vary."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from functools import lru_cache
from itertools import chain, takewhile
from typing import TYPE_CHECKING

from msgspec import Struct, field

from fieldstick.lean import compiled_later
from fieldstick.matching.shapes import shapes_of

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

MANY_ALIKE = 8
"""Such kinds, from which on the first word is one that varies, where half of the lines are of them."""

FEWEST_SAID = 3
"""Words that stay from which on eight kinds that are alike else are of one, though they have no typed slot."""

FAR_COMMONER = 4
"""How many times as common a kind is to which another is put that is of it."""

MUCH_COMMONER = 10
"""How many times as common a kind is whose identifiers may have letters alone, by chance."""

MANY_SLOTS, MANY_PIECES = 4, 6
"""Slots, and pieces, from which on lines that have the same are of one kind, whatever single word they differ in."""

MOST_REMEMBERED = 20_000
"""Pieces of which it is remembered what kind of slot they are."""

_WORD = compiled_later(r"[^\W\d_]")
TYPED = compiled_later(r"⟨([a-z ]+)⟩")

WORD, WORDS, NUMBER = "⟨word⟩", "⟨words⟩", "⟨number⟩"
_ENDS = ",;:.)]"
_HEXADECIMAL = compiled_later(r"[A-F]{2,}|[a-f]{2,}")
_AROUND = compiled_later(r"(?s)([\"'“‘«(\[{<]*+)(?=.).*?([\"'”’»)\]}>,;:!?.%]*)")
"""The quotes and brackets before and the marks behind something."""

_PARTS = compiled_later(r"⟨[a-z ]+⟩|[^\W_][\w'-]*|[^\w⟨]|_")
"""Slots, words and marks."""

FEWEST_PARTS, MOST_BY_PARTS = 3, 40
"""Parts of a piece from which on each is told by itself, and different pieces up to which they are."""

_UNIT = compiled_later(r"(?<=⟨number⟩)(?:[^\W\d_]{1,3}|[%°])$")
"""What stands behind a number and says of what."""


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
    def text(self) -> str:
        """The template as it is shown."""
        joined = " ".join(self.template)
        return joined.replace(f" {self.mark.strip(' ')} ", self.mark) if self.mark else joined

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
        if len(words) == 1 or not _parts(words, columns.total):
            continue
        rare = {word for word, count in words.items() if count * LEAST_SHARE < columns.total}
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
        counts = [form.count for form in forms]
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
    return any(has_word(_UNIT.sub("", word)) for word in common)


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
            enough = _go_on_alike(rest, {template[place]: counts[template] for template, _ in group}, lines)
        joined = group if enough or rest in full else []
        if not joined:
            slots = len(typed_in(rest))
            if slots >= MANY_SLOTS or (says(rest) and slots and sum(map(_is_said, rest)) >= MANY_PIECES):
                joined = [each for each in group if 2 * counts[each[0]] >= lines[each[0][place]]]
        if len(joined) > 1:
            words = {template[place] for template, _ in joined}
            if first:
                free.setdefault(rest[:place], set()).update(words)
            made.append((_with_slot(rest, place, words), [form for _, forms in joined for form in forms]))
            made += [each for each in group if each not in joined]
        else:
            made += group
    return _pairs_together(made, place)


def with_words_freed(kinds: Iterable[LineKind], free: Free) -> list[LineKind]:
    """Return kinds with a slot for a word that varies elsewhere behind the same beginning, alike ones together."""
    made: dict[tuple[str, ...], LineKind] = {}
    for kind in kinds:
        template = kind.template
        for before, words in free.items():
            place = len(before)
            if template[:place] == before and template[place : place + 1] and template[place] in words:
                template = _with_slot(template, place, words)
        if template in made:
            made[template].take(kind.forms)
        else:
            kind.template = template
            made[template] = kind
    return sorted(made.values(), key=rank)


def _is_said_so(rest: tuple[str, ...], count: int) -> bool:
    """Tell whether so many kinds that are alike but for a word say enough else that it is one which varies."""
    words = sum(map(has_word, rest))
    return words >= MANY_PIECES or (count >= MANY_ALIKE and words >= FEWEST_SAID)


def _go_on_alike(rest: tuple[str, ...], counts: dict[str, int], lines: Counter[str]) -> bool:
    """Tell whether a first word varies, of which so many lines each go on alike, of those that have each such word.

    What a line begins with says where it comes from, unless nearly all go on alike; where words have brackets around
    them, of those that have the same.
    """
    share = sum(counts.values())
    around = set(map(_around, counts))
    if len(around) == 1 and all(*around):
        lines = Counter({word: count for word, count in lines.items() if _around(word) in around})
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
        stays = len(both) == 2 and all(map(_is_word, both))
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


def says(template: tuple[str, ...]) -> bool:
    """Tell whether a template has a word that stays."""
    return any(map(has_word, template))


@lru_cache(maxsize=MOST_REMEMBERED)
def has_word(piece: str) -> bool:
    return _WORD.search(TYPED.sub("", piece)) is not None


@lru_cache(maxsize=MOST_REMEMBERED)
def _is_word(piece: str) -> bool:
    return _WORD.search(piece) is not None and TYPED.search(piece) is None


def typed_in(template: tuple[str, ...]) -> list[str]:
    """Return the slots of a template that are more than words; a date and its time are one."""
    found = TYPED.findall(" ".join(template).replace("⟨date⟩ ⟨time⟩", "⟨timestamp⟩"))
    return [each for each in found if each not in ("word", "words")]


@lru_cache(maxsize=MOST_REMEMBERED)
def _is_said(piece: str) -> bool:
    """Tell whether a piece is more than a mark, or a word that may be any."""
    return piece not in (WORD, WORDS) and any(map(str.isalnum, piece))


def _with_slot(rest: tuple[str, ...], place: int, words: Iterable[str]) -> tuple[str, ...]:
    return (*rest[:place], slot_of(sorted(words)), *rest[place + 1 :])


def freed(kinds: dict[tuple[str, ...], LineKind], free: Free) -> dict[tuple[str, ...], LineKind]:
    """Put kinds together that differ in a word alone which varies elsewhere, behind the same beginning."""
    made = dict(kinds)
    for before, words in free.items():
        place = len(before)
        groups: dict[tuple[str, ...], list[tuple[str, ...]]] = defaultdict(list)
        for template in made:
            if template[:place] == before and template[place : place + 1] and template[place] in words:
                groups[(*before, "", *template[place + 1 :])].append(template)
        for rest, group in groups.items():
            if not says(rest):
                continue
            joined = _with_slot(rest, place, {WORD, *(template[place] for template in group)})
            if len(group) > 1 or joined in made:
                joined = joined if joined in made else _with_slot(rest, place, {template[place] for template in group})
                kind = made.setdefault(joined, LineKind(joined))
                for template in group:
                    kind.take(made.pop(template).forms)
    return made


def alike_at_last(kinds: dict[tuple[str, ...], LineKind]) -> dict[tuple[str, ...], LineKind]:
    """Put kinds together that differ in one word alone, where enough are alike; in the first, where nearly all are."""
    made = dict(kinds)
    numbers: dict[tuple[str, ...], list[int]] = {}
    """Of each template a number for each piece at its place, and their sum: those alike but for one have its rest."""
    for place in reversed(range(max(map(len, made), default=0))):
        alike: dict[tuple[int, int], list[tuple[str, ...]]] = defaultdict(list)
        for template in made:
            if place < len(template) and (_is_word(template[place]) or WORD in template[place]):
                own = numbers.get(template)
                if own is None:
                    own = numbers[template] = [hash(each) for each in enumerate(template)]
                    own.append(sum(own))
                alike[len(template), own[-1] - own[place]].append(template)
        for some in alike.values():
            if len(some) >= ENOUGH_ALIKE:
                _join_alike(made, some, place)
    return made


def _join_alike(made: dict[tuple[str, ...], LineKind], some: list[tuple[str, ...]], place: int) -> None:
    """Put kinds together of which the templates are the same but at a place, where the word there varies."""
    rest = (*some[0][:place], "", *some[0][place + 1 :])
    group = [each for each in some if (*each[:place], "", *each[place + 1 :]) == rest]
    if len(group) < ENOUGH_ALIKE or not (typed_in(rest) or _is_said_so(rest, len(group))):
        return
    if not any(has_word(each) or WORD in each for each in rest[:place]):
        lines = Counter[str]()
        for template, kind in made.items():
            if template[:place] == rest[:place] and len(template) > place:
                lines[template[place]] += kind.count
        if not _go_on_alike(rest, {each[place]: made[each].count for each in group}, lines):
            return
    joined = _with_slot(rest, place, {template[place] for template in group})
    forms = [form for template in group for form in made.pop(template).forms]
    made.setdefault(joined, LineKind(joined)).take(forms)


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


def template_piece(counts: Counter[str]) -> str:
    """Return what pieces have in common, of which so many are there; what hardly a line has tells nothing of others."""
    lines = counts.total()
    common = [piece for piece, count in counts.items() if count * LEAST_SHARE >= lines]
    nearly_all = sum(counts[piece] for piece in common) * LEAST_SHARE >= (LEAST_SHARE - 1) * lines
    return slot_of(common if nearly_all else counts)


def slot_of(values: Iterable[str]) -> str:
    """Return what stands for pieces that differ: what they begin and end with alike, and a slot between."""
    different = list(dict.fromkeys(values))
    if len(different) == 1:
        return different[0]
    if (joined := _by_parts(different)) is not None:
        return joined
    keys = {each[: each.find("=") + 1] for each in different}
    if keys == {""} and all(": " in each for each in different):
        keys = {each[: each.find(": ") + 2] for each in different}
    head = keys.pop() if len(keys) == 1 else ""
    rests = {each.removeprefix(head) for each in different}
    ends = {_around(each) for each in rests}
    opening, tail = _begun_alike([start for start, _ in ends]), _begun_alike([end[::-1] for _, end in ends])[::-1]
    head += opening
    rests = {each.removeprefix(opening) for each in rests}
    kinds = {_kind_of(each) for each in rests}
    if "identifier" in kinds and all(_HEXADECIMAL.fullmatch(each.rstrip(_ENDS)) for each in rests if "⟨" not in each):
        # By chance one may have letters alone.
        kinds.discard("word")
    if NUMBER not in rests and {_UNIT.sub("", each) for each in rests} == {NUMBER}:
        return f"{head}{NUMBER}{WORD}"
    mixed = "identifier" if kinds <= _WITH_DIGITS else "word"
    widest = next((each for each in kinds if all(_takes(each, other) for other in kinds)), mixed)
    return f"{head}⟨{widest}⟩{tail}"


def _by_parts(pieces: list[str]) -> str | None:
    """Return pieces of several words or slots each, parted by the same marks, as one with a slot for words that differ.

    None where they are not all such.
    """
    parts = [_PARTS.findall(each) for each in pieces[:MOST_BY_PARTS]]
    if len(pieces) > MOST_BY_PARTS or len(parts[0]) < FEWEST_PARTS or any(len(each) != len(parts[0]) for each in parts):
        return None
    made = ""
    for several in zip(*parts, strict=True):
        different = set(several)
        if len(different) > 1 and not all(map(_is_word, different)):
            return None
        made += different.pop() if len(different) == 1 else WORD
    return made


def _around(piece: str) -> tuple[str, str]:
    """Return the marks that stand around what is in a piece."""
    found = _AROUND.fullmatch(piece)
    return (found[1], found[2]) if found is not None else ("", "")


def _begun_alike(texts: list[str]) -> str:
    """Return what all texts begin with."""
    alike = takewhile(lambda each: len(each) == 1, map(set, zip(*texts, strict=False)))
    return "".join(each.pop() for each in alike)


@lru_cache(maxsize=MOST_REMEMBERED)
def _kind_of(piece: str) -> str:
    bare = piece.rstrip(_ENDS)
    if bare.isalpha():
        return "word"
    bare = _UNIT.sub("", bare)
    found = TYPED.fullmatch(bare)
    if found is not None:
        return found[1]
    if " " in bare:
        return "words"
    # What is made of numbers and the like, joined by marks, is told by that.
    slots: set[str] = set(TYPED.findall(bare))
    rest = TYPED.sub("", bare)
    if not slots or re.search(r"[^-+~.:_/]", rest):
        return "word"
    if "identifier" in slots and slots <= _WITH_DIGITS:
        return "identifier"
    if bare.count("⟨") == 1:
        return slots.pop()
    return "word" if "/" in rest else "version"


def folded_together(kinds: Iterable[LineKind]) -> list[LineKind]:
    """Return kinds, words that vary one after the other told as one, those together that are the same then."""
    made: dict[tuple[str, ...], LineKind] = {}
    for kind in kinds:
        template = folded(kind.template)
        if template in made:
            made[template].take(kind.forms)
        else:
            kind.template = template
            made[template] = kind
    return sorted(made.values(), key=rank)


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
    """Put kinds to a commoner one of which they are: a word of theirs is one that varies there.

    A kind that is not rare is put to one that is far commoner or has the same words itself, and that says more than
    that there are words.
    """
    common: dict[int, list[LineKind]] = defaultdict(list)
    rare: list[LineKind] = []
    for kind in ranked:
        is_rare = kind.count * LEAST_SHARE < lines
        alike = common[len(kind.template)]
        home = next((each for each in alike if _is_home(each, kind, rare=is_rare)), None)
        if home is not None:
            home.take(kind.forms)
        else:
            (rare if is_rare else alike).append(kind)
    return [*sorted(chain.from_iterable(common.values()), key=rank), *rare]


def _is_home(home: LineKind, kind: LineKind, *, rare: bool) -> bool:
    """Tell whether a kind is put to another one."""
    if not is_of(kind.template, home.template, letters=home.count >= MUCH_COMMONER * kind.count):
        return False
    if rare or (home.count >= FAR_COMMONER * kind.count and _tells(home)):
        return True
    return _tells(home) and all(
        any(form.pieces[place] == piece for form in home.forms)
        for place, (piece, other) in enumerate(zip(kind.template, home.template, strict=True))
        if piece != other and "⟨" not in piece
    )


def _tells(kind: LineKind) -> bool:
    return says(kind.template) or len(typed_in(kind.template)) > 1


def is_of(pieces: tuple[str, ...], template: tuple[str, ...], *, letters: bool = False) -> bool:
    """Tell whether pieces are those of a template, whose slots take pieces of their kind.

    With `letters` an identifier may have letters alone.
    """
    return len(pieces) == len(template) and all(
        one == other or _piece_is_of(one, other, letters=letters) for one, other in zip(pieces, template, strict=True)
    )


def _piece_is_of(piece: str, other: str, *, letters: bool) -> bool:
    head, slot, tail = other.partition("⟨")
    name, _, tail = tail.partition("⟩")
    if slot and "⟨" not in tail and len(piece) > len(head) + len(tail):
        # What stands around the only slot is the same.
        if not (piece.startswith(head) and piece.endswith(tail)):
            return not head and _takes(_kind_of(other), _kind_of(piece))
        kind = _kind_of(piece[len(head) : len(piece) - len(tail)])
        return _takes(name, kind) or (letters and (name, kind) == ("identifier", "word"))
    parts, own = _PARTS.findall(other), _PARTS.findall(piece)
    if slot and len(parts) >= FEWEST_PARTS:
        return len(own) == len(parts) and all(
            one == part or (part.startswith("⟨") and _takes(part[1:-1], _kind_of(one)))
            for one, part in zip(own, parts, strict=True)
        )
    return other.startswith("⟨") and _takes(_kind_of(other), _kind_of(piece))


def _takes(slot: str, kind: str) -> bool:
    """Tell whether a slot takes a piece of some kind."""
    if slot in ("word", "words"):
        return kind != "words" or slot == "words"
    return slot == kind or kind in _NARROWER.get(slot, ())


_WITH_DIGITS = {"identifier", "number", "version", "time", "address"}
"""Slots that are taken for identifiers together, though none of them takes the others."""

_NARROWER = {"version": ("number", "identifier", "date"), "identifier": ("number",)}
"""What else a slot takes."""
