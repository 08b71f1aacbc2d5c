"""Texts that make an expression take forever: nothing is told that the engine does not show, and nothing is missed."""

from __future__ import annotations

import random
from itertools import product
from typing import TYPE_CHECKING

import pytest

import fieldstick
from conftest import EXHAUSTIVE, TODAY
from drawn import FLAG_SETS, drawn_expression
from fieldstick.analysis.automaton.languages import Reading
from fieldstick.analysis.danger import danger_of
from fieldstick.engines.budget import run_within, watching
from fieldstick.engines.probing import compiled_by_engine
from fieldstick.engines.protocol import REACHES
from fieldstick.errors import BudgetSpent, SyntaxFault

if TYPE_CHECKING:
    import re
    from collections.abc import Callable

    from fieldstick.engines.protocol import Reach

EXPONENTIAL = [
    "(a+)+b", "(a|ab|b)*c", r"(\w+\s?)*$", "(?=(a+)+b)a", r"(\d+,?)+$", "(?:aa|aa)*b", "((a*)*)*b", r"([\w-]+_?)+:",
    "(?:(a+)+b|a*)", r'"(?:[^"\\]+|\\.)*"', "(?:a?){30}a{30}", r"(\w{1,30}){1,30}!", r"(?:plot|pl|ot)*\d",
    r"(\s*\w+\s*)*;", r"(.*,)*x", "(?>(a+)+b)c", r"^(([a-z])+.)+[A-Z]([a-z])+$",
]  # fmt: skip
POLYNOMIAL = [
    ("a*a*b", "whole", 2), ("a*a*a*b", "whole", 3), (r"(.*)(.*)x", "whole", 2), (r"(a*)\1b", "whole", 2),
    (r"\s+$", "anywhere", 2), ("(?:a(?=.*b))*c", "whole", 2), ("a+b", "anywhere", 2), (r".*=.*;", "anywhere", 3),
]  # fmt: skip
LINEAR = [
    ("a+b", "whole"), ("(a|a)*b", "whole"), ("(?:x|y|z)+q", "whole"), ("(a++)+b", "whole"), ("(?>a+)+b", "whole"),
    ("x*", "start"), ("(a+)+", "start"), (r'"(?:[^"\\]|\\.)*"', "whole"), (r"\d{1,16}\d{1,16}x", "whole"),
    (r"\d+(\.\d+)?", "anywhere"), (r"(?=.*\d)(?=.*[a-z]).{8,}", "whole"), (r"[a-z]+(?: [a-z]+)*", "whole"),
    (r"(\w+)=(\w+);", "whole"), ("(?:a?b)*+c", "whole"),
]  # fmt: skip


def run_of(expression: str, reach: Reach, flags: frozenset[str] = frozenset()) -> Callable[[str], re.Match[str] | None]:
    compiled = compiled_by_engine(expression, flags)
    assert compiled is not None
    return {"whole": compiled.fullmatch, "start": compiled.match, "anywhere": compiled.search}[reach]


def takes_forever(run: Callable[[str], re.Match[str] | None], text: str) -> bool:
    try:
        run_within(50, run, text)
    except BudgetSpent:
        return True
    return False


@pytest.mark.parametrize("expression", EXPONENTIAL)
def test_what_takes_forever_is_named_with_a_text_that_shows_it(expression: str) -> None:
    found = fieldstick.danger(expression)
    assert found.kind == "exponential"
    texts = [found.text(turns) for turns in range(16, 49, 8)]
    assert any(takes_forever(run_of(expression, "whole"), text) for text in texts) and len(texts[-1]) < 400
    assert not takes_forever(run_of(expression, "whole"), found.text(2))


@pytest.mark.parametrize(("expression", "reach", "degree"), POLYNOMIAL)
def test_what_grows_with_a_power_is_named_with_its_degree(expression: str, reach: Reach, degree: int) -> None:
    found = fieldstick.danger(expression, reach=reach)
    assert (found.kind, found.degree) == ("polynomial", degree)
    assert len(found.text(8)) > len(found.text(4)) > 0


@pytest.mark.parametrize(("expression", "reach"), LINEAR)
def test_what_is_read_in_the_time_of_its_length_is_not_accused(expression: str, reach: Reach) -> None:
    assert fieldstick.danger(expression, reach=reach) == fieldstick.Danger("linear")


@pytest.mark.parametrize("part", range(8) if EXHAUSTIVE else [TODAY % 8])
def test_what_brute_force_finds_to_take_forever_is_never_called_linear(part: int) -> None:
    chance = random.Random(f"danger {part}")
    words = ["".join(each) for size in (1, 2, 3) for each in product("ab", repeat=size)]
    slow = 0
    with watching():
        for _ in range(60):
            expression, flags = drawn_expression(chance, 2), frozenset(chance.choice(FLAG_SETS))
            reach = chance.choice(REACHES)
            try:
                found = danger_of(Reading(expression, reach, flags))
            except SyntaxFault:
                continue
            run = run_of(expression, reach, flags)
            texts = (word * (48 // len(word)) + end for word, end in product(words, ("", "a", "b", "\n", "-")))
            if any(takes_forever(run, text) for text in texts):
                slow += 1
                assert found.kind != "linear", (expression, reach, flags)
            if found.kind == "exponential":
                assert any(takes_forever(run, found.text(turns)) for turns in range(16, 49, 8)), (
                    expression,
                    reach,
                    flags,
                    found,
                )
    assert slow or part


def test_what_cannot_be_told_says_why() -> None:
    found = fieldstick.danger("(?:(?:a{1,200}b?){1,200}c?){1,200}")
    assert found.kind in ("unknown", "exponential") and (found.reason or found.pieces)
    with pytest.raises(fieldstick.UsageError, match="no reach 'all'"):
        fieldstick.danger("a", reach="all")  # type: ignore[arg-type]
