"""`why`: why a text fits or does not, and what would change that."""

from __future__ import annotations

from typing import TYPE_CHECKING

import click
from msgspec.structs import replace

from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, json_option, option
from fieldstick.commands.pattern_options import pattern_options
from fieldstick.commands.source_options import source_options
from fieldstick.errors import EXIT_PASSED, UsageError
from fieldstick.workspace import Chosen, Workspace

if TYPE_CHECKING:
    from fieldstick.data.read_options import ReadOptions
    from fieldstick.drafting.diagnosis import Diagnosis
    from fieldstick.matching.result import Result
    from fieldstick.suites.overrides import Overrides


@headed_command(short_help="Say why a text fits or does not, and what would change that.")
@click.argument("arguments", nargs=-1, metavar="SUITE:PATTERN|EXPRESSION TEXT")
@pattern_options
@option("--from", "place", metavar="FILE:LINE", help="Take the text from this line or row of a file.")
@source_options
@heading("What is written")
@json_option
def command(
    arguments: tuple[str, ...],
    expression: str | None,
    overrides: Overrides,
    place: str | None,
    read_options: ReadOptions,
    form: str,
) -> int:
    """Say why TEXT fits a pattern or does not: how far the match came, what was asked for there, what stood there.

    Then come the smallest changes that would make it fit, or for a text that fits, keep it out; each was tried with
    the engine. TEXT may be - for standard input.
    """
    what, text = _arguments(arguments, expression, place, read_options)
    chosen = Workspace().pattern(what, overrides, expression=expression)
    reading = chosen.matcher.read(text)
    found = _diagnosis(_deciding(chosen, reading), text)
    words, field = (
        (reading.unfit.words, reading.unfit.field) if reading.unfit is not None and found.fits else (None, None)
    )
    from fieldstick.reporting.why_report import diagnosis_as_data, diagnosis_report

    if form == "json":
        from fieldstick.commands.printing import print_json

        print_json(diagnosis_as_data(found, words, field))
        return EXIT_PASSED
    from fieldstick.reporting.document import said
    from fieldstick.reporting.marks import marks_of
    from fieldstick.reporting.terminal import Terminal

    terminal = Terminal.of()
    if reading.member is not None:
        terminal.show([said((f"  the member '{reading.member}' decides", "quiet"))])
    terminal.show(diagnosis_report(found, marks_of(reading), words))
    return EXIT_PASSED


def _arguments(
    arguments: tuple[str, ...], expression: str | None, place: str | None, read_options: ReadOptions
) -> tuple[str | None, str]:
    """Return what is given as the pattern, None with -e, and the text."""
    wanted = (expression is None) + (place is None)
    if len(arguments) != wanted:
        pattern = "-e EXPRESSION" if expression is not None else "SUITE:PATTERN"
        shape = f"{pattern} --from FILE:LINE" if place is not None else f"{pattern} TEXT"
        raise UsageError(f"write why {shape}; a text with blanks goes in quotes")
    what = arguments[0] if expression is None else None
    if place is None and arguments[-1] != "-":
        return what, arguments[-1]
    from fieldstick.commands.sources import text_at, typed_text

    return what, text_at(place, read_options) if place is not None else typed_text()


def _diagnosis(chosen: Chosen, text: str) -> Diagnosis:
    from fieldstick.drafting.brief import breaks_of
    from fieldstick.drafting.context import MatchCase
    from fieldstick.drafting.diagnosis import diagnose

    pattern = chosen.pattern
    case = MatchCase(chosen.expression, pattern.flags, pattern.reach, text)
    return diagnose(case, breaks_of(pattern, text) if chosen.is_kept else None)


def _deciding(chosen: Chosen, reading: Result) -> Chosen:
    """Return the member that decides, for a pattern made of patterns."""
    pattern, member = chosen.pattern, reading.member
    while pattern.combination is not None:
        pattern = next((each for each in pattern.members if each.name == member), pattern.members[0])
    return replace(chosen, pattern=pattern)
