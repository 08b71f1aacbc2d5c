"""Kinds of line: what lines of one origin have in common, however their variable parts are made.

A line is cut at its blanks. What in a piece is a timestamp, a number, an address and so on becomes a slot; the words
that are left are told into those that stay and those that vary, by what stands beside them: the leftmost place where a
few words come again and again parts the lines into kinds, and so on within each; kinds that come out alike but for one
word are one kind with a word that varies; and where that leaves hardly a line like another, prose is told from what it
follows. All of it is done on the different forms that lines have once their slots are filled in, so that a million
lines cost little more than their forms.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from itertools import islice
from typing import TYPE_CHECKING, Any, NamedTuple

from fieldstick.kernels.walkers import NATIVE
from fieldstick.matching.character_kinds import DIGITS_FOLDED
from fieldstick.runs.line_asides import asides_together
from fieldstick.runs.line_keys import keyed_together
from fieldstick.runs.line_lists import lists_together
from fieldstick.runs.line_marks import as_one_line, parting_mark
from fieldstick.runs.line_merging import alike_at_last, folded_together, freed, with_words_freed, without_rare
from fieldstick.runs.line_pieces import FOLDED_CHARACTERS, HEAD, HEAD_LINES, MOST_REMEMBERED, LineCutter
from fieldstick.runs.line_prose import MOST_PIECES, prose_together, typed_together, without_words
from fieldstick.runs.line_quotes import QUOTED, QUOTED_TEXT
from fieldstick.runs.line_sample import LineSample, LookedAt
from fieldstick.runs.line_slots import QUOTED as QUOTED_SLOT
from fieldstick.runs.line_slots import WORDS, without_said
from fieldstick.runs.line_templates import Form, Free, LineKind, commonest, parted, rank
from fieldstick.runs.line_values import values_together

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Iterator, Sequence

    from fieldstick.data.batch import Batch

MOST_FORMS = 20_000
"""Forms that are kept apart; when there are more, those alike are put together, which may part lines otherwise."""

MOST_KNOWN = 100_000
"""Lines, their slots filled in, of which the form is remembered."""

MOST_KEPT = 20_000_000
"""Code points, or bytes, of lines that are kept, where all are looked at."""

LAID_OUT = 50
"""One line in so many must differ from others in its blanks alone for all to be laid out in columns."""


class _Lines(NamedTuple):
    """Lines, each ended by a line feed, their digits folded: all of them, or the different ones.

    Of the different ones, which walkers told as `folded` without their ends, `counts` tell how often each is there, and
    `firsts` the place of its first among all.
    """

    folded: str | Sequence[bytes]
    numbers: Sequence[int]
    texts: Callable[[], Sequence[str]]
    counts: Sequence[int] = ()
    firsts: Sequence[int] = ()
    weight: float = 1.0
    """How many lines of the source each stands for."""

    group_of: Sequence[int] | None = None
    """For each line its number among those in `text`, where these are the different ones."""

    @property
    def text(self) -> str:
        """The lines, each ended by a line feed."""
        if isinstance(self.folded, str):
            return self.folded
        return b"\n".join([*self.folded, b""]).decode("utf-8", "surrogateescape")

    @property
    def size(self) -> int:
        """Its code points, or bytes."""
        return len(self.folded) if isinstance(self.folded, str) else sum(map(len, self.folded))


class LineKinds:
    """The forms of lines, from which their kinds are made. `is_exact` is False once forms were put together.

    Of very many lines some of every few blocks are looked at: `lines` are those, of `all_lines`; each stands for as
    many as were passed by for it. `size` is that of the source in bytes, where it is known; with `keeps_lines` those
    that were looked at can be asked for.
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
        self._cutter = LineCutter()
        self._known: dict[str, Form] = {}
        """Forms by the characters that stand for their pieces."""

        self._form_of: dict[str | bytes, Form] = {}
        """Forms by lines as walkers fold them."""

        self._keeps_lines = keeps_lines
        self._lines_of: list[tuple[list[Form], _Lines]] = []
        """Lines that were looked at, with the forms of those in their text."""

        self._heard, self._every = 0, 1
        """How many blocks of lines there were, and of how many one is kept."""

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
        first = "".join(f"{as_one_line(each)}\n" for each in islice(lines.texts(), HEAD_LINES))
        self._head += first[: HEAD - len(self._head)]
        if len(self._head) >= HEAD:
            self._begin()

    def _begin(self) -> None:
        """Tell by the lines that were seen what parts them, and take them in."""
        if self.mark is None and self._waiting:
            self.mark = parting_mark(QUOTED.sub(QUOTED_TEXT, self._head).split("\n"))
        waiting, self._waiting, self._head = self._waiting, [], ""
        for lines in waiting:
            self._add(lines)

    def all_forms(self) -> list[Form]:
        """Return the forms of all lines so far."""
        self._end()
        return [*self.forms.values()]

    def _end(self) -> None:
        """Take in what waits for more to come."""
        for some, weight in self._sample.rest():
            self._hear(_lines_of(some, weight))
        self._begin()

    def _add(self, lines: _Lines) -> None:
        """Take lines in.

        Each piece is put by one character, so that what is done for every line is done by the interpreter's own loops.
        """
        if lines.counts and not self._keeps_lines and self._form_of.keys() >= {*lines.folded}:
            for known, count in zip(map(self._form_of.__getitem__, lines.folded), lines.counts, strict=True):
                known.count += count
                known.stands_for += count * lines.weight
            self.lines += sum(lines.counts)
            return
        spelled = self._cutter.spelled(lines.text, self.mark or "")
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
            self._keep([forms[characters] for characters in spelled], lines)
        elif lines.counts and len(self._form_of) < MOST_REMEMBERED:
            self._form_of.update(zip(lines.folded, [forms[each].home() for each in spelled], strict=True))
        self.is_exact = self.is_exact and not self._cutter.pieces.is_full

    def _keep(self, forms: list[Form], lines: _Lines) -> None:
        """Keep lines with their forms; of more blocks than are kept every other one, which then stands for two."""
        self._heard += 1
        if self._heard % self._every:
            return
        self._lines_of.append((forms, lines._replace(weight=lines.weight * self._every)))
        if len(self._lines_of) > 1 and sum([some.size for _, some in self._lines_of]) > MOST_KEPT:
            self._lines_of = [(each, some._replace(weight=2 * some.weight)) for each, some in self._lines_of[1::2]]
            self._every *= 2

    def _form(self, characters: str, number: int, example: str) -> Form:
        meaning = self._cutter.pieces.meaning
        told = tuple(map(meaning.__getitem__, characters[:MOST_PIECES]))
        has_keys = self._cutter.quotes.has_keys
        pieces = tuple(map(without_said, told)) if has_keys else told
        if len(characters) > MOST_PIECES:
            pieces = (*pieces, WORDS)
        form = self._kept(pieces, number, example)
        if has_keys:
            form.said.update(said for said, each in zip(told, pieces, strict=False) if f"={QUOTED_SLOT}" in each)
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
        """Yield the lines of a kind that were looked at and kept, and the first of each form that has none."""
        members = {id(form): form for form in kind.forms}
        unseen = dict(members)
        for forms, lines in self._lines_of:
            homes = [id(form.home()) for form in forms]
            if members.keys().isdisjoint(homes):
                continue
            groups = range(len(homes)) if lines.group_of is None else lines.group_of
            for text, group in zip(lines.texts(), groups, strict=True):
                if homes[group] in members:
                    unseen.pop(homes[group], None)
                    yield LookedAt(text, lines.weight, homes[group])
        for number, form in unseen.items():
            yield LookedAt(form.example, form.stands_for, number)

    def _condense(self) -> None:
        """Put forms together by their kinds, as far as they are known by now.

        Where hardly any are of one kind, as those of plain prose, the rarer half tells no words any more, and the next
        time is not before as many lines again were seen.
        """
        self.is_exact = False
        found = self.kinds()
        self.forms, self._known, self._form_of = {}, {}, {}
        for number, kind in enumerate(found):
            form = Form(kind.template, kind.count, kind.first, kind.example, kind.stands_for, said=kind.said)
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
            told = asides_together(lists_together(values_together(told)))
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
    folded, counts, firsts, group_of = _different(batch)
    return _Lines(folded, batch.numbers, lambda: batch.texts, counts, firsts, weight, group_of)


def _different(batch: Batch) -> tuple[str | Sequence[bytes], Sequence[int], Sequence[int], Sequence[int]]:
    """Return the lines of a batch with their digits folded, as `_Lines` has them, and what `_add` asks of them.

    That is each once, where the walkers tell them apart; last comes, for each line, its number among those returned.
    """
    stored = batch.stored
    if stored is None or stored.cells is not None:
        return _one_after_the_other(batch.texts), (), (), range(len(batch.texts))
    if NATIVE is not None and stored.ends is not None:
        # Lines that differ in their digits alone are one to all that follows.
        group_of = bytearray(4 * stored.count)
        folded, counts, firsts, _ = NATIVE.grouped(stored.data, stored.ends, group_of, False, None)
        return folded, counts, firsts, memoryview(group_of).cast("i")
    text = stored.data.translate(DIGITS_FOLDED).decode("utf-8", "surrogateescape")
    return text.replace("\r\n", "\n") if stored.returns else text, (), (), range(stored.count)


def _one_after_the_other(texts: Sequence[str]) -> str:
    lines = list(map(as_one_line, texts))
    return "\n".join(lines).translate(FOLDED_CHARACTERS) + "\n" if lines else ""
