"""Makes texts that an expression fits, for a reader to see; each is checked with the engine before it is shown.

A text is made by walking the tree. What a look-ahead asks for is kept in mind and met by what is made next; what stands
before a look-behind, or after the end, is made too where the reach leaves room for it. Choices come from a number, so
that the same expression always gets the same texts, and all work is bounded in steps.
"""

from __future__ import annotations

import random
from itertools import islice, product
from typing import TYPE_CHECKING

from fieldstick.analysis.character_sets import characters_of
from fieldstick.analysis.facts import facts_of
from fieldstick.engines.probing import character_test, fits
from fieldstick.syntax.parser import scoped
from fieldstick.syntax.tree import (
    SINGLE,
    Alternation,
    Backreference,
    Character,
    CharClass,
    Conditional,
    Dot,
    Group,
    Look,
    Node,
    Repeat,
    Sequence,
    Shorthand,
    spelled,
)

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping

    from fieldstick.engines.protocol import Reach
    from fieldstick.syntax.characters import CharacterSet
    from fieldstick.syntax.parser import Parsed

LONGEST = 2_000
"""Code points up to which an example is made: a longer one shows nothing."""

STEPS = 20_000
"""Nodes that are visited for one text."""

VARIETIES, TRIES = 8, 40
"""Texts that are made with the choices a reader would make first, and with any choices after those."""

_LIKELY = "a7B_ 3x-kQ.0,:/+=%'\"()#é°漢\n\t"
_VERY_MANY = 3
"""Turns beyond the least that an unbounded repeat is shown with."""

_AROUND = ("", "a", " ", "\n", "-", "7")
"""What may have to stand before or after a match for its anchors to hold."""


class TooLongError(Exception):
    """A text would be longer than is shown, or take more steps than are taken."""


def examples(parsed: Parsed, reach: Reach = "whole", *, most: int = 3) -> list[str]:
    """Return up to `most` different texts that fit, the shortest kind first; none where none was found."""
    found: list[str] = []
    if facts_of(parsed).width[0] > LONGEST:
        return found
    for text in texts_of(parsed, reach):
        if text not in found and fits(parsed.expression, parsed.flags, reach, text):
            found.append(text)
        if len(found) == most:
            break
    return found


def texts_of(parsed: Parsed, reach: Reach, forced: Mapping[Node, str] | None = None) -> Iterator[str]:
    """Yield texts that are likely to fit, with some nodes standing for a text that is given."""
    around = [("", "")]
    if reach != "whole":
        befores = _AROUND if reach == "anywhere" else ("",)
        around = sorted(product(befores, _AROUND), key=lambda pair: sum(map(len, pair)))
    made: list[tuple[str, str, str]] = []
    for variety in range(VARIETIES + TRIES):
        try:
            maker = _Maker(parsed, variety, forced or {})
            text = maker.make(parsed.tree, parsed.flags)
        except TooLongError:
            continue
        if text is None:
            continue
        before, after = (maker.before if reach == "anywhere" else ""), ("" if reach == "whole" else maker.pending)
        made.append((before, text, after))
        yield before + text + after
    for before, text, after in dict.fromkeys(made[:VARIETIES]):
        for left, right in islice(around, 1, None):
            yield left + before + text + after + right


MOST_TRIED = 5
"""Texts that fit on which something is tried."""

MOST_EDGES, MOST_EDGE_TEXTS = 6, 60
"""Characters at the edges of one set of them that are tried, and texts in all."""


def trial_texts(parsed: Parsed, reach: Reach) -> list[str]:
    """Return texts on which what is written of an expression can be tried: some that fit, and others near them."""
    found = examples(parsed, reach, most=MOST_TRIED)
    near = [other for text in found for other in (text[:-1], f"{text}\n", f"{text}x", f"x{text}", text.swapcase())]
    return list(dict.fromkeys([*found, *edge_texts(parsed, reach), *near]))


def edge_texts(parsed: Parsed, reach: Reach) -> list[str]:
    """Return texts in which one character is the first or last that its place takes, or the next one that it does not.

    They are likely to fit, or to miss by little; which of the two is not said.
    """
    facts = facts_of(parsed)
    found: list[str] = []
    for node, flags in facts.with_flags:
        if not isinstance(node, Character | CharClass | Dot | Shorthand) or facts.is_in_class(node):
            continue
        for character in _edges(characters_of(node, flags)):
            found += islice(texts_of(parsed, reach, {node: character}), 1)
        if len(found) > MOST_EDGE_TEXTS:
            break
    return list(dict.fromkeys(found))[:MOST_EDGE_TEXTS]


def _edges(characters: CharacterSet) -> list[str]:
    """Return the first and last characters of a set's runs, and those beside them."""
    codes = [code for first, last in characters.intervals for code in (first, last, first - 1, last + 1)]
    return [chr(code) for code in codes if 0 <= code <= 0x10FFFF and not 0xD800 <= code <= 0xDFFF][:MOST_EDGES]


def text_for(parsed: Parsed, node: Node, variety: int = 0) -> str | None:
    """Return a text that a piece of the expression is likely to take. Raises TooLongError."""
    return _Maker(parsed, variety, {}).make(node, parsed.flags)


