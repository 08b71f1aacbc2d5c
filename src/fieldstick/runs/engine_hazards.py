"""Hazards of an expression on the other engines that its pattern names: pieces that these lack or read otherwise."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.analysis.hazards import Hazard
from fieldstick.engines.protocol import DEFAULT_ENGINE
from fieldstick.engines.registry import BY_NAME

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.suites.suite import Pattern
    from fieldstick.syntax.parser import Parsed

KIND = "other-engine"


def engine_hazards(pattern: Pattern, parsed: Parsed, engines: tuple[str, ...] = ()) -> list[Hazard]:
    """Return what engines make otherwise of an expression of Python's: those its pattern names, and further ones."""
    others = [
        each for each in dict.fromkeys((*pattern.engines, *engines)) if each != DEFAULT_ENGINE and each in BY_NAME
    ]
    if pattern.engine != DEFAULT_ENGINE or not others:
        return []
    # What is known of other engines is much, and most patterns name none.
    from fieldstick.analysis.portability import stranger_reason, strangers

    alike: dict[tuple[int, int], dict[tuple[str, str], list[str]]] = {}
    for engine in others:
        for each in strangers(parsed.expression, pattern.flags, engine):
            remedy = f"write {each.instead}" if each.instead else each.why or "no spelling means the same"
            told = stranger_reason(each, "{}"), remedy.replace(engine, "it")
            alike.setdefault(each.span, {}).setdefault(told, []).append(engine)
    return [_hazard(span, told, parsed.expression) for span, told in sorted(alike.items())]


def _hazard(span: tuple[int, int], told: dict[tuple[str, str], list[str]], expression: str) -> Hazard:
    """Return one hazard of a place, whatever number of engines make something else of it."""
    reasons = [reason.replace("{}", listed(engines), 1) for (reason, _), engines in told.items()]
    remedies = [f"{remedy} on {listed(engines)}" for (_, remedy), engines in told.items()]
    return Hazard(KIND, span, "; ".join(reasons), "; ".join(remedies), expression, "", "", "")


def listed(names: Sequence[str]) -> str:
    """Write names one after another: python, pcre2 and xsd."""
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
