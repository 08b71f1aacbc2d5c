"""Asks every engine that is usable here about each probe of notation, and records what it makes of it.

What is recorded of an engine that is not usable here stays.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests"))
sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests" / "engines"))

from engines_here import started_server

from fieldstick.engines.probe_readings import reading
from fieldstick.engines.registry import ENGINES, engine_named, why_unusable
from fieldstick.syntax.probes import PROBES

FILE = Path(__file__).resolve().parent.parent / "src" / "fieldstick" / "syntax" / "readings.json"


def main() -> None:
    """Record."""
    started_server()
    before = json.loads(FILE.read_text("utf-8")) if FILE.exists() else {"versions": {}, "probes": {}}
    versions: dict[str, str] = {}
    probes: dict[str, dict[str, str]] = {probe.key: {} for probe in PROBES}
    for engine in (each.name for each in ENGINES):
        why = why_unusable(engine)
        if why is not None:
            print(f"{engine}: as it was recorded ({why})")
            if engine in before["versions"]:
                versions[engine] = before["versions"][engine]
            found = {key: each[engine] for key, each in before["probes"].items() if engine in each and key in probes}
        else:
            versions[engine] = engine_named(engine).version()
            found = {}
            for probe in PROBES:
                made = reading(probe, engine)
                if made is not None:
                    found[probe.key] = made
            print(f"{engine}: {versions[engine]}, {len(found)} probes")
        for key, made in found.items():
            probes[key][engine] = made
    FILE.write_text(json.dumps({"versions": versions, "probes": probes}, indent=0) + "\n", "utf-8")


if __name__ == "__main__":
    main()
