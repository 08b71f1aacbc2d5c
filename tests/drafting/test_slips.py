"""Each kind of slip is found and undone; what is known beside the text decides which change comes first."""

from __future__ import annotations

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.drafting.applying import written_change
from fieldstick.drafting.context import Beside, MatchCase, class_with
from fieldstick.drafting.diagnosis import diagnose
from fieldstick.drafting.ranking import neighbours
from fieldstick.engines.probing import fits

UNREADABLE = [
    (r"\d+(", "12(", r"\d+\("),
    ("*** .+", "*** wet", r"\*\*\* .+"),
    (r"(\d+-\d+", "12-3", r"(\d+-\d+)"),
    (r"\d+-\d+)", "12-3", r"\d+-\d+"),
    ("[9-0]+", "12", "[0-9]+"),
    ("[a-Z]+", "Fen", "[a-zA-Z]+"),
    (r"([A-Z])\d\2", "A7A", r"([A-Z])\d\1"),
    (r"(?P<q>['\"]).*(?P=quote)", "'x'", r"(?P<q>['\"]).*(?P=q)"),
    (r"[a-z]+-[a-z]+*", "lily-of-fen", r"[a-z]+(?:-[a-z]+)*"),
    (r"[A-Z", "B", "[A-Z]"),
    (r"(?<plot>[A-F]\d\d)", "B07", r"(?P<plot>[A-F]\d\d)"),
    (r"[z-a]+-[Z-A]\d", "fen-B4", r"[a-z]+-[A-Z]\d"),
    ("[19-25]", "20", "(?:19|2[0-5])"),
    (r"[Mon-Wed] \d+", "Tue 4", r"(?:Mon|Tue|Wed) \d+"),
    ("[]=?", "[]=", r"\[\]=?"),
    ("(<>|*.?|/)", "<>", r"(<>|\*.?|/)"),
    (r"$?[a-z]\w*", "$fen", r"\$?[a-z]\w*"),
    (r"(['\"](.*?)(\1)", "''", r"(['\"])(.*?)(\1)"),
]

READABLE = [
    (r"north|quarry gate", "north gate", r"(?:north|quarry) gate"),
    (r"/\d{4}-LM/i", "2026-lm", r"\d{4}-LM"),
    (r"\\d{2}:\\d{2}", "06:10", r"\d{2}:\d{2}"),
    (r'r"\d+"', "12", r"\d+"),
    ("probe = (\\w+)   # the plot", "probe=B07", "probe = (\\w+)   # the plot"),
    (r"(?P<at>\d\d:\d\d) (?P<day>\d{4})", "2026 06:10", r"(?P<day>\d{4}) (?P<at>\d\d:\d\d)"),
    (r"(['\"])(\w+)\2", "'fen'", r"(['\"])(\w+)\1"),
    (r"\B\d+\B", "12", r"\b\d+\b"),
    (r"moisture=\D\D\.\D%", "moisture=31.4%", r"moisture=\d\d\.\d%"),
    (r"[()[],.]+", "[.]", r"[()\[\],.]+"),
    (r"[^A-F]\d\d", "B07", r"[A-F]\d\d"),
    (r"wing \d{2,3}\.(?:\d)? mm", "wing 117 mm", r"wing \d{2,3}(?:\.\d)? mm"),
    (r"pobre=\w+", "probe=B07", r"probe=\w+"),
    (r"begin.*End", "begin x end", r"begin.*end"),
    ("Caf\u0065\u0301", "Caf\u00e9", "Caf\u00e9"),
    (r"\d{4}\d{2}", "2026-05", r"\d{4}-?\d{2}"),
    (r"[A-D]\d\d", "E07", r"[A-E]\d\d"),
    (r"sheet \d+ of \d+", "sheet 3  of 12", r"sheet \d+ +of \d+"),
    (r"[1-12]/\d{4}", "9/2026", r"(?:1[0-2]|[1-9])/\d{4}"),
    (r"[1-31]+", "29", r"(?:[1-2][0-9]|3[0-1]|[1-9])"),
    ("[10-19]°", "14°", "1[0-9]°"),
    ("(?:[10-19])+°", "1412°", "(?:1[0-9])+°"),
    ("[00-23]:[00-59]", "06:05", "(?:[01][0-9]|2[0-3]):[0-5][0-9]"),
    (r"ring: ?P<ring>\w+", "ring: LK04", r"ring: (?P<ring>\w+)"),
    (r"(<ring>\w+)", "LK04", r"(?P<ring>\w+)"),
    (r"<(P<tag>\w+)>", "<b>", r"<(?P<tag>\w+)>"),
    (r"[jun-sep] \d+", "jul 4", r"(?:jun|jul|aug|sep) \d+"),
    (r"\s+=\s+", "a=b", r"\S+=\S+"),
    (r"\.csv\w+", "may.csv", r"\w+\.csv"),
    (r"\[[\wW]*?\]", "[0,a]", r"\[[\w\W]*?\]"),
    (r"[xX][0-9a-f]+", "0xa", r"0[xX][0-9a-f]+"),
    ("<<||||&&", "||", r"<<|\|\||&&"),
    (r"[_]\w*", "a7", r"[a-z_]\w*"),
    (r"\.(?!.)\d*e", ".7e", r"\.(?!\.)\d*e"),
    (r"[^+-]?\d+", "-3", r"[+-]?\d+"),
    (r"(?:0[xX][a-fA-F]+|0)u", "0x33u", r"(?:0[xX][0-9a-fA-F]+|0)u"),
    (r"\d\d:\d\dZ", "06:10+01:00", r"\d\d:\d\d(?:Z|[+-]\d{2}:\d{2})"),
]

