"""What a hazard claims of all texts holds for every short one: never reached, never held, nothing changed."""

from __future__ import annotations

import random
import re
from itertools import product
from typing import TYPE_CHECKING

import pytest

from conftest import EXHAUSTIVE, TODAY
from drawn import FLAG_SETS, drawn_expression
from fieldstick.analysis.hazards import flags, proofs
from fieldstick.analysis.hazards.suspect import edited
from fieldstick.engines.probing import batch_of, compiled_by_engine, engine_flags
from fieldstick.engines.protocol import REACHES
from fieldstick.errors import SyntaxFault
from fieldstick.syntax.parser import parse

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.engines.protocol import Reach
    from fieldstick.syntax.parser import Parsed

TEXTS = ["".join(each) for size in range(5) for each in product("abK\n ", repeat=size)]
DRAWN = 120


def drawn(name: str, part: int) -> Iterator[tuple[Parsed, Reach, random.Random]]:
    chance = random.Random(f"{name} {part}")
    for _ in range(DRAWN):
        expression = drawn_expression(chance, 2, plain=chance.random() < 0.6)
        flags = frozenset(chance.choice(FLAG_SETS))
        if compiled_by_engine(expression, flags) is None:
            continue
        try:
            yield parse(expression, flags), chance.choice(REACHES), chance
        except SyntaxFault:
            continue


def matched(expression: str, flags: frozenset[str], reach: Reach) -> list[tuple[tuple[int, int], ...] | None]:
    """What the engine makes of every short text; nothing where they take it too long, or it breaks down."""
    return batch_of(expression, flags, reach, TEXTS) or []


@pytest.mark.parametrize("part", range(6) if EXHAUSTIVE else [TODAY % 6])
def test_an_option_or_anchor_that_is_called_dead_takes_part_in_no_match(part: int) -> None:
    claims = 0
    for parsed, reach, _ in drawn("dead", part):
        for suspect in proofs.never_come_to(parsed, reach):
            start, end = suspect.span
            marked = edited(parsed, ((start, start), "(?P<way>"), ((end, end), ")"))
            compiled = re.compile(marked, engine_flags(parsed.flags))
            method = {"whole": compiled.fullmatch, "start": compiled.match, "anywhere": compiled.search}[reach]
            claims += 1
            for text in TEXTS:
                found = method(text)
                assert found is None or found["way"] is None, (parsed.expression, sorted(parsed.flags), reach, text)
    assert claims > 10


@pytest.mark.parametrize("part", range(6) if EXHAUSTIVE else [TODAY % 6])
def test_a_flag_that_is_called_idle_changes_no_match_and_no_group(part: int) -> None:
    claims = 0
    for parsed, reach, _ in drawn("flags", part):
        for flag in parsed.flags:
            others = parsed.flags - {flag}
            same = matched(parsed.expression, parsed.flags, reach) == matched(parsed.expression, others, reach)
            if flags.means_the_same(parsed, parsed.expression, others, reach):
                claims += 1
                assert same, (parsed.expression, flag, reach)
    assert claims > 5


@pytest.mark.parametrize("part", range(6) if EXHAUSTIVE else [TODAY % 6])
def test_a_repeat_that_may_be_possessive_takes_the_same_texts_then(part: int) -> None:
    made = 0
    for parsed, reach, _ in drawn("possessive", part):
        found = proofs.possessive(parsed, reach)
        if found is not None:
            made += 1
            _, changed = found
            before = [each is not None for each in matched(parsed.expression, parsed.flags, reach)]
            after = [each is not None for each in matched(changed, parsed.flags, reach)]
            assert before == after or not (before and after), (parsed.expression, changed, reach)
    assert made > 10


@pytest.mark.parametrize(
    ("expression", "covered"),
    [
        ("[a-mn-zf-q]", "f-q"),
        (r"[\d0-4]", None),
        ("[a-z-]", None),
        (r"[^\s\n]", None),
        ("[a-cb-dd]", None),
    ],
)
def test_an_item_that_the_others_cover_together_is_named(expression: str, covered: str | None) -> None:
    found = [expression[slice(*each.span)] for each in proofs.covered_in_class(parse(expression), "whole")]
    assert found == ([covered] if covered else [])


@pytest.mark.parametrize(
    ("expression", "turned"),
    [
        ("(?:a*)*b", "(?:a+)*b"),
        ("(?:a?)+b", "(?:a)*b"),
        (r"(?:\s?x?)*y", r"(?:\s?x?)*y"),
        ("(?:a|)*b", "(?:a|)*b"),
        ("(?:ab?)*", None),
        ("(?:a*)?b", None),
        (r"(?:\b)*a", None),
    ],
)
def test_a_turn_that_may_be_empty_is_named_with_what_asks_for_something(expression: str, turned: str | None) -> None:
    found = [each.changed for each in proofs.empty_turn(parse(expression), "whole")]
    assert found == ([turned] if turned else [])
    if turned:
        for text in TEXTS:
            assert (re.fullmatch(expression, text) is None) is (re.fullmatch(turned, text) is None)
