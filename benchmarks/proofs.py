"""Times proofs over expressions: relations of random pairs, and what takes forever among harvested expressions.

Printed are medians and the like in milliseconds of this machine, beside the time that `re.compile` takes for the same
expressions in the same run, and how many were decided. Run with `make bench`.
"""

from __future__ import annotations

import random
import re
import statistics
import sys
import time
import warnings
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))
sys.path.insert(0, str(Path(__file__).parents[1] / "tests" / "analysis"))

from test_relation import drawn_pair

from fieldstick.analysis.danger import danger_of
from fieldstick.analysis.relation import Reading, relation_of
from fieldstick.engines.budget import watching
from fieldstick.errors import SyntaxFault
from harvest import expressions

PAIRS, SEED = 1_000, 5


def told(name: str, seconds: list[float], beside: list[float], decided: int) -> None:
    """Print the figures of one kind of proof."""
    ordered = sorted(1000 * each for each in seconds)
    ratio = statistics.median(seconds) / statistics.median(beside)
    print(
        f"{name}: {len(seconds):,}, {decided / len(seconds):.1%} decided; median {statistics.median(ordered):.1f} ms "
        f"({ratio:.1f} x compiling), 90 % within {ordered[int(0.9 * len(ordered))]:.1f} ms, most {ordered[-1]:.0f} ms"
    )


def compiled_in(*texts: str) -> float:
    """Return the seconds that the engine takes to compile expressions anew."""
    started = time.perf_counter()
    for text in texts:
        re.purge()
        re.compile(text)
    return time.perf_counter() - started


def main() -> None:
    """Print the figures."""
    warnings.simplefilter("ignore")
    chance = random.Random(SEED)
    harvested = list(expressions())
    relation_of(Reading(r"\w"), Reading(r"(?i)\d\s"))  # what the engine is asked once is asked here
    with watching():
        for name, draw in (
            ("relation of random pairs", lambda: drawn_pair(chance)),
            ("relation of pairs of harvested expressions", lambda: tuple(chance.sample(harvested, 2))),
        ):
            seconds, beside, decided = [], [], 0
            while len(seconds) < PAIRS:
                pair = draw()
                try:
                    beside.append(compiled_in(*pair))
                    started = time.perf_counter()
                    found = relation_of(Reading(pair[0]), Reading(pair[1]))
                except (re.error, SyntaxFault):
                    del beside[len(seconds) :]
                    continue
                seconds.append(time.perf_counter() - started)
                decided += found.relation != "undecided"
            told(name, seconds, beside, decided)
        seconds, beside, kinds = [], [], {}
        for expression in harvested:
            try:
                beside.append(compiled_in(expression))
                started = time.perf_counter()
                kind = danger_of(Reading(expression)).kind
            except (re.error, SyntaxFault):
                del beside[len(seconds) :]
                continue
            seconds.append(time.perf_counter() - started)
            kinds[kind] = kinds.get(kind, 0) + 1
        told("danger of harvested expressions", seconds, beside, len(seconds) - kinds.get("unknown", 0))
        print("  of these " + ", ".join(f"{count:,} {kind}" for kind, count in sorted(kinds.items())))


if __name__ == "__main__":
    main()
