"""Says why a text fits or does not: how far the match came, what was asked for there, what would change that."""

from __future__ import annotations

import unicodedata
from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.drafting.context import Beside, MatchCase, Repair, RepairContext
from fieldstick.drafting.phrases import character_words, phrase
from fieldstick.drafting.ranking import ranked
from fieldstick.drafting.readable import fault_of
from fieldstick.drafting.search import (
    Trial,
    followed,
    harm_by_engine,
    made_readable,
    repairs_of,
    scene_of,
    spots_of,
)
from fieldstick.drafting.slips.texts import ascii_double, look_alike
from fieldstick.drafting.tracer import Trace, trace
from fieldstick.engines.probing import fits, tried
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import Anchor, Character, Node, once

if TYPE_CHECKING:
    from collections.abc import Callable

    from fieldstick.drafting.context import Harm, Judge
    from fieldstick.drafting.ranking import Working
    from fieldstick.engines.protocol import Reach
    from fieldstick.errors import SyntaxFault
    from fieldstick.syntax.parser import Parsed
    from fieldstick.syntax.tree import Span

MOST_REPAIRS = 5
"""Repairs that are offered."""

MOST_RESTRAINTS = 60
"""Changes that keep a text out and break nothing, after which no likelier one is looked for."""

MOST_STEPS = 400_000
"""Steps for which repairs are looked for: about half a second on a usual machine."""

STEPS = 40_000
"""Steps of a trace of one text among many."""


class Stop(Struct, frozen=True):
    """Where a match stopped: the place in the text, the span in the expression, what was wanted and found there.

    `start` is where the attempt began. `text` and `start` are code-point offsets into the text. `complete` tells that
    every way was tried.
    """

    start: int
    text: int
    expression: Span
    wanted: str
    found: str
    complete: bool = True


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

    fault: SyntaxFault | None = None
    """Why the expression cannot be read; None where it can."""


def diagnose(
    case: MatchCase,
    harm: Callable[[MatchCase], Harm] | None = None,
    *,
    beside: Beside = Beside(),
    judge: Judge | None = None,
    steps: int = MOST_STEPS,
) -> Diagnosis:
    """Find out why the text of a setting fits or does not, and what would change that.

    `beside` are other texts of which it is known what should come of them, and `harm` counts those of which a
    setting turns, or leaves, the outcome wrong; the engine tells, where there is none. A change counts when `judge`
    says so, which is asked of the setting itself too. Repairs are looked for as long as `steps`. An expression that
    cannot be read has a `fault`, and repairs after which it can be and the text fits.
    """
    fault = fault_of(case)
    count = harm or harm_by_engine(case, beside)
    judge = judge or _tried
    if fault is not None:
        trial = Trial(judge, True, count, steps)
        found = ranked(case, beside, made_readable(case, beside, trial), MOST_REPAIRS)
        repairs = tuple(_repair(each, harm, beside) for each in found)
        return Diagnosis(case, False, None, NO_TRACE, repairs, not trial.effort.stopped, steps, fault)
    parsed = parse(case.expression, case.flags)
    traced = trace(parsed, case.text, case.reach)
    matched = _fits(case)
    accepted = bool(judge(case))
    trial = Trial(judge, not accepted, count, steps, traced.steps)
    context = RepairContext(case, parsed, traced, spots_of(parsed, traced), beside)
    working: list[Working] = []
    if accepted:
        from fieldstick.drafting.slips.likewise import kept_out_by_both, kept_out_by_each
        from fieldstick.drafting.slips.narrowing import restraints

        working = trial.working(restraints(context), MOST_RESTRAINTS)
        likely = [each.proposal for each in sorted(working, key=lambda each: each.cost)]
        working += trial.working(kept_out_by_each(context, likely))
        unbroken = [each.proposal for each in sorted(working, key=lambda each: each.cost) if not any(each.harm)]
        working += trial.working(kept_out_by_both(context, unbroken))
    elif not matched:
        working = repairs_of(context, trial)
    stop = None if matched else _stop(parsed, case, traced)
    spent = trial.effort.spent + traced.steps + 10 * len(case.expression)
    attempt = (traced.start, traced.furthest) if traced.spans is None else (0, 0)
    repairs = tuple(_repair(each, harm, beside) for each in ranked(case, beside, working, MOST_REPAIRS, attempt))
    return Diagnosis(case, accepted, stop, traced, repairs, not trial.effort.stopped, spent)


def recaptures(
    case: MatchCase,
    judge: Judge,
    harm: Callable[[MatchCase], Harm] | None = None,
    *,
    beside: Beside = Beside(),
    steps: int = MOST_STEPS,
) -> tuple[Repair, ...]:
    """Return changes after which a text that fits is captured as `judge` says it should, likeliest first."""
    from fieldstick.drafting.slips.capturing import recapturing
    from fieldstick.drafting.slips.narrowing import restraints

    parsed = parse(case.expression, case.flags)
    traced = trace(parsed, case.text, case.reach)
    context = RepairContext(case, parsed, traced, spots_of(parsed, traced), beside)
    trial = Trial(judge, True, harm or harm_by_engine(case, beside), steps)
    offered = recapturing(context)
    working = trial.working(sorted([*offered, *restraints(context)], key=lambda each: each.cost))
    if all(each.harm.breaks for each in working):
        for first in offered:
            scene = scene_of(first.case, beside, trial.effort)
            if scene is not None:
                working += followed(first, recapturing(scene), trial)
    return tuple(_repair(each, harm, beside) for each in ranked(case, beside, working, MOST_REPAIRS))


def _repair(each: Working, harm: Callable[[MatchCase], Harm] | None, beside: Beside) -> Repair:
    known = harm is not None or beside != Beside()
    return Repair(each.proposal.words, each.proposal.case, each.harm if known else None, each.cost)


NO_TRACE = Trace(None, 0, 0, (), {}, 0)
"""The trace of an expression that cannot be read."""


def stop_of(parsed: Parsed, text: str, reach: Reach) -> Stop | None:
    """Say where a match stopped in a text that does not fit; None when the trace finds a match after all."""
    traced = trace(parsed, text, reach, steps=STEPS)
    case = MatchCase(parsed.expression, parsed.flags, reach, text)
    return None if traced.spans is not None else _stop(parsed, case, traced)


def _fits(case: MatchCase) -> bool:
    return fits(case.expression, case.flags, case.reach, case.text)


def _tried(case: MatchCase) -> bool | None:
    return tried(case.expression, case.flags, case.reach, case.text)


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
    found = _found_words(case.text, at, wanted_characters)
    return Stop(traced.start, at, span, wanted_words, found, traced.complete)


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
    return phrase(once(node), parsed.flags, short=True)
