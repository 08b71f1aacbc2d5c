"""Keys with their values in texts: how they are spelled, and the order in which they come."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

KEY = r"[^\W\d][\w.-]*"
"""What spells a key; here, and below, as an expression."""

BEFORE_KEY = r"(?:(?<=[\s,;&|?(\[{])|\A)"
"""Where a key may stand: behind a blank, a mark that parts it from others, or what opens; or where a text begins."""

QUOTED_VALUE = r'"(?:[^"\\]|\\.)*"'
"""A value in quotes, in which these may be escaped."""

HAPPENED = ("msg", "message", "event")
"""Keys of what happened, by which lines of one origin are told from others of the same keys."""

LEVELS = frozenset(
    (
        *("trace", "debug", "verbose", "info", "notice", "warn", "warning", "error", "err", "severe", "critical"),
        *("crit", "fatal", "alert", "emerg", "panic"),
    )
)
"""Words that say how grave something is, which is a value, whatever stands behind it."""


def common_order(sequences: Iterable[Sequence[str]]) -> list[str] | None:
    """Return keys in an order that all sequences of them keep, those of one mostly together; None where none is.

    The first sequences say which comes first where nothing else does (A. B. Kahn, "Topological sorting of large
    networks", 1962).
    """
    # `why` needs but the expressions above.
    from graphlib import CycleError, TopologicalSorter

    before: dict[str, set[str]] = {}
    for keys in sequences:
        last: set[str] = set()
        for key in keys:
            before.setdefault(key, set()).update(last)
            last = {key}
    sorter = TopologicalSorter(before)
    try:
        sorter.prepare()
    except CycleError:
        return None
    order: list[str] = []
    ready = [*sorter.get_ready()]
    while ready:
        following = (each for each in ready if order and order[-1] in before[each])
        order.append(next(following, ready[0]))
        ready.remove(order[-1])
        sorter.done(order[-1])
        ready += sorter.get_ready()
    return order
