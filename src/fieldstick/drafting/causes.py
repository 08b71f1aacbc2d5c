"""What texts that do not fit have in common: where they stop, and on what.

Looking into one text takes a trace. Texts that differ in digits alone, or in letters alone where there are very many,
are taken to stop alike, and so are those that differ in digits alone up to where one stops, and have the same character
there; when the steps are spent, texts of a kind that was not met yet are counted apart. Both are told, so that nothing
approximate passes for exact.
"""

from __future__ import annotations

import re
import string
from collections import Counter
from itertools import compress
from typing import TYPE_CHECKING

from msgspec import Struct, field

from fieldstick.analysis.effort import Effort
from fieldstick.drafting.diagnosis import Stop, stop_of
from fieldstick.drafting.judge import deciding
from fieldstick.drafting.phrases import text_words
from fieldstick.drafting.read_here import parsed_here
from fieldstick.drafting.written import Written
from fieldstick.matching.character_kinds import DIGITS_FOLDED
from fieldstick.matching.result import DID_NOT_MATCH, GAVE_UP
from fieldstick.syntax.tree import Character, Look, Sequence, walk

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping

    from fieldstick.data.batch import Batch
    from fieldstick.matching.matcher import Matcher
    from fieldstick.matching.result import Unfit, UnfitReason
    from fieldstick.suites.suite import Pattern
    from fieldstick.syntax.parser import Parsed

STEPS = 3_000_000
"""Steps for which misses are looked into: some two seconds on a usual machine."""

TRACED = 10
"""Steps a code point that it takes to find out where a match stopped."""

MOST_KEPT = 20_000
"""Kinds of texts whose cause is remembered."""

MOST_EXACT = 2_000
"""Kinds of texts up to which only digits are taken for one another."""

MOST_TEXT = 2_000
"""Code points of a text that is looked into."""

MOST_FOUND = 3
"""Different characters at the place of the stop that are named."""

_LETTERS = bytes.maketrans((string.ascii_letters + string.digits).encode(), b"\1" * 26 + b"\2" * 26 + b"9" * 10)


class Miss(Struct, frozen=True):
    """A text that does not fit: its source, its line (from 1) there, and where it stopped, if it is that."""

    source: str
    number: int
    text: str
    stop: Stop | None = None
    words: str = ""


class Cause(Struct):
    """Something that texts stop on, how many of them do, the first of them, and what stood there.

    `reason` is why they do not fit, as `Unfit` names it.
    """

    words: str
    first: Miss
    reason: UnfitReason = DID_NOT_MATCH
    count: int = 0
    found: Counter[str] = field(default_factory=Counter)


