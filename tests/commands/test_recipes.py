"""Every command that the documentation shows runs on the demo's files as it stands there."""

from __future__ import annotations

import re
import shlex
from pathlib import Path
from typing import TYPE_CHECKING

import pytest

from fieldstick.commands.main import GROUPS
from fieldstick.demo.story import lay_out

if TYPE_CHECKING:
    from conftest import Desk

DOCS = Path(__file__).resolve().parent.parent.parent / "docs"
RECIPES = re.findall(r"^fieldstick .*$", (DOCS / "at-work.md").read_text(encoding="utf-8"), re.MULTILINE)
ON_REJECTS = ("validate",)
UNDECODABLE = "data/loggers-2026-05.log"


@pytest.mark.parametrize("recipe", RECIPES)
def test_a_recipe_runs(desk: Desk, recipe: str) -> None:
    lay_out(desk.folder)
    arguments = shlex.split(recipe)[1:]
    run = desk.run(*arguments)
    # What is limited ends before the line that is not UTF-8.
    whole = UNDECODABLE in arguments and "--limit" not in arguments
    expected = 1 if arguments[0] in ON_REJECTS or whole else 0
    assert run.status == expected, run.err
    written = [arguments[at + 1] for at, each in enumerate(arguments) if each in ("--to", "--into", "--rejects")]
    assert all((desk.folder / name).exists() for name in written)
    assert run.out or written or "--in-place" in arguments
    assert "nothing to" not in run.err and "no text fits" not in run.err


def test_there_is_a_recipe_for_each_command_at_work() -> None:
    shown = {shlex.split(recipe)[1] for recipe in RECIPES}
    # What is handed over works elsewhere; docs/engines.md shows it.
    assert shown == set(GROUPS["Put to work"]) - {"handover"} and len(shown) == 7
