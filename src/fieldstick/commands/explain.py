"""`explain`: what an expression asks for, in plain words."""

from __future__ import annotations

from typing import TYPE_CHECKING

import click

from fieldstick.analysis.hazards import Hazard, hazards, pattern_hazards
from fieldstick.commands.drafts import Draft, draft_options, format_option, resolve
from fieldstick.commands.printing import print_json
from fieldstick.drafting.examples import examples
from fieldstick.drafting.outline import outline
from fieldstick.reporting.as_outline import Explanation, explanation_as_data, explanation_as_text
from fieldstick.reporting.ruler import Segment
from fieldstick.reporting.terminal import Terminal
from fieldstick.syntax.parser import Parsed, parse

if TYPE_CHECKING:
    from fieldstick.suites.suite import Pattern, Suite


@click.command(short_help="Say in plain words what an expression asks for.")
@click.argument("what", required=False, metavar="EXPRESSION|SUITE:PATTERN")
@click.option("-e", "expression", metavar="EXPRESSION", help="An expression, even if it reads like an address.")
@draft_options
@format_option
def command(
    what: str | None,
    expression: str | None,
    reach: str | None,
    flags: tuple[str, ...],
    suite_file: str | None,
    values: tuple[str, ...],
    form: str,
) -> None:
    """Explain an expression as an outline in plain words, each line with the piece of source it speaks of.

    Below it stand the shortest and longest text it takes, texts that fit, and its hazards.
    """
    draft = resolve(what, expression, reach=reach, flags=flags, suite_file=suite_file, values=values)
    if draft.pattern is not None and draft.pattern.combination is not None:
        assert draft.suite is not None
        _explain_combination(draft.suite, draft.pattern, form)
        return
    found = _explanation(draft)
    if form == "json":
        print_json(explanation_as_data(found))
        return
    terminal = Terminal.of()
    if draft.pattern is not None and draft.pattern.about:
        terminal.write([(Segment(f"  {draft.pattern.about}", "strong"),)])
    terminal.write(explanation_as_text(found, terminal.width, terminal.charset))


def _explanation(draft: Draft) -> Explanation:
    parsed = parse(draft.expression, draft.flags)
    return Explanation(
        draft.expression,
        draft.written or draft.expression,
        tuple(sorted(parsed.flags)),
        draft.reach,
        outline(parsed, draft.parts),
        parsed.groups,
        tuple(examples(parsed, draft.reach)),
        tuple(_hazards(draft, parsed)),
    )


def _hazards(draft: Draft, parsed: Parsed) -> list[Hazard]:
    if draft.pattern is None:
        return hazards(parsed, draft.reach)
    positive = [sample.text for sample in draft.pattern.samples if sample.kind == "positive" and not sample.values]
    named = {name for name, table in draft.pattern.fields.items() if table.name}
    has_fields = bool(draft.pattern.fields) and not named
    return pattern_hazards(parsed, draft.reach, positive, has_fields=has_fields)


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
    terminal.write([(Segment(f"  {pattern.about}", "strong"),), (Segment(f"  {_COMBINED[pattern.combination]}:"),)])
    for name, about in members:
        terminal.write([(Segment(f"    {suite.name}:{name}", "field0"), Segment(f"  {about}"))])
