"""Proposals as patterns to keep, and what is said of them once they are."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.analysis.hazards import hazards
from fieldstick.commands.keeping import KeptPattern
from fieldstick.commands.saying import say, tell
from fieldstick.drafting.proposals.proposing import samples_for
from fieldstick.reporting.explain_report import hazards_report
from fieldstick.reporting.terminal import Terminal
from fieldstick.reporting.words import counted
from fieldstick.syntax.parser import parse

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence
    from pathlib import Path

    from fieldstick.drafting.proposals.proposing import Proposed


def kept_as(name: str, chosen: Proposed, texts: Sequence[str], missing: Sequence[str] = ()) -> KeptPattern:
    """Return a proposal as a pattern of a name, with samples that differ."""
    table: dict[str, Any] = {"about": f"Proposed from {counted(len(texts), 'text')}", "expression": chosen.expression}
    if chosen.fields:
        table["fields"] = chosen.fields
    return KeptPattern(name, table, *samples_for(chosen, texts, missing))


def tell_kept(words: str, file: Path, kept: Iterable[Proposed], *, as_text: bool) -> None:
    """Say what was kept, its hazards, and what to do next; beside plain data no more than that it was."""
    if not as_text:
        say(words)
        return
    tell(words)
    for each in kept:
        parsed = parse(each.expression)
        Terminal.of().show(hazards_report(parsed.expression, hazards(parsed), brief=True))
    tell(f"Next: fieldstick check {file}")
