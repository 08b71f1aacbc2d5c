"""Ranks the changes that work.

The order: what breaks nothing that is known comes first, and of that what leaves nothing wrong; then what does not make
the empty text fit, or all of it optional; then what is likeliest to be the slip that was made and moves the fewest of
the texts near to those that are known. Of changes to the text one is shown at the most.
"""

from __future__ import annotations

import random
import re
from typing import TYPE_CHECKING, NamedTuple

from msgspec import Struct
from msgspec.structs import replace

from fieldstick.analysis.effort import Effort
from fieldstick.drafting.explained import explained
from fieldstick.drafting.readable import is_readable
from fieldstick.drafting.slips.texts import ascii_double
from fieldstick.engines.probing import batch_of, compiled_by_engine, fits
from fieldstick.errors import FieldstickError, SyntaxFault
from fieldstick.lean import compiled_later
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import Alternation, Group, Repeat, walk
from fieldstick.syntax.widths import width

if TYPE_CHECKING:
    from collections.abc import Sequence as Several

    from fieldstick.drafting.context import Beside, Harm, MatchCase, Proposal
    from fieldstick.drafting.explained import Explained
    from fieldstick.syntax.tree import Span

TOO_FAR = 0.55
"""Costs beyond the likeliest repair's from which on a repair is not worth reading."""

MOST_WEIGHED = 16
"""Repairs of which the texts near by are looked at."""

NEAR_MILLISECONDS = 20
"""How long the texts near by may take together: a thousandth of it is usual."""

NEIGHBOURS = 60
"""Texts near to those that are known by which a change is weighed."""

WEIGHT = 0.3
"""What a change costs more that moves all of them."""

FITS_NOTHING = 1.5
"""What a change costs more after which the empty text fits, which did not."""

LOST_FIELD = 0.4
"""What a change costs more after which a named group that had to take something takes nothing of the text."""

UNLIKE = 0.3
"""What a change costs more after which a field takes a word, for each that takes numbers of all other texts."""

CUT_NUMBER = 0.2
"""What a change costs more after which a search begins or ends within a number, at each end."""

GIVEN_UP, MOST_GIVEN_UP = 0.15, 2
"""What a change costs more after which a search does not match what the attempt that came furthest took, for each
character of that, two at the most."""

SEAM, MOST_SEAMS = 0.25, 2
"""What a change costs more after which a run of digits or letters is shared out between two pieces, up to two times."""

LOST = 0.5
"""What a text counts that fitted before a change and does not after it, where none is known to fit rightly."""

RAGGED = 0.2
"""What a change costs more after which a piece takes a blank or a mark beside the word it is for, up to two times."""

ODD = 0.3
"""What a change costs more that puts a look-alike of an ASCII character into an expression that has none."""

BIT, MOST_BITS = 0.006, 0.25
"""What a change costs more for each bit that it leaves more open than another does, and for all of them at the most."""

MOST_ALIKE = 2
"""Changes that say the same is amiss and put something else there."""

RUNAWAY = 0.4
"""What a change costs more after which the time of a text may double with each of its characters."""

UNEVEN = 0.12
"""What a change costs more after which groups differ that were spelled alike."""

HALF_A_PAIR = 0.3
"""What a change costs more that lets one of two brackets be lacking with what stands beside it."""

SEVERAL_MISSED = 0.6
"""What a change to the text costs more where other texts that should fit do not either."""

COMPARING = 100_000
"""States of automata that are gone through in all to tell whether repairs take the same texts."""

MOST_COMPARED = 10
"""Repairs of which none is shown that takes the same texts as one before it."""


class Working(Struct, frozen=True):
    """A change that works, and what comes of the known texts."""

    proposal: Proposal
    harm: Harm
    cost: float

    @property
    def order(self) -> tuple[bool, bool, float]:
        """What breaks nothing comes first, and of that what leaves nothing wrong."""
        return self.harm.breaks > 0, self.harm.leaves > 0, self.cost


