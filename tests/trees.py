"""Expressions drawn from their grammar, and texts drawn from their trees: what fits, and what just does not."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hypothesis import strategies as st

from fieldstick.syntax.tree import (
    Alternation,
    Backreference,
    Character,
    CharClass,
    Conditional,
    Dot,
    Group,
    Node,
    Range,
    Repeat,
    Sequence,
    Shorthand,
)

if TYPE_CHECKING:
    import random

    from fieldstick.syntax.parser import Parsed

FLAGS = st.frozensets(st.sampled_from(["ignore-case", "multiline", "dotall", "ascii"]), max_size=2)
SINGLES = [
        *"abkK7é_ =%:", r"\d", r"\w", r"\s", r"\.", ".", "[a-f]", "[^a]", "[K-Z7]", r"[\d.]", r"\W", r"\S", "[ſ-ƀ]",
        "plot", "m=", r"[\u2120-\u2130]", r"[^\x80-\uffff]", r"\0", r"\07", "1",
    ]  # fmt: skip
ATOMS = st.sampled_from(SINGLES)
ANCHORS = st.sampled_from(["^", "$", r"\b", r"\A", r"\Z"])
QUANTIFIERS = st.sampled_from(["", "", "?", "*", "+", "+?", "*?", "{2}", "{1,3}", "{3}"])
_SHORT = {"digit": "07٣", "word": "aZ_9éß", "space": " \t\x1c\xa0"}
ODD = "aKk\u212aſ7٣é \n\x1c\x85\u2028_.=%"


def _grouped(inner: st.SearchStrategy[str]) -> st.SearchStrategy[str]:
    groups = st.sampled_from(["(?:{})", "({})", "({0}|{0}x)", "(?:{}|b)", "(?={})", "(?!x{})"])
    return st.builds(lambda opening, body: opening.format(body), groups, inner)


PIECES = st.recursive(
    st.builds(str.__add__, ATOMS, QUANTIFIERS) | ANCHORS,
    lambda inner: st.builds(str.__add__, _grouped(inner), st.sampled_from(["", "", "?", "{1,2}"])) | inner,
    max_leaves=4,
)
EXPRESSIONS = st.lists(PIECES, min_size=1, max_size=5).map("".join)


def text_of(parsed: Parsed, chance: random.Random) -> str:
    """Return a text made by walking the tree: most fit, some do not, for what looks about or refers back."""
    return _of(parsed.tree, chance, "ignore-case" in parsed.flags)


def near_miss(text: str, chance: random.Random) -> str:
    """Return a text with one character changed, left out or put in."""
    at = chance.randrange(len(text) + 1)
    return text[:at] + chance.choice(["", chance.choice(ODD)]) + text[at + chance.randrange(2) :]


def _of(node: Node, chance: random.Random, fold: bool) -> str:
    match node:
        case Character():
            return node.character.swapcase()[:1] if fold and chance.random() < 0.5 else node.character
        case Dot():
            return chance.choice(ODD)
        case Shorthand():
            return chance.choice(_SHORT.get(node.name, "a") if not node.negated else "a- é\n7")
        case CharClass():
            if node.negated:
                return chance.choice(ODD)
            # [] is a class in ECMAScript, and takes nothing.
            return _of(chance.choice(node.items), chance, fold) if node.items else ""
        case Range():
            return chr(chance.randint(ord(node.first.character), ord(node.last.character)))
        case Sequence():
            return "".join(_of(item, chance, fold) for item in node.items)
        case Alternation():
            return _of(chance.choice(node.options), chance, fold)
        case Group():
            return _of(node.body, chance, fold)
        case Repeat():
            most = node.least + 2 if node.most is None else node.most
            return "".join(_of(node.item, chance, fold) for _ in range(chance.randint(node.least, most)))
        case Conditional() | Backreference():
            return "a"
        case _:
            return ""
