"""Makes one field of one of a few values, though it was told in pieces or as several forms.

`(?P<age>1y|2y|ad|juv)\\+?` says less than `(?P<age>2y\\+|1y|ad|juv)` where that is all that is ever there, and captures
half of it.
"""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

from fieldstick.drafting.proposals.naming import PLAIN_NAMES
from fieldstick.drafting.proposals.spelling import listed_of
from fieldstick.engines.probing import batch_of, compiled_by_engine
from fieldstick.lean import compiled_later
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import Alternation, Character, Group, Node, Repeat, Sequence, walk

if TYPE_CHECKING:
    import re
    from collections.abc import Collection, Iterator, Mapping
    from collections.abc import Sequence as Several

    from fieldstick.drafting.proposals.numerals import Table
    from fieldstick.syntax.tree import Span

_LIST = compiled_later(
    r"\(\?P<(?P<name>\w+)>(?P<item>[^()]+)\)(?P<fixed>(?P<mark>\\?[^\w()])\(\?P<\w+>(?P=item)\)"
    r"(?:(?P=mark)\(\?P<\w+>(?P=item)\))+)"
    r"(?:\(\?:(?P=mark)\(\?P<\w+>(?P=item)\(\?:(?P=mark)(?P=item)\)\*\)\)\?"
    r"|(?P<after>(?P=mark))\(\?:\(\?P<\w+>(?P=item)\(\?:(?P=mark)(?P=item)\)\*\)(?P=mark)\)\?)"
)
"""Three fields or more that are spelled alike, one after the other, and any number that follow."""
_ROW = compiled_later(
    r"\(\?P<(?P<name>\w+)>(?P<item>\[[^()\\]+)\)"
    r"(?P<fixed>(?P<mark>\\?[^\w()])\(\?P<\w+>(?P=item)\)(?:(?P=mark)\(\?P<\w+>(?P=item)\)){4,})"
)
"""So many that are no numbers that they are hardly a thing each."""

_ENDED = compiled_later(
    r"\(\?P<(?P<name>\w+)>(?P<item>[^()]+)\)(?P<fixed>(?P<mark>\\?[^\w()] ?)(?:\(\?P<\w+>(?P=item)\)(?P=mark))*)"
    r"\(\?P<(?P<list>\w+)>(?P=item)\(\?:(?P=mark)(?P=item)\)(?P<more>[*+])\)"
)
"""Fields that are spelled alike, one after the other, and then a list of the like."""

_MANY = compiled_later(
    r"\(\?P<(?P<name>\w+)>(?P<item>[^()]+)\)"
    r"(?P<fixed>(?P<mark>\\?[^\w()] ?)\(\?P<\w+>(?P=item)\)(?:(?P=mark)\(\?P<\w+>(?P=item)\)){15,})"
)
"""More fields that are spelled alike than somebody would have a name for."""

_PADDED = compiled_later(
    r"(?P<opening>\(\?P<\w+>)(?P<blanks> [+*]?)(?![+*?{])(?P<inner>(?:[^()|\\ ]|\\.)+)\)(?![?*+{])"
)
"""A field with blanks before its value."""

_KEYED = compiled_later(
    r"=\(\?P<(?P<name>\w+)>(?P<first>[^()]+)\)(?P<mark>[-_])\(\?P<\w+>(?P<second>[^()]+)\)(?=[ ,;&]|\\s|\Z)"
)
"""Two fields with a hyphen or a low line between them behind `=`, and nothing more."""
_WORDS = compiled_later(r"[A-Za-z|]+|\[(?:[a-z]-[a-z]|[A-Z]-[A-Z])+\][+*]?")

VALUE = "value"
"""The name of a field of which there is no better one."""

_FIELD = compiled_later(r"\(\?P<(\w+)>")
_PLAIN_FIELD = compiled_later(r"\(\?P<\w+>((?:[^()|\\]|\\.|\(\?:(?:[^()\\]|\\.)*\))*)\)(?![?*+{])")
"""A field that needs no group to be part of something."""
_A_FIELD = r"\(\?P<\w+>(?:[^()\\]|\\.|\(\?:(?:[^()\\]|\\.)*\))*\)"
_FIELDS = compiled_later(_A_FIELD)
_TWO = compiled_later(rf"{_A_FIELD}.{{0,3}}{_A_FIELD}")
_FIRST_FIELD = compiled_later(r"^\(\?P<\w+>(?:[^()\\]|\\.)*\)")

