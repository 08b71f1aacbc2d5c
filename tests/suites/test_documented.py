"""What the documentation shows of the format is taken by the program as it stands there."""

from __future__ import annotations

import re
from pathlib import Path
from typing import TYPE_CHECKING

import pytest

from conftest import json_schema
from fieldstick.operations import SECTIONS
from fieldstick.suites.templates import Captured, read_template

if TYPE_CHECKING:
    from conftest import Desk

DOCS = Path(__file__).resolve().parent.parent.parent / "docs"
FORMAT = (DOCS / "suite-format.md").read_text(encoding="utf-8")
AT_WORK = (DOCS / "at-work.md").read_text(encoding="utf-8")
PATTERNS = r"""
[patterns.positions]
expression = '(?P<lat>\d+°[\d.]+′)N (?P<lon>\d+°[\d.]+′)W'
reach = "anywhere"
positive = ['54°12.3′N 2°41.8′W']
[patterns.probe-reading]
expression = 'probe=.*'
positive = ['probe=B07']
[patterns.trap-frame]
expression = 'trap=.*'
positive = ['trap=C3']
[patterns.site-name]
expression = '{{=begins}}.*'
parameters = ["begins"]
flags = ["ignore-case"]
positive = [{ text = 'Fen', with = { begins = "fe" } }]
[patterns.permit-code]
expression = 'LM-\d+'
positive = ['LM-1']
[patterns.load]
expression = '\d+ kg'
positive = ['1 kg']
[rewrites.day-only]
pattern = "load"
with = ""
samples = [{ text = "1 kg", becomes = "" }]
[rewrites.mask-pass]
pattern = "load"
with = ""
samples = [{ text = "1 kg", becomes = "" }]
"""


def test_the_uses_that_the_format_page_shows_pass_their_samples(desk: Desk) -> None:
    block = next(each for each in re.findall(r"```toml\n(.*?)```", FORMAT, re.DOTALL) if "[rewrites." in each)
    assert all(f"[{section}." in block for section in SECTIONS.names())
    desk.suite(PATTERNS + block)
    run = desk.run("check")
    assert run.status == 0 and "All 13 samples pass: 6 patterns and 8 operations" in run.out


def test_every_key_of_a_use_is_on_the_format_page() -> None:
    definitions = json_schema()["$defs"]
    for name in ("RewriteTable", "SplitTable", "RouteTable", "LookupTable", "FormTable"):
        for key in definitions[name]["properties"]:
            assert key in ("about", "tags") or re.search(rf"\b{key}\b", FORMAT), f"{name}: {key}"


@pytest.mark.parametrize("row", re.findall(r"^\| (`\{pass.*?) \| (.*?) \|$", AT_WORK, re.MULTILINE))
def test_the_templates_that_the_page_shows_make_what_it_says(row: tuple[str, str]) -> None:
    holes, made = (re.findall(r"`(.*?)`", cell) for cell in row)
    for hole, expected in zip(holes, made, strict=True):
        assert read_template(hole).filled(lambda _: Captured("LM-2207", "LM-2207")) == expected
