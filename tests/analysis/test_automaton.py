"""An automaton does to every text what the engine does: it fits or not, at the same place, with the same groups."""

from __future__ import annotations

import random
from typing import TYPE_CHECKING

import pytest

from conftest import EXHAUSTIVE, TODAY
from drawn import FLAG_SETS, drawn_expression, drawn_texts
from fieldstick.analysis.automaton.building import program_of
from fieldstick.analysis.automaton.program import OutOfReach
from fieldstick.analysis.automaton.simulation import read
from fieldstick.analysis.automaton.tables import Tables
from fieldstick.analysis.automaton.threads import Automaton
from fieldstick.engines.budget import run_within, watching
from fieldstick.engines.probing import compiled_by_engine
from fieldstick.engines.protocol import REACHES
from fieldstick.errors import BudgetSpent, SyntaxFault
from fieldstick.syntax.parser import parse

if TYPE_CHECKING:
    import re

    from fieldstick.engines.protocol import Reach, Spans

PARTS = 10
EXPRESSIONS, TEXTS = 1_100, 20
"""Expressions in each of ten parts, of which `make test` takes one, and texts for each expression."""


def by_engine(compiled: re.Pattern[str], reach: Reach, text: str) -> Spans | None:
    method = {"whole": compiled.fullmatch, "start": compiled.match, "anywhere": compiled.search}[reach]
    found = run_within(20, method, text)
    return found.regs if found else None


def held_against_engine(expression: str, flags: frozenset[str], reach: Reach, chance: random.Random, most: int) -> int:
    """Hold both readers against the engine; return how many texts were read."""
    compiled = compiled_by_engine(expression, flags)
    assert compiled is not None
    parsed = parse(expression, flags)
    automaton = Automaton(program_of(parsed, reach))
    tables = Tables(automaton)
    done = 0
    for text in drawn_texts(chance, parsed, automaton, most):
        try:
            wanted = by_engine(compiled, reach, text)
        except (BudgetSpent, SystemError, MemoryError):
            break
        said = (expression, sorted(flags), reach, text)
        assert tables.fits(text) is (wanted is not None), said
        if automaton.program.hidden_group is None:
            assert read(automaton, text) == wanted, said
        done += 1
    return done


@pytest.mark.parametrize("part", range(PARTS) if EXHAUSTIVE else [TODAY % PARTS])
def test_drawn_expressions_do_what_the_engine_does(part: int) -> None:
    chance = random.Random(f"automaton {part}")
    read_texts = 0
    with watching():
        for _ in range(EXPRESSIONS):
            expression = drawn_expression(chance)
            flags = frozenset(chance.choice(FLAG_SETS))
            if compiled_by_engine(expression, flags) is None:
                continue
            try:
                read_texts += held_against_engine(expression, flags, chance.choice(REACHES), chance, TEXTS)
            except (SyntaxFault, OutOfReach):
                continue
    assert read_texts >= 20_000


def test_harvested_expressions_do_what_the_engine_does(harvested: tuple[str, ...]) -> None:
    chance = random.Random("harvested")
    held, outside = 0, 0
    with watching():
        for expression in harvested:
            flags = frozenset(chance.choice(FLAG_SETS))
            if compiled_by_engine(expression, flags) is None:
                continue
            try:
                held_against_engine(expression, flags, chance.choice(REACHES), chance, 8)
                held += 1
            except SyntaxFault:
                continue
            except OutOfReach:
                outside += 1
    assert held > 0.9 * len(harvested) > 10 * outside
