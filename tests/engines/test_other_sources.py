"""What was written for another engine, read as that engine reads it: held against the real one, text by text."""

from __future__ import annotations

import itertools
import random
import re
import subprocess
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING

import pytest
from engines_here import engine_named, usable

from conftest import EXHAUSTIVE, TODAY
from fieldstick.analysis.rendering.writing import NotCarried, rendered
from fieldstick.engines.python import ENGINE as PYTHON
from fieldstick.errors import BudgetSpent, EngineFailure, ExpressionError, FieldstickError, SyntaxFault
from fieldstick.syntax.parser import FLAG_NAMES, parse
from trees import ODD, near_miss, text_of

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.engines.protocol import Spans

CARRIED, REFUSED_HERE, REFUSED_THERE = "carried", "refused here", "refused there"


def short_texts(letters: str, longest: int = 3) -> list[str]:
    return ["".join(each) for size in range(longest + 1) for each in itertools.product(letters, repeat=size)]


def held(engine: str, expression: str, flags: frozenset[str], texts: Sequence[str], most: int | None = None) -> str:
    """Hold what Python reads of what is written for it against what its own engine reads, places and groups."""
    try:
        made = engine_named(engine).compile(expression, flags)
    except ExpressionError:
        return REFUSED_THERE
    try:
        rendering = rendered(expression, flags, "python", source=engine, reach="anywhere")
    except (NotCarried, SyntaxFault):
        return REFUSED_HERE
    here = PYTHON.compile(rendering.expression, rendering.flags)
    many = getattr(made, "matches_many", None)
    found = (
        many(texts, "anywhere", 5_000, most)
        if many is not None
        else [made.matches(each, "anywhere", 5_000, most) for each in texts]
    )
    for text, there in zip(texts, found, strict=True):
        if isinstance(there, FieldstickError):
            continue
        try:
            expected: list[Spans] = [tuple(each) for each in there]
            read = [
                (spans[0], *(spans[number] if number is not None else (-1, -1) for number in rendering.numbers))
                for spans in here.matches(text, "anywhere", 2_000, most)
            ]
        except (BudgetSpent, EngineFailure):
            continue
        assert read == expected, (engine, expression, sorted(flags), rendering.expression, text, expected, read)
    return CARRIED


FLAGS = (
    "a(?i)b", "(?i)a|b", "a(?i)b|a", "(a(?i)b|a)b", "a(?i:b)a", "(?i)a(?-i)b", "(?s)a.", "a.(?s).", "(?s-i).A",
    "(?m)^a", "(?m:a.)", "b|(?i)a|b", "(?x) a  b", "a(?x) b | a b", "a(?i)", "((?i)a)b", "(?-i)ab", "(?i)(?:a|(?-i)b)b",
    "(?m)a.", "(?:(?i)a|b)b",
)  # fmt: skip


@pytest.mark.parametrize(
    "engine", ["perl", "pcre2", "php", "regex", "re2", "rust", "java", "dotnet", "ruby", "oniguruma"]
)
def test_flags_hold_from_where_they_stand(engine: str) -> None:
    usable(engine)
    texts = short_texts("aAbB\n")
    told = [held(engine, each, frozenset(flags), texts, 1) for each in FLAGS for flags in ((), ("ignore-case",))]
    assert told.count(CARRIED) >= 28
    # Ruby takes the options that follow along with the flags.
    assert told.count(REFUSED_HERE) == (6 if engine in ("ruby", "oniguruma") else 0)


@pytest.mark.parametrize("engine", ["java", "java-unicode", "node", "ecmascript"])
@pytest.mark.parametrize("flags", [(), ("multiline",)])
def test_lines_end_where_the_engine_has_them_end(engine: str, flags: tuple[str, ...]) -> None:
    usable(engine)
    texts = short_texts("a\n\r\u2028\x85", 4)
    asked = ["$", "^", "^a", "a$", "^a?$", "^$", r"(?:^a|\r)$", "^(?!a)", r"$(?<=\r)", r"a\Z", r"\A$", r"\Z"]
    told = [held(engine, each, frozenset(flags), texts, 1) for each in asked]
    assert told == [CARRIED if "java" in engine or "\\" not in each or "r" in each else REFUSED_THERE for each in asked]


