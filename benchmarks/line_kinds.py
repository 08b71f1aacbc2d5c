"""Counts what `survey` makes of logs of which it is known what origin each line has: is each origin one kind?

The logs are drawn at random (`tests/drawn_logs.py`): three to thirteen origins each, 300 to 3,000 lines, of which some
begin with a moment, a level or a program, words that stay, parts that vary in fourteen ways, and prose; and some of 300
origins each, all as common. Run with `make bench`; `--show` prints the origins that are told as several kinds, and the
kinds that are of several.
"""

from __future__ import annotations

import argparse
import sys
from collections import Counter, defaultdict
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from drawn_logs import drawn_log
from fieldstick.runs.line_kinds import LineKinds

FIRST, LOGS = 20261129, 300
MANY, LOGS_OF_MANY = 300, 8


def judged(seed: int, *, show: bool, many: int | None = None) -> Counter[str]:
    """Return what is counted of one log."""
    log = drawn_log(seed, many=many)
    found = LineKinds(keeps_lines=True)
    found.add_many(range(1, len(log.lines) + 1), [text for _, text in log.lines])
    kinds = found.kinds()
    kind_of = {line.text: kind.text for kind in kinds for line in found.lines_of(kind)}
    by_origin: dict[int, set[str]] = defaultdict(set)
    by_kind: dict[str, set[int]] = defaultdict(set)
    for origin, text in log.lines:
        by_origin[origin].add(kind_of[text])
        by_kind[kind_of[text]].add(origin)
    several = [told for told in by_origin.values() if len(told) > 1]
    mixed = [text for text, origins in by_kind.items() if len(origins) > 1]
    if show and (several or mixed):
        print(
            f"log {seed}",
            *(f"  several {sorted(told)[:4]}" for told in several),
            *(f"  of several {each}" for each in mixed),
            sep="\n",
        )
    alone = [origins for origins in by_kind.values() if len(origins) == 1]
    apart = {origin for origins in alone for origin in origins}
    return Counter(
        logs=1,
        apart=sum(origin in apart for origin, _ in log.lines),
        lines=len(log.lines),
        exact=not several and not mixed,
        origins=log.origins,
        several=len(several),
        kinds=len(kinds),
        mixed=len(mixed),
    )


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--show", action="store_true")
    parser.add_argument("--first", type=int, default=FIRST)
    parser.add_argument("--logs", type=int, default=LOGS)
    asked = parser.parse_args()
    print(
        "| logs | told exactly | origins | told as several kinds | kinds | of several origins | lines of an own kind |"
    )
    print("|---|---|---|---|---|---|---|")
    for logs, many in ((asked.logs, None), (min(asked.logs, LOGS_OF_MANY), MANY)):
        total = Counter[str]()
        for seed in range(asked.first, asked.first + logs):
            total += judged(seed, show=asked.show, many=many)
        exact, apart = (f"{100 * total[one] / total[of]:.0f}%" for one, of in (("exact", "logs"), ("apart", "lines")))
        told = [f"{total[each]:,}" for each in ("origins", "several", "kinds", "mixed")]
        print(f"| {' | '.join([str(total['logs']), exact, *told, apart])} |")


if __name__ == "__main__":
    main()
