"""Fieldstick keeps, checks and uses shared suites of extraction and validation patterns.

The public names are loaded when first asked for, so that importing the package costs next to nothing.
"""

from __future__ import annotations

from fieldstick._version import __version__

TYPE_CHECKING = False
"""What type checkers take for true; the module that has it would take a while to load."""

if TYPE_CHECKING:
    from typing import Any

    from fieldstick.analysis.danger import Danger
    from fieldstick.analysis.relation import Relation
    from fieldstick.errors import (
        BudgetSpent,
        DataWarning,
        EngineUnusable,
        ExpressionError,
        FieldstickError,
        SuiteFileError,
        UsageError,
    )
    from fieldstick.library import LoadedSuite, ReadyPattern, check, danger, load_suite, relation
    from fieldstick.matching.result import FieldValue, Match, Result, Unfit
    from fieldstick.problem import Problem
    from fieldstick.runs.results import CheckResult, SampleResult, SuiteResult

_HOMES = {
    "fieldstick.library": ("LoadedSuite", "ReadyPattern", "check", "danger", "load_suite", "relation"),
    "fieldstick.analysis.danger": ("Danger",),
    "fieldstick.analysis.relation": ("Relation",),
    "fieldstick.errors": (
        "BudgetSpent",
        "DataWarning",
        "EngineUnusable",
        "ExpressionError",
        "FieldstickError",
        "SuiteFileError",
        "UsageError",
    ),
    "fieldstick.matching.result": ("FieldValue", "Match", "Result", "Unfit"),
    "fieldstick.runs.results": ("CheckResult", "SampleResult", "SuiteResult"),
    "fieldstick.problem": ("Problem",),
}
_HOME_OF = {name: home for home, names in _HOMES.items() for name in names}

__all__ = [
    "BudgetSpent",
    "CheckResult",
    "Danger",
    "DataWarning",
    "EngineUnusable",
    "ExpressionError",
    "FieldValue",
    "FieldstickError",
    "LoadedSuite",
    "Match",
    "Problem",
    "ReadyPattern",
    "Relation",
    "Result",
    "SampleResult",
    "SuiteFileError",
    "SuiteResult",
    "Unfit",
    "UsageError",
    "__version__",
    "check",
    "danger",
    "load_suite",
    "relation",
]


def __getattr__(name: str) -> Any:
    if name not in _HOME_OF:
        raise AttributeError(f"module 'fieldstick' has no attribute '{name}'")
    import importlib

    return getattr(importlib.import_module(_HOME_OF[name]), name)
