"""Letters, tables and what is made of several languages: held against brute force over short texts."""

from __future__ import annotations

import random
import re
from itertools import product
from typing import TYPE_CHECKING

import pytest
from hypothesis import given
from hypothesis import strategies as st

from drawn import drawn_expression
from fieldstick.analysis.automaton.alphabet import Alphabet
from fieldstick.analysis.automaton.asked import Joined, Reading, readings_of
from fieldstick.analysis.automaton.building import program_of
from fieldstick.analysis.automaton.languages import Combined, OneByOne, joined_language, languages_of
from fieldstick.analysis.automaton.nearest import nearest_difference
from fieldstick.analysis.automaton.preference import nodes_on_the_way, text_by_way_of
from fieldstick.analysis.automaton.program import OutOfReach, Take
from fieldstick.analysis.automaton.tables import DEAD, Tables
from fieldstick.analysis.automaton.threads import Automaton
from fieldstick.analysis.character_sets import characters_of, kind_of_character
from fieldstick.analysis.relation import relation_of, takes
from fieldstick.engines.probing import compiled_by_engine
from fieldstick.engines.protocol import REACHES
from fieldstick.syntax.characters import LAST, CharacterSet
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import Alternation, Group, Node, spelled, walk

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.analysis.automaton.languages import Language

SHORT = ["".join(each) for size in range(5) for each in product("abx\n", repeat=size)]
EXPRESSIONS = ["a+", "[ab]*b", r"a\Z|b+", "x?", "(?!a)[abx]*", "a.*", r"\w\w|", "(?:ab)*", "a$", r"\Bx|b\b"]
POINTS = st.integers(0, 120) | st.integers(LAST - 40, LAST)
INTERVALS = st.lists(st.tuples(POINTS, POINTS).map(sorted).map(tuple), max_size=5)


def takes_text(language: Language, text: str) -> bool:
    """Walk a language through a text, by all its rows."""
    rows = {language.first}
    for letter in language.alphabet.letters(text)[:-1]:
        rows = {onward for row in rows for onward in language.afters(row, letter)}
    return any(language.accepts(row) for row in rows)


@given(st.lists(INTERVALS, min_size=1, max_size=4), st.lists(POINTS, min_size=1, max_size=30))
def test_a_letter_holds_just_the_characters_that_no_set_tells_apart(
    drawn: list[list[tuple[int, int]]], points: list[int]
) -> None:
    sets = [CharacterSet.of(each) for each in drawn]
    programs = [program_of(parse("")), program_of(parse("a"))]
    program = programs[1]
    states = tuple(Take(each, 0) for each in sets)
    alphabet = Alphabet([type(program)((*program.states, *states), program.start, 0)])
    assert sum(len(alphabet.intervals(letter)) for letter in range(alphabet.size)) >= alphabet.size
    for point in points:
        character = chr(point)
        letter = alphabet.letter(character)
        assert any(first <= point <= last for first, last in alphabet.intervals(letter))
        for each in sets:
            assert bool(alphabet.mask(each) >> letter & 1) is (character in each)
    for letter, (character, _) in enumerate(alphabet.examples[:-1]):
        assert alphabet.letter(character) == letter


@pytest.mark.parametrize("kind", ["digit", "word", "space"])
@pytest.mark.parametrize("ascii_alone", [False, True])
def test_kinds_of_characters_are_those_of_the_running_engine_in_every_plane(kind: str, ascii_alone: bool) -> None:
    every = "".join(map(chr, range(LAST + 1)))
    shorthand = {"digit": r"\d+", "word": r"\w+", "space": r"\s+"}[kind]
    runs = [found.span() for found in re.finditer(shorthand, every, re.ASCII if ascii_alone else 0)]
    found = kind_of_character(kind, ascii_alone=ascii_alone)
    assert found.intervals == tuple((start, end - 1) for start, end in runs)


