"""What `why` finds out of a text and a pattern, for every face that tells it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct
from msgspec.structs import replace

from fieldstick.drafting.applying import edited
from fieldstick.drafting.context import MatchCase
from fieldstick.drafting.diagnosis import diagnose, recaptures
from fieldstick.drafting.judge import KnownTexts, OwnJudge, changed_pattern, deciding, whole_fits
from fieldstick.drafting.readable import fault_of
from fieldstick.errors import UsageError
from fieldstick.matching.prepare import prepare
from fieldstick.matching.result import FIELD_INVALID, GAVE_UP
from fieldstick.reporting.marks import marks_of
from fieldstick.reporting.why_report import Answer
from fieldstick.runs.judging import judge_sample
from fieldstick.suites.places import locate
from fieldstick.suites.suite import line_of

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping, Sequence

    from fieldstick.drafting.applying import WrittenChange
    from fieldstick.drafting.context import Beside, Harm, Repair
    from fieldstick.drafting.judge import Deciding
    from fieldstick.matching.result import Result
    from fieldstick.suites.suite import Sample, Suite
    from fieldstick.workspace import Chosen


def answer_of(chosen: Chosen, text: str, beside: Beside) -> Answer:
    """Return why a text fits or does not: by the member that decides, and by what is known of the text already."""
    pattern = chosen.pattern
    if pattern.filling is not None and pattern.engine == "python":
        case = MatchCase(chosen.expression, pattern.flags, pattern.reach, text)
        if fault_of(case) is not None:
            known = _known(chosen, text, beside)
            made = diagnose(case, _counting(known), beside=known.beside, judge=OwnJudge(pattern))
            return Answer(
                made,
                False,
                known=_sample_of(chosen, text),
                parts=chosen.parts,
                homes=_homes(chosen),
                part_texts=_part_texts(chosen),
            )
    reading = chosen.matcher.read_or_give_up(text)
    if reading.unfit is not None and reading.unfit.reason == GAVE_UP:
        empty = diagnose(MatchCase("", frozenset(), "whole", ""))
        return Answer(empty, False, gave_up=reading.unfit.words)
    return _explained(chosen, deciding(pattern, text, chosen.values), reading, text, beside)


def column_answers(columns: Sequence[Chosen], row: Mapping[str, str], beside: Beside) -> list[Answer]:
    """Return why each column of a row is rejected; of a row that is accepted, why each one fits.

    Raises UsageError for a row that has none of the form's columns.
    """
    if not any(each.column in row for each in columns):
        known = ", ".join(f"'{each.column}'" for each in columns)
        raise UsageError(f"the row has none of the form's columns, which are {known}")
    found = [
        replace(answer_of(each, row[each.column], beside), column=each.column)
        for each in columns
        if each.column in row and row[each.column].strip()
    ]
    rejected = [each for each in found if not each.fits]
    return rejected or found


def _known(chosen: Chosen, text: str, beside: Beside) -> KnownTexts:
    return KnownTexts(
        chosen.pattern,
        text,
        samples=chosen.pattern.samples if chosen.is_kept else (),
        fitting=beside.fitting,
        unfitting=beside.unfitting,
        values=chosen.values,
    )


def _counting(known: KnownTexts) -> Callable[[MatchCase], Harm] | None:
    return known.harm if known.texts else None


def _sample_of(chosen: Chosen, text: str) -> str | None:
    """Return what a text is known as, and where."""
    sample = _sample(chosen, text)
    if sample is None or chosen.suite is None:
        return None
    return f"{sample.kind} sample, {chosen.suite.file}:{chosen.suite.line_of(sample.path)}"


def _sample(chosen: Chosen, text: str) -> Sample | None:
    """Return the sample of a kept pattern that a text is."""
    if chosen.suite is None:
        return None
    known = (each for each in chosen.pattern.samples if each.text == text)
    return next((each for each in known if dict(each.values) == dict(chosen.values)), None)


def _homes(chosen: Chosen) -> dict[str, str]:
    """Return the file and line of each part that the expression uses."""
    if chosen.suite is None:
        return {}
    found = {}
    for name in dict.fromkeys(chosen.parts.values()):
        file, own = chosen.suite.home_of_part(name)
        line = line_of(locate(_document_of(chosen.suite, file)), ("parts", own))
        found[name] = f"{file}:{line}" if line else file
    return found


def _document_of(suite: Suite, file: str) -> str:
    """Return the text of a suite, or of one that it borrows from."""
    if file == suite.file:
        return suite.document
    with open(file, encoding="utf-8-sig") as stream:
        return stream.read()


def _part_texts(chosen: Chosen) -> Mapping[str, str]:
    """Return what each part reads that the expression uses."""
    filling = chosen.pattern.filling
    return filling.part_texts if filling is not None else {}


def _explained(chosen: Chosen, found: Deciding, reading: Result, text: str, beside: Beside) -> Answer:
    pattern = found.pattern
    values = pattern.own_values(chosen.values)
    own = replace(chosen, pattern=pattern, values=values)
    case = MatchCase(own.expression, pattern.flags, pattern.reach, text)
    known = _known(own, text, beside)
    judge = OwnJudge(pattern)
    made = diagnose(case, _counting(known), beside=known.beside, judge=judge)
    own_reading = own.matcher.read_or_give_up(text)
    unfit = own_reading.unfit if made.stopped is None else None
    sample = _sample(own, text)
    differs = _differs(own, sample) if own_reading.fits and not found.path else None
    if differs is not None and sample is not None:
        meant = sample

        def as_meant(changed: MatchCase) -> bool | None:
            return judge_sample(prepare(changed_pattern(pattern, changed)), meant).outcome == "pass"

        made = replace(made, repairs=recaptures(case, as_meant, _counting(known), beside=known.beside))
    if pattern.fields and not made.fits and made.fault is None and made.stopped is not None:
        from fieldstick.drafting.joint_repairs import with_fields_changed

        repairs = with_fields_changed(pattern, case, known, made.repairs, others=judge.has_refused)
        made = replace(made, repairs=repairs)
    if unfit is not None and unfit.reason == FIELD_INVALID:
        from fieldstick.drafting.slips.fields import field_repairs

        made = replace(made, repairs=field_repairs(pattern, case, own_reading, known))
    if found.path:
        # What changes the member must change what comes of the whole.
        helps = [
            each
            for each in made.repairs
            if whole_fits(chosen.pattern, found.path, each.case, chosen.values, each.field) != reading.fits
        ]
        made = replace(made, repairs=tuple(helps))
    return Answer(
        made,
        reading.fits,
        tuple(marks_of(own_reading)),
        unfit.words if unfit is not None else None,
        unfit.field if unfit is not None else None,
        found.path,
        _sample_of(chosen, text),
        own.parts,
        _homes(own),
        part_texts=_part_texts(own),
        differs=differs,
    )


def _differs(chosen: Chosen, sample: Sample | None) -> str | None:
    """Say how what is captured differs from what a positive sample asks for; None where nothing does."""
    if sample is None or sample.kind != "positive":
        return None
    judged = judge_sample(chosen.matcher, sample)
    if not judged.differences:
        return None
    first = judged.differences[0]
    wanted, captured = (each if each is not None else "nothing" for each in (first.expected, first.captured))
    return f"{judged.words}: the sample asks for {wanted}, and it is {captured}"


class Writing(Struct, frozen=True):
    """Where a change is written, and what a file's text is after it."""

    file: str
    changed: Callable[[str], str]


def writing_of(chosen: Chosen, answer: Answer, repair: Repair) -> Writing:
    """Return how a change is written to the suite that keeps the pattern, or to the one that keeps the part it is in.

    Raises UsageError where it cannot be written: for a member that another suite keeps, and where values were put in.
    """
    suite, found = chosen.suite, answer.found
    assert suite is not None
    name = answer.path[-1][1] if answer.path else chosen.pattern.name
    if name not in suite.patterns:
        raise UsageError(f"'{name}' is kept in another suite; ask why there, and --apply it there")
    change: WrittenChange | None = None
    file = suite.file
    if repair.case.expression != found.case.expression:
        if chosen.values:
            raise UsageError("a pattern with parameters is changed in its file: the change was tried with their values")
        change = answer.written_change(repair)
        if change.part is not None:
            file, own = suite.home_of_part(change.part)
            change = replace(change, part=own)
    return Writing(file, lambda document: edited(document, suite.patterns[name], found.case, repair, change))
