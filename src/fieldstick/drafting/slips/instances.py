"""Pieces that spell out one text where others of its form should fit, too: `B07: 31%` for `[A-Z]\\d{2}: \\d+%`."""

from __future__ import annotations

import re
from itertools import groupby
from typing import TYPE_CHECKING

from fieldstick.drafting.context import escaped, escaped_text, quantifier
from fieldstick.drafting.phrases import text_words
from fieldstick.syntax.tree import Character, Dot, Sequence, without_asides

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import Proposal, RepairContext
    from fieldstick.syntax.tree import Span

FEWEST_CHARACTERS = 3
"""Characters of an expression from which on it may be a text."""

_KINDS = ("[A-Z]", "[a-z]", r"\d")


def form_of(text: str) -> str:
    """Return an expression for texts that have letters and digits where one has them, and the same marks."""
    return "".join(
        kind + quantifier(len(run), len(run)) if kind in _KINDS else escaped_text(run) for kind, run in _runs(text)
    )


def numbered(context: RepairContext, span: Span, plain: str, new: str) -> Iterator[Proposal]:
    """A run of characters that has another number: `C\\d` for `C3`, where the text has `C4`."""
    own, others = re.split(r"(\d+)", plain), re.split(r"(\d+)", new)
    if own[::2] != others[::2] or not any(own[::2]):
        return
    made = ""
    for one, other in zip(own, others, strict=True):
        sizes = (len(one), len(other))
        made += escaped_text(one) if one == other else rf"\d{quantifier(min(sizes), max(sizes))}"
    words = f"{text_words(new.strip())} has another number than {text_words(plain.strip())}: {made}"
    yield context.splice(span, made, words, 1.1 + context.near_span(span) / 4)


def one_text(context: RepairContext) -> Iterator[Proposal]:
    """An expression that is a text, and takes no other, but for points in it."""
    tree = context.parsed.tree
    items = without_asides(tree.items) if isinstance(tree, Sequence) else ()
    if len(items) < FEWEST_CHARACTERS or not all(isinstance(each, Character | Dot) for each in items):
        return
    plain = "".join(each.character if isinstance(each, Character) else "." for each in items)
    made = _common_form(plain, context.case.text)
    if made is not None:
        words = f"{text_words(plain)} is one text, and {text_words(context.case.text)} is of the same form: {made}"
        yield context.splice(tree.span, made, words, 0.95)


def _common_form(one: str, other: str) -> str | None:
    """Return an expression for texts of the form that two have; None where they have not the same, or letters alone."""
    pairs = list(zip(_runs(one), _runs(other), strict=False))
    kinds = [tuple(kind for kind, _ in _runs(each)) for each in (one, other)]
    if kinds[0] != kinds[1] or r"\d" not in kinds[0]:
        return None
    made = ""
    renumbered = any(run != its for (kind, run), (_, its) in pairs if kind == r"\d")
    for (kind, run), (_, its) in pairs:
        if kind not in _KINDS:
            made += escaped(kind) * len(run) if run == its else rf"{escaped(kind)}+"
        elif run == its and not (renumbered and kind == r"\d"):
            made += run
        else:
            sizes = sorted((len(run), len(its)))
            made += kind + (quantifier(sizes[0], sizes[0]) if sizes[0] == sizes[1] else "+")
    return made


def _runs(text: str) -> list[tuple[str, str]]:
    """Return the runs of a text by kind: capitals, small letters, digits; any other character is its own kind."""
    return [(kind, "".join(run)) for kind, run in groupby(text, key=_kind_of)]


def _kind_of(character: str) -> str:
    kinds = (character.isupper(), character.islower(), character.isdecimal())
    return next((kind for kind, has in zip(_KINDS, kinds, strict=True) if has and character.isascii()), character)


RULES = (one_text,)
