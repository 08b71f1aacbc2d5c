"""How a change that `why` found is written to a suite."""

from __future__ import annotations

import os
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace

from fieldstick.commands.saying import tell
from fieldstick.errors import UsageError

if TYPE_CHECKING:
    from fieldstick.drafting.applying import WrittenChange
    from fieldstick.drafting.context import Repair
    from fieldstick.drafting.diagnosis import Diagnosis
    from fieldstick.reporting.why_report import Answer
    from fieldstick.suites.suite import Pattern
    from fieldstick.workspace import Chosen, Workspace


def apply(workspace: Workspace, chosen: Chosen, answer: Answer, number: int) -> None:
    """Write a change to the suite, after the outcome of a check with it was shown.

    Raises UsageError where there is no such change, or it cannot be written.
    """
    from fieldstick.drafting.applying import edited
    from fieldstick.reporting.check_report import check_report
    from fieldstick.reporting.terminal import Terminal
    from fieldstick.suites.editing import edit, text_of_file

    suite, found = chosen.suite, answer.found
    assert suite is not None
    if number > len(found.repairs):
        raise UsageError(f"--apply {number}: there are {len(found.repairs)} changes")
    pattern = _decided(chosen, answer)
    repair = found.repairs[number - 1]
    change = _change(found, repair, chosen, answer)
    file = suite.file
    if change is not None and change.part is not None:
        file, own = suite.home_of_part(change.part)
        change = replace(change, part=own)

    def changed(document: str) -> str:
        return edited(document, pattern, found.case, repair, change)

    made = workspace.edited_suites([suite.file], {os.path.realpath(file): changed(text_of_file(Path(file)))})
    Terminal.of().show(check_report(workspace.check(made, trials=False)))
    edit(Path(file), changed)
    tell(f"Wrote change {number} to {file}: {repair.words}")
    tell(f"Next: fieldstick check {suite.file}")


def _decided(chosen: Chosen, answer: Answer) -> Pattern:
    """Return the pattern that decided. Raises UsageError for a member that another suite keeps."""
    if not answer.path:
        return chosen.pattern
    name = answer.path[-1][1]
    assert chosen.suite is not None
    if name not in chosen.suite.patterns:
        raise UsageError(f"'{name}' is kept in another suite; ask why there, and --apply it there")
    return chosen.suite.patterns[name]


def _change(found: Diagnosis, repair: Repair, chosen: Chosen, answer: Answer) -> WrittenChange | None:
    if repair.case.expression == found.case.expression:
        return None
    if chosen.values:
        raise UsageError("a pattern with parameters is changed in its file: the change was tried with their values")
    return answer.written_change(repair)
