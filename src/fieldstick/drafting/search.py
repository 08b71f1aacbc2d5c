"""Looks for the change that was meant: proposals are tried on the text and on all that is known beside it, and ranked.

The order: what breaks nothing that is known comes first, and of that what leaves nothing wrong; then what does not make
the empty text fit, or all of it optional; then what is likeliest to be the slip that was made and moves the fewest of
the texts near to those that are known. Two changes together come only where no single one works and breaks nothing, and
several where no two do; of changes to the text one is shown at the most.
"""

from __future__ import annotations

import random
from typing import TYPE_CHECKING

from msgspec import Struct
from msgspec.structs import replace

from fieldstick.analysis.effort import Effort
from fieldstick.drafting.context import Beside, Harm, MatchCase, Proposal, RepairContext, compiling
from fieldstick.drafting.explained import explained
from fieldstick.drafting.readable import is_readable
from fieldstick.drafting.repairs import proposals
from fieldstick.drafting.slips.texts import ascii_double
from fieldstick.drafting.tracer import trace
from fieldstick.engines.probing import batch_of, fits
from fieldstick.errors import FieldstickError, SyntaxFault
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import Character, Sequence

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable
    from collections.abc import Sequence as Several

    from fieldstick.drafting.context import Judge
    from fieldstick.drafting.explained import Explained
    from fieldstick.drafting.tracer import Trace
    from fieldstick.syntax.parser import Parsed
    from fieldstick.syntax.tree import Span


TOO_FAR = 0.55
"""Costs beyond the likeliest repair's from which on a repair is not worth reading."""

ENOUGH = 24
"""Repairs found that work and break nothing, after which no likelier one is looked for."""

STEPS = 40_000
"""Steps of one trace: the first is the one that is shown, the others look for two changes at once."""

TRIED, SLOW = 100, 20_000
"""Steps that trying a change takes beyond three for two characters, and those of a text that was given up."""

MUCH_TRACED, MOST_EACH = 40_000, 4_000
"""Steps of tracing the text from which on the engine takes long over what is like it, and steps more for each try."""

LONG, GROUP = 1_000, 6
"""Code points of an expression from which on its groups count, which take the engine longest, and steps for each."""

FOLLOWED = 120
"""Changes that alone are not enough, the likeliest ones, which are followed by a second."""

MOST_FOLLOWED = 12
"""Those of them that bring the match furthest."""

BEHIND, ANYTHING = 2, "(?s:.*)"
"""Pieces behind the one where the match stopped that a first change must take it past, and what takes the rest."""

ENOUGH_STEPS, MOST_SLIPS, MOST_BESIDE, FAR = 400_000, 5, 2, 12
"""Steps from which on as many again are taken to look for more than two changes together, how many at the most, ways
that are followed, and code points beyond which it does not matter how much further one brings the match."""

MOST_BEGUN = 8
"""Changes that do so of which it is looked at how far they bring the match."""

MOST_WEIGHED = 16
"""Repairs of which the texts near by are looked at."""

NEAR_MILLISECONDS = 20
"""How long the texts near by may take together: a thousandth of it is usual."""

NEIGHBOURS = 60
"""Texts near to those that are known by which a change is weighed."""

WEIGHT = 0.3
"""What a change costs more that moves all of them."""

TWO_IN_ONE = 2.0
"""The cost of a single change from which on it is rather two."""

SEVERAL_IN_TWO = 4.0
"""The cost of two changes together from which on they are rather several."""

COMBINED = 0.4
"""What two changes together cost beyond each."""

FITS_NOTHING = 1.5
"""What a change costs more after which the empty text fits, which did not."""

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


class Trial:
    """Tries settings, as long as there are steps left.

    `harm` counts the known texts of which a setting turns the outcome from right to wrong, or leaves it wrong. `traced`
    are the steps that tracing the text took: where they are many, what is like it will take the engine long, too.
    """

    def __init__(
        self, judge: Judge, wanted: bool, harm: Callable[[MatchCase], Harm], steps: int, traced: int = 0
    ) -> None:
        self._judge, self._wanted, self.harm = judge, wanted, harm
        self.effort, self.steps = Effort(steps), steps
        self._each = MOST_EACH if traced > MUCH_TRACED else 0

    def works(self, case: MatchCase) -> bool:
        """Tell whether a setting does with the text what is wanted; one that is not tried any more does not."""
        long = len(case.expression) > LONG
        groups = GROUP * case.expression.count("(") if long else 0
        if not self.effort.spend(
            TRIED + self._each + 3 * compiling(case.expression, case.flags) // 2 + groups + len(case.text) // 8
        ):
            return False
        found = self._judge(case)
        if found is None:
            # The engine looks up from what it does the later, the longer the text is.
            self.effort.spend(SLOW + len(case.text))
        if found is False and not self._wanted:
            return is_readable(case)
        return found is self._wanted

    def working(self, offered: Iterable[Proposal], enough: int = ENOUGH) -> list[Working]:
        """Return the proposals that work, those that break something too."""
        found: list[Working] = []
        unbroken: float | None = None
        count = 0
        for proposal in offered:
            if (unbroken is not None and proposal.cost > unbroken + TOO_FAR) or self.effort.left < 0:
                break
            if self.works(proposal.case):
                harm = self.harm(proposal.case)
                found.append(Working(proposal, harm, proposal.cost))
                if not any(harm):
                    unbroken = proposal.cost if unbroken is None else unbroken
                    count += 1
            if count >= enough:
                break
        return found


