"""Weighs what forms of texts come to: what they are spelled by is asked about texts near to the examples, and what is
made without some of the examples, in turn, about those (cross-validation; Stone 1974).
"""

from __future__ import annotations

import math
import random
from typing import TYPE_CHECKING, Any

from msgspec import Struct
from msgspec.structs import replace

from fieldstick.drafting.proposals.costing import MOMENT, SPLIT, TYPED, cost_of, most_gained, split_in
from fieldstick.drafting.proposals.forms import forms_by
from fieldstick.drafting.proposals.spreading import Spreads
from fieldstick.drafting.proposals.taking_texts import taken_by, takes, told_by
from fieldstick.drafting.proposals.writing import Writer

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.drafting.proposals.forms import Way
    from fieldstick.drafting.proposals.pieces import Form
    from fieldstick.drafting.proposals.spelling import Level

FOLDS = 4
"""How often a part of the examples is left out."""

MOST_LEFT_OUT = 160
"""Examples that a way is tried with so."""

SPELLINGS: dict[Level, tuple[tuple[Level, Level], ...]] = {
    "tight": (("tight", "tight"), ("tight", "middle"), ("middle", "tight")),
    "middle": (("middle", "middle"),),
    "loose": (("loose", "loose"),),
}
"""By level, those that words and numbers are spelled by: the tightest has what holds best."""

FAR_BEHIND = 0.4
"""By how much worse one must be to count for nothing."""

FITS_NOTHING = 0.5
"""What it costs that the empty text fits, which is no example."""


class Written(Struct, frozen=True):
    """An expression, the tables of its fields, and how well it may be expected to hold.

    `holds` is the share of left out examples that it took, `cost` that of texts near to the examples, and what else
    speaks against it; `near` are those texts, each whether it takes it, and `is_slow` tells that one took it long.
    """

    expression: str
    fields: dict[str, dict[str, Any]]
    holds: float = 1.0
    cost: float = 0.0
    near: tuple[bool, ...] = ()
    is_slow: bool = False


class _Best:
    """What the best of all that was weighed so far comes to, and what is too far behind that to be right."""

    def __init__(self, weight: float) -> None:
        self.weight = weight
        self._found = math.inf

    def needed(self, cost: float) -> float:
        """Return what share of left out examples that which costs so much must hold at the least; more than 1 where
        even to hold of all would not do.
        """
        behind = cost - self._found - FAR_BEHIND
        return behind / self.weight if self.weight else math.inf if behind > 0 else -math.inf

    def note(self, written: Written) -> None:
        """Note what something comes to."""
        self._found = min(self._found, written.cost - self.weight * written.holds)

    def settled(self, written: Written) -> Written:
        """Return what was weighed, holding of nothing where it is too far behind to have a say."""
        is_behind = self.needed(written.cost) > written.holds
        return replace(written, holds=0.0) if is_behind or not self.weight else written


Folds = list[tuple["list[Form] | None", "Sequence[str]"]]
"""The forms of examples without some of them, and these, for each part that is left out in turn."""


class Examples:
    """Texts that proposals are made of, all of `fitting` being taken, and the forms that ways find of them."""

    def __init__(self, texts: Sequence[str], fitting: Sequence[str]) -> None:
        self.texts, self.fitting = texts, fitting
        # What comes in turns, as gates in a log do, must not all be left out together.
        self._sample = random.Random(0).sample(texts, min(len(texts), MOST_LEFT_OUT))
        self._forms: dict[Way, list[Form] | None] = {}
        self._costs: dict[Way, float] = {}
        self._folds: dict[Way, Folds] = {}

    def forms(self, way: Way) -> list[Form] | None:
        """Return the forms that a way finds."""
        if way not in self._forms:
            self._forms[way] = forms_by(way, self.texts, set(self.fitting))
        return self._forms[way]

    def cost(self, way: Way) -> float:
        """Return what speaks against the forms that a way finds."""
        if way not in self._costs:
            self._costs[way] = cost_of(way, self.forms(way) or [], self.texts)
        return self._costs[way]

    def folds(self, way: Way) -> Folds:
        """Return the forms that a way finds without some of the examples."""
        if way not in self._folds:
            sample = self._sample
            self._folds[way] = [
                (
                    forms_by(way, [each for at, each in enumerate(sample) if at % FOLDS != fold], set()),
                    sample[fold::FOLDS],
                )
                for fold in range(min(FOLDS, len(sample)))
                if len(sample) > 1
            ]
        return self._folds[way]


def weighed(
    ways: Sequence[Way], examples: Examples, near: Sequence[str], weight: float, level: Level
) -> list[tuple[Way, Written]]:
    """Return what ways come to at a level, each as often as there are ways and spellings that come to it.

    What cannot become likely right, whatever it holds of, is left out.
    """
    found = [way for way in ways if examples.forms(way)]
    least = {way: examples.cost(way) - most_gained(examples.forms(way) or []) for way in found}
    best = _Best(weight)
    by_way: dict[Way, list[Written]] = {}
    asked: list[tuple[tuple[Any, ...], list[Written]]] = []
    for way in sorted(found, key=least.__getitem__):
        if best.needed(least[way]) > 1:
            continue
        # Several ways often find the same.
        question = (examples.cost(way), examples.forms(way), examples.folds(way))
        spelled = next((answer for each, answer in asked if each == question), None)
        if spelled is None:
            spelled = [*_spelled(examples, way, near, level, best)]
            asked.append((question, spelled))
        by_way[way] = spelled
    return [(way, best.settled(each)) for way in ways for each in by_way.get(way, ())]


def _spelled(examples: Examples, way: Way, near: Sequence[str], level: Level, best: _Best) -> Iterator[Written]:
    """Yield the forms that a way finds as a level spells them that takes all that must fit, and how well that holds."""
    before: set[str] = set()
    forms, spreads = examples.forms(way) or [], Spreads()
    for words, numbers in SPELLINGS[level]:
        writer = Writer(words, numbers=numbers, spreads=spreads)
        expression = writer.written(forms)
        if expression in before or not all(taken_by(expression, examples.fitting)):
            continue
        before.add(expression)
        own = examples.cost(way) - TYPED * len(writer.fields) - MOMENT * writer.of_moments
        own += SPLIT * split_in(expression, writer.fields)
        if best.needed(own) > 1:
            continue
        told = told_by(expression, near)
        own += sum(map(bool, told)) / max(len(near), 1)
        own += FITS_NOTHING * ("" not in examples.texts and takes(expression, ""))
        made = Written(expression, dict(writer.fields), 0.0, own, tuple(map(bool, told)), None in told)
        needed = best.needed(own)
        if not made.is_slow and needed <= 1:
            holds = _holds(examples.folds(way), expression, words, numbers, writer, needed) if best.weight else 0.0
            made = replace(made, holds=holds)
            best.note(made)
        yield made


def _holds(folds: Folds, expression: str, words: Level, numbers: Level, like: Writer, needed: float) -> float:
    """Tell what share of examples an expression takes that was made without them, or with them, where that is less;
    0 where that is less than is `needed`.

    What may be anything by all examples may be so by some of them: which marks those have does not matter to it.
    """
    asked = [each for _, left_out in folds for each in left_out]
    if not asked:
        return 1.0
    taken = most = sum(taken_by(expression, asked))
    lost = 0
    for forms, left_out in folds:
        if most < needed * len(asked):
            return 0.0
        lost += len(left_out)
        if forms:
            without = Writer(words, like, numbers=numbers, spreads=like.spreads).written(forms)
            lost -= sum(taken_by(without, left_out))
        most = min(taken, len(asked) - lost)
    return most / len(asked)
