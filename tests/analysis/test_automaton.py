"""An automaton does to every text what the engine does: it fits or not, at the same place, with the same groups."""

from __future__ import annotations

import random
from array import array
from itertools import product
from typing import TYPE_CHECKING

import pytest

from conftest import EXHAUSTIVE, TODAY
from drawn import FLAG_SETS, drawn_expression, drawn_texts
from fieldstick.analysis.automaton import walk_tables
from fieldstick.analysis.automaton.asked import Reading
from fieldstick.analysis.automaton.building import program_of
from fieldstick.analysis.automaton.kept_tables import reading_table, sorting_table
from fieldstick.analysis.automaton.program import OutOfReach
from fieldstick.analysis.automaton.simulation import read
from fieldstick.analysis.automaton.tables import Tables
from fieldstick.analysis.automaton.threads import Automaton
from fieldstick.engines.budget import run_within, watching
from fieldstick.engines.probing import compiled_by_engine
from fieldstick.engines.protocol import REACHES
from fieldstick.errors import BudgetSpent, SyntaxFault
from fieldstick.kernels.walkers import NATIVE
from fieldstick.syntax.parser import parse

if TYPE_CHECKING:
    import re

    from fieldstick.analysis.automaton.walk_tables import WalkTable
    from fieldstick.engines.protocol import Reach, Spans
    from fieldstick.kernels.calls import Progress

PARTS = 20
EXPRESSIONS, TEXTS = 350, 32
"""Expressions in each of twenty parts, of which `make test` takes one, and texts for each expression."""


def by_engine(compiled: re.Pattern[str], reach: Reach, text: str, milliseconds: int = 20) -> Spans | None:
    method = {"whole": compiled.fullmatch, "start": compiled.match, "anywhere": compiled.search}[reach]
    found = run_within(milliseconds, method, text)
    return found.regs if found else None


def held_against_engine(expression: str, flags: frozenset[str], reach: Reach, chance: random.Random, most: int) -> int:
    """Hold both readers against the engine; return how many texts were read."""
    compiled = compiled_by_engine(expression, flags)
    assert compiled is not None
    parsed = parse(expression, flags)
    automaton = Automaton(program_of(parsed, reach))
    tables = Tables(automaton)
    done = 0
    wanted_of: dict[str, Spans | None] = {}
    for text in drawn_texts(chance, parsed, automaton, most):
        try:
            wanted = by_engine(compiled, reach, text)
        except (BudgetSpent, SystemError, MemoryError):
            break
        said = (expression, sorted(flags), reach, text)
        assert tables.fits(text) is (wanted is not None), said
        if automaton.program.hidden_group is None:
            assert read(automaton, text) == wanted, said
        wanted_of[text] = wanted
        done += 1
    if NATIVE is not None:
        walked_against_engine(expression, flags, reach, wanted_of)
    return done


def walked_against_engine(
    expression: str, flags: frozenset[str], reach: Reach, wanted_of: dict[str, Spans | None]
) -> None:
    """Hold the compiled walkers against what the engine said of texts; a block has all that are the same as bytes."""
    assert NATIVE is not None
    texts = [text for text in wanted_of if as_bytes(text).decode("utf-8", "surrogateescape") == text]
    data, cells = b"".join(map(as_bytes, texts)), array("i")
    for text in texts:
        start = cells[-1] if cells else 0
        cells.extend((start, start + len(as_bytes(text))))
    reading = Reading(expression, reach, flags)
    for kept in (reading_table(reading), sorting_table([reading])):
        try:
            table = kept.table()
        except OutOfReach:
            continue
        slots = table.arrays.slots
        out, _ = walked(table, data, cells)
        with pytest.MonkeyPatch.context() as patch:
            patch.setattr(walk_tables, "BYTES_OF_LEAPS", 0)
            table.prepare(data, cells)
        in_leaps, progress = walked(table, data, cells)
        assert in_leaps == out, (expression, sorted(flags), reach)
        assert table.is_sound
        if not slots:
            found = dict(zip(texts, memoryview(out).cast("h"), strict=False))
            assert {text: each == 0 for text, each in found.items()} == {
                text: wanted_of[text] is not None for text in texts
            }, (expression, sorted(flags), reach)
            continue
        rows = memoryview(out).cast("i")
        fitting = {}
        for row in range(progress[3]):
            number, start, _, *places = rows[row * (3 + slots) : (row + 1) * (3 + slots)]
            told = [data[start:each].decode("utf-8", "surrogateescape") for each in places]
            points = [-1 if each < 0 else len(text) for each, text in zip(places, told, strict=True)]
            pairs = zip(points[::2], points[1::2], strict=True)
            fitting[texts[number]] = tuple((-1, -1) if end < 0 else (begin, end) for begin, end in pairs)
        assert fitting == {text: wanted_of[text] for text in texts if wanted_of[text] is not None}, (
            expression, sorted(flags), reach)  # fmt: skip


