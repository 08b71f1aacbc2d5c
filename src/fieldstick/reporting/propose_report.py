"""Expressions that are proposed, for a person and as JSON."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.reporting.document import BLANK, Labelled, Piece, said
from fieldstick.reporting.words import counted

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.drafting.proposals.proposing import Proposed
    from fieldstick.reporting.document import Block


def proposals_report(found: Sequence[Proposed], examples: int) -> Iterator[Block]:
    """Yield each proposal: the expression, its fields, what it takes of the examples and beyond."""
    for number, each in enumerate(found):
        yield said((f"{each.level:<7}", "strong"), Piece(each.expression, "field0"))
        if each.fields:
            told = ", ".join(f"{name} {_type_words(table)}" for name, table in each.fields.items())
            yield Labelled("fields", told, indent=2, gap=8)
        share = "all" if each.fit == examples else f"{each.fit:,} of"
        yield Labelled("takes", f"{share} {counted(examples, 'example')}", indent=2, gap=8)
        if each.left_out:
            others = examples - each.fit - 1
            more = f" and {counted(others, 'other')}" if others else ""
            yield Labelled("not", f"'{_shortened(each.left_out[0])}'{more}", indent=2, gap=8)
        if each.beyond is not None:
            than = "the examples" if number == 0 else "the one before"
            yield Labelled(
                "beyond", f"'{each.beyond}', which {than} {'do' if number == 0 else 'does'} not show", indent=2, gap=8
            )
        for text in each.takes:
            yield Labelled("but", f"it takes '{text}' too, which it must not", indent=2, gap=8, tone="bad")
        yield BLANK


LONGEST_LEFT_OUT = 120
"""Code points of an example that is left out which are shown."""


def _shortened(text: str) -> str:
    return text if len(text) <= LONGEST_LEFT_OUT else f"{text[: LONGEST_LEFT_OUT - 1]}…"


def _type_words(table: dict[str, Any]) -> str:
    shown = {key: "/".join(value) if isinstance(value, list) else value for key, value in table.items()}
    rest = ", ".join(f"{key} {value}" for key, value in shown.items() if key != "type")
    return f"{table.get('type', 'text')}{f' ({rest})' if rest else ''}"


def proposals_as_data(found: Sequence[Proposed], examples: int) -> dict[str, Any]:
    """Return proposals as plain data, from tight to loose."""
    return {
        "examples": examples,
        "proposals": [
            {
                "level": each.level,
                "expression": each.expression,
                "fields": each.fields,
                "fit": each.fit,
                "left_out": list(each.left_out),
                "beyond": each.beyond,
                "takes_wrongly": list(each.takes),
            }
            for each in found
        ],
    }
