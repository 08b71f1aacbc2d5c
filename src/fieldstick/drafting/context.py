"""A setting, what may be changed in it, and the scene that the rules of repair look at."""

from __future__ import annotations

import re
from bisect import bisect_left
from collections.abc import Callable
from functools import cached_property
from itertools import groupby, pairwise
from typing import TYPE_CHECKING, Any, NamedTuple, TypeVar

from msgspec import Struct, field
from msgspec.structs import replace

from fieldstick.analysis.effort import Effort
from fieldstick.analysis.facts import facts_of
from fieldstick.engines.probing import character_test, compiled_by_engine, fits
from fieldstick.lean import compiled_later
from fieldstick.syntax.tree import (
    Alternation,
    Backreference,
    Character,
    Conditional,
    FlagSetting,
    Group,
    Sequence,
    spelled,
    without_asides,
)

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Mapping
    from collections.abc import Sequence as Sequence_

    from fieldstick.analysis.facts import Facts
    from fieldstick.drafting.tracer import Trace
    from fieldstick.engines.protocol import Reach
    from fieldstick.syntax.parser import Parsed
    from fieldstick.syntax.tree import Node, Span

MOST_COMPILED, COMPILED_AFTER = 150_000, 50_000
"""Code points of expressions that are compiled in all to look into the pieces of one, and of one that is followed."""

MOST_SEEN = 2_000
"""Code points of a text on each side of where the match stopped in which words are looked for."""

MOST_NODES = 2_000
"""Nodes of an expression in which a slip is looked for."""

Spelled = TypeVar("Spelled", bound="Node")

SPECIAL = frozenset(".^$*+?{}[]()|\\")


_WIDE_RANGE = compiled_later(
    r"(\\u[0-9a-fA-F]{4}|\\U[0-9a-fA-F]{8}|\\x[0-9a-fA-F]{2}|[^\\])-(\\u[0-9a-fA-F]{4}|\\U[0-9a-fA-F]{8}|[^\x00-\xff])"
)
WIDE, WIDE_OF_BOTH_CASES = 80, 28
"""Characters of a range beyond Latin-1 that count as a step: a quarter of what they take, for few are so wide."""


def compiling(expression: str, flags: frozenset[str]) -> int:
    """Return how many steps the engine takes to compile an expression: for each code point, more for wide ranges."""
    steps = len(expression)
    if expression.isascii() and "\\u" not in expression and "\\U" not in expression:
        return steps
    for found in _WIDE_RANGE.finditer(expression):
        low, high = (ord(each) if len(each) == 1 else int(each[2:], 16) for each in found.groups())
        size = min(high, 0xFFFF) - low
        steps += max(0, size) // (WIDE_OF_BOTH_CASES if "ignore-case" in flags else WIDE)
    return steps


class MatchCase(Struct, frozen=True):
    """All that decides whether a text fits."""

    expression: str
    flags: frozenset[str]
    reach: Reach
    text: str


class Proposal(Struct, frozen=True):
    """A change: the setting after it, what it is in words, and how far-fetched it is (less is likelier)."""

    case: MatchCase
    words: str
    cost: float


class FieldChange(Struct, frozen=True):
    """What is asked of a field, changed: keys of its table and their values."""

    name: str
    keys: Mapping[str, Any]


Judge = Callable[[MatchCase], "bool | None"]
"""Tells whether a setting fits, fields and bounds and which match is taken too; None where reading took too long."""


class Harm(NamedTuple):
    """Of how many known texts a change turns the outcome from right to wrong, and of how many it leaves it wrong."""

    breaks: int = 0
    leaves: int = 0


class Repair(Struct, frozen=True):
    """A change that was tried and works: the setting after it, in words, and what comes of the other samples.

    `harm` is None when there were no other samples to try; `cost` says how far-fetched it is, less being likelier.
    `field` is set where a field is to be changed, be it alone or with the setting.
    """

    words: str
    case: MatchCase
    harm: Harm | None = None
    cost: float = 0.0
    field: FieldChange | None = None

    @property
    def breaks(self) -> int | None:
        """How many other samples it breaks; None when there were none to try."""
        return None if self.harm is None else self.harm.breaks


class Beside(Struct, frozen=True):
    """Other texts of which it is known that they should fit, or should not."""

    fitting: tuple[str, ...] = ()
    unfitting: tuple[str, ...] = ()


class Took(Struct, frozen=True):
    """What a piece took: of the text in question, and of those that should fit."""

    own: str
    others: tuple[str, ...]

    @property
    def is_lacking(self) -> bool:
        """Whether the text in question has nothing there, and all that should fit have something."""
        return not self.own and bool(self.others) and all(self.others)


