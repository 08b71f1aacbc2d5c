"""What a run over data came to, as data: for whoever runs many of them and keeps account."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from collections.abc import Iterable, Mapping, Sequence

    from fieldstick.data.batch import LineNumbers
    from fieldstick.data.source import Source
    from fieldstick.matching.tally import Tally

FIRST = 20
"""Lines of a kind that are named."""

_NOTES = ("undecodable", "ragged", "overlong", "missing", "not_json", "too_deep")


def run_as_data(
    command: str,
    sources: Iterable[Source],
    tallies: Sequence[tuple[str, Tally]],
    written: Iterable[str],
    own: Mapping[str, Any],
) -> dict[str, Any]:
    """Return what a run came to: its sources with what could not be read as asked, and counts by pattern.

    `own` is what the command alone has to tell. When the run was, and how long it took, is whoever ran it to say.
    """
    return {
        "command": command,
        "sources": [_source_as_data(source) for source in sources],
        "patterns": [{"name": name, **_tally_as_data(tally)} for name, tally in tallies],
        **own,
        "written": list(written),
    }


def _source_as_data(source: Source) -> dict[str, Any]:
    notes = source.notes
    found = {name: _lines_as_data(getattr(notes, name)) for name in _NOTES if getattr(notes, name).total}
    return {
        "name": source.name,
        "bytes": source.size,
        "notes": found,
        "ended_early": source.ended_early,
        "changed": source.changed,
    }


def _lines_as_data(lines: LineNumbers) -> dict[str, Any]:
    return {"count": lines.total, "first": lines[:FIRST]}


def _tally_as_data(tally: Tally) -> dict[str, Any]:
    misses = sorted(tally.misses.items(), key=lambda each: (-each[1], each[0][0], each[0][1] or ""))
    return {
        "read": tally.read,
        "fit": tally.fit,
        "rows": tally.rows,
        "misses": [{"reason": reason, "field": field, "count": count} for (reason, field), count in misses],
        "gave_up": [{"source": source, "line": line} for source, line in tally.gave_up],
    }
