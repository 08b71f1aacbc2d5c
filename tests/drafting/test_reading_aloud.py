"""`explain`: the words are exact, each tied to its piece of source; hazards are named where they are and only there."""

from __future__ import annotations

import re
from collections import Counter

import pytest
from msgspec.structs import replace

from fieldstick.analysis.examples import examples
from fieldstick.analysis.hazard_kinds import KINDS, OF_EXPRESSIONS
from fieldstick.analysis.hazards import Hazard, hazards, pattern_hazards
from fieldstick.drafting.outline import outline
from fieldstick.drafting.typed_examples import typed_examples
from fieldstick.engines.budget import run_within
from fieldstick.errors import BudgetSpent, SyntaxFault
from fieldstick.matching.prepare import prepare
from fieldstick.suites.model import FieldTable
from fieldstick.syntax.parser import parse
from fieldstick.workspace import bare_pattern


def words(expression: str, *flags: str) -> str:
    return " / ".join(line.words for line in outline(parse(expression, frozenset(flags))).lines)


@pytest.mark.parametrize(
    ("expression", "flags", "told"),
    [
        (".", [], "any character but a line feed"),
        (".", ["dotall"], "any character"),
        (r"\d", [], "a digit of any alphabet"),
        (r"\d", ["ascii"], "a digit 0 to 9"),
        (r"\D", [], "anything but a digit of any alphabet"),
        (r"\d\D+", [], r"anything but a digit of any alphabet (\D, not \d), once or more"),
        ("$", [], "the end of the text, or before a line feed that ends it"),
        ("$", ["multiline"], "the end of a line"),
        (r"\Z", [], "the very end of the text"),
        ("a", ["ignore-case"], "'a' in either case"),
        ("[^a-c_]", [], "anything but a to c or '_'"),
        (r"a{2,4}?", [], "'a', 2 to 4 times; takes as few as it can, then more"),
        ("a+", [], "'a', once or more"),
        (r"[^\W\d_]", [], "a letter of any alphabet"),
        (r"[^\W_]", ["ascii"], "a letter or digit a to z or A to Z"),
        (r"[^\S\n]", [], "a white-space character but not a line feed"),
        (r"[\W_]", [], "anything but a letter or digit of any alphabet"),
        ("(?:a{2}){3}", [], "'a', exactly 2 times, all of it exactly 3 times"),
        ("a{0}", [], "'a', none of it"),
        ("((a)|(b))+", [], "group 1: one of 2 options, once or more; the first that leads to a match:"),
        ("12|34", ["ignore-case"], "'12' or '34', the first that leads to a match"),
        (r"(a)\1", ["ignore-case"], "what group 1 captured, once more, in either case"),
        ("k", ["ignore-case"], "'k' in either case, the kelvin sign K too"),
        ("k", ["ignore-case", "ascii"], "'k' in either case"),
        (r"\b", ["ascii"], "a word boundary: a letter a to z or A to Z, digit or _ on one side alone"),
        (r"\d\d-", [], "a digit of any alphabet, exactly 2 times / '-'"),
        ("it's", [], '"it\'s"'),
        ("\U00010000", [], "U+10000 (linear b syllable b008 a)"),
        ("|".join(f"w{n}" for n in range(40)), [], "or 'w9' or 30 others, the first that leads to a match"),
        ("a++", [], "'a', once or more; takes as many as it can and gives none back"),
        ("(?P<row>[A-F])", [], "group 1 'row': one of A to F"),
        ("(a)(?:b|cd)", [], "group 1: 'a' / 'b' or 'cd', the first that leads to a match"),
        (r"(a)\1", [], "group 1: 'a' / what group 1 captured, once more"),
        ("(?=x)", [], "only if this follows: / 'x'"),
        ("(?<!x)", [], "only if not this stands before: / 'x'"),
        ("(a)?(?(1)b|c)", [], "if group 1 took part: / 'b' / otherwise: / 'c'"),
        (r"\u00a0", [], "a no-break space"),
    ],
)
def test_the_words_are_exact(expression: str, flags: list[str], told: str) -> None:
    assert told in words(expression, *flags)


def test_each_line_is_tied_to_its_piece_of_source(harvested: tuple[str, ...]) -> None:
    for expression in harvested:
        try:
            parsed = parse(expression)
        except SyntaxFault:
            continue
        for line in outline(parsed).lines:
            assert line.source == expression[slice(*line.span)]
            assert line.words


def test_lengths_bound_every_match_and_examples_fit(harvested: tuple[str, ...]) -> None:
    tried = 0
    for expression in harvested:
        try:
            parsed = parse(expression)
        except SyntaxFault:
            continue
        told = outline(parsed)
        for text in examples(parsed, "whole"):
            tried += 1
            assert re.fullmatch(expression, text)
            assert told.shortest <= len(text)
            assert told.longest is None or len(text) <= told.longest
    assert tried > len(harvested)


