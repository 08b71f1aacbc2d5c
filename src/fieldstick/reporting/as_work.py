"""What work on data would change, rejected or sorted, for a person to read."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.reporting.cells import Charset, clipped, visible
from fieldstick.reporting.layout import paragraph, table
from fieldstick.reporting.ruler import Line, Mark, Segment, draw
from fieldstick.reporting.words import counted

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.operations.form import ValidationTally
    from fieldstick.operations.lookup import LookupTally
    from fieldstick.operations.rewrite import RewriteTally, Rewritten
    from fieldstick.operations.route import RouteTally

INDENT = 7

_REASONS = (
    ("blank", "nothing entered"),
    ("did-not-match", "no match"),
    ("field-invalid", "no such value"),
    ("gave-up", "given up"),
)


def rewritten_lines(
    source: str, number: int, found: Rewritten, width: int, charset: Charset = Charset()
) -> Iterator[Line]:
    """Yield a text before and after a rewrite, what was replaced marked in both."""
    yield (Segment(visible(f"{source}:{number}", charset), "quiet"),)
    yield from _marked("was", found.before, [before for before, _ in found.places], "bad", width, charset)
    yield from _marked("now", found.after, [after for _, after in found.places], "good", width, charset)


def _marked(
    label: str, text: str, spans: list[tuple[int, int]], tone: str, width: int, charset: Charset
) -> Iterator[Line]:
    marks = [Mark(start, end, kind="match", tone=tone) for start, end in spans]
    lines = list(draw(text, marks, width - INDENT, charset)) if text or marks else [(Segment("(nothing)", "quiet"),)]
    for place, line in enumerate(lines):
        yield (Segment(f"  {label if place == 0 else '':<{INDENT - 2}}", "quiet"), *line)


def rewrite_words(tally: RewriteTally, written: bool) -> str:
    """Say how much a rewrite changed, or would change."""
    if tally.read == 0:
        return "nothing to read: the sources hold no text"
    would = "" if written else "would "
    if tally.fit == 0:
        return f"read {counted(tally.read, 'text')}: none {'changes' if written else 'would change'}"
    change = ("changes" if tally.fit == 1 else "change") if written else "change"
    places = counted(tally.rows, "replacement")
    return f"read {counted(tally.read, 'text')}: {tally.fit:,} {would}{change}, {places} in all"


def reject_lines(
    tally: ValidationTally, most: int, width: int, charset: Charset = Charset(), *, kept_in: str | None = None
) -> Iterator[Line]:
    """Yield the first rejected cells, each with its reason and what whoever entered it should be told.

    `kept_in` names the file that all of them are written to.
    """
    before: tuple[str, int] | None = None
    for source, number, reject in tally.shown[:most]:
        if (source, number) != before:
            yield (Segment("rejected", "bad"), Segment(f"  {visible(f'{source}:{number}', charset)}", "quiet"))
        before = (source, number)
        value = visible(reject.value, charset)
        yield from paragraph(
            "entered", clipped(f"{reject.column} = '{value}'", max(width - 13, 16), charset), width, indent=2
        )
        yield from paragraph("because", visible(reject.why.words, charset), width, indent=2)
        if reject.message:
            yield from paragraph("wanted", visible(reject.message, charset), width, indent=2)
    more = sum(tally.rejects.values()) - min(most, len(tally.shown))
    if most and more > 0:
        where = f"all of them are in {visible(kept_in, charset)}" if kept_in else "--rejects FILE writes them all"
        yield (Segment(f"and {counted(more, 'more rejected cell')}; {where}", "quiet"),)
    if tally.shown and most:
        yield ()


def validation_table(tally: ValidationTally, order: Sequence[str]) -> Iterator[Line]:
    """Yield the counts of rejected cells by column, in their order, and reason."""
    found = {column for column, _ in tally.rejects}
    columns = [column for column in order if column in found]
    reasons = [(key, name) for key, name in _REASONS if any(each == key for _, each in tally.rejects)]
    if not columns:
        return
    rows = []
    for column in columns:
        counts = [tally.rejects[column, key] for key, _ in reasons]
        rows.append([visible(column), f"{sum(counts):,}", *(f"{count:,}" if count else "" for count in counts)])
    yield from table(["column", "rejected", *(name for _, name in reasons)], rows, tones=["strong", "bad"])
    yield ()


def validation_words(tally: ValidationTally) -> str:
    """Say how many rows were accepted and rejected."""
    if tally.read == 0:
        return "nothing to validate: the sources hold no row"
    rejected = f"{tally.rejected:,} rejected" if tally.rejected else "none rejected"
    cells = tally.rejects.total()
    in_cells = f" for {counted(cells, 'cell')}" if cells != tally.rejected else ""
    return f"of {counted(tally.read, 'row')}, {tally.fit:,} accepted, {rejected}{in_cells}."


def route_table(tally: RouteTally, kinds: tuple[str, ...]) -> Iterator[Line]:
    """Yield the counts of each kind with its share, the kind for all others last."""
    rows = [
        [kind, f"{tally.kinds[kind]:,}", f"{100 * tally.kinds[kind] / tally.read:.1f} %" if tally.read else ""]
        for kind in kinds
    ]
    if tally.given_up:
        rows.append(["(given up)", f"{tally.given_up:,}", f"{100 * tally.given_up / tally.read:.1f} %"])
    yield from table(["kind", "texts", "share"], rows, tones=["strong"])
    yield ()


def overlap_lines(tally: RouteTally, width: int, charset: Charset = Charset()) -> Iterator[Line]:
    """Yield the texts that more than one pattern fits, by the kinds that want them; the first one has each."""
    if not tally.overlaps:
        yield (Segment("no text is wanted by two kinds", "good"),)
        return
    for kinds, count in tally.overlaps.most_common():
        yield (
            Segment(" and ".join(kinds), "warn"),
            Segment(
                f"  both want {counted(count, 'text')}" if len(kinds) == 2 else f"  all want {counted(count, 'text')}"
            ),
        )
        for source, number, text in tally.overlapping[kinds]:
            place = f"  {visible(f'{source}:{number}', charset)}  "
            yield (Segment(place, "quiet"), Segment(clipped(text, max(width - len(place), 16), charset)))
    yield ()


def lookup_words(tally: LookupTally) -> str:
    """Say how many values were looked up and found."""
    values = counted(tally.asked, "value")
    missing = tally.asked - tally.found
    words = f"looked {values} up among {counted(tally.searched, 'row')}: {tally.found:,} found"
    if not missing:
        return words
    first = ", ".join(f"'{value}'" for value in tally.unlisted[:5])
    more = " …" if len(tally.unlisted) > 5 else ""
    return f"{words}, {missing:,} not" + (f": {first}{more}" if first.strip("'") else "")
