"""The order that `why` states of its changes holds, whatever slip was made at whatever place of an expression."""

from __future__ import annotations

import random
import sys
from pathlib import Path

import pytest

sys.path.append(str(Path(__file__).parents[2] / "benchmarks"))

from fieldstick.analysis.automaton.asked import Reading
from fieldstick.analysis.danger import is_doubling
from fieldstick.drafting.context import Beside, MatchCase
from fieldstick.drafting.diagnosis import diagnose
from fieldstick.engines.probing import compiled_by_engine, fits
from slip_kinds import SLIPS, Scene, Setting
from station_expressions import STATION

RIGHT = [each for each in STATION if not each[1] and each[2] == "whole"][:34]
"""Right expressions without flags, with texts that fit."""


def slips(kind: str, most: int) -> list[tuple[Setting, str, tuple[str, ...]]]:
    """Return wrong expressions of a kind, each with a text that shows it and others that should fit."""
    chance = random.Random(kind)
    found = []
    for expression, _, _, texts in chance.sample(RIGHT, len(RIGHT)):
        made = list(SLIPS[kind](Scene(Setting(expression))))
        if not made or len(found) == most:
            continue
        wrong = chance.choice(made)
        missed = [text for text in texts if not fits_of(wrong, text)]
        if missed:
            found.append((wrong, missed[0], tuple(each for each in texts if each != missed[0])))
    return found


def fits_of(setting: Setting | MatchCase, text: str) -> bool:
    """Tell whether a text fits; an expression that cannot be read fits none."""
    if compiled_by_engine(setting.expression, setting.flags) is None:
        return False
    return fits(setting.expression, setting.flags, setting.reach, text)


ASKED = [(kind, *each) for kind in sorted(SLIPS) for each in slips(kind, 3)]


def test_most_kinds_of_slip_are_asked_about() -> None:
    assert len({kind for kind, *_ in ASKED}) > 0.7 * len(SLIPS)


@pytest.mark.parametrize(("kind", "wrong", "text", "others"), ASKED, ids=lambda each: str(each)[:40])
def test_changes_are_true_and_stand_in_their_order(
    kind: str, wrong: Setting, text: str, others: tuple[str, ...]
) -> None:
    unfitting = tuple(each for each in ("", "7", "zz!", f"{text}{text}x") if each not in (text, *others))
    case = MatchCase(wrong.expression, wrong.flags, wrong.reach, text)
    found = diagnose(case, beside=Beside(others, unfitting))
    assert not found.fits and (found.fault is not None) is (compiled_by_engine(wrong.expression, wrong.flags) is None)
    settings = [each.case for each in found.repairs]
    assert case not in settings and len(set(settings)) == len(settings)
    wanted = dict.fromkeys(others, True) | dict.fromkeys(unfitting, False)
    # Nothing comes out right of an expression that cannot be read.
    before = {one for one, should in wanted.items() if found.fault is not None or fits_of(case, one) is not should}
    for each in found.repairs:
        assert fits_of(each.case, each.case.text), each
        # A change is of the setting or of the text, never of both.
        assert each.case.text == text or each.case.expression == wrong.expression or found.fault is not None
        amiss = {one for one, should in wanted.items() if fits_of(each.case, one) is not should}
        assert each.harm == (len(amiss - before), len(amiss & before)), each
    harms = [(bool(each.harm.breaks), bool(each.harm.leaves)) for each in found.repairs if each.harm is not None]
    assert harms == sorted(harms) and len(harms) == len(found.repairs)
    assert sum(each.case.text != text for each in found.repairs[:3]) <= 1
    unbroken = [each for each in found.repairs if each.harm == (0, 0) and each.case.text == text]
    if not fits_of(wrong, "") and "" not in (text, *others):
        takes_nothing = [fits_of(each.case, "") for each in unbroken]
        assert takes_nothing == sorted(takes_nothing), [each.case.expression for each in unbroken]


@pytest.mark.parametrize(("kind", "wrong", "text", "others"), ASKED[::5], ids=lambda each: str(each)[:40])
def test_the_answer_is_the_same_each_time(kind: str, wrong: Setting, text: str, others: tuple[str, ...]) -> None:
    case = MatchCase(wrong.expression, wrong.flags, wrong.reach, text)
    assert diagnose(case, beside=Beside(others)).repairs == diagnose(case, beside=Beside(others)).repairs


