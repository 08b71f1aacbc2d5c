"""What is claimed of an expression as it is written on another engine holds for every short text, on both engines."""

from __future__ import annotations

import itertools
import random
from typing import TYPE_CHECKING

import pytest
from engines_here import engine_named, usable

from conftest import EXHAUSTIVE, TODAY
from drawn import FLAG_SETS, drawn_expression
from fieldstick.analysis.portability import relation_on, strangers
from fieldstick.analysis.rendering.terms import NotCarried
from fieldstick.analysis.rendering.writing import written_out
from fieldstick.engines.python import ENGINE as PYTHON
from fieldstick.errors import BudgetSpent, EngineFailure, ExpressionError, FieldstickError, SyntaxFault

if TYPE_CHECKING:
    from fieldstick.engines.protocol import Reach

REACHES: tuple[Reach, ...] = ("whole", "start", "anywhere")
ALPHABET = "ab\né٧K"
"""Letters of expressions that are drawn, a line feed, and characters that engines have opinions on."""

SHORT = ["".join(each) for size in range(4) for each in itertools.product(ALPHABET, repeat=size)]
ENGINES = (
    "regex", "re2", "rust", "pcre2", "pcre2-ucp", "ecmascript", "ecmascript-v", "perl", "php", "ruby", "oniguruma",
    "java", "java-unicode", "node", "dotnet",
)  # fmt: skip


def taken(engine: str, expression: str, flags: frozenset[str], reach: Reach) -> list[bool | None] | None:
    """Tell of each short text whether an engine takes it, None where it gives up; None for a refusal."""
    try:
        made = engine_named(engine).compile(expression, flags)
    except ExpressionError:
        return None
    many = getattr(made, "matches_many", None)
    if many is not None:
        found = many(SHORT, reach, 5_000, 1)
        return [None if isinstance(each, FieldstickError) else bool(each) for each in found]
    told: list[bool | None] = []
    for text in SHORT:
        try:
            told.append(bool(made.matches(text, reach, 5_000, 1)))
        except (BudgetSpent, EngineFailure):
            told.append(None)
    return told


@pytest.mark.parametrize("engine", ENGINES)
def test_what_an_engine_takes_is_what_its_meaning_written_out_for_python_takes(engine: str) -> None:
    usable(engine)
    chance = random.Random(TODAY)
    known = same = differing = 0
    for _ in range(1_000 if EXHAUSTIVE else 25):
        expression = drawn_expression(chance, 2)
        flags, reach = frozenset(chance.choice(FLAG_SETS)), chance.choice(REACHES)
        try:
            there = written_out(expression, flags, engine)
            PYTHON.compile(expression, flags)
        except (SyntaxFault, NotCarried, ExpressionError):
            continue
        asked = taken(engine, expression, flags, reach)
        meant = taken("python", there, frozenset(), reach)
        if asked is None or meant is None:
            continue
        known += 1
        pairs = [each for each in zip(SHORT, asked, meant, strict=True) if None not in each]
        unlike = [text for text, one, other in pairs if one != other]
        assert not unlike, (expression, sorted(flags), reach, there, unlike[:5])
        relation = relation_on(expression, flags, reach, engine)
        here = taken("python", expression, flags, reach)
        if relation is None or relation.relation == "undecided" or here is None:
            continue
        both = [each for each in zip(here, asked, strict=True) if None not in each]
        if relation.relation == "same":
            same += 1
            assert all(one == other for one, other in both), (expression, sorted(flags), reach)
        else:
            differing += 1
        if relation.relation in ("narrower", "apart"):
            assert relation.relation == "apart" or all(other for one, other in both if one)
    assert known > 5 and same + differing > 3, (known, same, differing)


@pytest.mark.parametrize(
    ("expression", "flags", "engine", "pieces"),
    [
        (r"(?P<row>[A-F])\d\Z", (), "ecmascript", [("(?P<row>", "(?<row>"), (r"\d", r"\p{Nd}"), (r"\Z", "$")]),
        (r"\d+\.", ("ascii",), "java", []),
        (r"a(?>b)++c", (), "re2", [("(?>", "b"), ("++", "")]),
        (r"(a)(?:b|\1)", (), "rust", [(r"\1", "")]),
        (r"x{,3}y", (), "java", [("{,3}", "x{0,3}")]),
        (r"[]a]+", (), "ecmascript", [("[]a]", r"[\]a]")]),
        (r"\N{DEGREE SIGN}\x41", (), "ecmascript", [(r"\N{DEGREE SIGN}", "°")]),
        (r"^a$", ("multiline",), "pcre2", [("^", r"(?<![^\n])")]),
        (
            r"\bin\b",
            (),
            "pcre2-ucp",
            [(r"\b", r"(?:(?<=[\p{L}\p{N}_])(?![\p{L}\p{N}_])|(?<![\p{L}\p{N}_])(?=[\p{L}\p{N}_]))")],
        ),
        (r"(?i)a(?-i:b)", (), "ecmascript", [("(?i)", "")]),
        ("[A-F][0-9]{2}", (), "sqlite", []),
    ],
)
def test_what_stands_in_the_way_is_named_with_its_place_and_what_works_there(
    expression: str, flags: tuple[str, ...], engine: str, pieces: list[tuple[str, str]]
) -> None:
    found = strangers(expression, frozenset(flags), engine)
    assert [(each.spelling, each.instead) for each in found if each.construct != "scoped-flags"] == pieces
    assert all(expression[slice(*each.span)] == each.spelling for each in found)
