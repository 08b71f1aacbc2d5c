"""What may be a hazard, and how it is confirmed: its remedy compiles and does, on a text, what is said of it."""

from __future__ import annotations

from itertools import islice
from typing import TYPE_CHECKING, Literal

from msgspec import Struct

from fieldstick.analysis.examples import texts_of
from fieldstick.analysis.facts import facts_of
from fieldstick.engines.budget import run_within, timer_usable
from fieldstick.engines.probing import MILLISECONDS, compiled_by_engine, method_of
from fieldstick.errors import BudgetSpent

if TYPE_CHECKING:
    import re
    from collections.abc import Iterable, Iterator, Mapping

    from fieldstick.analysis.effort import Effort
    from fieldstick.engines.protocol import Reach
    from fieldstick.syntax.parser import Parsed
    from fieldstick.syntax.tree import Node, Span

Claim = Literal["differs", "same", "ends", "endless"]
"""What a remedy does on the text that is shown: it gives something else, the same with less, an end to no end, or that
there is none is all that is shown."""

Outcome = tuple[object, ...] | Literal["no end"] | None
"""What the engine makes of a text: the places and names of its groups, no end within the time, or no match."""

TEXTS = 60
"""Texts that are tried before something is taken for harmless."""

NO_END = 20_000
"""What a text costs that finds no end: as much as the time that it takes."""

PUMPED = 40
"""Turns in a text that is to show that an expression finds no end."""


class Hazard(Struct, frozen=True):
    """Something that will bite later. `kind` is its name on the page docs/hazards.md.

    `changed` is the expression with the remedy, `text` one that shows the hazard: what comes of it now, and with the
    remedy, is said by `now` and `then`. All three were tried on the engine.
    """

    kind: str
    span: tuple[int, int]
    reason: str
    remedy: str
    changed: str
    text: str
    now: str
    then: str


class Suspect(Struct, frozen=True):
    """What may be a hazard. `forced` says which texts some nodes stand for where it bites, `texts` are whole ones."""

    kind: str
    span: Span
    reason: str
    remedy: str
    changed: str
    texts: tuple[str, ...] = ()
    forced: tuple[tuple[Node, tuple[str, ...]], ...] = ()
    claim: Claim = "differs"


def edited(parsed: Parsed, *edits: tuple[Span, str]) -> str:
    """Return the expression with other text in some places, which do not overlap."""
    made, at = [], 0
    for (start, end), text in sorted(edits):
        made += [parsed.expression[at:start], text]
        at = end
    return "".join([*made, parsed.expression[at:]])


def confirmed(suspect: Suspect, parsed: Parsed, reach: Reach, effort: Effort) -> Hazard | None:
    """Return the hazard with a text that shows it; None where the remedy does not compile or no text was found."""
    if not effort.spend(2 * len(parsed.expression)):
        return None
    before = compiled_by_engine(parsed.expression, parsed.flags)
    after = compiled_by_engine(suspect.changed, parsed.flags)
    if before is None or after is None:
        return None
    for text in islice(_texts(suspect, parsed, reach, effort), TEXTS):
        now, then = _outcome(before, reach, text), _outcome(after, reach, text)
        if "no end" in (now, then) and not effort.spend(NO_END) and suspect.claim != "endless":
            return None
        if _shows(suspect.claim, now, then):
            words = _told(suspect.claim, now, then, text)
            return Hazard(suspect.kind, suspect.span, suspect.reason, suspect.remedy, suspect.changed, text, *words)
    return None


def _shows(claim: Claim, now: Outcome, then: Outcome) -> bool:
    if claim in ("ends", "endless"):
        return now == "no end" and (claim == "endless" or then != "no end")
    return now == then and now is not None if claim == "same" else now != then and "no end" not in (now, then)


def _told(claim: Claim, now: Outcome, then: Outcome, text: str) -> tuple[str, str]:
    if claim == "same":
        return "fits", "it fits as before"
    if claim in ("ends", "endless"):
        ended = "it is read at once" if then is None else "it fits at once"
        return "is given up after its budget", ended if claim == "ends" else "it still is"
    if now is None or then is None:
        return ("fits", "it does not") if then is None else ("does not fit", "it does")
    one, other = _place(now), _place(then)
    if one != other:
        return f"matches {_piece(text, one)}", f"{_piece(text, other)}"
    for number, (before, after) in enumerate(zip(_groups(now), _groups(then), strict=False)):
        if before != after:
            return f"gives group {number} {_piece(text, before)}", _piece(text, after)
    return "gives a group by its number", "by its name"


def _groups(outcome: Outcome) -> tuple[tuple[int, int], ...]:
    assert isinstance(outcome, tuple)
    return outcome[0]  # type: ignore[return-value]


def _piece(text: str, place: tuple[int, int]) -> str:
    piece = text[slice(*place)]
    return f"'{piece}'" if piece else "nothing"


def _place(outcome: Outcome) -> tuple[int, int]:
    return _groups(outcome)[0]


def _outcome(compiled: re.Pattern[str], reach: Reach, text: str) -> Outcome:
    method = method_of(compiled, reach)
    try:
        found = run_within(MILLISECONDS, method, text) if timer_usable() else method(text)
    except (BudgetSpent, MemoryError):
        return "no end"
    except SystemError:
        return None
    return None if found is None else (found.regs, tuple(sorted(compiled.groupindex.items())))


def _texts(suspect: Suspect, parsed: Parsed, reach: Reach, effort: Effort) -> Iterator[str]:
    yield from suspect.texts
    size = len(facts_of(parsed).nodes)
    for forced in _choices(suspect.forced):
        for text in islice(texts_of(parsed, reach, forced), TEXTS // 3):
            if not effort.spend(size + len(text)):
                return
            yield text
            if suspect.claim == "ends":
                yield from _cut_off(text, forced.values())
    if not suspect.forced:
        for text in islice(texts_of(parsed, reach), TEXTS):
            if not effort.spend(size + len(text)):
                return
            yield text


def _choices(forced: Iterable[tuple[Node, tuple[str, ...]]]) -> Iterator[Mapping[Node, str]]:
    """Yield what nodes may stand for: the first text of each, then the second, and so on."""
    given = list(forced)
    for number in range(max((len(texts) for _, texts in given), default=0)):
        yield {node: texts[min(number, len(texts) - 1)] for node, texts in given}


def _cut_off(text: str, pumped: Iterable[str]) -> Iterator[str]:
    """Yield texts that go wrong right after what was pumped up."""
    for piece in pumped:
        end = text.find(piece) + len(piece)
        for wrong in ("\x00", "!", "", "\n"):
            yield text[:end] + wrong
