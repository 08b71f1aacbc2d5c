"""The hazards of whole suites: of every pattern and part, and what patterns and parts are to one another.

A hazard inside a part is told once, where the part stands, whatever number of patterns use it. One that a pattern
accepts (`allow`) is kept, with its note; an allowance that nothing needs is told too.
"""

from __future__ import annotations

from itertools import combinations
from typing import TYPE_CHECKING, Any

from msgspec import Struct
from msgspec.structs import replace

from fieldstick.analysis.automaton.asked import Joined, Reading
from fieldstick.analysis.hazard_kinds import FOREVER, covers
from fieldstick.analysis.hazards import Hazard, hazards
from fieldstick.analysis.hazards.flags import means_the_same
from fieldstick.analysis.relation import Relation, relation_of
from fieldstick.cache import Remembered
from fieldstick.engines.budget import watching
from fieldstick.engines.probing import outcomes
from fieldstick.errors import FieldstickError, SyntaxFault
from fieldstick.matching.asking import asked_of
from fieldstick.matching.prepare import prepare
from fieldstick.matching.relations import pattern_relation
from fieldstick.operations.route import Route
from fieldstick.runs.engine_hazards import KIND as OTHER_ENGINE
from fieldstick.runs.engine_hazards import engine_hazards
from fieldstick.runs.kept_hazards import hazards_of
from fieldstick.suites.parts import OWN, PartError, fill
from fieldstick.suites.places import place_in_text
from fieldstick.syntax.parser import parse

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence

    from fieldstick.analysis.automaton.asked import Asked
    from fieldstick.matching.matcher import Matcher
    from fieldstick.suites.suite import Pattern, Suite
    from fieldstick.syntax.parser import Parsed

MOST_PARTS = 60
"""Parts of a suite that are held against each other."""


class KeptHazard(Struct, frozen=True):
    """A hazard of something that a suite keeps.

    `address` names it: SUITE:NAME of a pattern, a route or a part. `line` and `column` count from 1, in code points;
    `source` is the piece that it is about, and `expression`, `span` that piece in what was read. `shown_by` are the
    samples that it shows in: they would come out otherwise with the remedy. `note` is why it is accepted; None when it
    is not.
    """

    kind: str
    address: str
    file: str
    line: int
    column: int
    reason: str
    remedy: str
    expression: str
    span: tuple[int, int]
    text: str | None = None
    now: str = ""
    then: str = ""
    shown_by: tuple[str, ...] = ()
    note: str | None = None
    used_by: tuple[str, ...] = ()

    @property
    def source(self) -> str:
        """The piece of the expression that it is about."""
        return self.expression[slice(*self.span)]


class IdleAllowance(Struct, frozen=True):
    """An `allow` that no hazard needs any more."""

    address: str
    hazard: str
    file: str
    line: int


class SuiteHazards(Struct, frozen=True):
    """What was found in some suites: the hazards, in the order of their places, and allowances that nothing needs."""

    hazards: tuple[KeptHazard, ...]
    idle: tuple[IdleAllowance, ...] = ()

    @property
    def open(self) -> tuple[KeptHazard, ...]:
        """Those that nothing accepts."""
        return tuple(each for each in self.hazards if each.note is None)


class _Memory:
    """What is known from before of expressions and pairs of them, whatever suite they stand in."""

    def __init__(self, with_samples: bool, engines: tuple[str, ...] = ()) -> None:
        self.with_samples, self.engines = with_samples, engines
        self._kept = Remembered("hazards", ".")

    def hazards(self, pattern: Pattern, parsed: Parsed) -> list[Hazard]:
        """Return the hazards of a pattern whose expression was read."""
        fields = {name: [table.type, table.name] for name, table in pattern.fields.items()}
        samples = [each.text for each in pattern.samples if each.kind == "positive" and not each.values]
        key = [*_key(Reading(parsed.expression, pattern.reach, pattern.flags)), fields, samples]
        return self._kept.get(["pattern", *key], list[Hazard], lambda: hazards_of(pattern, parsed))

    def of_part(self, text: str) -> list[Hazard]:
        """Return the hazards of an expression alone."""
        return self._kept.get(["part", text], list[Hazard], lambda: list(hazards(parse(text), "whole")))

    def relation(self, first: Asked, second: Asked) -> Relation:
        """Return how two expressions relate."""
        return self._kept.get([_key(first), _key(second)], Relation, lambda: relation_of(first, second))

    def save(self) -> None:
        """Keep it for the next time."""
        self._kept.save()


