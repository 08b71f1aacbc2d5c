"""What a draft fits and what it misses, for a person and as JSON."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.matching.result import DID_NOT_MATCH
from fieldstick.reporting.as_diagnosis import stop_marks, stop_words
from fieldstick.reporting.cells import Charset, clipped, visible, width_of
from fieldstick.reporting.layout import paragraph
from fieldstick.reporting.marks import marks_of, tone_of
from fieldstick.reporting.ruler import Line, Segment, draw
from fieldstick.reporting.words import counted

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.comparing.drafts import Shift, Shifts
    from fieldstick.drafting.diagnosis import Stop
    from fieldstick.matching.result import FieldValue
    from fieldstick.runs.trying import Tried, TryTally


def tried_lines(tried: Tried, stop: Stop | None, width: int, charset: Charset = Charset()) -> Iterator[Line]:
    """Yield a text with its ruler; a miss with the place where it stopped, or with what else keeps it out."""
    label, tone = ("fits", "good") if tried.fits else ("gave up" if tried.gave_up else "misses", "bad")
    marks = stop_marks(stop) if stop is not None else marks_of(tried.result, charset)
    yield (Segment(f"{label:<7}", tone), Segment(f" {tried.source}:{tried.number}", "quiet"))
    text = tried.text
    lines = draw(text, marks, width - 2, charset) if text or marks else [(Segment("(nothing)", "quiet"),)]
    for line in lines:
        yield (Segment("  "), *line)
    unfit = tried.result.unfit
    if stop is not None:
        yield from paragraph("stopped", visible(stop_words(stop), charset), width, indent=2)
    elif unfit is not None and not tried.gave_up and (unfit.reason != DID_NOT_MATCH or unfit.member is not None):
        yield from paragraph("because", visible(unfit.words, charset), width, indent=2)
    if tried.of_nothing:
        assert tried.result.place is not None
        words = f"it matches nothing, at {tried.result.place[0]}: all it asks for may be left out"
        yield from paragraph("note", words, width, indent=2)


def tally_line(tally: TryTally, what: str) -> Line:
    """Yield the counts of a run."""
    share = f"{100 * tally.fit / tally.texts:.1f} %" if tally.texts else "none"
    told = f"{counted(tally.texts, what)}: {tally.fit:,} fit ({share}), {tally.missed:,} do not"
    if tally.nothing:
        told += f"; {tally.nothing:,} of the matches take nothing"
    if tally.gave_up:
        told += f"; {tally.gave_up:,} given up after their budget"
    return (Segment(told, "good" if tally.fit else "bad"),)


def field_table(tries: Sequence[Tried], names: Sequence[str], width: int, charset: Charset) -> Iterator[Line]:
    """Yield the captured fields of the texts that fit, one row a match."""
    rows = [
        [str(each.number), *(_cell(fields.get(name)) for name in names)]
        for each in tries
        if each.fits
        for fields in _fields_of(each)
    ]
    if not rows or not names:
        return
    room = max(6, (width - 8) // len(names) - 2)
    shown = [[row[0], *(clipped(cell, room, charset) for cell in row[1:])] for row in rows]
    header = ["line", *(clipped(name, room, charset) for name in names)]
    widths = [max(width_of(row[index]) for row in [header, *shown]) for index in range(len(header))]
    yield tuple(Segment(_left(cell, size), "quiet") for cell, size in zip(header, widths, strict=True))
    for row in shown:
        tones = ["quiet", *(tone_of(index) for index in range(len(names)))]
        yield tuple(Segment(_left(cell, size), tone) for cell, size, tone in zip(row, widths, tones, strict=True))
    yield ()


def _fields_of(tried: Tried) -> Iterator[dict[str, FieldValue | None]]:
    """Yield the fields of each taken match, those of the other members of an `all_of` beside the first one's."""
    if tried.result.also:
        yield tried.result.fields
    else:
        yield from (match.fields for match in tried.result.matches)


def _left(cell: str, size: int) -> str:
    return cell + " " * (size - width_of(cell) + 2)


def _cell(field: FieldValue | None) -> str:
    return "(absent)" if field is None else field.text


_SHIFTS = {"gained": ("gained", "good"), "lost": ("lost", "bad"), "otherwise": ("other", "warn")}


def shift_lines(each: Shift, width: int, charset: Charset) -> Iterator[Line]:
    """Yield a text on which two drafts differ, with the ruler of each that fits."""
    label, tone = _SHIFTS[each.kind]
    yield (Segment(f"{label:<7}", tone), Segment(f" {each.now.source}:{each.now.number}", "quiet"))
    for head, tried in (("before", each.before), ("now", each.now)):
        if not tried.fits:
            continue
        if each.kind == "otherwise":
            yield (Segment(f"  {head}", "quiet"),)
        for line in draw(tried.text, marks_of(tried.result, charset), width - 2, charset):
            yield (Segment("  "), *line)


def shifts_line(shifts: Shifts) -> Line:
    """Yield the counts of a comparison."""
    told = f"against the other: {shifts.gained:,} gained, {shifts.lost:,} lost, {shifts.otherwise:,} captured otherwise"
    same = not (shifts.gained or shifts.lost or shifts.otherwise)
    return (Segment(told, "good" if same else "warn"),)


def tried_as_data(tried: Tried, stop: Stop | None) -> dict[str, Any]:
    """Return a text that was tried as plain data; places are code-point offsets into the text."""
    unfit = tried.result.unfit
    data: dict[str, Any] = {
        "source": tried.source,
        "line": tried.number,
        "text": tried.text,
        "fits": tried.fits,
        "matches": [
            {
                "place": list(match.place),
                "fields": {
                    name: None if field is None else {"text": field.text, "place": list(field.place)}
                    for name, field in match.fields.items()
                },
            }
            for match in (*tried.result.matches, *tried.result.also)
        ],
    }
    if unfit is not None:
        data["unfit"] = {"reason": unfit.reason, "words": unfit.words, "field": unfit.field, "member": unfit.member}
    if stop is not None:
        data["stopped"] = {"text": stop.text, "wanted": stop.wanted, "found": stop.found}
    return data


def tally_as_data(tally: TryTally) -> dict[str, int]:
    """Return the counts as plain data."""
    return {
        "texts": tally.texts,
        "fit": tally.fit,
        "missed": tally.missed,
        "nothing": tally.nothing,
        "gave_up": tally.gave_up,
    }
