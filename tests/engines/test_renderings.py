"""An expression written for another engine reads there, on the real engine, as it reads in its own."""

from __future__ import annotations

import itertools
import random
from typing import TYPE_CHECKING

import pytest
from engines_here import CAPTURING, NAMES, engine_named, usable

from conftest import EXHAUSTIVE, TODAY
from drawn import FLAG_SETS, drawn_expression
from fieldstick.analysis.meanings import KINDS, SPELLINGS, class_of, folded
from fieldstick.analysis.rendering.dialects import DIALECTS
from fieldstick.analysis.rendering.writing import NotCarried, Rendering, rendered
from fieldstick.engines.python import ENGINE as PYTHON
from fieldstick.errors import BudgetSpent, EngineFailure, ExpressionError, FieldstickError, SyntaxFault
from fieldstick.syntax.parser import parse
from harvest import expressions
from trees import ODD, near_miss, text_of

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.engines.protocol import Reach, Spans

REACHES: tuple[Reach, ...] = ("whole", "start", "anywhere")
PLAIN: frozenset[str] = frozenset()


def asked(chance: random.Random) -> Iterator[tuple[str, frozenset[str], Reach]]:
    """Yield expressions with flags and a reach: drawn ones, and public ones."""
    while True:
        yield drawn_expression(chance), frozenset(chance.choice(FLAG_SETS)), chance.choice(REACHES)
        yield chance.choice(expressions()), frozenset(chance.choice(((), (), ("ignore-case",)))), chance.choice(REACHES)


def read_there(rendering: Rendering, texts: list[str], reach: Reach) -> list[list[Spans] | FieldstickError]:
    """Read texts on the engine, its groups brought back to the numbers of the source."""
    made = engine_named(rendering.engine).compile(rendering.expression, rendering.flags)
    found = made.matches_many(texts, reach, 5_000, 1)  # type: ignore[attr-defined]
    return [
        each if isinstance(each, FieldstickError) else [_brought_back(rendering, spans) for spans in each]
        for each in found
    ]


def _brought_back(rendering: Rendering, spans: Spans) -> Spans:
    if not DIALECTS[rendering.engine].captures:
        return spans
    return (spans[0], *(spans[number] if number is not None else (-1, -1) for number in rendering.numbers))


@pytest.mark.parametrize("engine", sorted(set(NAMES) - {"python"}))
def test_what_is_written_for_an_engine_reads_there_as_in_python(engine: str) -> None:
    usable(engine)
    chance = random.Random(TODAY)
    carried = tried = 0
    refused: list[tuple[str, str, str]] = []
    captures = DIALECTS[engine].captures
    for expression, flags, reach in asked(chance):
        tried += 1
        if tried > (3_000 if EXHAUSTIVE else 30):
            break
        reach = reach if captures else "whole"
        try:
            parsed = parse(expression, flags)
            here = PYTHON.compile(expression, flags)
            rendering = rendered(expression, flags, engine, reach=reach)
        except (SyntaxFault, ExpressionError, NotCarried):
            continue
        texts = [text_of(parsed, chance) for _ in range(3)]
        texts += [near_miss(each, chance) for each in texts] + ["", chance.choice(ODD) + texts[0]]
        if engine in ("xsd", "postgres", "sqlite"):
            texts = [each for each in texts if "\0" not in each and (each.isprintable() or engine != "xsd")]
        if DIALECTS[engine].in_chars:
            texts = [each for each in texts if max(each, default="") <= "\uffff"]
        try:
            there = read_there(rendering, texts, reach)
        except ExpressionError as error:
            refused.append((expression, rendering.expression, error.rule))
            continue
        carried += 1
        for text, found in zip(texts, there, strict=True):
            if isinstance(found, FieldstickError):
                continue
            try:
                expected: list[Spans] = [tuple(each) for each in here.matches(text, reach, 2_000, 1)]
            except (BudgetSpent, EngineFailure):
                continue
            same = bool(expected) == bool(found) if not captures else expected == found
            assert same, (expression, sorted(flags), reach, rendering.expression, text, expected, found)
    assert carried > tried / 8, (carried, tried)
    # What no rule foresees an engine says itself, and that is told as its refusal.
    assert len(refused) <= carried / 20, refused


ODD_CASE = [*map(chr, range(0x20, 0x180)), "\u017f", "\u212a", "\u0399", "\u1e9e"]


