"""Times a trial over a log of 50 MB against `route` over the same file, and weighs what is recorded of it.

`check` runs the samples too, which are none here, and holds every line against the record; `route` counts the kinds and
writes nothing. Both must come to the same counts. Run with `make bench`.
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
from pathlib import Path

from check import ratio_line, timed
from extract import BYTES, make_log, make_suite

ROUNDS = 5
ROOM = 200_000


def counts_by_trial(check: list[str], folder: Path) -> dict[str, int]:
    """Return how many lines a trial says are of each kind."""
    done = subprocess.run([*check, "--format", "json"], cwd=folder, capture_output=True, text=True, check=True)
    counts: dict[str, int] = json.loads(done.stdout)["suites"][0]["trials"][0]["counts"]
    return counts


def counts_by_route(route: list[str], folder: Path) -> dict[str, int]:
    """Return how many lines `route` writes of each kind."""
    subprocess.run([*route, "--into", "own"], cwd=folder, capture_output=True, check=False)
    return {path.stem: path.read_bytes().count(b"\n") for path in (folder / "own").iterdir()}


def main() -> None:
    """Run the pairs in turn and print the ratios."""
    program = str(Path(sys.executable).with_name("fieldstick"))
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        make_suite(folder / "bench.suite.toml")
        with (folder / "bench.suite.toml").open("a") as suite:
            suite.write('[[trials]]\ndata = "log.log"\nroute = "kind"\n')
        make_log(folder / "log.log", BYTES)
        check, route = [program, "check"], [program, "route", "bench:kind", "log.log"]
        subprocess.run([program, "baseline", "--yes"], cwd=folder, capture_output=True, check=True)
        ours, theirs = [], []
        for _ in range(ROUNDS):
            ours.append(timed(check, folder))
            theirs.append(timed(route, folder))
        print(ratio_line("check with a trial / route", ours, theirs, "≤ 1.1"))
        by_trial, by_route = counts_by_trial(check, folder), counts_by_route(route, folder)
        if {kind: count for kind, count in by_trial.items() if count} != by_route:
            sys.exit(f"the trial and route do not agree: {by_trial}, {by_route}")
        record = (folder / "bench.baseline.json").stat().st_size
        size = (folder / "log.log").stat().st_size
        print(
            f"the record of a trial over {size / 1e6:.1f} MB, {sum(by_trial.values()):,} lines: {record / 1e3:.1f} kB, "
            f"{record / size:.2%} (wanted: below 1 % or {ROOM / 1e3:.0f} kB, whichever is more)"
        )


if __name__ == "__main__":
    main()
