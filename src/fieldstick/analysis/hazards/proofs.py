"""Hazards that the automaton decides: what no text comes to, what changes nothing, what takes forever.

Each is proven for every text there is, and confirmed on the engine with one like all others.
"""

from __future__ import annotations

from itertools import islice
from typing import TYPE_CHECKING

from fieldstick.analysis.automaton.asked import Reading
from fieldstick.analysis.automaton.preference import nodes_on_the_way, text_by_way_of
from fieldstick.analysis.automaton.program import OutOfReach
from fieldstick.analysis.character_sets import characters_of
from fieldstick.analysis.danger import danger_of_parsed, is_calm
from fieldstick.analysis.examples import texts_of
from fieldstick.analysis.facts import facts_of
from fieldstick.analysis.hazards.classes import doubled
from fieldstick.analysis.hazards.places import items_of
from fieldstick.analysis.hazards.suspect import Suspect, edited
from fieldstick.analysis.relation import relation_of
from fieldstick.errors import SyntaxFault
from fieldstick.syntax.characters import CharacterSet
from fieldstick.syntax.tree import (
    Alternation,
    Anchor,
    Backreference,
    Character,
    CharClass,
    Group,
    Look,
    Range,
    Repeat,
    Shorthand,
    spelled,
    walk,
)
from fieldstick.syntax.widths import width

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.engines.protocol import Reach
    from fieldstick.syntax.parser import Parsed
    from fieldstick.syntax.tree import Node

MOST_ASKED = 24
"""Options and anchors of an expression that are looked for in the automaton, each in a search of its own."""

MOST_NODES = 400
MOST_ROWS = 3_000
"""The size of expression, and of its table, up to which that is done."""

MOST_TEXTS = 40
"""Texts made from an expression that are looked at first: what one of them comes by needs no search."""

MOST_ITEMS = 40
"""Items of a class that are held against the others."""

LEAST_DEGREE = 3
"""The power from which on a growing cost is a hazard: of a second power, lines of ordinary length are read at once."""

MOST_STEPS = 120_000
"""Steps for which an expression is looked through for a text that takes forever."""

MOST_MENDED = 8
"""Repeats that are tried as possessive ones, the longest first."""

SHOWN_TURNS = 40

_NEVER = "(?!)"


