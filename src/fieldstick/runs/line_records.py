"""Tells from the kinds of line of a source that lines of it belong together, and what the first of them begins with.

Lines begin with labels (`Holder: …`, `site = …`) of which several come equally often; or lines with a moment, or with
how grave they are, have others behind them that begin with a blank, or come alone between others.
"""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

from fieldstick.lean import compiled_later
from fieldstick.runs.line_slots import TYPED, has_word

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.runs.line_kinds import LineKinds
    from fieldstick.runs.line_templates import Form

FEWEST_RECORDS, FEWEST_LABELS = 5, 3
"""Records, and labels that come as often as they do, from which on that is no chance."""

EQUALLY = 0.02
"""The share by which counts differ, at the most, that are taken for one: of large sources a sample is counted."""

MOST_LABEL_PIECES = 4
"""Pieces of a label."""

LABELLED, INDENTED, BEGUN = 0.5, 0.005, 0.1
"""The shares of lines that have a label, that begin with a blank, and that begin with a moment, at the least."""

NEARLY_ALL = 0.95
"""The share of lines with a moment that must begin alike."""

_END_LABEL = (":", "=")
"""What a label ends with."""
_BLANKS = (" ", "\t")
_HAS_LABEL = frozenset("".join(_END_LABEL))

_MOMENTS = ("date", "time", "timestamp")
_STAMP = compiled_later(r"[\[(<]?\d+(?:[^\w\s]+(?:\d+|[A-Z][a-z]+)){2}")
_LEVEL = compiled_later("[A-Z]{4,}:")
_DAYS = tuple(map(compiled_later, (r"\d{1,2} [A-Z][a-z]+", r"\d{1,2} [A-Z][a-z]+ \d{4}")))
_OF_SYSTEM = compiled_later(r"[A-Z][a-z]{2} [ \d]\d \d\d:\d\d:\d\d")
_MARKS = compiled_later(r"[\\.^$*+?{}\[\]|()]")
_RUN = compiled_later(r"\d+|[A-Z]+|[a-z]+|.")


def record_start(kinds: LineKinds) -> str | None:
    """Return an expression for what the first line of each record begins with; None where lines are no such records."""
    forms = kinds.all_forms()
    if kinds.mark or not forms:
        return None
    start = _by_labels(forms) or _by_moments(forms)
    # It is shown between apostrophes.
    return start if start and "'" not in start else None


def _by_labels(forms: Sequence[Form]) -> str | None:
    counts = Counter[str]()
    for form in forms:
        # Few lines have a label at all.
        if not _HAS_LABEL.isdisjoint("".join(form.pieces[:MOST_LABEL_PIECES])):
            start, is_label = _start_of(form.pieces)
            counts[start] += form.count * is_label
    often = max(counts.values(), default=0)
    equal = [each for each in counts if counts[each] >= (1 - EQUALLY) * often]
    if often < FEWEST_RECORDS or len(equal) < FEWEST_LABELS:
        return None
    if counts.total() < LABELLED * sum(form.count for form in forms if any(form.pieces)):
        return None
    begun, first = Counter[str](), dict[str, int]()
    for form in forms:
        start, _ = _start_of(form.pieces)
        begun[start] += form.count
        first[start] = min(first.get(start, form.first), form.first)
    as_often = [each for each in begun if each and abs(begun[each] - often) <= EQUALLY * often + 1]
    begin = min(as_often, key=first.__getitem__)
    return f"^{_escaped(begin)}"


def _start_of(pieces: tuple[str, ...]) -> tuple[str, bool]:
    """Return the label that a line begins with, or else the words before its first slot; and whether it is a label."""
    words: list[str] = []
    for piece in pieces[:MOST_LABEL_PIECES]:
        slot = TYPED.search(piece)
        if slot is not None:
            words += [piece[: slot.start()]] * (slot.start() > 0)
            break
        words.append(piece)
        if piece.endswith(_END_LABEL) and any(map(has_word, words)):
            return " ".join(words), True
    return " ".join(words), False


def _by_moments(forms: Sequence[Form]) -> str | None:
    lines = sum([form.count for form in forms])
    indented = sum([form.count for form in forms if form.example[:1] in _BLANKS])
    are_followed = indented >= INDENTED * lines
    begun: list[Form] = []
    for form in forms:
        if not form.pieces or not _begins_with_moment(form):
            continue
        begun.append(form)
        if not are_followed and len(form.pieces) > 1:
            # Neither are there lines behind it, nor does it stand alone.
            return None
    count = sum([form.count for form in begun])
    if are_followed:
        told = count >= max(FEWEST_RECORDS, BEGUN * lines)
    else:
        told = FEWEST_LABELS <= count < lines - count
    if not told:
        return None
    spelled = Counter[str]()
    for form in begun:
        spelled[_spelled(form.example)] += form.count
    [(start, most)] = spelled.most_common(1)
    return start if most >= NEARLY_ALL * count else None


def _begins_with_moment(form: Form) -> bool:
    """Tell whether lines begin with a moment, or with how grave they are."""
    first = form.pieces[0]
    slot = TYPED.match(first.lstrip("[(<")) if "⟨" in first[:3] else None
    return (slot is not None and slot[1] in _MOMENTS) or _LEVEL.match(form.example) is not None


def _escaped(text: str) -> str:
    return _MARKS.sub(r"\\\g<0>", text)


def _spelled(line: str) -> str:
    """Return an expression for what lines begin with that begin with a moment as one does."""
    if _LEVEL.match(line):
        return f"^{_LEVEL.pattern}"
    found = _STAMP.match(line)
    if found is None:
        day = next((each for each in _DAYS if each.fullmatch(line.rstrip())), None)
        return f"^{day.pattern}$" if day is not None else f"^{_OF_SYSTEM.pattern}" if _OF_SYSTEM.match(line) else ""
    made = "^"
    for run in _RUN.findall(found[0]):
        kind = r"\d" if run.isdecimal() else "[A-Z]" if run.isupper() else "[a-z]" if run.islower() else _escaped(run)
        made += kind + (f"{{{len(run)}}}" if len(run) > 1 else "")
    return made
