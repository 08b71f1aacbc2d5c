"""`why` finds where a match stopped and the change that was meant."""

from __future__ import annotations

import re
from typing import Any

import pytest

from fieldstick.drafting import search
from fieldstick.drafting.context import Harm, MatchCase
from fieldstick.drafting.diagnosis import diagnose
from fieldstick.engines.probing import engine_flags

SLIPS = [
    (r"probe=\D\d{2}", "probe=707", r"probe=\d\d{2}"),
    ("[a-z]+", "Curlew", "[a-zA-Z]+"),
    (r"\d(3)-\d(2)", "417-20", r"\d{3}-\d{2}"),
    (r"1+1=2", "1+1=2", r"1\+1=2"),
    (r"Fen + Carr", "Fen + Carr", r"Fen \+ Carr"),
    (r"what?", "what?", r"what\?"),
    (r"plot (B07)", "plot (B07)", r"plot \(B07\)"),
    (r"worth $5", "worth $5", r"worth \$5"),
    (r"a|b", "a|b", r"a\|b"),
    (r"[B07]", "[B07]", r"\[B07\]"),
    (r"\d{2}", "123", r"\d{3}"),
    (r"\d{4}", "123", r"\d{3}"),
    (r"\d{1,3}kg", "1200kg", r"\d{1,4}kg"),
    (r"[a-z]+", "meadow-pipit", "[a-z-]+"),
    (r"\w+", "Hag-End", r"[\w-]+"),
    (r"\d+", "plot 7", "anywhere"),
    (r"\d+\.\d%", "31%", r"\d+(?:\.\d)?%"),
    (r"\d+\.\d?%", "31%", r"\d+(?:\.\d)?%"),
    (r"north|quarry gate", "north gate", r"(?:north|quarry) gate"),
    (r"[north|quarry] gate", "north gate", r"(?:north|quarry) gate"),
    (r"d{2}", "12", r"\d{2}"),
    (r"/d{2}", "12", r"\d{2}"),
    (r"\\d{2}", "12", r"\d{2}"),
    (r"LM-\d{4}", "LM–2207", "LM-2207"),
    (r"B07", "B07 ", "B07"),
    (r"B07", "B-07", "B-07"),
    (r"\d\d:\d\d", "06.40", r"\d\d\.\d\d"),
    (r"at: .*end", "at: x\nend", "dotall"),
    (r"\d+ kg", "12kg", r"\d+ ?kg"),
    (r'"(.+)"', '""', '"(.*)"'),
    (r"\d++5", "12345", r"\d+5"),
    (r"\d(3)-[a-z]+", "417-Ab", r"\d{3}-[a-zA-Z]+"),
]


def meant(case: MatchCase, expression: str, text: str) -> str:
    """Name what a repair changed."""
    if case.expression != expression:
        return case.expression
    if case.text != text:
        return case.text
    return next(iter(case.flags), case.reach)


@pytest.mark.parametrize(("expression", "text", "repair"), SLIPS)
def test_the_likeliest_change_is_the_one_that_was_meant(expression: str, text: str, repair: str) -> None:
    found = diagnose(MatchCase(expression, frozenset(), "whole", text))
    assert not found.fits and found.stopped is not None
    assert meant(found.repairs[0].case, expression, text) == repair


@pytest.mark.parametrize(("expression", "text", "repair"), SLIPS)
def test_every_change_that_is_offered_works(expression: str, text: str, repair: str) -> None:
    for each in diagnose(MatchCase(expression, frozenset(), "whole", text)).repairs:
        case = each.case
        compiled = re.compile(case.expression, engine_flags(case.flags))
        method = {"whole": compiled.fullmatch, "start": compiled.match, "anywhere": compiled.search}[case.reach]
        assert method(case.text), each.words


@pytest.mark.parametrize(
    ("expression", "text", "at", "wanted", "found"),
    [
        (r"probe=[A-F]\d{2}", "probe=G07", 6, "one of A to F", "'G'"),
        (r"\d{2}:\d{2}", "12:3", 4, "a digit", "the end of the text"),
        (r"B07", "B07\t", 3, "the end of the text", "a tab"),
        (r"\d+\.\d", "31", 2, "'.' or more of a digit", "the end of the text"),
    ],
)
def test_it_says_where_the_match_stopped(expression: str, text: str, at: int, wanted: str, found: str) -> None:
    stop = diagnose(MatchCase(expression, frozenset(), "whole", text)).stopped
    assert stop is not None
    assert (stop.text, stop.wanted, stop.found) == (at, wanted, found)


