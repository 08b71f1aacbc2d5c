"""Puts kinds of line together that differ in words which vary."""

from __future__ import annotations

from collections import Counter, defaultdict
from itertools import chain
from typing import TYPE_CHECKING

from fieldstick.runs.line_slots import WORD, WORDS, has_word, is_of, is_told, is_word, says, typed_in, with_slot
from fieldstick.runs.line_templates import ENOUGH_ALIKE, LineKind, go_on_alike, is_rare, is_said_so, rank

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable

    from fieldstick.runs.line_templates import Free

FAR_COMMONER = 4
"""How many times as common a kind is to which another is put that is of it."""

VERY_MUCH_COMMONER = 100
"""How many times as common it is where words that vary are most of it."""

MUCH_COMMONER = 10
"""How many times as common a kind is whose identifiers may have letters alone, by chance."""


def with_words_freed(kinds: Iterable[LineKind], free: Free) -> list[LineKind]:
    """Return kinds with a slot for a word that varies elsewhere behind the same beginning, alike ones together."""

    vary = [(before, len(before), words) for before, words in free.items()]

    def template_of(kind: LineKind) -> tuple[str, ...]:
        template = kind.template
        for before, place, words in vary:
            if len(template) > place and template[place] in words and template[:place] == before:
                template = with_slot(template, place, words)
        return template

    return together(kinds, template_of)


def folded_together(kinds: Iterable[LineKind]) -> list[LineKind]:
    """Return kinds, words that vary one after the other told as one, those together that are the same then."""
    return together(kinds, lambda kind: folded(kind.template))


def together(kinds: Iterable[LineKind], template_of: Callable[[LineKind], tuple[str, ...]]) -> list[LineKind]:
    """Return kinds with other templates, those that come to the same together, the commonest first."""
    made: dict[tuple[str, ...], LineKind] = {}
    for kind in kinds:
        template = template_of(kind)
        if template in made:
            made[template].take(kind.forms)
        else:
            kind.template = template
            made[template] = kind
    return sorted(made.values(), key=rank)


def freed(kinds: dict[tuple[str, ...], LineKind], free: Free) -> dict[tuple[str, ...], LineKind]:
    """Put kinds together that differ in a word alone which varies elsewhere, behind the same beginning."""
    made = dict(kinds)
    for before, words in free.items():
        place = len(before)
        groups: dict[tuple[str, ...], list[tuple[str, ...]]] = defaultdict(list)
        for template in made:
            if template[:place] == before and template[place : place + 1] and template[place] in words:
                groups[(*before, "", *template[place + 1 :])].append(template)
        for rest, group in groups.items():
            if not says(rest):
                continue
            joined = with_slot(rest, place, {WORD, *(template[place] for template in group)})
            if len(group) > 1 or joined in made:
                joined = joined if joined in made else with_slot(rest, place, {template[place] for template in group})
                kind = made.setdefault(joined, LineKind(joined))
                for template in group:
                    kind.take(made.pop(template).forms)
    return made


def alike_at_last(kinds: dict[tuple[str, ...], LineKind]) -> dict[tuple[str, ...], LineKind]:
    """Put kinds together that differ in one word alone, where enough are alike; in the first, where nearly all are."""
    made = dict(kinds)
    numbers: dict[tuple[str, ...], list[int]] = {}
    """Of each template a number for each piece at its place, and their sum: those alike but for one have its rest."""
    for place in reversed(range(max(map(len, made), default=0))):
        alike: dict[tuple[int, int], list[tuple[str, ...]]] = defaultdict(list)
        for template in made:
            if place < len(template) and (is_word(template[place]) or WORD in template[place]):
                own = numbers.get(template)
                if own is None:
                    own = numbers[template] = [hash(each) for each in enumerate(template)]
                    own.append(sum(own))
                alike[len(template), own[-1] - own[place]].append(template)
        for some in alike.values():
            if len(some) < ENOUGH_ALIKE:
                continue
            # The same pieces in another order may have the same sum.
            groups: dict[tuple[str, ...], list[tuple[str, ...]]] = defaultdict(list)
            for each in some:
                groups[(*each[:place], "", *each[place + 1 :])].append(each)
            for rest, group in groups.items():
                _join_alike(made, rest, group, place)
    return made


def _join_alike(
    made: dict[tuple[str, ...], LineKind], rest: tuple[str, ...], group: list[tuple[str, ...]], place: int
) -> None:
    """Put kinds together of which the templates are the same but at a place, where the word there varies."""
    if len(group) < ENOUGH_ALIKE or not (typed_in(rest) or is_said_so(rest, len(group))):
        return
    if not any(has_word(each) or WORD in each for each in rest[:place]):
        lines = Counter[str]()
        for template, kind in made.items():
            if template[:place] == rest[:place] and len(template) > place:
                lines[template[place]] += kind.count
        if not go_on_alike(rest, {each[place]: made[each].count for each in group}, lines):
            return
    joined = with_slot(rest, place, {template[place] for template in group})
    forms = [form for template in group for form in made.pop(template).forms]
    made.setdefault(joined, LineKind(joined)).take(forms)


def folded(template: tuple[str, ...]) -> tuple[str, ...]:
    """Return a template with words that vary one after the other as one slot."""
    made: list[str] = []
    for piece in template:
        made.append(piece)
        if made[-3:] == [WORD] * 3:
            made[-3:] = [WORDS]
        elif made[-2:] == [WORDS, WORD]:
            made.pop()
    return tuple(made)


def without_rare(ranked: list[LineKind], lines: int) -> list[LineKind]:
    """Put kinds to a commoner one of which they are: a word of theirs is one that varies there.

    A kind that is not rare is put to one that is far commoner or has the same words itself, and that says more than
    that there are words.
    """
    common: dict[int, list[LineKind]] = defaultdict(list)
    rare: list[LineKind] = []
    for kind in ranked:
        rare_one = is_rare(kind, lines)
        alike = common[len(kind.template)]
        home = next((each for each in alike if _is_home(each, kind, rare=rare_one)), None)
        if home is not None:
            home.take(kind.forms)
        else:
            (rare if rare_one else alike).append(kind)
    return [*sorted(chain.from_iterable(common.values()), key=rank), *rare]


def _is_home(home: LineKind, kind: LineKind, *, rare: bool) -> bool:
    """Tell whether a kind is put to another one."""
    if not is_of(kind.template, home.template, letters=home.count >= MUCH_COMMONER * kind.count):
        return False
    tells = says(home.template) or len(typed_in(home.template)) > 1
    # One that is mostly words which vary takes in what another source may well write.
    tells = tells and (is_told(home.template) or home.count >= VERY_MUCH_COMMONER * kind.count)
    if rare or (home.count >= FAR_COMMONER * kind.count and tells):
        return True
    return tells and all(
        any(form.pieces[place] == piece for form in home.forms)
        for place, (piece, other) in enumerate(zip(kind.template, home.template, strict=True))
        if piece != other and "⟨" not in piece
    )
