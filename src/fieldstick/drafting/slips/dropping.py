"""What lets a text in that should not fit, and may be left out: an option, a piece that need not be there, a flag."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from fieldstick.drafting.context import written_alike
from fieldstick.drafting.phrases import text_words
from fieldstick.drafting.slips.amounts import lists
from fieldstick.drafting.slips.framing import PAIRS
from fieldstick.drafting.slips.taking import took_at
from fieldstick.engines.probing import fits
from fieldstick.lean import compiled_later
from fieldstick.syntax.tree import Alternation, Dot, FlagSetting, Look, Repeat, literal_of, spelled

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import Proposal, RepairContext

MOST_OPTIONS = 40
"""Options of which each is tried left out."""


def options_dropped(context: RepairContext) -> Iterator[Proposal]:
    """An option that takes the text, and that no other needs; an empty one before others."""
    # Of one text that fits, options that it does not need say nothing.
    few = 0.5 * (len(context.beside.fitting) < 2)
    for node in context.nodes:
        if not isinstance(node, Alternation) or len(node.options) > MOST_OPTIONS:
            continue
        options = [spelled(each) for each in node.options]
        for at, option in enumerate(options):
            kept = "|".join(options[:at] + options[at + 1 :])
            words = f"without the option {option}: {kept}" if option else f"without the empty option: {kept}"
            # What takes anything makes the others needless.
            likely = 0.8 if not option or _ANYTHING.fullmatch(option) else 1.0 + few
            yield context.splice(node.span, kept, words, likely)


def options_needed(context: RepairContext) -> Iterator[Proposal]:
    """The options alone that the texts which should fit have, where two or more are none of them."""
    for node in context.nodes:
        if not isinstance(node, Alternation) or not 2 < len(node.options) <= MOST_OPTIONS:
            continue
        took = took_at(context, node.span)
        if took is None or len(took.others) < 2:
            continue
        options, flags = [*map(spelled, node.options)], context.parsed.flags
        kept = [each for each in options if any(fits(each, flags, "whole", other) for other in took.others)]
        if 0 < len(kept) < len(node.options) - 1:
            made = "|".join(kept)
            yield context.splice(node.span, made, f"the texts that should fit have these options alone: {made}", 1.1)


_ANYTHING = compiled_later(r"\.[*+]\??|\(\.[*+]\??\)")


def pieces_dropped(context: RepairContext) -> Iterator[Proposal]:
    """A piece that need not be there, and is in the text alone; all that are written like it, too."""
    few = 0.3 * (len(context.beside.fitting) < 2)
    optional = [each for each in context.nodes if isinstance(each, Repeat) and each.least == 0]
    took = {node: took_at(context, node.span) for node in optional}
    needless = [node for node, each in took.items() if each is not None and not any(each.others)]
    for node in needless:
        own = took[node]
        if own is not None and own.own:
            words = f"without {spelled(node)}, which took {text_words(own.own)}"
            yield context.splice(node.span, "", words, 1.0 + few)
    for spelling, nodes in written_alike(needless):
        yield context.splice_all([(node.span, "") for node in nodes], f"without {spelling}, each time", 0.95 + few)


def all_asked_for(context: RepairContext) -> Iterator[Proposal]:
    """Pieces that may be lacking and are there in all texts that should fit, each of them."""
    optional = [each for each in context.nodes if isinstance(each, Repeat) and (each.least, each.most) == (0, 1)]
    took = {node: took_at(context, node.span) for node in optional[:MOST_OPTIONS]}
    there = [node for node, each in took.items() if each is None or all(each.others)]
    if len(there) > 1 and len(context.beside.fitting) > 1:
        places = [((node.span[1] - len(node.quantifier), node.span[1]), "") for node in there]
        marks = [literal_of(node.item) or "" for node in there]
        # Brackets are both there.
        paired = len(marks) == 2 and PAIRS.get(marks[0]) == marks[1]
        # What lacks all of them breaks all.
        lacking = all(each is None or not each.own for each in (took[node] for node in there))
        lacking = lacking and len({spelled(node) for node in there}) == 1
        cost = 0.8 if paired or lacking else 0.95
        yield context.splice_all(places, f"ask for what is optional now, each of {len(there)} pieces", cost)


def flags_dropped(context: RepairContext) -> Iterator[Proposal]:
    """Flags that the expression sets itself."""
    for node in context.nodes:
        if isinstance(node, FlagSetting):
            yield context.splice(node.span, "", f"without the flags of {spelled(node)}", 1.0)


def case_meant(context: RepairContext) -> Iterator[Proposal]:
    """`(?i)kt` for `KT`: the texts that should fit have the word in one case alone."""
    places = [(each.span, "") for each in context.nodes if isinstance(each, FlagSetting) and spelled(each) == "(?i)"]
    for span, word in context.words() if places else ():
        cased = {found for each in context.beside.fitting for found in re.findall(re.escape(word), each, re.IGNORECASE)}
        if len(cased) == 1 and cased != {word}:
            new = cased.pop()
            yield context.splice_all([*places, (span, new)], f"{new} is written so alone: {new}", 0.9)


def looks_too_wide(context: RepairContext) -> Iterator[Proposal]:
    """`(?!owl)` for `(?!owl$)`: what must not follow goes on in the text."""
    for node in context.nodes:
        if isinstance(node, Look) and node.negated and node.ahead:
            inner = spelled(node.body)
            inner = f"(?:{inner})" if isinstance(node.body, Alternation) else inner
            for start, end, cost in (("", "$", 0.85), (r"\b", r"\b", 0.9), ("", r"\b", 0.95)):
                if not re.search(r"(\$|\\b)$", inner):
                    new = f"(?!{start}{inner}{end})"
                    words = f"{spelled(node)} keeps out what goes on, too: {new}"
                    yield context.splice(node.span, new, words, cost + context.near(node) / 2)


def looks_past_blanks(context: RepairContext) -> Iterator[Proposal]:
    """`(?!#)` for `(?!\\s*#)`: what must not follow has white space before it."""
    for node in context.nodes:
        if isinstance(node, Look) and node.negated and node.ahead:
            new = f"(?!\\s*{spelled(node.body)})"
            words = f"white space may stand before what must not follow: {new}"
            yield context.splice(node.span, new, words, 0.9)
            literal = literal_of(node.body)
            if literal and literal in context.case.text:
                new = f"(?!.*{spelled(node.body)})"
                words = f"{text_words(literal)} stands further on, where {spelled(node)} does not look: {new}"
                yield context.splice(node.span, new, words, 0.85 + context.near(node) / 2)


def word_kept_out(context: RepairContext) -> Iterator[Proposal]:
    """A word that no text has which should fit, and that what takes nearly anything takes: it must not be there."""
    own = context.case.expression.lstrip("^")
    if not context.beside.fitting or (context.case.reach != "whole" and own == context.case.expression):
        return
    known = " ".join((own, *context.beside.fitting))
    place = len(context.case.expression) - len(own)
    words = list(dict.fromkeys(re.findall(r"[^\W\d_]{3,}", context.case.text)))
    is_open = any(isinstance(each, Repeat) and isinstance(each.item, Dot) for each in context.nodes)
    for word in words[:MOST_WORDS] if is_open and len(words) > 1 else ():
        if word not in known:
            new = rf"(?!.*\b{word}\b)"
            yield context.splice((place, place), new, f"no text that should fit has {text_words(word)}: {new}", 1.3)


MOST_WORDS = 3
"""Words of a text that are kept out, one at a time."""


RULES = (looks_too_wide,)
RESTRAINTS = (
    case_meant,
    all_asked_for,
    looks_past_blanks,
    word_kept_out,
    options_dropped,
    options_needed,
    pieces_dropped,
    flags_dropped,
    lists,
)
