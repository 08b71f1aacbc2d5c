"""Tells whether a changed setting of a pattern fits, as the pattern's matcher would, and which member decides."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from msgspec import Struct
from msgspec.structs import replace

from fieldstick.drafting.context import Beside, Harm
from fieldstick.drafting.read_here import parsed_here
from fieldstick.engines.probing import tried
from fieldstick.errors import ExpressionError
from fieldstick.matching.prepare import prepare
from fieldstick.matching.result import FIELD_INVALID, GAVE_UP
from fieldstick.suites.parts import fill_plain

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from fieldstick.drafting.context import FieldChange, MatchCase
    from fieldstick.matching.result import Result
    from fieldstick.suites.suite import Pattern, Sample


Path = tuple[tuple[str, str], ...]
"""The combination (any_of, all_of, none_of) and the name of the member at each step to a member."""


def changed_pattern(pattern: Pattern, case: MatchCase) -> Pattern:
    """Return a pattern with the expression, flags and reach of a setting, parameters filled in already."""
    filling = fill_plain(case.expression)
    return replace(pattern, filling=filling, flags=case.flags, reach=case.reach, parameters=())


def with_field(pattern: Pattern, change: FieldChange | None) -> Pattern:
    """Return a pattern with what is asked of a field changed."""
    if change is None:
        return pattern
    table = replace(pattern.fields[change.name], **change.keys)
    return replace(pattern, fields={**pattern.fields, change.name: table})


def whole_fits(
    pattern: Pattern, path: Path, case: MatchCase, values: Mapping[str, str], change: FieldChange | None = None
) -> bool:
    """Tell whether a pattern made of others fits when the member that a path leads to is as in a setting."""

    def with_member(outer: Pattern, left: Path) -> Pattern:
        if not left:
            return with_field(changed_pattern(outer, case), change)
        members = [with_member(each, left[1:]) if each.name == left[0][1] else each for each in outer.members]
        return replace(outer, members=tuple(members))

    try:
        return prepare(with_member(pattern, path), values).read_or_give_up(case.text).fits
    except ExpressionError:
        return False


class OwnJudge:
    """Tells whether a setting of a pattern fits: fields, bounds and which match is taken count."""

    def __init__(self, pattern: Pattern) -> None:
        self._pattern = pattern
        self._plain = not pattern.fields and pattern.take in ("first", "all")
        self._own = pattern.filling.text({}) if pattern.filling is not None and not pattern.parameters else None
        self.has_refused = False
        """Whether a field refused what the engine took by some setting."""

    def __call__(self, case: MatchCase) -> bool | None:
        found = tried(case.expression, case.flags, case.reach, case.text)
        # What takes long once it is changed is not read again, in the pattern's own time.
        if self._plain or found is False or (found is None and self._own is not None and case.expression != self._own):
            return found
        try:
            reading = prepare(changed_pattern(self._pattern, case)).read_or_give_up(case.text)
        except ExpressionError:
            return False
        reason = reading.unfit.reason if reading.unfit is not None else None
        self.has_refused = self.has_refused or reason == FIELD_INVALID
        return None if reason == GAVE_UP else reading.fits


class KnownText(Struct, frozen=True):
    """A text of which it is known whether it should fit; a positive sample's fields are known too.

    `captured` is what its named fields hold now, where it fits now as it should; `was_wrong` that what comes of it now
    is not what should.
    """

    text: str
    should_fit: bool
    expected: Mapping[str, Any] = {}
    captured: Mapping[str, Any] | None = None
    was_wrong: bool = False


class KnownTexts:
    """What is known beside the text in question: the pattern's samples, and texts that are given for the purpose."""

    def __init__(
        self,
        pattern: Pattern,
        text: str,
        *,
        samples: Sequence[Sample] = (),
        fitting: Sequence[str] = (),
        unfitting: Sequence[str] = (),
        values: Mapping[str, str] | None = None,
    ) -> None:
        self._pattern = pattern
        wanted = [each for each in samples if each.text != text and dict(each.values) == dict(values or {})]
        self._plain = not pattern.fields and pattern.take in ("first", "all")
        found = [KnownText(each.text, each.kind == "positive", dict(each.fields)) for each in wanted]
        found += [KnownText(each, True) for each in fitting] + [KnownText(each, False) for each in unfitting]
        self.texts = tuple(self._as_it_is(each, values or {}) for each in found)

    def _as_it_is(self, known: KnownText, values: Mapping[str, str]) -> KnownText:
        try:
            reading = prepare(self._pattern, values).read_or_give_up(known.text)
        except ExpressionError:
            return replace(known, was_wrong=True)
        captured = _captured(reading) if known.should_fit and reading.fits else None
        return replace(known, captured=captured, was_wrong=self._is_wrong(known, reading))

    @property
    def beside(self) -> Beside:
        """The texts alone, by what should come of them."""
        fitting = tuple(each.text for each in self.texts if each.should_fit)
        return Beside(fitting, tuple(each.text for each in self.texts if not each.should_fit))

    def harm(self, case: MatchCase, pattern: Pattern | None = None) -> Harm:
        """Count those of which a setting, or the pattern that a change makes, turns or leaves the outcome wrong."""
        wrong: list[KnownText] = []
        try:
            matcher = prepare(pattern or changed_pattern(self._pattern, case))
            wrong = [each for each in self.texts if self._is_wrong(each, matcher.read_or_give_up(each.text))]
        except ExpressionError:
            wrong = list(self.texts)
        leaves = sum(each.was_wrong for each in wrong)
        return Harm(len(wrong) - leaves, leaves)

    @staticmethod
    def _is_wrong(known: KnownText, reading: Result) -> bool:
        if reading.fits is not known.should_fit:
            return True
        if not known.should_fit:
            return False
        now = _captured(reading)
        held = known.captured or {}
        changed = any(now.get(name) != value for name, value in held.items() if name in now)
        lost = any(name not in now for name in held)
        return changed or lost or any(not _agrees(reading, name, wanted) for name, wanted in known.expected.items())