class RepairContext(Struct, frozen=True, dict=True):
    """What the rules look at: the setting, its tree, and where the match stopped."""

    case: MatchCase
    parsed: Parsed
    trace: Trace
    spots: tuple[Span, ...] = field(default=())
    """Spans of the nodes that were asked for where the match stopped."""

    beside: Beside = Beside()
    compiled: int = MOST_COMPILED
    """Code points of expressions that may be compiled to look into its pieces."""

    @cached_property
    def has_no_stretches(self) -> bool:
        """Whether a piece of it says what another means, so that none can be read without the others."""
        return any(isinstance(each, Backreference | Conditional | FlagSetting) for each in self.facts.nodes)

    @cached_property
    def looking(self) -> Effort:
        """Those that may still be."""
        return Effort(self.compiled)

    @cached_property
    def took(self) -> dict[Span, Took | None]:
        """What pieces took, by their spans, as far as that was asked for (`slips.taking.took_at`)."""
        return {}

    @cached_property
    def missed(self) -> tuple[str, ...]:
        """The other texts that should fit and do not yet."""
        return tuple(each for each in self.beside.fitting if not self._fits(each))

    @cached_property
    def held(self) -> tuple[str, ...]:
        """The other texts that should fit, and do."""
        return tuple(each for each in self.beside.fitting if each not in self.missed)

    def _fits(self, text: str) -> bool:
        return fits(self.case.expression, self.case.flags, self.case.reach, text)

    @property
    def all_alike(self) -> bool:
        """Whether several texts are known that should fit, and none of them does: what they share was left out."""
        return bool(self.missed) and not self.held

    def words(self) -> Iterator[tuple[Span, str]]:
        """Yield the words that an expression spells out, and where."""
        for node in self.nodes:
            items = node.items if isinstance(node, Sequence) else ()
            for is_word, run in groupby(
                items, key=lambda each: isinstance(each, Character) and each.spelling.isalnum()
            ):
                several = list(run)
                if is_word:
                    yield (several[0].span[0], several[-1].span[1]), "".join(map(spelled, several))

    def pairs(self) -> Iterator[tuple[Node, Node]]:
        """Yield the items of sequences that stand beside each other."""
        for node in self.nodes:
            items = without_asides(node.items) if isinstance(node, Sequence) else ()
            yield from pairwise(items)

    @cached_property
    def options(self) -> frozenset[Span]:
        """Where the options of alternations stand."""
        return frozenset(each.span for node in self.nodes if isinstance(node, Alternation) for each in node.options)

    @cached_property
    def before(self) -> dict[Node, Node]:
        """What stands before an item of a sequence in it."""
        return {other: one for one, other in self.pairs()}

    @cached_property
    def after(self) -> dict[Node, Node]:
        """What stands after an item of a sequence in it."""
        return dict(self.pairs())

    @property
    def facts(self) -> Facts:
        """What is known of its tree."""
        return facts_of(self.parsed)

    @property
    def bare(self) -> str:
        """The expression as something can be put beside it: options in a group."""
        expression = self.case.expression
        return f"(?:{expression})" if isinstance(self.parsed.tree, Alternation) else expression

    @property
    def at(self) -> int:
        """The place in the text where the match stopped."""
        return self.trace.furthest

    @property
    def found(self) -> str:
        """The character that stood there; empty at the end of the text."""
        return self.case.text[self.at : self.at + 1]

    @cached_property
    def characters(self) -> tuple[str, ...]:
        """The different characters of the text, in the order in which they come first."""
        return tuple(dict.fromkeys(self.case.text))

    @property
    def seen(self) -> Span:
        """The stretch of a long text, around where the match stopped, in which words and numbers are looked for."""
        return max(0, self.at - MOST_SEEN), self.at + MOST_SEEN

    @cached_property
    def around(self) -> str:
        """What is seen of the text."""
        return self.case.text[slice(*self.seen)]

    @property
    def nodes(self) -> Sequence_[Node]:
        """Its nodes, of a large expression those around where the match stopped, in the order in which they stand."""
        nodes = self.facts.nodes
        if len(nodes) <= MOST_NODES:
            return nodes
        at = self.spots[0][0] if self.spots else 0
        middle = bisect_left(nodes, at, key=lambda node: node.span[0])
        start = max(0, min(middle - MOST_NODES // 2, len(nodes) - MOST_NODES))
        return nodes[start : start + MOST_NODES]

    def near(self, node: Node) -> float:
        """Tell how far a node is from where the match stopped: 0 at it, up to 1 elsewhere."""
        return self.near_span(node.span)

    def near_span(self, span: Span) -> float:
        """Tell how far a piece of the expression is from where the match stopped, as `near` does."""
        if any(start < span[1] and span[0] < end for start, end in self.spots):
            return 0.0
        if not self.spots:
            return 0.5
        gap = min(min(abs(span[1] - start), abs(span[0] - end)) for start, end in self.spots)
        return min(1.0, 0.25 + gap / 40)

    def splice(self, span: Span, new: str, words: str, cost: float) -> Proposal:
        """Propose to put `new` in the place of a span of the expression."""
        expression = self.case.expression
        changed = expression[: span[0]] + new + expression[span[1] :]
        return Proposal(replace(self.case, expression=changed), words, cost)

    def splice_all(self, places: Iterable[tuple[Span, str]], words: str, cost: float) -> Proposal:
        """Propose to put something in the place of several spans of the expression, of which none lies in another."""
        made = self.case.expression
        for (start, end), new in sorted(places, reverse=True):
            made = made[:start] + new + made[end:]
        return Proposal(replace(self.case, expression=made), words, cost)

    def retext(self, start: int, end: int, new: str, words: str, cost: float) -> Proposal:
        """Propose to put `new` in the place of a stretch of the text."""
        text = self.case.text
        return Proposal(replace(self.case, text=text[:start] + new + text[end:]), words, cost)


def written_alike(nodes: Iterable[Spelled]) -> Iterator[tuple[str, list[Spelled]]]:
    """Yield nodes that are spelled the same, two or more of each, with how they are spelled."""
    found: dict[str, list[Spelled]] = {}
    for node in nodes:
        found.setdefault(spelled(node), []).append(node)
    yield from ((spelling, several) for spelling, several in found.items() if len(several) > 1)


def last_piece(node: Node) -> Node:
    """Return what a piece ends with: of a row, or of a group, the last that stands in it."""
    while isinstance(node, Group) or (isinstance(node, Sequence) and node.items):
        node = node.body if isinstance(node, Group) else node.items[-1]
    return node


def escaped(character: str) -> str:
    """Spell a character so that it means itself outside a class; one that is not seen, by its number."""
    if character in SPECIAL:
        return "\\" + character
    return _unseen(character) or character


def escaped_text(text: str) -> str:
    """Spell a text so that it means itself outside a class."""
    return "".join(map(escaped, text))


def optional_text(text: str) -> str:
    """Spell a text that may be lacking."""
    return f"{escaped(text)}?" if len(text) == 1 else f"(?:{escaped_text(text)})?"


_OPENED = compiled_later(r"(?:\((?:\?P<\w+>|\?:)?)+\Z")


def before_groups(expression: str, place: int) -> str:
    """Return what stands before a place, without groups that open right there."""
    return _OPENED.sub("", expression[:place])


def common_start(values: Sequence_[str]) -> str:
    """Return what all of some texts begin with."""
    least, most = min(values), max(values)
    size = next((at for at, each in enumerate(least) if not most.startswith(each, at)), len(least))
    return least[:size]


def class_spelling(character: str) -> str:
    """Spell a character so that it means itself in a class; a hyphen has to stand last."""
    if character in "]\\^[":
        return "\\" + character
    return _unseen(character) or character


def _unseen(character: str) -> str:
    """Spell a character that is not seen as it stands, such as a tab or a no-break space; empty for any other."""
    return "" if character.isprintable() else character.encode("unicode_escape").decode()


def class_with(inner: str, added: str) -> str:
    """Return a class of what stands in one and something added; a hyphen that stands last stays there.

    What `\\w` takes in is left out beside it, and so are characters of a range beside that.
    """
    hyphen = "-" * (inner.endswith("-") and not inner.endswith("\\-"))
    inner = inner.removesuffix(hyphen)
    if added == r"\w" and not re.search(r"\\[xuUN0-9]", inner):
        inner = _OF_WORDS.sub("", inner)
        if not inner + hyphen:
            return added
    elif re.fullmatch("A-Z|a-z|0-9", added) and "\\" not in inner:
        inner = re.sub(rf"(?<!-)[{added}](?!-)", "", inner)
    return f"[{inner}{added.removesuffix(hyphen)}{hyphen}]"


_OF_WORDS = compiled_later(r"\\d|(?<!\\)[A-Z]-[A-Z]|(?<!\\)[a-z]-[a-z]|(?<!\\)\d-\d|(?<![\\-])[A-Za-z0-9_](?!-)")
"""Members of a class that `\\w` takes too; no ends of ranges of other characters."""


def quantifier(least: int, most: int | None) -> str:
    """Spell a quantifier as short as can be."""
    simple = {(0, None): "*", (1, None): "+", (0, 1): "?", (1, 1): ""}
    if (least, most) in simple:
        return simple[least, most]
    if least == most:
        return f"{{{least}}}"
    return f"{{{least},{'' if most is None else most}}}"


PRINTED = "".join(map(chr, range(0x20, 0x7F))) + "é\u0663"
"""Characters by which the narrower of two classes is told."""


def takes(spelling: str, flags: frozenset[str]) -> Callable[[str], bool]:
    """Return what tells whether a class takes a character; one that cannot be read takes none."""
    if compiled_by_engine(spelling, flags - {"verbose"}) is None:
        return lambda character: False
    return character_test(spelling, flags - {"verbose"})
