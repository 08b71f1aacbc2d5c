"""Chooses the way of finding forms that holds best of texts that were not seen, and takes the least beyond them.

Each way is tried without some of the examples, in turn, and asked about those (cross-validation; Stone 1974). What it
does not hold of them is weighed against the share of texts near to the examples that it takes.
"""

from __future__ import annotations

import random
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fieldstick.drafting.proposals.cutting import tokens_of
from fieldstick.drafting.proposals.forms import WAYS, Way, forms_by
from fieldstick.drafting.proposals.literal_numbers import are_literal
from fieldstick.drafting.proposals.pieces import complexity, glued_in, unlike_in
from fieldstick.drafting.proposals.spelling import LEVELS
from fieldstick.drafting.proposals.writing import Writer
from fieldstick.drafting.search import neighbours
from fieldstick.engines.probing import fits

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.drafting.proposals.pieces import Form
    from fieldstick.drafting.proposals.spelling import Level

FOLDS = 4
"""How often a part of the examples is left out."""

MOST_LEFT_OUT = 160
"""Examples that a way is tried with so."""

HOLDS = 1.5
"""What it counts that a way does not hold of a left out example, against one more text near by that it takes."""

ENOUGH = 20
"""Different examples from which on it counts in full."""

FEWEST = 8
"""Different examples below which it does not count, and only the ways that tell most pieces apart are tried."""

PLAIN: tuple[Way, ...] = ("runs", "words", "shared")
LITERAL: tuple[Way, ...] = ("chunks",)

TYPED = 0.02
"""What a field of a type is worth, as a share of texts near by taken."""

SHAPELESS = 0.1
"""What it costs that a way tells no pieces apart, as a share of texts near by taken."""

PARTED = 0.0
"""What it costs that a way tells only what marks part, as a share of texts near by taken."""

FITS_NOTHING = 0.5
"""What it costs that the empty text fits, which is no example."""

UNLIKE = 0.1
"""What it costs that a piece is letters in some texts and digits in others, as a share of texts near by taken."""

GLUED = 0.05
"""What it costs that letters or digits may be left out beside others, as a share of texts near by taken."""

FORM, PART = 0.05, 0.02
"""What each form beyond the first costs, and each part that may be left out, as a share of texts near by taken."""


class Written(Struct, frozen=True):
    """An expression, the tables of its fields, and how well it may be expected to hold.

    `holds` is the share of left out examples that it took, `near` that of texts near to the examples.
    """

    expression: str
    fields: dict[str, dict[str, Any]]
    holds: float
    near: float


def best_written(texts: Sequence[str], fitting: Sequence[str]) -> dict[Level, Written]:
    """Return the expression that is likeliest right by level; a level has none where none takes all of `fitting`."""
    different = list(dict.fromkeys(texts))
    near = neighbours(different[:MOST_LEFT_OUT])
    few = len(different) < FEWEST
    # A number that is one piece is told more of by what cuts texts into these.
    literal = are_literal(different) and any(len(tokens_of(each, "runs")) > 1 for each in different)
    plain = LITERAL if literal else PLAIN
    found = _all_written(plain if few else WAYS, texts, fitting, near)
    if few and not found:
        found = _all_written(WAYS, texts, fitting, near)
    # Of few examples the ones left out say little.
    weight = 0.0 if few else HOLDS * min(1.0, len(different) / ENOUGH)
    return {
        level: min((each for own, each in found if own == level), key=lambda each: each.near - weight * each.holds)
        for level in dict.fromkeys(own for own, _ in found)
    }


def _all_written(
    ways: Sequence[Way], texts: Sequence[str], fitting: Sequence[str], near: Sequence[str]
) -> list[tuple[Level, Written]]:
    stride = max(1, len(texts) // MOST_LEFT_OUT)
    # What comes in turns, as gates in a log do, must not all be left out together.
    sample = random.Random(0).sample(texts[::stride], len(texts[::stride]))
    found = []
    for way in ways:
        forms = forms_by(way, texts, set(fitting))
        if not forms:
            continue
        folds = [
            (forms_by(way, [each for at, each in enumerate(sample) if at % FOLDS != fold], set()), sample[fold::FOLDS])
            for fold in range(min(FOLDS, len(sample)))
            if len(sample) > 1
        ]
        count, parts = complexity(forms)
        cost = (
            FORM * (count - 1)
            + PART * parts
            + UNLIKE * sum(unlike_in(form) for form in forms)
            + GLUED * sum(map(glued_in, forms))
            + SHAPELESS * (way == "whole" and sum(map(len, forms)) == 1)
            + PARTED * way.startswith("parted")
        )
        for level in LEVELS:
            writer = Writer(level)
            expression = writer.written(forms)
            if not all(takes(expression, each) for each in fitting):
                continue
            taken = sum(takes(expression, each) for each in near) / max(len(near), 1)
            weighed = taken + cost - TYPED * len(writer.fields)
            weighed += FITS_NOTHING * ("" not in texts and takes(expression, ""))
            found.append(
                (level, Written(expression, dict(writer.fields), _holds(folds, level, writer.opened), weighed))
            )
    return found


def _holds(folds: Sequence[tuple[list[Form] | None, Sequence[str]]], level: Level, opened: Sequence[bool]) -> float:
    """Tell what share of examples an expression takes that was made without them.

    What may be anything by all examples may be so by some of them: which marks those have does not matter to it.
    """
    taken = 0
    for forms, left_out in folds:
        if forms:
            expression = Writer(level, opened).written(forms)
            taken += sum(takes(expression, each) for each in left_out)
    asked = sum(len(left_out) for _, left_out in folds)
    return taken / asked if asked else 1.0


def takes(expression: str, text: str) -> bool:
    """Tell whether an expression fits a text as a whole."""
    return fits(expression, frozenset(), "whole", text)