EDGES = (" ", "'", '"')
"""What values may begin or end with that is no part of them."""

MOST_PARTED = 6
"""Different values up to which they are listed, though some hold what is a number by itself."""

MOST_COUNTED = 4
"""Items of a list up to which as many are asked for as all examples have."""

MOST_BESIDE = 2
"""Characters that may stand between a field and what may follow it for both to be one value; one less between two
fields."""


def with_whole_values(expression: str, typed: Collection[str], texts: Several[str]) -> str:
    """Return an expression whose choices are fields; each text stands among `texts` as often as it is there.

    Fields that are `typed` stay as they are.
    """
    at = 0
    expression = _PADDED.sub(r"\g<blanks>\g<opening>\g<inner>)", expression)
    expression = _ENDED.sub(_as_one_list, _LIST.sub(_as_list, expression))
    expression = _ROW.sub(lambda found: _as_list(found, ""), expression)
    many = _free("list", expression)
    expression = _MANY.sub(lambda found: _as_list(found, "", many), expression, count=1)
    expression = _KEYED.sub(_as_value, expression)
    while True:
        tree = parse(expression).tree
        items = tree.items if isinstance(tree, Sequence) else (tree,)
        regions = (each for each in _regions(items, typed) if each[0] >= at)
        for start, end in regions:
            made = _as_one_field(expression, (start, end), texts, typed)
            if made is not None:
                # It may be one with what comes next; there is less each time.
                expression, at = made, start
                break
        else:
            return expression


def _as_list(found: re.Match[str], more: str = ",", plain: str = "") -> str:
    """Return one field for items of which there are as many at the least, or just so many.

    It is called `plain` where nothing says what they are.
    """
    name, item, mark = found["name"], found["item"], found["mark"]
    name = plain if plain and name.rstrip("0123456789") in PLAIN_NAMES else name
    after = mark if found.groupdict().get("after") else ""
    return f"(?P<{name}>{item}(?:{mark}{item}){{{found['fixed'].count('(?P<')}{more}}}){after}"


def _as_value(found: re.Match[str]) -> str:
    """Return the one value of a key that a word and what a mark parts from it are; numbers on both sides are two."""
    if not _WORDS.fullmatch(found["first"]):
        return found[0]
    first, second = (f"(?:{each})" if "|" in each else each for each in found.group("first", "second"))
    return f"=(?P<{found['name']}>{first}{found['mark']}{second})"


def _as_one_list(found: re.Match[str]) -> str:
    """Return the list that a field or more and a list of the like behind them are."""
    item, mark = found["item"], found["mark"]
    least = 1 + found["fixed"].count("(?P<") + (found["more"] == "+")
    # Of very many, the fewest that were seen are hardly the fewest that there are.
    least = least // 2 if least > MOST_COUNTED else least
    name = found["list"] if found["name"].rstrip("0123456789") in PLAIN_NAMES else found["name"]
    return f"(?P<{name}>{item}(?:{mark}{item}){{{least},}})"


_A_WORD = r"\[a-z\]\+|\[A-Z\]\+|\[A-Za-z\]\+|\[A-Z\]\[(?:A-Z)?a-z\]\+|\\w\+"
_ITEM, _OTHER = rf"(?P<name>\w+)>(?P<item>{_A_WORD})\)", rf"(?P<other>\w+)>(?P<last>{_A_WORD}|[a-z]+(?:\|[a-z]+)+)\)"
_OF_WORDS = (
    compiled_later(rf"(?P<before>)\(\?P<{_ITEM}\(\?:(?P<blank> \+?)\(\?P<{_OTHER}\)\?"),
    compiled_later(rf"(?P<before>)\(\?:\(\?P<{_ITEM}(?P<blank> \+?)\)\?\(\?P<{_OTHER}"),
    compiled_later(rf"\(\?:(?P<before>(?P<blank> \+?))\(\?P<{_ITEM}\)\?(?P=blank)\(\?P<{_OTHER}"),
)
"""Any word, and behind or before it another one that may be lacking."""


