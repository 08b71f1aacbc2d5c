"""A summary of captured fields, for a person and as JSON."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.reporting.document import BLANK, Labelled, said, table

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    from fieldstick.reporting.document import Block
    from fieldstick.runs.summary import FieldSummary

COMMONEST = 5
"""Values of a field that are named."""

LONGEST_VALUE = 24


def summary_report(fields: Mapping[str, Sequence[FieldSummary]]) -> Iterator[Block]:
    """Yield a table of the fields of each table of rows, then how their values lie."""
    for name, summaries in fields.items():
        if len(fields) > 1:
            yield said((name, "strong"))
        header = ("field", "type", "values", "absent", "different", "least", "most")
        yield table(header, [_row(each) for each in summaries])
        yield BLANK
        for each in summaries:
            words = _lie(each)
            if words:
                yield Labelled(each.name, words, indent=0, gap=max(len(other.name) for other in summaries) + 2)
        yield BLANK


def _row(found: FieldSummary) -> tuple[str, ...]:
    about = "" if found.different.is_exact else "about "
    ends = [_short(found, found.least), _short(found, found.most)] if found.is_ordered and found.values else ["", ""]
    return (
        found.name,
        found.type,
        f"{found.values:,}",
        f"{found.absent:,}" if found.absent else "",
        f"{about}{len(found.different):,}",
        *ends,
    )


def _lie(found: FieldSummary) -> str:
    """Say where the values lie, and which are the commonest."""
    if not found.values:
        return ""
    told = []
    quarters = found.quarters()
    if quarters is not None and len(found.different) > COMMONEST:
        low, middle, high = (_short(found, each) for each in quarters)
        about = "about " if found.let_go else ""
        told.append(f"half of them from {low} to {high}, the middle one {about}{middle}")
    common = found.common.most_common(COMMONEST)
    if common and (common[0][1] > 1 or len(common) < COMMONEST) and not (quarters and common[0][1] * 50 < found.values):
        named = ", ".join(f"{_short(found, value)} {100 * count / found.values:.1f} %" for value, count in common)
        told.append(named)
    return "; ".join(told)


def _short(found: FieldSummary, value: Any) -> str:
    text = found.shown(value)
    return text if len(text) <= LONGEST_VALUE + 8 else f"{text[:LONGEST_VALUE]}…"


def summary_as_data(fields: Mapping[str, Sequence[FieldSummary]]) -> list[dict[str, Any]]:
    """Return the summaries as data; values as texts."""
    return [
        {
            "table": name,
            "field": each.name,
            "type": each.type,
            "values": each.values,
            "absent": each.absent,
            "different": len(each.different),
            "different_is_exact": each.different.is_exact,
            "least": each.shown(each.least) if each.least is not None else None,
            "most": each.shown(each.most) if each.most is not None else None,
            "quarters": [each.shown(value) for value in each.quarters() or ()],
            "quarters_are_exact": not each.let_go,
            "commonest": [{"value": each.shown(value), "count": count} for value, count in each.common.most_common(20)],
        }
        for name, summaries in fields.items()
        for each in summaries
    ]
