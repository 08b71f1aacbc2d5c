"""What work on data would change, rejected or sorted, for a person to read."""

from __future__ import annotations

from itertools import islice
from typing import TYPE_CHECKING

from fieldstick.reporting.document import BLANK, Labelled, Mark, Ruled, cut, said, table
from fieldstick.reporting.relation_words import text_words
from fieldstick.reporting.words import counted

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.analysis.relation import Relation
    from fieldstick.operations.form import ValidationTally
    from fieldstick.operations.lookup import LookupTally
    from fieldstick.operations.rewrite import RewriteTally, Rewritten
    from fieldstick.operations.route import RouteTally
    from fieldstick.reporting.document import Block, Tone
    from fieldstick.suites.suite import Pattern

INDENT = 7

_REASONS = (
    ("blank", "nothing entered"),
    ("did-not-match", "no match"),
    ("field-invalid", "no such value"),
    ("gave-up", "given up"),
)


def rewritten_report(source: str, number: int, found: Rewritten) -> Iterator[Block]:
    """Yield a text before and after a rewrite, what was replaced marked in both."""
    yield said((f"{source}:{number}", "quiet"))
    yield _marked("was", found.before, [before for before, _ in found.places], "bad")
    yield _marked("now", found.after, [after for _, after in found.places], "good")


def _marked(label: str, text: str, spans: list[tuple[int, int]], tone: str) -> Ruled:
    return Ruled(text, tuple(Mark(start, end, kind="match", tone=tone) for start, end in spans), INDENT, label)


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


def rejects_report(tally: ValidationTally, most: int, *, kept_in: str | None = None) -> Iterator[Block]:
    """Yield the first rejected cells, each with its reason and what whoever entered it should be told.

    `kept_in` names the file that all of them are written to.
    """
    before: tuple[str, int] | None = None
    for source, number, reject in tally.shown[:most]:
        if (source, number) != before:
            yield said(("rejected", "bad"), (f"  {source}:{number}", "quiet"))
        before = (source, number)
        yield said("  ", ("entered    ", "quiet"), cut(f"{reject.column} = '{reject.value}'"))
        yield Labelled("because", reject.why.words, indent=2)
        if reject.message:
            yield Labelled("wanted", reject.message, indent=2)
    more = sum(tally.rejects.values()) - min(most, len(tally.shown))
    if most and more > 0:
        where = f"all of them are in {kept_in}" if kept_in else "--rejects FILE writes them all"
        yield said((f"and {counted(more, 'more rejected cell')}; {where}", "quiet"))
    if tally.shown and most:
        yield BLANK


def validation_table(tally: ValidationTally, order: Sequence[str]) -> Iterator[Block]:
    """Yield the counts of rejected cells by column, in their order, and reason."""
    found = {column for column, _ in tally.rejects}
    columns = [column for column in order if column in found]
    reasons = [(key, name) for key, name in _REASONS if any(each == key for _, each in tally.rejects)]
    if not columns:
        return
    rows = []
    for column in columns:
        counts = [tally.rejects[column, key] for key, _ in reasons]
        rows.append([column, f"{sum(counts):,}", *(f"{count:,}" if count else "" for count in counts)])
    yield table(["column", "rejected", *(name for _, name in reasons)], rows, ["strong", "bad"])
    yield BLANK


def rejected_shapes(tally: ValidationTally, order: Sequence[str]) -> Iterator[Block]:
    """Yield the shapes of the rejected values of each column, the commonest first, each with a value."""
    told = False
    for column in order:
        shapes = tally.shapes.get(column)
        if shapes is None:
            continue
        ranked = shapes.ranked
        words = [f"{each.count:,} of {shape} like '{each.example}'" for shape, each in ranked[:MOST_SHAPES]]
        left = sum(each.count for _, each in ranked[MOST_SHAPES:]) + shapes.others
        more = f"; {left:,} of {len(ranked) - MOST_SHAPES:,} other shapes" if left else ""
        yield Labelled(column, "; ".join(words) + more, indent=2, gap=14)
        told = True
    if told:
        yield BLANK


