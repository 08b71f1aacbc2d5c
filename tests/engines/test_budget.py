"""The budget of a text is kept wherever the text is read."""

from __future__ import annotations

import re
import signal
import threading
import time

import pytest

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

    before = signal.signal(signal.SIGVTALRM, handler)
    try:
        seconds_to_give_up(ENDLESS, TEXT)
        assert signal.getsignal(signal.SIGVTALRM) is handler
        assert signal.getitimer(signal.ITIMER_VIRTUAL) == (0, 0)
    finally:
        signal.signal(signal.SIGVTALRM, before)


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
