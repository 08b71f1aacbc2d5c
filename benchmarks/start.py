"""Times how quickly the commands start on a small suite, and what libraries for models cost; prints the ratios.

`fieldstick --version` against `python -c "import click"`; `check`, `why SUITE:PATTERN`, `extract` of one line and
`explain` on a suite of one pattern against `fieldstick --version`. Processor time of whole processes, in turn, with
compiled bytecode on both sides, as an installed package has it. Then, each in a process of its own, importing a model
library after click and making with it the classes of a small suite file. Run with `make bench`.
"""

from __future__ import annotations

import compileall
import os
import resource
import statistics
import subprocess
import sys
import tempfile
from importlib.util import find_spec
from pathlib import Path

from check import ratio_line

ROUNDS = 15
SUITE = r"""format = 1
suite = "plots"
[patterns.plot-line]
about = "One reading of a soil probe"
expression = 'plot=(?P<plot>[A-F]\d{2}) moisture=(?P<moisture>\d+\.\d)%'
fields.moisture = { type = "decimal", unit = "%", most = 100 }
positive = [{ text = 'plot=B07 moisture=31.4%', fields = { plot = "B07", moisture = 31.40 } }]
negative = ['plot=G07 moisture=31.4%', 'plot=B07 moisture=31%']
"""
COMMANDS = {
    "check": ("check",),
    "why SUITE:PATTERN": ("why", "plots:plot-line", "plot=B07 moisture=31%"),
    "extract of one line": ("extract", "plots:plot-line", "one.log"),
    "explain SUITE:PATTERN": ("explain", "plots:plot-line"),
}
CLASSES = 30
"""Classes of six fields: about as many as a suite file, its samples and a check's results have."""

MODELS = {
    "msgspec": "import msgspec\nfor _ in range({n}):\n    class A(msgspec.Struct, frozen=True): {fields}",
    "dataclasses": (
        "from dataclasses import dataclass\nfor _ in range({n}):\n"
        "    @dataclass(frozen=True, slots=True)\n    class A: {fields}"
    ),
    "attrs with cattrs": ("import attrs, cattrs\nfor _ in range({n}):\n    @attrs.frozen\n    class A: {fields}"),
    "pydantic": "import pydantic\nfor _ in range({n}):\n    class A(pydantic.BaseModel, frozen=True): {fields}",
}
NEEDED = {"attrs with cattrs": ("attrs", "cattrs")}
FIELDS = "a: int; b: str; c: str = ''; d: int = 0; e: int = 1; f: str = ''"


def cpu(command: list[str], folder: Path) -> float:
    """Run a command and return the processor time, in seconds, that it and its children took."""
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    done = subprocess.run(command, cwd=folder, capture_output=True, check=False)
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    if done.returncode:
        sys.exit(f"{command} ended with {done.returncode}: {done.stderr.decode()}")
    return after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime


def start_up(folder: Path) -> None:
    """Print the ratios of the commands."""
    python, program = sys.executable, str(Path(sys.executable).with_name("fieldstick"))
    (folder / "plots.suite.toml").write_text(SUITE, encoding="utf-8")
    (folder / "one.log").write_text("plot=B07 moisture=31.4%\n", encoding="utf-8")
    sides = {"click": [python, "-c", "import click"], "version": [program, "--version"]}
    sides |= {name: [program, *arguments] for name, arguments in COMMANDS.items()}
    took: dict[str, list[float]] = {name: [] for name in sides}
    for command in sides.values():
        cpu(command, folder)
    for _ in range(ROUNDS):
        for name, command in sides.items():
            took[name].append(cpu(command, folder))
    print(ratio_line("fieldstick --version against python -c 'import click'", took["version"], took["click"], "1.3 x"))
    for name in COMMANDS:
        print(ratio_line(f"{name} against fieldstick --version", took[name], took["version"], "at most 2 x"))


def models(folder: Path) -> None:
    """Print what each library for models costs beyond importing click, in milliseconds of processor time."""
    bare = [cpu([sys.executable, "-c", "import click"], folder) for _ in range(ROUNDS)]
    for name, script in MODELS.items():
        missing = [each for each in NEEDED.get(name, (name,)) if find_spec(each) is None]
        if missing:
            print(f"{name}: not installed here ({', '.join(missing)}); left out")
            continue
        program = "import click\n" + script.format(n=CLASSES, fields=FIELDS)
        took = [cpu([sys.executable, "-c", program], folder) for _ in range(ROUNDS)]
        extra = 1000 * (statistics.median(took) - statistics.median(bare))
        print(f"{name}: import and {CLASSES} classes cost {extra:.0f} ms beyond click")


def main() -> None:
    """Compile, then measure."""
    spec = find_spec("fieldstick")
    assert spec is not None and spec.origin is not None
    compileall.compile_dir(Path(spec.origin).parent, quiet=1)
    os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
    with tempfile.TemporaryDirectory() as name:
        start_up(Path(name))
        models(Path(name))


if __name__ == "__main__":
    main()