class Causes:
    """Misses of one pattern, by their cause.

    `taken_alike` are those that were taken to stop as another one does, `unseen` those that were not looked into.
    """

    def __init__(self, matcher: Matcher, *, values: Mapping[str, str] | None = None, steps: int = STEPS) -> None:
        self._pattern, self._values = matcher.pattern, values or {}
        self._matcher = matcher
        self._effort = Effort(steps)
        self._known: dict[str, tuple[str, str]] = {}
        self._up_to: dict[int, dict[str, tuple[str, str]]] = {}
        """Causes by where texts stop, and by what they hold up to there."""

        self._stops: list[int] = []
        """Where texts stop, about the commonest first."""

        self._parsed: dict[str, Parsed | None] = {}
        self._words: dict[tuple[str, int], tuple[str, str]] = {}
        self._looks_no_further: bool | None = None
        self._causes: dict[str, Cause] = {}
        self.taken_alike = 0
        self.unseen = 0

    def reason_of(self, source: str, number: int, text: str) -> tuple[str, str]:
        """Take in a text that does not fit, and return why: the reason's name, and what it stops on in words."""
        cause = self.add(source, number, text)
        return (DID_NOT_MATCH, "not looked into") if cause is None else (cause.reason, cause.words)

    def add_missed(self, source: str, batch: Batch, missed: bytes, start: int = 0) -> None:
        """Take in those texts of a batch, from `start` on, for which there is a 1 in `missed`."""
        if 1 not in missed:
            return
        indexes = list(compress(range(start, start + len(missed)), missed))
        stored = batch.stored
        if stored is None or stored.cells is not None:
            for index in indexes:
                self.add(source, batch.numbers[index], batch.texts[index])
            return
        lines = stored.data.translate(DIGITS_FOLDED).split(b"\n")
        kinds = [lines[index] for index in indexes]
        first = dict(zip(reversed(kinds), reversed(indexes), strict=True))
        for kind, times in Counter(kinds).items():
            self.add(source, batch.numbers[first[kind]], batch.texts[first[kind]], times)

    def add(self, source: str, number: int, text: str, times: int = 1) -> Cause | None:
        """Take in a text that does not fit, and return its cause; None for one that is not looked into.

        `times` tells how many there are of it, told apart by digits alone.
        """
        exact = len(self._known) < MOST_EXACT
        key = digits = _folded(text, DIGITS_FOLDED)
        known = self._known.get(digits) or self._stopped_before(text, digits)
        if known is None and not exact:
            key = _folded(text, _LETTERS)
            known = self._known.get(key)
        if known is not None:
            words, found = known
            self.taken_alike += times
            return self._counted(self._causes[words], found, times)
        if self._effort.left < 0 or len(self._known) >= MOST_KEPT:
            self.unseen += times
            return None
        miss, words, reason = self._looked_into(source, number, text)
        found = miss.stop.found if miss.stop is not None else ""
        self._known[key] = words, found
        if miss.stop is not None and self._tells_of_others(miss.stop, text):
            at = miss.stop.text
            if at not in self._up_to:
                self._stops.append(at)
            self._up_to.setdefault(at, {})[digits[:at] + text[at]] = words, found
        self.taken_alike += times - 1
        return self._counted(self._causes.setdefault(words, Cause(words, miss, reason)), found, times)

    def _stopped_before(self, text: str, digits: str) -> tuple[str, str] | None:
        """Return the cause of a text that stops where another did, for all that was looked at is the same."""
        stops = self._stops
        for place, at in enumerate(stops):
            if at < len(text) and (found := self._up_to[at].get(digits[:at] + text[at])) is not None:
                if place:
                    # Transposed (Knuth, TAOCP 3, 6.1): what is asked for often comes to the front.
                    stops[place - 1], stops[place] = at, stops[place - 1]
                return found
        return None

    def _tells_of_others(self, stop: Stop, text: str) -> bool:
        """Tell whether nothing but what a text holds up to where it stops has to do with that it stops there.

        What may end a line is looked at with what follows.
        """
        if not stop.complete or stop.text >= len(text) or text[stop.text] == "\n":
            return False
        if self._looks_no_further is None:
            self._looks_no_further = self._goes_by_beginnings(self._pattern)
        return self._looks_no_further

    def _goes_by_beginnings(self, pattern: Pattern) -> bool:
        """Tell whether matches begin at one place alone and nothing looks ahead; any of several stops where the one
        that comes furthest does.
        """
        if pattern.combination is not None:
            return pattern.combination == "any_of" and all(map(self._goes_by_beginnings, pattern.members))
        parsed = self._read(pattern)
        if parsed is None or pattern.reach == "anywhere":
            return False
        return not any(isinstance(node, Look) and node.ahead for node in walk(parsed.tree))

    @staticmethod
    def _counted(cause: Cause, found: str, times: int) -> Cause:
        cause.count += times
        if found:
            cause.found[found] += times
        return cause

    def _looked_into(self, source: str, number: int, text: str) -> tuple[Miss, str, UnfitReason]:
        self._effort.spend(200 + len(text))
        reading = self._matcher.read_or_give_up(text)
        unfit = reading.unfit
        if unfit is None:
            return Miss(source, number, text), "it fits, read alone", DID_NOT_MATCH
        if unfit.reason == GAVE_UP:
            return Miss(source, number, text, words=unfit.words), "given up after its budget", GAVE_UP
        if unfit.reason != DID_NOT_MATCH:
            return Miss(source, number, text, words=unfit.words), _without_value(unfit), unfit.reason
        if len(text) > MOST_TEXT:
            return Miss(source, number, text), "too long to be looked into", DID_NOT_MATCH
        found = deciding(self._pattern, text, self._values)
        stop, words = self._stopped(found.pattern, text)
        if found.path:
            words = f"'{found.path[-1][1]}': {words}"
        return Miss(source, number, text, stop, "" if stop is not None else unfit.words), words, DID_NOT_MATCH

    def _stopped(self, pattern: Pattern, text: str) -> tuple[Stop | None, str]:
        parsed = self._read(pattern)
        if parsed is None:
            return None, "the expression does not match"
        stop = stop_of(parsed, text, pattern.reach)
        self._effort.spend(TRACED * len(text))
        if stop is None:
            return None, "the expression does not match"
        asked = pattern.name, stop.expression[0]
        if asked not in self._words:
            self._words[asked] = self._words_at(pattern, parsed, stop.expression[0])
        word, after = self._words[asked]
        wanted = text_words(word) if len(word) > 1 else stop.wanted.partition(" or more of ")[0]
        if wanted == "nothing more":
            return stop, wanted
        return stop, f"{wanted} wanted{f' after {after}' if after else ' at the start'}"

    def _words_at(self, pattern: Pattern, parsed: Parsed, at: int) -> tuple[str, str]:
        """Return the run of characters that a place of an expression lies in, and what stands before it there."""
        assert pattern.filling is not None
        values = pattern.own_values(self._values)
        is_own = parsed.expression == pattern.filling.text(values)
        written = Written(parsed.expression, pattern.filling.part_spans(values) if is_own else {})
        start, word = _word_at(parsed, at)
        return word, _before(parsed, start, written)

    def _read(self, pattern: Pattern) -> Parsed | None:
        if pattern.name not in self._parsed:
            assert pattern.filling is not None
            values = pattern.own_values(self._values)
            self._parsed[pattern.name] = parsed_here(pattern, values)
        return self._parsed[pattern.name]

    @property
    def ranked(self) -> list[Cause]:
        """The causes, the commonest first; those as common in the order in which they were met."""
        return sorted(self._causes.values(), key=lambda each: -each.count)

    @property
    def total(self) -> int:
        """All texts that were taken in."""
        return sum(each.count for each in self._causes.values()) + self.unseen


