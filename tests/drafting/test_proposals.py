"""Expressions are proposed no wider than the examples support, and what they must keep out stays out."""

from __future__ import annotations

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.analysis.automaton.asked import Reading
from fieldstick.analysis.relation import relation_of
from fieldstick.drafting.proposals.forms import CUTS, tokens_of
from fieldstick.drafting.proposals.proposing import propose, samples_for, with_beyond

PROBES = ["probe=B07 moisture=31.4%", "probe=C12 moisture=8.0%", "probe=F33 moisture=12.5%", "probe=A10 moisture=0.4%"]
PERMITS = ["LMF-S-004417", "LMF-B-120031/3", "LMF-P-000001/12", "LMF-S-000417", "LMF-P-777001"]
GATES = [f"{stamp} gate={gate} {way}" for stamp in ("2026-05-04T06:10:00Z", "2026-05-05T18:45:09Z")
         for gate in ("north", "quarry") for way in ("in", "out")]  # fmt: skip


@pytest.mark.parametrize(
    ("texts", "expression", "fields"),
    [
        (PROBES, r"probe=(?P<probe>[A-Z]\d{2}) moisture=(?P<moisture>\d{1,2}\.\d)%", {"moisture": {"type": "decimal"}}),
        (
            PERMITS,
            r"LMF-(?P<word>[A-Z])-(?P<number>\d{6})(?:/(?P<number2>\d+))?",
            {"number2": {"type": "integer"}},
        ),
        (
            GATES,
            r"(?P<at>\d{4}-\d{2}-\d{2}T\d{2}:\d{2}:\d{2}Z) gate=(?P<gate>(?:north|quarry)) (?P<word>in|out)",
            {"at": {"type": "timestamp"}},
        ),
        (
            ["4.5.2026", "31.12.2025"],
            r"(?P<day>\d{1,2}\.\d{1,2}\.\d{4})",
            {"day": {"type": "date", "layout": "%d.%m.%Y"}},
        ),
        (["12,5", "7,25", "-3,0"], r"(?P<number>-?\d+,\d+)", {"number": {"type": "decimal", "decimal_mark": ","}}),
        (["Fen", "Hag End", "Upper Whin Carr"], r"(?P<word>[A-Z][a-z]+)(?: [A-Z][a-z]+)*", {}),
    ],
)
def test_what_is_shared_stays_and_what_varies_is_a_typed_field(
    texts: list[str], expression: str, fields: dict[str, dict[str, str]]
) -> None:
    first = propose(texts)[0]
    assert first.fields == fields and first.fit == len(texts)
    wanted = Reading(expression)
    assert relation_of(Reading(first.expression), wanted).relation in ("same", "narrower"), first.expression
    assert set(re.compile(first.expression).groupindex) == set(re.compile(expression).groupindex)


def test_what_is_there_so_often_that_there_is_no_more_is_listed_and_called_after_its_column() -> None:
    gates = ["north", "quarry", "quarry gate"] * 6
    first, second = propose(gates, name="Which gate")[:2]
    assert first.expression == "(?P<which_gate>quarry gate|quarry|north)" and re.fullmatch(second.expression, "north")
    once = propose([*gates, "hag"], name="Which gate")[0]
    assert "|hag" not in once.expression and re.fullmatch(once.expression, "hag")


def test_the_way_that_holds_of_examples_left_out_is_taken() -> None:
    series = ["VM-68421", "NAW28671", "W 94708", "RB-21311", "CWK-25492", "K 48520", "A31416", "BD 27182", "C-11235"]
    quoted = [f'note="{each}"' for each in ("wet, cold", "3 voles", "a:b", "no (2)", "", "hag", "x/y", "5")]
    marks, text = propose(series)[0].expression, propose(quoted)[0].expression
    assert re.fullmatch(marks, "QZ-12345") and not re.fullmatch(marks, "Q--12345")
    assert re.fullmatch(text, 'note="what nobody saw; yet"') and not re.fullmatch(text, 'note="a"b"')


def test_what_must_be_kept_out_is_or_that_is_said() -> None:
    kept = propose([], ["B07", "F12", "A33", "C10"], ["G12", "B7"])[0]
    assert not kept.takes and not re.fullmatch(kept.expression, "G12") and re.fullmatch(kept.expression, "D99")
    same = propose([], ["B07", "F12"], ["B07"])
    assert all(each.takes == ("B07",) for each in same)


def test_each_takes_something_beyond_the_one_before_it() -> None:
    found = with_beyond(propose(PROBES), PROBES)
    assert [each.level for each in found] == ["tight", "loose"]
    for before, each in zip([None, *found], found, strict=False):
        assert each.beyond is not None and re.fullmatch(each.expression, each.beyond)
        assert each.beyond not in PROBES and (before is None or not re.fullmatch(before.expression, each.beyond))


def test_the_samples_of_a_proposal_are_right_and_differ() -> None:
    first = propose(PERMITS, missing=["LMF-X"])[0]
    positive, negative = samples_for(first, PERMITS, ["LMF-X"])
    assert set(positive) <= set(PERMITS) and {bool(re.search("/", each)) for each in positive} == {True, False}
    assert "LMF-X" in negative and all(re.fullmatch(first.expression, each) for each in positive)
    assert len(negative) > 1 and not any(re.fullmatch(first.expression, each) for each in negative)


TEXTS = st.text('abAB019 .,-+:=/"é', max_size=14)


@given(st.lists(TEXTS, min_size=1, max_size=6), st.lists(TEXTS, max_size=2))
def test_a_proposal_can_be_read_and_takes_all_that_must_fit(texts: list[str], fitting: list[str]) -> None:
    for each in propose(texts, fitting):
        compiled = re.compile(each.expression)
        assert all(compiled.fullmatch(text) for text in fitting), each
        assert set(each.fields) <= set(compiled.groupindex)
        assert sum(compiled.fullmatch(text) is not None for text in {*texts, *fitting}) == each.fit


@given(TEXTS, st.sampled_from(CUTS))
def test_the_pieces_of_a_text_are_the_text(text: str, cut: str) -> None:
    assert "".join(each.text for each in tokens_of(text, cut)) == text  # type: ignore[arg-type]
