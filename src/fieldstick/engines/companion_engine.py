"""Engines that run in a process of their own: the one road by which every one of them is asked."""

from __future__ import annotations

import sys
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.engines.capture_groups import group_names
from fieldstick.engines.companion import Companion, Companions, coded, decoded
from fieldstick.engines.places import in_points
from fieldstick.engines.protocol import REACHES, Reach
from fieldstick.errors import EngineFailure, EngineUnusable, ExpressionError, FieldstickError

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.engines.places import Unit
    from fieldstick.engines.protocol import Spans

LETTERS = {"ignore-case": "i", "multiline": "m", "dotall": "s", "verbose": "x", "ascii": "a"}
"""The letter of each flag in a request."""

_PACKAGES = Path(__file__).parent.parent.parent
_LIBRARY = "fieldstick.engines.sides.library"

_READ = {
    "perl": {"quoted": True, "nested": False},
    "java": {"quoted": True, "nested": True},
    "javascript": {"quoted": False, "nested": False},
}
"""How names of groups are read where an engine does not tell them; see `capture_groups`."""

SIDES = Path(__file__).with_name("sides")
"""Where the programs are that speak for an engine."""


class Speaker(Struct, frozen=True):
    """The program that speaks for an engine: an interpreter with arguments, or this one's with an adapter's name.

    `flags` are those of a pattern that the engine has, `reaches` those that it can judge. A `bounded` process has a
    bound of memory; runtimes that reserve address space have their own. `by_clock` is said of one that others work for,
    so that a budget is of the clock's time. `names` is the notation in which names of
    groups are read, for an engine that does not tell them.
    """

    engine: str
    adapter: str | None = None
    program: str = ""
    arguments: tuple[str, ...] = ()
    flags: tuple[str, ...] = tuple(LETTERS)
    reaches: tuple[Reach, ...] = REACHES
    bounded: bool = True
    by_clock: bool = False
    names: str | None = None

    def started(self) -> Companion:
        """Start it. Raises EngineUnusable, CompanionEnded or OSError."""
        if self.adapter is not None:
            # From where this package was imported, whatever the environment says.
            start = f"import sys; sys.path.insert(0, {str(_PACKAGES)!r}); from {_LIBRARY} import main; main()"
            command = [sys.executable, "-I", "-c", start, self.adapter]
        else:
            import shutil

            found = shutil.which(self.program)
            if found is None:
                raise EngineUnusable(self.engine, f"the program {self.program} is not on the path")
            command = [found, *self.arguments]
        return Companion(command, bounded=self.bounded, by_clock=self.by_clock)


class CompanionEngine:
    """An engine that runs in a process of its own."""

    def __init__(self, speaker: Speaker) -> None:
        self.name, self.speaker = speaker.engine, speaker
        self.companions = Companions(self.name, speaker.started)
        self._unusable: EngineUnusable | None = None

    def version(self) -> str:
        """See `Engine.version`."""
        return self._running().version

    def _running(self) -> Companion:
        # What could not be started once is not tried again for each pattern.
        if self._unusable is not None:
            raise self._unusable
        try:
            return self.companions.running()
        except EngineUnusable as error:
            self._unusable = error
            raise

    def compile(self, expression: str, flags: frozenset[str]) -> CompanionCompiled:
        """See `Engine.compile`."""
        unit = self._running().unit
        for flag in sorted(flags - set(self.speaker.flags)):
            raise ExpressionError(f"{self.name} has no flag like {flag}", None)
        letters = "".join(LETTERS[flag] for flag in LETTERS if flag in flags) or "-"
        try:
            word = coded(expression)
        except UnicodeEncodeError as error:
            raise ExpressionError("half of a surrogate pair", error.start) from None
        asked = (f"{letters}{word}", letters, word)
        try:
            kind, *words = self.companions.compiled(*asked)
        except EngineFailure as error:
            raise ExpressionError(str(error), None) from None
        if kind != "ok":
            offset, rule = int(words[0]), decoded(words[1])
            known = 0 <= offset <= len(expression.encode())
            place = _nearest_point(expression, offset, unit) if known else None
            raise ExpressionError(rule, place, given=(expression, flags))
        told = [decoded(word) for word in words]
        if self.speaker.names is not None:
            read = group_names(expression, **_READ[self.speaker.names], verbose="verbose" in flags)
            told = read if len(read) == len(told) else told
        names = tuple(name or str(number) for number, name in enumerate(told, 1))
        return CompanionCompiled(self, asked, names, unit)  # type: ignore[arg-type]


