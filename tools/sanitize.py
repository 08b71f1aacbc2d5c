"""Builds the walkers with checks of every place in memory that they touch, and runs the tests that drive them.

Needs gcc with its sanitizers. The walkers that were built before are put back at the end.
"""

from __future__ import annotations

import os
import subprocess
import sys
import sysconfig
import tempfile
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
KERNELS = ROOT / "src" / "fieldstick" / "kernels"
TESTS = (
    "tests/analysis/test_automaton.py",
    "tests/operations/test_walked_jobs.py",
    "tests/data/test_blocks.py",
    "tests/data/test_sinks.py",
    "tests/data/test_threads.py",
    "tests/kernels/test_lines.py",
    "tests/matching/test_typed_cells.py",
    "tests/matching/test_bulk.py",
    "tests/runs/test_survey.py",
)
FLAGS = ("-O1", "-g", "-fsanitize=address,undefined", "-fno-sanitize-recover=undefined", "-shared", "-fPIC")

WITHOUT_BOUND = """
from fieldstick.engines import memory
memory.bind = memory.release = lambda: None
"""
"""The checks keep far more address space than the bound of memory leaves to a match."""


def main() -> None:
    """Build, run, and put back what was there."""
    module = KERNELS / "_walkers.abi3.so"
    before = module.read_bytes() if module.exists() else None
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "without_bound.py").write_text(WITHOUT_BOUND, encoding="utf-8")
        built = folder / module.name
        include = f"-I{sysconfig.get_paths()['include']}"
        subprocess.run(["gcc", *FLAGS, include, str(KERNELS / "_walkers.c"), "-o", str(built)], check=True)
        library = subprocess.run(
            ["gcc", "-print-file-name=libasan.so"], capture_output=True, text=True, check=True
        ).stdout.strip()
        environment = {
            **os.environ,
            "LD_PRELOAD": library,
            "ASAN_OPTIONS": "detect_leaks=0:verify_asan_link_order=0",
            "PYTHONMALLOC": "malloc",
            "PYTHONPATH": name,
        }
        # Never written to in place: it may be in use.
        module.unlink(missing_ok=True)
        module.write_bytes(built.read_bytes())
        try:
            command = [sys.executable, "-m", "pytest", "-q", "-s", "-p", "without_bound", "-p", "no:xdist", *TESTS]
            status = subprocess.run(command, cwd=ROOT, env=environment, check=False).returncode
        finally:
            module.unlink()
            if before is not None:
                module.write_bytes(before)
                module.chmod(0o755)
    sys.exit(status)


if __name__ == "__main__":
    main()
