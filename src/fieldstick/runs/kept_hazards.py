"""The hazards of patterns as they are kept: what their samples and field tables show counts too."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.analysis.hazards import pattern_hazards

if TYPE_CHECKING:
    from fieldstick.analysis.hazards import Hazard
    from fieldstick.suites.suite import Pattern
    from fieldstick.syntax.parser import Parsed


def hazards_of(pattern: Pattern, parsed: Parsed) -> list[Hazard]:
    """Return the hazards of a pattern whose expression was read."""
    positive = [sample.text for sample in pattern.samples if sample.kind == "positive" and not sample.values]
    named = {name for name, table in pattern.fields.items() if table.name}
    has_fields = bool(pattern.fields) and not named
    return pattern_hazards(parsed, pattern.reach, positive, has_fields=has_fields)