class _Maker:
    """Makes one text; the variety says which options and how many turns it goes for.

    `pending` is what a look-ahead asked for and was not made yet, `before` what must stand before the text.
    """

    def __init__(self, parsed: Parsed, variety: int, forced: Mapping[Node, str]) -> None:
        self.parsed = parsed
        self.variety = variety
        self.chance = random.Random(variety) if variety >= VARIETIES else None
        self.forced = forced
        self.groups: dict[int, str] = {}
        self.pending = ""
        self.before = ""
        self.begun = False
        self.left = STEPS
        self.length = 0

    def make(self, node: Node, flags: frozenset[str]) -> str | None:
        """Return a text for a node; None where none is found. Raises TooLongError."""
        self.left -= 1
        if self.left < 0 or self.length > LONGEST:
            raise TooLongError
        if node in self.forced:
            if isinstance(node, Group) and node.number is not None:
                self.groups[node.number] = self.forced[node]
            return self._taken(self.forced[node])
        if isinstance(node, SINGLE):
            return self._single(node, flags)
        if isinstance(node, Sequence):
            return self._all(node.items, flags)
        if isinstance(node, Alternation):
            return self.make(self._option(node), flags)
        if isinstance(node, Group):
            made = self.make(node.body, scoped(flags, node))
            if node.number is not None and made is not None:
                self.groups[node.number] = made
            return made
        if isinstance(node, Repeat):
            return self._repeat(node, flags)
        if isinstance(node, Backreference):
            found = self.groups.get(node.number)
            return None if found is None else self._taken(found)
        if isinstance(node, Conditional):
            chosen = node.then if node.number in self.groups else node.otherwise
            return "" if chosen is None else self.make(chosen, flags)
        if isinstance(node, Look) and not node.negated:
            return self._look(node, flags)
        return ""

    def _taken(self, text: str) -> str:
        """Note that a text was made: what was asked for there is met, or not."""
        self.begun = self.begun or bool(text)
        self.length += len(text)
        self.pending = self.pending[len(text) :] if self.pending.startswith(text) else ""
        return text

    def _all(self, items: tuple[Node, ...], flags: frozenset[str]) -> str | None:
        pieces = []
        for item in items:
            piece = self.make(item, flags)
            if piece is None:
                return None
            pieces.append(piece)
        return "".join(pieces)

    def _option(self, node: Alternation) -> Node:
        if any(each in self.forced for each in node.options):
            return next(each for each in node.options if each in self.forced)
        number = self.variety if self.chance is None else self.chance.randrange(len(node.options))
        return node.options[number % len(node.options)]

    def _single(self, node: Node, flags: frozenset[str]) -> str | None:
        if self.pending and character_test(spelled(node), _of_one(flags))(self.pending[0]):
            return self._taken(self.pending[0])
        if isinstance(node, Character) and (self.variety < VARIETIES or "ignore-case" not in flags):
            return self._taken(node.character)
        found = _character(node, flags, self.variety if self.chance is None else self.chance.randrange(len(_LIKELY)))
        return None if found is None else self._taken(found)

    def _look(self, node: Look, flags: frozenset[str]) -> str | None:
        pending, begun, length = self.pending, self.begun, self.length
        self.pending = ""
        text = self.make(node.body, flags)
        self.begun, self.length = begun, length
        # What several ask for stands one after the other: where each begins with anything, all are met.
        self.pending = pending + (text or "") if node.ahead else pending
        if not node.ahead and not begun:
            self.before = text or ""
        return None if text is None else ""

    def _repeat(self, node: Repeat, flags: frozenset[str]) -> str | None:
        most = node.least + _VERY_MANY if node.most is None else node.most
        more = self.variety % 4 if self.chance is None else self.chance.randrange(10)
        turns = node.least + more if self.chance is not None and node.most is None else min(most, node.least + more)
        if most and any(each in self.forced for each in _below_repeat(node)):
            turns = max(turns, 1)
        pieces: list[str] = []
        while len(pieces) < turns or (self.pending and (node.most is None or len(pieces) < node.most)):
            pending = self.pending
            piece = self.make(node.item, flags)
            if piece is None:
                return None
            pieces.append(piece)
            if not piece and len(pieces) >= node.least:
                break
            if len(pieces) > turns and len(self.pending) >= len(pending):
                break
        return "".join(pieces)


def _below_repeat(node: Repeat) -> Iterator[Node]:
    waiting: list[Node] = [node.item]
    while waiting:
        each = waiting.pop()
        yield each
        if isinstance(each, Group):
            waiting.append(each.body)
        elif isinstance(each, Sequence):
            waiting += each.items
        elif isinstance(each, Repeat):
            waiting.append(each.item)
        elif isinstance(each, Alternation):
            waiting += each.options


def _of_one(flags: frozenset[str]) -> frozenset[str]:
    return flags & {"ignore-case", "dotall", "ascii"}


def _character(node: Node, flags: frozenset[str], variety: int) -> str | None:
    test = character_test(spelled(node), _of_one(flags))
    turned = variety % (4 if variety < VARIETIES else len(_LIKELY))
    for character in _LIKELY[turned:] + _LIKELY[:turned]:
        if test(character):
            return character
    intervals = characters_of(node, flags).intervals
    for first, last in islice(intervals, 200):
        for code in range(first, min(last, first + 20) + 1):
            if chr(code).isprintable():
                return chr(code)
    return chr(intervals[0][0]) if intervals else None


def sample_character(node: Node, flags: frozenset[str]) -> str | None:
    """Return a character that a single-character node takes; None when there is none."""
    return _character(node, flags, 0)