def repairs_of(context: RepairContext, trial: Trial) -> list[Working]:
    """Return the changes that make a text fit; two at once when no single one does and breaks nothing."""
    offered = proposals(context, _most(context, trial))
    found = trial.working(offered)
    if any(not each.harm.breaks and each.cost < TWO_IN_ONE for each in found):
        return found
    found = [*_pairs(context, offered, trial), *found]
    if trial.steps < ENOUGH_STEPS or any(not each.harm.breaks and each.cost < SEVERAL_IN_TWO for each in found):
        return found
    trial.effort.renew(trial.steps)
    return [*_one_by_one(context, trial), *found]


def made_readable(case: MatchCase, beside: Beside, trial: Trial) -> list[Working]:
    """Return the changes after which an expression that cannot be read fits a text, a second one with it if need be."""
    from fieldstick.drafting.slips.unreadable import readable

    # Half of the steps, so that what can be read is tried too.
    reading = Effort(trial.effort.left // 2)
    offered = list(readable(case, reading))
    trial.effort.spend(trial.effort.left // 2 - reading.left)
    found = trial.working(offered)
    if any(not each.harm.breaks for each in found):
        return found
    for first in offered[:FOLLOWED]:
        if trial.effort.left < 0 or len(found) >= MOST_WEIGHED:
            break
        scene = scene_of(first.case, beside, trial.effort)
        if scene is not None:
            found += followed(first, proposals(scene, _most(scene, trial)), trial)
    return found


def _most(context: RepairContext, trial: Trial) -> int:
    """Return how many proposals can be tried with the steps that are left, and twice as many to be sure."""
    return max(FOLLOWED, 2 * trial.effort.left // (TRIED + len(context.case.expression)))


def _pairs(context: RepairContext, offered: list[Proposal], trial: Trial) -> list[Working]:
    """Follow the single changes that bring the match furthest by a second change."""
    helpful: list[tuple[int, Proposal, RepairContext]] = []
    firsts = {each.case: each for each in (*offered[:FOLLOWED], *_of_beginning(context, trial, MOST_BEGUN))}
    for proposal in firsts.values():
        if trial.effort.left < 0:
            break
        following = scene_of(proposal.case, context.beside, trial.effort)
        gained = 0 if following is None else _progress(following) - _progress(context)
        if following is not None and (gained > 0 or proposal.case.reach != context.case.reach):
            helpful.append((gained, proposal, following))
    helpful.sort(key=lambda each: (each[1].cost - 0.1 * each[0], each[1].cost))
    found: list[Working] = []
    for _, first, following in helpful[:MOST_FOLLOWED]:
        changes_text = first.case.text != context.case.text
        offered = proposals(following, _most(following, trial))
        # The setting is wrong, or the text is; a change of both explains nothing.
        alike = [each for each in offered if (each.case.text != first.case.text) is changes_text]
        found += followed(first, alike, trial)
        if trial.effort.left < 0:
            break
    return found


def _of_beginning(context: RepairContext, trial: Trial, most: int) -> list[Proposal]:
    """Return changes after which the text fits as far as the pieces right behind where it stopped, whatever follows:
    `most` for each of the places that are taken for what is right behind.
    """
    tree = context.parsed.tree
    if not isinstance(tree, Sequence) or not context.spots or context.trace.spans is not None:
        return []
    stop = max(start for start, _ in context.spots)
    items = [each for each in tree.items if each.span[1] > stop]
    marks = next((at for at, each in enumerate(items[1:], 1) if not isinstance(each, Character)), len(items)) - 1
    found = []
    for behind in dict.fromkeys((BEHIND, marks, 0)):
        if behind < len(items) - 1:
            # Nothing behind the last piece says how far it goes.
            kept = context.case.expression[slice(*items[0].span)] if not behind else ""
            found += _up_to(context, items[behind].span[1], trial, kept, most)
    return found


def _up_to(context: RepairContext, end: int, trial: Trial, kept: str, most: int) -> list[Proposal]:
    """Return the likeliest changes after which the text fits as far as an expression goes up to a place.

    What is `kept` stays before that place.
    """
    case = context.case
    begun = scene_of(replace(case, expression=case.expression[:end] + ANYTHING), context.beside, trial.effort)
    found: list[Proposal] = []
    for each in proposals(begun, FOLLOWED) if begun is not None else ():
        made = each.case.expression
        if trial.effort.left < 0 or len(found) >= most:
            break
        if made.endswith(kept + ANYTHING) and each.case.text == case.text and trial.works(each.case):
            whole = made.removesuffix(ANYTHING) + case.expression[end:]
            found.append(replace(each, case=replace(each.case, expression=whole)))
    return found


def _one_by_one(context: RepairContext, trial: Trial) -> list[Working]:
    """Return several changes together, where no two are enough: each the one that brings the match furthest."""
    if len(context.case.expression) > LONG // 2:
        return []
    beam = [(0.0, Proposal(context.case, "", -COMBINED), context)]
    found: list[Working] = []
    for _ in range(MOST_SLIPS):
        ahead: list[tuple[float, Proposal, RepairContext]] = []
        for gained, before, scene in beam:
            begun = _of_beginning(scene, trial, MOST_BEGUN // 2)
            # Where nothing is behind, it is the last slip.
            most = MOST_FOLLOWED if begun else FOLLOWED
            offered = {each.case: each for each in (*proposals(scene, most), *begun)}
            for each in offered.values():
                if each.case.text != context.case.text or trial.effort.left < 0:
                    continue
                words = f"{before.words}; and {each.words}".removeprefix("; and ")
                made = Proposal(each.case, words, before.cost + each.cost + COMBINED)
                if trial.works(each.case):
                    found.append(Working(made, trial.harm(each.case), made.cost))
                    continue
                following = scene_of(each.case, context.beside, trial.effort)
                more = 0 if following is None else _progress(following) - _progress(scene)
                if following is not None and more > 0:
                    ahead.append((gained + 0.1 * min(more, FAR), made, following))
        if found:
            break
        beam = sorted(ahead, key=lambda each: each[1].cost - each[0])[:MOST_BESIDE]
    return found


def followed(first: Proposal, offered: Iterable[Proposal], trial: Trial) -> list[Working]:
    """Return what a second change makes of a first."""
    found = []
    for second in trial.working(offered, 3):
        words = f"{first.words}; and {second.proposal.words}"
        cost = first.cost + second.proposal.cost + COMBINED
        found.append(Working(Proposal(second.proposal.case, words, cost), second.harm, cost))
    return found


def scene_of(case: MatchCase, beside: Beside, effort: Effort) -> RepairContext | None:
    """Return what the rules look at in a setting; None where it cannot be read."""
    try:
        parsed = parse(case.expression, case.flags)
    except SyntaxFault:
        return None
    traced = trace(parsed, case.text, case.reach, steps=STEPS)
    # Reading an expression takes some ten times as long as the engine does.
    effort.spend(10 * len(case.expression) + traced.steps)
    return RepairContext(case, parsed, traced, spots_of(parsed, traced), beside)


def spots_of(parsed: Parsed, traced: Trace) -> tuple[Span, ...]:
    """Return the spans of what was asked for; the end of the text is asked for by the whole of the expression."""
    spans = (wanted.node.span for wanted in traced.wanted)
    return tuple(parsed.tree.span if start == end == len(parsed.expression) else (start, end) for start, end in spans)


def _progress(context: RepairContext) -> int:
    left = len(context.case.text) - context.trace.furthest
    return -left if context.trace.spans is None else 0


def ranked(case: MatchCase, beside: Beside, found: list[Working], most: int) -> list[Working]:
    """Return the changes to show, likeliest first."""
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
    weighed = _as_explained(case, weighed)
    weighed.sort(key=lambda each: (*each.order[:2], each.cost + 0.3 * min(sum(each.harm), 5)))
    return _worth_reading(case, weighed, most)


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
    cost = each.cost + ODD * odd
    cost += (WEIGHT if made.reach == case.reach else WEIGHT / 4) * moved
    if not may_be_empty and fits(made.expression, made.flags, made.reach, ""):
        cost += FITS_NOTHING
    return replace(each, cost=cost)


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


def harm_by_engine(case: MatchCase, beside: Beside) -> Callable[[MatchCase], Harm]:
    """Return what counts the known texts of which a setting turns, or leaves, the outcome wrong."""
    wanted = {**dict.fromkeys(beside.unfitting, False), **dict.fromkeys(beside.fitting, True)}

    def wrong(made: MatchCase) -> set[str]:
        if not is_readable(made):
            return set(wanted)
        return {
            each for each, should in wanted.items() if fits(made.expression, made.flags, made.reach, each) is not should
        }

    before = wrong(case)

    def count(made: MatchCase) -> Harm:
        now = wrong(made)
        return Harm(len(now - before), len(now & before))

    return count


__all__ = [
    "Trial",
    "Working",
    "followed",
    "harm_by_engine",
    "made_readable",
    "neighbours",
    "ranked",
    "repairs_of",
    "scene_of",
    "spots_of",
]
