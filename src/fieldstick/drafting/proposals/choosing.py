"""Chooses the way of finding forms that holds best of texts that were not seen, and takes the least beyond them.

What each way does not hold of examples that it was not shown is weighed against the share of texts near to the examples
that it takes. All ways together, each with the weight that this gives it, then say of each of these texts how likely it
is right (Bayesian model averaging; Hoeting et al. 1999), and the way is chosen that agrees with them best (Barbieri and
Berger 2004).
"""

from __future__ import annotations

import math
import random
from typing import TYPE_CHECKING

from msgspec.structs import replace

from fieldstick.analysis.automaton.asked import Reading
from fieldstick.analysis.danger import is_doubling
from fieldstick.drafting.proposals.cutting import tokens_of
from fieldstick.drafting.proposals.forms import WAYS, Way
from fieldstick.drafting.proposals.labelled_lines import labelled_rows
from fieldstick.drafting.proposals.literal_numbers import are_literal
from fieldstick.drafting.proposals.odd_ones import odd_ones
from fieldstick.drafting.proposals.polishing import polished
from fieldstick.drafting.proposals.spelling import LEVELS
from fieldstick.drafting.proposals.weighing import MOST_LEFT_OUT, Examples, Written, weighed
from fieldstick.drafting.ranking import neighbours

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.drafting.proposals.spelling import Level

MANY, PROMISING = 320, 2
"""Examples from which on ways are tried with some of them first, and how many that differ are tried with all then."""

HOLDS = 1.5
"""What it counts that a way does not hold of a left out example, against one more text near by that it takes."""

ENOUGH = 20
"""Different examples from which on it counts in full."""

FEWEST = 8
"""Different examples below which it does not count, and only ways that tell most pieces apart, or none, are tried."""

PLAIN: tuple[Way, ...] = ("runs", "words", "shared", "items", "chosen runs", "pairs", "gutters", "whole")
LITERAL: tuple[Way, ...] = ("chunks",)
LABELLED: tuple[Way, ...] = ("pairs",)
SAID: tuple[Way, ...] = ("said",)

ODD = 0.1
"""What it costs that texts which are made otherwise than all others are left out."""

MOST_NEAR = 200
"""Texts near to the examples that each way is asked about."""

MOST_IN_DISORDER = 40
"""And of these such as have two words in each other's place."""

SPREAD = 0.1
"""By how much worse a way must be to count 1/e as much when all are asked together."""

OWN = 0.2
"""What it counts how good a way is itself, beside that it agrees with the others."""


def best_written(texts: Sequence[str], fitting: Sequence[str]) -> dict[Level, Written]:
    """Return the expression that is likeliest right by level; a level has none where none takes all of `fitting`."""
    different = list(dict.fromkeys(texts))
    few = len(different) < FEWEST
    # Of few examples the ones left out say little.
    weight = 0.0 if few else HOLDS * min(1.0, len(different) / ENOUGH)
    # A number that is one piece is told more of by what cuts texts into these.
    literal = are_literal(different) and any(len(tokens_of(each, "runs")) > 1 for each in different)
    ways = (LITERAL if literal else PLAIN) if few else WAYS
    field = _Field(texts, fitting, _near(different[:MOST_LEFT_OUT]), weight, odd_ones(different) - {*fitting})
    # What labels say needs no weighing, nor what a few lines of a log say each in its own way.
    sure = LABELLED if labelled_rows(different) is not None else SAID if few else ()
    found = _chosen(field, sure)
    return found or _chosen(field, ways)


class _Field:
    """Ways held against one another: by all texts and, where some are made otherwise than all others, without these."""

    def __init__(
        self, texts: Sequence[str], fitting: Sequence[str], near: Sequence[str], weight: float, odd: frozenset[str]
    ) -> None:
        self.weight, self._near = weight, near
        self._every = Examples(texts, fitting)
        kept = [each for each in texts if each not in odd]
        self._even = Examples(kept, fitting) if odd else None
        self._share = len(kept) / len(texts)
        self.has_slow = False
        """Whether something was left out that takes some text long."""

    def weighed(self, ways: Sequence[Way], level: Level, *, slow: bool) -> list[tuple[Way, Written]]:
        """Return what ways come to at a level."""
        found = self._of(self._every, ways, level, slow=slow)
        if self._even is not None:
            found += [
                (way, replace(each, holds=each.holds * self._share, cost=each.cost + ODD))
                for way, each in self._of(self._even, ways, level, slow=slow)
            ]
        return found

    def _of(self, examples: Examples, ways: Sequence[Way], level: Level, *, slow: bool) -> list[tuple[Way, Written]]:
        """Return what ways come to; of very many texts those that are likeliest right by some of them."""
        chosen = ways
        if ways is WAYS and len(examples.texts) > MANY:
            chosen = self._promising(examples, level)
        found = self._quick(weighed(chosen, examples, self._near, self.weight, level), slow=slow)
        if not found and chosen is not ways:
            found = self._quick(weighed(ways, examples, self._near, self.weight, level), slow=slow)
        return found

    def _quick(self, found: list[tuple[Way, Written]], *, slow: bool) -> list[tuple[Way, Written]]:
        """Return what was found, without what takes some text long unless that is wanted, too."""
        quick = found if slow else [each for each in found if not each[1].is_slow]
        self.has_slow |= len(quick) < len(found)
        return quick

    def _promising(self, examples: Examples, level: Level) -> tuple[Way, ...]:
        """Return the ways that are likeliest right by some of very many texts: those of a few expressions."""
        some = [*random.Random(2).sample(examples.texts, MOST_LEFT_OUT), *examples.fitting]
        left = weighed(WAYS, Examples(some, examples.fitting), self._near, self.weight, level)
        kept: set[Way] = set()
        for _ in range(PROMISING):
            if left:
                best = likeliest([written for _, written in left], self.weight).expression
                kept |= {way for way, written in left if written.expression == best}
                left = [each for each in left if each[0] not in kept]
        return tuple(way for way in WAYS if way in kept)