def ranked(case: MatchCase, beside: Beside, found: list[Working], most: int, attempt: Span = (0, 0)) -> list[Working]:
    """Return the changes to show, likeliest first.

    `attempt` says between which places of the text the longest attempt at a match held.
    """
    if not found:
        return []
    likely = sorted(found, key=lambda each: each.order)[: 2 * MOST_WEIGHED]
    near = neighbours((case.text, *beside.fitting))
    before = _outcomes(case, near)
    if before is None:
        # An expression that takes long on texts near by would take long again and again.
        near, before = [], []
    empty = "" in (case.text, *beside.fitting) or fits(case.expression, case.flags, case.reach, "")
    now = [fits(case.expression, case.flags, case.reach, each) for each in beside.fitting]
    several, known = not all(now), any(now)
    weighed = [_weighed(each, case, near, before, may_be_empty=empty, several=several, known=known) for each in likely]
    weighed = _as_found(case, beside, weighed, attempt, may_be_empty=empty)
    weighed = _as_explained(case, weighed)
    weighed.sort(key=_final_order)
    return _worth_reading(case, _without_runaways(case, weighed), most)


def _final_order(each: Working) -> tuple[bool, bool, float]:
    return (*each.order[:2], each.cost + 0.3 * min(sum(each.harm), 5))


def _without_runaways(case: MatchCase, weighed: list[Working]) -> list[Working]:
    """Weigh the likeliest changes by whether a quantifier that they add lets a text take forever."""
    before = _quantifiers(case)
    if before is None or _is_runaway(case):
        return weighed
    likeliest = [
        replace(each, cost=each.cost + RUNAWAY)
        if (_quantifiers(each.proposal.case) or 0) > before and _is_runaway(each.proposal.case)
        else each
        for each in weighed[:MOST_COMPARED]
    ]
    return sorted([*likeliest, *weighed[MOST_COMPARED:]], key=_final_order)


def _quantifiers(case: MatchCase) -> int | None:
    """Return how many quantifiers an expression has; None for what is no expression."""
    try:
        return sum(isinstance(node, Repeat) for node in walk(parse(case.expression, case.flags).tree))
    except SyntaxFault:
        return None


def _is_runaway(case: MatchCase) -> bool:
    from fieldstick.analysis.automaton.asked import Reading
    from fieldstick.analysis.danger import is_doubling

    try:
        return is_doubling(Reading(case.expression, case.reach, case.flags))
    except FieldstickError:
        return False


def _weighed(
    each: Working,
    case: MatchCase,
    near: Several[str],
    before: Several[bool],
    *,
    may_be_empty: bool,
    several: bool,
    known: bool,
) -> Working:
    made = each.proposal.case
    if made.text != case.text:
        # Where several texts do not fit, it is not the text that is the odd one out.
        return replace(each, cost=each.cost + SEVERAL_MISSED) if several else each
    after = _outcomes(made, near) or before
    # What fits now need not go on fitting as long as nothing is known to fit rightly.
    lost = 1.0 if known else LOST
    both = list(zip(before, after, strict=True))
    moved = sum((not one and other) + lost * (one and not other) for one, other in both) / max(len(near), 1)
    odd = case.expression.isascii() and any(map(ascii_double, made.expression))
    uneven = UNEVEN * (_alike(made.expression) < _alike(case.expression))
    cost = each.cost + uneven + ODD * odd + HALF_A_PAIR * (_halves(made.expression) > _halves(case.expression))
    cost += (WEIGHT if made.reach == case.reach else WEIGHT / 4) * moved
    if not may_be_empty and fits(made.expression, made.flags, made.reach, ""):
        cost += FITS_NOTHING
    return replace(each, cost=cost)


_GROUP = compiled_later(r"\(\?P<\w+>((?:[^()\\]|\\.)+)\)")
_LONG = 8
"""Code points of a group from which on it is no chance that another is spelled alike."""


def _alike(expression: str) -> int:
    """Return how many groups with a name are spelled as one before them is."""
    found = [each for each in _GROUP.findall(expression) if len(each) >= _LONG]
    return len(found) - len({*found})


_MAY_LACK = compiled_later(r"\(\?:((?:[^()\\]|\\.)+)\)[?*]")
_TOKEN = compiled_later(r"\\.|\[\^?\]?(?:[^\]\\]|\\.)*\]|.", re.DOTALL)
_BRACKETS = ((r"\[", r"\]"), (r"\(", r"\)"))


