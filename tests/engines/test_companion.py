"""A companion that falls over, hangs or talks nonsense costs its own answer and no other."""

from __future__ import annotations

import sys
import time
from typing import TYPE_CHECKING

import pytest

from fieldstick.engines.companion_engine import CompanionEngine, Speaker
from fieldstick.errors import BudgetSpent, EngineFailure, EngineUnusable, ExpressionError

if TYPE_CHECKING:
    from pathlib import Path

# Speaks for an engine that takes any expression and finds it as it stands; some it does not survive.
PROGRAM = r"""
import sys, time

def said(word):
    return bytes.fromhex(word[1:]).decode()

def coded(text):
    return "x" + text.encode().hex()

def say(*words):
    print(*words, flush=True)

say("ready", coded("Odd 1"), "bytes")
known = {}
for line in sys.stdin:
    kind, key, *rest = line.split()
    if kind == "c":
        expression = said(rest[1])
        if expression == "die":
            print("it was too much", file=sys.stderr, flush=True)
            sys.exit(3)
        if expression == "bad":
            say("no", "2", coded("the rule"))
        else:
            known[key] = expression
            say("ok")
        continue
    text = said(rest[2])
    if text == "die":
        sys.exit(4)
    if text == "burn":
        while True:
            pass
    if text == "sleep":
        time.sleep(60)
    if text == "err":
        say("err", coded("it fell over its feet"))
        continue
    at = text.encode().find(known[key].encode())
    say("is", f"{at},{at + len(known[key].encode())}" if at >= 0 else "")
"""


@pytest.fixture
def odd(tmp_path: Path) -> CompanionEngine:
    program = tmp_path / "odd.py"
    program.write_text(PROGRAM)
    return CompanionEngine(Speaker("odd", program=sys.executable, arguments=(str(program),)))


def test_each_text_has_its_answer_whatever_becomes_of_another(odd: CompanionEngine) -> None:
    assert odd.version() == "Odd 1"
    made = odd.compile("é", frozenset())
    texts = ["aé", "burn", "ébé", "die", "err", "x", "🐦é"]
    found = made.matches_many(texts, "anywhere", 200, 1)
    assert [found[at] for at in (0, 2, 5, 6)] == [[((1, 2),)], [((0, 1),)], [], [((1, 2),)]]
    assert isinstance(found[1], BudgetSpent) and found[1].budget_ms == 200
    assert isinstance(found[3], EngineFailure) and "its process ended" in str(found[3])
    assert isinstance(found[4], EngineFailure) and str(found[4]) == "it fell over its feet"
    odd.companions.drop()


def test_a_budget_is_of_its_processor_time_where_it_works_itself(odd: CompanionEngine) -> None:
    made = odd.compile("a", frozenset())
    started = time.monotonic()
    with pytest.raises(BudgetSpent):
        made.matches("burn", "anywhere", 300, 1)
    assert time.monotonic() - started >= 0.25
    # Far more than are on their way at once, each with its answer.
    many = made.matches_many(["a", "b"] * 2_000, "anywhere", 5_000, 1)
    assert [bool(each) for each in many] == [True, False] * 2_000
    odd.companions.drop()


def test_one_that_waits_for_others_is_held_to_the_clock(odd: CompanionEngine) -> None:
    by_clock = CompanionEngine(
        Speaker("odd", program=odd.speaker.program, arguments=odd.speaker.arguments, by_clock=True)
    )
    made = by_clock.compile("a", frozenset())
    started = time.monotonic()
    found = made.matches_many(["sleep", "ba"], "anywhere", 200, 1)
    assert isinstance(found[0], BudgetSpent) and found[1] == [((1, 2),)]
    assert time.monotonic() - started < 30
    by_clock.companions.drop()


def test_what_it_refuses_has_its_place_and_what_kills_it_is_said(odd: CompanionEngine) -> None:
    with pytest.raises(ExpressionError) as caught:
        odd.compile("bad", frozenset())
    assert (caught.value.rule, caught.value.position) == ("the rule", 2)
    with pytest.raises(ExpressionError, match="it was too much"):
        odd.compile("die", frozenset())
    assert odd.compile("a", frozenset()).matches("ba", "anywhere", 1_000, None) == [((1, 2),)]
    with pytest.raises(ExpressionError, match="has no flag like verbose"):
        CompanionEngine(Speaker("odd", program=sys.executable, arguments=odd.speaker.arguments, flags=())).compile(
            "a", frozenset({"verbose"})
        )
    odd.companions.drop()


def test_one_that_does_not_come_to_be_ready_is_not_usable(tmp_path: Path) -> None:
    silent = tmp_path / "silent.py"
    silent.write_text("import sys\nprint('no library here', file=sys.stderr)\nsys.exit(1)\n")
    engine = CompanionEngine(Speaker("silent", program=sys.executable, arguments=(str(silent),)))
    with pytest.raises(EngineUnusable, match="no library here"):
        engine.version()
    # It is not tried again for each pattern.
    silent.write_text(PROGRAM)
    with pytest.raises(EngineUnusable, match="no library here"):
        engine.compile("a", frozenset())