class CompanionCompiled:
    """An expression compiled by an engine in a process of its own."""

    __slots__ = ("_asked", "_engine", "_unit", "group_names")

    def __init__(
        self, engine: CompanionEngine, asked: tuple[str, str, str], group_names: tuple[str, ...], unit: Unit
    ) -> None:
        self._engine, self._asked, self._unit = engine, asked, unit
        self.group_names = group_names

    @property
    def reaches(self) -> Sequence[str]:
        """See `reaches_of`."""
        return self._engine.speaker.reaches

    def matches(self, text: str, reach: Reach, budget_ms: int, wanted: int | None) -> list[Spans]:
        """Return the matches in order; see `Compiled.matches`."""
        (found,) = self.matches_many((text,), reach, budget_ms, wanted)
        if isinstance(found, FieldstickError):
            raise found
        return found

    def matches_many(
        self, texts: Sequence[str], reach: Reach, budget_ms: int, wanted: int | None
    ) -> list[list[Spans] | FieldstickError]:
        """Return of each text what `matches` returns, or the error that it raises; see `ManyAtOnce`."""
        engine = self._engine
        if reach not in engine.speaker.reaches:
            return [EngineFailure(f"{engine.name} judges whole values alone, not a match {reach}")] * len(texts)
        found: list[list[Spans] | FieldstickError] = []
        sent: list[int] = []
        requests = []
        for number, text in enumerate(texts):
            try:
                requests.append(("m", self._asked[0], reach, str(wanted or 0), coded(text)))
                sent.append(number)
                found.append([])
            except UnicodeEncodeError:
                found.append(EngineFailure(f"{engine.name} cannot be given half of a surrogate pair"))
        answers = engine.companions.matched(self._asked, requests, budget_ms)
        for number, answer in zip(sent, answers, strict=True):
            found[number] = answer if isinstance(answer, FieldstickError) else self._read(texts[number], answer)
        return found

    def __reduce__(self) -> tuple[object, ...]:
        return _again, (self._engine.speaker, self._asked, self.group_names, self._unit)

    def _read(self, text: str, answer: list[str]) -> list[Spans] | FieldstickError:
        if answer[0] == "err":
            return EngineFailure(decoded(answer[1]))
        if len(answer) < 2:
            return []
        matches = [[int(each) for each in match.split(",")] for match in answer[1].split(";")]
        if any(start > end for match in matches for start, end in zip(match[::2], match[1::2], strict=True)):
            return EngineFailure("the engine gave a group a place that ends before it begins")
        try:
            points = iter(in_points(text, [each for match in matches for each in match], self._unit))
        except EngineFailure as error:
            return error
        return [tuple([(next(points), next(points)) for _ in range(len(match) // 2)]) for match in matches]


@cache
def companion_engine(speaker: Speaker) -> CompanionEngine:
    """Return the one engine of this process that a program speaks for."""
    return CompanionEngine(speaker)


def _again(speaker: Speaker, asked: tuple[str, str, str], names: tuple[str, ...], unit: Unit) -> CompanionCompiled:
    """Return what another process had compiled, for this one."""
    return CompanionCompiled(companion_engine(speaker), asked, names, unit)


def _nearest_point(expression: str, offset: int, unit: str) -> int | None:
    try:
        return in_points(expression, [offset], unit)[0]  # type: ignore[arg-type]
    except EngineFailure:
        return None