def _halves(expression: str) -> int:
    """Return how many groups that may be lacking hold one bracket of two, and how often each of two may be alone."""
    inners = [_TOKEN.findall(each) for each in _MAY_LACK.findall(expression)]
    halves = sum(
        len(inner) > 1 and any(inner.count(one) != inner.count(other) for one, other in _BRACKETS) for inner in inners
    )
    return halves + sum(f"{one}?" in expression and f"{other}?" in expression for one, other in _BRACKETS)


def _as_found(
    case: MatchCase, beside: Beside, weighed: list[Working], attempt: Span, *, may_be_empty: bool
) -> list[Working]:
    """Weigh changes of the expression by what of the text they match: nothing, less than before, a number's end."""
    names = _needed_fields(case)
    if case.reach == "whole" and not names:
        return weighed
    known = [_captured(replace(case, text=text)) for text in beside.fitting] if names else []
    # What takes the blanks beside a word now may go on doing so.
    ragged = {name for taken in known for name, value in taken if _is_ragged(value)}
    words = {name for taken in known for name, value in taken if not _is_number(value)}
    fields = {name: _Field(name not in ragged, bool(known) and name not in words) for name in names}
    return [
        replace(each, cost=each.cost + _poverty(each.proposal.case, fields, attempt, may_be_empty=may_be_empty))
        if each.proposal.case.text == case.text
        else each
        for each in weighed
    ]


class _Field(NamedTuple):
    """A field that takes something of each text: whether it is one word each time, and a number."""

    is_word: bool
    is_number: bool


def _is_number(text: str) -> bool:
    """Tell whether a text has digits and marks alone, as numbers, dates and times do."""
    return any(map(str.isdigit, text)) and not any(map(str.isalpha, text))


def _poverty(made: MatchCase, fields: dict[str, _Field], attempt: Span, *, may_be_empty: bool) -> float:
    compiled = compiled_by_engine(made.expression, made.flags)
    places = (batch_of(made.expression, made.flags, made.reach, (made.text,), NEAR_MILLISECONDS) or [None])[0]
    if compiled is None or places is None:
        return 0.0
    text, (start, end) = made.text, places[0]
    # What takes nothing of a text may stand in any.
    cost = FITS_NOTHING if not text[start:end].strip() and text.strip() and not may_be_empty else 0.0
    cuts = [made.reach == "anywhere" and start < end and start, made.reach != "whole" and start < end and end]
    cost += CUT_NUMBER * sum(text[at - 1 : at].isdigit() and text[at : at + 1].isdigit() for at in cuts if at)
    begun = attempt[0] + len(text[slice(*attempt)]) - len(text[slice(*attempt)].lstrip())
    if made.reach != "whole" and not start <= begun <= attempt[1] <= end:
        cost += GIVEN_UP * min(attempt[1] - begun, MOST_GIVEN_UP)
    taken = {name: places[compiled.groupindex[name]] for name in fields if name in compiled.groupindex}
    values = [(fields[name], text[slice(*place)]) for name, place in taken.items() if place[0] >= 0]
    cost += UNLIKE * sum(field.is_number and value.isalpha() for field, value in values)
    ragged = sum(field.is_word and _is_ragged(value) for field, value in values)
    return cost + RAGGED * ragged + LOST_FIELD * sum(0 <= start == end for start, end in taken.values())


def _captured(case: MatchCase) -> list[tuple[str, str]]:
    """Return the names of the groups that took part in a match, and what each took."""
    compiled = compiled_by_engine(case.expression, case.flags)
    places = (batch_of(case.expression, case.flags, case.reach, (case.text,), NEAR_MILLISECONDS) or [None])[0]
    if compiled is None or places is None:
        return []
    return [(name, case.text[slice(*places[at])]) for name, at in compiled.groupindex.items() if places[at][0] >= 0]


def _is_ragged(taken: str) -> bool:
    """Tell whether white space stands beside what was taken, in it."""
    return taken.strip() not in ("", taken)


