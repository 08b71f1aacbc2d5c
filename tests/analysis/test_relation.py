"""How two expressions relate is proven: brute force over short texts finds no false claim and no shorter witness."""

from __future__ import annotations

import json
import random
import re
from itertools import product
from typing import TYPE_CHECKING

import pytest

import fieldstick
from conftest import EXHAUSTIVE, TODAY, Desk
from drawn import FLAG_SETS, drawn_expression
from fieldstick.analysis.effort import Effort
from fieldstick.analysis.relation import Reading, Relation, relation_of
from fieldstick.engines.budget import run_within, watching
from fieldstick.engines.probing import compiled_by_engine
from fieldstick.engines.protocol import REACHES
from fieldstick.errors import BudgetSpent, SyntaxFault

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

PAIRS, PARTS = 150, 10
SHORT = ["".join(each) for size in range(5) for each in product("aKb\n ", repeat=size)]
SHORTEST_LAST = sorted(SHORT, key=len)


def drawn_pair(chance: random.Random) -> tuple[str, str]:
    """Two expressions: unrelated, or one made from the other by a change."""
    one = drawn_expression(chance, 2, plain=chance.random() < 0.7)
    other = drawn_expression(chance, 2, plain=True)
    changed = [
        other, f"(?:{one})|{other}", f"(?:{one})?", f"(?:{one}){other}", f"(?:{one})+", f"(?:{one}|{one})",
        re.sub(r"[ab]", "[ab]", one, count=1), one.replace("*", "+", 1), one.replace("a", "b", 1), f"(?!{other}){one}",
    ]  # fmt: skip
    return one, chance.choice(changed)


def takes(reading: Reading) -> Callable[[str], bool] | None:
    """Return a test of one text by the engine; None where it refuses the expression."""
    compiled = compiled_by_engine(reading.expression, reading.flags)
    if compiled is None:
        return None
    method = {"whole": compiled.fullmatch, "start": compiled.match, "anywhere": compiled.search}[reading.reach]
    return lambda text: run_within(200, method, text) is not None


def claims(found: Relation) -> Iterator[tuple[bool, bool, str | None, bool]]:
    """What a relation says of texts that the first takes or not, the second takes or not: which, and whether any."""
    yield True, False, found.only_first, found.relation in ("wider", "crossing", "apart")
    yield False, True, found.only_second, found.relation in ("narrower", "crossing", "apart")
    yield True, True, found.both, found.both is not None


@pytest.mark.parametrize("part", range(PARTS) if EXHAUSTIVE else [TODAY % PARTS])
def test_no_claim_is_false_and_no_witness_could_be_shorter(part: int) -> None:
    chance = random.Random(f"relation {part}")
    decided = asked = 0
    with watching():
        while asked < PAIRS:
            flags = frozenset(chance.choice(FLAG_SETS))
            reach = chance.choice(REACHES)
            pair = [Reading(each, reach, flags) for each in drawn_pair(chance)]
            tests = [takes(each) for each in pair]
            if tests[0] is None or tests[1] is None:
                continue
            try:
                found = relation_of(*pair)
                told = [(tests[0](text), tests[1](text), text) for text in SHORTEST_LAST]
            except (SyntaxFault, BudgetSpent, SystemError):
                continue
            asked += 1
            if found.relation == "undecided":
                assert found.why and "report" not in found.why, (pair, found)
                continue
            decided += 1
            for first, second, witness, exists in claims(found):
                assert (witness is not None) is exists, (pair, found)
                seen = next((text for one, two, text in told if (one, two) == (first, second)), None)
                assert seen is None or (witness is not None and len(witness) <= len(seen)), (pair, found, seen)
                if witness is not None:
                    assert (tests[0](witness), tests[1](witness)) == (first, second), (pair, found)
    assert decided > 0.99 * asked


@pytest.mark.parametrize(
    ("first", "second", "told"),
    [
        ("a+", "a*", ("narrower", None, "", "a")),
        (r"LM-\d{4}(-r)?", r"LM-\d{4}", ("wider", "LM-0000-r", None, "LM-0000")),
        ("[a-c]+", "[b-d]+", ("crossing", "a", "d", "b")),
        ("in", "out", ("apart", "in", "out", None)),
        ("a$", r"a\n?", ("narrower", None, "a\n", "a")),
        (r"(?!000)\d{3}", r"\d{3}", ("narrower", None, "000", "001")),
        ("(?:a|b)*", "[ab]*", ("same", None, None, "")),
        ("a*b.{0,400}c", "a*b.*c", ("narrower", None, "b" + "b" * 401 + "c", "bc")),
        ("(?!)", "x", ("narrower", None, "x", None)),
    ],
)
def test_the_relation_and_the_shortest_texts_that_show_it(
    first: str, second: str, told: tuple[str | None, ...]
) -> None:
    found = fieldstick.relation(first, second)
    if len(told[2] or "") > 50:
        assert (found.relation, len(found.only_second or "")) == (told[0], len(told[2] or ""))
    else:
        assert (found.relation, found.only_first, found.only_second, found.both) == told


