"""Chooses the way of finding forms that holds best of texts that were not seen, and takes the least beyond them.

Each way is tried without some of the examples, in turn, and asked about those (cross-validation; Stone 1974). What it
does not hold of them is weighed against the share of texts near to the examples that it takes. All ways together, each
with the weight that this gives it, then say of each of these texts how likely it is right (Bayesian model averaging;
Hoeting et al. 1999), and the way is chosen that agrees with them best (Barbieri and Berger 2004).
"""

from __future__ import annotations

import math
import random
import time
from typing import TYPE_CHECKING, Any, NamedTuple

from msgspec import Struct
from msgspec.structs import replace

from fieldstick.analysis.automaton.asked import Reading
from fieldstick.analysis.danger import is_doubling
from fieldstick.drafting.proposals.cutting import tokens_of
from fieldstick.drafting.proposals.forms import BESIDE, WAYS, Way, forms_by
from fieldstick.drafting.proposals.gutters import have_as_many_tabs
from fieldstick.drafting.proposals.labelled_lines import labelled_rows
from fieldstick.drafting.proposals.literal_numbers import are_literal
from fieldstick.drafting.proposals.odd_ones import odd_ones
from fieldstick.drafting.proposals.pieces import Piece, complexity, glued_in, is_of_one, pieces_in, unlike_in
from fieldstick.drafting.proposals.polishing import polished
from fieldstick.drafting.proposals.special_pieces import SPECIAL
from fieldstick.drafting.proposals.spelling import LEVELS
from fieldstick.drafting.proposals.spreading import Spreads
from fieldstick.drafting.proposals.writing import Writer
from fieldstick.drafting.ranking import neighbours
from fieldstick.engines.probing import batch_of, fits, tried
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Mapping, Sequence

    from fieldstick.drafting.proposals.pieces import Form
    from fieldstick.drafting.proposals.spelling import Level

FOLDS = 4
"""How often a part of the examples is left out."""

MOST_LEFT_OUT = 160
"""Examples that a way is tried with so."""

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

SPELLINGS: tuple[tuple[Level, Level, Level], ...] = (
    ("tight", "tight", "tight"),
    ("tight", "tight", "middle"),
    ("tight", "middle", "tight"),
    ("middle", "middle", "middle"),
    ("loose", "loose", "loose"),
)
"""The levels, and of each, those that words and numbers are spelled by: the tightest has what holds best."""

TYPED = 0.02
"""What a field of a type is worth, as a share of texts near by taken."""

MOMENT = 0.025
"""What each number is worth that is part of a date or time, more than as a field of its own."""

SPLIT = 0.08
"""What it costs that a number with a point is told as two, more than that both are typed."""

UNTOLD = 0.1
"""What it costs that the moments that lines begin with are no field, since the lines are told as several forms."""

MOST_LOOKED_AT = 20
"""Texts that tell whether all are lines of a log."""

HIDDEN = 0.4
"""What it costs that a moment or the like, that all texts have, is no field, since they are told as one piece."""

SHAPELESS = 0.1
"""What it costs that a way tells no pieces apart, as a share of texts near by taken."""

FITS_NOTHING = 0.5
"""What it costs that the empty text fits, which is no example."""

UNLIKE = 0.1
"""What it costs that a piece is letters in some texts and digits in others, as a share of texts near by taken."""

GLUED = 0.05
"""What it costs that letters or digits may be left out beside others, as a share of texts near by taken."""

FORM, PART = 0.05, 0.019
"""What each form beyond the first costs, and each part that may be left out, as a share of texts near by taken."""

ODD = 0.1
"""What it costs that texts which are made otherwise than all others are left out."""

NAMELESS, MANY_NAMED = 0.1, 40
"""What it costs that there are several forms, whose fields have no names, where texts are more than so many."""

TORN = 0.4
"""What it costs that rows of a table are told as several forms."""

ALONE = 0.1
"""What each of several forms costs that one text alone has: it tells nothing of others."""

LISTED = 0.06
"""What it is worth that a list goes on as long as it may, as a share of texts near by taken."""

KEYED = 0.05
"""What it is worth that each value is that of its key, as a share of texts near by taken."""

COLLOCATED = 0.05
"""What it is worth that words which come with one another are one value, as a share of texts near by taken."""

TABLE = 0.15
"""What it is worth that what stands below one another is one column, as a share of texts near by taken."""

ASIDE = 0.08
"""What it is worth that what stands in brackets in some texts is told from what all of them have."""

REQUESTED = 0.08
"""What it is worth that a request is told by its parts, of which one may be anything, as a share of texts near by."""

FEW_PARTS, MANY_PARTS = 2, 0.08
"""Parts that may be left out from which on nobody tells what is there together, and what each more of them costs."""

MOST_NEAR = 200
"""Texts near to the examples that each way is asked about."""

