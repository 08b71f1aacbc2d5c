"""The fields of a pattern in two versions: new, gone, renamed, renumbered, of another type, with other bounds."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fieldstick.comparing.version_results import FieldChange
from fieldstick.engines.probing import compiled_by_engine
from fieldstick.errors import FieldstickError
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import Group, spelled, walk

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Mapping, Sequence

    from fieldstick.comparing.trial_records import Definition
    from fieldstick.matching.result import Result


class _Field(Struct, frozen=True):
    """A group of an expression as a field: its name, its number where it has none, and what it is asked for."""

    name: str
    number: int
    inner: str | None
    settings: Mapping[str, Any]

    @property
    def is_named(self) -> bool:
        return self.name != str(self.number)


def field_changes(
    was: Definition, now: Definition, readings: Iterable[tuple[Result, Result]] = ()
) -> tuple[FieldChange, ...]:
    """Tell the fields of two versions of a pattern apart; of a combination, member by member.

    Groups are taken for the same by their name; those left by what they captured in `readings`, texts that fit both
    versions, then by what stands in their parentheses, then by their number where there are as many.
    """
    if was.expression is None or now.expression is None:
        if was.expression is not None or now.expression is not None:
            return ()
        pairs = ((was.members[name], now.members[name]) for name in was.members if name in now.members)
        return tuple(change for pair in pairs for change in field_changes(*pair))
    old, new = _fields(was), _fields(now)
    partner = _partners(old, new, list(readings))
    return tuple(_changes(old, new, partner))


def _fields(definition: Definition) -> list[_Field]:
    """Return the groups of an expression in the order of their numbers."""
    expression, flags = definition.expression or "", frozenset(definition.flags)
    compiled = compiled_by_engine(expression, flags)
    if compiled is None:
        return []
    try:
        tree = parse(expression, flags).tree
        inner = {node.number: spelled(node.body) for node in walk(tree) if isinstance(node, Group)}
    except FieldstickError:
        inner = {}
    names = {number: name for name, number in compiled.groupindex.items()}
    found = []
    for number in range(1, compiled.groups + 1):
        group = names.get(number, str(number))
        settings = definition.fields.get(group, {})
        found.append(_Field(settings.get("name") or group, number, inner.get(number), settings))
    return found


def _partners(old: Sequence[_Field], new: Sequence[_Field], readings: list[tuple[Result, Result]]) -> dict[int, int]:
    """Return which group of the newer expression is which of the older one, by their numbers."""
    by_name = {each.name: each.number for each in new if each.is_named}
    found = {each.number: by_name[each.name] for each in old if each.is_named and each.name in by_name}
    alike = _captured_alike(old, new, readings)
    for each in old:
        if each.number in found:
            continue
        open_ones = [other for other in new if other.number not in found.values()]
        same = [other.number for other in open_ones if alike[each.number, other.number] > 0]
        if not same and each.inner is not None:
            never_both = [other for other in open_ones if not alike[each.number, other.number]]
            same = [other.number for other in never_both if other.inner == each.inner]
        if same:
            found[each.number] = max(same, key=lambda number: (alike[each.number, number], number == each.number))
    if len(old) == len(new):
        # What was rewritten where it stood is still the same field, unless a text shows otherwise.
        left = (each.number for each in old if each.number not in found)
        found |= {number: number for number in left if number not in found.values() and alike[number, number] >= 0}
    return found


def _captured_alike(
    old: Sequence[_Field], new: Sequence[_Field], readings: list[tuple[Result, Result]]
) -> Counter[tuple[int, int]]:
    """Count on how many texts two groups captured the same; -1 for a pair that ever captured something else."""
    found: Counter[tuple[int, int]] = Counter()
    unlike = set()
    for before, after in readings:
        for one, other in zip(before.matches, after.matches, strict=False):
            for each in old:
                for candidate in new:
                    spans = one.spans[each.number], other.spans[candidate.number]
                    if spans[0] != spans[1]:
                        unlike.add((each.number, candidate.number))
                    elif spans[0][0] >= 0:
                        found[each.number, candidate.number] += 1
    for pair in unlike:
        found[pair] = -1
    return found


def _changes(old: Sequence[_Field], new: Sequence[_Field], partner: Mapping[int, int]) -> Iterator[FieldChange]:
    by_number = {each.number: each for each in new}
    for each in old:
        if each.number not in partner:
            yield FieldChange(each.name, "gone", _kind(each), "no such field")
            continue
        now = by_number[partner[each.number]]
        if each.is_named != now.is_named or (each.is_named and each.name != now.name):
            yield FieldChange(now.name, "renamed", each.name, now.name)
        if each.number != now.number:
            yield FieldChange(now.name, "renumbered", f"group {each.number}", f"group {now.number}")
        before, after = (field.settings.get("type", "text") for field in (each, now))
        if before != after:
            yield FieldChange(now.name, "retyped", before, after)
        if _bounds(each) != _bounds(now):
            yield FieldChange(now.name, "bounds", *_unlike(each.settings, now.settings))
    taken = set(partner.values())
    for now in new:
        if now.number not in taken:
            yield FieldChange(now.name, "new", "no such field", _kind(now))


def _kind(field: _Field) -> str:
    return ", ".join(filter(None, [field.settings.get("type", "text"), _bounds(field)]))


def _bounds(field: _Field) -> str:
    return _written(field.settings, sorted(field.settings.keys() - {"type", "name"}))


def _unlike(was: Mapping[str, Any], now: Mapping[str, Any]) -> tuple[str, str]:
    """Return in words the bounds that two fields do not share."""
    keys = sorted(
        key for key in was.keys() | now.keys() if key not in ("type", "name") and was.get(key) != now.get(key)
    )
    return _written(was, keys) or "none", _written(now, keys) or "none"


def _written(settings: Mapping[str, Any], keys: Iterable[str]) -> str:
    return ", ".join(f"{key} {settings[key]}" for key in keys if key in settings)