@pytest.mark.parametrize(
    ("expression", "reach", "text", "repair"),
    [
        (r"B.7", "whole", "B-7", r"B\.7"),
        (r"cat", "anywhere", "concatenate", r"\bcat\b"),
        (r"B07", "anywhere", "B07 and more", "whole"),
        (r"\d+", "whole", "٧", "ascii"),
        (r"[A-z]+", "whole", "a_b", "[A-Za-z]+"),
        (r"\d*", "whole", "", r"\d+"),
        (r"\d+", "whole", "12345", r"\d{1,4}"),
    ],
)
def test_a_text_that_fits_and_should_not_is_kept_out(expression: str, reach: str, text: str, repair: str) -> None:
    found = diagnose(MatchCase(expression, frozenset(), reach, text))  # type: ignore[arg-type]
    assert found.fits and found.stopped is None
    settings = [each.case for each in found.repairs]
    named = [
        each.expression if each.expression != expression else next(iter(each.flags), each.reach) for each in settings
    ]
    assert repair in named[:3]
    for each in settings:
        compiled = re.compile(each.expression, engine_flags(each.flags))
        method = {"whole": compiled.fullmatch, "start": compiled.match, "anywhere": compiled.search}[each.reach]
        assert not method(each.text)


def test_changes_that_break_other_samples_come_after_those_that_do_not() -> None:
    samples = ["12", "34"]

    def harm(case: MatchCase) -> Harm:
        return Harm(sum(not re.fullmatch(case.expression, each, engine_flags(case.flags)) for each in samples))

    found = diagnose(MatchCase(r"\d{2}", frozenset(), "whole", "123"), harm)
    counts = [repair.breaks for repair in found.repairs]
    assert counts[0] == 0 and counts == sorted(counts, key=bool)


@pytest.mark.parametrize(
    ("expression", "text", "mended"),
    [
        (r"IMG_\d{4}.jpg;(\w+);(day|night)", "IMG_4961.JPG;red deer;night", r"IMG_\d{4}.jpg;([\w ]+);(day|night)"),
        (r"for (\w+) (\d+) (\w+) - (\d{4})", "for access only 3 June – 2026", r"for ([\w ]+) (\d+) (\w+) [–-] (\d{4})"),
        (r"LMF-(\d{6})/(\d) (in|out)", "LMF-S-004417 in", r"LMF-S-(\d{6})(?:/(\d))? (in|out)"),
        (r"probe ([A-F]\d) reads (\d+\.\d) C", "probe B07 reads -3.4 C", r"probe ([A-F]\d+) reads (-?\d+\.\d) C"),
        (r"\[(\d+)\] (\w+): (\w+)", "[12] soil-probe: link up", r"\[(\d+)\] ([\w-]+): ([\w ]+)"),
        (r"took (\d+) ms \((ok|bad)\)", "took 12.5 ms [ok]", r"took (\d+(?:\.\d+)?) ms \[(ok|bad)\]"),
    ],
)
def test_two_slips_far_apart_are_each_told(expression: str, text: str, mended: str) -> None:
    first = diagnose(MatchCase(expression, frozenset(), "whole", text)).repairs[0]
    assert first.case.expression == mended and "; and " in first.words


def test_a_further_part_may_be_lacking_where_no_other_text_is_known() -> None:
    found = diagnose(MatchCase(r"([A-F]\d\d)\.csv \((\d+) KB\)", frozenset(), "whole", "E14.csv.gz (60 KB)")).repairs
    assert [each.case.expression for each in found] == [
        r"([A-F]\d\d)\.csv(?:\.gz)? \((\d+) KB\)",
        r"([A-F]\d\d)\.csv\.gz \((\d+) KB\)",
    ]


@pytest.mark.parametrize(
    ("expression", "text", "mended"),
    [
        (
            r"(\S+) \| ([A-Z]+) \| (\w+) \| (\w+)",
            "06:10:22 | INFO  | probe.soil | value=0.424",
            r"(\S+) +\| +([A-Z]+) +\| +([\w.]+) \| ([\w=.]+)",
        ),
        (
            r"^\[(\w+)\] (\d\d):(\d\d) - (\w+)$",
            "[gate-3] 6:15 – open by hand",
            r"^\[([\w-]+)\] (\d{1,2}):(\d\d) [–-] ([\w ]+)$",
        ),
    ],
)
def test_where_no_two_changes_are_enough_several_are_told_one_by_one(expression: str, text: str, mended: str) -> None:
    first = diagnose(MatchCase(expression, frozenset(), "whole", text)).repairs[0]
    assert first.case.expression == mended and first.words.count("; and ") >= 2


@pytest.mark.parametrize(("steps", "most"), [(25_000, 35_000), (400_000, 900_000)])
def test_several_slips_are_looked_for_within_the_steps_that_are_given_and_as_many_again(
    steps: int, most: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    hopeless = MatchCase(r"(\d+)h(\d+) (gate|trap) no (\d+), (well|bad)", frozenset(), "whole", "no; 3 / all (x) q! 7")
    read: list[int] = []
    scene_of = search.scene_of

    def counted(case: MatchCase, *others: Any) -> Any:
        read.append(10 * len(case.expression))
        return scene_of(case, *others)

    monkeypatch.setattr(search, "scene_of", counted)
    spent = diagnose(hopeless, steps=steps).spent
    assert sum(read) < spent < most
