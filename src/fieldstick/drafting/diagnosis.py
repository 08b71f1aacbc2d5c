"""Says why a text fits or does not: how far the match came, what was asked for there, what would change that."""

from __future__ import annotations

import unicodedata
from collections.abc import Callable
from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.analysis.effort import Effort
from fieldstick.drafting.context import MatchCase, Proposal, RepairContext
from fieldstick.drafting.phrases import character_words, phrase
from fieldstick.drafting.repairs import proposals
from fieldstick.drafting.text_repairs import ascii_double, look_alike
from fieldstick.drafting.tracer import Trace, trace
from fieldstick.engines.probing import fits, tried
from fieldstick.errors import SyntaxFault
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import Anchor, Character, Node, Repeat

if TYPE_CHECKING:
    from fieldstick.engines.protocol import Reach
    from fieldstick.syntax.parser import Parsed
    from fieldstick.syntax.tree import Span

MOST_REPAIRS = 5
"""Repairs that are offered."""

TOO_FAR = 1.2
"""Costs beyond the likeliest repair's from which on a repair is not worth reading."""

ENOUGH = 24
"""Repairs found that work, after which no likelier one is looked for."""

MOST_STEPS = 400_000
"""Steps for which repairs are looked for: about half a second on a usual machine."""

STEPS = 40_000
"""Steps of one trace: the first is the one that is shown, the others look for two changes at once."""

TRIED, SLOW = 100, 20_000
"""Steps that trying a change takes beyond one for each character, and those of a text that was given up."""

FOLLOWED = 120
"""Changes that alone are not enough, the likeliest ones, which are followed by a second."""

Judge = Callable[[MatchCase], "bool | None"]
"""Tells whether a setting fits, fields and bounds and which match is taken too; None where reading took too long."""


class Stop(Struct, frozen=True):
    """Where a match stopped: the place in the text, the span in the expression, what was wanted and found there.

    `start` is where the attempt began. `text` and `start` are code-point offsets into the text.
    """

    start: int
    text: int
    expression: Span
    wanted: str
    found: str


class Repair(Struct, frozen=True):
    """A change that was tried and works: the setting after it, in words, and the other samples it breaks.

    `breaks` is None when there were no other samples to try; `cost` says how far-fetched it is, less being likelier.
    """

    words: str
    case: MatchCase
    breaks: int | None = None
    cost: float = 0.0


class Diagnosis(Struct, frozen=True):
    """Why a text fits or does not.

    `stopped` is None for a text that the expression matches. Where that fits, `repairs` are changes that would keep it
    out; where a field is refused all the same, there are none. `complete` tells that no change was left untried for
    want of steps.
    """

    case: MatchCase
    fits: bool
    stopped: Stop | None
    trace: Trace
    repairs: tuple[Repair, ...]
    complete: bool = True
    spent: int = 0
    """The steps that all of it took."""


def diagnose(
    case: MatchCase,
    breaks: Callable[[MatchCase], int] | None = None,
    *,
    judge: Judge | None = None,
    steps: int = MOST_STEPS,
) -> Diagnosis:
    """Find out why the text of a setting fits or does not, and what would change that.

    `breaks` counts the other samples that a setting would break. A change counts when `judge` says so, which is asked
    of the setting itself too; the engine is, where there is none. Repairs are looked for as long as `steps`.
    Raises SyntaxFault for an expression that cannot be read.
    """
    parsed = parse(case.expression, case.flags)
    traced = trace(parsed, case.text, case.reach)
    matched = _fits(case)
    accepted = bool(judge(case)) if judge is not None else matched
    trial = _Trial(judge or _tried, steps)
    found: list[Proposal] = []
    if accepted:
        from fieldstick.drafting.restraints import restraints

        found = [each for each in restraints(case, parsed, traced) if not trial.fits(each.case)]
    elif not matched:
        found = _repairs(RepairContext(case, parsed, traced, _spots(parsed, traced)), trial)
    stop = None if matched else _stop(parsed, case, traced)
    spent = steps - trial.effort.left + traced.steps + 10 * len(case.expression)
    return Diagnosis(case, accepted, stop, traced, _best(found, breaks), not trial.effort.stopped, spent)


