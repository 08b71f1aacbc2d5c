"""Slips written by hand: what was meant is found, among the first three changes nearly always."""

from __future__ import annotations

import tracemalloc
from itertools import pairwise
from typing import TYPE_CHECKING

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.analysis.effort import Effort
from fieldstick.analysis.relation import Reading, relation_of
from fieldstick.drafting.context import Beside, MatchCase, RepairContext
from fieldstick.drafting.diagnosis import diagnose
from fieldstick.drafting.explained import explained
from fieldstick.drafting.ranking import neighbours
from fieldstick.drafting.slips import taking
from fieldstick.drafting.slips.amounts import pairs_again
from fieldstick.drafting.slips.blanks import blanks_elsewhere
from fieldstick.drafting.slips.narrowing import restraints
from fieldstick.drafting.slips.order import words_swapped
from fieldstick.drafting.slips.several import all_bounds, all_marked
from fieldstick.drafting.slips.texts import text_misspelled
from fieldstick.drafting.slips.unreadable import readable
from fieldstick.drafting.tracer import trace
from fieldstick.engines.probing import compiled_by_engine, fits
from fieldstick.syntax.parser import parse
from slips_by_hand import SLIPS, Slip

if TYPE_CHECKING:
    import re
    from collections.abc import Callable, Iterator

    from fieldstick.drafting.context import Proposal

AMONG_THREE = 0.8
"""The share of each kind of slip that is found among three; of all of them it is above nine tenths."""


def is_meant(slip: Slip, case: MatchCase) -> bool:
    """Tell whether a change comes to what was meant: by proof, or else by texts near to those that are known."""
    if slip.meant_text is not None:
        return case.text == slip.meant_text
    flags = frozenset(slip.flags if slip.meant_flags is None else slip.meant_flags)
    reach = slip.meant_reach or slip.reach
    if case.text != slip.text:
        return False
    if (case.expression, case.flags, case.reach) == (slip.right, flags, reach):
        return True
    found = relation_of(Reading(case.expression, case.reach, case.flags), Reading(slip.right, reach, flags)).relation
    if found != "undecided":
        return found == "same"
    texts = (slip.text, *slip.fitting, *slip.others)
    return all(
        fits(case.expression, case.flags, case.reach, text) == fits(slip.right, flags, reach, text)
        for text in (*texts, *neighbours(texts))
    )


def offered(slip: Slip) -> list[MatchCase]:
    """Return the three changes that are offered first."""
    case = MatchCase(slip.wrong, frozenset(slip.flags), slip.reach, slip.text)
    return [each.case for each in diagnose(case, beside=Beside(slip.fitting, slip.others)).repairs[:3]]


@pytest.mark.parametrize("kind", SLIPS)
def test_what_was_meant_is_among_the_first_three_and_each_of_them_works(kind: str) -> None:
    missed = []
    for slip in SLIPS[kind]:
        flags = frozenset(slip.flags if slip.meant_flags is None else slip.meant_flags)
        meant, reach = slip.meant_text or slip.text, slip.meant_reach or slip.reach
        assert fits(slip.right, flags, reach, meant) is slip.fits, slip
        assert all(fits(slip.right, flags, reach, each) for each in slip.fitting), slip
        assert not any(fits(slip.right, flags, reach, each) for each in slip.others), slip
        changes = offered(slip)
        for each in changes:
            assert fits(each.expression, each.flags, each.reach, each.text) is slip.fits, (slip, each)
        if not any(is_meant(slip, each) for each in changes):
            missed.append(slip)
    assert len(missed) <= (1 - AMONG_THREE) * len(SLIPS[kind]), missed


@pytest.mark.parametrize(
    ("expression", "text", "seams"),
    [
        (r"(\w+) ?(\d+)", "hare 12", 0),
        (r"(\w+) (\w+) ?(\d+)", "hare 12", 1),
        (r"(\d+)(\d+)", "2026", 1),
        (r"(\d{2})(\d{2})", "2026", 0),
        (r"([a-z]+)([A-Z]+)", "moorFEN", 0),
        (r"([a-z]+)(?:-\d)?([a-z]+)", "moor", 1),
        (r"(?P<plot>[A-Z]\d+)", "B07", 0),
    ],
)
def test_a_run_that_is_shared_out_between_two_pieces_is_a_seam(expression: str, text: str, seams: int) -> None:
    found = explained(MatchCase(expression, frozenset(), "whole", text))
    assert found is not None and found.seams == seams


