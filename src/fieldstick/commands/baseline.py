"""`baseline`: what check found, recorded for later runs to be held against."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import click

from fieldstick.commands.progress import byte_progress, sample_progress
from fieldstick.commands.rendering import notes_for
from fieldstick.commands.saying import tell
from fieldstick.comparing.baseline import parts_of, read_baseline, records_of, write_baseline
from fieldstick.errors import EXIT_FAILED, EXIT_PASSED, UsageError
from fieldstick.reporting.baseline_report import changes_report
from fieldstick.reporting.terminal import Terminal
from fieldstick.reporting.words import counted
from fieldstick.suites.finding import baseline_path
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    from fieldstick.comparing.baseline import Baseline
    from fieldstick.runs.results import CheckResult, SuiteResult


@click.command(short_help="Record what check found, for later runs to be held against.")
@click.argument("paths", nargs=-1, metavar="[PATH]...")
@click.option("--yes", is_flag=True, help="Record without asking.")
@click.option("--verify", is_flag=True, help="Record nothing; status 1 where there is something to record.")
@click.option("--even-so", is_flag=True, help="Record even while samples time out or cannot be judged.")
@click.option(
    "--jobs", type=click.IntRange(min=1), default=1, show_default=True, metavar="N", help="Judge in N processes."
)
def command(paths: tuple[str, ...], yes: bool, verify: bool, even_so: bool, jobs: int) -> int:
    """Record the outcomes and fields that check finds now, beside each suite as NAME.baseline.json.

    Shows first what will change against the baseline that is there, and asks. With --verify nothing is recorded: it
    says whether the baselines are those of the suites as they are.
    """
    workspace = Workspace()
    suites = workspace.suites(paths)
    before = {suite.file: read_baseline(suite) for suite in suites}
    progress = sample_progress(sum(len(each.samples) for suite in suites for each in suite.judged))
    result = workspace.check(suites, jobs=jobs, progress=progress, reading=byte_progress)
    notes_for(result)
    Terminal.of().show(changes_report(result))
    _refuse_unsettled(result, even_so)
    pending = [each for each in result.suites if _differs(each, before[each.suite.file])]
    if not pending:
        tell("Nothing to record.")
        return EXIT_PASSED
    if verify:
        names = ", ".join(baseline_path(each.suite.file) for each in pending)
        tell(f"Not as recorded: {names}; 'fieldstick baseline' records what is meant.")
        return EXIT_FAILED
    if not yes and not _agreed(len(pending)):
        tell("Nothing was recorded.")
        return EXIT_FAILED
    for each in pending:
        write_baseline(each.suite, records_of(each), before[each.suite.file], _trials_of(each))
        name = baseline_path(each.suite.file)
        trials = f" and {counted(len(each.trials), 'trial')}" if each.trials else ""
        tell(f"Recorded {name}: {each.totals.samples} samples{trials}.")
    return EXIT_PASSED


def _refuse_unsettled(result: CheckResult, even_so: bool) -> None:
    unsettled = result.totals.error + result.totals.timeout
    if unsettled and not even_so:
        raise UsageError(
            f"{unsettled} samples time out or cannot be judged; mend them first ('fieldstick check' shows them), "
            "or record all the same with --even-so"
        )
    unrun = next((each for each in result.trials if each.error is not None), None)
    if unrun is not None:
        raise UsageError(f"the trial over {unrun.trial.data} cannot be run: {unrun.error}")
    if not result.checked:
        raise UsageError("nothing to record: no pattern here has a sample")


def _trials_of(result: SuiteResult) -> dict[str, Any]:
    """Return what is recorded of the trials of a suite, as plain data."""
    if not result.trials:
        return {}
    from msgspec import to_builtins

    from fieldstick.comparing.trial_records import record_of

    return {each.trial.key: to_builtins(record_of(each)) for each in result.trials}


def _differs(result: SuiteResult, before: Baseline | None) -> bool:
    if not result.totals.samples and not result.trials and result.baseline is None:
        return False
    if result.baseline is None or before is None or result.gone or result.gone_trials:
        return True
    if _trials_of(result) != before.trials or parts_of(result.suite) != before.parts:
        return True
    return any(
        each.standing != "steady" or each.recorded_otherwise for pattern in result.patterns for each in pattern.samples
    )


def _agreed(number: int) -> bool:
    what = "this baseline" if number == 1 else f"these {number} baselines"
    try:
        return click.confirm(f"Record {what}?")
    except click.Abort:
        raise UsageError("nobody answered; nothing was recorded. Add --yes to record without asking") from None
