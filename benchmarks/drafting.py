"""Times the drafting commands against what they are held to, and prints the ratios.

`explain` and `why` against `fieldstick --version`; `try` on a log of 50 MB against a bare loop with the standard
library's engine, which must count the same fits; `survey` of the same log against `try`; the time until `try` shows
its first screen. Run with `make bench`.
"""

from __future__ import annotations

import os
import random
import re
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from check import ratio_line, timed

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tools"))
from make_demo_data import log_lines

EXPRESSION = r"probe=(?P<plot>[A-F]\d\d) moisture=(?P<moisture>\d+\.\d)%"
TEXT = "probe=B07 moisture=31%"
BYTES = 50_000_000
ROUNDS = 5

LOOP = f"""
import re
search = re.compile({EXPRESSION!r}).search
with open("big.log", encoding="utf-8", errors="surrogateescape") as lines:
    print(sum(search(line) is not None for line in lines))
"""


def make_log(path: Path) -> None:
    """Write a log of the demo's lines, repeated until it is large enough."""
    block = b"".join(line + b"\n" for line in log_lines(50_000, random.Random(1)))
    with path.open("wb") as stream:
        for _ in range(BYTES // len(block) + 1):
            stream.write(block)


def first_screen(command: list[str], folder: Path) -> float:
    """Return the seconds until the first line stands in the output."""
    started = time.perf_counter()
    with subprocess.Popen(command, cwd=folder, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL) as process:
        assert process.stdout is not None
        os.read(process.stdout.fileno(), 1)
        seconds = time.perf_counter() - started
        process.stdout.read()
    return seconds


def main() -> None:
    """Run the pairs in turn and print the ratios."""
    python = sys.executable
    program = str(Path(python).with_name("fieldstick"))
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        make_log(folder / "big.log")
        (folder / "loop.py").write_text(LOOP, encoding="utf-8")
        trying = [program, "try", EXPRESSION, "big.log", "--reach", "anywhere"]
        out = subprocess.run(trying, cwd=folder, capture_output=True, text=True, check=True).stdout
        counted = re.search(r"([\d,]+) fit", out)
        bare = subprocess.run([python, "loop.py"], cwd=folder, capture_output=True, text=True, check=True).stdout
        if counted is None or int(counted[1].replace(",", "")) != int(bare):
            sys.exit("try and the bare loop do not count the same fits")
        print(f"try and the bare loop agree: {int(bare):,} fits in {(folder / 'big.log').stat().st_size:,} bytes")
        version, explain, why, tried, looped, screens, surveyed = [], [], [], [], [], [], []
        for _ in range(ROUNDS):
            version.append(timed([program, "--version"], folder))
            explain.append(timed([program, "explain", EXPRESSION], folder))
            why.append(timed([program, "why", "-e", EXPRESSION, TEXT], folder))
            screens.append(first_screen(trying, folder))
        for _ in range(3):
            tried.append(timed(trying, folder))
            looped.append(timed([python, "loop.py"], folder))
        print(ratio_line("explain against --version", explain, version, "at most 3 x"))
        print(ratio_line("why against --version", why, version, "at most 3 x"))
        print(ratio_line("try on 50 MB against a bare loop", tried, looped, "at most 3 x"))
        for _ in range(3):
            surveyed.append(timed([program, "survey", "big.log"], folder))
        print(ratio_line("survey of 50 MB against a bare loop", surveyed, looped, "at most 4 x"))
        print(ratio_line("first screen of try against --version", screens, version, "at once"))


if __name__ == "__main__":
    main()
