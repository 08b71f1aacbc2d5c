"""`explain`: what an expression asks for, in plain words."""

from __future__ import annotations

from typing import TYPE_CHECKING

import click

from fieldstick.analysis.hazards import Hazard, hazards
from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, json_option, option
from fieldstick.commands.pattern_options import pattern_options
from fieldstick.commands.printing import print_json
from fieldstick.drafting.outline import outline
from fieldstick.drafting.typed_examples import typed_examples
from fieldstick.engines.registry import engine_named
from fieldstick.reporting.document import said
from fieldstick.reporting.engines_report import engine_as_data, engine_report
from fieldstick.reporting.explain_report import (
    Explanation,
    explanation_as_data,
    explanation_report,
    foreign_words,
    written_for,
)
from fieldstick.reporting.terminal import Terminal
from fieldstick.runs.kept_hazards import hazards_of
from fieldstick.syntax.parser import Parsed, parse
from fieldstick.workspace import Chosen, Workspace

if TYPE_CHECKING:
    from fieldstick.suites.overrides import Overrides
    from fieldstick.suites.suite import Pattern, Suite


@headed_command(short_help="Say in plain words what an expression asks for.")
@click.argument("what", required=False, metavar="EXPRESSION|SUITE:PATTERN")
@pattern_options
@heading("How")
@option(
    "--engine", metavar="E", help="Say also what this engine lacks or reads otherwise, and how it is written there."
)
@heading("What is written")
@json_option
@option("--depth", type=click.IntRange(min=1), metavar="N", help="Levels of the outline.  [default: as 24 lines hold]")
def command(
    what: str | None, expression: str | None, overrides: Overrides, engine: str | None, form: str, depth: int | None
) -> None:
    """Explain an expression as an outline in plain words, each line with the piece of source it speaks of.

    Below it stand the shortest and longest text it takes, texts that fit, and its hazards; with --engine what of it
    that engine lacks or reads otherwise, and the expression written so that it means the same there. A pattern of
    another engine than Python's is explained by what it means there, in Python's notation.
    """
    if engine is not None:
        engine_named(engine)
    chosen = Workspace().pattern(what, overrides, expression=expression)
    if chosen.pattern.combination is not None:
        assert chosen.suite is not None
        _explain_combination(chosen.suite, chosen.pattern, form)
        return
    found = _explanation(chosen.here)
    if form == "json":
        there = {"engine": engine_as_data(chosen.expression, chosen.pattern, engine)} if engine is not None else {}
        own = {} if chosen.here is chosen else written_for(chosen.pattern.engine, chosen.expression)
        print_json(explanation_as_data(found) | own | there)
        return
    terminal = Terminal.of()
    if chosen.pattern.about:
        terminal.show([said((f"  {chosen.pattern.about}", "strong"))])
    if chosen.here is not chosen:
        terminal.show(foreign_words(chosen.pattern.engine, chosen.written or chosen.expression))
    terminal.show(explanation_report(found, depth))
    if engine is not None:
        terminal.show(engine_report(chosen.expression, chosen.pattern, engine))


def _explanation(chosen: Chosen) -> Explanation:
    pattern = chosen.pattern
    parsed = parse(chosen.expression, pattern.flags)
    return Explanation(
        chosen.expression,
        chosen.written or chosen.expression,
        tuple(sorted(parsed.flags)),
        pattern.reach,
        outline(parsed, chosen.parts),
        parsed.groups,
        tuple(typed_examples(chosen.matcher, parsed)),
        _hazards(chosen, parsed),
        chosen.parts,
    )


def _hazards(chosen: Chosen, parsed: Parsed) -> list[Hazard]:
    pattern = chosen.pattern
    if not chosen.is_kept:
        return hazards(parsed, pattern.reach)
    return hazards_of(pattern, parsed)


_COMBINED = {
    "any_of": "fits when any of these does; the first that fits decides",
    "all_of": "fits when all of these do",
    "none_of": "fits when none of these does",
}


def _explain_combination(suite: Suite, pattern: Pattern, form: str) -> None:
    assert pattern.combination is not None
    members = [(member.name, member.about) for member in pattern.members]
    if form == "json":
        print_json({"combination": pattern.combination, "members": [name for name, _ in members]})
        return
    terminal = Terminal.of()
    terminal.show([said((f"  {pattern.about}", "strong")), said(f"  {_COMBINED[pattern.combination]}:")])
    terminal.show(said((f"    {suite.name}:{name}", "field0"), f"  {about}") for name, about in members)
