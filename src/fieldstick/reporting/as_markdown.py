"""A check as Markdown for a review: the verdict, a table of suites, what needs attention folded beneath."""

from __future__ import annotations

import io
from typing import TYPE_CHECKING

from fieldstick.reporting.check_report import attention_blocks, suite_columns
from fieldstick.reporting.markdown import escaped, folded, row
from fieldstick.reporting.terminal import DEFAULT_WIDTH, Terminal
from fieldstick.reporting.trial_report import trials_report
from fieldstick.reporting.words import verdict

if TYPE_CHECKING:
    from collections.abc import Iterable

    from fieldstick.reporting.document import Block
    from fieldstick.runs.results import CheckResult


def check_as_markdown(result: CheckResult) -> str:
    """Write a check for a review comment."""
    words = verdict(result)
    columns = suite_columns(result)
    lines = [f"**{escaped(words[0].upper() + words[1:])}**", ""]
    lines += [row(["suite", "samples", *(name for _, name in columns)]), row(["---"] * (2 + len(columns)))]
    for suite in result.suites:
        counts = [str(getattr(suite.totals, key) or "") for key, _ in columns]
        lines.append(row([escaped(suite.suite.name), f"{suite.totals.samples:,}", *counts]))
    drawn = plain_lines([*attention_blocks(result), *trials_report(result)])
    return "\n".join([*lines, "", *folded("What needs attention", drawn)]).rstrip() + "\n"


def plain_lines(blocks: Iterable[Block]) -> list[str]:
    """Return a document as lines of plain text."""
    sink = io.StringIO()
    Terminal(sink, DEFAULT_WIDTH).show(blocks)
    return sink.getvalue().rstrip("\n").splitlines()
