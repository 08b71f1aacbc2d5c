"""Puts kinds of line together that are alike but for values of one word or of several."""

from __future__ import annotations

from collections import Counter, defaultdict
from itertools import accumulate
from typing import TYPE_CHECKING, NamedTuple

from fieldstick.lean import compiled_later
from fieldstick.runs.line_slots import WORD, WORDS, around, has_word, is_of, is_said, typed_in
from fieldstick.runs.line_templates import ENOUGH_ALIKE, LineKind, rank

if TYPE_CHECKING:
    from collections.abc import Collection, Iterable, Iterator, Sequence

MOST_KINDS, MOST_PAIRS = 1_000, 30_000
"""Kinds, the commonest ones, that are looked at; and pairs of values, up to which they may differ in two at once."""

MOST_OF_VALUE = 4
"""Words that a value has at the most."""

FEWEST_PLACES = 2
"""Places from which on a value of several words stands for one that varies, where at each it has no other beside it."""

MORE_ALIKE = 5
"""Kinds from which on it is no matter that little is said around what they differ in."""

FEWEST_SAID, MUCH_SAID = 3, 4
"""Words that stay, and typed slots, by which lines are known as alike; and by which two kinds are."""

FEWEST_BEFORE_END, FEWEST_BESIDE_TWO = 5, 5
"""Words that stay where a value ends a line; those, and typed slots, where two values are looked for at once."""

_HOLE = "\0"

_FIRST = compiled_later(r"(?:[^\s=⟨]*=)?[\"'“‘«(\[{<]*")
"""What stands before a value: a key, and quotes and brackets."""

_ARE_WORDS = compiled_later(r"(?:[^\W\d_]+|⟨words?⟩)(?: (?:[^\W\d_]+|⟨words?⟩))*")

_Template = tuple[str, ...]

_Around = tuple[str, ...]
"""The pieces around values, each with a hole in its place, in the marks that are around it."""

_Values = tuple[tuple[str, ...], ...]
"""The words of the values, hole by hole."""

_Groups = dict[_Around, dict[_Template, _Values]]
"""What is around values, and the templates that have it, each with its own."""


def values_together(kinds: list[LineKind]) -> list[LineKind]:
    """Put kinds together that are alike but for words at one place, of which some have one there and others several.

    They are where three are alike so; or two, where the other's several words stand for one that varies elsewhere too,
    or much is the same. What is alike must say what line it is.
    """
    told, rest = _as_long_as_some_are(kinds[:MOST_KINDS]), kinds[MOST_KINDS:]
    fewer = _once_together(told, 2)
    told = _as_long_as_some_are(fewer) if len(fewer) < len(told) else told
    before = {kind.template for kind in kinds}
    return sorted([*_with_narrower(told, [kind for kind in told if kind.template not in before]), *rest], key=rank)


def _with_narrower(kinds: Sequence[LineKind], homes: Sequence[LineKind]) -> Iterator[LineKind]:
    """Yield kinds, those put to one of some homes that are of it: its words may be one there or several."""
    for kind in kinds:
        others = homes if not any(kind is home for home in homes) else ()
        common = (each for each in others if each.count >= kind.count)
        home = next((each for each in common if _is_narrower(kind.template, each.template)), None)
        if home is None:
            yield kind
        else:
            home.take(kind.forms)


def _is_narrower(pieces: _Template, template: _Template) -> bool:
    """Tell whether pieces are of a template, each of whose slots for words takes a few."""
    if not pieces or not template:
        return not pieces and not template
    if is_of(pieces[:1], template[:1]) and _is_narrower(pieces[1:], template[1:]):
        return True
    if WORDS not in template[0]:
        return False
    opening, _, closing = template[0].partition(WORDS)
    for count in range(1, min(MOST_OF_VALUE, len(pieces)) + 1):
        words = " ".join(pieces[:count])
        bare = words[len(opening) : len(words) - len(closing)]
        told = words.startswith(opening) and words.endswith(closing) and _ARE_WORDS.fullmatch(bare) is not None
        if told and _is_narrower(pieces[count:], template[1:]):
            return True
    return False


def _as_long_as_some_are(kinds: list[LineKind]) -> list[LineKind]:
    """Put kinds together as long as there are some: those that are alike then may be alike with others."""
    fewer = _once_together(kinds, 1)
    while len(fewer) < len(kinds):
        kinds, fewer = fewer, _once_together(fewer, 1)
    return fewer


def _once_together(kinds: Sequence[LineKind], holes: int) -> list[LineKind]:
    made: dict[_Template, LineKind] = {}
    for kind in kinds:
        known = made.setdefault(kind.template, kind)
        if known is not kind:
            known.take(kind.forms)
    groups = _alike_but_for_one(made) if holes == 1 else _alike_but_for_two(made)
    told = {
        place: group
        for place, group in groups.items()
        if len(group) > 1 and _has_several(group.values()) and _says(place, holes)
    }
    places = Counter(each for group in told.values() for values in group.values() for each in values if len(each) > 1)
    lines = {place: sum([made[template].count for template in group]) for place, group in told.items()}
    for place in sorted(told, key=lambda place: -lines[place]):
        group = {template: values for template, values in told[place].items() if template in made}
        if not _has_several(group.values()) or not _are_alike(place, group.values(), places):
            continue
        some = sorted([made.pop(template) for template in group], key=rank)
        joined = tuple(each.replace(_HOLE, WORDS) for each in place)
        kind = made.setdefault(joined, LineKind(joined))
        for each in some:
            kind.take(each.forms)
    return list(made.values())


