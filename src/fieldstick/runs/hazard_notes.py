"""The hazards of suites in brief, for a check: kept from before as long as nothing of the suites changed.

So a check of suites that were checked before loads nothing of what finding hazards takes.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fieldstick.analysis.hazard_kinds import FOREVER
from fieldstick.cache import Remembered, digest_of

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.suites.parts import PartScope
    from fieldstick.suites.suite import Suite

GRAVE = (*FOREVER, "hidden-member", "hidden-kind", "kinds-overlap")
"""Kinds that a check names itself: what it counts may never come to pass, or never end."""


class HazardNote(Struct, frozen=True):
    """A hazard that nothing accepts: of what kind, of what (`address`), where (a line from 1), and why."""

    kind: str
    address: str
    file: str
    line: int
    column: int
    reason: str
    remedy: str


def hazard_notes(suites: Sequence[Suite]) -> tuple[HazardNote, ...]:
    """Return the hazards of suites that nothing accepts."""
    kept = Remembered("notes", ".")
    found = kept.get([suite_key(suite) for suite in suites], list[HazardNote], lambda: _found(suites))
    kept.save()
    return tuple(found)


def _found(suites: Sequence[Suite]) -> list[HazardNote]:
    from fieldstick.runs.suite_hazards import suite_hazards

    return [
        HazardNote(each.kind, each.address, each.file, each.line, each.column, each.reason, each.remedy)
        for each in suite_hazards(suites, with_samples=False).open
    ]


def suite_key(suite: Suite) -> list[Any]:
    """Return all that is read of a suite, for a result to be known again by."""
    texts = digest_of("\0".join(sample.text for pattern in suite.patterns.values() for sample in pattern.samples))
    return [suite.file, suite.document, _parts(suite.scope), texts]


def _parts(scope: PartScope) -> list[Any]:
    return [dict(scope.parts), {alias: _parts(each) for alias, each in scope.borrowed.items()}]
