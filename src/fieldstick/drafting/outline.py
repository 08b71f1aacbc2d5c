"""Explains an expression: an outline in plain words, each line tied to the piece of source it speaks of."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from msgspec import Struct
from msgspec.structs import replace

from fieldstick.drafting.phrases import phrase, quantity
from fieldstick.drafting.written import Written
from fieldstick.lean import compiled_later
from fieldstick.syntax.parser import FLAG_NAMES, parse, scoped
from fieldstick.syntax.tree import (
    SINGLE,
    Alternation,
    Anchor,
    Aside,
    Backreference,
    Character,
    Conditional,
    FlagSetting,
    Group,
    Look,
    Node,
    Repeat,
    Sequence,
    Shorthand,
    children,
    literal_of,
    spelled,
)
from fieldstick.syntax.widths import width

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping

    from fieldstick.syntax.parser import Parsed
    from fieldstick.syntax.tree import Span


class OutlineLine(Struct, frozen=True):
    """One line: how deep it stands, the piece of source with its place, and what it asks for.

    `part` names the part that the piece was filled in from, when it is one.
    """

    depth: int
    source: str
    span: Span
    words: str
    part: str | None = None


class Outline(Struct, frozen=True):
    """The explanation of an expression: lines, and the fewest and most code points it can take.

    `gives_back` tells that a repeat takes as many as it can and may have to give some back for what follows.
    """

    lines: tuple[OutlineLine, ...]
    shortest: int
    longest: int | None
    gives_back: bool = False


def outline(parsed: Parsed, parts: Mapping[Span, str] | None = None) -> Outline:
    """Explain a parsed expression; `parts` names the spans that parts were filled in at."""
    work = _Work(parsed.expression, parts or {})
    lines = tuple(_lines(work, parsed.tree, 0, parsed.flags))
    shortest, longest = width(parsed.tree, parsed.widths)
    return Outline(lines, shortest, longest, _gives_back(parsed))


def _gives_back(parsed: Parsed) -> bool:
    """Tell whether a greedy repeat, outside what gives nothing back, is followed by something that is asked for."""
    open_ended = False
    for node, held in _below(parsed.tree):
        if open_ended and isinstance(node, SINGLE | Backreference | Anchor | Look):
            return True
        if isinstance(node, Repeat) and node.mode == "greedy" and node.least != node.most and not held:
            open_ended = True
    return False


def _below(tree: Node) -> Iterator[tuple[Node, bool]]:
    """Yield nodes in order, each with whether it stands in what gives nothing back; what repeats comes last."""
    waiting: list[tuple[Node, bool, bool]] = [(tree, False, False)]
    while waiting:
        node, held, seen = waiting.pop()
        if seen or not children(node):
            yield node, held
            continue
        atomic = (isinstance(node, Group) and node.kind == "atomic") or (
            isinstance(node, Repeat) and node.mode == "possessive"
        )
        waiting.append((node, held, True))
        waiting += [(child, held or atomic, False) for child in reversed(children(node))]


class _Work(Written):
    """The expression as it was filled in, and as the writer wrote it."""

    def line(self, node: Node, depth: int, words: str, span: Span | None = None) -> OutlineLine:
        start, end = span or node.span
        part = self.parts.get(node.span)
        source = f"{{{{{part}}}}}" if part else self.piece(start, end)
        return OutlineLine(depth, source, (start, end), words, part)


def _lines(work: _Work, node: Node, depth: int, flags: frozenset[str]) -> Iterator[OutlineLine]:
    if isinstance(node, Sequence):
        yield from _sequence(work, node, depth, flags)
    elif isinstance(node, Alternation):
        yield from _alternation(work, node, depth, flags)
    elif isinstance(node, Group):
        yield from _group(work, node, depth, flags, "")
    elif isinstance(node, Repeat):
        yield from _repeat(work, node, depth, flags)
    elif isinstance(node, Look):
        yield work.line(node, depth, f"{'only if ' if not node.negated else 'only if not '}{_look(node)}")
        yield from _lines(work, node.body, depth + 1, flags)
    elif isinstance(node, Conditional):
        yield from _conditional(work, node, depth, flags)
    elif isinstance(node, FlagSetting):
        names = ", ".join(FLAG_NAMES.get(letter, "Unicode") for letter in node.flags)
        yield work.line(node, depth, f"for the whole expression: {names}")
    elif isinstance(node, Aside):
        if node.kind == "comment":
            yield work.line(node, depth, "a comment")
    else:
        yield work.line(node, depth, phrase(node, flags) + _told_apart(work, node))


def _told_apart(work: _Work, node: Node) -> str:
    """Point a negated shorthand out where its counterpart stands in the same expression: `\\D` beside `\\d`."""
    if isinstance(node, Shorthand) and node.negated and node.spelling.lower() in work.expression:
        return f" ({node.spelling}, not {node.spelling.lower()})"
    return ""


def _look(node: Look) -> str:
    return "this follows:" if node.ahead else "this stands before:"


def _sequence(work: _Work, node: Sequence, depth: int, flags: frozenset[str]) -> Iterator[OutlineLine]:
    if not node.items:
        yield work.line(node, depth, "nothing")
    for run in _runs(node.items):
        span = (run[0].span[0], run[-1].span[1])
        if len(run) == 1:
            yield from _lines(work, run[0], depth, flags)
        elif isinstance(run[0], Character):
            literal = Sequence(span, tuple(run))
            yield work.line(run[0], depth, phrase(literal, flags), span)
        else:
            yield work.line(run[0], depth, f"{phrase(run[0], flags)}, {quantity(len(run), len(run))}", span)


def _runs(items: tuple[Node, ...]) -> Iterator[list[Node]]:
    """Put literal characters that follow each other together, and pieces that are the same."""
    run: list[Node] = []
    for item in items:
        if isinstance(item, Aside) and item.kind == "blank":
            continue
        if run and not _goes_on(run[-1], item):
            yield run
            run = []
        run.append(item)
    if run:
        yield run


def _goes_on(one: Node, other: Node) -> bool:
    if isinstance(one, Character) and isinstance(other, Character):
        return True
    alike = isinstance(one, SINGLE) and isinstance(other, SINGLE) and type(one) is type(other)
    return alike and spelled(one) == spelled(other) and one.span[1] == other.span[0]


def _alternation(
    work: _Work, node: Alternation, depth: int, flags: frozenset[str], suffix: str = ""
) -> Iterator[OutlineLine]:
    literals = [literal_of(option) for option in node.options]
    if all(literals):
        words = phrase(node, flags)
        yield work.line(node, depth, f"{words}{suffix}{_first_that(suffix)}")
        return
    yield work.line(node, depth, f"one of {len(node.options)} options{suffix}{_first_that(suffix)}:")
    for option in node.options:
        lines = list(_lines(work, option, depth + 1, flags))
        if len(lines) == 1:
            yield lines[0]
        else:
            yield OutlineLine(depth + 1, work.piece(*option.span), option.span, "option:")
            yield from (replace(line, depth=line.depth + 1) for line in lines)


def _first_that(suffix: str) -> str:
    return f"{';' if suffix else ','} the first that leads to a match"


def _group(work: _Work, node: Group, depth: int, flags: frozenset[str], suffix: str) -> Iterator[OutlineLine]:
    inside = scoped(flags, node)
    head = _group_head(work, node)
    if isinstance(node.body, Alternation) and node.span not in work.parts:
        first, *rest = _alternation(work, node.body, depth + 1, inside, suffix)
        yield work.line(node, depth, f"{head}{': ' if head else ''}{first.words}")
        yield from (replace(line, depth=line.depth - 1) for line in rest)
        return
    inner = list(_lines(work, node.body, depth + 1, inside))
    if len(inner) == 1 and node.span not in work.parts:
        whole = suffix.replace(", ", ", all of it ", 1) if ", " in inner[0].words and suffix else suffix
        yield work.line(node, depth, f"{head}{': ' if head else ''}{inner[0].words}{whole}")
        return
    yield work.line(node, depth, f"{head or 'together'}{suffix}:")
    yield from inner


def _group_head(work: _Work, node: Group) -> str:
    if node.span in work.parts:
        return "this part"
    if node.kind == "capture":
        return f"group {node.number} '{node.name}'" if node.name else f"group {node.number}"
    if node.kind == "atomic":
        return "giving nothing back once matched"
    if node.kind == "flags":
        on = [f"{FLAG_NAMES.get(letter, 'Unicode')} on" for letter in node.on]
        off = [f"{FLAG_NAMES.get(letter, 'Unicode')} off" for letter in node.off]
        return f"with {', '.join(on + off)}"
    return ""


def _repeat(work: _Work, node: Repeat, depth: int, flags: frozenset[str]) -> Iterator[OutlineLine]:
    suffix = f", {quantity(node.least, node.most)}{_read_options(node)}"
    if isinstance(node.item, Group):
        lines = list(_group(work, node.item, depth, flags, suffix))
        source = lines[0].source + node.quantifier if lines[0].part else work.piece(*node.span)
        yield replace(lines[0], source=source, span=node.span)
        yield from lines[1:]
        return
    inner = list(_lines(work, node.item, depth + 1, flags))
    if len(inner) == 1:
        yield work.line(node, depth, inner[0].words + suffix)
        return
    yield work.line(node, depth, f"this{suffix}:")
    yield from inner


def _read_options(node: Repeat) -> str:
    if node.least == node.most:
        return ""
    return {
        "greedy": "",
        "lazy": "; takes as few as it can, then more",
        "possessive": "; takes as many as it can and gives none back",
    }[node.mode]


def _conditional(work: _Work, node: Conditional, depth: int, flags: frozenset[str]) -> Iterator[OutlineLine]:
    name = f"group {node.number} '{node.name}'" if node.name else f"group {node.number}"
    yield work.line(node, depth, f"if {name} took part:")
    yield from _lines(work, node.then, depth + 1, flags)
    if node.otherwise is not None:
        yield OutlineLine(depth, work.piece(*node.otherwise.span), node.otherwise.span, "otherwise:")
        yield from _lines(work, node.otherwise, depth + 1, flags)


def outline_as_written(expression: str, flags: frozenset[str] = frozenset()) -> list[OutlineLine]:
    """Return the outline of an expression before parts are filled in: a part is one piece, and is told by its name.

    Raises SyntaxFault for one that cannot be read.
    """
    names: list[str] = []

    def stand_in(found: re.Match[str]) -> str:
        names.append(found[1])
        # A class of so many characters as the part's name takes, each part's its own.
        return f"[{chr(_FIRST + len(names)) * (len(found[0]) - 2)}]"

    lines = outline(parse(_PARTS.sub(stand_in, expression), flags)).lines
    made = []
    for each in lines:
        words = each.words
        for number, name in enumerate(names, 1):
            code = f"U\\+{_FIRST + number:04X}"
            listed = rf"one of {code}(?:(?:, | or ){code})*(?: or \d+ others)?"
            words = re.sub(f"{listed}|{code}", f"the part '{name}'", words)
        made.append(replace(each, source=expression[slice(*each.span)], words=words))
    return made


_PARTS = compiled_later(r"\{\{(=?[^\W\d_][\w.-]*)\}\}")
_FIRST = 0xE000
"""Characters of private use, that stand for parts."""
