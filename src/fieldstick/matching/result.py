"""What came of reading one text with one pattern.

All places are code-point offsets into the text, start included, end not.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Literal

from msgspec import Struct

if TYPE_CHECKING:
    from fieldstick.engines.protocol import Span, Spans
    from fieldstick.suites.fieldtypes import FieldSpec, Value

UnfitReason = Literal["did-not-match", "field-invalid", "gave-up", "blank"]

DID_NOT_MATCH: UnfitReason = "did-not-match"
FIELD_INVALID: UnfitReason = "field-invalid"
GAVE_UP: UnfitReason = "gave-up"
BLANK: UnfitReason = "blank"


class FieldValue(Struct, frozen=True):
    """One captured value: its text as captured, its place, and what the text converts to.

    `value` is None when the text does not convert or breaks a bound; an absent group has no FieldValue.
    """

    name: str
    text: str
    place: Span
    type: str
    value: Value | None


class Layout(Struct, frozen=True):
    """The fields of an expression in the engine's order: names, and what is asked of each.

    A spec of None is a text without bounds.
    """

    names: tuple[str, ...]
    specs: tuple[FieldSpec | None, ...]
    typed: tuple[int, ...]
    """The indexes of the fields that have a spec."""

    def spec(self, name: str) -> FieldSpec | None:
        """Return the spec of the field of that name; None also when there is no such field."""
        return self.specs[self.names.index(name)] if name in self.names else None


class Match(Struct, frozen=True):
    """One match in `source`: the span of the whole and of every group, and the values of the typed fields."""

    source: str
    spans: Spans
    layout: Layout
    values: tuple[Any, ...]
    """One for each index in `layout.typed`; None where the text does not convert or the group is absent."""

    @property
    def place(self) -> Span:
        """Where the whole match lies."""
        return self.spans[0]

    @property
    def text(self) -> str:
        """The text of the whole match."""
        start, end = self.spans[0]
        return self.source[start:end]

    @property
    def fields(self) -> dict[str, FieldValue | None]:
        """Every field by name; None for a group that took no part."""
        values = dict(zip(self.layout.typed, self.values, strict=True))
        return {
            name: self._field(name, self.spans[index + 1], self.layout.specs[index], values.get(index))
            for index, name in enumerate(self.layout.names)
        }

    def _field(self, name: str, place: Span, spec: FieldSpec | None, value: Any) -> FieldValue | None:
        start, end = place
        if start < 0:
            return None
        text = self.source[start:end]
        if spec is None:
            return FieldValue(name, text, place, "text", text)
        return FieldValue(name, text, place, spec.type, value)


class Unfit(Struct, frozen=True):
    """Why a text does not fit: the one type for it, from matching to reports.

    `reason` is `did-not-match`, `field-invalid`, `gave-up` where the text spent its budget, or, in a form, `blank`.
    `words` complete the sentence "the pattern does not fit: ...". `field` names the field that does not
    convert or breaks a bound; `member` the member of a combination that decided.
    """

    reason: UnfitReason
    words: str
    field: str | None = None
    member: str | None = None


NO_MATCH = Unfit(DID_NOT_MATCH, "the expression does not match")
"""What bulk work says of a text that does not match; `Matcher.read` says it in more words."""

OUT_OF_BUDGET = Unfit(GAVE_UP, "reading it took longer than the budget")


class Result(Struct, frozen=True):
    """A text read with a pattern.

    `matches` are the taken matches; where a field is invalid they stand here too, though the text does not
    fit. `also` holds the first match of each further member of an `all_of`. `member` names the member of a
    combination that decided. `message` is what whoever typed an unfitting text should be told.
    """

    text: str
    matches: tuple[Match, ...] = ()
    unfit: Unfit | None = None
    member: str | None = None
    also: tuple[Match, ...] = ()
    message: str | None = None

    @property
    def fits(self) -> bool:
        """Whether the pattern fits the text."""
        return self.unfit is None

    @property
    def place(self) -> Span | None:
        """Where the first taken match lies; None without a match."""
        return self.matches[0].place if self.matches else None

    @property
    def fields(self) -> dict[str, FieldValue | None]:
        """The fields of the first taken match, and of the other members of an `all_of`."""
        merged: dict[str, FieldValue | None] = {}
        for match in (*self.matches[:1], *self.also):
            for name, value in match.fields.items():
                merged.setdefault(name, value)
        return merged

    def spec(self, name: str) -> FieldSpec | None:
        """Return what is asked of the field of that name; None for a text without bounds."""
        for match in (*self.matches[:1], *self.also):
            if name in match.layout.names:
                return match.layout.spec(name)
        return None
