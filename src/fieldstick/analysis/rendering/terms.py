"""What an expression asks for, whatever its notation: sets of characters, places, repeats, groups.

Case and flags are resolved: a character that meets others under ignore-case is the set of them all. What stands in the
same place in a source keeps its span, for what cannot be written elsewhere to be named.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from msgspec import Struct
from msgspec.structs import replace

if TYPE_CHECKING:
    from collections.abc import Callable

    from fieldstick.syntax.characters import CharacterSet
    from fieldstick.syntax.tree import Mode

Span = tuple[int, int]
PlaceKind = Literal["text-start", "text-end", "final", "line-start", "line-end", "boundary", "not-boundary"]
"""`final` is the end, or the place before a line feed that ends the text."""


class NotCarried(Exception):
    """The meaning of a piece of an expression cannot be kept: why, and where it stands."""

    def __init__(self, reason: str, span: Span) -> None:
        super().__init__(reason)
        self.reason, self.span = reason, span


class Term(Struct, frozen=True):
    """Something asked for; `span` is where it was written."""

    span: Span


class One(Term, frozen=True):
    """One character out of a set.

    `items` are the sets it was written as, all others when `negated`; `plain` are they before case was let go.
    """

    characters: CharacterSet
    items: tuple[CharacterSet, ...]
    plain: tuple[CharacterSet, ...]
    negated: bool = False


class Place(Term, frozen=True):
    """A place between characters; a boundary stands beside one of `words`.

    `in_nothing` tells that a place beside no boundary is found in the empty text too: engines differ.
    """

    kind: PlaceKind
    words: CharacterSet | None = None
    in_nothing: bool = True


class Row(Term, frozen=True):
    """One after the other."""

    terms: tuple[Term, ...]


class Choice(Term, frozen=True):
    """The first that leads to a match."""

    options: tuple[Term, ...]


class Turns(Term, frozen=True):
    """One repeated."""

    body: Term
    least: int
    most: int | None
    mode: Mode


class Captured(Term, frozen=True):
    """A capture group."""

    body: Term
    number: int
    name: str | None


class Atomic(Term, frozen=True):
    """One that gives nothing back."""

    body: Term


class Around(Term, frozen=True):
    """What follows or stands before, not taken."""

    body: Term
    ahead: bool
    negated: bool


class Again(Term, frozen=True):
    """What a group captured, once more; without regard to case when `folded`."""

    number: int
    folded: bool


class Depending(Term, frozen=True):
    """One of two, as a group took part or not."""

    number: int
    then: Term
    otherwise: Term


def inside(term: Term) -> tuple[Term, ...]:
    """Return the terms directly inside one."""
    match term:
        case Row():
            return term.terms
        case Choice():
            return term.options
        case Turns() | Captured() | Atomic() | Around():
            return (term.body,)
        case Depending():
            return (term.then, term.otherwise)
    return ()


def every(term: Term) -> list[Term]:
    """Return a term and all inside it."""
    found = [term]
    for each in found:
        found += inside(each)
    return found


MOST_COPIES = 16
"""Turns up to which a counted repeat is written as so many copies."""


def changed(term: Term, change: Callable[[Term], Term]) -> Term:
    """Return a term with each of those directly inside it changed."""
    match term:
        case Row():
            return Row(term.span, tuple(map(change, term.terms)))
        case Choice():
            return Choice(term.span, tuple(map(change, term.options)))
        case Turns() | Captured() | Atomic() | Around():
            return replace(term, body=change(term.body))
        case Depending():
            return replace(term, then=change(term.then), otherwise=change(term.otherwise))
    return term


def without_names(term: Term) -> Term:
    """Return a term whose groups have no names."""
    inner = changed(term, without_names)
    return replace(inner, name=None) if isinstance(inner, Captured) else inner


def without_nested_counts(term: Term, *, repeated: bool = False) -> Term:
    """Return a term that takes the same texts, in which no counted repeat of few turns stands in another repeat or in
    an option, or repeats what may be empty.
    """
    below = repeated or isinstance(term, Choice) or (isinstance(term, Turns) and (term.least, term.most) != (1, 1))
    inner = changed(term, lambda each: without_nested_counts(each, repeated=below))
    short = isinstance(inner, Turns) and (inner.most or inner.least) <= MOST_COPIES
    mixed = repeated or (isinstance(inner, Turns) and may_be_empty(inner.body))
    return _copies(inner) if mixed and isinstance(inner, Turns) and short else inner


def with_options_ended(term: Term) -> Term:
    """Return a term that takes the same texts, in which no option ends with a loop over more than a character: an empty
    group stands behind it.
    """
    inner = changed(term, with_options_ended)
    if not isinstance(inner, Choice) or len(inner.options) < 2:
        return inner
    nothing = Choice(inner.span, (Row(inner.span, ()),))
    return replace(
        inner,
        options=tuple(Row(each.span, (each, nothing)) if _ends_in_loop(each) else each for each in inner.options),
    )


def _ends_in_loop(term: Term) -> bool:
    match term:
        case Turns():
            return (term.most is None and not isinstance(term.body, One)) or _ends_in_loop(term.body)
        case Row():
            return bool(term.terms) and _ends_in_loop(term.terms[-1])
        case Choice():
            return any(map(_ends_in_loop, term.options))
        case Captured() | Atomic():
            return _ends_in_loop(term.body)
    return False


def _copies(turns: Turns) -> Term:
    if turns.most is None:
        rest: Term = Turns(turns.span, turns.body, 0, None, turns.mode)
        return Row(turns.span, (*(turns.body,) * turns.least, rest)) if turns.least > 1 else turns
    rest = Row(turns.span, ())
    for _ in range(turns.most - turns.least):
        rest = Turns(turns.span, Row(turns.span, (turns.body, rest)), 0, 1, turns.mode)
    return Row(turns.span, (*(turns.body,) * turns.least, rest))


def may_be_empty(term: Term) -> bool:
    """Tell whether a term may take nothing."""
    match term:
        case One():
            return False
        case Row():
            return all(map(may_be_empty, term.terms))
        case Choice():
            return any(map(may_be_empty, term.options))
        case Turns():
            return term.least == 0 or may_be_empty(term.body)
        case Captured() | Atomic():
            return may_be_empty(term.body)
        case Depending():
            return may_be_empty(term.then) or may_be_empty(term.otherwise)
    return True


def surely_set(term: Term) -> frozenset[int]:
    """Return the groups that took part whenever a term was matched."""
    match term:
        case Row():
            return frozenset[int]().union(*map(surely_set, term.terms))
        case Choice():
            sets = [surely_set(each) for each in term.options]
            return sets[0].intersection(*sets[1:])
        case Turns():
            return surely_set(term.body) if term.least else frozenset()
        case Captured():
            return surely_set(term.body) | {term.number}
        case Atomic():
            return surely_set(term.body)
        case Around():
            return surely_set(term.body) if not term.negated else frozenset()
        case Depending():
            return surely_set(term.then) & surely_set(term.otherwise)
    return frozenset()


def left_out(turns: Turns) -> frozenset[int]:
    """Return the groups that a turn may leave out, so that they are an earlier one's, or nobody's."""
    return groups_in(turns.body) - surely_set(turns.body) if turns.most != 1 else frozenset()


def groups_in(term: Term) -> frozenset[int]:
    """Return the groups that stand in a term."""
    return frozenset(each.number for each in every(term) if isinstance(each, Captured))