MOST_SHAPES = 4
"""Shapes of a column that are named."""


def validation_words(tally: ValidationTally) -> str:
    """Say how many rows were accepted and rejected."""
    if tally.read == 0:
        return "nothing to validate: the sources hold no row"
    rejected = f"{tally.rejected:,} rejected" if tally.rejected else "none rejected"
    cells = tally.rejects.total()
    in_cells = f" for {counted(cells, 'cell')}" if cells != tally.rejected else ""
    return f"of {counted(tally.read, 'row')}, {tally.fit:,} accepted, {rejected}{in_cells}."


def route_table(tally: RouteTally, kinds: tuple[str, ...]) -> Iterator[Block]:
    """Yield the counts of each kind with its share, the kind for all others last."""
    rows = [
        [kind, f"{tally.kinds[kind]:,}", f"{100 * tally.kinds[kind] / tally.read:.1f} %" if tally.read else ""]
        for kind in kinds
    ]
    if tally.given_up:
        rows.append(["(given up)", f"{tally.given_up:,}", f"{100 * tally.given_up / tally.read:.1f} %"])
    yield table(["kind", "texts", "share"], rows, ["strong"])
    yield BLANK


def route_pairs_report(pairs: Sequence[tuple[Pattern, Pattern, Relation]]) -> Iterator[Block]:
    """Yield how the kinds of a route relate to one another, with a text for each pair that has one in common."""
    apart = 0
    for one, other, found in pairs:
        if found.relation == "apart" or (found.relation != "undecided" and found.both is None):
            apart += 1
            continue
        words, tone = _pair_words(one.name, other.name, found)
        yield said((f"  {one.name}", "strong"), " and ", (other.name, "strong"))
        yield Labelled("so", words, tone=tone)
        if found.both is not None:
            yield Labelled("both fit", text_words(found.both))
    if apart:
        no = "have" if apart != 1 else "has"
        yield said((f"{counted(apart, 'pair')} of kinds {no} no text in common, by their expressions.", "good"))


def _pair_words(one: str, other: str, found: Relation) -> tuple[str, Tone]:
    match found.relation:
        case "narrower":
            return f"'{other}' takes all that '{one}' takes, and more: what '{one}' leaves goes there", "quiet"
        case "wider":
            return f"'{other}' is never reached: '{one}' before it takes all that it takes", "bad"
        case "same":
            return f"'{other}' is never reached: it takes just the texts that '{one}' takes", "bad"
        case "crossing":
            return f"both want some texts, which '{one}' gets, for it comes first", "warn"
        case _:
            return f"undecided: {found.why}", "quiet"


def overlaps_report(tally: RouteTally) -> Iterator[Block]:
    """Yield the texts that more than one pattern fits, by the kinds that want them; the first one has each."""
    if not tally.overlaps:
        yield said(("no text is wanted by two kinds", "good"))
        return
    for kinds, count in tally.overlaps.most_common():
        want = "both" if len(kinds) == 2 else "all"
        yield said((" and ".join(kinds), "warn"), f"  {want} want {counted(count, 'text')}")
        for source, number, text in tally.overlapping[kinds]:
            yield said((f"  {source}:{number}  ", "quiet"), cut(text))
    yield BLANK


def lookup_words(tally: LookupTally) -> str:
    """Say how many values were looked up and found."""
    values = counted(tally.asked, "value")
    missing = tally.asked - tally.found
    words = f"looked {values} up among {counted(tally.searched, 'row')}: {tally.found:,} found"
    if not missing:
        return words
    first = ", ".join(f"'{value}'" for value in islice(tally.unlisted, 5))
    more = " …" if len(tally.unlisted) > 5 else ""
    return f"{words}, {missing:,} not" + (f": {first}{more}" if first.strip("'") else "")