def with_whole_names(
    expression: str, typed: Collection[str], texts: Several[str], like: int | None = None
) -> tuple[str, int]:
    """Return an expression in which words, of which there are one or two, are one value, and how many such there are.

    So `red kite` is, where others say `wren`. One of a few words that stand behind any word or alone is any word, too,
    where it is hardly the same ones that stand there in `texts`. Fields that are `typed` stay as they are; there are as
    many as in the expression that it is `like`, or none.
    """
    count = 0

    def as_one(found: re.Match[str]) -> str:
        nonlocal count
        item, last, blank = found["item"], found["last"], found["blank"]
        is_any = last == item or like is not None
        is_any = is_any or (
            "|" in last and item == "[a-z]+" and _differ(expression, found["name"], found["other"], texts)
        )
        if not is_any or {found["name"], found["other"]} & {*typed}:
            return found[0]
        count += 1
        name = min(found["name"], found["other"], key=lambda each: each.rstrip("0123456789") in PLAIN_NAMES)
        return f"{found['before']}(?P<{name}>{item}(?:{blank}{item if '|' in last else last})?)"

    made = expression
    for each in _OF_WORDS if like != 0 else ():
        made = each.sub(as_one, made)
    return (made, count) if like in (None, count) else (expression, 0)


def _differ(expression: str, name: str, other: str, texts: Several[str]) -> bool:
    """Tell whether a field of texts that have another one has hardly the values that it has in those that lack it."""
    compiled = compiled_by_engine(expression, frozenset())
    places = batch_of(expression, frozenset(), "whole", texts)
    if compiled is None or places is None:
        return False
    first, second = compiled.groupindex[name], compiled.groupindex[other]
    beside, alone = set[str](), set[str]()
    for text, spans in zip(texts, places, strict=True):
        if spans is not None:
            (beside if spans[first][0] >= 0 else alone).add(text[slice(*spans[second])])
    return 2 * len(beside & alone) <= min(len(beside), len(alone))


def renumbered(expression: str, fields: Mapping[str, Table]) -> tuple[str, dict[str, Table]]:
    """Return an expression and the tables of its fields, those of one name numbered from 2 on without a gap.

    What is no field any more has no table.
    """
    names = _FIELD.findall(expression)
    new: dict[str, str] = {}
    taken: Counter[str] = Counter()
    for name in names:
        base = name.rstrip("0123456789")
        taken[base] += base in names
        new[name] = base + str(taken[base]) if taken[base] > 1 and base != name else name
    made = _FIELD.sub(lambda found: f"(?P<{new[found[1]]}>", expression)
    return made, {new[name]: table for name, table in fields.items() if name in new}


def _regions(items: Several[Node], typed: Collection[str]) -> Iterator[Span]:
    """Yield where there is one of several forms, and where there is, or may be, something behind a field, with that."""
    for place, node in enumerate(items):
        if _holds(node, typed):
            # One of a few values may have digits in it, which are no number then.
            if _is_choice(node) and sum(_is_field(each) for each in walk(node)) > 1:
                yield node.span
            continue
        if _is_choice(node):
            yield node.span
        elif _is_own(node, typed) or _may_lack(node):
            before = _field_before(items[:place], MOST_BESIDE - _is_own(node, typed), typed)
            if before is not None:
                yield before.span[0], node.span[1]


def _field_before(items: Several[Node], most: int, typed: Collection[str]) -> Node | None:
    """Return the last field without a type, where no more follows it than so many characters."""
    for node in reversed(items[-1 - most :]):
        if not isinstance(node, Character):
            return node if _is_own(node, typed) else None
    return None


def _is_field(node: Node) -> bool:
    return isinstance(node, Group) and node.name is not None


