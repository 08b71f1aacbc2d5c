"""Looking for slips takes work in proportion to the expression, and does not grow with a text that is long already."""

from __future__ import annotations

import sys
from typing import TYPE_CHECKING

import pytest

from conftest import EXHAUSTIVE
from fieldstick.analysis.effort import Effort
from fieldstick.drafting.context import Beside, MatchCase
from fieldstick.drafting.repairs import proposals
from fieldstick.drafting.search import scene_of
from fieldstick.drafting.slips.narrowing import restraints

if TYPE_CHECKING:
    from collections.abc import Callable
    from types import FrameType

IN_PROPORTION = 2.5
"""Times the calls that twice the expression may take: what is quadratic comes to four."""


def calls_of(work: Callable[[], object]) -> int:
    """Return how many functions and generators are entered, those that Python has built in too, but for those in which
    the engine compiles.
    """
    found = 0

    def note(frame: FrameType, event: str, argument: object) -> None:
        nonlocal found
        found += event in ("call", "c_call") and frame.f_globals["__name__"].startswith("fieldstick.")

    sys.setprofile(note)
    try:
        work()
    finally:
        sys.setprofile(None)
    return found


def calls_to_propose(expression: str, text: str, known: str) -> int:
    scene = scene_of(MatchCase(expression, frozenset(), "whole", text), Beside((known,)), Effort(10**9))
    assert scene is not None
    if scene.trace.spans is not None:
        return calls_of(lambda: restraints(scene))
    return calls_of(lambda: proposals(scene, 120))


COUNTS = (100, 200) if EXHAUSTIVE else (40, 80)
"""How many pieces there are, and twice as many."""

PIECES = [
    ("ab-c", "ab-x"), ('["a]', "b"), (r"\d+,", "1;"), ("(a|b)", "c"), ("'[^']'", "'ab'"), ("x{2}y?", "xx"),
    ("[+-/]", "-"), (r"\." * 10, "a" * 10), ("-" * 10, "a" * 10),
]  # fmt: skip


@pytest.mark.parametrize(("piece", "text"), PIECES)
def test_twice_the_expression_takes_twice_the_work(piece: str, text: str) -> None:
    once, twice = (calls_to_propose(piece * count, text * count, text) for count in COUNTS)
    assert once < twice <= IN_PROPORTION * once


@pytest.mark.parametrize("expression", [r"gate north opened \d+", "(north|south) gate (opened|closed) at noon"])
def test_a_text_of_any_length_takes_no_more_than_a_long_one(expression: str) -> None:
    words = [f"w{number % 997}x{number} soil, wet." for number in range(4_000)]
    some, many = (calls_to_propose(expression, " ".join(words[:count]), "gate") for count in (1_000, 4_000))
    assert many <= 1.5 * some
