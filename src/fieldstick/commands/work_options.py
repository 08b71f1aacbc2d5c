"""How work on data is done, how much of it, and what is kept of how it went."""

from __future__ import annotations

import time
from datetime import UTC
from typing import TYPE_CHECKING, Any

import click
from msgspec import Struct, field

from fieldstick._version import __version__
from fieldstick.commands.option_groups import collecting, jobs_option, option, patient_option
from fieldstick.commands.saying import say
from fieldstick.commands.sources import closing
from fieldstick.data.storage import without_secret
from fieldstick.errors import EXIT_FAILED, UsageError
from fieldstick.files import write_whole
from fieldstick.runs.processes import Processes

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

    from fieldstick.commands.option_groups import Decorator
    from fieldstick.data.rows import Sink
    from fieldstick.data.source import Source
    from fieldstick.matching.tally import Tally
    from fieldstick.runs.executor import Executor


class WorkOptions(Struct, frozen=True):
    """How work is to be done, as asked on the command line, and when it began."""

    jobs: int | None = None
    cluster: str | None = None
    any_order: bool = False
    report: str | None = None
    limit: int | None = None
    began: float = field(default_factory=time.perf_counter)
    started: float = field(default_factory=time.time)

    def executor(self, form: str = "") -> Executor:
        """Return who does it; `form` is the form of file that rows go to. Raises UsageError."""
        if self.cluster is not None and self.jobs is not None:
            raise UsageError("give --jobs N or --cluster ADDRESS, not both")
        if self.any_order and self.cluster is None:
            raise UsageError("--any-order goes with --cluster; here rows keep their order at no cost")
        if self.limit is not None and (self.cluster is not None or self.jobs not in (None, 1)):
            raise UsageError("--limit reads from the beginning, one text after the other: leave --jobs and --cluster")
        if self.cluster is None:
            return Processes(self.jobs if self.limit is None else 1, form)
        return cluster_at(self.cluster, any_order=self.any_order)

    def limited(self, sink: Sink) -> Sink:
        """Return a sink that takes as many rows as are wanted."""
        if self.limit is None:
            return sink
        from fieldstick.data.limited import LimitedSink

        return LimitedSink(sink, self.limit)

    def close(
        self,
        command: str,
        sources: Sequence[Source],
        tallies: Sequence[tuple[str, Tally]],
        *,
        written: Iterable[str | None] = (),
        failed: bool = False,
        own: dict[str, Any] | None = None,
        once: bool = False,
    ) -> int:
        """Say what could not be read as asked, keep the report that is asked for, and return the exit status.

        `tallies` have the name of what was counted, `written` the files that were. `own` is what the command alone
        has to tell, and `failed` whether that is a failure. With `once` the first tally alone tells of texts given up,
        the others having read the same. Raises UsageError when the report cannot be written.
        """
        if self.limit is not None and any(tally.rows >= self.limit or tally.fit >= self.limit for _, tally in tallies):
            say(f"stopped after {self.limit:,}, as --limit asks; what is counted was read up to there")
        status = closing(sources, [tally for _, tally in (tallies[:1] if once else tallies)])
        status = EXIT_FAILED if failed else status
        if self.report is not None:
            import json
            from datetime import datetime

            from fieldstick.reporting.run_report import run_as_data

            paths = [without_secret(each) for each in written if each is not None and each != "-"]
            told = run_as_data(command, sources, tallies, paths, own or {})
            started = datetime.fromtimestamp(int(self.started), UTC).isoformat()
            seconds = round(time.perf_counter() - self.began, 3)
            head = {"format": 1, "version": __version__, "started": started, "seconds": seconds}
            content = json.dumps({**head, "status": status, **told}, indent=1) + "\n"
            if self.report == "-":
                click.echo(content, nl=False)
            else:
                write_whole(self.report, content)
        return status


def cluster_at(address: str, *, any_order: bool = False) -> Executor:
    """Return the cluster at an address. Raises UsageError when what it needs is not installed."""
    from fieldstick.runs.cluster import Cluster

    return Cluster(address, any_order=any_order)


def _work(given: dict[str, Any]) -> dict[str, Any]:
    return given | {"work": WorkOptions(**{name: given.pop(name) for name in _NAMES if name in given})}


_NAMES = ("jobs", "cluster", "any_order", "report", "limit")

cluster_option = option(
    "--cluster", metavar="ADDRESS", help="Read data on the Dask cluster whose scheduler is at ADDRESS."
)
"""Adds --cluster."""

_any_order = option(
    "--any-order", is_flag=True, help="With --cluster: rows as they come, not in the order of the sources."
)

_report = option("--report", metavar="FILE", help="Write what came of the run to FILE, as JSON; - for standard output.")

_limit = option("--limit", type=click.IntRange(min=1), metavar="N", help="Stop after N rows.")

work_options: Decorator = collecting((jobs_option, cluster_option, _any_order, _report, patient_option), _work)
"""Adds the options that say how work is done, on a cluster too; the command takes `work`."""

limited_work_options: Decorator = collecting(
    (_limit, jobs_option, cluster_option, _any_order, _report, patient_option), _work
)
"""The same, and --limit."""

here_options: Decorator = collecting((_limit, _report, patient_option), _work)
"""The same for work that one process does."""