def _key(asked: Asked) -> list[Any]:
    if isinstance(asked, Reading):
        return [asked.expression, asked.reach, sorted(asked.flags)]
    return [asked.how, [_key(part) for part in asked.parts]]


def suite_hazards(suites: Iterable[Suite], *, with_samples: bool = True, engines: tuple[str, ...] = ()) -> SuiteHazards:
    """Return the hazards of suites; without samples it is left out which of those show each.

    Besides the engines that a pattern names, `engines` are asked whether they read its expression otherwise.
    """
    known = list(suites)
    by_file = {suite.file: suite for suite in known}
    memory = _Memory(with_samples, engines)
    with watching():
        found = [each for suite in known for each in _of_suite(suite, by_file, memory)]
    memory.save()
    merged = sorted(_once(found), key=lambda each: (each.file, each.line, each.column, each.kind))
    idle = [each for suite in known for each in _idle(suite, found)]
    return SuiteHazards(tuple(merged), tuple(idle))


def _of_suite(suite: Suite, by_file: Mapping[str, Suite], memory: _Memory) -> Iterator[KeptHazard]:
    used: set[str] = set()
    for pattern in suite.patterns.values():
        if pattern.filling is not None:
            used |= set(pattern.filling.part_texts)
            yield from (_accepted(pattern, each) for each in _of_pattern(suite, pattern, by_file, memory))
        elif pattern.combination == "any_of":
            yield from (_accepted(pattern, each) for each in _hidden_members(suite, pattern, memory))
    for name in suite.parts:
        if name not in used:
            yield from _of_part(suite, name, memory)
    yield from _same_parts(suite, memory)
    for operation in suite.operations.values():
        if isinstance(operation, Route):
            yield from _of_route(suite, operation, memory)
        for pattern in operation.patterns:
            if pattern.path[:1] == (operation.section,) and pattern.filling is not None:
                # An expression that stands with the operation itself, as where a split cuts.
                yield from _of_pattern(suite, pattern, by_file, memory)


def _accepted(pattern: Pattern, found: KeptHazard) -> KeptHazard:
    note = next((each.note for each in pattern.allow if covers(each.hazard, found.kind)), None)
    if note is None and found.kind in FOREVER and pattern.own_budget:
        note = f"it has a budget of its own, {pattern.budget_ms:,} ms"
    return replace(found, note=note) if note is not None else found


def _once(found: Sequence[KeptHazard]) -> list[KeptHazard]:
    """Tell what stands in one place once, accepted if all that use it accept it."""
    places: dict[tuple[object, ...], list[KeptHazard]] = {}
    for each in found:
        places.setdefault((each.file, each.line, each.column, each.kind, each.source), []).append(each)
    merged = []
    for several in places.values():
        users = tuple(dict.fromkeys(name for each in several for name in each.used_by))
        first = next((each for each in several if each.note is None), several[0])
        shown = tuple(dict.fromkeys(name for each in several for name in each.shown_by))
        merged.append(replace(first, used_by=users, shown_by=shown))
    return merged


def _idle(suite: Suite, found: Sequence[KeptHazard]) -> Iterator[IdleAllowance]:
    for pattern in suite.patterns.values():
        address = f"{suite.name}:{pattern.name}"
        kinds = {each.kind for each in found if address == each.address or address in each.used_by}
        for index, allowance in enumerate(pattern.allow):
            if not any(covers(allowance.hazard, kind) for kind in kinds):
                line = suite.line_of((*pattern.path, "allow", index))
                yield IdleAllowance(address, allowance.hazard, suite.file, line)


def _of_pattern(suite: Suite, pattern: Pattern, by_file: Mapping[str, Suite], memory: _Memory) -> Iterator[KeptHazard]:
    assert pattern.filling is not None
    values = {name: name for name in pattern.parameters}
    try:
        parsed = parse(pattern.filling.text(values), pattern.flags)
        found = [*memory.hazards(pattern, parsed), *engine_hazards(pattern, parsed, memory.engines)]
    except FieldstickError:
        return
    address = f"{suite.name}:{pattern.name}"
    for hazard in found:
        start = pattern.filling.origin(hazard.span[0], values)
        end = pattern.filling.origin(max(hazard.span[1] - 1, hazard.span[0]), values)
        inside = start.source == end.source != OWN
        shown = tuple(_shown_by(pattern, parsed.expression, hazard)) if memory.with_samples else ()
        if inside:
            file, name = suite.home_of_part(start.source)
            home = by_file.get(file)
            if home is not None and name in home.parts:
                place = place_in_text(home.document, ("parts", name), start.offset)
                text = home.parts[name]
                span = (start.offset, min(end.offset + 1, len(text)))
                yield _kept(hazard, f"{home.name}:{name}", home.file, place, text, span, shown, (address,))
                continue
        offset = start.offset if start.source == OWN else 0
        own = pattern.path[:1] == ("patterns",)
        path = (*pattern.path, "expression") if own else pattern.path
        place = place_in_text(suite.document, path, offset)
        yield _kept(hazard, address, suite.file, place, parsed.expression, hazard.span, shown, ())
    yield from _idle_flags(suite, pattern, parsed)


