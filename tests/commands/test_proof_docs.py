"""What docs/proofs.md and docs/python.md say of proofs is so: each block is run, each row of the table is shown."""

from __future__ import annotations

import re
import shlex
from pathlib import Path
from typing import TYPE_CHECKING

import pytest

import fieldstick
from fieldstick.analysis.automaton import building
from fieldstick.analysis.automaton.tables import MOST_ROWS
from fieldstick.analysis.hazard_kinds import KINDS, covers, is_named
from fieldstick.demo.story import STORY, Run, lay_out

if TYPE_CHECKING:
    from conftest import Desk

DOCS = Path(__file__).parents[2] / "docs"


def blocks_of(name: str, language: str = "") -> list[str]:
    text = (DOCS / name).read_text(encoding="utf-8")
    return re.findall(rf"^```{language}\n(.*?)^```$", text, re.DOTALL | re.MULTILINE)


def test_every_run_that_is_shown_prints_what_is_shown(desk: Desk) -> None:
    lay_out(desk.folder)
    shown = [block for block in blocks_of("proofs.md") if block.startswith("$ fieldstick")]
    assert len(shown) == 2
    for block in shown:
        command, _, expected = block.partition("\n")
        out = desk.run(*shlex.split(command)[2:]).out
        assert out.startswith(expected), out


def test_each_relation_of_the_table_comes_about() -> None:
    text = (DOCS / "proofs.md").read_text(encoding="utf-8")
    pairs = {
        "same": ("a|b", "[ab]"),
        "narrower": ("a", "[ab]"),
        "wider": ("[ab]", "a"),
        "crossing": ("[ab]", "[bc]"),
        "apart": ("a", "b"),
        "undecided": (r"(a)\1", "aa"),
    }
    for name, (first, second) in pairs.items():
        assert f"| `{name}`" in text
        assert fieldstick.relation(first, second).relation == name


def test_the_limits_that_are_named_are_those_of_the_program() -> None:
    text = (DOCS / "proofs.md").read_text(encoding="utf-8")
    assert f"{building.MOST_STATES:,} states" in text and f"{MOST_ROWS:,} rows" in text


def test_the_lines_of_python_do_what_stands_beside_them() -> None:
    (block,) = [each for each in blocks_of("python.md", "python") if "fieldstick.relation" in each]
    names: dict[str, object] = {"fieldstick": fieldstick}
    checked = 0
    for line in block.splitlines():
        code, _, beside = line.partition("#")
        quoted = re.match(r'\s*"([^"]*)"', beside)
        if "=" in code.split("(")[0]:
            exec(code, names)
        elif code.strip():
            value = eval(code, names)
            assert value
            if quoted:
                checked += 1
                assert value == quoted[1], line
    assert checked == 3


@pytest.mark.parametrize("flags", [(), ("ignore-case",), ("dotall",)])
def test_danger_counts_flags_and_reach(flags: tuple[str, ...]) -> None:
    folded = fieldstick.danger("(?:a|A)*b", flags=flags)
    # Alternatives of one character each are one class for the engine, whatever their case.
    assert folded.kind == "linear"
    doubled = fieldstick.danger("(?:aa|AA)*b", flags=flags)
    assert doubled.kind == ("exponential" if flags == ("ignore-case",) else "linear")
    assert fieldstick.danger("a+b", flags=flags).kind == "linear"
    assert fieldstick.danger("a+b", reach="anywhere", flags=flags).degree == 2


def test_a_text_that_shows_danger_has_as_many_turns_as_are_asked_for() -> None:
    found = fieldstick.danger("x(?:ab|a|ba)*c")
    assert found.kind == "exponential" and found.text(0) == found.pieces[0][0] + found.suffix
    lengths = [len(found.text(turns)) for turns in (1, 2, 3)]
    assert lengths[2] - lengths[1] == lengths[1] - lengths[0] == len(found.pieces[0][1])
    assert fieldstick.danger("a").text(5) == ""


def test_a_name_of_a_hazard_or_of_a_family_is_known() -> None:
    assert all(is_named(kind) and covers(kind, kind) for kind in KINDS)
    assert is_named("dot") and covers("dot", "dot-in-name") and not covers("dot", "backspace")
    assert is_named("hidden") and not is_named("hid") and not is_named("")
    assert covers("nested-repeats", "takes-forever") and covers("takes-forever", "nested-repeats")


def test_the_story_of_the_demo_uses_each_proof() -> None:
    commands = [step.arguments for step in STORY if isinstance(step, Run)]
    names = {arguments[0] for arguments in commands}
    assert {"compare", "gaps", "hazards"} <= names
    assert any(arguments[0] == "compare" and arguments.count("-e") == 2 for arguments in commands)
