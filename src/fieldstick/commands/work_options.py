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
        from fieldstick.runs.cluster import Cluster

        return Cluster(self.cluster, any_order=self.any_order)


def _work(given: dict[str, Any]) -> dict[str, Any]:
    return given | {"work": WorkOptions(given.pop("jobs"), given.pop("cluster"), given.pop("any_order"))}


cluster_options = (
    option("--cluster", metavar="ADDRESS", help="Work on the Dask cluster whose scheduler is at ADDRESS."),
    option("--any-order", is_flag=True, help="With --cluster: rows as they come, not in the order of the sources."),
)
"""--cluster and --any-order."""

work_options: Decorator = collecting((jobs_option, *cluster_options, patient_option), _work)
"""Adds the options that say how work is done, on a cluster too; the command takes `work`."""
