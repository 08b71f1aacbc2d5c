"""Changes one small thing at a time in the code that decides results, and sees whether the tests notice.

A mutant is a copy of the project in which one comparison, condition, number, sign or result is another. One that the
tests chosen for its module do not notice survives and is printed with its line. A seeded draw of them, or with
`--all` every one. Run with `make mutants`; it takes a quarter of an hour on two cores, and is no part of `make test`.
"""

from __future__ import annotations

import argparse
import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from queue import SimpleQueue
from typing import NamedTuple

ROOT = Path(__file__).resolve().parent.parent
PACKAGE = ROOT / "src" / "fieldstick"
TESTS = {
    "matching": [
        "tests/matching",
        "tests/operations",
        "tests/commands/test_extract.py",
        "tests/commands/test_check.py",
        "tests/commands/test_same_answers.py",
    ],
    "operations": [
        "tests/operations",
        "tests/commands/test_at_work.py",
        "tests/data/test_laws.py",
        "tests/commands/test_sources_at_work.py",
        "tests/reporting/test_work_report.py",
        "tests/commands/test_same_answers.py",
    ],
    "runs/judging.py": [
        "tests/runs/test_judging.py",
        "tests/operations",
        "tests/reporting",
        "tests/commands/test_check.py",
    ],
    "comparing/baseline.py": ["tests/comparing", "tests/commands/test_check.py", "tests/operations", "tests/reporting"],
    "suites/fieldtypes.py": ["tests/suites/test_fieldtypes.py", "tests/matching", "tests/suites/test_reading.py"],
    "suites/loader.py": ["tests/suites", "tests/operations", "tests/commands/test_check.py"],
}
SWAPS: dict[type[ast.cmpop], str] = {
    ast.Lt: "<=", ast.LtE: "<", ast.Gt: ">=", ast.GtE: ">", ast.Eq: "!=", ast.NotEq: "==",
    ast.Is: "is not", ast.IsNot: "is", ast.In: "not in", ast.NotIn: "in",
}  # fmt: skip
SIZES = 1000
"""Numbers from which on they are sizes, which may be one more without being wrong, and are left alone."""

SECONDS = 240
"""How long the tests of one mutant may take; one that takes longer counts as noticed."""


class Mutant(NamedTuple):
    """A change: the file below the package, the line, what stood there, what stands there now, and the whole text."""

    file: str
    line: int
    before: str
    after: str
    text: str


class Finder(ast.NodeVisitor):
    """Finds what can be changed in a module; not annotations, docstrings and assertions (`strict` is one)."""

    def __init__(self, source: str) -> None:
        self.source = source
        self.starts = [0]
        for line in source.splitlines(keepends=True):
            self.starts.append(self.starts[-1] + len(line.encode()))
        self.found: list[tuple[int, int, int, str]] = []

    def add(self, node: ast.expr | ast.stmt, after: str) -> None:
        start = self.starts[node.lineno - 1] + node.col_offset
        end = self.starts[(node.end_lineno or 0) - 1] + (node.end_col_offset or 0)
        self.found.append((node.lineno, start, end, after))

    def visit_ClassDef(self, node: ast.ClassDef) -> None:
        for each in node.body:
            self.visit(each)

    def visit_keyword(self, node: ast.keyword) -> None:
        if node.arg != "strict":
            self.visit(node.value)

    def visit_Compare(self, node: ast.Compare) -> None:
        if len(node.ops) == 1:
            one, other = ast.unparse(node.left), ast.unparse(node.comparators[0])
            self.add(node, f"({one} {SWAPS[type(node.ops[0])]} {other})")
        self.generic_visit(node)

    def visit_BoolOp(self, node: ast.BoolOp) -> None:
        word = " or " if isinstance(node.op, ast.And) else " and "
        self.add(node, "(" + word.join(f"({ast.unparse(each)})" for each in node.values) + ")")
        self.generic_visit(node)

    def visit_UnaryOp(self, node: ast.UnaryOp) -> None:
        if isinstance(node.op, ast.Not):
            self.add(node, f"bool({ast.unparse(node.operand)})")
        self.generic_visit(node)

    def visit_BinOp(self, node: ast.BinOp) -> None:
        if isinstance(node.op, ast.Add | ast.Sub) and not isinstance(node.left, ast.Constant):
            sign = "-" if isinstance(node.op, ast.Add) else "+"
            self.add(node, f"({ast.unparse(node.left)} {sign} {ast.unparse(node.right)})")
        self.generic_visit(node)

    def visit_Constant(self, node: ast.Constant) -> None:
        if isinstance(node.value, bool):
            self.add(node, str(not node.value))
        elif isinstance(node.value, int) and node.value < SIZES:
            self.add(node, str(node.value + 1))

    def visit_If(self, node: ast.If) -> None:
        if ast.unparse(node.test) == "TYPE_CHECKING":
            return
        if not isinstance(node.test, ast.Compare | ast.BoolOp | ast.UnaryOp):
            self.add(node.test, f"(not {ast.unparse(node.test)})")
        self.generic_visit(node)

    def visit_Return(self, node: ast.Return) -> None:
        if node.value is not None and not isinstance(node.value, ast.Constant):
            self.add(node.value, "None")
        self.generic_visit(node)

    def visit_JoinedStr(self, node: ast.JoinedStr) -> None:
        return

    def visit_Assert(self, node: ast.Assert) -> None:
        return

    def visit_AnnAssign(self, node: ast.AnnAssign) -> None:
        if node.value is not None:
            self.visit(node.value)

    def visit_arguments(self, node: ast.arguments) -> None:
        for each in (*node.defaults, *(default for default in node.kw_defaults if default is not None)):
            self.visit(each)

    def visit_FunctionDef(self, node: ast.FunctionDef) -> None:
        self.visit(node.args)
        for each in node.body:
            self.visit(each)