TOO_WIDE = [
    (r"\[.*\]", "[a] and [b]", ("[a]", "[bc]"), r"\[[^\]]*\]"),
    (r"[A|B]\d", "|7", ("A7", "B1"), r"[AB]\d"),
    (r"[+-/]\d", ",7", ("+7", "-1", "/2"), r"[+\-/]\d"),
    (r"[A-z]+", "a_b", ("Fen", "hag"), r"[A-Za-z]+"),
    (r"\w{3}", "a_7", ("123", "407"), r"\d{3}"),
    (r"\d{2,}", "123", ("12", "34"), r"\d{2}"),
    (r"[A-Za-zÀ-ÿ]+", "a×b", ("Café", "Grün"), r"[A-Za-zÀ-ÖØ-öø-ÿ]+"),
    (r"\d+:\d+", "6:5", ("06:10", "23:59"), r"\d{2}:\d{2}"),
    ('"(?:.|\\\\.)*"', '""""', ('""',), '"(?:[^"\\\\]|\\\\.)*"'),
    (r"([A-Z])(.)\1", "AaA", ("A7A",), r"([A-Z])(\d)\1"),
    (r"[^s#:|]+", " ", ("a", "77"), r"[^\s#:|]+"),
    (r"0|\d\d*", "007", ("0", "4", "12"), r"0|[1-9]\d*"),
]


def same(one: MatchCase, expression: str) -> bool:
    """Tell whether a change is, or takes the same texts as, what was meant."""
    if one.expression == expression:
        return True
    from fieldstick.analysis.relation import Reading, relation_of  # type: ignore[attr-defined]

    return relation_of(Reading(one.expression, one.reach, one.flags), Reading(expression)).relation == "same"


@pytest.mark.parametrize(("expression", "text", "meant"), [*UNREADABLE, *READABLE])
def test_the_slip_is_undone_by_the_first_change_or_one_of_three(expression: str, text: str, meant: str) -> None:
    found = diagnose(MatchCase(expression, frozenset(), "whole", text))
    assert (found.fault is not None) == ((expression, text, meant) in UNREADABLE) and not found.fits
    offered = [each.case for each in found.repairs[:3]]
    assert all(fits(each.expression, each.flags, each.reach, each.text) for each in offered)
    assert any(same(each, meant) for each in offered), offered


@pytest.mark.parametrize(("expression", "text", "beside", "meant"), TOO_WIDE)
def test_what_takes_too_much_is_narrowed_by_what_should_fit(
    expression: str, text: str, beside: tuple[str, ...], meant: str
) -> None:
    found = diagnose(MatchCase(expression, frozenset(), "whole", text), beside=Beside(beside))
    first = found.repairs[0].case
    assert found.repairs[0].breaks == 0 and same(first, meant), first
    assert not fits(first.expression, first.flags, "whole", text)