def test_what_takes_anything_leaves_more_open_the_more_it_takes() -> None:
    def bits(expression: str) -> float:
        found = explained(MatchCase(expression, frozenset(), "whole", "<b>owl</b>"))
        assert found is not None
        return found.bits

    assert bits("<b>(.*)</b>") < bits("<b>(.*)<?/?b>") < bits(".*")
    assert bits(r"<b>\w+</b>") == bits("<b>owl</b>") == 0


@pytest.mark.parametrize("expression", ["owl", r"(\d)\1", r"(?P<a>x)(?P=a)", "[", "owl|hare"])
def test_how_well_a_text_is_explained_is_told_or_not_but_never_fails(expression: str) -> None:
    found = explained(MatchCase(expression, frozenset(), "whole", "owl"))
    assert found is None or (found.seams, found.bits) == (0, 0)


def test_pieces_are_looked_into_within_bounds(monkeypatch: pytest.MonkeyPatch) -> None:
    compiled: list[int] = []

    def counted(expression: str, flags: frozenset[str]) -> re.Pattern[str] | None:
        compiled.append(len(expression))
        return compiled_by_engine(expression, flags)

    monkeypatch.setattr(taking, "compiled_by_engine", counted)
    case = MatchCase(r"\d?" * 600, frozenset(), "whole", "1" * 500)
    parsed = parse(case.expression)
    context = RepairContext(case, parsed, trace(parsed, case.text, "whole"), (), Beside(("2" * 400, "3")))
    assert restraints(context)
    assert 100_000 < sum(compiled) <= 300_000


def test_what_cannot_be_read_is_mended_within_bounds() -> None:
    effort = Effort(60_000)
    case = MatchCase("[a-z" * 500, frozenset(), "whole", "a")
    assert len(list(readable(case, effort))) < 12 and effort.stopped
    short = Effort(60_000)
    assert list(readable(MatchCase("[a-z", frozenset(), "whole", "a"), short)) and not short.stopped


READING = r"(?P<at>\d{2}:\d{2}) probe (?P<plot>[A-F]\d{2}) moisture=(?P<m>\d+\.\d)% by (?P<by>[a-z]+)"
READINGS = ("06:12 probe B07 moisture=31.4% by holm", "07:30 probe C12 moisture=8.0% by carr")


@pytest.mark.parametrize(
    "odd",
    [
        "06:12 prob B07 moisture=31.4% by holm",
        "06:12 probe B07 moisutre=31.4% by holm",
        "06:12 probbe B07 moisture=31.4% by holm",
        "06:12 probe B07 moisture=31.4% by holm ",
        "06:12 probe B07 moisture=31.4% by h\u043elm",
        "06:12 probe BO7 moisture=31.4% by holm",
        "06:12 pr\u200bobe B07 moisture=31.4% by holm",
    ],
)
def test_where_others_fit_what_is_odd_about_a_text_is_put_right_first(odd: str) -> None:
    found = diagnose(MatchCase(READING, frozenset(), "whole", odd), beside=Beside(READINGS)).repairs
    assert found[0].case.text == READINGS[0] and found[0].case.expression == READING
    # Where nothing else is known, it is as likely the expression.
    alone = diagnose(MatchCase(READING, frozenset(), "whole", odd)).repairs
    assert any(each.case.expression != READING for each in alone)


@pytest.mark.parametrize("odd", ["06:12 probe  B07 moisture=31.4%% by holm", f"{READINGS[0]}\n", f"{READINGS[0]}."])
def test_what_may_be_the_texts_or_the_expressions_is_among_the_first(odd: str) -> None:
    found = diagnose(MatchCase(READING, frozenset(), "whole", odd), beside=Beside(READINGS)).repairs
    assert READINGS[0] in [each.case.text for each in found[:3]]


WORDS = frozenset(("[a-z]+", "gate"))
# Letters beside letters, and digits beside digits, may be shared out otherwise than they were written.
PIECES = st.lists(st.sampled_from([r"\d+", r"[a-z]+", "gate", ":", ",", "%"]), min_size=2, max_size=6).filter(
    lambda pieces: not any({*pair} <= WORDS or pair == (r"\d+", r"\d+") for pair in pairwise(pieces))
)


