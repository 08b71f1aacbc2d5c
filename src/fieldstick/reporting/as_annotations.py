"""A check as annotations: a line a finding, in the form that build servers show beside the line of a file.

The form is that of workflow commands: `::error file=F,line=N,title=T::words`, what would end a part of it as `%0A`.
"""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from fieldstick.reporting.cells import Charset, visible
from fieldstick.reporting.findings import findings_of, findings_of_problems

if TYPE_CHECKING:
    from collections.abc import Iterable

    from fieldstick.problem import Problem
    from fieldstick.reporting.findings import Finding
    from fieldstick.runs.results import CheckResult

_LEVELS = {"error": "error", "warning": "warning", "note": "notice"}
_OF_MESSAGE, _OF_PROPERTY = re.compile(r"[%\r\n]"), re.compile(r"[%\r\n:,]")


def check_as_annotations(result: CheckResult) -> str:
    """Write a check as annotations."""
    return _written(findings_of(result))


def problems_as_annotations(problems: Iterable[Problem]) -> str:
    """Write the mistakes of suite files as annotations."""
    return _written(findings_of_problems(problems))


def _written(findings: Iterable[Finding]) -> str:
    return "".join(
        f"::{_LEVELS[each.level]} file={_escaped(each.file, _OF_PROPERTY)},line={max(1, each.line)},"
        f"title={_escaped(f'Fieldstick {each.rule}', _OF_PROPERTY)}::{_escaped(each.message, _OF_MESSAGE)}\n"
        for each in findings
    )


def _escaped(text: str, pattern: re.Pattern[str]) -> str:
    shown = "".join(each if each in "\r\n" else visible(each, Charset("utf-8")) for each in text)
    return pattern.sub(lambda found: f"%{ord(found[0]):02X}", shown)