MOST_IN_DISORDER = 40
"""And of these such as have two words in each other's place."""

MOST_TOGETHER = 200
"""Milliseconds of processor time that all texts may take an expression, which most often takes one or two."""

MOST_SLOW = 3
"""Texts that take an expression long, after which no more are tried."""

SPREAD = 0.1
"""By how much worse a way must be to count 1/e as much when all are asked together."""

FAR_BEHIND = 0.4
"""By how much worse one must be to count for nothing."""

OWN = 0.2
"""What it counts how good a way is itself, beside that it agrees with the others."""


class Written(Struct, frozen=True):
    """An expression, the tables of its fields, and how well it may be expected to hold.

    `holds` is the share of left out examples that it took, `cost` that of texts near to the examples, and what else
    speaks against it; `near` are those texts, each whether it takes it.
    """

    expression: str
    fields: dict[str, dict[str, Any]]
    holds: float = 1.0
    cost: float = 0.0
    near: tuple[bool, ...] = ()


class _Spelled(NamedTuple):
    """Forms as a level spells them, and whether some text took that long."""

    level: Level
    written: Written
    is_slow: bool


class _Best:
    """What the best of all that was weighed so far comes to, by level, and what is too far behind that to be right."""

    def __init__(self, weight: float) -> None:
        self.weight = weight
        self._found: dict[Level, float] = {}

    def needed(self, level: Level, cost: float) -> float:
        """Return what share of left out examples that which costs so much must hold at the least; more than 1 where
        even to hold of all would not do.
        """
        behind = cost - self._found.get(level, math.inf) - FAR_BEHIND
        return behind / self.weight if self.weight else math.inf if behind > 0 else -math.inf

    def note(self, level: Level, written: Written) -> None:
        """Note what something comes to."""
        comes_to = written.cost - self.weight * written.holds
        self._found[level] = min(comes_to, self._found.get(level, math.inf))

    def settled(self, level: Level, written: Written) -> Written:
        """Return what was weighed, holding of nothing where it is too far behind to have a say."""
        is_behind = self.needed(level, written.cost) > written.holds
        return replace(written, holds=0.0) if is_behind or not self.weight else written


Folds = list[tuple["list[Form] | None", "Sequence[str]"]]
"""The forms of examples without some of them, and these, for each part that is left out in turn."""


def best_written(texts: Sequence[str], fitting: Sequence[str]) -> dict[Level, Written]:
    """Return the expression that is likeliest right by level; a level has none where none takes all of `fitting`."""
    different = list(dict.fromkeys(texts))
    near = _near(different[:MOST_LEFT_OUT])
    few = len(different) < FEWEST
    # Of few examples the ones left out say little.
    weight = 0.0 if few else HOLDS * min(1.0, len(different) / ENOUGH)
    # A number that is one piece is told more of by what cuts texts into these.
    literal = are_literal(different) and any(len(tokens_of(each, "runs")) > 1 for each in different)
    ways = WAYS
    if few:
        ways = LITERAL if literal else PLAIN
    # What labels say needs no weighing.
    found = _all_written(LABELLED, texts, fitting, near, weight) if labelled_rows(different) is not None else {}
    found = found or _of_ways(ways, texts, fitting, near, weight)
    if odd := odd_ones(different) - {*fitting}:
        found = _with_odd_ones_left_out(found, texts, odd, lambda kept: _of_ways(ways, kept, fitting, near, weight))
    made: dict[Level, Written] = {}
    like: set[Way] = set()
    for level, some in found.items():
        every = [written for _, written in some]
        # What is told apart at one level is so at the others.
        alike = [written for way, written in some if way in like]
        made[level] = _calm(alike, weight) or _calm(every, weight) or likeliest(every, weight)
        like = like or {way for way, written in some if written.expression == made[level].expression}
    return made


Found = dict["Level", list[tuple[Way, "Written"]]]
"""What ways come to, by level."""


def _of_ways(
    ways: Sequence[Way], texts: Sequence[str], fitting: Sequence[str], near: Sequence[str], weight: float
) -> Found:
    """Return what ways come to; of very many texts those that are likeliest right by some of them, of others all."""
    chosen = ways
    if ways is WAYS and len(texts) > MANY:
        chosen = _promising([*random.Random(2).sample(texts, MOST_LEFT_OUT), *fitting], fitting, near, weight)
    found = _all_written(chosen, texts, fitting, near, weight)
    return found if found or chosen is WAYS else _all_written(WAYS, texts, fitting, near, weight)


def _with_odd_ones_left_out(
    found: Found, texts: Sequence[str], odd: frozenset[str], written: Callable[[Sequence[str]], Found]
) -> Found:
    """Return what was found, and what is `written` of texts without those that are made otherwise than all others."""
    kept = [each for each in texts if each not in odd]
    share = len(kept) / len(texts)
    made = {level: [*some] for level, some in found.items()}
    for level, some in written(kept).items():
        made.setdefault(level, []).extend(
            (way, replace(each, holds=each.holds * share, cost=each.cost + ODD)) for way, each in some
        )
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