def _has_several(group: Iterable[_Values]) -> bool:
    """Tell whether some value is of several words."""
    return any(len(each) > 1 for values in group for each in values)


def _are_alike(place: _Around, group: Collection[_Values], places: Counter[tuple[str, ...]]) -> bool:
    """Tell whether enough kinds are alike, by how many there are, or what they have in common, or what others have."""
    varies = any({*each} <= {WORD, WORDS} for values in group for each in values)
    if len(group) >= ENOUGH_ALIKE:
        # A few that stay, each, may be what lines say.
        knows = varies or len(group) >= MORE_ALIKE or (_said(place) >= MUCH_SAID and _words(place) > 1)
        return knows and all(map(_begin_and_end_unlike, zip(*group, strict=True)))
    known = all(places[each] >= FEWEST_PLACES for values in group for each in values if len(each) > 1)
    one_place = len(group) > 1 and len(next(iter(group))) == 1
    return varies and one_place and (known or _said(place) >= MUCH_SAID)


def _begin_and_end_unlike(values: Iterable[tuple[str, ...]]) -> bool:
    """Tell whether not all values begin or end with the same word, which then stays."""
    ends = {(each[0], each[-1]) for each in values}
    return all(len(set(each)) > 1 for each in zip(*ends, strict=True))


def _words(place: _Around) -> int:
    return sum(has_word(each.replace(_HOLE, "")) for each in place)


def _said(place: _Around) -> int:
    """Return how many words that stay, and typed slots, there are around values."""
    return _words(place) + len(typed_in(place))


def _says(place: _Around, holes: int) -> bool:
    """Tell whether pieces say what line it is: they must the more where a value is what a line begins or ends with."""
    words, said = _words(place), _said(place)
    at = max(number for number, each in enumerate(place) if _HOLE in each)
    if not any(map(is_said, place[at + 1 :])):
        return words >= FEWEST_BEFORE_END
    if _HOLE in place[0] or holes > 1:
        return words >= FEWEST_SAID and said >= (FEWEST_BESIDE_TWO if holes > 1 else FEWEST_SAID)
    return said >= FEWEST_SAID and (words > 0 or said > FEWEST_SAID)


class _Value(NamedTuple):
    """Words one after the other in pieces, from a place up to another, and the marks around them."""

    start: int
    stop: int
    opening: str
    closing: str
    words: tuple[str, ...]

    def out_of(self, pieces: _Template) -> _Around:
        """Return the pieces with a hole in place of the words."""
        return (*pieces[: self.start], f"{self.opening}{_HOLE}{self.closing}", *pieces[self.stop :])


def _values_in(pieces: _Template, since: int = 0) -> Iterator[_Value]:
    """Yield each few words that stand one after the other."""
    for start in range(since, len(pieces)):
        first = _FIRST.match(pieces[start])
        opening = first[0] if first is not None else ""
        words: tuple[str, ...] = ()
        for end in range(start, min(start + MOST_OF_VALUE, len(pieces))):
            closing = around(pieces[end])[1]
            bare = pieces[end][len(opening) if end == start else 0 : len(pieces[end]) - len(closing)]
            if not (bare in (WORD, WORDS) or bare.isalpha()):
                break
            words = (*words, bare)
            yield _Value(start, end + 1, opening, closing, words)
            if closing:
                break


def _alike_but_for_one(templates: Iterable[_Template]) -> _Groups:
    """Return templates by what is around a value, where others have the same around one.

    What stands before and behind each place is a number, so that none of it is gone through for each value.
    """
    alike: dict[tuple[int, str, str, int], list[tuple[_Template, _Value]]] = defaultdict(list)
    for template in templates:
        before = [*accumulate(template, lambda known, piece: hash((known, piece)), initial=0)]
        behind = [*accumulate(reversed(template), lambda known, piece: hash((known, piece)), initial=0)]
        for value in _values_in(template):
            key = (before[value.start], value.opening, value.closing, behind[len(template) - value.stop])
            alike[key].append((template, value))
    groups: _Groups = defaultdict(dict)
    for some in alike.values():
        for template, value in some if len(some) > 1 else ():
            groups[value.out_of(template)].setdefault(template, (value.words,))
    return groups


def _alike_but_for_two(templates: Iterable[_Template]) -> _Groups:
    """Return templates by what is around two values, unless there are very many of these."""
    groups: _Groups = defaultdict(dict)
    left = MOST_PAIRS
    for template in templates:
        for one in _values_in(template):
            place = one.out_of(template)
            for other in _values_in(place, one.start + 1):
                # Two that nothing parts are one.
                if other.start > one.start + 1 or one.closing or other.opening:
                    groups[other.out_of(place)].setdefault(template, (one.words, other.words))
                left -= 1
                if not left:
                    return {}
    return groups
