"""Matchers of patterns made of patterns: any, all or none of them."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace

from fieldstick.matching.matcher import Matcher, Row, Rows
from fieldstick.matching.result import DID_NOT_MATCH, GAVE_UP, NO_MATCH, Result, Unfit

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.suites.suite import Pattern

_DECIDES = {"any_of": (True, True), "all_of": (False, False), "none_of": (True, False)}
"""What a member must say to decide, and what is decided then."""


class CombinationMatcher(Matcher):
    """A pattern made of other patterns."""

    __slots__ = ("members",)

    def __init__(self, pattern: Pattern, members: tuple[Matcher, ...]) -> None:
        names = () if pattern.combination == "none_of" else [name for each in members for name in each.field_names]
        super().__init__(pattern, tuple(dict.fromkeys(names)))
        self.members = members

    def read(self, text: str) -> Result:
        """See `Matcher.read`; `member` of the result names the member that decided."""
        if self.pattern.combination == "any_of":
            return self._any_of(text)
        if self.pattern.combination == "all_of":
            return self._all_of(text)
        return self._none_of(text)

    def keep_to_engine(self) -> None:
        """See `Matcher.keep_to_engine`."""
        for member in self.members:
            member.keep_to_engine()

    def fits(self, texts: Sequence[str]) -> list[bool | None]:
        """See `Matcher.fits`; each member is asked only of the texts that are not decided yet."""
        decides, decided = _DECIDES[self.pattern.combination or "any_of"]
        found: list[bool | None] = [not decided] * len(texts)
        left = list(range(len(texts)))
        for member in self.members:
            still = []
            for index, fits in zip(left, member.fits([texts[index] for index in left]), strict=True):
                if fits is None:
                    found[index] = None
                elif fits is decides:
                    found[index] = decided
                else:
                    still.append(index)
            left = still
        return found

    def row_types(self) -> dict[str, str]:
        """See `Matcher.row_types`."""
        found: dict[str, str] = {}
        for member in self.members:
            for name, kind in member.row_types().items():
                found[name] = kind if found.get(name, kind) == kind else "mixed"
        return {name: found.get(name, "text") for name in self.row_names}

    def rows(self, texts: Sequence[str], *, with_place: bool = False) -> list[Rows]:
        """See `Matcher.rows`."""
        if self.pattern.combination != "any_of":
            return super().rows(texts, with_place=with_place)
        return self._rows_of_any(texts, with_place)

    def _rows_of_any(self, texts: Sequence[str], with_place: bool) -> list[Rows]:
        """Give each text to the members in turn, until one fits."""
        found: list[Rows] = [NO_MATCH] * len(texts)
        left: list[int] = list(range(len(texts)))
        for member in self.members:
            places = [self.row_names.index(name) for name in member.field_names]
            gave = member.rows([texts[index] for index in left], with_place=with_place)
            still = []
            for index, each in zip(left, gave, strict=True):
                if not isinstance(each, Unfit):
                    found[index] = [self._widened(row, places, with_place) for row in each]
                elif each.reason == GAVE_UP:
                    found[index] = each
                else:
                    still.append(index)
            left = still
        return found

    def _widened(self, row: Row, places: list[int], with_place: bool) -> Row:
        """Return a member's row with the values in the places that they have here."""
        head = 2 if with_place else 0
        wide: Row = [*row[:head], *([None] * len(self.row_names))]
        if not places and not self.field_names:
            wide[head] = row[head]
        for place, value in zip(places, row[head:], strict=False):
            wide[head + place] = value
        return wide

    def _any_of(self, text: str) -> Result:
        for member in self.members:
            reading = member.read(text)
            if reading.fits:
                return replace(reading, member=member.pattern.name)
        names = ", ".join(f"'{member.pattern.name}'" for member in self.members)
        return Result(text, (), Unfit(DID_NOT_MATCH, f"none of {names} fits"), message=self.pattern.message)

    def _all_of(self, text: str) -> Result:
        readings = []
        for member in self.members:
            reading = member.read(text)
            name = member.pattern.name
            if reading.unfit is not None:
                words = f"its member '{name}' does not fit: {reading.unfit.words}"
                unfit = replace(reading.unfit, words=words, member=name)
                message = reading.message or self.pattern.message
                return replace(reading, unfit=unfit, member=name, message=message)
            readings.append(reading)
        # A none_of that fits has no match: whatever it stands before has.
        first = next((each for each in readings if each.matches), readings[0])
        others = [each for each in readings if each is not first]
        also = [match for each in others for match in (*each.matches[:1], *each.also)]
        return replace(first, also=(*first.also, *also), member=None)

    def _none_of(self, text: str) -> Result:
        for member in self.members:
            reading = member.read(text)
            if reading.fits:
                name = member.pattern.name
                unfit = Unfit(DID_NOT_MATCH, f"its member '{name}' fits, and none of them may", member=name)
                return Result(text, reading.matches, unfit, name, message=self.pattern.message)
        return Result(text)
