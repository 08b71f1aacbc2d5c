"""Looks for the change that was meant: proposals are tried on the text and on all that is known beside it.

Two changes together come only where no single one works and breaks nothing, and several where no two do.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace

from fieldstick.analysis.effort import Effort
from fieldstick.drafting.context import COMPILED_AFTER, Beside, Harm, MatchCase, Proposal, RepairContext, compiling
from fieldstick.drafting.ranking import MOST_WEIGHED, TOO_FAR, Working
from fieldstick.drafting.readable import is_readable
from fieldstick.drafting.repairs import proposals
from fieldstick.drafting.slips.likewise import likewise
from fieldstick.drafting.slips.windows import ANYTHING
from fieldstick.drafting.tracer import trace
from fieldstick.engines.probing import fits
from fieldstick.errors import SyntaxFault
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import Character, Sequence

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable

    from fieldstick.drafting.context import Judge
    from fieldstick.drafting.tracer import Trace
    from fieldstick.syntax.parser import Parsed
    from fieldstick.syntax.tree import Span


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

BEHIND = 2
"""Pieces behind the one where the match stopped that a first change must take it past."""

ENOUGH_STEPS, MOST_SLIPS, MOST_BESIDE, FAR = 400_000, 5, 2, 12
"""Steps from which on as many again are taken to look for more than two changes together, how many at the most, ways
that are followed, and code points beyond which it does not matter how much further one brings the match."""

MOST_BEGUN = 8
"""Changes that do so of which it is looked at how far they bring the match."""

TWO_IN_ONE = 2.0
"""The cost of a single change from which on it is rather two."""

SEVERAL_IN_TWO = 4.0
"""The cost of two changes together from which on they are rather several."""

FLAGGED = 0.15
"""What a flag costs more that brings the match no further by itself, and is followed by a second change."""

COMBINED = 0.4
"""What two changes together cost beyond each."""


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
            if self.effort.left < 0:
                break
            if unbroken is not None and proposal.cost > unbroken + TOO_FAR:
                continue
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
    found += trial.working(likewise(context, [each.proposal for each in sorted(found, key=lambda each: each.cost)]))
    if any(not each.harm.breaks and each.cost < TWO_IN_ONE for each in found):
        return [*_for_others(context, found, trial), *found]
    found = [*_pairs(context, offered, trial), *found]
    if trial.steps < ENOUGH_STEPS or any(not each.harm.breaks and each.cost < SEVERAL_IN_TWO for each in found):
        return found
    trial.effort.renew(trial.steps)
    return [*_one_by_one(context, trial), *found]


def _for_others(context: RepairContext, found: list[Working], trial: Trial) -> list[Working]:
    """Follow changes after which another text that should fit still does not by one that mends that, too."""
    unbroken = sorted((each for each in found if not each.harm.breaks), key=lambda each: each.cost)
    if not context.missed or any(not each.harm.leaves for each in unbroken):
        return []
    more: list[Working] = []
    for first in unbroken[:MOST_BEGUN]:
        case = first.proposal.case
        lacks = (each for each in context.missed if not fits(case.expression, case.flags, case.reach, each))
        other = next(lacks, None) if case.text == context.case.text else None
        scene = scene_of(replace(case, text=other), context.beside, trial.effort) if other is not None else None
        if scene is not None:
            seconds = [
                replace(each, case=replace(each.case, text=case.text))
                for each in proposals(scene, FOLLOWED)
                if each.case.text == other
            ]
            followers = followed(first.proposal, seconds, trial)
            more += [each for each in followers if not each.harm.breaks and each.harm.leaves < first.harm.leaves]
    return more


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
        beside = (proposal.case.reach, proposal.case.flags) != (context.case.reach, context.case.flags)
        if following is not None and (gained > 0 or beside):
            flagged = FLAGGED * (gained <= 0 and proposal.case.flags != context.case.flags)
            helpful.append((gained, replace(proposal, cost=proposal.cost + flagged), following))
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
    return RepairContext(case, parsed, traced, spots_of(parsed, traced), beside, COMPILED_AFTER)


def spots_of(parsed: Parsed, traced: Trace) -> tuple[Span, ...]:
    """Return the spans of what was asked for; the end of the text is asked for by the whole of the expression."""
    spans = (wanted.node.span for wanted in traced.wanted)
    return tuple(parsed.tree.span if start == end == len(parsed.expression) else (start, end) for start, end in spans)


def _progress(context: RepairContext) -> int:
    left = len(context.case.text) - context.trace.furthest
    return -left if context.trace.spans is None else 0


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
