"""What an automaton is made of: states, each of which takes a character, chooses, looks about, marks or ends.

A program is one list of states for an expression and all that it looks about for. It is *ordered*: of the choices of
a state the earlier is preferred, as the engine prefers it (Cox, "Regular expression matching: the virtual machine
approach", 2009).
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from msgspec import Struct

from fieldstick.errors import FieldstickError

if TYPE_CHECKING:
    from fieldstick.syntax.characters import CharacterSet
    from fieldstick.syntax.tree import Span

Place = Literal["text-start", "text-end", "line-start", "line-end", "last-line-end", "boundary", "not-boundary"]
"""Where an anchor holds; `line-start` and `line-end` are those of multiline, `last-line-end` is `$` without it."""


class State(Struct, frozen=True):
    """What a thread does next."""


class Take(State, frozen=True):
    """Take one character of a set."""

    characters: CharacterSet
    then: int


class Choice(State, frozen=True):
    """Go on in any of several ways, the first preferred; none means that the way ends here."""

    options: tuple[int, ...]


class Check(State, frozen=True):
    """Go on if the place between two characters is of a kind."""

    place: Place
    ascii_alone: bool
    then: int


class Mark(State, frozen=True):
    """Note the place: slot 2n where group n begins, 2n + 1 where it ends; group 0 is the match."""

    slot: int
    then: int


class Ahead(State, frozen=True):
    """Go on if what follows does, or does not, fit the states that begin at `start`, up to an `Anything`."""

    start: int
    negated: bool
    then: int


class Behind(State, frozen=True):
    """Go on if what stands before does, or does not, fit: look-behind `number` of the program."""

    number: int
    negated: bool
    then: int


class Here(State, frozen=True):
    """The end of what a look-behind asks for."""


class Anything(State, frozen=True):
    """Whatever follows is taken, to the end of the text."""


class Accept(State, frozen=True):
    """The text fits if it ends here."""


class Program(Struct, frozen=True):
    """The states of an expression within its reach.

    `groups` is how many capture groups there are. `behind` has the first state of each look-behind.
    `hidden_group` is the place of a capture group whose text the automaton does not know, for it stands in
    look-around or in a possessive repeat.
    """

    states: tuple[State, ...]
    start: int
    groups: int
    behind: tuple[int, ...] = ()
    hidden_group: Span | None = None


class OutOfReach(FieldstickError):
    """An expression that no automaton of ours holds; `construct` says what stands in the way, `span` where."""

    def __init__(self, construct: str, span: Span | None = None) -> None:
        where = f" (code points {span[0]} to {span[1]})" if span is not None else ""
        super().__init__(f"{construct}{where}")
        self.construct = construct
        self.span = span