def test_several_texts_decide_what_one_leaves_open() -> None:
    one = diagnose(MatchCase(r"[A-F]\d{3}", frozenset(), "whole", "B07"))
    assert [each.case.expression for each in one.repairs[:2]] == [r"[A-F]\d{2}", r"[A-F]\d{2,3}"]
    several = diagnose(MatchCase(r"[A-F]\d{3}", frozenset(), "whole", "B07"), beside=Beside(("C12", "A99")))
    assert several.repairs[0].case.expression == r"[A-F]\d{2}"
    kept = diagnose(MatchCase(r"[A-F]\d{3}", frozenset(), "whole", "B07"), beside=Beside(("C12", "A990")))
    assert kept.repairs[0].case.expression == r"[A-F]\d{2,3}" and kept.repairs[0].breaks == 0


def test_what_breaks_something_comes_last_and_says_so() -> None:
    found = diagnose(MatchCase("[A-D]7", frozenset(), "whole", "E7"), beside=Beside(("A7",), ("F7", "Z7")))
    counts = [each.breaks for each in found.repairs]
    assert found.repairs[0].case.expression == "[A-E]7" and counts[0] == 0
    assert counts == sorted(counts, key=bool) and any(counts)


def test_the_text_is_what_is_odd_only_where_the_others_fit() -> None:
    blank = diagnose(MatchCase(r"B\d\d", frozenset(), "whole", "B07 "), beside=Beside(("B12", "B99")))
    assert blank.repairs[0].case.text == "B07"
    all_of_them = diagnose(MatchCase(r"B\d\d", frozenset(), "whole", "B07 "), beside=Beside(("B12 ", "B99 ")))
    assert all_of_them.repairs[0].case.expression != r"B\d\d"
    for found in (blank, all_of_them):
        assert sum(each.case.expression == r"B\d\d" and each.case.reach == "whole" for each in found.repairs[:3]) <= 1


def test_nothing_that_fits_the_empty_text_comes_before_what_does_not() -> None:
    found = diagnose(MatchCase(r"\d{2}", frozenset(), "whole", "1a"))
    empty = [fits(each.case.expression, each.case.flags, each.case.reach, "") for each in found.repairs]
    assert empty == sorted(empty)


@given(st.lists(st.text("aB7- .", max_size=6), min_size=1, max_size=4))
def test_texts_near_by_are_others_and_the_same_each_time(texts: list[str]) -> None:
    found = neighbours(texts)
    assert found == neighbours(texts) and not set(found) & set(texts) and len(set(found)) == len(found)


@pytest.mark.parametrize(
    ("changed", "part", "after"),
    [
        ("at=(?:(?:[A-G])\\d) x", "row", "[A-G]"),
        ("at=(?:(?:[A-F])\\d\\d) x", "plot", "{{row}}\\d\\d"),
        ("at=(?:(?:[A-F])\\d) y", None, "at={{plot}} y"),
        ("at:(?:(?:[A-G])\\d) y", None, "at:(?:(?:[A-G])\\d) y"),
    ],
)
def test_a_change_is_told_in_the_innermost_text_that_holds_all_of_it(
    changed: str, part: str | None, after: str
) -> None:
    expression, parts = "at=(?:(?:[A-F])\\d) x", {(3, 18): "plot", (6, 15): "row"}
    change = written_change(expression, parts, {"plot": "{{row}}\\d", "row": "[A-F]"}, changed)
    assert (change.part, change.after) == (part, after)


MEMBERS = ("a-z", "A-F", "0-9", "_", "x", r"\d", r"\s", r"\-", r"\x41", "+-/", "à-ö", ".", r"\t")


@given(
    st.lists(st.sampled_from(MEMBERS), max_size=5),
    st.sampled_from(["", "-"]),
    st.sampled_from([r"\w", "A-Z", ".", "-"]),
)
def test_a_class_with_a_member_more_takes_what_both_take(members: list[str], last: str, added: str) -> None:
    inner = "".join(members) + last
    made = re.compile(class_with(inner, added))
    for character in map(chr, (*range(32, 127), 0xE9, 0x663, 9)):
        both = any(re.fullmatch(f"[{each}]", character) for each in (inner, added) if each)
        assert (made.fullmatch(character) is not None) is both, (inner, added, character)
