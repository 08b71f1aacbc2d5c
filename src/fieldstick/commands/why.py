"""`why`: why a text fits or does not, and what would change that."""

from __future__ import annotations

from typing import TYPE_CHECKING

import click

from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, json_option, option
from fieldstick.commands.pattern_options import pattern_options
from fieldstick.commands.source_options import source_options
from fieldstick.errors import EXIT_FAILED, EXIT_PASSED, UsageError
from fieldstick.workspace import Chosen, Workspace, looks_like_address

if TYPE_CHECKING:
    from fieldstick.data.read_options import ReadOptions
    from fieldstick.reporting.why_report import Answer
    from fieldstick.suites.overrides import Overrides


@headed_command(short_help="Say why a text fits or does not, and what would change that.")
@click.argument("arguments", nargs=-1, metavar="SUITE:PATTERN|SUITE:ROUTE|SUITE:FORM|EXPRESSION TEXT")
@pattern_options
@option("--from", "place", metavar="FILE:LINE", help="Take the text from this line or row of a file.")
@source_options
@heading("What is known beside")
@option("--also-fits", "also_fits", multiple=True, metavar="TEXT", help="A text that should fit too. Repeatable.")
@option("--also-not", "also_not", multiple=True, metavar="TEXT", help="A text that should not fit. Repeatable.")
@heading("What is written")
@option("--apply", "number", type=click.IntRange(min=1), metavar="N", help="Write change N to the suite.")
@json_option
def command(
    arguments: tuple[str, ...],
    expression: str | None,
    overrides: Overrides,
    place: str | None,
    read_options: ReadOptions,
    also_fits: tuple[str, ...],
    also_not: tuple[str, ...],
    number: int | None,
    form: str,
) -> int:
    """Say why TEXT fits a pattern or does not: how far the match came, what was asked for there, what stood there.

    Then come the changes that would make it fit, or for a text that fits, keep it out: each was tried with the engine,
    on the pattern's samples and on the texts of --also-fits and --also-not. What breaks none of them comes first. An
    expression that cannot be read is mended so that it can be and fits. TEXT may be - for standard input; for a form
    it is a row as a JSON object, or one of a file with --from.
    """
    what = _pattern_of(arguments, expression, place)
    workspace = Workspace()
    from fieldstick.drafting.context import Beside
    from fieldstick.reporting.why_answers import answer_of, column_answers

    beside = Beside(also_fits, also_not)
    chosen = _operation(workspace, what, overrides)
    if isinstance(chosen, list):
        row = _row(arguments, place, read_options)
        return _show(column_answers([each.here for each in chosen], row, beside), form)
    text = _text(arguments, expression, place, read_options)
    chosen = chosen or workspace.pattern(what, overrides, expression=expression)
    if number is not None and chosen.here is not chosen:
        engine = chosen.pattern.engine
        raise UsageError(f"--apply writes what Python's engine reads, and the pattern is written for {engine}")
    own, chosen = chosen, chosen.here
    answer = answer_of(chosen, text, beside)
    if answer.gave_up is not None:
        return _given_up(chosen, answer.gave_up, form)
    if number is not None and form == "json":
        raise UsageError("--apply shows a check beside the answer; leave --format json out")
    if number is not None and not chosen.is_kept:
        raise UsageError("--apply writes to a suite; name the pattern as SUITE:PATTERN")
    status = _show([answer], form, own if own is not chosen and own.expression else None)
    if number is not None:
        from fieldstick.commands.why_changes import apply

        apply(workspace, chosen, answer, number)
    return status


def _show(answers: list[Answer], form: str, foreign: Chosen | None = None) -> int:
    """Show answers; with how the pattern is written, where that is another engine's notation than what is told of."""
    from fieldstick.reporting.why_report import answer_as_data, answer_report

    if form == "json":
        from fieldstick.commands.printing import print_json

        data = [answer_as_data(each) for each in answers]
        if foreign is not None:
            from fieldstick.reporting.explain_report import written_for

            data[0] |= written_for(foreign.pattern.engine, foreign.expression)
        print_json(data[0] if len(data) == 1 and answers[0].column is None else {"columns": data})
        return EXIT_PASSED
    from fieldstick.reporting.terminal import Terminal

    terminal = Terminal.of()
    if foreign is not None:
        from fieldstick.reporting.explain_report import foreign_words

        terminal.show(foreign_words(foreign.pattern.engine, foreign.written or foreign.expression))
    for each in answers:
        terminal.show(answer_report(each))
    return EXIT_PASSED


def _operation(workspace: Workspace, what: str | None, overrides: Overrides) -> Chosen | list[Chosen] | None:
    """Return a route as the pattern that its kinds make together, a form as that of each column, named by it.

    None for what is neither.
    """
    if what is None or not looks_like_address(what):
        return None
    suite_name, _, name = what.rpartition(":")
    suite = workspace.suite(suite_name)
    if name in suite.patterns:
        return None
    from fieldstick.operations.form import Form
    from fieldstick.operations.route import Route

    route, form = suite.operations.get(f"routes.{name}"), suite.operations.get(f"forms.{name}")
    if isinstance(route, Route):
        from fieldstick.suites.suite import Pattern

        parameters = tuple(dict.fromkeys(each for kind in route.order for each in kind.parameters))
        made = Pattern(name, combination="any_of", members=route.order, parameters=parameters)
        return Chosen(made, suite, overrides.values_for(made))
    if isinstance(form, Form):
        return [Chosen(pattern, suite, column=column) for column, pattern in form.columns]
    return None


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


def _pattern_of(arguments: tuple[str, ...], expression: str | None, place: str | None) -> str | None:
    """Return what is given as the pattern, None with -e. Raises UsageError for a wrong number of arguments."""
    wanted = (expression is None) + (place is None)
    if len(arguments) != wanted:
        pattern = "-e EXPRESSION" if expression is not None else "SUITE:PATTERN"
        shape = f"{pattern} --from FILE:LINE" if place is not None else f"{pattern} TEXT"
        raise UsageError(f"write why {shape}; a text with blanks goes in quotes")
    return arguments[0] if expression is None else None


def _text(arguments: tuple[str, ...], expression: str | None, place: str | None, read_options: ReadOptions) -> str:
    from fieldstick.commands.sources import text_at, typed_text

    if place is not None:
        return text_at(place, read_options)
    return typed_text() if arguments[-1] == "-" else arguments[-1]


def _row(arguments: tuple[str, ...], place: str | None, read_options: ReadOptions) -> dict[str, str]:
    """Return the row of a form, texts by column."""
    from fieldstick.commands.sources import row_at, typed_row

    return row_at(place, read_options) if place is not None else typed_row(arguments[-1])
