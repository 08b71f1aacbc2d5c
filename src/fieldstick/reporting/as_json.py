"""A check as JSON; docs/suite-format.md describes it."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING, Any

from msgspec import to_builtins

from fieldstick.reporting.engines_report import elsewhere_as_data
from fieldstick.suites.fieldtypes import FieldSpec

if TYPE_CHECKING:
    from fieldstick.comparing.causes import Cause
    from fieldstick.matching.result import FieldValue, Match, Result
    from fieldstick.runs.results import CheckResult, Gone, PatternResult, SampleResult, SuiteResult, Totals
    from fieldstick.suites.suite import Suite

FORMAT = 1


def check_as_json(result: CheckResult) -> str:
    """Write a check as JSON text in ASCII, every other character escaped."""
    return json.dumps(check_as_data(result), indent=1) + "\n"


def check_as_data(result: CheckResult) -> dict[str, Any]:
    """Return a check as plain data."""
    data: dict[str, Any] = {
        "format": FORMAT,
        "suites": [_suite(result, each) for each in result.suites],
        "totals": _totals(result.totals),
        "well": result.all_well,
    }
    if result.hazards is not None:
        data["hazards"] = [to_builtins(each) for each in result.hazards]
    if result.gaps is not None:
        data["gaps"] = [{**to_builtins(each), "share": each.share} for each in result.gaps]
    if result.tolerated:
        data["tolerated"] = sorted(result.tolerated)
    if result.left:
        data["gone"] = [{"suite": each.suite, "file": each.file, "samples": each.samples} for each in result.left]
    if any(each.needs_attention for suite in result.suites for pattern in suite.patterns for each in pattern.samples):
        from fieldstick.comparing.causes import causes

        data["causes"] = [_cause(each) for each in causes(result)]
    return data


def _cause(cause: Cause) -> dict[str, Any]:
    return {
        "kind": cause.kind,
        "through": cause.name,
        "file": cause.file,
        "line": cause.line,
        "samples": [
            {
                "suite": each.suite.suite.name,
                "pattern": each.pattern.pattern.name,
                "kind": each.sample.sample.kind,
                "number": each.sample.sample.number,
            }
            for each in cause.failures
        ],
    }


def _totals(totals: Totals) -> dict[str, int]:
    names = ("fail", "error", "timeout", "regressed", "changed", "mended", "new", "gone")
    counts = {name: int(getattr(totals, name)) for name in names}
    return {"samples": totals.samples, "pass": totals.passed} | counts


def _suite(checked: CheckResult, result: SuiteResult) -> dict[str, Any]:
    data: dict[str, Any] = {
        "suite": result.suite.name,
        "file": result.suite.file,
        "patterns": [_pattern(result.suite, each) for each in result.patterns if "." not in each.pattern.name],
    }
    for each in result.patterns:
        section, dot, name = each.pattern.name.partition(".")
        if dot:
            data.setdefault(section, []).append(_pattern(result.suite, each) | {"name": name})
    if result.trials:
        from fieldstick.reporting.trial_report import trial_as_data

        data["trials"] = [trial_as_data(result, checked, each) for each in result.trials]
    if result.gone_trials:
        data["gone_trials"] = list(result.gone_trials)
    if result.gone:
        data["gone"] = [_gone(each) for each in result.gone]
    return data


def _gone(gone: Gone) -> dict[str, Any]:
    data = {"pattern": gone.pattern, "kind": gone.kind, "text": gone.text, "with_pattern": gone.with_pattern}
    return data | ({"now_in": gone.now_in} if gone.now_in else {})


def _pattern(suite: Suite, result: PatternResult) -> dict[str, Any]:
    return {
        "name": result.pattern.name,
        "engine": result.engine,
        "samples": [_sample(suite, each) for each in result.samples],
        **elsewhere_as_data(suite, result, _sample),
        **({"broken": to_builtins(result.broken)} if result.broken is not None else {}),
    }


def _sample(suite: Suite, result: SampleResult) -> dict[str, Any]:
    sample, reading = result.sample, result.reading
    data: dict[str, Any] = {
        "kind": sample.kind,
        "number": sample.number,
        "line": suite.line_of(sample.path),
        "text": sample.text,
        "outcome": result.outcome,
        "reason": result.reason,
        **(_captured(reading) if sample.expected is None else {"made": result.produced}),
        "differences": [
            {"what": each.what, "name": each.name, "expected": each.expected, "captured": each.captured}
            for each in result.differences
        ],
        "baseline": result.standing,
    }
    optional = {
        "words": result.words,
        "note": sample.note,
        "row": sample.row,
        "with": dict(sample.values) or None,
        "member": reading.member if reading else None,
        "message": reading.message if reading else None,
        "field": reading.unfit.field if reading and reading.unfit else None,
        "changes": [{"name": each.name, "before": each.before, "now": each.now} for each in result.changes],
    }
    data |= {key: value for key, value in optional.items() if value}
    if reading and len(reading.matches) > 1:
        data["matches"] = [_match(each) for each in reading.matches]
    return data


def _captured(reading: Result | None) -> dict[str, Any]:
    return {
        "place": list(reading.place) if reading and reading.place else None,
        "fields": {name: _field(value) for name, value in reading.fields.items()} if reading else {},
    }


def _match(match: Match) -> dict[str, Any]:
    fields = {name: _field(value) for name, value in match.fields.items()}
    return {"text": match.text, "place": list(match.place), "fields": fields}


def _field(field: FieldValue | None) -> dict[str, Any] | None:
    if field is None:
        return None
    return {"text": field.text, "place": list(field.place), "value": json_value(field.value)}


def json_value(value: Any) -> Any:
    """Return a field's value as JSON has it: exact decimals, dates and times as strings."""
    if value is None or isinstance(value, bool | int | str):
        return value
    return FieldSpec.plain(value)
