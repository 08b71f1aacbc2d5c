"""The order in which keys come in texts that have some of them each."""

from __future__ import annotations

from graphlib import CycleError, TopologicalSorter
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence


def common_order(sequences: Iterable[Sequence[str]]) -> list[str] | None:
    """Return keys in an order that all sequences of them keep, those of one mostly together; None where none is.

    The first sequences say which comes first where nothing else does (A. B. Kahn, "Topological sorting of large
    networks", 1962).
    """
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