def walked(table: WalkTable, data: bytes, cells: array[int]) -> tuple[bytearray, Progress]:
    assert NATIVE is not None
    slots = table.arrays.slots
    out = bytearray(2 * (3 + slots) * len(cells) + 8)
    progress: Progress = (0, 0, 0, 0, 0, 0)
    while True:
        asked = (data, cells, table.walked, 0, progress[1], progress[2], out)
        progress = NATIVE.read(*asked, progress[3], None, None) if slots else NATIVE.sort(*asked, None, None)
        if progress[0] == 0:
            return out, progress
        table.fill(progress[4], progress[5])


def as_bytes(text: str) -> bytes:
    try:
        return text.encode("utf-8", "surrogateescape")
    except UnicodeEncodeError:
        return b""


EDGES = [
    "a++b", "(?>a+)b|a", "(?>a|ab)b", "(?>ab|a)b?", "(?:a|ab){2}+", "(?:a|ab)*+b", "(?>(?>a|b)+)a", "(?>a?b?)*c|a",
    "(?=ab)a(?!ba)", "(?=.*b)a+b*", "a(?=b*$)b*", "(?<=ab)a|a", "(?<!a)b$|a", r"(?!.*bb)[ab]*", r"a*(?=\n)\n",
    "(?:(?=a)[ab])+", "(?!(?=ab))a?b*", "(a*)*", "(a*)+b", "(a|)*?b", "((a?)b?){1,3}?", r"\B|a\B", "a$|a$\n", "(?m)^a$",
    "(?s:.)(?-s:.)?", r"(?i:A)\b(?:-|$)", "(?>a*(?=b))b|a",
]  # fmt: skip


@pytest.mark.parametrize("expression", EDGES)
def test_every_short_text_is_read_as_the_engine_reads_it(expression: str) -> None:
    compiled = compiled_by_engine(expression, frozenset())
    assert compiled is not None
    for reach in REACHES:
        automaton = Automaton(program_of(parse(expression), reach))
        tables = Tables(automaton)
        for text in map("".join, (each for size in range(5) for each in product("ab\n-", repeat=size))):
            wanted = by_engine(compiled, reach, text, 2000)
            assert tables.fits(text) is (wanted is not None), (reach, text)
            if automaton.program.hidden_group is None:
                assert read(automaton, text) == wanted, (reach, text)


@pytest.mark.parametrize(
    ("expression", "construct", "span"),
    [
        (r"(a)\1", "the reference \\1", (3, 5)),
        ("(a)?(?(1)b|c)", "a conditional group", (4, 13)),
        ("(?<=(?=a)a)b", "look-around inside a look-behind", (4, 9)),
        ("(?:a{200}b){300}", "repeats that make more than", None),
    ],
)
def test_what_it_does_not_hold_is_named_with_its_place(
    expression: str, construct: str, span: tuple[int, int] | None
) -> None:
    with pytest.raises(OutOfReach) as told:
        program_of(parse(expression))
    assert told.value.construct.startswith(construct) and told.value.span == span


def test_a_group_that_the_engine_alone_knows_is_not_guessed() -> None:
    automaton = Automaton(program_of(parse("(?=(a+))a*b")))
    assert Tables(automaton).fits("aab")
    with pytest.raises(OutOfReach, match="capture group in look-around"):
        read(automaton, "aab")


def test_a_long_text_is_read_in_the_time_of_its_length_whatever_the_expression() -> None:
    automaton = Automaton(program_of(parse("(a+)+b"), "whole"))
    assert read(automaton, "a" * 20_000) is None
    assert not Tables(automaton).fits("a" * 200_000)
    # Ways are worked out once for each thread and letter: none is added by a longer text.
    assert len(automaton._ways) < 40


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
    assert read_texts >= 10_000


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
