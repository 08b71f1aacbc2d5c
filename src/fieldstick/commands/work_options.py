"""How work on data is done: in how many processes, or on which cluster."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fieldstick.commands.option_groups import collecting, jobs_option, option, patient_option
from fieldstick.errors import UsageError
from fieldstick.runs.processes import Processes

if TYPE_CHECKING:
    from fieldstick.commands.option_groups import Decorator
    from fieldstick.runs.executor import Executor


class WorkOptions(Struct, frozen=True):
    """How work is to be done, as asked on the command line."""

    jobs: int | None = None
    cluster: str | None = None
    any_order: bool = False

    def executor(self, form: str = "") -> Executor:
        """Return who does it; `form` is the form of file that rows go to. Raises UsageError."""
        if self.cluster is not None and self.jobs is not None:
            raise UsageError("give --jobs N or --cluster ADDRESS, not both")
        if self.any_order and self.cluster is None:
            raise UsageError("--any-order goes with --cluster; here rows keep their order at no cost")
        if self.cluster is None:
            return Processes(self.jobs, form)
        return cluster_at(self.cluster, any_order=self.any_order)


def cluster_at(address: str, *, any_order: bool = False) -> Executor:
    """Return the cluster at an address. Raises UsageError when what it needs is not installed."""
    from fieldstick.runs.cluster import Cluster

    return Cluster(address, any_order=any_order)


def _work(given: dict[str, Any]) -> dict[str, Any]:
    return given | {"work": WorkOptions(given.pop("jobs"), given.pop("cluster"), given.pop("any_order"))}


cluster_option = option(
    "--cluster", metavar="ADDRESS", help="Read data on the Dask cluster whose scheduler is at ADDRESS."
)
"""Adds --cluster."""

_any_order = option(
    "--any-order", is_flag=True, help="With --cluster: rows as they come, not in the order of the sources."
)

work_options: Decorator = collecting((jobs_option, cluster_option, _any_order, patient_option), _work)
"""Adds the options that say how work is done, on a cluster too; the command takes `work`."""
