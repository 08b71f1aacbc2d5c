"""Fills the parts and parameters of an expression in, and remembers which piece came from where."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from msgspec import Struct, field

from fieldstick.errors import hint
from fieldstick.syntax.scan import scan, starts_verbose

if TYPE_CHECKING:
    from collections.abc import Mapping

    from fieldstick.syntax.scan import Use

DEEPEST_PARTS = 50
LONGEST_FILLED = 100_000
MOST_PIECES = 20_000
"""Parts in one another, code points of an expression with its parts filled in, and pieces that it is made of.

Far more than anybody reads; what goes beyond is a part that doubles again and again.
"""

OWN = ""
"""The source of text that stands in the expression itself."""


class Piece(Struct, frozen=True):
    """A stretch of filled-in text: what it reads, which part it came from, and where it stands there.

    `parameter` names the parameter whose value goes here; the text is then empty until it is filled in.
    `offset` is a code-point offset into the source; None for text that Fieldstick put around a part.
    """

    text: str
    source: str
    offset: int | None
    parameter: str | None = None
    in_class: bool = False


class Origin(Struct, frozen=True):
    """Where a place in a filled-in expression comes from: a part's name (or OWN) and an offset in it."""

    source: str
    offset: int


class Filling(Struct, frozen=True):
    """An expression with its parts filled in."""

    expression: str
    pieces: tuple[Piece, ...]
    part_texts: Mapping[str, str] = field(default_factory=dict)

    @property
    def parameters(self) -> frozenset[str]:
        """The parameters it uses."""
        return frozenset(piece.parameter for piece in self.pieces if piece.parameter is not None)

    def source_text(self, part: str | None) -> str | None:
        """Return the text of a part that it uses, or the expression as written for None."""
        return self.expression if part is None else self.part_texts.get(part)

    def text(self, values: Mapping[str, str]) -> str:
        """Return the expression for the engine, each parameter's value escaped to stand for itself."""
        return "".join(_piece_text(piece, values) for piece in self.pieces)

    def part_spans(self, values: Mapping[str, str]) -> dict[tuple[int, int], str]:
        """Return where in `text(values)` each part stands, as spans of the groups put around them."""
        found: dict[tuple[int, int], str] = {}
        opened: list[tuple[int, str]] = []
        at = 0
        for piece in self.pieces:
            length = len(_piece_text(piece, values))
            if piece.offset is None and piece.text == "(?:":
                opened.append((at, piece.source))
            elif piece.offset is None:
                start, source = opened.pop()
                found[start, at + length] = source
            at += length
        return found

    def origin(self, position: int, values: Mapping[str, str]) -> Origin:
        """Tell where the character at `position` of `text(values)` comes from."""
        at = 0
        last = Origin(OWN, 0)
        for piece in self.pieces:
            length = len(_piece_text(piece, values))
            if piece.offset is not None:
                inside = position - at if piece.parameter is None else 0
                last = Origin(piece.source, piece.offset + max(0, min(inside, length)))
                if at <= position < at + length:
                    return last
            at += length
        return last


class PartFault(Struct, frozen=True):
    """A part or parameter that cannot be filled in; `words` say why and what would do.

    `source` is the text in which the fault stands: a part's name, or OWN. `circle` holds the parts of a
    cycle. `alias` is the name of a borrowed suite that is not there. `limit` tells that there is too much to fill in.
    """

    source: str
    words: str
    circle: frozenset[str] | None = None
    alias: str | None = None
    limit: bool = False


class PartError(Exception):
    """An expression whose parts cannot be filled in; `faults` are all that is wrong."""

    def __init__(self, faults: tuple[PartFault, ...]) -> None:
        self.faults = faults
        super().__init__("; ".join(fault.words for fault in faults))


class PartScope(Struct, frozen=True):
    """The parts a file has and the scopes it borrows from, under the names it gives them."""

    name: str
    parts: Mapping[str, str]
    borrowed: Mapping[str, PartScope]


def fill(expression: str, scope: PartScope, *, verbose: bool = False) -> Filling:
    """Fill the parts of `expression` in, each as one unit.

    Raises PartError for parts that are missing, cycles of parts, and two braces that open neither a part
    nor a parameter.
    """
    if "{{" not in expression:
        return Filling(expression, (Piece(expression, OWN, 0),))
    work = _Work(verbose or starts_verbose(expression))
    pieces = tuple(_pieces(expression, OWN, scope, (), work))
    if work.too_much is not None:
        raise PartError((PartFault(OWN, work.too_much, limit=True),))
    if work.faults:
        raise PartError(tuple(work.faults))
    return Filling(expression, pieces, work.texts)


