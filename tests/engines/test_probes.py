"""What is recorded of how engines read probes of notation is what they make of them."""

from __future__ import annotations

import importlib
from pathlib import Path

import pytest
from engines_here import NAMES, engine_named, usable

from fieldstick.engines.probe_readings import reading
from fieldstick.engines.registry import ENGINES
from fieldstick.syntax.constructs import BY_KEY
from fieldstick.syntax.probes import PROBES, differing, probes_of, readings, standing


@pytest.mark.parametrize("engine", NAMES)
def test_what_is_recorded_of_an_engine_is_what_it_makes_of_every_probe(engine: str) -> None:
    version = engine_named(usable(engine)).version()
    if version != readings().versions[engine]:
        pytest.skip(f"{engine}: this is {version}, and {readings().versions[engine]} was recorded")
    found = {probe.key: reading(probe, engine) for probe in PROBES}
    recorded = {probe.key: readings().by_probe[probe.key].get(engine) for probe in PROBES}
    assert found == recorded


def test_probes_are_many_each_once_and_of_every_construct() -> None:
    assert len({probe.key for probe in PROBES}) == len(PROBES) >= 250
    assert {probe.construct for probe in PROBES} == set(BY_KEY)
    assert set(readings().versions) == set(NAMES)


def test_an_engine_has_what_it_reads_as_the_notation_means_it() -> None:
    assert standing("digit", "python") == "has" == standing("literal", "sqlite")
    assert standing("digit", "ecmascript") == "differs" and differing("digit", "ecmascript")[0].text == "٧"
    assert standing("set-operation", "python") == "otherwise" == standing("dollar", "xsd")
    assert standing("look-ahead", "re2") == "lacks" == standing("named", "ecmascript")
    assert standing("look-behind", "xsd") == "unknown" and not differing("look-behind", "xsd")
    # What Python's notation has, Python's engine reads as it is meant.
    python = {key for key in BY_KEY if standing(key, "python") in ("has", "differs")}
    odd = {probe.construct for key in python for probe in probes_of(key) if probe in differing(key, "python")}
    assert odd <= {"flags", "look-behind"}


def test_what_an_engine_is_said_to_lack_it_does_not_have() -> None:
    words = {
        "look-around": ("look-ahead", "look-behind"),
        "references": ("backreference",),
        "possessive": ("possessive",),
        "verbose": ("verbose",),
        "atomic": ("atomic",),
        "properties": ("property",),
        "\\h": ("horizontal-space",),
        "\\R": ("line-end",),
        "recursion": ("recursion",),
        "conditionals": ("conditional",),
        "anchors": ("dollar",),
        "names of groups": ("named", "named-angle"),
        "flags further on": ("flags-further-on",),
    }
    said = [(info.name, key) for info in ENGINES for each in words if each in info.lacks for key in words[each]]
    assert len(said) > 15
    assert [(engine, key) for engine, key in said if standing(key, engine) == "has"] == []


def test_the_pages_of_engines_are_what_the_probes_say(monkeypatch: pytest.MonkeyPatch) -> None:
    tools = Path(__file__).resolve().parent.parent.parent / "tools"
    monkeypatch.syspath_prepend(str(tools))
    targets = importlib.import_module("write_targets")
    written = {each.name: each.read_text(encoding="utf-8") for each in targets.FOLDER.iterdir()}
    assert written == targets.pages(), "write them anew: python tools/write_targets.py"
    assert "| `(?=a) (?!a)` |" in written["re2.md"].partition("## What it lacks")[2].partition("\n## ")[0]
