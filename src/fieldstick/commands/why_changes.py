"""How a change that `why` found is written to a suite."""

from __future__ import annotations

import os
from pathlib import Path
from typing import TYPE_CHECKING

from fieldstick.commands.saying import tell
from fieldstick.errors import UsageError
from fieldstick.reporting.check_report import check_report
from fieldstick.reporting.terminal import Terminal
from fieldstick.reporting.why_answers import writing_of
from fieldstick.suites.editing import edit, text_of_file

if TYPE_CHECKING:
    from fieldstick.reporting.why_report import Answer
    from fieldstick.workspace import Chosen, Workspace


def apply(workspace: Workspace, chosen: Chosen, answer: Answer, number: int) -> None:
    """Write a change to the suite, after the outcome of a check with it was shown.

    Raises UsageError where there is no such change, or it cannot be written.
    """
    suite, repairs = chosen.suite, answer.found.repairs
    assert suite is not None
    if number > len(repairs):
        raise UsageError(f"--apply {number}: there are {len(repairs)} changes")
    repair = repairs[number - 1]
    writing = writing_of(chosen, answer, repair)
    made = writing.changed(text_of_file(Path(writing.file)))
    suites = workspace.edited_suites([suite.file], {os.path.realpath(writing.file): made})
    Terminal.of().show(check_report(workspace.check(suites, trials=False)))
    edit(Path(writing.file), writing.changed)
    tell(f"Wrote change {number} to {writing.file}: {repair.words}")
    tell(f"Next: fieldstick check {suite.file}")
