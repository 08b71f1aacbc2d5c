"""The shorter roads give what reading one text after the other gives."""

from __future__ import annotations

import random
from collections import Counter
from decimal import Decimal
from typing import TYPE_CHECKING, Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from fieldstick.analysis.automaton import walk_tables
from fieldstick.analysis.literals import required_literal
from fieldstick.data.batch import StoredTexts
from fieldstick.data.placed import HEAD
from fieldstick.data.rows import text_of as written_as
from fieldstick.errors import BudgetSpent, EngineFailure, FieldstickError
from fieldstick.kernels.walkers import NATIVE
from fieldstick.matching import bulk, row_walks, walks
from fieldstick.matching.prepare import prepare
from fieldstick.matching.result import DID_NOT_MATCH, GAVE_UP, Unfit
from fieldstick.suites.model import FieldTable
from fieldstick.syntax.parser import parse
from fieldstick.workspace import bare_pattern
from trees import EXPRESSIONS, FLAGS, ODD, SINGLES, near_miss, text_of

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.matching.matcher import Matcher
    from fieldstick.suites.suite import Pattern

PIECES = [
    "probe=B07",
    " m=31.4%",
    "2026-05-04",
    "é",
    "\x1c",
    "\t",
    " ",
    "a",
    "A",
    "zz",
    "7",
    "_",
    "(",
    "'",
    "\udc84",
    "",
    "==",
]
LINES = st.lists(st.lists(st.sampled_from(PIECES), max_size=6).map("".join), min_size=1, max_size=30)