def _promising(texts: Sequence[str], fitting: Sequence[str], near: Sequence[str], weight: float) -> tuple[Way, ...]:
    """Return the ways that are likeliest right by some of very many texts: for each level those of two expressions."""
    kept: set[Way] = set()
    for some in _all_written(WAYS, texts, fitting, near, weight).values():
        left = some
        for _ in range(PROMISING):
            if left:
                best = likeliest([written for _, written in left], weight).expression
                kept |= {way for way, written in left if written.expression == best}
                left = [each for each in left if each[0] not in kept]
    return tuple(way for way in WAYS if way in kept)


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


def _all_written(
    ways: Sequence[Way], texts: Sequence[str], fitting: Sequence[str], near: Sequence[str], weight: float
) -> Found:
    """Return by level what ways come to, each as often as there are ways and spellings that come to it.

    What cannot become likely right, whatever it holds of, is left out.
    """
    # What comes in turns, as gates in a log do, must not all be left out together.
    sample = random.Random(0).sample(texts, min(len(texts), MOST_LEFT_OUT))
    forms_of = {way: forms for way in ways if (forms := forms_by(way, texts, set(fitting)))}
    costs = {way: _cost_of(way, forms, texts) for way, forms in forms_of.items()}
    best = _Best(weight)
    by_way: dict[Way, list[_Spelled]] = {}
    asked: list[tuple[tuple[Any, ...], list[_Spelled]]] = []
    for way in sorted(forms_of, key=lambda way: costs[way] - _most_gained(forms_of[way])):
        forms, cost = forms_of[way], costs[way]
        least = cost - _most_gained(forms)
        levels = tuple(level for level in LEVELS if best.needed(level, least) <= 1)
        if not levels:
            continue
        folds: Folds = [
            (forms_by(way, [each for at, each in enumerate(sample) if at % FOLDS != fold], set()), sample[fold::FOLDS])
            for fold in range(min(FOLDS, len(sample)))
            if len(sample) > 1
        ]
        # Several ways often find the same.
        question = (cost, forms, folds, levels)
        spelled = next((answer for each, answer in asked if each == question), None)
        if spelled is None:
            spelled = [*_spelled(forms, folds, cost, levels, best, texts, fitting, near)]
            asked.append((question, spelled))
        by_way[way] = spelled
    found = [(way, each) for way in ways for each in by_way.get(way, ())]
    kept = [(way, each) for way, each in found if not each.is_slow] or found
    made: Found = {}
    for level in LEVELS:
        some = [(way, best.settled(level, each.written)) for way, each in kept if each.level == level]
        if some:
            made[level] = some
    return made


_MAY_BE_MOMENT, MOST_NUMBERS = ("gap", "quoted", "value", "chunk", "word"), 7
"""Pieces that may turn out to be dates and times, and the most numbers that these are made of."""


def _most_gained(forms: Sequence[Form]) -> float:
    """Return the most that fields of types can be worth, whatever forms are spelled by."""
    gained = 0.0
    for each in pieces_in(forms):
        numbers = SPECIAL[each.kind].numbers if each.kind in SPECIAL else MOST_NUMBERS * (each.kind in _MAY_BE_MOMENT)
        gained += TYPED + MOMENT * numbers * (len(forms) == 1)
    return gained


def _cost_of_several(texts: Sequence[str]) -> float:
    """Return what it costs that texts are told as several forms, beside what each form does."""
    return NAMELESS * (len(texts) > MANY_NAMED) + TORN * have_as_many_tabs(texts)


def _cost_of(way: Way, forms: list[Form], texts: Sequence[str]) -> float:
    """Return what speaks against forms of texts, whatever they are spelled by."""
    count, parts = complexity(forms)
    return (
        FORM * (count - 1)
        + (_cost_of_several(texts) if len(forms) > 1 else 0.0)
        + ALONE * (sum(map(is_of_one, forms)) if len(forms) > 1 else 0)
        + PART * parts
        - LISTED * (way in ("items", "lists"))
        - KEYED * (way == "pairs")
        - COLLOCATED * (way in ("values", "chosen values"))
        - TABLE * (way == "gutters")
        - ASIDE * (way in BESIDE)
        - REQUESTED * any(isinstance(each, Piece) and each.kind == "method" for form in forms for each in form)
        + MANY_PARTS * max(0, parts - FEW_PARTS)
        + UNLIKE * sum(unlike_in(form) for form in forms)
        + GLUED * sum(map(glued_in, forms))
        + UNTOLD * (len(forms) > 1 and all(map(_begins_with_moment, forms)))
        + (_shapelessness(forms) if way == "whole" and sum(map(len, forms)) == 1 else 0.0)
        + HIDDEN * (way == "whole" and any(map(_hides_special, forms)))
    )


