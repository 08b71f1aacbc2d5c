"""The languages that a pattern can become a function of."""

from __future__ import annotations

from typing import TYPE_CHECKING, Protocol

from fieldstick.handover.functions import go, java, javascript, php, python, ruby
from fieldstick.handover.functions.task import task
from fieldstick.handover.handing import Handed

if TYPE_CHECKING:
    from collections.abc import Mapping

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

    Returns the name of the function's file with it. Raises UsageError for what cannot be one.
    """
    language = FUNCTIONS[kind]
    made = task(chosen, language.quoted, language.key, language.ENGINE, language.LIMITS)
    file, test = language.files(made.words, stem)
    return file, Handed(language.source(made, file), made.left, made.tried, ((test, language.test(made, file)),))
