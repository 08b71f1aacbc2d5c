"""The budget of a text is kept wherever the text is read."""

from __future__ import annotations

import re
import resource
import signal
import subprocess
import sys
import threading
import time

import pytest

from fieldstick.engines import memory
from fieldstick.engines.python import ENGINE, TIMER_TEXT_LIMIT
from fieldstick.errors import BudgetSpent, EngineFailure

ENDLESS = "(a+)+$"
TEXT = "a" * 40 + "b"
GENEROUS = 60_000


def seconds_to_give_up(expression: str, text: str, reach: str = "whole") -> float:
    compiled = ENGINE.compile(expression, frozenset())
    started = time.perf_counter()
    with pytest.raises(BudgetSpent) as caught:
        compiled.matches(text, reach, 100, 1)  # type: ignore[arg-type]
    assert caught.value.budget_ms == 100
    return time.perf_counter() - started


def test_backtracking_without_end_is_given_up_in_the_main_thread() -> None:
    assert seconds_to_give_up(ENDLESS, TEXT) < 10


def test_and_in_any_other_thread() -> None:
    took: list[float] = []
    thread = threading.Thread(target=lambda: took.append(seconds_to_give_up(ENDLESS, TEXT)))
    thread.start()
    thread.join(60)
    assert took and took[0] < 10


def test_and_on_a_long_text_whose_search_is_quadratic() -> None:
    assert seconds_to_give_up("a*b", "a" * 1_000_000, "anywhere") < 20


def test_long_texts_and_threads_get_the_same_matches_as_short_ones() -> None:
    compiled = ENGINE.compile(r"(?P<key>[a-z]+)=(\d+)?", frozenset({"ignore-case"}))
    text = "Plot=7 row= " * TIMER_TEXT_LIMIT
    expected = [found.regs for found in re.finditer(r"([a-z]+)=(\d+)?", text, re.IGNORECASE)]
    assert compiled.matches(text, "anywhere", GENEROUS, None) == expected
    found: list[object] = []
    thread = threading.Thread(target=lambda: found.extend(compiled.matches("Plot=7 row=", "anywhere", GENEROUS, None)))
    thread.start()
    thread.join(60)
    assert found == expected[:2]


def test_a_text_with_a_lone_surrogate_is_read_on_both_roads() -> None:
    compiled = ENGINE.compile("[^a]+", frozenset())
    for text in ("\ud800", "\ud800" * (TIMER_TEXT_LIMIT + 1)):
        assert compiled.matches(text, "whole", GENEROUS, 1) == [((0, len(text)),)]


def test_the_callers_own_signal_handler_is_put_back() -> None:
    def handler(number: int, frame: object) -> None: ...

    before = signal.signal(signal.SIGPROF, handler)
    try:
        seconds_to_give_up(ENDLESS, TEXT)
        assert signal.getsignal(signal.SIGPROF) is handler
        assert signal.getitimer(signal.ITIMER_PROF) == (0, 0)
    finally:
        signal.signal(signal.SIGPROF, before)


def test_a_text_that_breaks_the_engine_down_is_an_error_of_its_own() -> None:
    compiled = ENGINE.compile("(?:(b)|[ab])*+", frozenset())
    try:
        expected = [found.regs for found in re.finditer("(?:(b)|[ab])*+", "baa")]
    except SystemError:  # so it is with Python 3.11
        for text in ("baa", "baa" * TIMER_TEXT_LIMIT):
            with pytest.raises(EngineFailure, match="the engine broke down"):
                compiled.matches(text, "anywhere", GENEROUS, 1)
    else:
        assert compiled.matches("baa", "anywhere", GENEROUS, None) == expected


@pytest.mark.skipif(memory.size_of() is None, reason="this system does not tell the size of a process")
@pytest.mark.parametrize("expression", ["(?:(?:(?:a?){1000}){1000}){1000}", "(?:(?:(?:a*){1000}){1000}){1000}"])
@pytest.mark.parametrize("length", [60, TIMER_TEXT_LIMIT + 1])
def test_an_expression_that_asks_for_very_much_memory_is_given_up(expression: str, length: int) -> None:
    program = f"""
import resource
from fieldstick.engines import memory
from fieldstick.engines.python import ENGINE
from fieldstick.errors import EngineFailure
try:
    ENGINE.compile({expression!r}, frozenset()).matches("a" * {length}, "whole", {GENEROUS}, 1)
except EngineFailure as failure:
    print(failure)
print(max(resource.getrusage(who).ru_maxrss for who in (resource.RUSAGE_SELF, resource.RUSAGE_CHILDREN)))
print(resource.getrlimit(resource.RLIMIT_AS)[0])
"""
    run = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, check=True)
    words, kilobytes, limit = run.stdout.splitlines()
    assert words == "the engine asked for more than 1,024 MB of memory here"
    assert int(kilobytes) < 1_400_000
    assert int(limit) == resource.getrlimit(resource.RLIMIT_AS)[0]


@pytest.mark.skipif(memory.size_of() is None, reason="this system does not tell the size of a process")
def test_what_a_process_holds_by_then_does_not_count() -> None:
    """A bound below it would have Python 3.11 let go of a function twice whose call found no room."""
    program = """
import mmap, sys, time
from fieldstick.engines.budget import run_within
def deep(calls): return deep(calls - 1) if calls else 0
def long_and_deep():
    start = time.process_time()
    while time.process_time() - start < 0.05:
        pass
    return deep(900)
run_within(5_000, long_and_deep)
held = mmap.mmap(-1, 3 << 30)
before = sys.getrefcount(deep)
run_within(5_000, deep, 900), run_within(5_000, long_and_deep)
print(sys.getrefcount(deep) - before)
"""
    run = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, check=True)
    assert run.stdout == "0\n"
