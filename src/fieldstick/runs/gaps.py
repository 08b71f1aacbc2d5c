"""What no sample of a pattern decides, and a text that would.

A question is a pattern with one piece otherwise: an option left out, a bound moved, a field's limit shifted. A sample
decides it when it comes out otherwise, or captures otherwise, under the two. What none decides is a gap, unless no text
there is tells the two apart, which is proven or, where only what is captured differs, sought for.

A text for a gap is looked for beside the samples: with one character otherwise, then with as few as can be.
"""

from __future__ import annotations

import re
from decimal import Decimal
from functools import cached_property, partial
from itertools import islice
from typing import TYPE_CHECKING, Any

from msgspec import Struct
from msgspec.structs import replace

from fieldstick.analysis.automaton.alphabet import Alphabet
from fieldstick.analysis.automaton.asked import Reading
from fieldstick.analysis.automaton.building import program_of
from fieldstick.analysis.automaton.languages import languages_of
from fieldstick.analysis.automaton.nearest import MOST_STEPS, nearest_difference
from fieldstick.analysis.automaton.program import OutOfReach
from fieldstick.analysis.danger import is_doubling
from fieldstick.analysis.effort import Effort
from fieldstick.analysis.examples import texts_of
from fieldstick.analysis.relation import relation_of
from fieldstick.analysis.variants import variants
from fieldstick.engines.budget import watching
from fieldstick.engines.probing import batch_of
from fieldstick.errors import FieldstickError, SyntaxFault
from fieldstick.matching.asking import asked_of
from fieldstick.matching.prepare import prepare
from fieldstick.matching.result import GAVE_UP
from fieldstick.suites.parts import OWN, fill_plain
from fieldstick.suites.places import place_in_text
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import Group, walk

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence

    from fieldstick.matching.matcher import Matcher
    from fieldstick.matching.result import Result
    from fieldstick.suites.model import FieldTable
    from fieldstick.suites.suite import Pattern, Sample, Suite
    from fieldstick.syntax.parser import Parsed
    from fieldstick.syntax.tree import Span

MOST_BESIDE = 5
"""Samples of each kind that texts are made from."""

MOST_CHARACTERS = 14
"""Characters that are put in the place of each of a sample."""

LONGEST_VARIED = 400
MOST_TEXTS = 9_000
"""Code points of a sample that texts are made from, and texts that are made for a pattern in all."""

BUDGET_MS = 60
"""Milliseconds after which a text is given up."""

MOST_OF_FIELDS = 800
"""Texts that are tried for a bound of a field."""

MOST_COMPARED = 5_000_000
"""Steps of automata, a thread and a letter each, in which expressions are compared for a pattern in all."""

MOST_TRIED = 12
"""Texts of which the one is proposed that decides most."""


Home = tuple[str, str, int, int, str]
"""A piece of a part: the file and name of the part, where it stands there, and the words of the question."""


class Question(Struct, frozen=True):
    """A pattern with one piece otherwise: `span` is the piece of the expression, `words` what no sample shows if open.

    `home` tells a piece of a part from that of another, wherever it is used; None for a piece of the expression itself.
    """

    kind: str
    span: Span
    words: str
    pattern: Pattern
    home: Home | None = None


class Gap(Struct, frozen=True):
    """Something that no sample decides: of what kind, which piece of `expression`, where in the suite, in words."""

    kind: str
    words: str
    expression: str
    span: Span
    file: str
    line: int
    column: int
    part: str | None = None

    @property
    def source(self) -> str:
        """The piece of the expression that it is about."""
        return self.expression[slice(*self.span)]


class Proposal(Struct, frozen=True):
    """A text to add as a sample: whether the pattern fits it now, why not, and the gaps that it decides."""

    text: str
    fits: bool
    why: str
    gaps: tuple[Gap, ...]


class PatternGaps(Struct, frozen=True):
    """What the samples of a pattern leave open; `asked` counts the questions that some text decides.

    `unknown` are those of which it is not known whether some text does. `left_out` says why nothing was asked. `values`
    are those of the pattern's parameters.
    """

    address: str
    file: str
    line: int
    asked: int = 0
    decided: int = 0
    proposals: tuple[Proposal, ...] = ()
    unknown: int = 0
    left_out: str = ""
    values: Mapping[str, str] = {}

    @property
    def share(self) -> float:
        """The share of the questions that samples decide; 1 where there is none."""
        return self.decided / self.asked if self.asked else 1.0

    @property
    def gaps(self) -> tuple[Gap, ...]:
        """All that is open."""
        return tuple(gap for each in self.proposals for gap in each.gaps)


