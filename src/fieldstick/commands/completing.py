"""Completion in the shell: commands and options, and the names that suites below the current folder have.

Click asks and answers; what stands here tells it what a parameter takes, by its metavar, and knows that an address
holds a colon, at which bash parts words.
"""

from __future__ import annotations

import os
import re
import shlex
from typing import TYPE_CHECKING, Any

from click.shell_completion import BashComplete, CompletionItem, add_completion_class

from fieldstick.lean import compiled_later
from fieldstick.suites.fieldtypes import TYPES
from fieldstick.suites.finding import split_address
from fieldstick.suites.names import names_below

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator

    import click

VARIABLE = "_FIELDSTICK_COMPLETE"
"""The variable of the environment in which a shell asks for completions."""

_ADDRESS = compiled_later(r"SUITE:(PATTERN|REWRITE|SPLIT|ROUTE|LOOKUP|FORM)\b")
_FILES = compiled_later(r"\b(SOURCE|FILE|PATH|DATABASE|OLD|NEW)\b")

_BASH = """\
_fieldstick_completion() {
    local IFS=$'\\n' response kind value
    COMPREPLY=()
    response=$(COMP_LINE="$COMP_LINE" COMP_POINT="$COMP_POINT" COMP_WORDBREAKS="$COMP_WORDBREAKS" \\
        _FIELDSTICK_COMPLETE=bash_complete "$1")
    while IFS=, read -r kind value; do
        case $kind in
            file) compopt -o default ;;
            plain) COMPREPLY+=("$value") ;;
        esac
    done <<< "$response"
}
complete -o nosort -F _fieldstick_completion fieldstick
"""


class ColonBashComplete(BashComplete):
    """Completion for bash that takes its words from the line itself: bash parts addresses at their colon."""

    source_template = _BASH

    def source(self) -> str:
        """Return the script that a shell reads."""
        return self.source_template

    def get_completion_args(self) -> tuple[list[str], str]:
        """Return the words before the one that is typed, and what there is of that."""
        words, last = _words(os.environ["COMP_LINE"][: int(os.environ["COMP_POINT"])])
        self._typed = last
        return words[1:], last

    def format_completion(self, item: CompletionItem) -> str:
        """Return an answer: of a word that bash has parted, what comes after the last colon."""
        value = str(item.value)
        if ":" in os.environ.get("COMP_WORDBREAKS", ":"):
            value = value.removeprefix(self._typed[: self._typed.rfind(":") + 1])
        return f"{item.type},{value}"


def _words(line: str) -> tuple[list[str], str]:
    """Split a line as a shell does: the words that are ended, and the beginning of the last one."""
    lexer = shlex.shlex(line, posix=True, punctuation_chars=False)
    lexer.whitespace_split, lexer.commenters = True, ""
    words: list[str] = []
    try:
        while (word := lexer.get_token()) is not None:
            words.append(word)
    except ValueError:
        # A quote is still open: what stands behind it is the word that is typed.
        words = [*words, lexer.token]
        return words[:-1], words[-1]
    if not line or line[-1].isspace():
        return words, ""
    return words[:-1], words[-1] if words else ""


add_completion_class(ColonBashComplete, "bash")


def add_completions(command: click.Command) -> None:
    """Tell each parameter of a command what it takes, by its metavar."""
    for parameter in command.params:
        metavar = parameter.metavar or ""
        if "SUITE" in metavar or _FILES.search(metavar) or metavar in ("NAME=TYPE", "NAME=VALUE"):
            parameter._custom_shell_complete = _answers


def _answers(context: click.Context, parameter: click.Parameter, typed: str) -> list[CompletionItem]:
    metavar = (parameter.metavar or "").replace("SUITE[:", "SUITE SUITE:")
    if metavar == "NAME=TYPE":
        return _as_items(_typed_fields(context, typed), typed)
    if metavar == "NAME=VALUE":
        return _as_items((f"{name}=" for name in _of_pattern(context, "parameters")), typed)
    sections = [f"{found.lower()}s" for found in _ADDRESS.findall(metavar)]
    found = list(_addresses(sections)) if sections else []
    if re.search(r"SUITE(?!:)", metavar) or parameter.name == "only":
        found += [names.suite for names in names_below()]
    items = _as_items(found, typed)
    if _FILES.search(metavar) and not any(":" in item.value for item in items if typed):
        items.append(CompletionItem(typed, type="file"))
    return items


def _as_items(names: Iterable[str], typed: str) -> list[CompletionItem]:
    return [CompletionItem(name) for name in dict.fromkeys(names) if name.startswith(typed)]


def _addresses(sections: list[str]) -> Iterator[str]:
    for names in names_below():
        for section in sections:
            for name in names.sections.get(section, ()):
                yield f"{names.suite}:{name}"


def _typed_fields(context: click.Context, typed: str) -> Iterator[str]:
    name, equals, _ = typed.partition("=")
    if equals:
        yield from (f"{name}={each}" for each in TYPES)
    else:
        yield from (f"{field}=" for field in _of_pattern(context, "fields"))


def _of_pattern(context: click.Context, what: str) -> Iterator[str]:
    """Yield the fields, or parameters, of the patterns that were named before, of all where none was."""
    named = [split_address(each) for each in _texts([*context.params.values(), context.args]) if ":" in each]
    for names in names_below():
        by_pattern: dict[str, list[str]] = getattr(names, what)
        for pattern, found in by_pattern.items():
            if not named or (names.suite, pattern) in named:
                yield from found


def _texts(values: Iterable[Any]) -> Iterator[str]:
    for value in values:
        if isinstance(value, str):
            yield value
        elif isinstance(value, (list, tuple)):
            yield from _texts(value)