def _idle_flags(suite: Suite, pattern: Pattern, parsed: Parsed) -> Iterator[KeptHazard]:
    """Yield flags that stand with a pattern and change nothing: without them it is the same automaton."""
    for flag in sorted(pattern.own_flags):
        if means_the_same(parsed, parsed.expression, parsed.flags - {flag}, pattern.reach):
            line = suite.line_of((*pattern.path, "flags"))
            reason = f"the flag {flag} changes nothing that this asks for"
            yield KeptHazard(
                "idle-flag",
                f"{suite.name}:{pattern.name}",
                suite.file,
                line,
                1,
                reason,
                f"leave '{flag}' out of flags, or write what was meant",
                flag,
                (0, len(flag)),
            )


def _kept(
    hazard: Hazard,
    address: str,
    file: str,
    place: tuple[int, int],
    expression: str,
    span: tuple[int, int],
    shown: tuple[str, ...],
    users: tuple[str, ...],
) -> KeptHazard:
    return KeptHazard(
        hazard.kind,
        address,
        file,
        *place,
        hazard.reason,
        hazard.remedy,
        expression,
        span,
        None if hazard.kind == OTHER_ENGINE else hazard.text,
        hazard.now,
        hazard.then,
        shown,
        used_by=users,
    )


def _shown_by(pattern: Pattern, expression: str, hazard: Hazard) -> Iterator[str]:
    """Yield the samples that would come out otherwise with the remedy."""
    if hazard.changed == expression:
        return
    samples = [sample for sample in pattern.samples if not sample.values]
    texts = [sample.text for sample in samples]
    now, then = (outcomes(each, pattern.flags, pattern.reach, texts) for each in (expression, hazard.changed))
    for sample, one, other in zip(samples, now, then, strict=True):
        if one != other:
            yield f"{sample.kind} {sample.number}"


def _of_part(suite: Suite, name: str, memory: _Memory) -> Iterator[KeptHazard]:
    """Yield the hazards of a part that no pattern of the suite uses."""
    try:
        text = fill(f"{{{{{name}}}}}", suite.scope).text({})[3:-1]
        found = memory.of_part(text)
    except (PartError, SyntaxFault, KeyError):
        return
    if text != suite.parts[name]:
        return  # It is made of other parts, which are looked at themselves.
    for hazard in found:
        place = place_in_text(suite.document, ("parts", name), hazard.span[0])
        yield _kept(hazard, f"{suite.name}:{name}", suite.file, place, text, hazard.span, (), ())


def _same_parts(suite: Suite, memory: _Memory) -> Iterator[KeptHazard]:
    """Yield parts that take just the same texts: parts of a suite that patterns may confuse, or change only one of."""
    readings: dict[str, Reading] = {}
    for name in list(suite.parts)[:MOST_PARTS]:
        try:
            filling = fill(f"{{{{{name}}}}}", suite.scope)
        except PartError:
            continue
        if not filling.parameters:
            readings[name] = Reading(filling.text({}))
    for one, other in combinations(readings, 2):
        try:
            found = memory.relation(readings[one], readings[other])
        except SyntaxFault:
            continue
        if found.relation == "same" and found.both is not None:
            place = place_in_text(suite.document, ("parts", other), 0)
            reason = f"the part '{other}' takes just the texts that the part '{one}' takes"
            text = suite.parts[other]
            yield KeptHazard(
                "same-parts",
                f"{suite.name}:{other}",
                suite.file,
                *place,
                reason,
                f"keep one of them: write {{{{{one}}}}}",
                text,
                (0, len(text)),
                found.both,
                "is taken by both",
            )