def gaps_of(
    suites: Sequence[Suite],
    asked: Iterable[tuple[Suite, Pattern]],
    note: Callable[[int], None] | None = None,
) -> list[PatternGaps]:
    """Return what the samples of some patterns leave open.

    A piece of a part is decided for all when a sample of any pattern of `suites` that uses the part decides it; where
    none does, it is told once. `note` is told of each pattern that is done.
    """
    wanted = list(asked)
    parts = {name for _, pattern in wanted for name in _parts_of(pattern)}
    every = {id(pattern): (suite, pattern) for suite, pattern in wanted}
    for suite in suites:
        for pattern in suite.patterns.values():
            if parts and parts.intersection(_parts_of(pattern)):
                every.setdefault(id(pattern), (suite, pattern))
    with watching():
        studies = {key: _Study(suite, pattern) for key, (suite, pattern) in every.items()}
        known = {question.home for study in studies.values() for question in study.decided if question.home}
        found = []
        for _, pattern in wanted:
            study = studies[id(pattern)]
            study.settle(known)
            found.append(study.told())
            known |= {question.home for question in study.open if question.home}
            if note is not None:
                note(1)
    return found


def _parts_of(pattern: Pattern) -> set[str]:
    return {name.rpartition(".")[2] for name in pattern.filling.part_texts} if pattern.filling is not None else set()


_NOT_KNOWN = "given up"


def _key(result: Result) -> Any:
    """Return what counts of a reading: whether it fits, which member decided, and every place that was captured."""
    if result.unfit is not None:
        return _NOT_KNOWN if result.unfit.reason == GAVE_UP else None
    return result.member, [
        (match.place, {name: field and field.place for name, field in match.fields.items()})
        for match in (*result.matches, *result.also)
    ]


def _bounded(pattern: Pattern) -> Pattern:
    """Return a pattern whose texts are given up early: of one that may take forever many are tried."""
    members = tuple(map(_bounded, pattern.members))
    return replace(pattern, members=members, budget_ms=min(pattern.budget_ms, BUDGET_MS))


