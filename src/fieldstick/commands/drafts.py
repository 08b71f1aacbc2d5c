"""What the drafting commands share: an expression or a pattern by its address, with reach, flags and parts."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING, Any

import click
from msgspec import Struct

from fieldstick.engines.protocol import FLAGS, REACHES, Reach, Take
from fieldstick.errors import UsageError, hint
from fieldstick.suites.finding import find_suites, split_address

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable

    from fieldstick.suites.suite import Pattern, Suite
    from fieldstick.suites.uses import Use

_ADDRESS = re.compile(r"[^\s*+?()\[\]{}|^$]+:[^\W\d_][\w-]*")


class Draft(Struct, frozen=True):
    """An expression with all that decides how it matches; `pattern` and `suite` when it is one of a suite."""

    expression: str
    flags: frozenset[str]
    reach: Reach
    take: Take = "first"
    pattern: Pattern | None = None
    suite: Suite | None = None
    parts: dict[tuple[int, int], str] | None = None
    written: str | None = None
    """The expression before its parts were filled in."""


def draft_options(function: Callable[..., Any]) -> Callable[..., Any]:
    """Add the options that say how a bare expression matches."""
    for option in (
        click.option("--with", "values", multiple=True, metavar="NAME=VALUE", help="A parameter's value. Repeatable."),
        click.option(
            "--suite", "suite_file", metavar="FILE", help="The suite whose parts {{name}} the expression uses."
        ),
        click.option("--flag", "flags", multiple=True, type=click.Choice(FLAGS), help="A flag. Repeatable."),
        click.option("--reach", type=click.Choice(REACHES), help="Where a match may lie.  [default: whole]"),
    ):
        function = option(function)
    return function


def format_option(function: Callable[..., Any]) -> Callable[..., Any]:
    """Add --format text|json."""
    return click.option(
        "--format",
        "form",
        type=click.Choice(["text", "json"]),
        default="text",
        show_default=True,
        help="What to print.",
    )(function)


def resolve(
    given: str | None,
    expression: str | None,
    *,
    reach: str | None,
    flags: Iterable[str],
    suite_file: str | None,
    values: Iterable[str],
) -> Draft:
    """Return the draft that is meant: `-e` an expression, or a pattern's address where a suite has that name.

    Raises UsageError when neither is given, both are, or the address names nothing.
    """
    if (given is None) == (expression is None):
        raise UsageError("give a pattern as SUITE:PATTERN, or an expression with -e")
    parsed_values = _values(values)
    if expression is None:
        assert given is not None
        found = pattern_at(given)
        if found is not None:
            return _of_pattern(*found, parsed_values, reach, flags)
        expression = given
    return _bare(expression, reach, flags, suite_file, parsed_values)


def _values(values: Iterable[str]) -> dict[str, str]:
    found = {}
    for each in values:
        name, equals, value = each.partition("=")
        if not equals:
            raise UsageError(f"--with {each}: write NAME=VALUE")
        found[name] = value
    return found


def pattern_at(address: str) -> tuple[Suite, Pattern] | None:
    """Return the pattern at an address; None when it is no address, or no suite has that name.

    Raises UsageError when the suite is there and the pattern is not.
    """
    suite_name, name = split_address(address)
    if name is None or not _ADDRESS.fullmatch(address):
        return None
    file = suite_file_named(suite_name)
    if file is None:
        return None
    from fieldstick.suites.loader import read_suite

    suite = read_suite(file)
    if name not in suite.patterns:
        raise UsageError(f"the suite '{suite_name}' has no pattern '{name}'{hint(name, suite.patterns)}")
    return suite, suite.patterns[name]


def use_at(address: str, section: str, *, or_pattern: bool = False) -> Use | None:
    """Return the use at an address SUITE:NAME, of one section; None when it is no address, or no suite has that name.

    Raises UsageError when the suite is there and the use is not; with `or_pattern` None when a pattern is.
    """
    suite_name, name = split_address(address)
    if name is None or not _ADDRESS.fullmatch(address):
        return None
    file = suite_file_named(suite_name)
    if file is None:
        return None
    from fieldstick.suites.loader import read_suite

    suite = read_suite(file)
    found = suite.uses.get(f"{section}.{name}")
    if found is None and or_pattern and (name in suite.patterns or section == "forms"):
        return None
    if found is None:
        known = [each.own_name for each in suite.uses.values() if each.path[0] == section]
        other = hint(name, known)
        if name in suite.patterns:
            other = "; it is a pattern" + (": add --with TEMPLATE" if section == "rewrites" else "")
        raise UsageError(f"the suite '{suite_name}' has no {section[:-1]} '{name}'{other}")
    return found


def suite_file_named(name: str) -> str | None:
    """Return the suite file of that path, or the one below the current folder that has that name."""
    from pathlib import Path

    if Path(name).is_file():
        return name
    try:
        files = find_suites()
    except UsageError:
        return None
    found = [file for file in files if _suite_name(file) == name]
    if len(found) > 1:
        raise UsageError(f"several suites are named '{name}': {', '.join(found)}; give the path of one")
    return found[0] if found else None


def suite_names() -> list[str]:
    """Return the names of the suites below the current folder."""
    try:
        return sorted(name for file in find_suites() if (name := _suite_name(file)) is not None)
    except UsageError:
        return []


def bare_pattern(
    expression: str, suite_file: str | None = None, values: dict[str, str] | None = None, *, name: str = "expression"
) -> Pattern:
    """Return an expression as a pattern that no suite keeps, the parts of a suite filled in.

    A parameter `{{=name}}` is one of the pattern when `values` has it. Raises UsageError for parts that are not there.
    """
    from fieldstick.engines.protocol import DEFAULT_BUDGET_MS
    from fieldstick.engines.registry import DEFAULT_ENGINE
    from fieldstick.suites.parts import PartError, PartScope, fill
    from fieldstick.suites.suite import Pattern

    scope = PartScope("", {}, {})
    if suite_file is not None:
        from fieldstick.suites.loader import part_scope

        scope = part_scope(suite_file)
    try:
        filling = fill(expression, scope)
    except PartError as error:
        where = "" if suite_file else "; --suite FILE names the suite whose parts are meant"
        raise UsageError(f"{error}{where}") from None
    for each in sorted(filling.parameters - set(values or ())):
        raise UsageError(f"the expression needs a value for its parameter '{each}': add --parameter {each}=VALUE")
    return Pattern(
        name=name,
        about="",
        filling=filling,
        combination=None,
        members=(),
        parameters=tuple(sorted(filling.parameters)),
        reach="whole",
        take="first",
        flags=frozenset(),
        message=None,
        engines=(DEFAULT_ENGINE,),
        tags=(),
        budget_ms=DEFAULT_BUDGET_MS,
        fields={},
        samples=(),
        path=(),
    )


def _suite_name(file: str) -> str | None:
    from pathlib import Path

    head = Path(file).read_text(encoding="utf-8", errors="replace")
    found = re.search(r"^\s*suite\s*=\s*(?:\"([^\"]*)\"|'([^']*)')", head, re.MULTILINE)
    return (found[1] or found[2]) if found else None


def _of_pattern(
    suite: Suite, pattern: Pattern, values: dict[str, str], reach: str | None, flags: Iterable[str]
) -> Draft:
    if pattern.filling is None:
        return Draft("", frozenset(), "whole", pattern=pattern, suite=suite)
    for name in pattern.parameters:
        if name not in values:
            raise UsageError(f"the pattern needs a value for its parameter '{name}': add --with {name}=VALUE")
    expression = pattern.filling.text(values)
    return Draft(
        expression,
        frozenset(flags) or pattern.flags,
        _reach(reach) or pattern.reach,
        pattern.take,
        pattern,
        suite,
        pattern.filling.part_spans(values),
        pattern.filling.expression,
    )


def _bare(
    expression: str, reach: str | None, flags: Iterable[str], suite_file: str | None, values: dict[str, str]
) -> Draft:
    chosen = frozenset(flags)
    if "{{" not in expression and suite_file is None:
        return Draft(expression, chosen, _reach(reach) or "whole")
    from fieldstick.suites.parts import PartError, PartScope, fill

    scope = PartScope("", {}, {})
    if suite_file is not None:
        from fieldstick.suites.loader import part_scope

        scope = part_scope(suite_file)
    try:
        filling = fill(expression, scope, verbose="verbose" in chosen)
    except PartError as error:
        where = "" if suite_file else "; --suite FILE names the suite whose parts are meant"
        raise UsageError(f"{error}{where}") from None
    for name in sorted(filling.parameters - set(values)):
        raise UsageError(f"the expression needs a value for its parameter '{name}': add --with {name}=VALUE")
    text = filling.text(values)
    return Draft(text, chosen, _reach(reach) or "whole", parts=filling.part_spans(values), written=expression)


def _reach(reach: str | None) -> Reach | None:
    return next((each for each in REACHES if each == reach), None)