def _captured(reading: Result) -> dict[str, Any]:
    """Return the values of the named fields: numbers shift when a group comes or goes."""
    found = reading.fields.items()
    return {name: field.value if field is not None else None for name, field in found if not name.isdecimal()}


def _agrees(reading: Result, name: str, wanted: Any) -> bool:
    field = reading.fields.get(name)
    return field is not None and (field.text == wanted or field.value == wanted)


class Deciding(Struct, frozen=True):
    """The member of a pattern made of others that decides about a text, and the path that leads to it."""

    pattern: Pattern
    path: Path = ()


def deciding(pattern: Pattern, text: str, values: Mapping[str, str]) -> Deciding:
    """Return the member that decides whether a text fits; of several that do not, the one that came furthest."""
    path: list[tuple[str, str]] = []
    while pattern.combination is not None:
        fitting = [member for member in pattern.members if _reads(member, text, values)]
        missing = [member for member in pattern.members if member not in fitting]
        wanted = missing if pattern.combination == "all_of" else fitting
        candidates = wanted[:1] or (missing or fitting)
        chosen = max(candidates, key=lambda member: _progress(member, text, values))
        path.append((pattern.combination, chosen.name))
        pattern = chosen
    return Deciding(pattern, tuple(path))


def _reads(pattern: Pattern, text: str, values: Mapping[str, str]) -> bool:
    return prepare(pattern, pattern.own_values(values)).read_or_give_up(text).fits


def _progress(pattern: Pattern, text: str, values: Mapping[str, str]) -> int:
    """Tell how far a pattern that does not fit came; of one made of others, the best of them."""
    if pattern.combination is not None:
        return max((_progress(member, text, values) for member in pattern.members), default=0)
    from fieldstick.drafting.tracer import trace

    parsed = parsed_here(pattern, pattern.own_values(values))
    return trace(parsed, text, pattern.reach).furthest if parsed is not None else 0
