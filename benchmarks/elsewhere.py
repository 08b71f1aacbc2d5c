"""Times many texts given to an engine of another language at once against each asked of on its own.

Both give the same readings, which is checked; an engine that is not usable here is left out by its name. Run with
`make bench`.
"""

from __future__ import annotations

import random
import time
from statistics import median
from typing import TYPE_CHECKING

from fieldstick.engines.registry import ENGINES, why_unusable
from fieldstick.matching.prepare import prepare
from fieldstick.workspace import bare_pattern

if TYPE_CHECKING:
    from collections.abc import Callable

TEXTS = 20_000
ROUNDS = 3
EXPRESSION = r"([A-F][0-9]{2}) moisture=([0-9]+[.][0-9])%"


def texts() -> list[str]:
    """Return lines of a log, of which two in three fit."""
    chance = random.Random(1)
    return [
        f"2026-05-04 probe={chance.choice('ABCG')}{chance.randrange(100):02d} moisture={chance.randrange(990) / 10}%"
        for _ in range(TEXTS)
    ]


def seconds(work: Callable[[], object]) -> float:
    """Return the median of some runs."""
    spent = []
    for _ in range(ROUNDS):
        started = time.perf_counter()
        work()
        spent.append(time.perf_counter() - started)
    return median(spent)


def main() -> None:
    """Print a line for each engine."""
    lines = texts()
    for info in ENGINES:
        if info.name == "python" or not info.captures:
            continue
        if why_unusable(info.name) is not None:
            print(f"{info.name:13} left out: it is not usable here")
            continue
        matcher = prepare(bare_pattern(EXPRESSION, reach="anywhere"), engine=info.name)
        at_once, one_by_one = matcher.read_many(lines), [matcher.read(each) for each in lines]
        assert [repr(each) for each in at_once] == [repr(each) for each in one_by_one], info.name
        single = seconds(lambda: [matcher.read(each) for each in lines])  # noqa: B023 - it is called at once
        many = seconds(lambda: matcher.read_many(lines))  # noqa: B023
        cost = f"{1e6 * many / TEXTS:.0f} µs a text"
        print(f"{info.name:13} at once {many:.2f} s, one by one {single:.2f} s: {single / many:.1f} × ({cost})")


if __name__ == "__main__":
    main()
