"""Kinds of line: what lines of one origin have in common, however their variable parts are made.

A line is cut at its blanks. What in a piece is a timestamp, a number, an address and so on becomes a slot; the words
that are left are told into those that stay and those that vary, by what stands beside them: the leftmost place where a
few words come again and again parts the lines into kinds, and so on within each; kinds that come out alike but for one
word are one kind with a word that varies; and where that leaves hardly a line like another, prose is told from what it
follows. All of it is done on the different forms that lines have once their slots are
filled in, so that a million lines cost little more than their forms.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from itertools import islice
from typing import TYPE_CHECKING, Any, NamedTuple

from fieldstick.kernels.walkers import NATIVE
from fieldstick.lean import compiled_later
from fieldstick.matching.character_kinds import DIGITS_FOLDED
from fieldstick.runs.line_keys import keyed_together
from fieldstick.runs.line_marks import TABS, parting_mark
from fieldstick.runs.line_merging import alike_at_last, folded_together, freed, with_words_freed, without_rare
from fieldstick.runs.line_prose import MOST_PIECES, prose_together, typed_together, without_words
from fieldstick.runs.line_sample import LineSample, LookedAt
from fieldstick.runs.line_slots import WORD, WORDS
from fieldstick.runs.line_templates import Form, Free, LineKind, commonest, parted, rank

if TYPE_CHECKING:
    import re
    from collections.abc import Callable, Iterable, Iterator, Sequence

    from fieldstick.data.batch import Batch

MOST_FORMS = 20_000
"""Forms that are kept apart; when there are more, those alike are put together, which may part lines otherwise."""

MOST_KNOWN = 100_000
"""Lines, their slots filled in, of which the form is remembered."""

LONGEST_PIECE = 2_000
"""Code points of a piece up to which slots are looked for in it; a longer one is a word."""

MOST_REMEMBERED, LONGEST_REMEMBERED = 20_000, 500
"""Lines of which it is remembered how they are spelled, and code points of one, at the most."""

MOST_CACHED = 500_000
"""Pieces of lines, their digits folded, that are remembered."""

MOST_WORDS = 200_000
"""Different pieces, their slots filled in, that are told apart."""

LAID_OUT = 50
"""One line in so many must differ from others in its blanks alone for all to be laid out in columns."""

_FIRST = 0x4E00
"""The first of the characters that stand for pieces."""

_TRUTHS = "(?:true|false|null|True|False|TRUE|FALSE|NULL)"

SLOTS: tuple[tuple[str, str], ...] = (
    ("timestamp", r"\d{4}-\d\d-\d\dT\d\d:\d\d(?::\d\d(?:[.,]\d+)?)?(?:Z|[+-]\d\d:?\d\d)?"),
    ("timestamp", r"\d{1,2}/[A-Z][a-z]{2}/\d{4}:\d\d:\d\d:\d\d|(?<![\w.-])\d{8}(?:T\d{6}Z?|[-_]\d{6})(?![\w-])"),
    ("date", r"\d{4}[-/.]\d\d[-/.]\d\d|\d{1,2}[./]\d{1,2}[./](?:\d{4}|\d\d)(?![\w+-]|\.\d)"),
    ("time", r"\d{1,2}:\d\d(?::\d\d(?:[.,]\d+)?)?(?:Z|[+-]\d\d:?\d\d)?(?!\w|:\w|[.]\d|,\d{3}\b)"),
    ("address", r"[a-z][a-z+.-]*://\S+|\d{1,3}(?:\.\d{1,3}){3}(?::\d+)?(?![\w.])"),
    ("address", r"(?:[0-9A-Fa-f]{2}:){5}[0-9A-Fa-f]{2}|(?:[0-9a-fA-F]{1,4}:){3,7}:?[0-9a-fA-F]{1,4}"),
    ("identifier", r"(?<![\w:])(?=[\d:]*[A-Fa-f])[0-9A-Fa-f]{2}(?::[0-9A-Fa-f]{2}){2,}(?![\w:])"),
    ("identifier", r"[0-9a-fA-F]{8}-[0-9a-fA-F]{4}-[0-9a-fA-F-]{4,}|[09]x[0-9a-fA-F]+"),
    ("path", r"(?<![\w<])(?:~|\.{1,2})?(?:/[\w.+@%:~-]+)+/?|(?:/[\w.+@%:~-]+){2,}/?|[A-Za-z]:\\[\w\\.-]+"),
    ("number", r"(?<![\w.])[-+]?\d+(?:[.,]\d+)?(?=[A-Za-z%°µ]{1,3}(?![\w.:+~-]))"),
    (
        "version",
        r"(?<![\w.])v?\d+(?:[.:]\d+)+(?:[-+~][-+~.:\w]*|\.?[a-z]+[-+~.:\w]*)|(?<![\w.])v?\d+(?:\.\d+){2,}(?!\w)",
    ),
    ("number", r"(?<![\w.])[-+]?\d+(?:[.,]\d+)*(?![\w]*\d)(?!\w*-\w*\d)"),
    ("word", rf"(?<![\w.:+~@-]){_TRUTHS}(?![\w.:+~@-])|(?<=\":){_TRUTHS}\b"),
    ("identifier", r"(?=[\w.:+~@-]*\d)(?=[\w.:+~@-]*[A-Za-z])\w[\w.:+~@-]*\w|\d+[\w-]+(?:\.\w+)*"),
)
"""What a slot is called, and what it is made of, the first that fits counts."""

_WORDS_IN_SLOTS = frozenset(_TRUTHS[3:-1].split("|"))
"""Pieces of letters alone that are slots: all others have a digit, or a mark."""

_LONG = r"(?P<long>(?![\w.:+~@-]*\d)\w[\w.:+~@-]{100,}\w)"
"""So much without a digit that no slot is looked for within it, which would take as long as it is long, squared."""

_SLOT = compiled_later("|".join([*(f"(?P<s{number}>{shape})" for number, (_, shape) in enumerate(SLOTS)), _LONG]))
_QUOTED = compiled_later(
    r'"(?:(?<![\w.]")|(?<=[^\w"][bfru]")|(?<=\A[bfru]"))(?!\w+":|\d{4}-\d\d-\d\d[T ]\d\d:)[^"\n]*"'
)
"""What stands in quotes, but keys, which stay, and timestamps. What is behind a number are seconds or inches."""
_APOSTROPHES = compiled_later(r"(?<!\w)'[^'\n]*'(?!\w)")
_FOLDED_CHARACTERS = str.maketrans("0123456789", "9" * 10)
_MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
_HALVES = ("AM", "PM", "am", "pm")
_NAMED = (
    "(?:Jan(?:uary)?|Feb(?:ruary)?|Mar(?:ch)?|Apr(?:il)?|May|June?|July?|Aug(?:ust)?|Sep(?:tember)?|Oct(?:ober)?"
    "|Nov(?:ember)?|Dec(?:ember)?)"
)
_WEEKDAY = "(?:(?:Mon|Tue|Wed|Thu|Fri|Sat|Sun),? )?"
_MONTH = compiled_later(
    rf"\b{_WEEKDAY}{_NAMED} {{1,2}}\d{{1,2}}(?:,? \d{{4}})?\b(?P<time> \d\d:\d\d(?::\d\d)?\b(?: \d{{4}}\b(?![:.-]))?)?"
    rf"|\b{_WEEKDAY}\d{{1,2}} {_NAMED}(?: \d{{4}})?\b(?P<later> \d\d:\d\d:\d\d\b(?: [+-]\d{{4}}\b)?)?"
)
"""A day with the name of its month, with a time or without."""
_HALF_OF_DAY = compiled_later(r"(?<![\w:.])\d{1,2}:\d\d(?::\d\d)? ?(?:[AP]M|[ap]m)\b")
_BYTES = compiled_later(r"(?<![\w:-])[0-9A-Fa-f]{2}(?: {1,2}[0-9A-Fa-f]{2}){3,}(?![\w:-])")
_A_BYTE = compiled_later(r" (?:\d[A-Fa-f]|[A-Fa-f]\d) [0-9A-Fa-f]{2} [0-9A-Fa-f]{2}(?![\w:-])")
"""Bytes in hexadecimal, four or more, and three of them of which one can hardly be something else."""
_PADDED = compiled_later(r"\[ +(?=[-+]?\d)")
"""A number in brackets with blanks before it, which makes it as wide as others."""

_HEAD, _HEAD_LINES = 8_192, 1_000
"""Code points, and lines, in which it is seen whether lines have timestamps that hold blanks, and what parts them."""

_QUOTED_TEXT, _STAMP, _BLANK, _DATE, _SEVERAL_BYTES, _TIME = "\x01", "\x02", "\x03", "\x04", "\x05", "\x06"
"""What stands for slots that hold blanks, and for a blank in a cell, while a line is cut; of ASCII, which is faster."""
_HOLD_BLANKS = {_QUOTED_TEXT: "quoted text", _STAMP: "timestamp", _DATE: "date", _SEVERAL_BYTES: "bytes", _TIME: "time"}


class _Pieces(dict[str, str]):
    """Maps a piece of a line to a character that stands for what it becomes once its slots are filled in."""

    def __init__(self) -> None:
        super().__init__({"\n": "\n"})
        self.meaning: dict[str, str] = {}
        self._character: dict[str, str] = {}
        self.is_full = False

    def __missing__(self, piece: str) -> str:
        made = _slots_in(piece.replace(_BLANK, " "))
        if made not in self._character and len(self._character) >= MOST_WORDS:
            # Further words are told from the others no more.
            self.is_full = True
            made = WORD
        character = self._character.get(made)
        if character is None:
            character = chr(_FIRST + len(self._character))
            self._character[made] = character
            self.meaning[character] = made
        if len(self) < MOST_CACHED:
            self[piece] = character
        return character


class _Lines(NamedTuple):
    """Lines, each ended by a line feed, their digits folded: all of them, or the different ones.

    Of the different ones `counts` tell how often each is there, and `firsts` the place of its first among all.
    """

    text: str
    numbers: Sequence[int]
    texts: Callable[[], Sequence[str]]
    counts: Sequence[int] = ()
    firsts: Sequence[int] = ()
    weight: float = 1.0
    """How many lines of the source each stands for."""

    group_of: Sequence[int] | None = None
    """For each line its number among those in `text`, where these are the different ones."""


class LineKinds:
    """The forms of lines, from which their kinds are made. `is_exact` is False once forms were put together.

    Of very many lines some of every few blocks are looked at: `lines` are those, of `all_lines`; each stands for as
    many as were passed by for it. `size` is that of the source in bytes, where it is known;
    with `keeps_lines` those that were looked at can be asked for.
    """

    def __init__(self, mark: str | None = None, *, size: int | None = None, keeps_lines: bool = False) -> None:
        self.forms: dict[tuple[str, ...], Form] = {}
        self.mark = mark
        """The mark that parts lines instead of blanks, as `parting_mark` has it; None before enough was seen."""

        self.lines = self.all_lines = 0
        self.is_exact = True
        self._condense_at = 0
        self._sample = LineSample(size)
        self._all_stand_for: float | None = None
        self._pieces = _Pieces()
        self._known: dict[str, Form] = {}
        """Forms by the characters that stand for their pieces."""

        self._has_bytes = False
        """Whether lines were seen that hold bytes in hexadecimal, so that those of digits alone are such, too."""

        self._remembered: dict[str, str] = {}
        """Lines as `_spelled` returns them."""

        self._keeps_lines = keeps_lines
        self._lines_of: list[tuple[list[Form], _Lines]] = []
        """Lines that were looked at, with the forms of those in their text."""

        self._head = ""
        self._waiting: list[_Lines] = []
        """The first lines as they are, and as they are to be taken in once it is known what parts them."""

    def __getstate__(self) -> dict[str, Any]:
        self._end()
        plain = ("forms", "mark", "lines", "all_lines", "is_exact")
        return {name: getattr(self, name) for name in plain}

    def __setstate__(self, state: dict[str, Any]) -> None:
        self.__init__()  # type: ignore[misc]
        self.__dict__ |= state

    def add_batch(self, batch: Batch) -> None:
        """Take the lines of a batch in, or some of them."""
        stored = batch.stored
        self.all_lines += len(batch.numbers)
        if stored is None or stored.ends is None:
            self._hear(_lines_of(batch, 1.0))
            return
        for some, weight in self._sample.of(batch, stored, len(self.forms)):
            self._hear(_lines_of(some, weight))

    def add_many(self, numbers: Sequence[int], texts: Sequence[str]) -> None:
        """Take lines in, with their numbers."""
        self._hear(_Lines(_one_after_the_other(texts), numbers, lambda: texts))

    def _hear(self, lines: _Lines) -> None:
        """Take lines in, or keep them until it is known what parts them: a pipe may give a few at first."""
        if self.mark is not None:
            self._add(lines)
            return
        self._waiting.append(lines)
        self._head += "".join(f"{each}\n" for each in islice(lines.texts(), _HEAD_LINES))[: _HEAD - len(self._head)]
        if len(self._head) >= _HEAD:
            self._begin()

    def _begin(self) -> None:
        """Tell by the lines that were seen what parts them, and take them in."""
        if self.mark is None and self._waiting:
            self.mark = parting_mark(_QUOTED.sub(_QUOTED_TEXT, self._head).split("\n"))
        waiting, self._waiting, self._head = self._waiting, [], ""
        for lines in waiting:
            self._add(lines)

    def _end(self) -> None:
        """Take in what waits for more to come."""
        for some, weight in self._sample.rest():
            self._hear(_lines_of(some, weight))
        self._begin()

    def _add(self, lines: _Lines) -> None:
        """Take lines in.

        Each piece is put by one character, so that what is done for every line is done by the interpreter's own loops.
        """
        spelled = self._spelled(lines.text)
        counted = Counter(() if lines.counts else spelled)
        for characters, count in zip(spelled if lines.counts else (), lines.counts, strict=True):
            counted[characters] += count
        self.lines += counted.total()
        places: dict[str, int] = {}
        forms: dict[str, Form] = {}
        for characters, count in counted.items():
            form = self._known.get(characters)
            if form is None:
                places = places or dict(zip(reversed(spelled), range(len(spelled) - 1, -1, -1), strict=True))
                place = lines.firsts[places[characters]] if lines.firsts else places[characters]
                form = self._form(characters, lines.numbers[place], lines.texts()[place])
            form.count += count
            form.stands_for += count * lines.weight
            forms[characters] = form
        if self._keeps_lines:
            self._lines_of.append(([forms[characters] for characters in spelled], lines))
        self.is_exact = self.is_exact and not self._pieces.is_full

    def _spelled(self, text: str) -> list[str]:
        """Return lines, each piece put by the character that stands for it; most came before."""
        lines = text.split("\n")
        lines.pop()
        known = self._remembered
        if len(known) > MOST_REMEMBERED:
            known.clear()
        fresh = [each for each in lines if each not in known]
        spelled = self._spelled_anew("".join([f"{each}\n" for each in fresh])) if fresh else []
        made = dict(zip(fresh, spelled, strict=True))
        if len(made) <= MOST_REMEMBERED:
            known.update({line: each for line, each in made.items() if len(line) <= LONGEST_REMEMBERED})
        return [made[each] if each in made else known[each] for each in lines]

    def _spelled_anew(self, text: str) -> list[str]:
        if '"' in text:
            text = _QUOTED.sub(_QUOTED_TEXT, text)
        if "'" in text:
            text = _APOSTROPHES.sub(_QUOTED_TEXT, text)
        if "[ " in text:
            text = _PADDED.sub("[", text)
        self._has_bytes = self._has_bytes or _A_BYTE.search(text, 0, _HEAD) is not None
        if self._has_bytes:
            text = _BYTES.sub(_SEVERAL_BYTES, text)
        if any(map(text[:_HEAD].__contains__, _HALVES)):
            text = _HALF_OF_DAY.sub(_TIME, text)
        if any(map(text[:_HEAD].__contains__, _MONTHS)) and _MONTH.search(text, 0, _HEAD):
            text = _MONTH.sub(lambda found: _STAMP if found["time"] or found["later"] else _DATE, text)
        if self.mark:
            # What stands in a cell is one piece, its blanks too.
            text = text.replace(" ", _BLANK)
            parting = f" {self.mark.strip(' ')[0]} "
            mark = self.mark.replace(" ", _BLANK)
            text = TABS.sub(parting, text) if self.mark == "\t\t" else text.replace(mark, parting)
        known = self._pieces
        pieces = text.replace("\n", " \n ").split(" ")
        pieces.pop()
        spelled = "".join(map(known.__getitem__, pieces)).split("\n")
        spelled.pop()
        return spelled

    def _form(self, characters: str, number: int, example: str) -> Form:
        meaning = self._pieces.meaning
        pieces = tuple(map(meaning.__getitem__, characters[:MOST_PIECES]))
        if len(characters) > MOST_PIECES:
            pieces = (*pieces, WORDS)
        form = self._kept(pieces, number, example)
        if len(self._known) < MOST_KNOWN:
            self._known[characters] = form
        return form

    def _kept(self, pieces: tuple[str, ...], number: int, example: str) -> Form:
        """Return the form that has some pieces, or where there are too many, one that tells less of them."""
        form = self.forms.get(pieces)
        if form is None and len(self.forms) >= MOST_FORMS:
            if self.lines >= self._condense_at:
                self._condense()
            if len(self.forms) >= MOST_FORMS:
                pieces = without_words(pieces)
                form = self.forms.get(pieces)
        if form is None:
            form = self.forms[pieces] = Form(pieces, 0, number, example)
        return form

    def lines_of(self, kind: LineKind) -> Iterator[LookedAt]:
        """Yield the lines of a kind that were looked at and kept."""
        members = set(map(id, kind.forms))
        for forms, lines in self._lines_of:
            homes = [id(form.home()) for form in forms]
            if members.isdisjoint(homes):
                continue
            groups = range(len(homes)) if lines.group_of is None else lines.group_of
            for text, group in zip(lines.texts(), groups, strict=True):
                if homes[group] in members:
                    yield LookedAt(text, lines.weight, homes[group])

    def _condense(self) -> None:
        """Put forms together by their kinds, as far as they are known by now.

        Where hardly any are of one kind, as those of plain prose, the rarer half tells no words any more, and the next
        time is not before as many lines again were seen.
        """
        self.is_exact = False
        found = self.kinds()
        self.forms, self._known = {}, {}
        for number, kind in enumerate(found):
            form = Form(kind.template, kind.count, kind.first, kind.example, kind.stands_for)
            home = self._merge_form(form, form.pieces if number < MOST_FORMS // 2 else without_words(form.pieces))
            for each in kind.forms:
                each.put_to = home
        if len(found) > MOST_FORMS // 2:
            self._condense_at = 2 * self.lines

    def _merge_form(self, form: Form, pieces: tuple[str, ...]) -> Form:
        known = self._kept(pieces, form.first, form.example)
        known.add(form)
        return known

    def merge(self, other: LineKinds) -> None:
        """Take in what was seen further on."""
        self._end()
        other._end()
        for form in other.forms.values():
            self._merge_form(form, form.pieces)
        self.mark = self.mark or other.mark
        self.lines += other.lines
        self.all_lines += other.all_lines
        self.is_exact = self.is_exact and other.is_exact

    @property
    def is_sample(self) -> bool:
        """Whether not all lines were looked at, so that counts are about what they would be."""
        return self.lines < self.all_lines

    def about(self, some: Iterable[LineKind | Form]) -> int:
        """Return how many of all lines kinds or forms stand for."""
        found = list(some)
        seen, stand_for = sum(each.count for each in found), sum(each.stands_for for each in found)
        if self._all_stand_for is None:
            self._all_stand_for = sum([form.stands_for for form in self.forms.values()])
        more = self._all_stand_for - self.lines
        if more < 0.5:
            return round(seen * self.all_lines / self.lines) if self.lines else 0
        # Lines at the end may have been passed by without one that stands for them.
        return seen + round((stand_for - seen) * (self.all_lines - self.lines) / more)

    def _by_layout(self) -> dict[tuple[str, ...], list[Form]]:
        """Return the forms by their pieces, without the empty ones between blanks where lines are laid out in columns.

        They are where many lines differ in nothing but their words and how many blanks part their pieces.
        """
        plain = {pieces: [form] for pieces, form in self.forms.items()}
        if self.lines and all(map(all, self.forms)):
            return plain
        bare: dict[tuple[str, ...], list[Form]] = defaultdict(list)
        layouts: dict[tuple[str, ...], Counter[tuple[bool, ...]]] = defaultdict(Counter)
        for form in self.forms.values():
            filled = tuple(filter(None, form.pieces))
            bare[filled].append(form)
            layouts[tuple(each if "⟨" in each else "" for each in filled)][tuple(map(bool, form.pieces))] += form.count
        varied = sum(each.total() - max(each.values()) for each in layouts.values())
        return bare if varied * LAID_OUT >= self.lines else plain

    def kinds(self) -> list[LineKind]:
        """Return the kinds, the commonest first."""
        self._end()
        self._all_stand_for = None
        by_length: dict[tuple[int, bool, bool], list[Form]] = defaultdict(list)
        mark = (self.mark or "").strip(" ")[:1]
        several = keyed_together(self._by_layout(), mark)
        for pieces, forms in several.items():
            # A line of nothing is no line of one word.
            by_length[len(pieces), pieces[-1:] == (WORDS,), any(pieces)].append(_put_together(pieces, forms))
        found: dict[tuple[str, ...], LineKind] = {}
        free: Free = {}
        for _, forms in sorted(by_length.items()):
            for template, some in parted(forms, 0, free):
                kind = found.setdefault(template, LineKind(template))
                kind.take([form for each in some for form in several[each.pieces]])
        told = self._settled(found, free)
        # Prose is told by blanks, and those are within cells.
        if not self.mark:
            typed = {kind.template: kind for kind in typed_together(told, self.lines)}
            told = folded_together(told if len(typed) == len(told) else self._settled(typed, free))
            prose = {kind.template: kind for kind in prose_together(with_words_freed(told, free), self.lines)}
            told = told if len(prose) == len(told) else self._settled(prose, free)
        told = folded_together(told)
        for kind in told:
            kind.mark = "\t" if self.mark == "\t\t" else self.mark or ""
        return sorted(told, key=commonest)

    def _settled(self, kinds: dict[tuple[str, ...], LineKind], free: Free) -> list[LineKind]:
        """Return kinds, those put together that differ in words which vary."""
        found = sorted(alike_at_last(freed(kinds, free)).values(), key=rank)
        before = len(found) + 1
        while len(found) < before:
            before = len(found)
            found = without_rare(found, self.lines)
        return found


def _put_together(pieces: tuple[str, ...], forms: list[Form]) -> Form:
    if len(forms) == 1 and forms[0].pieces == pieces:
        return forms[0]
    made = Form(pieces, 0, forms[0].first, forms[0].example)
    for each in forms:
        made.add(each)
    return made


def _lines_of(batch: Batch, weight: float) -> _Lines:
    """Return the lines of a batch, each of which stands for so many."""
    text, counts, firsts, group_of = _different(batch)
    return _Lines(text, batch.numbers, lambda: batch.texts, counts, firsts, weight, group_of)


def _different(batch: Batch) -> tuple[str, Sequence[int], Sequence[int], Sequence[int]]:
    """Return the lines of a batch with their digits folded, each ended by a line feed, and what `_add` asks of them.

    That is each once, where the walkers tell them apart; last comes, for each line, its number among those returned.
    """
    stored = batch.stored
    if stored is None or stored.cells is not None:
        return _one_after_the_other(batch.texts), (), (), range(len(batch.texts))
    if NATIVE is not None and stored.ends is not None:
        # Lines that differ in their digits alone are one to all that follows.
        group_of = bytearray(4 * stored.count)
        folded, counts, firsts, _ = NATIVE.grouped(stored.data, stored.ends, group_of, False, None)
        text = b"\n".join([*folded, b""]).decode("utf-8", "surrogateescape")
        return text, counts, firsts, memoryview(group_of).cast("i")
    text = stored.data.translate(DIGITS_FOLDED).decode("utf-8", "surrogateescape")
    return text.replace("\r\n", "\n") if stored.returns else text, (), (), range(stored.count)


def _one_after_the_other(texts: Sequence[str]) -> str:
    lines = [text.replace("\n", " ") for text in texts]
    return "\n".join(lines).translate(_FOLDED_CHARACTERS) + "\n" if lines else ""


def _slots_in(piece: str) -> str:
    """Return a piece of a line with its slots in the place of what fills them."""

    def named(found: re.Match[str]) -> str:
        assert found.lastgroup is not None
        return found[0] if found.lastgroup == "long" else f"⟨{SLOTS[int(found.lastgroup[1:])][0]}⟩"

    if len(piece) > LONGEST_PIECE:
        return WORD
    if piece.isalpha() and piece not in _WORDS_IN_SLOTS:
        return piece
    made = _SLOT.sub(named, piece)
    if not made.isprintable():
        for character, slot in _HOLD_BLANKS.items():
            made = made.replace(character, f"⟨{slot}⟩")
    return made
