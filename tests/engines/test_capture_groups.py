"""Names of capture groups are read as the engines number them, in whatever notation of theirs."""

from __future__ import annotations

import random

import pytest
from engines_here import engine_named, usable

from conftest import TODAY
from drawn import drawn_expression
from fieldstick.engines.capture_groups import group_names
from fieldstick.errors import ExpressionError

PIECES = {
    "perl": [
        "(a)",
        "(?<n>b)",
        "(?:c)",
        r"\(",
        r"\Q(x)(y\E",
        "[(]",
        "[[:alpha:](]",
        "(?#(x)",
        "(?=(d))",
        "(?'m'e)",
        r"[\](]",
        "[](]",
    ],
    "java": ["(a)", "(?<n>b)", "(?:c)", r"\(", r"\Q(x)(y\E", "[(]", "[a[(]b]", "[a&&[^(]]", "(?!(d))", r"[\](]"],
    "ecmascript": ["(a)", "(?<n>b)", "(?:c)", r"\(", "[(]", "[[(]", "(?<=(d))", r"[\](]", "[^(]", "(?<!e)"],
    "node": ["(a)", "(?<n>b)", r"\(", "[(]", "(?=(d))", r"[\](]", "(?<m>(f))"],
}  # fmt: skip


@pytest.mark.parametrize("engine", sorted(PIECES))
def test_as_many_groups_are_read_as_the_engine_has(engine: str) -> None:
    made = engine_named(usable(engine))
    chance = random.Random(TODAY)
    kinds = {"perl": {}, "java": {"nested": True}}.get(engine, {"quoted": False})
    tried = 0
    for _ in range(80):
        pieces = chance.sample(PIECES[engine], chance.randint(1, 5))
        expression = "".join(pieces)
        try:
            compiled = made.compile(expression, frozenset())
        except ExpressionError:
            continue
        tried += 1
        names = group_names(expression, **kinds)
        assert len(names) == len(compiled.group_names), expression
        assert compiled.group_names == tuple(name or str(number) for number, name in enumerate(names, 1))
    assert tried > 40


def test_comments_and_verbs_hold_no_group() -> None:
    assert group_names("(?#(a)(b)(*FAIL)(c)", verbose=False) == ["", ""]
    assert group_names("(a) # (b)\n(?<n>c)", verbose=True) == ["", "n"]
    assert group_names("(a) # (b)\n(?<n>c)") == ["", "", "n"]
    assert group_names(r"(?P<p>a)(?<!b)(?<=c)(?'q'd)") == ["p", "q"]
    assert group_names("(a)[(", verbose=False) == [""] and group_names("\\") == []


@pytest.mark.parametrize("engine", ["perl", "java", "ecmascript"])
def test_drawn_expressions_have_the_names_that_are_put_into_them(engine: str) -> None:
    made = engine_named(usable(engine))
    chance = random.Random(TODAY)
    tried = 0
    for number in range(60):
        expression = f"(?<first{number}>a)(?:{drawn_expression(chance, 2, plain=True)})(?<last>b)"
        try:
            compiled = made.compile(expression, frozenset())
        except ExpressionError:
            continue
        tried += 1
        assert compiled.group_names[0] == f"first{number}" and compiled.group_names[-1] == "last"
        found = compiled.matches("ab", "anywhere", 5_000, 1)
        assert not found or found[0][1] == (0, 1)
    assert tried > 15