def fill_plain(expression: str) -> Filling:
    """Return an expression in which nothing is to be filled in, whatever braces it has."""
    return Filling(expression, (Piece(expression, OWN, 0),))


Trail = tuple[tuple[int, str], ...]
"""The parts being filled in, from the outermost on, each with the scope it belongs to."""


class _Work(Struct):
    """What is gathered on the way: the texts of the parts used, and what is wrong."""

    verbose: bool
    texts: dict[str, str] = field(default_factory=dict)
    faults: list[PartFault] = field(default_factory=list)
    length: int = 0
    count: int = 0
    too_much: str | None = None

    def grow(self, text: str, depth: int) -> bool:
        """Count what is filled in, and tell whether more may be."""
        self.length += len(text)
        self.count += 1
        if depth > DEEPEST_PARTS:
            self.too_much = f"parts stand in one another more than {DEEPEST_PARTS} deep"
        elif self.length > LONGEST_FILLED or self.count > MOST_PIECES:
            self.too_much = (
                f"with its parts filled in the expression has more than {LONGEST_FILLED:,} characters, "
                f"or {MOST_PIECES:,} pieces; is there a part that uses another one twice, and that again?"
            )
        return self.too_much is None


def _pieces(text: str, source: str, scope: PartScope, trail: Trail, work: _Work) -> list[Piece]:
    pieces: list[Piece] = []
    position = 0
    for use in scan(text, verbose=work.verbose).uses:
        if not work.grow(text[position : use.start], len(trail)):
            return pieces
        if use.start > position:
            pieces.append(Piece(text[position : use.start], source, position))
        if not use.name:
            work.faults.append(PartFault(source, _not_a_use(text[use.start : use.start + 12])))
        elif use.parameter:
            pieces.append(Piece("", source, use.start, use.name, use.in_class))
        else:
            pieces += _part(use, source, scope, trail, work)
        position = use.end
    if position < len(text):
        pieces.append(Piece(text[position:], source, position))
    return pieces


def _not_a_use(shown: str) -> str:
    return (
        f"'{shown}' opens neither a part like {{{{name}}}} nor a parameter like {{{{=name}}}}; "
        r"write \{\{ for two literal braces"
    )


def _part(use: Use, source: str, scope: PartScope, trail: Trail, work: _Work) -> list[Piece]:
    found = _resolve(use.name, source, scope)
    if isinstance(found, PartFault):
        work.faults.append(found)
        return []
    owner, name = found
    step = (id(owner.parts), name)
    if step in trail:
        cycle = [each[1] for each in trail[trail.index(step) :]] + [name]
        words = f"parts go round in a circle: {' → '.join(cycle)}"
        work.faults.append(PartFault(source, words, circle=frozenset(cycle)))
        return []
    prefix = source.rpartition(".")[0]
    label = f"{prefix}.{use.name}" if prefix else use.name
    work.texts[label] = owner.parts[name]
    inner = _pieces(owner.parts[name], label, owner, (*trail, step), work)
    if use.in_class:
        return inner
    closing = "\n)" if work.verbose else ")"
    return [Piece("(?:", label, None), *inner, Piece(closing, label, None)]


def _resolve(name: str, source: str, scope: PartScope) -> tuple[PartScope, str] | PartFault:
    alias, owner = "", scope
    if "." in name:
        alias, _, name = name.partition(".")
        if alias not in scope.borrowed:
            words = f"nothing is borrowed as '{alias}'{hint(alias, scope.borrowed)}"
            return PartFault(source, words, alias=alias)
        owner = scope.borrowed[alias]
    if name not in owner.parts:
        where = f" in the suite borrowed as '{alias}'" if alias else ""
        return PartFault(source, f"there is no part '{name}'{where}{hint(name, owner.parts)}")
    return owner, name


def _piece_text(piece: Piece, values: Mapping[str, str]) -> str:
    if piece.parameter is None:
        return piece.text
    value = re.escape(values[piece.parameter])
    return value if piece.in_class else f"(?:{value})"
