"""Where a draft landed, for a person and as JSON."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.reporting.as_diagnosis import stop_marks, stop_words
from fieldstick.reporting.cells import Charset, clipped, visible, width_of
from fieldstick.reporting.layout import paragraph
from fieldstick.reporting.marks import group_marks, tone_of
from fieldstick.reporting.ruler import Line, Segment, draw
from fieldstick.reporting.words import counted

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.drafting.diagnosis import Stop
    from fieldstick.runs.trying import Landing, Shift, Shifts, Tally


def landing_lines(
    landing: Landing, names: Sequence[str], stop: Stop | None, width: int, charset: Charset = Charset()
) -> Iterator[Line]:
    """Yield a text with its ruler; a miss with the place where it stopped, when that is known."""
    marks = [mark for spans in landing.matches for mark in group_marks(landing.text.text, spans, names, charset)]
    label, tone = ("fits", "good") if landing.fits else ("gave up" if landing.gave_up else "misses", "bad")
    if stop is not None and not landing.fits:
        marks = stop_marks(stop)
    yield (Segment(f"{label:<7}", tone), Segment(f" {landing.text.source}:{landing.text.number}", "quiet"))
    text = landing.text.text
    lines = draw(text, marks, width - 2, charset) if text or marks else [(Segment("(nothing)", "quiet"),)]
    for line in lines:
        yield (Segment("  "), *line)
    if stop is not None and not landing.fits:
        yield from paragraph("stopped", visible(stop_words(stop), charset), width, indent=2)
    if landing.of_nothing:
        words = f"it matches nothing, at {landing.matches[0][0][0]}: all it asks for may be left out"
        yield from paragraph("note", words, width, indent=2)


def tally_line(tally: Tally, what: str) -> Line:
    """Yield the counts of a run."""
    share = f"{100 * tally.fit / tally.texts:.1f} %" if tally.texts else "none"
    told = f"{counted(tally.texts, what)}: {tally.fit:,} fit ({share}), {tally.missed:,} do not"
    if tally.nothing:
        told += f"; {tally.nothing:,} of the matches take nothing"
    if tally.gave_up:
        told += f"; {tally.gave_up:,} given up after their budget"
    return (Segment(told, "good" if tally.fit else "bad"),)


def field_table(landings: Sequence[Landing], names: Sequence[str], width: int, charset: Charset) -> Iterator[Line]:
    """Yield the captured fields of the texts that fit, one row a match."""
    rows = [
        [str(each.text.number), *(_cell(each, span) for span in spans[1:])]
        for each in landings
        for spans in each.matches
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


def _left(cell: str, size: int) -> str:
    return cell + " " * (size - width_of(cell) + 2)


def _cell(landing: Landing, span: tuple[int, int]) -> str:
    return "(absent)" if span[0] < 0 else landing.text.text[slice(*span)]


_SHIFTS = {"gained": ("gained", "good"), "lost": ("lost", "bad"), "otherwise": ("other", "warn")}


def shift_lines(
    each: Shift, names: tuple[Sequence[str], Sequence[str]], width: int, charset: Charset
) -> Iterator[Line]:
    """Yield a text on which two expressions differ, with the ruler of each that fits."""
    label, tone = _SHIFTS[each.kind]
    yield (Segment(f"{label:<7}", tone), Segment(f" {each.now.text.source}:{each.now.text.number}", "quiet"))
    for head, landing, own_names in (("before", each.before, names[0]), ("now", each.now, names[1])):
        if not landing.fits:
            continue
        if each.kind == "otherwise":
            yield (Segment(f"  {head}", "quiet"),)
        text = landing.text.text
        marks = [mark for spans in landing.matches for mark in group_marks(text, spans, own_names, charset)]
        for line in draw(text, marks, width - 2, charset):
            yield (Segment("  "), *line)


def shifts_line(shifts: Shifts) -> Line:
    """Yield the counts of a comparison."""
    told = f"against the other: {shifts.gained:,} gained, {shifts.lost:,} lost, {shifts.otherwise:,} captured otherwise"
    same = not (shifts.gained or shifts.lost or shifts.otherwise)
    return (Segment(told, "good" if same else "warn"),)


def landing_as_data(landing: Landing, names: Sequence[str], stop: Stop | None) -> dict[str, Any]:
    """Return a landing as plain data; places are code-point offsets into the text."""
    data: dict[str, Any] = {
        "source": landing.text.source,
        "line": landing.text.number,
        "text": landing.text.text,
        "fits": landing.fits,
        "matches": [
            {
                "place": list(spans[0]),
                "fields": {
                    name: None if span[0] < 0 else {"text": landing.text.text[slice(*span)], "place": list(span)}
                    for name, span in zip(names, spans[1:], strict=True)
                },
            }
            for spans in landing.matches
        ],
    }
    if stop is not None and not landing.fits:
        data["stopped"] = {"text": stop.text, "wanted": stop.wanted, "found": stop.found}
    return data


def tally_as_data(tally: Tally) -> dict[str, int]:
    """Return the counts as plain data."""
    return {
        "texts": tally.texts,
        "fit": tally.fit,
        "missed": tally.missed,
        "nothing": tally.nothing,
        "gave_up": tally.gave_up,
    }
