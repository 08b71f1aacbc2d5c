"""`keep`: a draft kept as a named pattern of a suite."""

from __future__ import annotations

import os
from contextlib import ExitStack
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click
from msgspec import to_builtins

from fieldstick.analysis.hazards import hazards
from fieldstick.commands.keep_from import keep_from
from fieldstick.commands.new import write_new
from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, option
from fieldstick.commands.pattern_options import draft_options
from fieldstick.commands.saying import tell
from fieldstick.errors import UsageError
from fieldstick.reporting.explain_report import hazards_report
from fieldstick.reporting.terminal import Terminal
from fieldstick.suites.editing import checked_name, edit, with_expression, with_pattern
from fieldstick.suites.finding import ENDING
from fieldstick.suites.overrides import Overrides
from fieldstick.suites.starter import empty_suite
from fieldstick.syntax.parser import parse
from fieldstick.workspace import NO_PARTS, Chosen, Workspace, bare_pattern

if TYPE_CHECKING:
    from fieldstick.suites.model import FieldTable
    from fieldstick.suites.parts import PartScope


@headed_command(short_help="Keep a draft as a named pattern of a suite.")
@click.argument("name", required=False)
@click.argument("draft", required=False, metavar="EXPRESSION")
@draft_options
@heading("The suite")
@option("--suite", "kept_in", required=True, metavar="SUITE", help="The suite to keep it in.")
@option("--about", default="", help="What the pattern is for.")
@option("--message", default="", help="For whoever types a value that does not fit.")
@option("--replace", is_flag=True, help="Put it in the place of the expression that the pattern NAME has.")
@option("--parts", is_flag=True, help="Put the suite's parts in where the draft spells one out.")
@heading("Out of a schema or form")
@option("--from", "source", metavar="FILE", help="Keep the patterns of a JSON Schema, Table Schema or HTML form.")
@option("--engine", metavar="E", help="Write them for E, as in --engine python.  [default: as the file has them]")
def command(
    name: str | None,
    draft: str | None,
    expression: str | None,
    overrides: Overrides,
    kept_in: str,
    about: str,
    message: str,
    replace: bool,
    parts: bool,
    source: str | None,
    engine: str | None,
) -> None:
    """Add EXPRESSION to a suite as the pattern NAME. Comments and order of the file stay as they are.

    A suite file that is not there yet is begun. What is likely to bite later in the expression is told; with --replace
    also which texts the pattern takes no longer, or takes now, and which of its samples come out otherwise.

    With --from, the patterns that a file holds are kept, or the one that it calls NAME, each with the engine and the
    reach that the file's standard gives it; what an expression cannot say, a length or an enumeration, is told.
    """
    if source is not None:
        if (
            draft is not None
            or expression is not None
            or overrides != Overrides()
            or about
            or message
            or replace
            or parts
        ):
            raise UsageError("--from takes the patterns as the file has them: give NAME, --suite and --engine alone")
        keep_from(source, name, kept_in, engine)
        return
    if engine is not None:
        raise UsageError("--engine goes with --from; the engines of a pattern stand in its suite")
    if name is None:
        raise UsageError("give a name and an expression: keep NAME EXPRESSION --suite SUITE")
    if (draft is None) == (expression is None):
        raise UsageError("give the expression once: write keep NAME EXPRESSION, or keep NAME -e EXPRESSION")
    expression = expression if expression is not None else draft
    assert expression is not None
    checked_name(name)
    begun = kept_in.endswith(ENDING) and not os.path.lexists(kept_in)
    scope = NO_PARTS if begun else Workspace().suite(kept_in).scope
    found = _spelled_out(expression, scope)
    if parts:
        for part, text in found:
            expression = expression.replace(text, f"{{{{{part}}}}}")
    if replace:
        _replace(f"{kept_in}:{name}", expression, overrides, begun=begun, told=bool(about or message))
        return
    pattern = overrides.on(bare_pattern(expression, scope, name=name, verbose="verbose" in overrides.flags))
    chosen = Chosen(pattern, values=dict.fromkeys(pattern.parameters, ""))
    parsed = parse(chosen.expression, pattern.flags)
    overrides.check_fields(chosen.matcher.field_names)
    table: dict[str, Any] = {
        "about": about,
        "expression": expression,
        "reach": overrides.reach,
        "take": overrides.take,
        "flags": list(overrides.flags),
        "message": message,
        "parameters": list(pattern.parameters),
        "fields": {name: _as_written(field) for name, field in pattern.fields.items()},
    }
    if begun:
        write_new(Path(kept_in), empty_suite)
    file = kept_in if begun else Workspace().suite(kept_in).file
    given = {key: value for key, value in table.items() if value}
    edit(Path(file), lambda document: with_pattern(document, name, given))
    tell(f"Kept {name} in {file}: {expression}")
    Terminal.of().show(hazards_report(parsed.expression, hazards(parsed, pattern.reach), brief=True))
    if found and not parts:
        for part, text in found:
            tell(f"It spells the part '{part}' out ({text}); --parts puts {{{{{part}}}}} there.")
    tell(f"Next: fieldstick sample {file}:{name} --positive TEXT")


def _replace(address: str, expression: str, overrides: Overrides, *, begun: bool, told: bool) -> None:
    """Put an expression in a pattern's place, and tell what that does."""
    if begun:
        raise UsageError(f"{address}: there is no such file, in which --replace could replace anything")
    if overrides != Overrides() or told:
        raise UsageError("--replace changes the expression alone; what else the pattern says is changed in its file")
    from fieldstick.comparing.versions import chosen, compare_versions
    from fieldstick.reporting.compare_report import comparison_report

    workspace = Workspace()
    suite, kept = workspace.pattern_as_kept(address)
    bare = bare_pattern(expression, suite.scope, verbose="verbose" in kept.flags)
    assert bare.filling is not None
    parsed = parse(bare.filling.text(dict.fromkeys(bare.parameters, "")), kept.flags)
    with ExitStack() as stack:
        was, now = workspace.versions((address,), (expression,), overrides, stack)
        comparison = compare_versions(was, now, trials=False)
        Terminal.of().show(comparison_report(chosen(comparison, [(suite.name, kept.name)])))
    edit(Path(suite.file), lambda document: with_expression(document, kept.name, expression))
    tell(f"Replaced the expression of {kept.name} in {suite.file}: {expression}")
    Terminal.of().show(hazards_report(parsed.expression, hazards(parsed, kept.reach), brief=True))
    tell(f"Next: fieldstick check {suite.file}")


def _as_written(field: FieldTable) -> dict[str, Any]:
    return {key: value for key, value in to_builtins(field).items() if value is not None}


def _spelled_out(expression: str, scope: PartScope) -> list[tuple[str, str]]:
    """Return the parts, borrowed ones too, whose text stands in the expression: the longest first, none by chance."""
    parts = dict(scope.parts)
    for alias, borrowed in scope.borrowed.items():
        parts |= {f"{alias}.{name}": text for name, text in borrowed.parts.items()}
    found = [(name, text) for name, text in parts.items() if len(text) >= 4 and text in expression]
    return sorted(found, key=lambda each: -len(each[1]))
