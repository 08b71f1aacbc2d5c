"""Says why a text fits or does not: how far the match came, what was asked for there, what would change that."""

from __future__ import annotations

import time
from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.drafting.context import MatchCase, Proposal, RepairContext
from fieldstick.drafting.phrases import character_words, phrase
from fieldstick.drafting.repairs import proposals
from fieldstick.drafting.tracer import Trace, trace
from fieldstick.engines.probing import fits
from fieldstick.errors import SyntaxFault
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import Node, Repeat, Sequence

if TYPE_CHECKING:
    from collections.abc import Callable

    from fieldstick.engines.protocol import Reach
    from fieldstick.syntax.parser import Parsed
    from fieldstick.syntax.tree import Span

MOST_REPAIRS = 5
"""Repairs that are offered."""

TOO_FAR = 1.2
"""Costs beyond the likeliest repair's from which on a repair is not worth reading."""

ENOUGH = 24
"""Repairs found that work, after which no likelier one is looked for."""

SECONDS = 0.6
"""How long repairs are looked for before what was found is given."""

STEPS = 40_000
"""Steps of one trace: the first is the one that is shown, the others look for two changes at once."""


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

    `stopped` is None for a text that fits. For that, `repairs` are changes that would keep it out.
    """

    case: MatchCase
    fits: bool
    stopped: Stop | None
    trace: Trace
    repairs: tuple[Repair, ...]


def diagnose(
    case: MatchCase, breaks: Callable[[MatchCase], int] | None = None, *, seconds: float = SECONDS
) -> Diagnosis:
    """Find out why the text of a setting fits or does not, and what would change that.

    `breaks` counts the other samples that a setting would break. Repairs are looked for as long as `seconds`.
    Raises SyntaxFault for an expression that cannot be read.
    """
    parsed = parse(case.expression, case.flags)
    traced = trace(parsed, case.text, case.reach)
    matched = fits(case.expression, case.flags, case.reach, case.text)
    stop = None if matched else _stop(parsed, case, traced)
    if matched:
        from fieldstick.drafting.restraints import restraints

        found = [each for each in restraints(case, parsed, traced) if not _fits(each.case)]
    else:
        found = _repairs(RepairContext(case, parsed, traced, _spots(traced)), seconds)
    return Diagnosis(case, matched, stop, traced, _best(found, breaks))


def stop_of(parsed: Parsed, text: str, reach: Reach) -> Stop | None:
    """Say where a match stopped in a text that does not fit; None when the trace finds a match after all."""
    traced = trace(parsed, text, reach, steps=STEPS)
    case = MatchCase(parsed.expression, parsed.flags, reach, text)
    return None if traced.spans is not None else _stop(parsed, case, traced)


def _fits(case: MatchCase) -> bool:
    return fits(case.expression, case.flags, case.reach, case.text)


def _best(found: list[Proposal], breaks: Callable[[MatchCase], int] | None) -> tuple[Repair, ...]:
    found = [each for each in found if each.cost <= found[0].cost + TOO_FAR]
    if breaks is None:
        return tuple(Repair(each.words, each.case, None, each.cost) for each in found[:MOST_REPAIRS])
    counted = [(each, breaks(each.case)) for each in found[: 3 * MOST_REPAIRS]]
    counted.sort(key=lambda pair: (pair[1] > 0, pair[0].cost + 0.1 * min(pair[1], 5)))
    return tuple(Repair(each.words, each.case, broken, each.cost) for each, broken in counted[:MOST_REPAIRS])


def _spots(traced: Trace) -> tuple[Span, ...]:
    return tuple(wanted.node.span for wanted in traced.wanted)


def _repairs(context: RepairContext, seconds: float) -> list[Proposal]:
    """Return the proposals that work, likeliest first; two at once when no single one does."""
    until = time.perf_counter() + seconds
    offered = proposals(context)
    found = _working(offered, until, ENOUGH)
    if found:
        return found
    return _pairs(context, offered, until - seconds, until)


def _working(offered: list[Proposal], until: float, enough: int) -> list[Proposal]:
    found: list[Proposal] = []
    for proposal in offered:
        if found and proposal.cost > found[0].cost + TOO_FAR:
            break
        if _fits(proposal.case):
            found.append(proposal)
        if len(found) >= enough or (found and time.perf_counter() > until):
            break
    return found


def _pairs(context: RepairContext, offered: list[Proposal], started: float, until: float) -> list[Proposal]:
    """Follow the single changes that bring the match furthest by a second change."""
    helpful: list[tuple[int, Proposal, RepairContext]] = []
    for proposal in offered[:120]:
        following = _scene(proposal.case)
        gained = 0 if following is None else _progress(following) - _progress(context)
        if following is not None and (gained > 0 or proposal.case.reach != context.case.reach):
            helpful.append((gained, proposal, following))
        if time.perf_counter() > until:
            break
    helpful.sort(key=lambda each: (each[1].cost - 0.1 * each[0], each[1].cost))
    found: list[Proposal] = []
    for _, first, following in helpful[:12]:
        for second in _working(proposals(following), until, 2):
            words = f"{first.words}; and {second.words}"
            found.append(Proposal(second.case, words, first.cost + second.cost))
        if len(found) >= MOST_REPAIRS or time.perf_counter() > 2 * until - started:
            break
    return sorted(found, key=lambda each: each.cost)


def _scene(case: MatchCase) -> RepairContext | None:
    try:
        parsed = parse(case.expression, case.flags)
    except SyntaxFault:
        return None
    traced = trace(parsed, case.text, case.reach, steps=STEPS)
    return RepairContext(case, parsed, traced, _spots(traced))


def _progress(context: RepairContext) -> int:
    left = len(context.case.text) - context.trace.furthest
    return -left if context.trace.spans is None else 0


def _stop(parsed: Parsed, case: MatchCase, traced: Trace) -> Stop:
    at = traced.furthest
    needed = [wanted for wanted in traced.wanted if not wanted.more]
    optional = [wanted for wanted in traced.wanted if wanted.more]
    words = [_wanted_words(wanted.node, parsed) for wanted in needed]
    words += [f"more of {_more_words(wanted.node, parsed)}" for wanted in optional]
    wanted_words = " or ".join(dict.fromkeys(words[:4])) or "nothing more"
    spots = [wanted.node.span for wanted in (needed or optional) if wanted.node is not parsed.tree]
    span = spots[0] if spots else (len(case.expression), len(case.expression))
    character = case.text[at : at + 1]
    return Stop(
        traced.start, at, span, wanted_words, character_words(character) if character else "the end of the text"
    )


def _wanted_words(node: Node, parsed: Parsed) -> str:
    if node is parsed.tree and isinstance(node, Sequence):
        return "the end of the text"
    if isinstance(node, Repeat):
        return phrase(node.item, parsed.flags, short=True)
    return phrase(node, parsed.flags, short=True)


def _more_words(node: Node, parsed: Parsed) -> str:
    inner = node.item if isinstance(node, Repeat) else node
    return phrase(inner, parsed.flags, short=True)