@pytest.mark.parametrize("spelling", ["k", "[a-z]", "[^k]", r"[\W\d]", "[Ḁ-ỹ]", "ß", "ǅ", "[ſ-ƀ]"])
def test_case_is_folded_for_every_character_as_the_engine_folds_it(spelling: str) -> None:
    every = "".join(map(chr, range(0x20000)))
    runs = [found.span() for found in re.finditer(f"(?:{spelling})+", every, re.IGNORECASE)]
    found = characters_of(parse(spelling).tree, frozenset({"ignore-case"}))
    within = found & CharacterSet(((0, 0x1FFFF),))
    assert within.intervals == tuple((start, end - 1) for start, end in runs)


@pytest.mark.parametrize("how", ["any", "all", "none"])
def test_languages_are_combined_as_sets_are(how: str) -> None:
    chance = random.Random(how)
    for _ in range(12):
        asked = Joined(how, tuple(Reading(each) for each in chance.sample(EXPRESSIONS, chance.randint(1, 3))))  # type: ignore[arg-type]
        language = joined_language(asked, iter(languages_of(readings_of(asked))))
        for text in chance.sample(SHORT, 60):
            assert takes_text(language, text) is takes(asked, text), (asked, text)


def test_what_is_hopeless_or_universal_stays_so() -> None:
    chance = random.Random("hopeless")
    for _ in range(20):
        parts = languages_of([Reading(each, chance.choice(REACHES)) for each in chance.sample(EXPRESSIONS, 2)])
        combined = Combined(chance.choice(["any", "all", "none"]), parts)  # type: ignore[arg-type]
        for language in (*parts, combined):
            row = language.first
            for _ in range(6):
                hopeless, universal = language.is_hopeless(row), language.is_universal(row)
                assert not (hopeless and language.accepts(row)) and (not universal or language.accepts(row))
                row = language.afters(row, chance.randrange(language.alphabet.size))[0]
                assert not (hopeless and not language.is_hopeless(row))
                assert not (universal and not language.is_universal(row))


def test_threads_one_by_one_take_what_their_sets_take() -> None:
    chance = random.Random("one by one")
    for expression in EXPRESSIONS:
        for reach in REACHES:
            (tables,) = languages_of([Reading(expression, reach)])
            loosely = OneByOne(tables)
            for text in chance.sample(SHORT, 40):
                if "\n" not in text:
                    assert takes_text(loosely, text) is tables.fits(text), (expression, reach, text)


def test_letters_beyond_the_possible_lead_nowhere() -> None:
    for expression in EXPRESSIONS:
        (tables,) = languages_of([Reading(expression)])
        row = tables.first
        for letter in range(tables.alphabet.size):
            if not tables.letters(row) >> letter & 1:
                assert tables.after(row, letter) == DEAD


def test_tables_stop_at_their_cap_and_say_so() -> None:
    tables = Tables(Automaton(program_of(parse("(?:a|b)*a(?:a|b){12}"))), most_rows=50)
    with pytest.raises(OutOfReach, match="more than 50 rows"):
        for text in ("".join(each) for each in product("ab", repeat=9)):
            tables.fits(text)


def distance(one: str, other: str) -> int:
    """The fewest characters to be changed, put in or left out."""
    row = list(range(len(other) + 1))
    for at, character in enumerate(one, 1):
        diagonal, row[0] = row[0], at
        for to, each in enumerate(other, 1):
            diagonal, row[to] = row[to], min(row[to] + 1, row[to - 1] + 1, diagonal + (character != each))
    return row[-1]