def test_reach_and_flags_count_and_what_is_not_known_says_why() -> None:
    assert fieldstick.relation("a", "^a$", reach="anywhere").relation == "wider"
    assert fieldstick.relation("stoat", "STOAT", flags=["ignore-case"]).relation == "same"
    found = fieldstick.relation(r"(a)\1", "aa")
    assert found.relation == "undecided" and "\\1" in found.why and found.both is None
    with pytest.raises(fieldstick.UsageError, match="no flag 'icase'"):
        fieldstick.relation("a", "b", flags=["icase"])
    with pytest.raises(SyntaxFault):
        fieldstick.relation("(", "a")


def test_what_needs_too_many_sets_of_threads_is_walked_one_by_one() -> None:
    found = fieldstick.relation("a.*b.{0,300}c", "a.*c")
    assert (found.relation, found.only_second) == ("narrower", "ac")


COMPARED = """
[patterns.label]
expression = 'LM-\\d{4}(-r)?'
positive = ['LM-0012']
[patterns.other]
expression = 'x'
positive = ['x']
"""


def test_commands_say_how_a_draft_relates_to_what_it_replaces(desk: Desk) -> None:
    desk.suite(COMPARED)
    both = desk.run("compare", "-e", r"LM-\d{4}(-r)?", "-e", r"LM-\d{4}").out
    assert "texts      narrower: it no longer takes 'LM-0000-r'" in both
    data = json.loads(desk.run("compare", "loggers:label", "-e", r"LM-\d+(-r)?", "--format", "json").out)
    (label,) = [each for each in data["suites"][0]["patterns"] if each["name"] == "label"]
    assert (label["relation"]["relation"], label["relation"]["gained"]) == ("wider", "LM-0")
    assert (
        "wider: it takes 'LM-0' too"
        in desk.run("compare", "loggers:label", "-e", r"LM-\d+(-r)?", "--format", "markdown").out
    )
    tried = desk.run("try", "a|b", "-", "--against", "a+", typed="a\n")
    assert "crossing: it no longer takes 'aa', and takes 'b' instead" in tried.out
    refused = desk.run("keep", "label", r"LM-\d{4}", "--suite", "loggers")
    assert refused.status == 2 and "--replace puts the expression in its place" in refused.err
    kept = desk.run("keep", "label", r"LM-\d{4}", "--suite", "loggers", "--replace")
    assert kept.status == 0 and "narrower: it no longer takes 'LM-0000-r'" in kept.out
    text = (desk.folder / "loggers.suite.toml").read_text(encoding="utf-8")
    assert "expression = 'LM-\\d{4}'" in text and "positive = ['LM-0012']" in text
    for arguments in (("--replace", "--about", "x"), ("--replace", "--reach", "start")):
        assert desk.run("keep", "label", "b", "--suite", "loggers", *arguments).status == 2
    broken = desk.run("keep", "label", "LM(", "--suite", "loggers", "--replace")
    assert broken.status == 2 and "this parenthesis is not closed" in broken.err
    slow = desk.run("keep", "label", "(?:ab|a|ba)*c", "--suite", "loggers", "--replace")
    assert slow.status == 0 and "takes-forever" in slow.out
    assert desk.run("keep", "none", "b", "--suite", "loggers", "--replace").status == 2


def test_a_pattern_with_a_parameter_is_replaced_without_its_value(desk: Desk) -> None:
    desk.suite('[patterns.trap]\nexpression = "trap={{=trap}}"\nparameters = ["trap"]\n')
    replaced = desk.run("keep", "trap", "frame of {{=trap}}", "--suite", "loggers", "--replace")
    assert replaced.status == 0 and "Replaced the expression of trap" in replaced.out


@pytest.mark.parametrize(("steps", "undecided"), [(0, 49), (20, None), (200, None), (100_000, 0)])
def test_what_little_effort_decides_is_what_is_decided_without_end(steps: int, undecided: int | None) -> None:
    asked = [
        r"[a-f]\d{2,4}",
        r"[a-g]\d{2,}",
        r"(?:x|y)*z{1,3}",
        r"(?:y|x)*z{1,3}",
        r"(\w+)(?:, \w+)*",
        r"\w+,? ?.*",
        "a",
    ]
    left = 0
    for one in map(Reading, asked):
        for other in map(Reading, asked):
            told = relation_of(one, other, Effort(steps)).relation
            left += told == "undecided"
            assert told in ("undecided", relation_of(one, other).relation)
    assert undecided in (None, left)
