"""`why`: why a text fits or does not, and what would change that."""

from __future__ import annotations

import sys
from typing import TYPE_CHECKING

import click

from fieldstick.commands.drafts import Draft, draft_options, format_option, resolve
from fieldstick.commands.printing import print_json
from fieldstick.drafting.brief import breaks_of
from fieldstick.drafting.context import MatchCase
from fieldstick.drafting.diagnosis import Diagnosis, diagnose
from fieldstick.errors import EXIT_PASSED, UsageError
from fieldstick.reporting.as_diagnosis import diagnosis_as_data, diagnosis_as_text
from fieldstick.reporting.marks import group_marks, marks_of
from fieldstick.reporting.ruler import Mark, Segment
from fieldstick.reporting.terminal import Terminal
from fieldstick.syntax.parser import parse

if TYPE_CHECKING:
    from fieldstick.matching.result import Result


@click.command(short_help="Say why a text fits or does not, and what would change that.")
@click.argument("arguments", nargs=-1, metavar="[SUITE:PATTERN] TEXT")
@click.option("-e", "expression", metavar="EXPRESSION", help="An expression in place of a pattern.")
@draft_options
@format_option
def command(
    arguments: tuple[str, ...],
    expression: str | None,
    reach: str | None,
    flags: tuple[str, ...],
    suite_file: str | None,
    values: tuple[str, ...],
    form: str,
) -> int:
    """Say why TEXT fits a pattern or does not: how far the match came, what was asked for there, what stood there.

    Then come the smallest changes that would make it fit, or for a text that fits, keep it out; each was tried with
    the engine. TEXT may be - for standard input.
    """
    given, text = _arguments(arguments, expression)
    draft = resolve(given, expression, reach=reach, flags=flags, suite_file=suite_file, values=values)
    if given is not None and draft.pattern is None:
        raise UsageError(f"there is no pattern '{given}' here; give an expression with -e")
    reading = _read(draft, text, values)
    draft = _deciding(draft, reading)
    found = diagnose(
        MatchCase(draft.expression, draft.flags, draft.reach, text),
        breaks_of(draft.pattern, text) if draft.pattern else None,
    )
    words, field = _more(reading, found)
    if form == "json":
        print_json(diagnosis_as_data(found, words, field))
        return EXIT_PASSED
    terminal = Terminal.of()
    if reading is not None and reading.member is not None:
        terminal.write([(Segment(f"  the member '{reading.member}' decides", "quiet"),)])
    marks = _marks(found, reading, terminal)
    terminal.write(diagnosis_as_text(found, marks, words, terminal.width, terminal.charset))
    return EXIT_PASSED


def _arguments(arguments: tuple[str, ...], expression: str | None) -> tuple[str | None, str]:
    wanted = 1 if expression is not None else 2
    if len(arguments) != wanted:
        shape = "-e EXPRESSION TEXT" if expression is not None else "SUITE:PATTERN TEXT"
        raise UsageError(f"write why {shape}; a text with blanks goes in quotes")
    text = arguments[-1]
    if text == "-":
        text = sys.stdin.buffer.read().decode("utf-8", "surrogateescape").removesuffix("\n")
    return (arguments[0] if wanted == 2 else None), text


def _read(draft: Draft, text: str, values: tuple[str, ...]) -> Result | None:
    if draft.pattern is None:
        return None
    from fieldstick.matching.matcher import prepare

    return prepare(draft.pattern, dict(each.split("=", 1) for each in values)).read(text)


def _deciding(draft: Draft, reading: Result | None) -> Draft:
    """Return the draft of the member that decides, for a pattern made of patterns."""
    pattern = draft.pattern
    if pattern is None or pattern.combination is None:
        return draft
    while pattern.combination is not None:
        name = reading.member if reading is not None else None
        pattern = next((each for each in pattern.members if each.name == name), pattern.members[0])
    assert pattern.filling is not None
    if pattern.parameters:
        raise UsageError(f"the member '{pattern.name}' has parameters; ask why of it by itself")
    return Draft(pattern.filling.text({}), pattern.flags, pattern.reach, pattern.take, pattern, draft.suite)


def _more(reading: Result | None, found: Diagnosis) -> tuple[str | None, str | None]:
    """Say what only the fields and the take know."""
    if reading is None or reading.unfit is None or not found.fits:
        return None, None
    return reading.unfit.words, reading.unfit.field


def _marks(found: Diagnosis, reading: Result | None, terminal: Terminal) -> list[Mark]:
    if reading is not None:
        return marks_of(reading, terminal.charset)
    if found.trace.spans is None:
        return []
    groups = parse(found.case.expression, found.case.flags).groups
    return group_marks(found.case.text, found.trace.spans, groups, terminal.charset)
