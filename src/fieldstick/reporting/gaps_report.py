"""What no sample decides, and which text would: for a person, and as JSON."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING, Any

from fieldstick.reporting.document import BLANK, Labelled, Mark, Ruled, said, sentence, table
from fieldstick.reporting.relation_words import text_words
from fieldstick.reporting.trial_words import percent
from fieldstick.reporting.words import counted

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.reporting.document import Block
    from fieldstick.runs.gap_figures import GapFigure
    from fieldstick.runs.gaps import Gap, PatternGaps, Proposal

FORMAT = 1

AROUND = 16
"""Characters of an expression that are shown on either side of the piece that is marked."""

LONGEST_PIECE = 32


def gaps_report(found: Sequence[PatternGaps], show: int) -> Iterator[Block]:
    """Yield for each pattern the texts to add, each with the pieces that it decides, then the verdict."""
    for each in found:
        if each.left_out:
            yield said(("left out ", "quiet"), (f"  {each.address}", "strong"), f"  {each.left_out}")
            yield BLANK
        elif each.gaps or each.unknown:
            yield from _of_pattern(each, show)
    yield sentence(verdict(found), "warn" if any(each.gaps for each in found) else "good")


def _of_pattern(each: PatternGaps, show: int) -> Iterator[Block]:
    told = f"  {each.decided:,} of {each.asked:,} decided, {percent(each.share)}  "
    yield said(("gaps     ", "warn"), (f"  {each.address}", "strong"), told, (f"{each.file}:{each.line}", "quiet"))
    for proposal in each.proposals[:show]:
        yield from proposal_blocks(proposal)
        yield BLANK
    left = each.proposals[show:]
    if left:
        pieces = counted(sum(len(proposal.gaps) for proposal in left), "gap")
        yield said(
            (f"    and {counted(len(left), 'more text')} for {pieces}; --show {len(each.proposals)} shows all", "quiet")
        )
    if each.unknown:
        words = f"of {counted(each.unknown, 'more piece')} it is not known whether any text decides them"
        yield said((f"    {words}", "quiet"))
    if left or each.unknown:
        yield BLANK


def proposal_blocks(proposal: Proposal) -> Iterator[Block]:
    """Yield a text to add, with the outcome that it has now, and the pieces that it decides."""
    now = "fits now" if proposal.fits else "does not fit now"
    yield said(
        ("    add    ", "good" if proposal.fits else "quiet"), (text_words(proposal.text), "strong"), f"  which {now}"
    )
    for gap in proposal.gaps:
        yield _piece(gap)
        yield Labelled("", gap.words, indent=4, gap=7)


def _piece(gap: Gap) -> Ruled:
    """Draw the piece that a gap is about, marked in what stands around it."""
    start, end = gap.span
    shown_end = min(end, start + LONGEST_PIECE)
    before = gap.expression[max(0, start - AROUND) : start]
    after = gap.expression[shown_end : shown_end + AROUND]
    head = "…" if start > AROUND else ""
    tail = "…" if shown_end + AROUND < len(gap.expression) else ""
    at = len(head) + len(before)
    text = head + before + gap.expression[start:shown_end] + after + tail
    return Ruled(text, (Mark(at, max(at + shown_end - start, at), kind="match", tone="warn"),), 11)


def verdict(found: Sequence[PatternGaps]) -> str:
    """Say in words and numbers how much the samples decide."""
    asked, decided = sum(each.asked for each in found), sum(each.decided for each in found)
    texts = sum(len(each.proposals) for each in found)
    told = [each for each in found if not each.left_out]
    if not told:
        return "No pattern here has a sample that could decide anything."
    share = f"{decided:,} of {asked:,} pieces are decided by samples ({percent(decided / asked if asked else 1)})"
    where = f"of {counted(len(told), 'pattern')}"
    return f"{share}, {where}; {counted(texts, 'text')} would decide the rest." if texts else f"{share}, {where}."


def gaps_as_json(found: Sequence[PatternGaps]) -> str:
    """Write the gaps as JSON; spans are code-point offsets, lines and columns count from 1."""
    data = {
        "format": FORMAT,
        "patterns": [
            {
                "address": each.address,
                "file": each.file,
                "line": each.line,
                "asked": each.asked,
                "decided": each.decided,
                "share": each.share,
                "unknown": each.unknown,
                "left_out": each.left_out or None,
                "add": [_proposal(proposal) for proposal in each.proposals],
            }
            for each in found
        ],
        "totals": {
            "asked": sum(each.asked for each in found),
            "decided": sum(each.decided for each in found),
            "unknown": sum(each.unknown for each in found),
        },
    }
    return json.dumps(data, ensure_ascii=False, indent=1) + "\n"


def _proposal(proposal: Proposal) -> dict[str, Any]:
    return {
        "text": proposal.text,
        "fits": proposal.fits,
        "why": proposal.why or None,
        "gaps": [
            {
                "kind": gap.kind,
                "words": gap.words,
                "source": gap.source,
                "span": list(gap.span),
                "part": gap.part,
                "file": gap.file,
                "line": gap.line,
                "column": gap.column,
            }
            for gap in proposal.gaps
        ],
    }


def gap_figures_report(figures: Sequence[GapFigure]) -> Iterator[Block]:
    """Yield a row for each pattern: how much of it samples decide; one below what its suite asks for stands out."""
    rows = [
        (
            each.address,
            f"{each.decided:,}",
            f"{each.asked:,}",
            percent(each.share),
            "" if each.least is None else percent(each.least),
        )
        for each in figures
    ]
    if rows:
        yield table(["pattern", "decided", "of", "share", "wanted"], rows)
        short = [each.address for each in figures if each.falls_short]
        if short:
            words = f"decided less than asked for: {', '.join(short)}; 'fieldstick gaps' says which samples to add"
            yield sentence(words, "bad")
        yield BLANK