class _Trial:
    """Tries settings, as long as there are steps left."""

    def __init__(self, judge: Judge, steps: int) -> None:
        self._judge = judge
        self.effort = Effort(steps)

    def fits(self, case: MatchCase) -> bool:
        """Tell whether a setting fits; one that is not tried any more does not."""
        if not self.effort.spend(TRIED + len(case.expression) + len(case.text) // 8):
            return False
        found = self._judge(case)
        if found is None:
            self.effort.spend(SLOW)
        return bool(found)


def stop_of(parsed: Parsed, text: str, reach: Reach) -> Stop | None:
    """Say where a match stopped in a text that does not fit; None when the trace finds a match after all."""
    traced = trace(parsed, text, reach, steps=STEPS)
    case = MatchCase(parsed.expression, parsed.flags, reach, text)
    return None if traced.spans is not None else _stop(parsed, case, traced)


def _fits(case: MatchCase) -> bool:
    return fits(case.expression, case.flags, case.reach, case.text)


def _tried(case: MatchCase) -> bool | None:
    return tried(case.expression, case.flags, case.reach, case.text)


def _best(found: list[Proposal], breaks: Callable[[MatchCase], int] | None) -> tuple[Repair, ...]:
    found = [each for each in found if each.cost <= found[0].cost + TOO_FAR]
    if breaks is None:
        return tuple(Repair(each.words, each.case, None, each.cost) for each in found[:MOST_REPAIRS])
    counted = [(each, breaks(each.case)) for each in found[: 3 * MOST_REPAIRS]]
    counted.sort(key=lambda pair: (pair[1] > 0, pair[0].cost + 0.1 * min(pair[1], 5)))
    return tuple(Repair(each.words, each.case, broken, each.cost) for each, broken in counted[:MOST_REPAIRS])


def _spots(parsed: Parsed, traced: Trace) -> tuple[Span, ...]:
    """Return the spans of what was asked for; the end of the text is asked for by the whole of the expression."""
    spans = (wanted.node.span for wanted in traced.wanted)
    return tuple(parsed.tree.span if start == end == len(parsed.expression) else (start, end) for start, end in spans)


def _repairs(context: RepairContext, trial: _Trial) -> list[Proposal]:
    """Return the proposals that work, likeliest first; two at once when no single one does."""
    offered = proposals(context, _most(context, trial))
    return _working(offered, trial, ENOUGH) or _pairs(context, offered, trial)


def _most(context: RepairContext, trial: _Trial) -> int:
    """Return how many proposals can be tried with the steps that are left, and twice as many to be sure."""
    return max(FOLLOWED, 2 * trial.effort.left // (TRIED + len(context.case.expression)))


def _working(offered: list[Proposal], trial: _Trial, enough: int) -> list[Proposal]:
    found: list[Proposal] = []
    for proposal in offered:
        if (found and proposal.cost > found[0].cost + TOO_FAR) or trial.effort.left < 0:
            break
        if trial.fits(proposal.case):
            found.append(proposal)
        if len(found) >= enough:
            break
    return found


def _pairs(context: RepairContext, offered: list[Proposal], trial: _Trial) -> list[Proposal]:
    """Follow the single changes that bring the match furthest by a second change."""
    helpful: list[tuple[int, Proposal, RepairContext]] = []
    for proposal in offered[:FOLLOWED]:
        if trial.effort.left < 0:
            break
        following = _scene(proposal.case, trial.effort)
        gained = 0 if following is None else _progress(following) - _progress(context)
        if following is not None and (gained > 0 or proposal.case.reach != context.case.reach):
            helpful.append((gained, proposal, following))
    helpful.sort(key=lambda each: (each[1].cost - 0.1 * each[0], each[1].cost))
    found: list[Proposal] = []
    for _, first, following in helpful[:12]:
        for second in _working(proposals(following, _most(following, trial)), trial, 2):
            words = f"{first.words}; and {second.words}"
            found.append(Proposal(second.case, words, first.cost + second.cost))
        if len(found) >= MOST_REPAIRS or trial.effort.left < 0:
            break
    return sorted(found, key=lambda each: each.cost)


def _scene(case: MatchCase, effort: Effort) -> RepairContext | None:
    try:
        parsed = parse(case.expression, case.flags)
    except SyntaxFault:
        return None
    traced = trace(parsed, case.text, case.reach, steps=STEPS)
    # Reading an expression takes some ten times as long as the engine does.
    effort.spend(10 * len(case.expression) + traced.steps)
    return RepairContext(case, parsed, traced, _spots(parsed, traced))


def _progress(context: RepairContext) -> int:
    left = len(context.case.text) - context.trace.furthest
    return -left if context.trace.spans is None else 0


def _stop(parsed: Parsed, case: MatchCase, traced: Trace) -> Stop:
    at = traced.furthest
    needed = [wanted for wanted in traced.wanted if not wanted.more]
    optional = [wanted for wanted in traced.wanted if wanted.more]
    words = [_wanted_words(wanted.node, parsed) for wanted in needed]
    more = [_wanted_words(wanted.node, parsed) for wanted in optional]
    words += [f"more of {each}" for each in more if each not in words]
    wanted_words = " or ".join(dict.fromkeys(words[:4])) or "nothing more"
    spots = [wanted.node.span for wanted in (needed or optional) if wanted.node.span[0] < wanted.node.span[1]]
    span = spots[0] if spots else (len(case.expression), len(case.expression))
    wanted_characters = [each.node.character for each in needed if isinstance(each.node, Character)]
    return Stop(traced.start, at, span, wanted_words, _found_words(case.text, at, wanted_characters))


def _found_words(text: str, at: int, wanted: list[str]) -> str:
    """Say what stands in a text, with its name where it looks like what is wanted, or like a letter of ASCII."""
    character = text[at : at + 1]
    if not character:
        return "the end of the text"
    words = character_words(character)
    double = next((each for each in wanted if look_alike(character, each)), "") or ascii_double(character)
    if double and double != character:
        code = f"U+{ord(character):04X}"
        if code not in words:
            words += f" ({code}, {unicodedata.name(character, 'without a name').lower()})"
        return f"{words}, which looks like {character_words(double)}"
    return words


def _wanted_words(node: Node, parsed: Parsed) -> str:
    if isinstance(node, Anchor) and not node.spelling:
        return "the end of the text"
    return phrase(node.item if isinstance(node, Repeat) else node, parsed.flags, short=True)
