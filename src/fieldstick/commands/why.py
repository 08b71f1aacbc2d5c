"""`why`: why a text fits or does not, and what would change that."""

from __future__ import annotations

from typing import TYPE_CHECKING

import click
from msgspec.structs import replace

from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, json_option, option
from fieldstick.commands.pattern_options import pattern_options
from fieldstick.commands.source_options import source_options
from fieldstick.errors import EXIT_FAILED, EXIT_PASSED, UsageError
from fieldstick.matching.result import GAVE_UP
from fieldstick.workspace import Chosen, Workspace

if TYPE_CHECKING:
    from fieldstick.data.read_options import ReadOptions
    from fieldstick.drafting.judge import Deciding
    from fieldstick.matching.result import Result
    from fieldstick.reporting.why_report import Answer
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
    reading = chosen.matcher.read_or_give_up(text)
    if reading.unfit is not None and reading.unfit.reason == GAVE_UP:
        return _given_up(chosen, reading.unfit.words, form)
    from fieldstick.drafting.judge import deciding

    found = deciding(chosen.pattern, text, chosen.values)
    explained = _explained(chosen, found, reading, text)
    from fieldstick.reporting.why_report import answer_as_data, answer_report

    if form == "json":
        from fieldstick.commands.printing import print_json

        print_json(answer_as_data(explained))
        return EXIT_PASSED
    from fieldstick.reporting.terminal import Terminal

    Terminal.of().show(answer_report(explained))
    return EXIT_PASSED


def _given_up(chosen: Chosen, words: str, form: str) -> int:
    """Say that a text spent its budget, and what in the expression may have let it."""
    from fieldstick.analysis.hazards import hazards
    from fieldstick.reporting.document import said
    from fieldstick.reporting.explain_report import hazards_as_data, hazards_report
    from fieldstick.reporting.terminal import Terminal
    from fieldstick.syntax.parser import parse

    found = []
    if chosen.pattern.filling is not None:
        parsed = parse(chosen.expression, chosen.pattern.flags)
        found = [each for each in hazards(parsed, chosen.pattern.reach) if each.kind == "nested-repeats"]
    if form == "json":
        from fieldstick.commands.printing import print_json

        print_json({"fits": None, "words": words, "hazards": hazards_as_data(found)})
        return EXIT_FAILED
    terminal = Terminal.of()
    terminal.show([said(f"  {words}")])
    terminal.show(hazards_report(chosen.expression, found))
    return EXIT_FAILED


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


def _explained(chosen: Chosen, found: Deciding, reading: Result, text: str) -> Answer:
    """Return why a text fits or does not: by the member that decides, and by what is known of the text already."""
    from fieldstick.drafting.context import MatchCase
    from fieldstick.drafting.diagnosis import diagnose
    from fieldstick.drafting.judge import breaks_of, judge_of, whole_fits
    from fieldstick.reporting.marks import marks_of
    from fieldstick.reporting.why_report import Answer

    pattern = found.pattern
    values = {name: value for name, value in chosen.values.items() if name in pattern.parameters}
    own = replace(chosen, pattern=pattern, values=values)
    case = MatchCase(own.expression, pattern.flags, pattern.reach, text)
    counting = breaks_of(pattern, text) if chosen.is_kept else None
    made = diagnose(case, counting, judge=judge_of(pattern))
    if found.path:
        # What changes the member must change what comes of the whole.
        helps = [
            each
            for each in made.repairs
            if whole_fits(chosen.pattern, found.path, each.case, chosen.values) != reading.fits
        ]
        made = replace(made, repairs=tuple(helps))
    own_reading = own.matcher.read_or_give_up(text)
    samples = [
        each for each in chosen.pattern.samples if each.text == text and dict(each.values) == dict(chosen.values)
    ]
    known: str | None = None
    if samples and chosen.suite is not None:
        kept = samples[0]
        known = f"{kept.kind} sample, {chosen.suite.file}:{chosen.suite.line_of(kept.path)}"
    unfit = own_reading.unfit if made.stopped is None else None
    return Answer(
        made,
        reading.fits,
        tuple(marks_of(own_reading)),
        unfit.words if unfit is not None else None,
        unfit.field if unfit is not None else None,
        found.path,
        known,
        own.parts,
    )
