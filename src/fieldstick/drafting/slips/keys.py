"""Keys with their values that the text has and the expression does not ask for."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING, NamedTuple

from fieldstick.drafting.context import MOST_SEEN, class_spelling, escaped_text
from fieldstick.drafting.phrases import text_words
from fieldstick.lean import compiled_later
from fieldstick.matching.keys import BEFORE_KEY, KEY, QUOTED_VALUE
from fieldstick.syntax.tree import Group

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import Proposal, RepairContext

MOST_KEYS = 6
"""Keys that are put in together."""

_PAIR = compiled_later(
    rf"(?P<between>[\s,;&|]*){BEFORE_KEY}(?P<key>{KEY})(?P<mark>=|: )"
    rf'(?P<value>{QUOTED_VALUE}|[^\s",;&|)\]}}]*)'
)
_AT_END = compiled_later(r"(?:\$|\\Z|\\z)?\Z")


class _Lacking(NamedTuple):
    """A key that the expression lacks: where it is to be put in, as what, and what is to be said of it."""

    place: int
    made: str
    optional: str
    key: str


def keys_put_in(context: RepairContext) -> Iterator[Proposal]:
    """A key with its value in the text that the expression has nowhere, between two that it has, or behind the last."""
    expression, text = context.case.expression, context.case.text
    if "=" not in text and ": " not in text:
        return
    pairs = [*_PAIR.finditer(text, 0, MOST_SEEN)]
    places = [_place_of(expression, each["key"], each["mark"]) for each in pairs]
    lacking = [each for each, place in zip(pairs, places, strict=True) if place < 0]
    if not 0 < len(lacking) <= min(MOST_KEYS, len(pairs) - 1):
        return
    put = []
    for number, pair in enumerate(pairs):
        if places[number] < 0:
            following = next((each for each in places[number:] if each >= 0), -1)
            leads = all(each < 0 for each in places[:number])
            put.append(_put_in(context, pair, following, text[pair.end() :], leads=leads))
    name = ", ".join(text_words(each.key) for each in put)
    which = f"the key{'s' * (len(put) > 1)} {name}"
    optional = " ".join(each.optional.strip() for each in put)
    yield context.splice_all(_spans(put, optional=True), f"{which} may be there: {optional}", 0.75)
    made = " ".join(each.made.strip() for each in put)
    yield context.splice_all(
        _spans(put, optional=False), f"{which} {'are' if len(put) > 1 else 'is'} there: {made}", 0.85
    )


def _spans(put: list[_Lacking], *, optional: bool) -> list[tuple[tuple[int, int], str]]:
    """Return what is put in at each place, keys at one place after one another."""
    made: dict[int, str] = {}
    for each in put:
        made[each.place] = made.get(each.place, "") + (each.optional if optional else each.made)
    return [((place, place), new) for place, new in made.items()]


def _place_of(expression: str, key: str, mark: str) -> int:
    """Return where an expression spells out a key with its mark, or -1."""
    found = re.search(rf"(?<![\w.-]){re.escape(escaped_text(key))}{mark.strip()}", expression)
    return found.start() if found else -1


def _put_in(context: RepairContext, pair: re.Match[str], following: int, rest: str, *, leads: bool) -> _Lacking:
    """Return a key as it is to be put in before another, or at the end; one that `leads` stands before all others."""
    expression, key = context.case.expression, pair["key"]
    after = _PAIR.match(rest)
    apart = f"{pair['between']}{after['between'] if after else ''}".strip()[:1]
    value = _value(context, key, pair["value"], rf"[^\s{class_spelling(apart)}]" if apart else r"\S")
    spelled = f"{escaped_text(key)}{escaped_text(pair['mark'])}{value}"
    between = escaped_text(pair["between"])
    if following < 0:
        # Behind the last key stands what is behind the last one of the text, if that is spelled out.
        ended = _AT_END.search(expression)
        place = ended.start() if ended else len(expression)
        tail = escaped_text(rest)
        place -= len(tail) * (tail != "" and expression[:place].endswith(tail))
        made = between + spelled
    elif between and not leads and expression[:following].endswith(between):
        place, made = following - len(between), between + spelled
    else:
        place, made = following, spelled + escaped_text(after["between"] if after else " ")
    return _Lacking(place, made, f"(?:{made})?", key)


def _value(context: RepairContext, key: str, value: str, piece: str) -> str:
    """Return what takes a value and its like, a group of its key's name where the writer names groups.

    A `piece` is what any character of a value is.
    """
    quoted = value[:1] == '"'
    bare = value[1:-1] if quoted else value
    if quoted:
        spelled = r'(?:[^"\\]|\\.)*' if '"' in bare else '[^"]*'
    elif re.fullmatch(r"-?\d+(?:\.\d+)?", bare):
        spelled = "-?" * bare.startswith("-") + (r"\d+\.\d+" if "." in bare else r"\d+")
    else:
        spelled = r"\w+" if re.fullmatch(r"\w+", bare) else f"{piece}{'+' if bare else '*'}"
    name = re.sub(r"\W", "_", key)
    names = {each.name for each in context.nodes if isinstance(each, Group) and each.number is not None}
    if names - {None} and name not in names:
        spelled = f"(?P<{name}>{spelled})"
    elif names:
        spelled = f"({spelled})"
    return f'"{spelled}"' if quoted else spelled


RULES = (keys_put_in,)
