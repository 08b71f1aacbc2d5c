"""Every engine, whatever it runs in, answers by the same rules: places, budgets, refusals, and nothing else suffers."""

from __future__ import annotations

import os
import pickle
import random
import signal
from typing import TYPE_CHECKING

import pytest
from engines_here import CAPTURING, NAMES, engine_named, usable
from hypothesis import given
from hypothesis import strategies as st

from conftest import EXHAUSTIVE, TODAY
from fieldstick.engines.companion_engine import CompanionEngine, Speaker
from fieldstick.engines.places import in_points
from fieldstick.errors import BudgetSpent, EngineFailure, EngineUnusable, ExpressionError, FieldstickError, SyntaxFault
from fieldstick.syntax.parser import parse
from harvest import expressions
from trees import near_miss, text_of

if TYPE_CHECKING:
    from pathlib import Path

    from fieldstick.engines.protocol import Compiled

ODD = "🐦 é\u0301x\u2028ſK ÅB07\U0001d7d8\n"
PLAIN: frozenset[str] = frozenset()


def compiled(name: str, expression: str, *flags: str) -> Compiled:
    return engine_named(usable(name)).compile(expression, frozenset(flags))


@pytest.mark.parametrize("name", CAPTURING)
def test_places_are_code_points_whatever_the_engine_counts(name: str) -> None:
    made = compiled(name, r"(x)(y)?|é")
    text = "🐦é🐦xy🐦x"
    absent = (-1, -1)
    found = [((1, 2), absent, absent), ((3, 5), (3, 4), (4, 5)), ((6, 7), (6, 7), absent)]
    assert made.matches(text, "anywhere", 5_000, None) == found
    assert made.matches(text, "anywhere", 5_000, 2) == found[:2]
    assert made.matches(text, "start", 5_000, None) == [] == made.matches(text, "whole", 5_000, None)
    assert made.matches("xy", "whole", 5_000, None) == [((0, 2), (0, 1), (1, 2))]
    assert made.matches("éé", "start", 5_000, None) == [((0, 1), absent, absent)]
    assert made.group_names == ("1", "2")


@pytest.mark.parametrize("name", sorted(set(CAPTURING) - {"perl", "ruby", "postgres"}))
def test_a_text_that_is_one_long_line_is_read_to_its_end(name: str) -> None:
    """Not by those that count each place from where the text begins, which take too long."""
    made = compiled(name, r"(x)=([0-9]*)|$")
    text = "é x=7 " * 40_000
    found = made.matches(text, "anywhere", 20_000, None)
    assert found[:-1] == [((at, at + 3), (at, at + 1), (at + 2, at + 3)) for at in range(2, len(text), 6)]
    assert found[-1] == ((len(text), len(text)), (-1, -1), (-1, -1))


@pytest.mark.parametrize("name", CAPTURING)
def test_a_whole_match_is_of_any_option_and_ends_where_the_text_does(name: str) -> None:
    made = compiled(name, r"a|ab|(b)\n?")
    assert [bool(made.matches(text, "whole", 5_000, 1)) for text in ("a", "ab", "b", "b\n", "ab\n", "aab", "")] == [
        True, True, True, True, False, False, False,
    ]  # fmt: skip


@pytest.mark.parametrize("name", CAPTURING)
def test_matches_of_nothing_are_told_once(name: str) -> None:
    found = compiled(name, "$|x").matches("ab x.", "anywhere", 5_000, None)
    assert found == [((3, 4),), ((5, 5),)]
    assert compiled(name, "x?").matches("abx", "anywhere", 5_000, None)[:3] == [((0, 0),), ((1, 1),), ((2, 3),)]


@pytest.mark.parametrize("name", sorted(set(CAPTURING) - {"python", "postgres"}))
def test_names_of_groups_are_told(name: str) -> None:
    made = compiled(name, r"(?<row>[\(a-f])(?:\(x\))?(?<number>\d)")
    assert made.group_names == ("row", "number")
    assert made.matches("b(x)7", "whole", 5_000, 1) == [((0, 5), (0, 1), (4, 5))]


@pytest.mark.parametrize("name", NAMES)
def test_what_is_refused_is_said_and_the_next_expression_is_taken(name: str) -> None:
    engine = engine_named(usable(name))
    for expression in ("ab(", "é[z", "(a"):
        with pytest.raises(ExpressionError) as caught:
            engine.compile(expression, PLAIN)
        assert caught.value.rule
        assert caught.value.position is None or 0 <= caught.value.position <= len(expression)
    assert engine.compile("(ab)", PLAIN).matches("ab", "whole", 5_000, 1)


@pytest.mark.parametrize("name", NAMES)
def test_a_text_without_end_spends_its_budget_and_no_other_suffers(name: str) -> None:
    made = compiled(name, r"(.*)*,(.*)*z")
    texts = ["x,z", "x" * 40 + "," + "a" * 60, ",z", "x", "a,bz"]
    many = getattr(made, "matches_many", None)
    found = many(texts, "whole", 300, 1) if many else [_read(made, text) for text in texts]
    assert [bool(found[index]) for index in (0, 2, 3, 4)] == [True, True, False, True]
    if name in ("python", "ecmascript", "node", "ruby"):
        assert isinstance(found[1], BudgetSpent)
    else:
        # Others are clever, or have a limit of their own.
        assert found[1] == [] or isinstance(found[1], FieldstickError)