@pytest.mark.parametrize(
    ("engine", "expression", "told"),
    [
        ("ruby", r"\h\H", CARRIED), ("oniguruma", r"\h+", CARRIED), ("ruby", r"[\hx]\u{66}?", CARRIED),
        ("node", "a[^]", CARRIED), ("node", "a[]|b", CARRIED), ("ecmascript-v", "[^]b", CARRIED),
        ("node", r"[ab[]+", CARRIED), ("perl", r"[[ab]+", CARRIED), ("pcre2", "[a&&b]+", CARRIED),
        ("pcre2", "[a--b]", REFUSED_THERE), ("re2", "[x~~&]", CARRIED),
        ("node", r"\u0061\0?", CARRIED), ("node", r"\ud83d\udc26", REFUSED_HERE),
        ("node", "(^|b)?a", REFUSED_HERE), ("node", "(?:(a)|b)*x", REFUSED_HERE), ("node", "(?:(?:a)|b)*x", CARRIED),
        ("node", r"(?:(a)|b)*\1x", REFUSED_HERE), ("node", r"(?:(a)b)*x", CARRIED),
        ("node", r"\p{Space_Separator}|\P{Decimal_Number}", CARRIED),
        ("perl", r"\p{^Zs}\p{Dash_Punctuation}?", CARRIED),
        ("java", r"\p{Alpha}\p{Punct}|\P{ASCII}", CARRIED), ("java", r"(?iu)ſ", REFUSED_HERE),
        ("re2", "(?U)a+", REFUSED_HERE), ("rust", r"(?i)a(?-i)b|[[b]]", CARRIED),
    ],
)  # fmt: skip
def test_what_only_some_engines_write_is_read_as_they_do_or_refused(engine: str, expression: str, told: str) -> None:
    usable(engine)
    assert held(engine, expression, frozenset(), short_texts("abf&[x\0Aé٣ ")) == told


HARVESTED = {
    "node": ("*.js", r"(?<=[=(,:!&|;{}\[?]) ?/((?:[^/\\\n\[*]|\\.|\[(?:[^\]\\\n]|\\.)*\])(?:[^/\\\n\[]|\\.|"
             r"\[(?:[^\]\\\n]|\\.)*\])*)/([gimsuy]*)(?=[,;).\s])"),
    "ruby": ("*.rb", r"(?<=[=(,~!&|{] )/((?:[^/\\\n\[#]|\\.|\[(?:[^\]\\\n#]|\\.)*\])+)/([imxo]*)(?=[,;).\s])"),
    "perl": ("*.p[ml]", r"(?:=~ ?m?|qr)/((?:[^/\\\n\[$@]|\\.|\$(?=[)|/])|\[(?:[^\]\\\n$@]|\\.)*\])+)/([imsxgo]*)"
             r"(?=[,;).\s])"),
    "re2": ("*.go", r"regexp\.MustCompile\(`([^`]+)`()\)"),
}  # fmt: skip
"""The files of an engine's language, and where an expression stands in them, with the letters of its flags."""

_RUBY = {"m": "dotall", "i": "ignore-case", "x": "verbose"}


@cache
def harvested(engine: str) -> tuple[tuple[str, frozenset[str]], ...]:
    """Return the expressions that stand in the libraries of an engine's language, where these are installed."""
    files, place = HARVESTED[engine]
    listed = subprocess.run(
        ["find", "/usr/lib", "/usr/share", "-name", files, "-type", "f", "-size", "-300k"],
        capture_output=True, text=True, check=False,
    )  # fmt: skip
    names = _RUBY if engine == "ruby" else FLAG_NAMES
    return tuple(
        sorted(
            {
                (found[1].replace("\\/", "/"), frozenset(names[each] for each in found[2] if each in names))
                for file in listed.stdout.splitlines()
                for found in re.finditer(place, Path(file).read_text(encoding="utf-8", errors="ignore"))
            },
            key=lambda each: (each[0], sorted(each[1])),
        )
    )


def _texts(expression: str, engine: str, chance: random.Random) -> Iterator[str]:
    """Yield texts that an expression may fit, near misses, and odd ones."""
    parsed = parse(expression, engine=engine)
    texts = [text_of(parsed, chance) for _ in range(3)]
    yield from texts
    yield from (near_miss(each, chance) for each in texts)
    yield from (
        chance.choice(ODD) + texts[0],
        texts[1] + "\n",
        "🐦" + texts[2] + "\r\nx",
        "",
        "ab_1 é\u2028" + texts[0],
    )


@pytest.mark.parametrize("engine", sorted(HARVESTED))
def test_expressions_of_the_engines_own_libraries_read_in_python_as_there(engine: str) -> None:
    usable(engine)
    expressions = harvested(engine)
    if len(expressions) < 50:
        pytest.skip(f"{engine}: too few expressions in its libraries here")
    chance = random.Random(TODAY)
    if not EXHAUSTIVE:
        expressions = tuple(chance.sample(expressions, min(150, len(expressions))))
    told = []
    for expression, flags in expressions:
        try:
            texts = list(_texts(expression, engine, chance))
        except (SyntaxFault, RecursionError):
            texts = [expression, ""]
        told.append(held(engine, expression, flags, texts, 1))
    assert told.count(CARRIED) > 0.7 * len(told), (told.count(CARRIED), told.count(REFUSED_HERE), len(told))
