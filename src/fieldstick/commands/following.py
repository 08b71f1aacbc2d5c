"""--follow: a file that grows is read until somebody ends that."""

from __future__ import annotations

from contextlib import contextmanager
from typing import TYPE_CHECKING, Any

import click
from msgspec import Struct
from msgspec.structs import replace

from fieldstick.commands.option_groups import collecting, option
from fieldstick.commands.sources import sources_of
from fieldstick.ending import at_leisure
from fieldstick.errors import UsageError

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.commands.option_groups import Decorator
    from fieldstick.commands.work_options import WorkOptions
    from fieldstick.data.read_options import ReadOptions
    from fieldstick.data.source import Source


class Following(Struct, frozen=True):
    """Whether the source is followed as it grows, and from where on."""

    asked: bool = False
    from_now: bool = False

    def sources(self, names: Sequence[str], read_options: ReadOptions, work: WorkOptions) -> list[Source]:
        """Open the sources; one that is followed ends with the first interrupt. Raises UsageError."""
        if self.from_now and not self.asked:
            raise UsageError("--from-now goes with --follow")
        if not self.asked:
            return sources_of(names, replace(read_options, piece_by_piece=work.limit is not None))
        if len(names) != 1:
            raise UsageError("--follow follows one file; name it")
        if work.cluster is not None or work.jobs not in (None, 1):
            raise UsageError("--follow reads in one process: leave --jobs and --cluster")
        return click.get_current_context().with_resource(_followed(names[0], read_options, from_now=self.from_now))


@contextmanager
def _followed(name: str, read_options: ReadOptions, *, from_now: bool) -> Iterator[list[Source]]:
    from fieldstick.data.followed import FollowedSource

    with at_leisure() as is_over:
        yield [FollowedSource(name, read_options, is_over, from_now=from_now)]


def _following(given: dict[str, Any]) -> dict[str, Any]:
    return given | {"following": Following(given.pop("follow"), given.pop("from_now"))}


follow_options: Decorator = collecting(
    (
        option("--follow", is_flag=True, help="Go on as the file grows or is replaced, until interrupted."),
        option("--from-now", is_flag=True, help="With --follow: pass over what the file holds already."),
    ),
    _following,
)
"""Adds --follow and --from-now; the command takes `following`."""