def never_come_to(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`\\w+|\\d+`: an option that an earlier one leaves nothing to; `a|b^`: an anchor that can never hold."""
    nodes = facts_of(parsed).nodes
    if len(nodes) > MOST_NODES:
        return
    # What is looked about for is read by ways of its own, which are not followed here.
    aside = {inner for node in nodes if isinstance(node, Look) for inner in walk(node)}
    anchors = [node for node in nodes if isinstance(node, Anchor) and node not in aside][:MOST_ASKED]
    alternations = [node for node in nodes if isinstance(node, Alternation) and node not in aside]
    options = [(node, option) for node in alternations for option in node.options][:MOST_ASKED]
    if not anchors and not options:
        return
    asked = [*anchors, *(option for _, option in options)]
    try:
        known = nodes_on_the_way(parsed, reach, asked, islice(texts_of(parsed, reach), MOST_TEXTS))
    except OutOfReach:
        return
    dead = [node for node in asked if node not in known and _is_dead(parsed, reach, node)]
    for anchor in anchors:
        if anchor in dead:
            literal = "\\" + anchor.spelling if anchor.spelling in "^$" else ""
            changed = edited(parsed, (anchor.span, literal))
            remedy = f"leave it out, or write {literal}" if literal else "leave it out"
            reason = "no text that fits has such a place here, so it can never hold"
            texts = tuple(_texts(changed, parsed, reach))
            yield Suspect("anchor-never-holds", anchor.span, reason, remedy, changed, texts)
    for node, option in options:
        if option in dead and spelled(option) and not any(each in dead for each in walk(option) if each in anchors):
            yield _never_reached(parsed, node, option)


def _is_dead(parsed: Parsed, reach: Reach, node: Node) -> bool:
    try:
        return text_by_way_of(parsed, reach, node, most_rows=MOST_ROWS) is None
    except OutOfReach:
        return False


def _texts(changed: str, parsed: Parsed, reach: Reach) -> Iterator[str]:
    """Yield a shortest text that an expression takes with a change and does not take without, or any."""
    try:
        found = relation_of(Reading(changed, reach, parsed.flags), Reading(parsed.expression, reach, parsed.flags))
    except SyntaxFault:
        return
    yield from (text for text in (found.only_first, found.both) if text is not None)


def _never_reached(parsed: Parsed, node: Alternation, option: Node) -> Suspect:
    captures = any(isinstance(each, Group) and each.number for each in walk(option))
    number = node.options.index(option)
    if captures:
        start = option.span[0]
        changed = edited(parsed, ((start, start), _NEVER))
    else:
        kept = [spelled(each) for each in node.options if each is not option]
        changed = edited(parsed, (node.span, "|".join(kept)))
    before = "an option before it takes" if number else "no text that fits comes by it, or the rest takes"
    reason = f"'{spelled(option)}' is never reached: {before} whatever it would"
    return Suspect("hidden-option", option.span, reason, "leave it out, or put it first", changed, claim="same")


def covered_in_class(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`[a-mk-z-\\w]`: an item that all the others together hold already."""
    for node in facts_of(parsed).nodes:
        if not isinstance(node, CharClass) or not 2 <= len(node.items) <= MOST_ITEMS or doubled(node) is not None:
            continue
        items = [each for each in node.items if isinstance(each, Character | Range | Shorthand)]
        if len(items) < len(node.items):
            continue
        sets = [characters_of(item) for item in items]
        for number, item in enumerate(items):
            others = CharacterSet.of(pair for at, each in enumerate(sets) if at != number for pair in each.intervals)
            if sets[number] <= others:
                reason = f"{spelled(item)} is in the class already, by what stands beside it"
                changed = edited(parsed, (item.span, ""))
                taken = chr(sets[number].intervals[0][0])
                forced = () if node.negated else ((node, (taken,)),)
                remedy = "leave it out, or write what was meant"
                yield Suspect("twice-in-class", item.span, reason, remedy, changed, forced=forced, claim="same")
                break


def empty_turn(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`(a*)*`: what is repeated can be empty; a turn that takes nothing ends the repeat, whatever could follow."""
    for node in facts_of(parsed).nodes:
        if not (isinstance(node, Repeat) and isinstance(node.item, Group) and (node.most is None or node.most > 1)):
            continue
        body = node.item.body
        if width(body, parsed.widths)[0] or width(body, parsed.widths)[1] == 0:
            continue
        reason = f"what {node.quantifier} repeats can be empty: a turn that takes nothing ends it"
        items = items_of(body)
        inner = items[0] if len(items) == 1 else None
        if isinstance(inner, Repeat) and inner.quantifier[0] in "*?" and width(inner.item, parsed.widths)[0]:
            new = "+" + inner.quantifier[1:] if inner.quantifier[0] == "*" else ""
            place = (inner.span[1] - len(inner.quantifier), inner.span[1])
            outer = (node.span[1] - len(node.quantifier), node.span[1])
            least = [] if node.least == 0 or node.quantifier[0] != "+" else [(outer, "*" + node.quantifier[1:])]
            changed = edited(parsed, (place, new), *least)
            captures = node.item.number is not None
            end = node.span[1] + len(changed) - len(parsed.expression)
            remedy = f"let a turn ask for something: {changed[node.span[0] : end]}"
            yield Suspect("empty-turn", node.span, reason, remedy, changed, claim="differs" if captures else "same")
        else:
            yield Suspect(
                "empty-turn", node.span, reason, "let each turn ask for something", parsed.expression, claim="same"
            )


def takes_forever(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`(a|ab|b)*c`: a text of some length that does not fit takes longer than anyone waits."""
    if len(facts_of(parsed).nodes) > MOST_NODES or _is_plainly_calm(parsed, reach):
        return
    reading = Reading(parsed.expression, reach, parsed.flags)
    found = danger_of_parsed(parsed, reading, least_degree=LEAST_DEGREE, steps=MOST_STEPS)
    if not found.pieces:
        return
    span = parsed.tree.span
    pump = found.pieces[-1][1]
    shown = pump if pump.isprintable() else repr(pump)[1:-1]
    reason = f"the time of a text that does not fit grows with the power {found.degree} of how often it has '{shown}'"
    if found.kind == "exponential":
        reason = f"each '{shown}' more doubles the time of a text that does not fit"
    made = possessive(parsed, reach)
    text = found.text(SHOWN_TURNS if found.kind == "exponential" else 1_000)
    if made is not None:
        node, changed = made
        start = node.span[1]
        remedy = f"make {spelled(node)} possessive, {changed[node.span[0] : start + 1]}: the same texts fit, at once"
        yield Suspect("takes-forever", node.span, reason, remedy, changed, (text,), claim="ends")
        return
    remedy = "let each turn of a repeat begin, or end, with what cannot stand inside it"
    yield Suspect("takes-forever", span, reason, remedy, parsed.expression, (text,), claim="endless")


def _is_plainly_calm(parsed: Parsed, reach: Reach) -> bool:
    """Tell whether there are too few repeats, none of which holds a choice, for a cost of a higher power."""
    varying = [node for node in facts_of(parsed).nodes if isinstance(node, Repeat) and node.least != node.most]
    looks = any(isinstance(node, Look | Backreference) for node in facts_of(parsed).nodes)
    if looks or len(varying) + (reach == "anywhere") >= LEAST_DEGREE:
        return False
    repeats = [node for node in facts_of(parsed).nodes if isinstance(node, Repeat)]
    turning = [node for node in repeats if node.most is None or node.most > 1]
    return not any(isinstance(each, Alternation) or each in varying for node in turning for each in walk(node.item))


def possessive(parsed: Parsed, reach: Reach) -> tuple[Repeat, str] | None:
    """Return a repeat that may be possessive without another text fitting or not, and which ends the danger so."""
    asked = Reading(parsed.expression, reach, parsed.flags)
    repeats = [each for each in facts_of(parsed).nodes if isinstance(each, Repeat) and each.mode == "greedy"]
    for node in sorted(repeats, key=lambda each: each.span[0] - each.span[1])[:MOST_MENDED]:
        changed = edited(parsed, ((node.span[1], node.span[1]), "+"))
        if node.quantifier.endswith("}") or node.quantifier in "*+?":
            after = Reading(changed, reach, parsed.flags)
            if is_calm(after, LEAST_DEGREE, steps=MOST_STEPS // 4) and relation_of(asked, after).relation == "same":
                return node, changed
    return None