@pytest.fixture(autouse=True)
def analysis_from_the_start(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(bulk, "WORTH_A_LITERAL", 5)
    monkeypatch.setattr(row_walks, "WORTH_KEPT", 0)
    monkeypatch.setattr(row_walks, "WORTH_NEW", 0)
    monkeypatch.setattr(walk_tables, "BYTES_OF_LEAPS", 0)
    monkeypatch.setattr(row_walks.atexit, "register", lambda save: None)


def plainly(matcher: Matcher, text: str, *, with_place: bool = False) -> Any:
    """Read one text by the one road to a match."""
    try:
        reading = matcher.read(text)
    except (BudgetSpent, EngineFailure):
        return GAVE_UP
    if reading.unfit is not None:
        return (reading.unfit.reason, reading.unfit.field)
    return matcher.rows_of(reading, with_place=with_place)


def shown(captured: Any) -> Any:
    if isinstance(captured, Unfit):
        return GAVE_UP if captured.reason == GAVE_UP else (captured.reason, captured.field)
    return captured


def agrees(pattern: Pattern, lines: Sequence[str]) -> None:
    matcher = prepare(pattern)
    for with_place in (False, True):
        expected = [plainly(matcher, line, with_place=with_place) for line in lines]
        assert [shown(each) for each in matcher.rows(lines, with_place=with_place)] == expected
    fits = [None if each == GAVE_UP else isinstance(each, list) for each in expected]
    assert matcher.fits(lines) == fits and matcher.fits(lines) == fits
    assert [each.unfit is None for each in matcher.read_many(lines)] == [each is True for each in fits]
    if GAVE_UP not in expected:
        as_a_block(matcher, lines)


def as_a_block(matcher: Matcher, lines: Sequence[str]) -> None:
    """Hold the walks over lines as a block, byte by byte and then in leaps, against the one road to a match."""
    walkable = [line for line in lines if is_a_line(line)]
    expected = [plainly(matcher, line, with_place=True) for line in walkable]
    ends = ["\r\n" if number % 3 == 1 else "\n" for number in range(len(walkable))]
    block = "".join(map("".join, zip(walkable, ends, strict=True))).encode("utf-8", "surrogateescape")
    data = StoredTexts(block, len(walkable), ends.count("\r\n"))
    fit_walk = walks.fit_walk(matcher)
    for fits in [fit_walk.fits(data) for _ in range(2)] if fit_walk is not None else []:
        if fits is None:
            break
        assert [each == 0 for each in memoryview(fits).cast("h")] == [isinstance(each, list) for each in expected]
    row_walk = walks.row_walk(matcher)
    for _ in range(2 if row_walk is not None else 0):
        walked = row_walk.rows(data)
        if walked is None:
            break
        assert walked_rows(walked, matcher) == [
            (number, [start, end, *map(written_as, cells)])
            for number, each in enumerate(expected)
            if isinstance(each, list)
            for start, end, *cells in each
        ]
        invalid = [each[1] for each in expected if isinstance(each, tuple) and each[0] != DID_NOT_MATCH]
        assert walked.invalid == Counter(invalid)


def is_a_line(text: str) -> bool:
    """Tell whether a text can be a line of UTF-8, bytes that are none kept."""
    try:
        stored = text.encode("utf-8", "surrogateescape")
    except UnicodeEncodeError:
        return False
    return "\n" not in text and not text.endswith("\r") and stored.decode("utf-8", "surrogateescape") == text


def walked_rows(walked: Any, matcher: Matcher) -> list[Any]:
    placed = walked.placed
    stored = placed.data + bytes(placed.side)
    places = placed.places()
    found = []
    for number in range(placed.count):
        row = places[number * placed.width : (number + 1) * placed.width]
        if placed.refused and placed.refused[number]:
            continue
        cells = row[HEAD + 2 :] if matcher.field_names else row[HEAD : HEAD + 2]
        texts = [
            None if end < 0 else stored[start:end].decode("utf-8", "surrogateescape")
            for start, end in zip(cells[::2], cells[1::2], strict=True)
        ]
        match = [len(stored[row[1] : each].decode("utf-8", "surrogateescape")) for each in row[HEAD : HEAD + 2]]
        found.append((row[0], [*match, *texts]))
    return found


def typed(expression: str, **fields: dict[str, Any]) -> Pattern:
    tables = {name: FieldTable(**keys) for name, keys in fields.items()}
    return replace(bare_pattern(expression), reach="anywhere", fields=tables)


TAKES = st.sampled_from(["first", "last", "all", 2, -1])
FIELDS = r"(?P<m>\d+(?:\.\d+)?)%?(?P<rest>x)?"


@given(LINES, st.sampled_from(["whole", "start", "anywhere"]), st.sampled_from(["first", "last", "all", 2, -1]))
def test_typed_fields_come_out_the_same_in_bulk(lines: list[str], reach: Any, take: Any) -> None:
    pattern = replace(typed(FIELDS, m={"type": "decimal", "most": 40}), reach=reach, take=take)
    agrees(pattern, lines)


@given(EXPRESSIONS, FLAGS, st.sampled_from(["whole", "start", "anywhere"]), TAKES, st.integers(0, 10**6))
def test_expressions_drawn_from_their_grammar_read_texts_drawn_from_their_trees_alike(
    expression: str, flags: frozenset[str], reach: Any, take: Any, seed: int
) -> None:
    try:
        parsed = parse(expression, flags)
        pattern = replace(bare_pattern(expression), reach=reach, take=take, flags=flags, budget_ms=5000)
    except FieldstickError:
        return
    chance = random.Random(seed)
    texts = [text_of(parsed, chance) for _ in range(6)]
    texts += [near_miss(text, chance) for text in texts]
    agrees(pattern, [text.replace("\n", "") for text in texts])
    agrees(pattern, [text.replace("\n", "").replace("\x1c", " ") for text in texts])


@pytest.mark.parametrize("reach", ["whole", "start", "anywhere"])
def test_a_text_that_departs_anywhere_from_what_is_usual_is_read_alike(reach: Any) -> None:
    usual = "2026-05-04T06:31 probe=B07 moisture=31.4% by='Holm, 7 m Off'"
    at = r"(?P<at>\d{4}-\d\d-(?P<day>\d\d)T\d\d:\d\d) (?:probe|trap)=(?P<plot>[A-F](?P<digits>\d)+)"
    pattern = replace(bare_pattern(at + r" m[^=é]*=(?P<m>-?\d+(?:\.\d)?)% (?:by='[^'é]*'?)?"), reach=reach)
    departing = [usual[:cut] + odd + usual[cut + over :] for cut in range(len(usual)) for odd, over in DEPARTURES]
    shortest = ["2026-05-04T06:31 trap=B0 m=3% ", "2026-05-04T06:31 trap=B m=3% "]
    agrees(pattern, [usual] * 400 + departing + shortest + [usual[:cut] for cut in range(len(usual))])


DEPARTURES = [("x", 1), ("7", 1), ("", 1), ("\udc84", 1), ("é", 0), ("Ж", 1), (" 2026-", 0), ("\0", 1)]
DEPARTURES += [(odd, 1) for odd in "/:@G`{\x7f"]
"""What takes the place of something in a text, and of how many characters."""


@pytest.mark.parametrize("flags", ["", "ignore-case", "ascii", "ignore-case ascii"])
@pytest.mark.parametrize("after", ["", "{2}1", "{3}", "+x"])
def test_whatever_is_asked_for_once_or_repeated_is_found_alike(flags: str, after: str) -> None:
    odd = [*ODD.replace("\n", ""), *"\0\1\7\x08pl0189\u2126\u2128\uffff\U0001f33f"]
    lines = ["", *odd, *(each * 2 + "1" for each in odd), *(each * 3 for each in odd), *(f"{each}x" for each in odd)]
    for single in SINGLES:
        pattern = replace(bare_pattern(f"a?{single}{after}"), reach="anywhere", flags=frozenset(flags.split()))
        agrees(pattern, lines)
        agrees(pattern, [line for line in lines if "\x1c" not in line])


@given(LINES, st.sampled_from(["any_of", "all_of", "none_of"]))
def test_so_do_patterns_made_of_others(lines: list[str], combination: Any) -> None:
    members = (
        typed(FIELDS, m={"type": "decimal", "most": 40}),
        replace(bare_pattern("[a-z]+(?P<odd>é)?"), reach="anywhere", take="all"),
        replace(bare_pattern("A"), reach="start"),
    )
    pattern = replace(members[0], filling=None, combination=combination, members=members, fields={})
    matcher = prepare(pattern)
    expected = [plainly(matcher, line, with_place=True) for line in lines]
    assert [shown(each) for each in matcher.rows(lines, with_place=True)] == expected
    assert matcher.fits(lines) == [matcher.read(line).fits for line in lines]


def test_harvested_expressions_read_lines_the_same_one_by_one_and_as_a_block(harvested: tuple[str, ...]) -> None:
    chance = random.Random(11)
    tried = 0
    for expression in harvested:
        if "{{" in expression or "\n" in expression:
            continue
        letters = list(dict.fromkeys(expression)) + PIECES
        lines = ["".join(chance.choices(letters, k=chance.randrange(12))).replace("\n", "") for _ in range(12)]
        reach: Any = chance.choice(["whole", "start", "anywhere"])
        try:
            pattern = replace(bare_pattern(expression), reach=reach, budget_ms=5000)
            agrees(pattern, lines)
        except FieldstickError:
            continue
        tried += 1
    assert tried > len(harvested) / 2


def test_a_line_that_spends_its_budget_is_given_up_alone() -> None:
    pattern = replace(bare_pattern(r"(?P<x>(?:a|aa)+)b(?<=(?!c)b)"), reach="whole", budget_ms=40)
    lines = ["ab", "a" * 60, "aab", "c"]
    reader = prepare(pattern)
    assert [shown(each) for each in reader.rows(lines)] == [[["a"]], GAVE_UP, [["aa"]], (DID_NOT_MATCH, None)]
    assert reader.fits(lines) == [True, None, True, False]


@pytest.mark.parametrize(
    ("expression", "flags", "found"),
    [
        (r"probe=(?P<p>\w+) moisture=\d", "", " moisture="),
        (r"(?:ab|abc)d", "", None),
        (r"x{2,}(?:long text)+", "", "long text"),
        (r"(?:long text)*xy", "", "xy"),
        (r"(?!not this)ok", "", "ok"),
        (r"long text", "ignore-case", None),
        (r"(?i:long text)ab", "", None),
        (r"a\nb cd", "", None),
        (r"long # text", "verbose", "long"),
    ],
)
def test_the_required_literal_lies_in_every_match(expression: str, flags: str, found: str | None) -> None:
    assert required_literal(parse(expression, frozenset(flags.split()))) == found


@pytest.mark.skipif(NATIVE is None, reason="the walkers are not built here")
def test_what_an_automaton_holds_is_read_in_time_however_long_the_engine_would_take() -> None:
    lines = ["ab", "é" + "a" * 60, "a" * 200_000 + "b", "aa" * 100_000, "b"]
    reader = prepare(replace(bare_pattern(r"(?P<x>(?:a|aa)+)(b)?$"), reach="anywhere", budget_ms=40))
    rows = reader.rows(lines, with_place=True)
    assert rows[:4] == [[[0, 2, "a", "b"]], [[1, 61, "a" * 60, None]], [[0, 200_001, "a" * 200_000, "b"]], [
        [0, 200_000, "a" * 200_000, None]]]  # fmt: skip
    assert shown(rows[4]) == (DID_NOT_MATCH, None) and reader.fits(lines) == [True, True, True, True, False]
    slow = replace(typed(r"(?P<m>(?:\d|\d\d)+)x?", m={"type": "decimal", "most": 40}), reach="whole", budget_ms=40)
    lines = ["7" * 60 + "y", "7" * 60, "7x"]
    wanted = [(DID_NOT_MATCH, None), ("field-invalid", "m"), [[Decimal("7")]]]
    assert [shown(each) for each in prepare(slow).rows(lines)] == wanted
    alone = prepare(slow)
    alone.keep_to_engine()
    assert alone.fits(lines) == [None, False, True]
