"""The languages that a pattern can become a function of."""

from __future__ import annotations

from typing import TYPE_CHECKING, Protocol

from fieldstick.errors import UsageError
from fieldstick.handover.carrying import member_of
from fieldstick.handover.functions import go, java, javascript, php, python, ruby
from fieldstick.handover.functions.combined import combined
from fieldstick.handover.functions.task import task
from fieldstick.handover.handing import Handed

if TYPE_CHECKING:
    from collections.abc import Mapping

    from fieldstick.handover.functions.combined import Combined
    from fieldstick.handover.functions.task import Task
    from fieldstick.workspace import Chosen


class Language(Protocol):
    """What a language says for itself: its engine, what its types have less of, its names, and how it is written."""

    ENGINE: str
    LIMITS: dict[str, str]

    def quoted(self, expression: str, flags: frozenset[str], /) -> str:
        """Return an expression as the language's own literal."""

    def key(self, name: str, /) -> str:
        """Return what a field is called there."""

    def files(self, words: tuple[str, ...], stem: str | None, /) -> tuple[str, str]:
        """Return the names of the file and of its test."""

    def source(self, task: Task, file: str, /) -> str:
        """Write the function."""

    def test(self, task: Task, file: str, /) -> str:
        """Write the samples as tests."""

    def combination(self, made: Combined, file: str, /) -> str:
        """Write the function of a pattern made of patterns, which asks its members'."""

    def combination_test(self, made: Combined, file: str, /) -> str:
        """Write the samples of a pattern made of patterns as tests."""


FUNCTIONS: Mapping[str, Language] = {
    "python-function": python,
    "javascript-function": javascript,
    "java-function": java,
    "go-function": go,
    "php-function": php,
    "ruby-function": ruby,
}
"""The kinds of functions that a pattern can be handed over as."""


def function(chosen: Chosen, kind: str, stem: str | None = None) -> tuple[str, Handed]:
    """Write a pattern as a function, and its samples as the test that goes beside it; `stem` names their files.

    That of a pattern made of patterns asks its members' functions, which go beside it with their tests. Returns the
    name of the function's file with it. Raises UsageError for what cannot be one.
    """
    language = FUNCTIONS[kind]
    if chosen.pattern.combination is not None:
        return _combination(chosen, kind, stem)
    made = task(chosen, language.quoted, language.key, language.ENGINE, language.LIMITS)
    file, test = language.files(made.words, stem)
    return file, Handed(language.source(made, file), made.left, made.tried, ((test, language.test(made, file)),))


def _combination(chosen: Chosen, kind: str, stem: str | None) -> tuple[str, Handed]:
    language, name = FUNCTIONS[kind], chosen.pattern.name
    beside: list[tuple[str, str]] = []
    left: list[str] = []
    trials: list[str] = []
    files: list[str] = []
    for member in chosen.pattern.members:
        try:
            own, handed = function(member_of(chosen, member), kind)
        except UsageError as error:
            raise type(error)(f"the member {member.name} of {name}: {error}") from None
        files.append(own)
        beside += [(own, handed.text), *handed.beside]
        left += [f"{member.name}: {each}" for each in handed.left]
        trials.append(f"{member.name}: {handed.tried}")
    made = combined(chosen, language.key, files)
    file, test = language.files(made.words, stem)
    beside = [(test, language.combination_test(made, file)), *dict(beside).items()]
    if len({file, *(each for each, _ in beside)}) <= len(beside):
        raise UsageError(f"the function of {name} and that of a member would be one file; name it with --to")
    return file, Handed(language.combination(made, file), (*made.left, *left), "; ".join(trials), tuple(beside))