@pytest.mark.parametrize("expression", [r"\w", r"\W", r"[\w-]", r"[^\w-]", r"[\W_]", r"\d", "[j-t]"])
@pytest.mark.parametrize("engine", [each for each in CAPTURING if each != "python"])
def test_shorthands_let_case_go_as_the_engine_has_them_do(engine: str, expression: str) -> None:
    """The long s is an s, and the kelvin sign a k, to some under ignore-case, in shorthands as well."""
    usable(engine)
    for flags in ({"ignore-case"}, {"ignore-case", "ascii"}):
        here = PYTHON.compile(expression, frozenset(flags))
        try:
            written = rendered(expression, frozenset(flags), engine, reach="whole")
            there = read_there(written, ODD_CASE, "whole")
        except (NotCarried, ExpressionError):
            continue
        wrong = [
            text
            for text, found in zip(ODD_CASE, there, strict=True)
            if bool(here.matches(text, "whole", 2_000, 1)) != bool(found)
        ]
        assert wrong == [], (written.expression, written.flags)


@pytest.mark.parametrize("engine", CAPTURING)
def test_what_is_recorded_of_classes_and_case_is_what_the_engine_takes(engine: str) -> None:
    if usable(engine) == "python":
        return
    chance = random.Random(TODAY)
    characters = "".join(chr(chance.randrange(0x20, 0xD800)) for _ in range(2_000)) + "Kſßéıİσς٧²\u2028\xa0\x85\x1c"
    made = engine_named(engine)
    kinds = ("digit", "word", "space", "dot", "L", "Lu", "Nl", "P", "Sc", "posix alpha", "posix punct", "posix upper")
    for kind, spelling in ((each, SPELLINGS[each]) for each in kinds):
        there = class_of(engine, kind)
        assert kind in KINDS
        if there is None:
            continue
        found = made.compile(spelling, PLAIN).matches(characters, "anywhere", 20_000, None)
        taken = {characters[spans[0][0]] for spans in found}
        known = [each for each in characters if each in class_of("python", "dot") or each == "\n"]  # type: ignore[operator]
        assert {each for each in known if each in there} == {each for each in known if each in taken}, kind
    for character in "kKsSiIσéx":
        there = folded(engine, character)
        assert there is not None
        found = made.compile(character, frozenset({"ignore-case"})).matches(
            characters + "kKsSiI", "anywhere", 20_000, None
        )
        assert {(characters + "kKsSiI")[spans[0][0]] for spans in found} == {
            each for each in characters + "kKsSiI" if each in there
        }


@pytest.mark.parametrize(
    ("engine", "expression"),
    [
        ("java", "[a-z&&[^q]]"), ("java", "[^a-z&&[q-s]k]"), ("ruby", "[a-z&&[^aeiou]&&[^q-t]]"),
        ("rust", "[a-f~~d-h]"),
        ("rust", "[a-f--[bc]]"), ("rust", r"[a-z0-9&&\D--[x]]"), ("ecmascript-v", r"[\w--[a-f]]"),
        ("ecmascript-v", r"[\d&&[3-5]]"),
        ("xsd", "[a-z-[aeiou]]"), ("xsd", "[^a-f-[x]]"), ("dotnet", "[^a-c-[x]]"), ("dotnet", r"[a-k-[c-e]]"),
        ("oniguruma", "[a-z&&[^aeiou]]"),
    ],
)  # fmt: skip
def test_combined_classes_are_read_as_their_engine_does(engine: str, expression: str) -> None:
    usable(engine)
    texts = [chr(code) for code in range(0x20, 0x7F)]
    there = engine_named(engine).compile(expression, PLAIN)
    written = rendered(expression, PLAIN, "python", source=engine, reach="whole").expression
    here = PYTHON.compile(written, PLAIN)
    assert [bool(there.matches(each, "whole", 2_000, 1)) for each in texts] == [
        bool(here.matches(each, "whole", 2_000, 1)) for each in texts
    ]


@pytest.mark.parametrize(
    "expression",
    [
        "a{3}|a{2}|[ab]", "(?:a{2,3}|a)b?", "bbb(?:bb)*|aa", "(?:b(?:a|bb)*|a)b", "(?:bbb(?:bb)+|aa)?",
        "(?:(?:baa)?|a){3}", "aa(?:b{1,2}a)*|b{2,3}.*|a", ".{2}(?:b.a)*|[ab]{1,2}", "a{2}a?|b+",
    ],
)  # fmt: skip
def test_what_libxml2_would_lose_count_of_is_written_so_that_it_does_not(expression: str) -> None:
    usable("xsd")
    texts = ["".join(each) for size in range(7) for each in itertools.product("ab", repeat=size)]
    written = rendered(expression, PLAIN, "xsd", reach="whole").expression
    there = engine_named("xsd").compile(written, PLAIN)
    here = PYTHON.compile(expression, PLAIN)
    assert [bool(there.matches(each, "whole", 2_000, 1)) for each in texts] == [
        bool(here.matches(each, "whole", 2_000, 1)) for each in texts
    ]
    with pytest.raises(NotCarried, match="libxml2 loses count"):
        rendered("a{20}|a", PLAIN, "xsd", reach="whole")
