"""Prints and writes the result of a check in the form that was asked for."""

from __future__ import annotations

import importlib
import io
from typing import TYPE_CHECKING

from fieldstick.commands.saying import print_text, say
from fieldstick.errors import SuiteFileError, UsageError, hint
from fieldstick.files import write_whole
from fieldstick.reporting.terminal import DEFAULT_WIDTH, Terminal

if TYPE_CHECKING:
    from collections.abc import Iterable

    from fieldstick.runs.results import CheckResult

FORMATS = ("text", "json", "junit", "tap", "sarif", "annotations")
"""The forms of a check; all but text are made by `check_as_FORM` in `reporting/as_FORM.py`."""


def rendered(result: CheckResult, form: str) -> str:
    """Return a check in one of the forms, as it goes to a file."""
    if form != "text":
        module = importlib.import_module(f"fieldstick.reporting.as_{form}")
        text: str = getattr(module, f"check_as_{form}")(result)
        return text
    sink = io.StringIO()
    _write_text(result, Terminal(sink, DEFAULT_WIDTH))
    return sink.getvalue()


def print_check(result: CheckResult, form: str) -> None:
    """Print a check to standard output."""
    if form == "text":
        _write_text(result, Terminal.of())
    else:
        print_text(rendered(result, form))


OF_MISTAKES = ("sarif", "annotations")
"""Forms that tell of mistakes in suite files too."""


def write_problems(error: SuiteFileError, form: str, reports: Iterable[tuple[str, str]]) -> None:
    """Write the mistakes of suite files in those of the forms asked for that can tell of them."""
    for kind, file in [(form, "-"), *reports]:
        if kind in OF_MISTAKES:
            module = importlib.import_module(f"fieldstick.reporting.as_{kind}")
            text: str = getattr(module, f"problems_as_{kind}")(error.problems)
            _write_to(None if file == "-" else file, text)


def _write_text(result: CheckResult, terminal: Terminal) -> None:
    from fieldstick.reporting.check_report import check_report

    terminal.show(check_report(result))


def parse_reports(reports: Iterable[str]) -> list[tuple[str, str]]:
    """Split each KIND=FILE.

    Raises UsageError for a kind that there is not, or a missing file name.
    """
    parsed = []
    for report in reports:
        kind, equals, file = report.partition("=")
        if kind not in FORMATS:
            raise UsageError(f"--report {report}: there is no kind '{kind}'{hint(kind, FORMATS)}")
        if not equals or not file:
            raise UsageError(f"--report {report}: name a file, as in {kind}=check.{kind}")
        parsed.append((kind, file))
    return parsed


def write_reports(result: CheckResult, reports: Iterable[tuple[str, str]]) -> None:
    """Write each report whole or not at all; to standard output where the file is `-`."""
    for kind, file in reports:
        _write_to(None if file == "-" else file, rendered(result, kind))


def _write_to(file: str | None, text: str) -> None:
    if file is None:
        print_text(text)
    else:
        write_whole(file, text)


def notes_for(result: CheckResult) -> None:
    """Say on standard error what was not done: tables left unread, patterns without a sample."""
    for suite in result.suites:
        if suite.without_samples:
            names = ", ".join(suite.without_samples)
            say(f"{suite.suite.file}: no sample tests {names}")
        for each in suite.trials:
            if each.undecodable:
                lines = "1 line has" if each.undecodable == 1 else f"{each.undecodable:,} lines have"
                say(f"{each.trial.file}: {lines} bytes that are no text, kept as they are")
        if not suite.patterns:
            say(f"{suite.suite.file}: the suite has no pattern")