def _needed_fields(case: MatchCase) -> list[str]:
    """Return the names of the groups that take something whenever the expression matches."""
    if "(?P<" not in case.expression:
        return []
    try:
        parsed = parse(case.expression, case.flags)
    except SyntaxFault:
        return []
    idle = {
        inner
        for node in walk(parsed.tree)
        if isinstance(node, Alternation) or (isinstance(node, Repeat) and node.least == 0)
        for inner in walk(node)
        if isinstance(inner, Group)
    }
    return [
        each.name
        for each in walk(parsed.tree)
        if isinstance(each, Group) and each.name and each not in idle and width(each.body, parsed.widths)[0]
    ]


def _as_explained(case: MatchCase, weighed: list[Working]) -> list[Working]:
    """Weigh changes of the expression by how well they explain the text."""
    found = {
        number: told
        for number, each in enumerate(weighed)
        if each.proposal.case.text == case.text and (told := explained(each.proposal.case)) is not None
    }
    if not found:
        return weighed
    least = min(each.bits for each in found.values())

    def cost(told: Explained) -> float:
        return (
            SEAM * min(told.seams, MOST_SEAMS)
            + RAGGED * min(told.ragged, MOST_SEAMS)
            + min(BIT * (told.bits - least), MOST_BITS)
        )

    return [
        replace(each, cost=each.cost + cost(found[number])) if number in found else each
        for number, each in enumerate(weighed)
    ]


def _outcomes(case: MatchCase, texts: Several[str]) -> list[bool] | None:
    """Tell of texts whether they fit, all of them not where the expression cannot be read; None where it takes long."""
    if not is_readable(case):
        return [False] * len(texts)
    found = batch_of(case.expression, case.flags, case.reach, texts, NEAR_MILLISECONDS)
    return [each is not None for each in found] if found is not None else None


def neighbours(texts: Several[str], most: int = NEIGHBOURS, chance: random.Random | None = None) -> list[str]:
    """Return texts near to some, a character left out, put in, doubled or exchanged.

    They are the same ones each time, or drawn by a given chance.
    """
    chance = chance or random.Random(0)
    found: dict[str, None] = {}
    for _ in range(2 * most):
        text = chance.choice(texts)
        at = chance.randrange(len(text) + 1)
        own = text[at : at + 1]
        other = chance.choice("a9Z-_ .,/é")
        new = chance.choice(("", own + own, other, other + own, own.swapcase()))
        made = text[:at] + new + text[at + 1 :]
        if made not in texts:
            found[made] = None
        if len(found) >= most:
            break
    return list(found)


def _worth_reading(case: MatchCase, weighed: list[Working], most: int) -> list[Working]:
    """Leave out what takes the same texts as something before it, and changes to the text beyond the first."""
    shown: list[Working] = []
    texts = 0
    comparing = Effort(COMPARING)
    for number, each in enumerate(weighed):
        if len(shown) == most or (shown and each.cost > shown[0].cost + TOO_FAR and each.harm >= shown[0].harm):
            break
        changes_text = each.proposal.case.text != case.text
        if changes_text and texts:
            continue
        if sum(_explanation(each) == _explanation(other) for other in shown) == MOST_ALIKE:
            continue
        if not changes_text and number < MOST_COMPARED and any(_is_same(each, other, comparing) for other in shown):
            continue
        texts += changes_text
        shown.append(each)
    return shown


def _explanation(each: Working) -> str:
    """Return what a change says is amiss, without what it puts there."""
    return each.proposal.words.rpartition(": ")[0] or each.proposal.words


def _is_same(one: Working, other: Working, effort: Effort) -> bool:
    """Tell whether two changes are known to take the same texts."""
    first, second = one.proposal.case, other.proposal.case
    if first.text != second.text or len(first.expression) + len(second.expression) > 400:
        return False
    from fieldstick.analysis.automaton.asked import Reading
    from fieldstick.analysis.relation import relation_of

    try:
        found = relation_of(
            Reading(first.expression, first.reach, first.flags),
            Reading(second.expression, second.reach, second.flags),
            effort,
        )
    except FieldstickError:
        return False
    return found.relation == "same"
