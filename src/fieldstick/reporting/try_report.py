"""What a draft fits and what it misses, for a person and as JSON."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.matching.result import DID_NOT_MATCH
from fieldstick.reporting.document import Labelled, Ruled, Said, Texts, said
from fieldstick.reporting.marks import marks_of, tone_of
from fieldstick.reporting.why_report import stop_marks, stop_words
from fieldstick.reporting.words import counted

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.comparing.drafts import Shift, Shifts
    from fieldstick.drafting.diagnosis import Stop
    from fieldstick.matching.result import FieldValue
    from fieldstick.reporting.document import Block
    from fieldstick.runs.trying import Tried, TryTally


def tried_report(tried: Tried, stop: Stop | None, more: int = 0) -> Iterator[Block]:
    """Yield a text with its ruler; a miss with the place where it stopped, or with what else keeps it out.

    `more` are those like it that were seen until then.
    """
    label, tone = ("fits", "good") if tried.fits else ("gave up" if tried.gave_up else "misses", "bad")
    alike = f", and {more:,} like it" if more else ""
    yield said((f"{label:<7}", tone), (f" {tried.source}:{tried.number}{alike}", "quiet"))
    yield Ruled(tried.text, stop_marks(stop) if stop is not None else tuple(marks_of(tried.result)), indent=2)
    unfit = tried.result.unfit
    if stop is not None:
        yield Labelled("stopped", stop_words(stop), indent=2)
    elif unfit is not None and not tried.gave_up and (unfit.reason != DID_NOT_MATCH or unfit.member is not None):
        yield Labelled("because", unfit.words, indent=2)
    if tried.of_nothing:
        assert tried.result.place is not None
        words = f"it matches nothing, at {tried.result.place[0]}: all it asks for may be left out"
        yield Labelled("note", words, indent=2)


def tally_line(tally: TryTally, what: str) -> Said:
    """Return the counts of a run."""
    share = f"{100 * tally.fit / tally.texts:.1f} %" if tally.texts else "none"
    told = f"{counted(tally.texts, what)}: {tally.fit:,} fit ({share}), {tally.missed:,} do not"
    if tally.nothing:
        told += f"; {tally.nothing:,} of the matches take nothing"
    if tally.gave_up:
        told += f"; {tally.gave_up:,} given up after their budget"
    return said((told, "good" if tally.fit else "bad"))


def field_table(tries: Sequence[Tried], names: Sequence[str]) -> Iterator[Block]:
    """Yield the captured fields of the texts that fit, one row a match."""
    rows = tuple(
        (str(each.number), *(_cell(fields.get(name)) for name in names))
        for each in tries
        if each.fits
        for fields in _fields_of(each)
    )
    if rows and names:
        yield Texts(("line", *names), rows, ("quiet", *map(tone_of, range(len(names)))))
        yield said()


def _fields_of(tried: Tried) -> Iterator[dict[str, FieldValue | None]]:
    """Yield the fields of each taken match, those of the other members of an `all_of` beside the first one's."""
    if tried.result.also:
        yield tried.result.fields
    else:
        yield from (match.fields for match in tried.result.matches)


def _cell(field: FieldValue | None) -> str:
    return "(absent)" if field is None else field.text


_SHIFTS = {"gained": ("gained", "good"), "lost": ("lost", "bad"), "otherwise": ("other", "warn")}


def shift_report(each: Shift) -> Iterator[Block]:
    """Yield a text on which two drafts differ, with the ruler of each that fits."""
    label, tone = _SHIFTS[each.kind]
    yield said((f"{label:<7}", tone), (f" {each.now.source}:{each.now.number}", "quiet"))
    for head, tried in (("before", each.before), ("now", each.now)):
        if not tried.fits:
            continue
        if each.kind == "otherwise":
            yield said((f"  {head}", "quiet"))
        yield Ruled(tried.text, tuple(marks_of(tried.result)), indent=2)


def shifts_line(shifts: Shifts) -> Said:
    """Return the counts of a comparison."""
    told = f"against the other: {shifts.gained:,} gained, {shifts.lost:,} lost, {shifts.otherwise:,} captured otherwise"
    same = not (shifts.gained or shifts.lost or shifts.otherwise)
    return said((told, "good" if same else "warn"))


def tried_as_data(tried: Tried, stop: Stop | None, more: int = 0) -> dict[str, Any]:
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
    if more:
        data["more"] = more
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