class _Study:
    """A pattern, its questions, and which of them its samples decide."""

    def __init__(self, suite: Suite, pattern: Pattern) -> None:
        self.suite, self.pattern = suite, _bounded(pattern)
        self.left_out = ""
        self.open: list[Question] = []
        self.decided: list[Question] = []
        self.unknown = 0
        self.proposals: list[tuple[str, list[Question]]] = []
        self._matchers: dict[int, Matcher] = {}
        self._pool: list[str] | None = None
        self._was_read = False
        self._read: list[Any] | None = None
        """What the engine makes of each text of the pool; None when that takes too long."""
        positive = [each for each in pattern.samples if each.kind == "positive"]
        self.values: Mapping[str, str] = positive[0].values if positive and pattern.parameters else {}
        self.samples: list[Sample] = [each for each in pattern.samples if dict(each.values) == dict(self.values)]
        if not self.samples:
            self.left_out = "no sample tests it"
            return
        try:
            self.matcher = prepare(self.pattern, self.values)
            self.parsed = self._parsed()
        except (FieldstickError, SyntaxFault) as error:
            self.left_out = f"it cannot be read: {error}"
            return
        self._before: dict[str, Any] = {}
        self._comparing = Effort(MOST_COMPARED)
        for question in self._asked():
            (self.decided if self._is_decided(question) else self.open).append(question)

    @cached_property
    def _is_doubling(self) -> bool:
        assert self.parsed is not None
        return is_doubling(Reading(self.parsed.expression, self.pattern.reach, self.pattern.flags))

    def _parsed(self) -> Parsed | None:
        if self.pattern.filling is None:
            return None
        return parse(self.pattern.filling.text(self.values), self.pattern.flags)

    def _asked(self) -> Iterator[Question]:
        if self.parsed is None:
            yield from self._about_members()
            return
        for each in variants(self.parsed):
            changed = self._changed(each.expression, each.flags)
            question = Question(each.kind, each.span, each.words, changed, self._home(each.span, each.words))
            if self._is_usable(question):
                yield question
        for question in self._about_fields():
            if self._is_usable(question):
                yield question

    def _changed(self, expression: str, flags: frozenset[str]) -> Pattern:
        return replace(self.pattern, filling=fill_plain(expression), flags=flags, parameters=(), samples=())

    def _is_usable(self, question: Question) -> bool:
        try:
            self._matchers[id(question)] = prepare(question.pattern)
        except FieldstickError:
            return False
        return True

    def _about_members(self) -> Iterator[Question]:
        members = self.pattern.members
        for number, member in enumerate(members):
            others = (*members[:number], *members[number + 1 :])
            if others:
                changed = replace(self.pattern, members=others, samples=())
                words = f"no sample needs the member {member.name}"
                question = Question("member", (0, 0), words, changed)
                if self._is_usable(question):
                    yield question

    def _about_fields(self) -> Iterator[Question]:
        assert self.parsed is not None
        for name, table in self.pattern.fields.items():
            for words, changed in _other_bounds(table, self._step(name, table)):
                fields = {**self.pattern.fields, name: changed}
                pattern = replace(self._changed(self.parsed.expression, self.pattern.flags), fields=fields)
                yield Question("field", self._place_of_group(name), f"{words} of {name}", pattern)

    def _step(self, name: str, table: FieldTable) -> Any:
        """Return by how much a value of a field is moved: one unit of its last digit."""
        if table.type != "decimal":
            return 1
        mark = table.decimal_mark or "."
        digits = [
            len(field.text.partition(mark)[2])
            for sample in self.samples
            for match in self.matcher.read_or_give_up(sample.text).matches
            if (field := match.fields.get(name)) is not None
        ]
        return Decimal(1).scaleb(-max(digits, default=0))

    def _place_of_group(self, name: str) -> Span:
        assert self.parsed is not None
        for node in walk(self.parsed.tree):
            if isinstance(node, Group) and node.number is not None and name in (node.name, str(node.number)):
                return node.span
        return self.parsed.tree.span

    def _home(self, span: Span, words: str) -> Home | None:
        assert self.pattern.filling is not None
        start = self.pattern.filling.origin(span[0], self.values)
        end = self.pattern.filling.origin(max(span[1] - 1, span[0]), self.values)
        if start.source == OWN or start.source != end.source:
            return None
        return (*self.suite.home_of_part(start.source), start.offset, end.offset, words)

    def _is_decided(self, question: Question) -> bool:
        return any(self._decides(sample.text, question) for sample in self.samples)

    def _decides(self, text: str, question: Question) -> bool:
        if text not in self._before:
            self._before[text] = _key(self.matcher.read_or_give_up(text))
        before, after = self._before[text], _key(self._matchers[id(question)].read_or_give_up(text))
        # What was given up may have come to the same.
        return bool(after != before) and _NOT_KNOWN not in (before, after)

    def settle(self, known: set[Home]) -> None:
        """Leave out what is decided, or told, elsewhere; find texts for the rest, and leave out what none decides."""
        for question in [each for each in self.open if each.home is not None and each.home in known]:
            self.open.remove(question)
            self.decided.append(question)
        candidates: dict[int, list[str]] = {}
        for question in list(self.open):
            texts = self._texts_for(question)
            if texts:
                candidates[id(question)] = texts
            else:
                self.open.remove(question)
                self.unknown += texts is None
        left = list(self.open)
        while left:
            text = max(candidates[id(left[0])], key=partial(self._settles, left))
            settled = [question for question in left if self._decides(text, question)]
            self.proposals.append((text, settled))
            left = [question for question in left if question not in settled]

    def _settles(self, questions: Sequence[Question], text: str) -> int:
        return sum(self._decides(text, question) for question in questions)

    def _texts_for(self, question: Question) -> list[str] | None:
        """Return texts that decide a question, the nearest to a sample first; none where no text does.

        None where it is not known whether one does.
        """
        if question.kind == "member":
            return self._texts_of_members(question)
        if self.parsed is None or question.kind == "field":
            # Those at the bounds of fields come first.
            beside = self._beside()[:MOST_OF_FIELDS]
            return list(islice((text for text in beside if self._decides(text, question)), MOST_TRIED)) or None
        assert question.pattern.filling is not None
        expression, flags = question.pattern.filling.expression, question.pattern.flags
        found = self._by_batch(question, expression, flags)
        if found:
            return found
        one = Reading(self.parsed.expression, self.pattern.reach, self.pattern.flags)
        other = Reading(expression, self.pattern.reach, flags)
        try:
            told = relation_of(one, other, self._comparing)
        except SyntaxFault:
            return None
        if told.relation == "undecided":
            return None
        if told.relation == "same":
            return []
        nearest = self._nearest(one, other)
        texts = [text for text in (nearest, told.only_first, told.only_second) if text is not None]
        return [text for text in texts if self._decides(text, question)] or None

    def _texts_of_members(self, question: Question) -> list[str] | None:
        """Return texts that decide whether a member is needed: samples of the members, then a proven difference."""
        texts = [sample.text for member in self.pattern.members for sample in member.samples if not sample.values]
        found = [text for text in texts if self._decides(text, question)]
        if not found:
            try:
                told = relation_of(
                    asked_of(self.pattern, self.values), asked_of(question.pattern, self.values), self._comparing
                )
            except (SyntaxFault, KeyError):
                return None
            if told.relation == "same":
                return []
            both = (told.only_first, told.only_second)
            found = [text for text in both if text is not None and self._decides(text, question)]
        return found[:MOST_TRIED] or None

    def _nearest(self, one: Reading, other: Reading) -> str | None:
        try:
            first, second = languages_of([one, other], self._comparing)
            texts = [sample.text for sample in self.samples[:8]]
            # A field that is converted mostly refuses what the expression alone would tell apart.
            typed = any(table.type != "text" for table in self.pattern.fields.values())
            return nearest_difference(first, second, texts, most_steps=MOST_STEPS // 5 if typed else MOST_STEPS)
        except OutOfReach:
            return None

    def _by_batch(self, question: Question, expression: str, flags: frozenset[str]) -> list[str]:
        """Return texts beside the samples that the engine reads otherwise with a question's expression.

        None are looked for so where a text may take the engine twice as long with each of its characters.
        """
        assert self.parsed is not None
        if self._is_doubling:
            return []
        pool = self._beside()
        if not self._was_read:
            self._was_read = True
            self._read = batch_of(self.parsed.expression, self.pattern.flags, self.pattern.reach, pool)
        if self._read is None:
            return []
        now = batch_of(expression, flags, self.pattern.reach, pool)
        if now is None:
            return []
        group = question.kind == "group"
        differ = (
            text
            for text, before, after in zip(pool, self._read, now, strict=True)
            if (before is not None if group else before != after)
        )
        return list(islice((text for text in differ if self._decides(text, question)), MOST_TRIED))

    def _beside(self) -> list[str]:
        """Return texts beside the samples: those with the fewest and plainest changes first."""
        if self._pool is None:
            texts = dict.fromkeys(self._field_values())
            texts |= dict.fromkeys(islice(self._varied(), MOST_TEXTS))
            for sample in self.samples:
                texts.pop(sample.text, None)
            self._pool = list(texts)
        return self._pool

    def _varied(self) -> Iterator[str]:
        characters = self._characters()
        kinds = ("positive", "negative")
        chosen = [each for kind in kinds for each in [s for s in self.samples if s.kind == kind][:MOST_BESIDE]]
        short = [each.text for each in chosen if len(each.text) <= LONGEST_VARIED]
        for text in short:
            yield from _flooded(text)
        for text in short:
            yield from _cut(text)
        for text in short:
            yield from _edited(text, characters)
        if self.parsed is not None:
            yield from islice(texts_of(self.parsed, self.pattern.reach), 30)

    def _characters(self) -> list[str]:
        """Return characters that the expression tells apart, and some just outside of what it takes."""
        if self.parsed is None:
            return list("aA0_- ")
        try:
            alphabet = Alphabet([program_of(self.parsed, with_groups=False)])
            found = [character for character, rank in alphabet.examples if rank < 200]
            ends = [
                chr(point)
                for letter in range(alphabet.size)
                for first, last in alphabet.intervals(letter)[:4]
                for point in (first, last)
                if 32 <= point < 127
            ]
        except OutOfReach:
            found, ends = list("aA0_- "), []
        return list(dict.fromkeys([*found, *ends]))[: 2 * MOST_CHARACTERS]

    def _field_values(self) -> Iterator[str]:
        """Yield samples with a field at each of its bounds, and just beyond."""
        for sample in self.samples:
            for match in self.matcher.read_or_give_up(sample.text).matches:
                for name, field in match.fields.items():
                    table = self.pattern.fields.get(name)
                    if field is not None and table is not None:
                        for value in _values_at(table, self._step(name, table), field.text):
                            yield sample.text[: field.place[0]] + value + sample.text[field.place[1] :]

    def told(self) -> PatternGaps:
        """Return what was found."""
        address = f"{self.suite.name}:{self.pattern.name}"
        line = self.suite.line_of(self.pattern.path)
        if self.left_out:
            return PatternGaps(address, self.suite.file, line, left_out=self.left_out)
        proposals = []
        for text, questions in self.proposals:
            reading = self.matcher.read_or_give_up(text)
            why = reading.unfit.words if reading.unfit is not None else ""
            proposals.append(Proposal(text, reading.fits, why, tuple(map(self._gap, questions))))
        asked = len(self.open) + len(self.decided)
        return PatternGaps(
            address,
            self.suite.file,
            line,
            asked,
            len(self.decided),
            tuple(proposals),
            self.unknown,
            values=dict(self.values),
        )

    def _gap(self, question: Question) -> Gap:
        if self.parsed is None or self.pattern.filling is None:
            line = self.suite.line_of(self.pattern.path)
            name = question.words.rpartition(" ")[2]
            return Gap(question.kind, question.words, name, (0, len(name)), self.suite.file, line, 1)
        origin = self.pattern.filling.origin(question.span[0], self.values)
        own = question.home is None
        part = None if own or question.home is None else question.home[1]
        path = (*self.pattern.path, "expression")
        offset = origin.offset if origin.source == OWN else 0
        file = self.suite.file
        place = place_in_text(self.suite.document, path, offset)
        if part is not None and part in self.suite.parts and question.home is not None and question.home[0] == file:
            place = place_in_text(self.suite.document, ("parts", part), origin.offset)
        return Gap(question.kind, question.words, self.parsed.expression, question.span, file, *place, part)


def _flooded(text: str) -> Iterator[str]:
    """Yield a text all of whose digits, small letters or capitals are one, as they are at the ends of their range."""
    for kind, ends in ((str.isdigit, "09"), (str.islower, "az"), (str.isupper, "AZ")):
        for end in ends:
            yield "".join(end if kind(each) else each for each in text)


def _cut(text: str) -> Iterator[str]:
    """Yield a text without, and with twice, each of its runs of letters and digits, and of other characters."""
    for found in re.finditer(r"\w+|\s+|[^\w\s]", text):
        yield text[: found.start()] + text[found.end() :]
        yield text[: found.end()] + found[0] + text[found.end() :]
        yield text[: found.end()]
        yield text[found.start() :]


def _edited(text: str, characters: list[str]) -> Iterator[str]:
    """Yield a text with one character left out, doubled, changed or put in."""
    for at in range(len(text)):
        yield text[:at] + text[at + 1 :]
        yield text[: at + 1] + text[at:]
        if text[at].swapcase() != text[at]:
            yield text[:at] + text[at].swapcase() + text[at + 1 :]
        if 32 < ord(text[at]) < 126:
            for step in (-1, 1):
                yield text[:at] + chr(ord(text[at]) + step) + text[at + 1 :]
    for character in characters[:MOST_CHARACTERS]:
        for at in range(len(text)):
            yield text[:at] + character + text[at + 1 :]
    for character in characters[:MOST_CHARACTERS]:
        for at in range(len(text) + 1):
            yield text[:at] + character + text[at:]


def _other_bounds(table: FieldTable, step: Any) -> Iterator[tuple[str, FieldTable]]:
    """Yield a field with each of its bounds one step on, either way, and without each of its listed values."""
    for key, way in (("least", 1), ("most", -1)):
        bound = getattr(table, key)
        if (
            isinstance(bound, int | float | Decimal)
            and not isinstance(bound, bool)
            and table.type in ("integer", "decimal")
        ):
            exact = Decimal(str(bound))
            inner, outer = exact + way * step, exact - way * step
            yield f"no sample lies at the {key} value, {bound},", replace(table, **{key: _number(inner, table)})
            yield (
                f"no sample lies just beyond the {key} value, {bound},",
                replace(table, **{key: _number(outer, table)}),
            )
    for value in table.one_of or ():
        others = [each for each in table.one_of or () if each != value]
        if others:
            yield f"no sample has the value '{value}'", replace(table, one_of=others)


def _is_number(bound: Any) -> bool:
    return isinstance(bound, int | float | Decimal) and not isinstance(bound, bool)


def _number(value: Decimal, table: FieldTable) -> Any:
    return int(value) if table.type == "integer" else value


def _values_at(table: FieldTable, step: Any, text: str) -> Iterator[str]:
    """Yield the bounds of a field, and what is just beyond, as they are written like the value of a sample."""
    yield from (str(value) for value in table.one_of or () if isinstance(value, str))
    if table.type not in ("integer", "decimal"):
        return
    mark = table.decimal_mark or "."
    digits = len(text.partition(mark)[2]) if table.type == "decimal" else 0
    width = len(text.lstrip("-").partition(mark)[0]) if text.lstrip("-").startswith("0") else 0
    for key, way in (("least", -1), ("most", 1)):
        bound = getattr(table, key)
        if _is_number(bound):
            for value in (Decimal(str(bound)), Decimal(str(bound)) + way * step):
                whole, _, rest = f"{abs(value):.{digits}f}".partition(".")
                sign = "-" if value < 0 else ""
                yield sign + whole.zfill(width) + (mark + rest if rest else "")
