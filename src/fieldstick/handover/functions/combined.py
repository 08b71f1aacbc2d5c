"""A pattern made of patterns as a function that asks its members' functions, each in a file of its own."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.errors import UsageError
from fieldstick.handover.functions.task import ORIGIN, is_told, line_of, passed, place_of, words_of
from fieldstick.matching.combination import CombinationMatcher

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from fieldstick.suites.suite import Combination, Sample
    from fieldstick.workspace import Chosen

RESULTS: dict[Combination, str] = {
    "any_of": "what the first member that fits captures, by its name",
    "all_of": "what each member captures, by its name, of a text that all of them fit",
    "none_of": "nothing captured of a text that no member fits",
}
"""What a function returns, by how its members are combined."""


class Member(Struct, frozen=True):
    """A member: its name, what it is called in what is returned, and the words and file of its function.

    `several` tells that it returns a list.
    """

    name: str
    key: str
    words: tuple[str, ...]
    file: str
    several: bool


class CombinedCase(Struct, frozen=True):
    """A sample as a test: its text, and the keys of the members that capture something; None where it must not fit."""

    text: str
    keys: tuple[str, ...] | None
    title: str
    note: str | None


class Combined(Struct, frozen=True):
    """A function to write that asks others."""

    words: tuple[str, ...]
    about: str
    address: str
    how: Combination
    members: tuple[Member, ...]
    cases: tuple[CombinedCase, ...]
    left: tuple[str, ...]

    @property
    def head(self) -> tuple[str, ...]:
        """What the file begins with, line by line."""
        about = (f"{self.about.rstrip('.')}.",) if self.about else ()
        return (*about, ORIGIN.format(self.address), *self.left)

    @property
    def captured(self) -> tuple[Member, ...]:
        """The members of which something is returned."""
        return () if self.how == "none_of" else self.members


def combined(chosen: Chosen, key: Callable[[str], str], files: Sequence[str]) -> Combined:
    """Return the function that a pattern made of patterns is to become; `files` are those of its members' functions.

    Raises UsageError for two members that would be called the same there.
    """
    pattern = chosen.pattern
    assert pattern.combination is not None
    members: list[Member] = []
    for member, file in zip(pattern.members, files, strict=True):
        taken = {each.file for each in members} | {each.key for each in members}
        if file in taken or key(member.name) in taken:
            raise UsageError(f"two members would be called {key(member.name)} there; give one of them another name")
        several = member.combination is None and member.take == "all"
        members.append(Member(member.name, key(member.name), words_of(member.name, "pattern"), file, several))
    left: list[str] = []
    cases = tuple(_case(chosen, members, each) for each in pattern.samples if is_told(each, chosen, left))
    return Combined(
        words_of(pattern.name, "pattern"),
        line_of(pattern.about),
        place_of(chosen),
        pattern.combination,
        tuple(members),
        cases,
        tuple(left),
    )


def _case(chosen: Chosen, members: Sequence[Member], sample: Sample) -> CombinedCase:
    matcher = chosen.matcher
    assert isinstance(matcher, CombinationMatcher)
    keys: tuple[str, ...] | None = None
    if passed(chosen, sample).fits:
        fits = [each.read(sample.text).fits for each in matcher.members]
        keys = tuple(member.key for member, fit in zip(members, fits, strict=True) if fit)
        keys = keys[:1] if chosen.pattern.combination == "any_of" else keys
    note = sample.note and line_of(sample.note)
    return CombinedCase(sample.text, keys, f"{sample.kind} {sample.number}", note)
