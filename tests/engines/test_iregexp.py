"""RFC 9485: what is no I-Regexp is refused at its place; what is written as one, or read, means the same on engines."""

from __future__ import annotations

import random
import re
from itertools import product

import pytest
from engines_here import usable

from conftest import EXHAUSTIVE, TODAY
from drawn import FLAG_SETS, drawn_expression
from fieldstick.analysis.rendering.iregexp import iregexp
from fieldstick.analysis.rendering.writing import NotCarried, rendered
from fieldstick.engines.registry import engine_named
from fieldstick.errors import ExpressionError, SyntaxFault
from fieldstick.syntax.parser import parse
from trees import near_miss, text_of

PLAIN: frozenset[str] = frozenset()
CHARACTERS = "aB-^$\n"


@pytest.mark.parametrize(
    ("text", "start"),
    [
        ("[]a]", 1), ("a**", 2), (r"\d", 0), ("(a", 0), ("a)", 1), ("[b-a]", 1), (r"\p{Xx}", 0), (r"\p{Lower}", 0),
        ("{", 0), ("a{2,1}", 0), ("a{,2}", 1), ("[a-b-c]", 4), (r"[\p{L}-z]", 6), ("a\\", 1), ("?", 0), ("a|*", 2),
        ("[a", 0), ("[^]", 2), ("[[]", 1), (r"[a&&[b]]", 4), ("(?:a)", 1), ("a++", 2), (r"\bx", 0), (r"\u0041", 0),
        ("]", 0), ("a{9999999999}", 0), ("(" * 201 + ")" * 201, 200), ("a\ud800", 1), (r"[a-\d]", 3),
    ],
)  # fmt: skip
def test_what_the_grammar_does_not_have_is_refused_at_its_place(text: str, start: int) -> None:
    with pytest.raises(SyntaxFault) as refused:
        iregexp(text)
    assert refused.value.span[0] == start, refused.value


def drawn_iregexp(chance: random.Random, depth: int = 3) -> str:
    """Return a random I-Regexp, by the grammar's rules."""

    def atom() -> str:
        kinds = ["normal", "escape", "dot", "class", "group"][: 5 if depth else 4]
        match chance.choice(kinds):
            case "normal":
                return chance.choice("aB-^$ ,é")
            case "escape":
                return "\\" + chance.choice([*"().-^$"[:5], "n", "p{Lu}", "P{L}", "p{N}"])
            case "dot":
                return "."
            case "class":
                some = ["a", "A-C", r"\-", r"\^", "$", r"\p{Ll}", r"\]", "."]
                items = "".join(chance.choice(some) for _ in range(chance.randint(1, 3)))
                negated, first, last = (chance.choice(["", "", each]) for each in "^--")
                return f"[{negated}{first}{items}{last}]"
        return f"({drawn_iregexp(chance, depth - 1)})"

    def piece() -> str:
        return atom() + chance.choice(["", "", "*", "+", "?", "{2}", "{1,}", "{0,2}"])

    return "|".join("".join(piece() for _ in range(chance.randint(0, 3))) for _ in range(chance.choice((1, 1, 2))))


def test_an_iregexp_is_read_as_every_engine_reads_what_is_written_of_it() -> None:
    usable("ecmascript")
    usable("xsd")
    chance = random.Random(TODAY)
    texts = ["".join(each) for size in range(4) for each in product(CHARACTERS, repeat=size)]
    counted = 0
    for _ in range(600 if EXHAUSTIVE else 25):
        expression = drawn_iregexp(chance)
        read = {}
        if "{" not in expression:
            # libxml2 is asked with the very expression: each I-Regexp is a pattern of XML Schema (RFC 9485, 5.2); but
            # it loses count in repeats within repeats.
            xsd = engine_named("xsd").compile(expression, PLAIN)
            read["xsd"] = xsd.matches_many(texts, "whole", 5_000, 1)  # type: ignore[attr-defined]
        for engine in ("ecmascript", "python", "re2"):
            try:
                written = rendered(expression, PLAIN, engine, source="rfc9485", reach="whole")
            except NotCarried:
                assert engine == "python" and "\\" in expression
                continue
            made = engine_named(engine).compile(written.expression, written.flags)
            read[engine] = [made.matches(text, "whole", 5_000, 1) for text in texts]
        for engine, found in read.items():
            assert [bool(each) for each in found] == [bool(each) for each in read["ecmascript"]], (engine, expression)
            counted += any(found) and not all(found)
    assert counted > 60


def test_what_is_written_as_iregexp_keeps_to_the_grammar_and_means_the_same() -> None:
    chance = random.Random(TODAY)
    carried = 0
    for _ in range(4_000 if EXHAUSTIVE else 400):
        expression, flags = drawn_expression(chance), frozenset(chance.choice(FLAG_SETS))
        try:
            parsed = parse(expression, flags)
            here = engine_named("python").compile(expression, flags)
            written = rendered(expression, flags, "rfc9485", reach="whole", foldable=False)
            iregexp(written.expression)
            again = rendered(written.expression, PLAIN, "python", source="rfc9485", reach="whole")
        except (SyntaxFault, ExpressionError, NotCarried) as error:
            assert not isinstance(error, SyntaxFault) or error.expression == expression, (expression, error)
            continue
        there = re.compile(again.expression)
        texts = [text_of(parsed, chance) for _ in range(4)]
        texts += [near_miss(each, chance) for each in texts] + ["", "\n", "\r"]
        for text in texts:
            assert bool(here.matches(text, "whole", 5_000, 1)) == bool(there.fullmatch(text)), (
                expression,
                written,
                text,
            )
        carried += 1
    assert carried > 50