@pytest.mark.parametrize(
    ("wrong", "text", "others", "first"),
    [
        (r"(\w+;)+", "owl;hare", (), r"\w+(?:;\w+)*"),
        (r"v\d+\.\d+\.\d+", "v1.2.3-rc1", (), r"v\d+\.\d+\.\d+(?:-\w+)?"),
        (r"[NS]\d{2}", "E12", ("N30", "W02", "S11"), r"[NSEW]\d{2}"),
        (r"\s*\w+\s*", " fen", ("fen", "owl"), r"\w+"),
        (r"[a-zA-z]+", "a_b", ("ab",), "[a-zA-Z]+"),
        (r"[a-zA-ZA-z]+", "a_b", ("ab",), "[a-zA-Z]+"),
        ("gate (?:north|east)", "gate west", ("gate north",), "gate (?:north|east|west)"),
        ("gate (?:north|east)", "gate eats", ("gate north",), "gate (?:north|eats)"),
        (r"age (?P<age>\dJ?)", "age ad", ("age 1J", "age 3"), r"age (?P<age>\dJ?|ad)"),
        (r"(\w+) (\w+) (\d+)", "holm  fen  12", ("holm fen 12",), r"(\w+) +(\w+) +(\d+)"),
        (r"(?:[A-F]\d\d ){3}", "B07 C12 D01", (), r"[A-F]\d\d(?: [A-F]\d\d){2}"),
        (r"id: ([0-9a-f]{4})", "id: 0a1b-4e5f", ("id: 0a1b",), r"id: ([0-9a-f]{4})(?:-[0-9a-f]{4})?"),
        ("[A-Z][a-z]+ [a-z]+", "Salix repens minor", ("Carex nigra",), "[A-Z][a-z]+(?: [a-z]+)+"),
    ],
)
def test_a_change_is_written_as_somebody_would_and_adds_no_quantifier_that_takes_forever(
    wrong: str, text: str, others: tuple[str, ...], first: str
) -> None:
    beside = Beside(others)
    found = [
        each.case.expression for each in diagnose(MatchCase(wrong, frozenset(), "whole", text), beside=beside).repairs
    ]
    assert found[0] == first
    assert not any(is_doubling(Reading(each)) for each in found)
    assert not any("{0}" in each for each in found)


@pytest.mark.parametrize(
    ("wrong", "text", "others", "first"),
    [
        (r"\d+:\d+", "123:4", ("06:10",), r"\d{2}:\d{2}"),
        (r"\w+, \w+", "12, 14", ("Holm, Tam", "Elm, Orla"), "[a-zA-Z]+, [a-zA-Z]+"),
        (r"\w+, \w+", "12, fen", ("Holm, Tam", "Elm, Orla"), r"[a-zA-Z]+, \w+"),
        (r"0|\d\d*", "007", ("0", "12"), r"0|[1-9]\d*"),
        (r"\w+-\d+", "lm-204", ("LM-204", "HV-3"), r"[A-Z]+-\d+"),
        (r"^#.*|^\s*$|^//.*", "// note", ("# note", ""), r"^#.*|^\s*$"),
    ],
)
def test_a_text_is_kept_out_by_what_others_show_wherever_it_is_let_in(
    wrong: str, text: str, others: tuple[str, ...], first: str
) -> None:
    found = diagnose(MatchCase(wrong, frozenset(), "whole", text), beside=Beside(others)).repairs
    assert first in [each.case.expression for each in found[:3]]
    assert not any(each.case.expression.count("[a-zA-Z]+, [a-zA-Z]+") for each in found) or "fen" not in text


def test_what_may_double_with_each_turn_is_told_from_what_grows_with_a_power() -> None:
    doubling = [is_doubling(Reading(each)) for each in (r"(\w+;?)+", r"(?:\d+-?\w+)*x")]
    assert doubling == [True, True]
    assert not any(is_doubling(Reading(each)) for each in (r"\w+\d+\w+x", r"(?:\w+;)+", r"(ab|cd)*e", "a{3}"))
