"""What a binding is made to offer, and what several need: ways to ask for a whole match, names of groups."""

from __future__ import annotations

from itertools import islice
from typing import TYPE_CHECKING, Any, Protocol

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Iterator, Sequence

    from fieldstick.engines.places import Unit

Spans = list[tuple[int, int]]
"""The span of the whole match, then one for each group, (-1, -1) for one that took no part."""


class Refused(Exception):
    """The engine does not take an expression: its own words, and the offset in its unit, -1 for none."""

    def __init__(self, rule: str, offset: int = -1) -> None:
        super().__init__(rule)
        self.rule, self.offset = rule, offset


class Expression(Protocol):
    """An expression that the engine took. `names` has one for each group, empty for one without."""

    names: Sequence[str]

    def matches(self, text: str, reach: str, wanted: int | None) -> Iterable[Spans]:
        """Return the matches in order, each the span of the whole and of every group, in the engine's unit."""


class Adapter(Protocol):
    """A binding: `version` as it says it itself, `unit` what its offsets count."""

    version: str
    unit: Unit

    def compile(self, expression: str, flags: frozenset[str]) -> Expression:
        """Compile an expression with flags by their letters. Raises Refused."""


class LikePython:
    """An expression whose binding has the methods of Python's own; see `Expression`."""

    def __init__(self, compiled: Any) -> None:
        self._compiled = compiled
        names = {number: name for name, number in compiled.groupindex.items()}
        self.names = [names.get(number, "") for number in range(1, compiled.groups + 1)]

    def matches(self, text: str, reach: str, wanted: int | None) -> Iterable[Spans]:
        """See `Expression`."""
        if reach == "anywhere":
            # None is kept longer than its places are read: some hold much memory.
            return [self._spans_of(each) for each in islice(self._each(text), wanted)]
        one = self._compiled.fullmatch(text) if reach == "whole" else self._compiled.match(text)
        return [self._spans_of(one)] if one else []

    def _each(self, text: str) -> Iterable[Any]:
        """Return what the binding finds anywhere in a text, in order."""
        return self._compiled.finditer(text)  # type: ignore[no-any-return]

    def _spans_of(self, found: Any) -> Spans:
        return [found.span(group) for group in range(len(self.names) + 1)]


def enclosed(expression: str, compile_it: Callable[[str], Any], before: str = r"\A", after: str = r"\z") -> Any:
    """Return what an engine makes of an expression between anchors; a comment that ends it is ended first."""
    try:
        return compile_it(f"{before}(?:{expression}){after}")
    except Exception:
        return compile_it(f"{before}(?:{expression}\n){after}")


def in_turn(search: Callable[[int], Spans | None], text: bytes) -> Iterator[Spans]:
    """Yield the matches that a search from an offset in bytes on finds, none overlapping; an empty one is stepped over.

    For bindings that have no way of their own to go on.
    """
    at = 0
    while at <= len(text) and (found := search(at)) is not None:
        yield found
        start, at = found[0]
        if start == at:
            at += 1
            while at < len(text) and text[at] & 0xC0 == 0x80:
                at += 1
