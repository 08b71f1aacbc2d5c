"""A check as SARIF 2.1.0 (OASIS Standard, 27 March 2020), which code hosts show beside the lines of a change."""

from __future__ import annotations

import json
import os
from pathlib import Path
from typing import TYPE_CHECKING, Any
from urllib.parse import quote

from fieldstick._version import __version__
from fieldstick.reporting.findings import RULES, findings_of, findings_of_problems

if TYPE_CHECKING:
    from collections.abc import Iterable

    from fieldstick.problem import Problem
    from fieldstick.reporting.findings import Finding
    from fieldstick.runs.results import CheckResult

VERSION = "2.1.0"


def check_as_sarif(result: CheckResult) -> str:
    """Write a check as SARIF."""
    return _written(findings_of(result), successful=True)


def problems_as_sarif(problems: Iterable[Problem]) -> str:
    """Write the mistakes of suite files as SARIF: nothing was checked."""
    return _written(findings_of_problems(problems), successful=False)


def findings_as_sarif(findings: Iterable[Finding]) -> str:
    """Write any findings as SARIF."""
    return _written(findings, successful=True)


def _written(findings: Iterable[Finding], *, successful: bool) -> str:
    found = list(findings)
    rules = sorted({each.rule for each in found})
    run = {
        "tool": {
            "driver": {
                "name": "Fieldstick",
                "semanticVersion": __version__,
                "rules": [_rule(rule) for rule in rules],
            }
        },
        "invocations": [{"executionSuccessful": successful}],
        "columnKind": "unicodeCodePoints",
        "results": [_result(each, rules.index(each.rule)) for each in found],
    }
    return json.dumps({"version": VERSION, "runs": [run]}, indent=1) + "\n"


def _rule(rule: str) -> dict[str, Any]:
    return {"id": rule, "shortDescription": {"text": RULES.get(rule, f"Hazard: {rule.replace('-', ' ')}")}}


def _result(finding: Finding, index: int) -> dict[str, Any]:
    place: dict[str, Any] = {"artifactLocation": {"uri": _uri(finding.file)}}
    if finding.line:
        place["region"] = {"startLine": finding.line}
        if finding.column:
            place["region"]["startColumn"] = finding.column
    return {
        "ruleId": finding.rule,
        "ruleIndex": index,
        "level": finding.level,
        # Lone surrogates are no text.
        "message": {"text": finding.message.encode("utf-8", "replace").decode("utf-8")},
        "locations": [{"physicalLocation": place}],
    }


def _uri(file: str) -> str:
    """Return a path as a URI reference (RFC 3986), relative to where the check ran."""
    if os.path.isabs(file):
        return Path(file).as_uri()
    return quote(os.path.normpath(file).replace(os.sep, "/"), errors="surrogateescape")
