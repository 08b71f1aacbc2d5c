"""Builds the sdist and the wheel, installs the wheel alone, and runs the demo with it from an empty folder."""

from __future__ import annotations

import subprocess
import sys
import tempfile
import venv
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent


def main() -> None:
    """Fail with the step's own output when a step does."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        run([sys.executable, "-m", "build", "--outdir", str(folder / "dist"), str(ROOT)], folder)
        wheel = next((folder / "dist").glob("*.whl"))
        if not list((folder / "dist").glob("*.tar.gz")):
            sys.exit("no sdist was built")
        venv.create(folder / "env", with_pip=True)
        program = folder / "env" / "bin"
        run([str(program / "pip"), "install", "--quiet", "--disable-pip-version-check", str(wheel)], folder)
        empty = folder / "empty"
        empty.mkdir()
        run([str(program / "fieldstick"), "demo"], empty)
        run([str(program / "fieldstick"), "check"], empty)
    print("The wheel and the sdist build; the wheel runs the demo from an empty folder.")


def run(command: list[str], folder: Path) -> None:
    """Run a command in a folder; show its output only when it fails."""
    done = subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False)
    if done.returncode:
        sys.exit(f"{' '.join(command)} ended with {done.returncode}\n{done.stdout}\n{done.stderr}")


if __name__ == "__main__":
    main()