def _read(made: Compiled, text: str) -> object:
    try:
        return made.matches(text, "whole", 300, 1)
    except BudgetSpent as error:
        return error


@pytest.mark.parametrize("name", sorted(set(NAMES) - {"re2", "ecmascript", "ecmascript-v", "node", "xsd", "sqlite"}))
def test_a_comment_at_the_end_swallows_nothing(name: str) -> None:
    for made in (compiled(name, "(a) b # plot", "verbose"), compiled(name, "(?x)(a) b # plot")):
        assert made.matches("ab", "whole", 5_000, 1) == [((0, 2), (0, 1))] and not made.matches("a", "whole", 5_000, 1)


@pytest.mark.parametrize("name", sorted(set(NAMES) - {"python"}))
def test_half_of_a_pair_and_a_companion_that_is_gone_are_said_or_mended(name: str) -> None:
    made = compiled(name, "a(b)")
    with pytest.raises(EngineFailure, match="surrogate"):
        made.matches("a\ud83d", "whole", 5_000, 1)
    with pytest.raises(ExpressionError, match="surrogate"):
        engine_named(name).compile("\ud83d", PLAIN)
    engine = engine_named(name)
    assert isinstance(engine, CompanionEngine)
    os.kill(engine.companions.running()._process.pid, signal.SIGKILL)
    assert made.matches("ab", "whole", 5_000, 1)
    again = pickle.loads(pickle.dumps(made))
    assert again.matches("ab", "whole", 5_000, 1) == made.matches("ab", "whole", 5_000, 1)
    assert again.group_names == made.group_names


def test_no_expression_runs_code(tmp_path: Path) -> None:
    mark = tmp_path / "ran"
    for expression in (f"(?{{ open(my $f, '>', '{mark}') }})a", f"(??{{ open(my $f, '>', '{mark}') }})"):
        with pytest.raises(ExpressionError, match="re 'eval'"):
            engine_named(usable("perl")).compile(expression, PLAIN)
    engine_named(usable("php")).compile("a/e", PLAIN).matches("a/e", "whole", 1_000, 1)
    assert not mark.exists()


def test_an_engine_that_is_not_here_says_why(monkeypatch: pytest.MonkeyPatch) -> None:
    with pytest.raises(EngineUnusable, match="did you mean 'pcre2'"):
        engine_named("pcr2")
    monkeypatch.setenv("PATH", "")
    with pytest.raises(EngineUnusable, match="the program ruby is not on the path"):
        CompanionEngine(Speaker("ruby", program="ruby")).version()
    with pytest.raises(EngineUnusable, match="nothing_of_the_kind is not installed"):
        CompanionEngine(Speaker("none", "nothing_of_the_kind")).version()
    monkeypatch.undo()
    with pytest.raises(EngineUnusable, match="did not say that it is ready"):
        CompanionEngine(Speaker("odd", program="echo", arguments=("hello",))).compile("a", PLAIN)
    monkeypatch.delenv("FIELDSTICK_POSTGRES", raising=False)
    with pytest.raises(EngineUnusable, match="FIELDSTICK_POSTGRES"):
        CompanionEngine(Speaker("postgres", "postgres")).version()


@given(st.text(max_size=12), st.sampled_from(["points", "bytes", "halves"]))
def test_offsets_in_any_unit_come_back_as_code_points(text: str, unit: str) -> None:
    text = "".join(each for each in text if not "\ud800" <= each < "\ue000")
    coded = {
        "points": len,
        "bytes": lambda each: len(each.encode()),
        "halves": lambda each: len(each.encode("utf-16-le")) // 2,
    }
    given_offsets = [coded[unit](text[:place]) for place in range(len(text) + 1)]
    assert in_points(text, [*given_offsets, -1], unit) == [*range(len(text) + 1), -1]  # type: ignore[arg-type]
    with pytest.raises(EngineFailure, match="within a character"):
        in_points("a🐦", [2], "bytes" if unit == "points" else unit)  # type: ignore[arg-type]


@pytest.mark.parametrize("name", NAMES)
def test_public_expressions_break_nothing_and_no_place_is_wrong(name: str) -> None:
    engine = engine_named(usable(name))
    chance = random.Random(TODAY)
    several = expressions() if EXHAUSTIVE else chance.sample(expressions(), 60)
    taken = 0
    for expression in several:
        try:
            made = engine.compile(expression, PLAIN)
        except ExpressionError:
            continue
        taken += 1
        texts = [*_texts(expression, chance), ODD, ""]
        reach = "anywhere" if name in CAPTURING else "whole"
        many = getattr(made, "matches_many", None)
        for text, found in zip(texts, many(texts, reach, 2_000, None) if many else [], strict=False):
            if isinstance(found, FieldstickError):
                assert isinstance(found, BudgetSpent | EngineFailure), (expression, text, found)
                continue
            last = 0
            for spans in found:
                assert len(spans) == len(made.group_names) + 1
                assert last <= spans[0][0] <= spans[0][1] <= len(text)
                assert all(each == (-1, -1) or 0 <= each[0] <= each[1] <= len(text) for each in spans[1:])
                last = spans[0][1]
    assert taken > len(several) / (8 if name in ("xsd", "sqlite") else 3), taken


def _texts(expression: str, chance: random.Random) -> list[str]:
    try:
        text = text_of(parse(expression, PLAIN), chance)
    except SyntaxFault:
        return []
    return [text, "🐦" + near_miss(text, chance), text + ODD]