def _chosen(field: _Field, ways: Sequence[Way]) -> dict[Level, Written]:
    """Return the likeliest right by level; what takes some text long only where all does."""
    for slow in (False, True):
        made: dict[Level, Written] = {}
        like: tuple[Way, ...] = ()
        for level in LEVELS:
            # What is told apart at one level is so at the others.
            found = field.weighed(like, level, slow=slow) if like else []
            best = _calm([written for _, written in found], field.weight)
            if best is None:
                found = field.weighed(ways, level, slow=slow)
                every = [written for _, written in found]
                best = _calm(every, field.weight) or (likeliest(every, field.weight) if every else None)
            if best is None:
                continue
            made[level] = best
            same = {way for way, written in found if written.expression == best.expression}
            like = like or tuple(way for way in ways if way in same)
        if made or not field.has_slow:
            break
    return made


def _calm(found: Sequence[Written], weight: float) -> Written | None:
    """Return the one that is likeliest right of those by which no text takes forever; None where none is such."""
    left = found
    while left:
        best = likeliest(left, weight)
        if not is_doubling(Reading(polished(best.expression))):
            return best
        left = [each for each in left if each.expression != best.expression]
    return None


def _near(texts: Sequence[str]) -> list[str]:
    """Return texts near to examples, with a change in any place, or in any piece, short or long; some in disorder."""
    by_place = neighbours(texts, MOST_NEAR // 2)
    chance = random.Random(1)
    by_piece: dict[str, None] = {}
    for _ in range(MOST_NEAR):
        row = [each.text for each in tokens_of(chance.choice(texts))]
        at = chance.randrange(len(row)) if row else 0
        changed = neighbours([row[at] if row else ""], 1, chance)
        made = "".join([*row[:at], *changed[:1], *row[at + 1 :]])
        if changed and made not in texts:
            by_piece[made] = None
        if len(by_piece) >= MOST_NEAR // 2:
            break
    return list(dict.fromkeys([*by_place, *by_piece, *_in_disorder(texts, chance)]))


def _in_disorder(texts: Sequence[str], chance: random.Random) -> Iterator[str]:
    """Yield texts of which two words, that are not the same, stand in each other's place."""
    known = set(texts)
    for text in chance.choices(texts, k=MOST_IN_DISORDER):
        pieces = tokens_of(text)
        row = [each.text for each in pieces]
        words = [at for at, each in enumerate(pieces) if each.kind == "word"]
        if len(words) > 1:
            one, other = chance.sample(words, 2)
            row[one], row[other] = row[other], row[one]
            made = "".join(row)
            if made not in known:
                yield made


def likeliest(found: Sequence[Written], weight: float) -> Written:
    """Return the one that is likeliest right; `weight` is what it counts that it holds of examples left out."""
    costs = [each.cost - weight * each.holds for each in found]
    best = min(costs)
    if not weight:
        return found[costs.index(best)]
    votes = [math.exp((best - cost) / SPREAD) for cost in costs]
    # How likely each text near by is right: by all that take it.
    columns = zip(*(each.near for each in found), strict=True)
    likely = [sum(vote for vote, takes in zip(votes, column, strict=True) if takes) / sum(votes) for column in columns]

    def wrong(number: int) -> float:
        """Return the share of texts near by that one is likely wrong about."""
        near = found[number].near
        return sum(1 - share if takes else share for takes, share in zip(near, likely, strict=True)) / max(len(near), 1)

    return found[min(range(len(found)), key=lambda number: wrong(number) + OWN * costs[number])]