def _shapelessness(forms: list[Form]) -> float:
    """Return what it costs that a way tells no pieces apart: more of what has words or numbers that blanks part."""
    values = forms[0][0].values if forms[0] and isinstance(forms[0][0], Piece) else []
    parted = bool(values) and all(" " in each.strip() for each in values)
    return SHAPELESS * (1 + parted) + UNTOLD * all(map(_are_lines_of_log, forms))


def _hides_special(form: Form) -> bool:
    """Tell whether some piece of a form has a moment or the like among other things, in all texts."""
    for piece in form:
        if isinstance(piece, Piece) and piece.kind == "chunk":
            rows = [tokens_of(each, "runs") for each in piece.values[:MOST_LOOKED_AT]]
            if all(len(row) > 1 and any(each.kind in SPECIAL for each in row) for row in rows):
                return True
    return False


def _begins_with_moment(form: Form) -> bool:
    """Tell whether a form is that of lines of a log: it begins with a date or time, and goes on."""
    return len(form) > 2 and isinstance(form[0], Piece) and form[0].kind in SPECIAL


def _are_lines_of_log(form: Form) -> bool:
    """Tell whether what is one piece are lines that begin with a date or time, and go on."""
    values = form[0].values[:MOST_LOOKED_AT] if form and isinstance(form[0], Piece) else []
    rows = [tokens_of(each, "runs") for each in values]
    return bool(rows) and all(len(row) > 2 and row[0].kind in SPECIAL for row in rows)


def _spelled(
    forms: list[Form],
    folds: Folds,
    cost: float,
    levels: Sequence[Level],
    best: _Best,
    texts: Sequence[str],
    fitting: Sequence[str],
    near: Sequence[str],
) -> Iterator[_Spelled]:
    """Yield forms as each of some levels spells them that takes all of `fitting`, and how well that holds."""
    before: set[str] = set()
    spreads = Spreads()
    for level, words, numbers in SPELLINGS:
        if level not in levels:
            continue
        writer = Writer(words, numbers=numbers, spreads=spreads)
        expression = writer.written(forms)
        if (level == "tight" and expression in before) or not all(taken_by(expression, fitting)):
            continue
        before.add(expression)
        own = cost - TYPED * len(writer.fields) - MOMENT * writer.of_moments
        own += SPLIT * _split_in(expression, writer.fields)
        if best.needed(level, own) > 1:
            continue
        told = _told_by(expression, near)
        own += sum(map(bool, told)) / max(len(near), 1)
        own += FITS_NOTHING * ("" not in texts and takes(expression, ""))
        made = Written(expression, dict(writer.fields), 0.0, own, tuple(map(bool, told)))
        is_slow = None in told
        needed = best.needed(level, own)
        if not is_slow and needed <= 1:
            made = replace(
                made, holds=_holds(folds, expression, words, numbers, writer, needed) if best.weight else 0.0
            )
            best.note(level, made)
        yield _Spelled(level, made, is_slow)


_PARTED_BY_POINTS = compiled_later(r"\(\?P<(\w+)>[^()]*\)((?:\\\.\(\?P<\w+>[^()]*\))+)")
_NAMED = compiled_later(r"\?P<(\w+)>")


def _split_in(expression: str, fields: Mapping[str, Mapping[str, Any]]) -> int:
    """Return how many pairs of integers there are with nothing but a point between, and no third one."""
    found = 0
    for first, others in _PARTED_BY_POINTS.findall(expression):
        names = [first, *_NAMED.findall(others)]
        found += len(names) == 2 and all(fields.get(each, {}).get("type") == "integer" for each in names)
    return found


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


def taken_by(expression: str, texts: Sequence[str]) -> list[bool]:
    """Tell of each text whether an expression fits it as a whole: all at once, as long as none takes long."""
    return list(map(bool, _told_by(expression, texts)))


def _told_by(expression: str, texts: Sequence[str]) -> list[bool | None]:
    """Tell of each text whether an expression fits it; None where that takes long, and for all after a few such, or
    when all together have taken long.
    """
    found = batch_of(expression, frozenset(), "whole", texts, MOST_TOGETHER)
    if found is not None:
        return [each is not None for each in found]
    told: list[bool | None] = []
    slow, until = 0, time.process_time() + MOST_TOGETHER / 1000
    for text in texts:
        goes_on = slow < MOST_SLOW and time.process_time() < until
        told.append(tried(expression, frozenset(), "whole", text) if goes_on else None)
        slow += told[-1] is None
    return told


def takes(expression: str, text: str) -> bool:
    """Tell whether an expression fits a text as a whole."""
    return fits(expression, frozenset(), "whole", text)
