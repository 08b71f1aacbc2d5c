"""Rewrites made ready: a text in place of each match, in one step or several."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct
from msgspec.structs import replace

from fieldstick.errors import UsageError
from fieldstick.matching.matcher import Matcher, prepare
from fieldstick.matching.template_fields import template_fields

if TYPE_CHECKING:
    from collections.abc import Mapping

    from fieldstick.engines.protocol import Span
    from fieldstick.matching.result import Match
    from fieldstick.suites.suite import Pattern
    from fieldstick.suites.templates import Template
    from fieldstick.suites.uses import Rewrite


class Rewritten(Struct, frozen=True):
    """A text rewritten: what it became, and where something was put in place of something else.

    `places` pairs the span before with the span after, as code-point offsets into `before` and `after`. It is
    empty when more than one step changed something: the offsets of one are then not those of another.
    """

    before: str
    after: str
    places: tuple[tuple[Span, Span], ...]
    count: int = 0
    """How many matches were replaced, in all steps."""

    @property
    def changed(self) -> bool:
        """Whether it became another text."""
        return self.before != self.after


class ReadyStep(Struct, frozen=True):
    """One pattern made ready, and the template of what stands in place of its matches."""

    ready: Matcher
    template: Template

    def rewritten(self, text: str) -> Rewritten:
        """Rewrite a text; one that the pattern does not fit stays as it is. Raises BudgetSpent."""
        reading = self.ready.read(text)
        if not reading.fits:
            return Rewritten(text, text, ())
        made: list[str] = []
        places: list[tuple[Span, Span]] = []
        at = length = 0
        for match in reading.matches:
            start, end = match.place
            new = self._text(match)
            made += [text[at:start], new]
            length += start - at
            places.append(((start, end), (length, length + len(new))))
            length += len(new)
            at = end
        return Rewritten(text, "".join([*made, text[at:]]), tuple(places), len(places))

    def _text(self, match: Match) -> str:
        return self.template.filled(template_fields(match))


class ReadyRewrite(Struct, frozen=True):
    """A rewrite made ready: its steps in order."""

    name: str
    steps: tuple[ReadyStep, ...]

    def rewritten(self, text: str) -> Rewritten:
        """Rewrite a text, each step what the one before it made. Raises BudgetSpent."""
        made = [Rewritten(text, text, ())]
        for step in self.steps:
            made.append(step.rewritten(made[-1].after))
        changing = [each for each in made if each.changed]
        places = changing[0].places if len(changing) == 1 else ()
        return Rewritten(text, made[-1].after, places, sum(each.count for each in made))


def prepare_rewrite(rewrite: Rewrite, values: Mapping[str, str] | None = None) -> ReadyRewrite:
    """Make a rewrite ready, the parameters of its patterns standing for `values`.

    Raises ExpressionError, EngineUnusable and UsageError as `prepare` does.
    """
    return ReadyRewrite(rewrite.name, tuple(_steps(rewrite, values or {})))


def _steps(rewrite: Rewrite, values: Mapping[str, str]) -> list[ReadyStep]:
    if rewrite.steps:
        return [step for each in rewrite.steps for step in _steps(each, values)]
    assert rewrite.pattern is not None and rewrite.template is not None
    return [ready_step(rewrite.pattern, rewrite.template, rewrite.times, values)]


def ready_step(pattern: Pattern, template: Template, times: str | None, values: Mapping[str, str]) -> ReadyStep:
    """Make one pattern ready to be replaced: all its matches, or the first one.

    A pattern that takes its last match, or one by number, has that one replaced.
    """
    if pattern.combination in ("all_of", "none_of"):
        raise UsageError(f"'{pattern.name}' is {pattern.combination}: it has no match to replace")
    known = {name: values[name] for name in pattern.parameters if name in values}
    ready = prepare(taking(pattern, "first" if times == "first" else "all"), known)
    template.check(ready.field_names)
    return ReadyStep(ready, template)


def taking(pattern: Pattern, take: str) -> Pattern:
    """Return a pattern, and its members, that takes its first match or all of them.

    One that takes its last match, or one by number, is left as it is.
    """
    if pattern.combination is not None:
        return replace(pattern, members=tuple(taking(each, take) for each in pattern.members))
    if pattern.take not in ("first", "all"):
        return pattern
    return replace(pattern, take="first" if take == "first" else "all")