HAZARDS = [
    ("[A-z]+", "wide-range", 1),
    ("[+-/]", "wide-range", 1),
    ("[in|out]", "bar-in-class", 3),
    ("[0-9a|b]", "bar-in-class", 5),
    ("[^a|b]", "bar-in-class", 3),
    (r"[\w|a|b]", "bar-in-class", 3),
    ("[north]7", "word-in-class", 0),
    ("[1-12]", "number-in-class", 0),
    ("[00-23]", "number-in-class", 0),
    ("[0-255]", "number-in-class", 0),
    (r"[\b]x", "backspace", 1),
    (r"[\w_]", "twice-in-class", 3),
    ("x[[:alpha:]]", "other-notation", 1),
    ("[a-z&&[^b]]", "other-notation", 0),
    (r"\<plot", "other-notation", 0),
    ("^a|b$", "anchored-alternation", 0),
    (r"^a|b\$$", "anchored-alternation", 0),
    (r"\d+.\d", "dot-in-number", 3),
    (r"(?:\d{1,3}.){3}\d{1,3}", "dot-in-number", 10),
    (r"[\d]+.[\d]+", "dot-in-number", 5),
    (r"\w+.csv", "dot-in-name", 3),
    ('"(.*)"', "takes-anything", 2),
    ("<.*>", "takes-anything", 1),
    (r"/\*.*\*/", "takes-anything", 3),
    (r"(?P<a>\d)(x)", "number-shifts", 9),
    (r"\d*", "matches-nothing", 0),
    ("a|", "empty-option", 2),
    ("a{0}b", "bounds-never-met", 0),
    ("(?:^a){2}", "bounds-never-met", 0),
    (r"\d{1, 3}", "no-quantifier", 2),
    ("a{3-5}", "no-quantifier", 1),
    ("in|into", "hidden-option", 3),
    (r"\.(js|json)", "hidden-option", 6),
    (r"(?:\s|\n)x", "hidden-option", 6),
    (r"(?:(a)|b)\1", "absent-reference", 9),
    (r"(a)|\1", "absent-reference", 4),
    ("(a+)+b", "nested-repeats", 0),
    (r"(\d+,)+", "last-turn", 0),
    (r"\b%\d", "boundary-by-mark", 0),
    ("a^b", "anchor-never-holds", 1),
    ("a$b", "anchor-never-holds", 1),
    (r"a(?:\b)?b", "quantified-anchor", 1),
    ("a(?!=b)", "look-slip", 1),
    (r"\d+(?!px)", "look-moves-match", 3),
    (r"^\d+$", "last-line-feed", 4),
    (r"[A-F]\d\d", "digit-beyond-ascii", 5),
    (r"(?i)\d+", "idle-flag", 0),
    ("(?s)a+", "idle-flag", 0),
    ("(?x)plot B07", "blank-ignored", 8),
    (r"(?x)tag #\d+", "blank-ignored", 8),
    (r"\w+|\d\d", "hidden-option", 4),
    ("[LU]|x|Lu?", "hidden-option", 7),
    (r"(?:a|(b)|[ab])x", "hidden-option", 9),
    (r"a\b\w", "anchor-never-holds", 1),
    (r"x|a(?m:$)b", "anchor-never-holds", 7),
    ("[a-mn-zf-q]", "twice-in-class", 7),
    (r"(?i)[\W\d]", "idle-flag", 0),
    (r"(?:\s?x?)*y", "empty-turn", 0),
    ("(?:a|ab|b)*c", "takes-forever", 0),
    (r"(.*)=(.*);(.*),", "takes-forever", 0),
]
CLEAN = [
    "[A-Za-z]", "[|]", "[aeiou]", r"[\w-]", r"^\s+|\s+$", r"^,+|\.$", r"\d+\.\d", '"([^"]*)"', r"(?P<a>\d)(?P<b>x)",
    r"\d+", "into|in", r"(a)?(?(1)b|c)", r"(a)\1?", "(?:a+b)+", "(?:a|b)+", r"\b\d", r"\n^b$\n", "(?i)x", "(?:ab?)+c",
    "ba{0,3}", "[imsx]*y", "(?:a+)+", "(?s:a$.)", "(?:a|b|)c", r"\{\d", "ba{,3}", "(?!=)", r"(\w+)+?", "^a$|^b$",
    "[+*/-]", "(?x)a\n b # c\n", r"[A-F][0-9]", r"\w+\.csv",
]  # fmt: skip


@pytest.mark.parametrize(("expression", "kind", "at"), HAZARDS)
def test_a_hazard_is_named_at_its_place_and_shown_by_a_text(expression: str, kind: str, at: int) -> None:
    found = {(hazard.kind, hazard.span[0]): hazard for hazard in hazards(parse(expression), "anywhere")}
    assert (kind, at) in found
    shows(found[kind, at], expression, 0)


