"""How two expressions relate is proven: brute force over short texts finds no false claim and no shorter witness."""

from __future__ import annotations

import random
import re
from itertools import product
from typing import TYPE_CHECKING

import pytest

from conftest import EXHAUSTIVE, TODAY
from drawn import FLAG_SETS, drawn_expression
from fieldstick.analysis.relation import Reading, Relation, relation_of
from fieldstick.engines.budget import run_within, watching
from fieldstick.engines.probing import compiled_by_engine
from fieldstick.engines.protocol import REACHES
from fieldstick.errors import BudgetSpent, SyntaxFault

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

PAIRS, PARTS = 250, 10
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