def _folded(text: str, table: bytes) -> str:
    """Return a text with characters of ASCII put by others."""
    # Those beyond it, and what is no text, keep their bytes.
    return text.encode("utf-8", "surrogatepass").translate(table).decode("utf-8", "surrogatepass")


def _without_value(unfit: Unfit) -> str:
    """Return why a field is refused, without the text that it captured."""
    assert unfit.field is not None
    words = re.sub(r"(?<= is )'.*?'(?=,)|(?<= is )\S+(?=, (?:below|above))", "…", unfit.words, count=1)
    return words if len(words) <= 200 else f"the field '{unfit.field}' is refused"


def _word_at(parsed: Parsed, at: int) -> tuple[int, str]:
    """Return where the run of characters that a place of an expression lies in begins, and the run; empty for none."""
    for node in walk(parsed.tree):
        if isinstance(node, Sequence):
            for first, last in _runs(node):
                if node.items[first].span[0] <= at < node.items[last].span[1]:
                    spelling = [each.character for each in node.items[first : last + 1] if isinstance(each, Character)]
                    return node.items[first].span[0], "".join(spelling)
    return at, ""


def _runs(node: Sequence) -> Iterator[tuple[int, int]]:
    """Yield the first and last index of each run of characters of a sequence."""
    first: int | None = None
    for index, item in enumerate((*node.items, None)):
        if isinstance(item, Character):
            first = index if first is None else first
        elif first is not None:
            yield first, index - 1
            first = None


def _before(parsed: Parsed, at: int, written: Written) -> str:
    """Return the piece that stands before a place of an expression, as it was written; a run of characters whole."""
    best: tuple[int, int] | None = None
    for node in walk(parsed.tree):
        if not isinstance(node, Sequence):
            continue
        ended = [index for index, item in enumerate(node.items) if item.span[1] <= at]
        inside = any(item.span[0] <= at <= item.span[1] for item in node.items)
        if not ended or not (inside or at == node.span[1]):
            continue
        last = ended[-1]
        first = next((one for one, other in _runs(node) if one <= last <= other), last)
        span = (node.items[first].span[0], node.items[last].span[1])
        if best is None or span[1] > best[1] or (span[1] == best[1] and span[0] > best[0]):
            best = span
    if best is None:
        return ""
    piece = f"{{{{{written.parts[best]}}}}}" if best in written.parts else written.piece(*best)
    piece = piece if len(piece) <= LONGEST_PIECE else f"…{piece[-LONGEST_PIECE:]}"
    return piece if piece.strip() == piece else f"'{piece}'"


LONGEST_PIECE = 40
"""Code points of a piece that is named."""


def found_words(cause: Cause) -> Iterator[str]:
    """Yield what stood at the place, the commonest first, and how often where there are several."""
    for found, count in cause.found.most_common(MOST_FOUND):
        yield found if len(cause.found) == 1 else f"{found} ({count:,})"
    if len(cause.found) > MOST_FOUND:
        yield f"{len(cause.found) - MOST_FOUND:,} more"