def _hidden_members(suite: Suite, pattern: Pattern, memory: _Memory) -> Iterator[KeptHazard]:
    """Yield members of an any_of that an earlier one, or several, leave nothing to."""
    for number, member in enumerate(pattern.members):
        found = _hider(pattern.members[:number], member, memory)
        if found is not None:
            names, text = found
            place = suite.line_of((*pattern.path, "any_of", number)), 1
            reason = f"the member '{member.name}' is never reached: {names} {_take(names)} whatever it takes"
            yield _of_list(suite, "hidden-member", f"{suite.name}:{pattern.name}", place, reason, member.name, text)


def _of_route(suite: Suite, route: Route, memory: _Memory) -> Iterator[KeptHazard]:
    """Yield kinds that are never reached, and kinds of which each takes texts of the other."""
    address = f"{suite.name}:{route.own_name}"
    hidden: set[str] = set()
    for number, pattern in enumerate(route.order):
        place = suite.line_of((*route.path, "order", number)), 1
        found = _hider(route.order[:number], pattern, memory)
        if found is not None:
            names, text = found
            hidden.add(pattern.name)
            reason = f"the kind '{pattern.name}' is never reached: {names} {_take(names)} whatever it takes"
            yield _accepted(pattern, _of_list(suite, "hidden-kind", address, place, reason, pattern.name, text))
    for one, other, text in _overlaps(route, memory.relation):
        if other.name not in hidden:
            place = suite.line_of((*route.path, "order", route.order.index(other))), 1
            reason = f"the kinds '{one.name}' and '{other.name}' both want some texts: the first in order gets them"
            yield _accepted(other, _of_list(suite, "kinds-overlap", address, place, reason, other.name, text))


def _take(names: str) -> str:
    return "takes" if "," not in names else "take"


def _of_list(
    suite: Suite, kind: str, address: str, place: tuple[int, int], reason: str, name: str, text: str | None
) -> KeptHazard:
    remedy = {
        "hidden-member": "leave it out, or put it first",
        "hidden-kind": "put it before them, or leave it out",
        "kinds-overlap": "let one of them ask for more, so that no text fits both",
    }[kind]
    now = "fits both" if kind == "kinds-overlap" else "is taken before it is asked"
    return KeptHazard(kind, address, suite.file, *place, reason, remedy, name, (0, len(name)), text, now)


def _hider(earlier: Sequence[Pattern], later: Pattern, memory: _Memory) -> tuple[str, str | None] | None:
    """Return which of some patterns take whatever a later one takes, in words, and a text of it; None when none do."""
    able = [each for each in earlier if _refuses_nothing(each) and not each.parameters]
    if not able or later.parameters:
        return None
    try:
        one = next((each for each in able if _is_within(later, asked_of(each, {}), memory)), None)
        if one is not None:
            return f"'{one.name}'", _common(later, one, memory)
        if len(able) > 1 and _is_within(later, Joined("any", tuple(asked_of(each, {}) for each in able)), memory):
            return ", ".join(f"'{each.name}'" for each in able), _common(later, able[-1], memory)
    except SyntaxFault:
        return None
    return None


def _is_within(pattern: Pattern, asked: Asked, memory: _Memory) -> bool:
    found = memory.relation(asked_of(pattern, {}), asked)
    return found.relation in ("same", "narrower") and found.both is not None


def _common(one: Pattern, other: Pattern, memory: _Memory) -> str | None:
    return memory.relation(asked_of(one, {}), asked_of(other, {})).both


def _refuses_nothing(pattern: Pattern) -> bool:
    """Tell whether a pattern fits whenever its expression matches: no field is refused, no n-th match missing."""
    if pattern.filling is None:
        return pattern.combination != "none_of" and all(map(_refuses_nothing, pattern.members))
    plain = all(table.type == "text" and not table.one_of for table in pattern.fields.values())
    return plain and pattern.take in ("first", "last", "all")


def route_pairs(route: Route) -> Iterator[tuple[Pattern, Pattern, Relation]]:
    """Yield each pair of kinds, in their order, and how the texts of the first relate to those of the second."""
    for one, other in combinations(route.order, 2):
        yield one, other, pattern_relation(one, other)


def _overlaps(route: Route, relate: Callable[[Asked, Asked], Relation]) -> Iterator[tuple[Pattern, Pattern, str]]:
    readers: dict[str, Matcher] = {}
    for one, other in combinations(route.order, 2):
        if one.parameters or other.parameters:
            continue
        try:
            found = relate(asked_of(one, {}), asked_of(other, {}))
            if found.relation != "crossing" or found.both is None:
                continue
            for each in (one, other):
                readers.setdefault(each.name, prepare(each))
        except FieldstickError:
            continue
        if all(readers[each.name].read_or_give_up(found.both).fits for each in (one, other)):
            yield one, other, found.both