def _is_own(node: Node, typed: Collection[str]) -> bool:
    """Tell whether a node is a field without a type."""
    return isinstance(node, Group) and node.name is not None and node.name not in typed


def _may_lack(node: Node) -> bool:
    return isinstance(node, Repeat) and (node.least, node.most) == (0, 1)


def _is_choice(node: Node) -> bool:
    return isinstance(node, Group) and node.kind == "plain" and isinstance(node.body, Alternation)


def _holds(node: Node, typed: Collection[str]) -> bool:
    return any(isinstance(each, Group) and each.name in typed for each in walk(node))


def _as_one_field(expression: str, region: Span, texts: Several[str], typed: Collection[str]) -> str | None:
    """Return the expression with a region as a field; None where it is none."""
    start, end = region
    inner = expression[start:end]
    names = _FIELD.findall(inner)
    found = batch_of(f"{expression[:start]}({inner}){expression[end:]}", frozenset(), "whole", texts)
    if found is None:
        return None
    # The group is the one after all that begin before it.
    group = 1 + len(_FIELD.findall(expression[:start]))
    rows = [(text, places) for text, places in zip(texts, found, strict=True) if places is not None]
    values = [text[slice(*places[group])] for text, places in rows]
    head, tail = (_shared_edge(values, at) for at in (0, -1))
    bare = [value[len(head) : len(value) - len(tail)] for value in values]
    listed = listed_of(bare) if all(bare) else None
    if any(each in typed for each in names):
        # What some values have in digits is no number of its own, where no blank parts it from the rest of them.
        if listed is None or len(set(bare)) > MOST_PARTED or any(" " in each for each in bare):
            return None
    elif names and not _is_one(inner) and listed is not None:
        captured = [[text[slice(*place)] for place in places[group + 1 :]] for text, places in rows]
        listed = listed if _tell_each_other(inner, captured, len(set(bare))) else None
    name = names[0] if names else _free(VALUE, expression)
    if listed is not None:
        made = f"{head}(?P<{name}>{listed}){tail}"
    elif not names and inner.startswith("(?:") and inner.endswith(")"):
        made = f"(?P<{name}>{inner[3:]}"
    elif names and all(_go_on(text, places[group], places[group + 1]) for text, places in rows):
        unnamed = _FIELD.sub("(?:", _PLAIN_FIELD.sub(r"\1", inner))
        made = f"(?P<{name}>{unnamed})"
    else:
        return None
    return f"{expression[:start]}{made}{expression[end:]}"


def _tell_each_other(inner: str, captured: Several[Several[str]], count: int) -> bool:
    """Tell whether a field and what follows it, which are there in so many ways, are one value.

    What may follow is, where the field tells whether it does. Of another field that is so where each tells the other;
    one of them does where no blank stands between.
    """
    firsts = len({each[0] for each in captured})
    if not _TWO.fullmatch(inner):
        return firsts == count
    seconds = len({each[1] for each in captured})
    return max(firsts, seconds) == count and (firsts == seconds or " " not in _FIELDS.sub("", inner))


def _is_one(region: str) -> bool:
    """Tell whether nothing parts what a region holds, and no more of it than its first part is a field."""
    return " " not in _FIRST_FIELD.sub("", region) and len(_FIELD.findall(region)) == 1


def _go_on(text: str, region: Span, field: Span) -> bool:
    """Tell whether what follows a field in a region, if anything, are letters or digits right behind others."""
    if field[0] != region[0] or field[1] == region[1]:
        return field[0] == region[0]
    return text[field[1] - 1].isalnum() and text[field[1]].isalnum()


def _shared_edge(values: Several[str], at: int) -> str:
    """Return a blank or a quote that all values begin or end with."""
    edge = values[0][at:][:1] if values else ""
    return edge if edge in EDGES and all(value[at:][:1] == edge and len(value) > 1 for value in values) else ""


def _free(name: str, expression: str) -> str:
    """Return a name that no field of an expression has, like one that is wanted."""
    number = 1
    while f"(?P<{name}{number if number > 1 else ''}>" in expression:
        number += 1
    return f"{name}{number if number > 1 else ''}"