@given(PIECES, st.data())
def test_blanks_are_put_where_the_text_has_them_whatever_stands_between(pieces: list[str], data: st.DataObject) -> None:
    texts = {r"\d+": "12", r"[a-z]+": "fen"}
    gaps = data.draw(st.lists(st.booleans(), min_size=len(pieces) - 1, max_size=len(pieces) - 1))
    told = data.draw(st.lists(st.booleans(), min_size=len(pieces) - 1, max_size=len(pieces) - 1))
    text = "".join(texts.get(each, each) + " " * gap for each, gap in zip(pieces, [*gaps, False], strict=True))
    wrong = "".join(each + " " * gap for each, gap in zip(pieces, [*told, False], strict=True))
    right = "".join(each + " " * gap for each, gap in zip(pieces, [*gaps, False], strict=True))
    parsed = parse(wrong)
    case = MatchCase(wrong, frozenset(), "whole", text)
    made = list(blanks_elsewhere(RepairContext(case, parsed, trace(parsed, text, "whole"), (), Beside())))
    assert [each.case.expression for each in made[:1]] == [right] * bool(made)
    assert all(fits(each.case.expression, frozenset(), "whole", text) for each in made)
    several = sum(one is not other for one, other in zip(gaps, told, strict=True)) > 1
    assert made or not several


@pytest.mark.parametrize(
    ("rule", "expression", "text"),
    [
        (all_bounds, r"\d{2}" * 600, "12" * 599 + "1"),
        (all_marked, r"(\d+)" * 500, "1%" * 500),
        (words_swapped, "gate-" * 500, "fen-" * 500),
        (text_misspelled, "gate" * 700, "gaet" * 700),
        (pairs_again, r",\w+" * 700, ",ab" * 710),
    ],
)
def test_pieces_that_come_again_and_again_are_tried_within_bounds(
    rule: Callable[[RepairContext], Iterator[Proposal]], expression: str, text: str
) -> None:
    case, parsed = MatchCase(expression, frozenset(), "whole", text), parse(expression)
    context = RepairContext(case, parsed, trace(parsed, text, "whole", steps=1000), (), Beside())
    assert context.nodes and not context.missed
    tracemalloc.start()
    count = sum(1 for _ in rule(context))
    most = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert count <= 1000 and most < 3_000_000


@pytest.mark.parametrize(
    ("wrong", "text", "right"),
    [
        (r"\p{L}+ \p{Nd}", "hare 3", r"[^\W\d_]+ \d"),
        (r"[\p{Lu}_]+", "RX_A", "[A-Z_]+"),
        (r"[[:alpha:][:digit:]]+", "b07", r"[a-zA-Z\d]+"),
        (r"(?<n>\d)-\k<n>", "3-3", r"(?P<n>\d)-(?P=n)"),
        (r"(?'n'\d)-\k{n}", "3-3", r"(?P<n>\d)-(?P=n)"),
        (r"\Qa+b\E\d", "a+b3", r"a\+b\d"),
        (r"owl\h+\d\z", "owl \t3", r"owl[ \t]+\d\Z"),
        (r"\x{41}\d", "A3", r"A\d"),
        (r"\(owl\|hare\)\{2\}", "owlhare", "(owl|hare){2}"),
        ("HH:mm:ss", "06:10:32", r"\d{2}:\d{2}:\d{2}"),
        ("LM-%04d", "LM-0417", r"LM-\d{4}"),
        ("moisture %.1f", "moisture 31.4", r"moisture \d+\.\d"),
        ("A99-X", "B07-c", r"[A-Z]\d{2}-[a-z]"),
        ("plot {plot}", "plot B07", r"plot (?P<plot>.+)"),
        ("frame-??.jpg", "frame-07.jpg", r"frame-..\.jpg"),
    ],
)
def test_what_is_written_as_elsewhere_is_written_for_here(wrong: str, text: str, right: str) -> None:
    found = diagnose(MatchCase(wrong, frozenset(), "whole", text))
    assert found.repairs[0].case.expression == right


def test_a_class_of_posix_that_stands_alone_and_names_in_braces_are_left_as_they_are() -> None:
    for wrong, text in (("[:alpha:]", "b"), (r"\d{plot}", "x")):
        found = diagnose(MatchCase(wrong, frozenset(), "whole", text))
        assert all("a-zA-Z" not in each.case.expression for each in found.repairs)