def mutants_of(file: Path) -> list[Mutant]:
    """Return the mutants of a module."""
    source = file.read_text(encoding="utf-8")
    finder = Finder(source)
    finder.visit(ast.parse(source))
    raw = source.encode()
    name = str(file.relative_to(PACKAGE))
    made = []
    for line, start, end, after in finder.found:
        before = raw[start:end].decode()
        text = (raw[:start] + after.encode() + raw[end:]).decode()
        made.append(Mutant(name, line, " ".join(before.split()), after, text))
    return made


def tests_for(name: str) -> list[str]:
    """Return the tests that should notice a change in a module."""
    return next(tests for start, tests in TESTS.items() if name.startswith(start))


def survives(mutant: Mutant, folder: Path) -> bool:
    """Tell whether the tests pass with a mutant in its place in a copy of the project."""
    place = folder / "src" / "fieldstick" / mutant.file
    original = place.read_text(encoding="utf-8")
    place.write_text(mutant.text, encoding="utf-8")
    try:
        return passes(tests_for(mutant.file), folder)
    finally:
        place.write_text(original, encoding="utf-8")


def passes(tests: list[str], folder: Path) -> bool:
    """Tell whether tests pass in the copy of the project in a folder; interrupts, which wait, are left out."""
    quiet = ["-x", "-q", "--no-header", "-p", "no:cacheprovider", "-p", "no:xdist", "-k", "not interrupt"]
    command = [sys.executable, "-m", "pytest", *quiet, *tests]
    environment = {**os.environ, "PYTHONPATH": str(folder / "src"), "PYTHONDONTWRITEBYTECODE": "1"}
    try:
        done = subprocess.run(command, cwd=folder, env=environment, capture_output=True, timeout=SECONDS, check=False)
    except subprocess.TimeoutExpired:
        return False
    return done.returncode == 0


def main() -> None:
    """Draw mutants, try each, print the survivors and the share that was noticed."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("--count", type=int, default=200)
    asked.add_argument("--seed", type=int, default=1)
    asked.add_argument("--all", action="store_true")
    asked.add_argument("--only", default="", help="modules whose path begins so")
    given = asked.parse_args()
    files = [file for start in TESTS for file in sorted((PACKAGE / start).glob("*.py") or [])]
    files += [PACKAGE / start for start in TESTS if start.endswith(".py")]
    every = [
        each for file in files if str(file.relative_to(PACKAGE)).startswith(given.only) for each in mutants_of(file)
    ]
    chosen = every if given.all else random.Random(given.seed).sample(every, min(given.count, len(every)))
    copies: SimpleQueue[Path] = SimpleQueue()
    with tempfile.TemporaryDirectory() as name, ThreadPoolExecutor(2) as pool:
        for number in range(2):
            copy = Path(name) / str(number)
            shutil.copytree(ROOT, copy, ignore=shutil.ignore_patterns("__pycache__", ".*", "build", "dist"))
            copies.put(copy)

        if not passes(sorted({test for tests in TESTS.values() for test in tests}), Path(name) / "0"):
            sys.exit("the tests do not pass as the code stands")

        def tried(mutant: Mutant) -> bool:
            folder = copies.get()
            try:
                return survives(mutant, folder)
            finally:
                copies.put(folder)

        alive = 0
        for mutant, lives in zip(chosen, pool.map(tried, chosen), strict=True):
            if lives:
                alive += 1
                print(f"survived  {mutant.file}:{mutant.line}  {mutant.before}  ->  {mutant.after}", flush=True)
    noticed = len(chosen) - alive
    share = 100 * noticed / max(len(chosen), 1)
    print(f"{noticed} of {len(chosen)} mutants noticed ({share:.0f} %), of {len(every)} there are")
    sys.exit(noticed < 0.85 * len(chosen))


if __name__ == "__main__":
    main()