@pytest.mark.parametrize(
    ("one", "other", "texts"),
    [
        ("a{3}b", "a{2,3}b", ["aaab", "bb"]),
        ("[ab]+x", "[ab]+", ["abab"]),
        ("(?:ab)*", "(?:ab)*x?", ["abab", ""]),
        ("a+(?!x).", "a+.", ["aab"]),
        ("[ab]{2,4}", "[ab]{2,3}", ["abx", "b"]),
        ("a*b*", "a*", ["xa"]),
    ],
)
def test_the_nearest_text_is_as_near_as_any(one: str, other: str, texts: list[str]) -> None:
    first, second = languages_of([Reading(one), Reading(other)])
    found = nearest_difference(first, second, texts)
    assert found is not None and first.fits(found) is not second.fits(found)
    differ = [text for text in SHORT if (re.fullmatch(one, text) is None) is not (re.fullmatch(other, text) is None)]
    assert min(distance(found, text) for text in texts) <= min(distance(a, b) for a in differ for b in texts)


def test_there_is_no_nearest_text_where_nothing_differs() -> None:
    assert nearest_difference(*languages_of([Reading("a|b"), Reading("[ab]")]), ["a", "x"]) is None


def options_of(expression: str) -> Iterator[Node]:
    for node in walk(parse(expression).tree):
        if isinstance(node, Alternation):
            yield from node.options


def with_group(expression: str, node: Node) -> str:
    """The expression with a group around a node, whose taking part tells that the preferred way went by it."""
    start, end = node.span
    return f"{expression[:start]}(?P<way>{expression[start:end]}){expression[end:]}"


@pytest.mark.parametrize("seed", range(3))
def test_the_way_that_is_preferred_is_the_one_that_the_engine_goes(seed: int) -> None:
    chance = random.Random(f"way {seed}")
    asked = 0
    while asked < 25:
        expression = drawn_expression(chance, 2, plain=True)
        reach = chance.choice(REACHES)
        parsed = parse(expression)
        options = [
            node
            for each in walk(parsed.tree)
            if isinstance(each, Alternation)
            for node in each.options
            if compiled_by_engine(with_group(expression, node), frozenset()) is not None
        ]
        if not options or any(isinstance(node, Group) and node.kind == "atomic" for node in walk(parsed.tree)):
            continue
        asked += 1
        for node in options[:3]:
            compiled = re.compile(with_group(expression, node))
            method = {"whole": compiled.fullmatch, "start": compiled.match, "anywhere": compiled.search}[reach]
            by = [text for text in SHORT if (found := method(text)) is not None and found["way"] is not None]
            try:
                text = text_by_way_of(parsed, reach, node)
                known = nodes_on_the_way(parsed, reach, [node], by[:5])
            except OutOfReach:
                continue
            said = (expression, reach, spelled(node))
            assert known == ({node} if by else set()), said
            if by:
                assert text is not None and len(text) <= min(map(len, by)), said
            if text is not None:
                found = method(text)
                assert found is not None and found["way"] is not None, (said, text)


@pytest.mark.parametrize("seed", range(2))
def test_of_the_shortest_texts_the_most_readable_is_shown(seed: int) -> None:
    chance = random.Random(f"readable {seed}")
    for _ in range(30):
        one, other = (drawn_expression(chance, 1, plain=True) for _ in range(2))
        pair = [compiled_by_engine(each, frozenset()) for each in (one, other)]
        if pair[0] is None or pair[1] is None:
            continue
        found = relation_of(Reading(one), Reading(other))
        shown = found.only_first
        if shown is None or len(shown) > 3 or "\n" in shown:
            continue
        letters = "abcdefghijklmnopqrstuvwxyz0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ"
        rank = {character: number for number, character in enumerate(letters)}
        if not set(shown) <= set(letters):
            # Something less readable is needed only where no letter or digit would do.
            plain = ("".join(each) for each in product("abKxy019", repeat=len(shown)))
            assert not any(pair[0].fullmatch(text) and not pair[1].fullmatch(text) for text in plain)
            continue
        for each in product("abK07c1", repeat=len(shown)):
            text = "".join(each)
            if pair[0].fullmatch(text) and not pair[1].fullmatch(text):
                assert sum(rank[character] for character in shown) <= sum(rank[character] for character in text)
