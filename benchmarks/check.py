"""Times `fieldstick --version` and `check` against what a user would do instead, and prints the ratios.

Sides of the check: fieldstick; the same samples as parametrised pytest cases; a bare loop with the standard
library's engine over the same texts, read from JSON. All three run as whole processes, start-up included,
in turn. They must agree on every outcome of a suite some of whose samples are wrong; what is timed is the same
suite with all of them right, as a suite in use mostly is. Run with `make bench`.
"""

from __future__ import annotations

import json
import os
import random
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

PATTERNS = 1000
SAMPLES = 20
ROUNDS = 5
SEED = 7

LOOP = """
import json, re, sys
texts = json.load(open(sys.argv[1], encoding="utf-8"))
outcomes = {}
for name, pattern in texts.items():
    compiled = re.compile(pattern["expression"])
    for kind in ("positive", "negative"):
        for number, text in enumerate(pattern[kind], 1):
            fits = compiled.fullmatch(text) is not None
            outcomes[f"{name} {kind} {number}"] = "pass" if fits == (kind == "positive") else "fail"
json.dump(outcomes, open(sys.argv[2], "w"))
"""

CASES = """
import json, re, pytest
texts = json.load(open({path!r}, encoding="utf-8"))
cases = [
    pytest.param(pattern["expression"], text, kind == "positive", id=f"{{name}} {{kind}} {{number}}")
    for name, pattern in texts.items()
    for kind in ("positive", "negative")
    for number, text in enumerate(pattern[kind], 1)
]

@pytest.mark.parametrize(("expression", "text", "fits"), cases)
def test_sample(expression, text, fits):
    assert (re.compile(expression).fullmatch(text) is not None) == fits
"""


def make_patterns(chance: random.Random, wrong_share: float = 0.0) -> dict[str, dict[str, object]]:
    """Return patterns like those of the station, each its own; in some of them two samples are wrong."""
    patterns: dict[str, dict[str, object]] = {}
    for number in range(PATTERNS):
        key = f"{chance.choice(['probe', 'trap', 'gate', 'net', 'cell'])}{number}"
        expression = rf"(?P<at>\d{{4}}-\d{{2}}-\d{{2}}) {key}=(?P<plot>[A-F]\d{{2}}) moisture=(?P<moisture>\d+\.\d)%"
        right = [f"2026-05-{day:02} {key}=B{day:02} moisture={day * 2.5:.1f}%" for day in range(1, 15)]
        wrong = [f"2026-05-{day:02} {key}=B{day:02} moisture={day}%" for day in range(1, SAMPLES - 13)]
        if chance.random() < wrong_share:
            right[3], wrong[2] = wrong[2], right[3]
        patterns[f"reading-{number}"] = {"expression": expression, "positive": right, "negative": wrong}
    return patterns


def as_suite(patterns: dict[str, dict[str, object]]) -> str:
    """Write the patterns as one suite file."""
    lines = ["format = 1", 'suite = "bench"']
    for name, pattern in patterns.items():
        lines += [f"[patterns.{name}]", f"expression = '{pattern['expression']}'"]
        for kind in ("positive", "negative"):
            for text in pattern[kind]:  # type: ignore[attr-defined]
                lines += [f"[[patterns.{name}.{kind}]]", f"text = '{text}'"]
    return "\n".join(lines) + "\n"


def lay_out(folder: Path, patterns: dict[str, dict[str, object]]) -> None:
    """Write the patterns for each side."""
    (folder / "bench.suite.toml").write_text(as_suite(patterns), encoding="utf-8")
    (folder / "texts.json").write_text(json.dumps(patterns), encoding="utf-8")


def timed(command: list[str], folder: Path) -> float:
    """Run a command in a folder and return the seconds it took."""
    started = time.perf_counter()
    done = subprocess.run(command, cwd=folder, capture_output=True, check=False)
    seconds = time.perf_counter() - started
    if done.returncode not in (0, 1):
        sys.exit(f"{command} ended with {done.returncode}: {done.stderr.decode()}")
    return seconds


def fieldstick_outcomes(report: Path) -> dict[str, str]:
    """Read the outcomes from fieldstick's JSON report."""
    (suite,) = json.loads(report.read_text(encoding="utf-8"))["suites"]
    return {
        f"{pattern['name']} {sample['kind']} {sample['number']}": sample["outcome"]
        for pattern in suite["patterns"]
        for sample in pattern["samples"]
    }


def pytest_outcomes(report: Path) -> dict[str, str]:
    """Read the outcomes from pytest's own report."""
    import xml.etree.ElementTree as ET

    found = {}
    for case in ET.parse(report).iter("testcase"):
        name = case.attrib["name"].partition("[")[2].removesuffix("]")
        found[name] = "fail" if case.find("failure") is not None else "pass"
    return found


def ratio_line(name: str, ours: list[float], theirs: list[float], wanted: str) -> str:
    """Write the median of the ratios, pair by pair."""
    pairs = [one / other for one, other in zip(ours, theirs, strict=True)]
    low, high = min(pairs), max(pairs)
    return f"{name}: {statistics.median(pairs):.2f} x (from {low:.2f} to {high:.2f}); wanted {wanted}"


def main() -> None:
    """Run every side in turn, check that they agree, print the ratios."""
    python = sys.executable
    fieldstick = str(Path(python).with_name("fieldstick"))
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "loop.py").write_text(LOOP, encoding="utf-8")
        (folder / "test_cases.py").write_text(CASES.format(path=str(folder / "texts.json")), encoding="utf-8")
        os.environ["PYTHONDONTWRITEBYTECODE"] = ""
        check = [fieldstick, "check"]
        loop = [python, "loop.py", "texts.json", "loop-outcomes.json"]
        cases = [python, "-m", "pytest", "-q", "-p", "no:cacheprovider", "--tb=no", "test_cases.py"]

        lay_out(folder, make_patterns(random.Random(SEED), wrong_share=0.1))
        timed([*check, "--report", "json=ours.json"], folder)
        timed(loop, folder)
        timed([*cases, "--junitxml=cases.xml"], folder)
        ours = fieldstick_outcomes(folder / "ours.json")
        bare = json.loads((folder / "loop-outcomes.json").read_text())
        tested = pytest_outcomes(folder / "cases.xml")
        if not ours == bare == tested or len(ours) != PATTERNS * SAMPLES:
            sys.exit("the three sides do not agree on every outcome")
        failing = sum(outcome == "fail" for outcome in ours.values())
        print(f"{len(ours):,} samples of {PATTERNS:,} patterns, {failing} failing: all three agree on every outcome")

        lay_out(folder, make_patterns(random.Random(SEED)))
        version, click, checked, looped = [], [], [], []
        for _ in range(ROUNDS):
            version.append(timed([fieldstick, "--version"], folder))
            click.append(timed([python, "-c", "import click"], folder))
            checked.append(timed(check, folder))
            looped.append(timed(loop, folder))
        pytest_seconds = [timed(cases, folder) for _ in range(2)]
        paired = checked[: len(pytest_seconds)]
        print(ratio_line("fieldstick --version against python -c 'import click'", version, click, "at most 1.5 x"))
        print(ratio_line("parametrised pytest against fieldstick check", pytest_seconds, paired, "at least 15 x"))
        print(ratio_line("fieldstick check against a bare loop", checked, looped, "at most 5 x"))


if __name__ == "__main__":
    main()
