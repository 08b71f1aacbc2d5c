"""Expressions drawn piece by piece with a seed, of every construct an automaton holds, and texts drawn for them."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.analysis.automaton.threads import ACCEPTED, UNIVERSAL
from trees import ODD, SINGLES, near_miss, text_of

if TYPE_CHECKING:
    import random

    from fieldstick.analysis.automaton.threads import Automaton
    from fieldstick.syntax.parser import Parsed

_PLACES = ["^", "$", r"\b", r"\B", r"\A", r"\Z", ""]
_QUANTIFIERS = ["", "", "", "?", "*", "+", "??", "*?", "+?", "{2}", "{1,3}", "{,2}", "{2,}", "{1,2}?", "{0}"]
_POSSESSIVE = ["?+", "*+", "++", "{1,2}+", "{2}+"]
_OPENINGS = ["(?:", "(?:", "(", "(", "(?i:", "(?s-i:", "(?m:", "(?a:"]
_LOOKS = ["(?=", "(?!", "(?<=", "(?<!"]
FLAG_SETS = [(), (), (), ("ignore-case",), ("multiline",), ("dotall",), ("ascii",), ("ignore-case", "ascii"),
             ("multiline", "dotall"), ("ignore-case", "multiline", "ascii")]  # fmt: skip
_FEW = ["a", "b", "[ab]", r"\n", "."]


def drawn_expression(chance: random.Random, depth: int = 3, *, plain: bool = False) -> str:
    """Return an expression; a plain one has no look-around and nothing that is not given back."""
    singles = _FEW if chance.random() < 0.5 else SINGLES
    return _alternation(chance, depth, singles, plain)


def _alternation(chance: random.Random, depth: int, singles: list[str], plain: bool) -> str:
    options = 1 if chance.random() < 0.7 else chance.randint(2, 3)
    return "|".join(
        "".join(_piece(chance, depth, singles, plain) for _ in range(chance.choice((0, 1, 1, 2, 2, 3))))
        for _ in range(options)
    )


def _piece(chance: random.Random, depth: int, singles: list[str], plain: bool) -> str:
    drawn = chance.random()
    if depth == 0 or drawn < 0.45:
        return chance.choice(singles) + _quantifier(chance, plain)
    if drawn < 0.55:
        return chance.choice(_PLACES)
    inner = _alternation(chance, depth - 1, singles, plain)
    if not plain and drawn < 0.62:
        return f"(?>{inner}){_quantifier(chance, plain)}"
    if not plain and drawn < 0.7:
        opening = chance.choice(_LOOKS)
        if "<" in opening:
            return opening + "".join(chance.choice([*singles, "^", r"\b"]) for _ in range(chance.randint(0, 3))) + ")"
        return opening + inner.replace("(?", "(?").replace("(", "(") + ")"
    return f"{chance.choice(_OPENINGS)}{inner}){_quantifier(chance, plain)}"


def _quantifier(chance: random.Random, plain: bool) -> str:
    return chance.choice(_POSSESSIVE if not plain and chance.random() < 0.08 else _QUANTIFIERS)


def drawn_texts(chance: random.Random, parsed: Parsed, automaton: Automaton, most: int) -> list[str]:
    """Return texts: some that fit, some that nearly do, some of any characters."""
    found: list[str] = []
    while len(found) < most:
        drawn = chance.random()
        if drawn < 0.4:
            text = text_of(parsed, chance)
        elif drawn < 0.8:
            text = walked(chance, automaton)
        else:
            text = "".join(chance.choice("ab\n" if chance.random() < 0.5 else ODD) for _ in range(chance.randint(0, 6)))
        for _ in range(chance.choice((0, 0, 1, 2))):
            text = near_miss(text, chance)
        found.append(text[:60])
    return found


def walked(chance: random.Random, automaton: Automaton) -> str:
    """Return a text made by going through an automaton at random, until it may end or no letter leads on."""
    alphabet = automaton.alphabet
    context, threads, letters = automaton.first_context, [automaton.start], []
    while len(letters) < 40:
        if chance.random() < 0.3 and any(automaton.ways(each, context, alphabet.end) for each in threads):
            break
        reached: list[int] = []
        for letter in chance.sample(range(alphabet.size), alphabet.size):
            reached = [onward for each in threads for onward, _ in automaton.ways(each, context, letter)]
            reached = [each for each in dict.fromkeys(reached) if each != ACCEPTED]
            if reached:
                letters.append(letter)
                context = automaton.next_context(context, letter)
                break
        if not reached or (UNIVERSAL in reached and chance.random() < 0.7):
            break
        threads = reached
    return "".join(_character(chance, alphabet.intervals(letter)) for letter in letters)


def _character(chance: random.Random, intervals: list[tuple[int, int]]) -> str:
    first, last = chance.choice(intervals)
    return chr(chance.choice((first, last, chance.randint(first, last), chance.randint(first, min(last, first + 90)))))
