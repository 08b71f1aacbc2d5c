"""What is said of a trial, in every form of report."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.reporting.words import counted
from fieldstick.suites.suite import OVERALL

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.runs.trial_results import Shortfall, TrialCause, TrialResult, TrialStanding
    from fieldstick.suites.suite import Bounds, Trial

_VERBS = {"lost": "fits no more", "gained": "fits now", "otherwise": "is captured otherwise", "misses": "does not fit"}
_VERBS_OF_SEVERAL = {
    "lost": "fit no more",
    "gained": "fit now",
    "otherwise": "are captured otherwise",
    "misses": "do not fit",
}


def trial_words(each: TrialResult) -> Iterator[str]:
    """Say all that is to be said of a trial: troubles, bounds that do not hold, what the baseline makes of it."""
    yield from trial_troubles(each)
    yield from map(shortfall_words, each.shortfalls)
    if each.standing is not None:
        yield from standing_words(each.standing)
        yield from (cause_words(cause, each.trial) for cause in each.standing.causes)


def trial_troubles(each: TrialResult) -> Iterator[str]:
    """Say why a trial could not be run to its end, or left something out."""
    if each.error is not None:
        yield each.error
    elif not each.texts:
        yield "there is no text in the data: nothing was tried"
    if each.unread:
        yield f"{counted(each.unread, 'text')} could not be read and {'is' if each.unread == 1 else 'are'} left out"
    if each.given_up:
        yield f"{counted(each.given_up, 'text')} took longer than the budget"


def shortfall_words(shortfall: Shortfall) -> str:
    """Say which bound does not hold, and what was found."""
    write = percent if shortfall.bounds.what == "share" else str
    return f"{bounds_words(shortfall.bounds)}; it is {write(shortfall.found)}"


def bounds_words(bounds: Bounds) -> str:
    """Say what a share or count must be."""
    what = "texts that fit" if bounds.name == OVERALL else f"'{bounds.name}'"
    return f"{bounds.what} of {what} {_limits(bounds)}"


def bounds_change_words(was: Bounds | None, now: Bounds | None) -> str:
    """Say how a bound of a trial is otherwise."""
    if was is None or now is None:
        words = bounds_words(was or now)  # type: ignore[arg-type]
        return f"{words} is {'no more' if now is None else 'newly'} asked for"
    return f"{bounds_words(now)}, was {_limits(was)}"


def _limits(bounds: Bounds) -> str:
    write = percent if bounds.what == "share" else str
    if bounds.least is not None and bounds.least == bounds.most:
        return f"exactly {write(bounds.least)}"
    sides = [f"at least {write(bounds.least)}"] if bounds.least is not None else []
    sides += [f"at most {write(bounds.most)}"] if bounds.most is not None else []
    return " and ".join(sides)


def percent(share: Any) -> str:
    """Write a share as a percentage, with as many digits as tell it from all and nothing."""
    value = 100 * share
    digits = 1
    while digits < 6 and round(value, digits) != value and (round(value, digits) in (0, 100)):
        digits += 1
    return f"{value:.{digits}f} %"


def standing_words(standing: TrialStanding, *, with_patterns: bool = True) -> Iterator[str]:
    """Say what the baseline makes of a trial: of its data, of its patterns, of its texts."""
    if standing.data == "changed":
        to = f" to {standing.data_to}" if standing.data_to is not None else " on"
        yield f"the data changed, in lines {standing.data_from}{to}"
    elif standing.data == "appended":
        were = "was" if standing.appended == 1 else "were"
        yield f"{counted(standing.appended, 'line')} {were} appended to the data; the lines before are the same"
    for name, changes in standing.patterns.items() if with_patterns else ():
        fields = "; ".join(f"field {each.name}: {each.before} → {each.now}" for each in changes)
        yield f"the pattern {name} changed{f'; {fields}' if fields else ''}"
    words = [
        f"{count:,} {name}"
        for count, name in (
            (standing.lost, "lost"),
            (standing.gained, "gained"),
            (standing.moved, "of another kind"),
            (standing.otherwise, "captured otherwise"),
        )
        if count
    ]
    if words:
        yield f"through the patterns, {', '.join(words)}"
    if standing.by_data:
        yield f"{counted(standing.by_data, 'text')} came out otherwise where the data changed"
    if standing.uncompared:
        yield f"{counted(standing.uncompared, 'text')} cannot be held against what was recorded one by one"
    if standing.uncompared or standing.by_data:
        counts = ", ".join(f"{name} {was:,} → {now:,}" for name, (was, now) in standing.counts.items())
        if counts:
            yield f"counts: {counts}"


def cause_words(cause: TrialCause, trial: Trial | None = None) -> str:
    """Say how many texts became what."""
    number = counted(cause.count, "text")
    if cause.what == "moved":
        verb = "is" if cause.count == 1 else "are"
        words = f"{number} {verb} {cause.now or 'given up'}, no more {cause.was or 'what it was'}"
    else:
        verb = _VERBS[cause.what] if cause.count == 1 else _VERBS_OF_SEVERAL[cause.what]
        name = cause.was if cause.what == "lost" else cause.now
        near = ", which comes nearest" if cause.what == "misses" and _has_several(trial) else ""
        words = f"{number} {verb}{f': {name}{near}' if name else ''}"
    return words + (", where the data changed" if cause.by_data else "")


def _has_several(trial: Trial | None) -> bool:
    return trial is not None and len(trial.used) > 1 and trial.by != "form"