def shows(hazard: Hazard, expression: str, flags: int) -> None:
    """Hold a hazard to what it says, by the standard library's engine."""
    if kind_is_slow := hazard.kind in ("nested-repeats", "takes-forever"):
        assert is_endless(expression, flags, hazard.text)
        assert hazard.changed == expression or not is_endless(hazard.changed, flags, hazard.text)
        return
    now, then = (re.compile(each, flags).search(hazard.text) for each in (expression, hazard.changed))
    harmless = hazard.then == "it fits as before"
    assert (now is not None) is (not hazard.now.startswith("does not")) and not kind_is_slow
    one, other = ((found.regs, found.re.groupindex) if found else None for found in (now, then))
    assert (one == other) is harmless


def is_endless(expression: str, flags: int, text: str) -> bool:
    try:
        run_within(60, re.compile(expression, flags).search, text)
    except BudgetSpent:
        return True
    return False


def test_letters_beyond_ascii_fold_to_those_of_a_range() -> None:
    (found,) = hazards(parse("[a-z]", frozenset({"ignore-case"})))
    assert found.kind == "folded-letter" and found.text == "\u212a" and re.fullmatch("[a-z]", found.text, re.I)
    assert not hazards(parse("[a-z]", frozenset({"ignore-case", "ascii"})))
    assert not hazards(parse(r"(?-i:[a-z])\d", frozenset({"ignore-case"})), "whole")


@pytest.mark.parametrize("expression", CLEAN)
def test_what_is_no_hazard_is_left_in_peace(expression: str) -> None:
    flags = frozenset({"multiline"}) if "^b$" in expression else frozenset[str]()
    assert hazards(parse(expression, flags), "anywhere") == []


def test_hazards_fire_seldom_on_real_expressions_and_each_is_as_it_says(harvested: tuple[str, ...]) -> None:
    fired: Counter[str] = Counter()
    total = 0
    for expression in harvested:
        try:
            parsed = parse(expression)
        except SyntaxFault:
            continue
        total += 1
        for hazard in hazards(parsed, "anywhere"):
            fired[hazard.kind] += 1
            shows(hazard, expression, 0)
    assert total > len(harvested) / 2
    assert fired.total() / total < 0.08 and all(count / total <= 0.04 for count in fired.values()), fired


def test_samples_and_fields_show_further_hazards() -> None:
    found = pattern_hazards(parse("3.5"), "whole", ["3.5"], has_fields=False)
    assert [hazard.kind for hazard in found] == ["dot-in-number"]
    dotted = pattern_hazards(parse("a.b"), "whole", ["a.b"], has_fields=False)
    assert [hazard.kind for hazard in dotted] == ["dot-for-point"]
    assert pattern_hazards(parse("a.b"), "whole", ["a.b", "a-b"], has_fields=False) == []
    assert [hazard.kind for hazard in pattern_hazards(parse("(a)b"), "whole", [], has_fields=True)] == ["number-shifts"]


def test_the_page_of_hazards_has_every_kind() -> None:
    from pathlib import Path

    page = (Path(__file__).parents[2] / "docs" / "hazards.md").read_text(encoding="utf-8")
    assert {kind for _, kind, _ in HAZARDS} | {"dot-for-point", "folded-letter"} == set(OF_EXPRESSIONS)
    for kind in KINDS:
        assert f"## {kind}" in page


@pytest.mark.parametrize(
    ("expression", "fields"),
    [
        (r"(?P<v>\d\d\.\d\d\.\d{4})", {"v": FieldTable(type="date", layout="%d.%m.%Y")}),
        (r"(?P<v>\d{4}-\d\d-\d\dT\d\d:\d\d:\d\dZ) (\d+)", {"v": FieldTable(type="timestamp")}),
        (r"(?P<v>\d+,\d)%", {"v": FieldTable(type="decimal", decimal_mark=",", least=80, most=90)}),
        (r"(?P<v>\d+) kg", {"v": FieldTable(type="integer", least=400, most=500)}),
        (r"(?P<v>[A-Z]\d\d)(?P=v)", {"v": FieldTable(one_of=["B07", "C12"])}),
        (r"(?P<v>\w+)", {"v": FieldTable(type="boolean", true=["ja"], false=["nein"])}),
        (r"(\d\d:\d\d)", {"1": FieldTable(type="time")}),
    ],
)
def test_examples_hold_values_of_their_fields(expression: str, fields: dict[str, FieldTable]) -> None:
    matcher = prepare(replace(bare_pattern(expression), fields=fields))
    found = typed_examples(matcher, parse(expression))
    assert found and all(matcher.read(text).fits for text in found)
