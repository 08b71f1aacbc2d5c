"""Builds the sdist and the wheel, installs the wheel, the sdist, and the sdist where there is no compiler, and runs the
demo with each from an empty folder: all must say the same.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import venv
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Mapping

ROOT = Path(__file__).resolve().parent.parent


def main() -> None:
    """Fail with the step's own output when a step does."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        run([sys.executable, "-m", "build", "--outdir", str(folder / "dist"), str(ROOT)], folder)
        wheel = next((folder / "dist").glob("*.whl"))
        sdist = next((folder / "dist").glob("*.tar.gz"))
        said = [
            tried(folder / "wheel", wheel, os.environ, "compiled"),
            tried(folder / "sdist", sdist, os.environ, "compiled"),
            tried(folder / "bare", sdist, {**os.environ, "CC": "/bin/false"}, "not built"),
        ]
        for other in said[1:]:
            unlike = [
                pair for pair in zip(said[0].splitlines(), other.splitlines(), strict=False) if len(set(pair)) > 1
            ]
            if other != said[0]:
                sys.exit(f"with and without walkers the demo came to different results: {unlike[:5]}")
    print("Wheel and sdist build; both run the demo from an empty folder, the sdist without a compiler too.")


def tried(folder: Path, package: Path, environment: Mapping[str, str], walkers: str) -> str:
    """Install a package, run the demo with it, and return what its checks and its work on the log said."""
    venv.create(folder / "env", with_pip=True)
    program = str(folder / "env" / "bin" / "fieldstick")
    pip = [str(folder / "env" / "bin" / "pip"), "install", "--quiet", "--disable-pip-version-check", str(package)]
    run(pip, folder, environment)
    version = run([program, "--version", "--verbose"], folder)
    if f"walkers: {walkers}" not in version:
        sys.exit(f"{package.name} was to have its walkers {walkers}:\n{version}")
    empty = folder / "empty"
    empty.mkdir()
    run([program, "demo"], empty)
    # So often that walkers repay.
    log = empty / "long.log"
    log.write_bytes(next(empty.rglob("loggers-*.log")).read_bytes() * 40)
    extracted = run([program, "extract", "loggers:probe-reading", str(log)], empty, expected=(0, 1))
    return run([program, "check"], empty) + extracted


def run(
    command: list[str], folder: Path, environment: Mapping[str, str] | None = None, expected: tuple[int, ...] = (0,)
) -> str:
    """Run a command in a folder and return its output; stop with all it said when it fails."""
    done = subprocess.run(command, cwd=folder, env=environment, capture_output=True, text=True, check=False)
    if done.returncode not in expected:
        sys.exit(f"{' '.join(command)} ended with {done.returncode}\n{done.stdout}\n{done.stderr}")
    return done.stdout


if __name__ == "__main__":
    main()
