"""`propose --kinds`: an expression for each of the commonest kinds of line, and a route of them."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fieldstick.commands.keeping import keep_route
from fieldstick.commands.kept_proposals import kept_as, tell_kept
from fieldstick.commands.printing import print_json
from fieldstick.commands.saying import say
from fieldstick.drafting.proposals.naming import pattern_name
from fieldstick.drafting.proposals.proposing import propose, with_beyond
from fieldstick.drafting.proposals.taking_texts import taken_by
from fieldstick.errors import EXIT_FAILED, EXIT_PASSED
from fieldstick.reporting.document import Piece, said
from fieldstick.reporting.propose_report import proposals_as_data, proposals_report
from fieldstick.reporting.terminal import Terminal
from fieldstick.reporting.words import counted
from fieldstick.runs.line_sample import evenly
from fieldstick.runs.processes import Processes, processors

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.drafting.proposals.proposing import Proposed
    from fieldstick.runs.line_kinds import LineKinds
    from fieldstick.runs.line_templates import LineKind

MOST_ASKED = 50
"""Lines of a kind of which it is asked whether the expression of another takes them, too."""


class Told(Struct, frozen=True):
    """A kind of line by its number, its name, the lines of it, and the expression that is proposed."""

    number: int
    name: str
    kind: LineKind
    lines: list[str]
    proposed: Proposed


def propose_kinds(
    kinds: LineKinds,
    most: int,
    most_examples: int,
    level: str | None,
    kept: tuple[str, str] | None,
    form: str,
    jobs: int | None = None,
) -> int:
    """Propose an expression for each of the commonest kinds, and keep them with a route where that is asked.

    `kept` are the name of the route and the suite. It is done in so many processes, None for one each processor.
    Raises UsageError as `keep_route` does.
    """
    known = kinds.kinds()
    told: list[Told] = []
    data: list[dict[str, Any]] = []
    for each in _each(kinds, known[:most], most_examples, level, jobs):
        told.append(each)
        examples = len(set(each.lines))
        if form == "json":
            shown = {"kind": each.number, "template": each.kind.text, "lines": kinds.about([each.kind])}
            data.append({**shown, "name": each.name, **proposals_as_data([each.proposed], examples)})
            continue
        about = "" if kinds.is_exact and not kinds.is_sample else "about "
        words = f"{about}{counted(kinds.about([each.kind]), 'line')}"
        terminal = Terminal.of()
        terminal.show(
            [said((f"kind {each.number}", "strong"), (f"  {words}  ", "quiet"), Piece(each.kind.text, "plain"))]
        )
        terminal.show(proposals_report([each.proposed], examples))
    if form == "json":
        print_json({"kinds": data})
    if not told:
        say("there is no line to propose for")
        return EXIT_FAILED
    lines = kinds.about(kinds.forms.values())
    share = 100 * kinds.about([each.kind for each in told]) / lines if lines else 0
    say(f"{len(told)} of {counted(len(known), 'kind')} of line, which are {share:.1f} % of {counted(lines, 'line')}")
    if kept is not None:
        _keep(told, *kept, as_text=form == "text")
    return EXIT_PASSED


def _each(
    kinds: LineKinds, known: Sequence[LineKind], most_examples: int, level: str | None, jobs: int | None
) -> Iterator[Told]:
    """Yield what is proposed for each kind, which have nothing to do with one another: each process takes some."""
    names: set[str] = set()
    of_kinds = [evenly([each for each in kinds.lines_of(kind) if each.text.strip()], most_examples) for kind in known]

    def proposed(lines: Sequence[str]) -> Proposed | None:
        found = with_beyond(propose(lines), lines) if lines else []
        return next((each for each in found if level in (None, each.level)), found[-1] if found else None)

    every = Processes(min(jobs or processors(), len(known))).map(proposed, of_kinds)
    for number, (kind, lines, chosen) in enumerate(zip(known, of_kinds, every, strict=True), 1):
        if chosen is not None:
            name = pattern_name(kind.text, names)
            names.add(name)
            yield Told(number, name, kind, lines, chosen)


def _keep(told: Sequence[Told], name: str, kept_in: str, *, as_text: bool) -> None:
    """Keep the patterns and a route: those that take lines of other kinds as well come after these."""

    def taken(one: Told) -> int:
        others = [line for each in told if each is not one for line in each.lines[:MOST_ASKED]]
        return sum(taken_by(one.proposed.expression, others))

    ordered = sorted(told, key=taken)
    kept = [kept_as(each.name, each.proposed, each.lines) for each in ordered]
    before = [each.proposed.expression for each in ordered]
    shown = [
        next((text for text in each.positive if not any(taken_by(one, [text])[0] for one in before[:at])), None)
        for at, each in enumerate(kept)
    ]
    file, names = keep_route(kept_in, name, kept, shown)
    words = f"Kept {counted(len(names), 'pattern')} in {file}, and the route {name} of them: {', '.join(names)}"
    tell_kept(words, file, [each.proposed for each in ordered], as_text=as_text)
