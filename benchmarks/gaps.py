"""Mutates patterns, and prints how many of the mutants their samples notice: before and after what `gaps` proposes.

A mutant is a pattern with one small change, made here on its own account: an option dropped, a bound shifted by one, a
class widened or narrowed, greedy and lazy swapped, an anchor, a flag, an optional part or the number of a group
dropped. A part is mutated where it stands, for all patterns that use it. One that means the same is left out: no text
that was tried, among them those that a proof of the difference gives, is taken or captured otherwise. The patterns are
those of the demo, and expressions harvested from installed packages, each with two texts made for it and two that just
do not fit. Run with `make bench`.
"""

from __future__ import annotations

import os
import random
import re
import sys
import tempfile
from pathlib import Path

from msgspec.structs import replace

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from fieldstick.analysis.facts import facts_of
from fieldstick.analysis.hazards.suspect import edited
from fieldstick.analysis.relation import Reading, relation_of
from fieldstick.engines.budget import watching
from fieldstick.engines.probing import compiled_by_engine, fits
from fieldstick.errors import FieldstickError, SyntaxFault
from fieldstick.matching.prepare import prepare
from fieldstick.operations import SECTIONS
from fieldstick.runs.gaps import gaps_of
from fieldstick.suites.loader import read_suites
from fieldstick.suites.parts import PartScope, fill_plain
from fieldstick.suites.suite import Pattern, Sample, Suite
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import (
    Alternation,
    Anchor,
    Character,
    CharClass,
    Dot,
    Group,
    Range,
    Repeat,
    Shorthand,
    spelled,
)
from fieldstick.workspace import Workspace
from harvest import expressions
from trees import near_miss, text_of

SEED = 11
HARVESTED = 150
MUTANTS = 14
"""Mutants of each pattern that are drawn."""

_SHORTHANDS = {
    r"\d": [r"\w", "[0-8]"],
    r"\w": ["[a-zA-Z]", r"[\w.]"],
    r"\s": [" ", r"[\s.]"],
    r"\S": [r"\w"],
    r"\W": ["-"],
}


def mutants(expression: str, flags: frozenset[str], chance: random.Random) -> list[tuple[str, str, frozenset[str]]]:
    """Return changed expressions, each with what was done to it."""
    parsed = parse(expression, flags)
    found: list[tuple[str, str, frozenset[str]]] = [
        ("flag", expression, flags - {flag}) for flag in flags - {"verbose"}
    ]

    def put(kind: str, span: tuple[int, int], text: str) -> None:
        found.append((kind, edited(parsed, (span, text)), flags))

    for node in facts_of(parsed).nodes:
        if isinstance(node, Alternation):
            for option in node.options:
                put("option", node.span, "|".join(spelled(each) for each in node.options if each is not option))
        elif isinstance(node, Repeat):
            item, least, most = spelled(node.item), node.least, node.most
            mark = node.quantifier[-1] if node.mode != "greedy" else ""
            if least == 0:
                put("optional part", node.span, "")
            for low, high in ((least + 1, most), (least - 1, most), (least, (most or 0) - 1), (least, (most or 0) + 1)):
                changed = most if high == most else high
                if (
                    low >= 0
                    and (changed is None or (changed >= low and changed <= 40))
                    and not (most is None and high != most)
                ):
                    put("bound", node.span, f"{item}{{{low},{'' if changed is None else changed}}}{mark}")
            if node.mode == "greedy" and node.least != node.most:
                put("greedy", node.span, spelled(node) + "?")
        elif isinstance(node, Anchor):
            put("anchor", node.span, "")
        elif isinstance(node, Shorthand) and not facts_of(parsed).is_in_class(node):
            for other in _SHORTHANDS.get(node.spelling, []):
                put("class", node.span, other)
        elif isinstance(node, Dot):
            put("class", node.span, r"\w")
        elif isinstance(node, CharClass):
            inner = [item for item in node.items if isinstance(item, Character | Range | Shorthand)]
            for item in inner:
                if len(node.items) > 1:
                    put("class", item.span, "")
                if isinstance(item, Range) and item.last.character > item.first.character:
                    put("class", item.span, f"{spelled(item.first)}-{chr(ord(item.last.character) - 1)}")
                    put("class", item.span, f"{spelled(item)}{chr(ord(item.last.character) + 1)}".replace("[", r"\["))
        elif isinstance(node, Group) and node.number is not None:
            put("group", (node.span[0], node.span[0] + len(node.opening)), "(?:")
    usable = [
        each for each in found if compiled_by_engine(each[1], each[2]) is not None and each[1:] != (expression, flags)
    ]
    return chance.sample(usable, min(MUTANTS, len(usable)))


def key(matcher, text):
    """Return what a text comes to."""
    result = matcher.read_or_give_up(text)
    if not result.fits:
        return None
    return result.member, [(m.place, {n: f and f.place for n, f in m.fields.items()}) for m in result.matches]


class Watched:
    """A pattern with its samples, what is proposed, and further texts that may show what a mutant means."""

    def __init__(self, pattern: Pattern, proposed: list[str], chance: random.Random) -> None:
        self.pattern, self.proposed = pattern, proposed
        self.samples = [sample.text for sample in pattern.samples]
        assert pattern.filling is not None
        self.expression = pattern.filling.text({})
        self.reading = Reading(self.expression, pattern.reach, pattern.flags)
        parsed = parse(self.expression, pattern.flags)
        drawn = [text_of(parsed, chance)[:80] for _ in range(40)]
        self.texts = [*drawn, *(near_miss(text, chance) for text in [*self.samples, *drawn])]

    def told(self, mutant: Pattern) -> tuple[bool, bool, bool]:
        """Tell whether a mutant means something else, and whether it is noticed before and after."""
        one, other = prepare(self.pattern), prepare(mutant)

        def differs(texts: list[str]) -> bool:
            return any(key(one, text) != key(other, text) for text in texts)

        before = differs(self.samples)
        after = before or differs(self.proposed)
        if after:
            return True, before, after
        assert mutant.filling is not None
        told = relation_of(self.reading, Reading(mutant.filling.text({}), mutant.reach, mutant.flags))
        witnesses = [text for text in (told.only_first, told.only_second) if text is not None]
        return differs([*self.texts, *witnesses]), False, False


def drawn_suite(chance: random.Random) -> Suite:
    """Return a suite of harvested expressions, each with a few samples."""
    patterns: dict[str, Pattern] = {}
    for expression in chance.sample(list(expressions()), len(expressions())):
        if len(patterns) == HARVESTED:
            break
        try:
            parsed = parse(expression)
        except SyntaxFault:
            continue
        if not 8 <= len(expression) <= 90 or parsed.foreign or compiled_by_engine(expression, frozenset()) is None:
            continue
        made = {text for _ in range(40) if fits(expression, frozenset(), "whole", text := text_of(parsed, chance)[:60])}
        if len(made) < 2:
            continue
        positive = chance.sample(sorted(made), 2)
        misses = {near_miss(text, chance) for text in positive for _ in range(8)}
        negative = sorted(text for text in misses if not fits(expression, frozenset(), "whole", text))[:2]
        samples = [*(("positive", text) for text in positive), *(("negative", text) for text in negative)]
        name = f"p{len(patterns)}"
        patterns[name] = Pattern(
            name,
            fill_plain(expression),
            samples=tuple(Sample(kind, number, text, ()) for number, (kind, text) in enumerate(samples, 1)),  # type: ignore[arg-type]
        )
    return Suite("drawn", "", None, "", "", patterns, {}, "", PartScope("", {}, {}))


def measure(suites: list[Suite], chance: random.Random) -> tuple[int, int, int, dict[str, int]]:
    """Return how many mutants mean something else, how many are noticed before and after, and by kind those missed."""
    wanted = [
        (suite, p) for suite in suites for p in suite.patterns.values() if p.filling is not None and not p.parameters
    ]
    found = gaps_of(suites, wanted)
    watched = {
        (suite.name, pattern.name): Watched(pattern, [each.text for each in told.proposals], chance)
        for (suite, pattern), told in zip(wanted, found, strict=True)
    }
    meant = before = after = 0
    missed: dict[str, int] = {}
    for kind, words, pairs in (*of_patterns(watched, chance), *of_parts(suites, watched, chance)):
        told = []
        for each, mutant in pairs:
            try:
                told.append(each.told(mutant))
            except (FieldstickError, SyntaxFault):
                continue
        if any(one for one, _, _ in told):
            meant += 1
            before += any(one for _, one, _ in told)
            after += any(one for _, _, one in told)
            if not any(one for _, _, one in told):
                missed[kind] = missed.get(kind, 0) + 1
                if os.environ.get("FIELDSTICK_MISSED"):
                    print(kind, words)
    return meant, before, after, missed


def of_patterns(watched, chance):
    """Yield mutants of what stands in the patterns themselves."""
    for each in watched.values():
        filling = each.pattern.filling
        spans = list(filling.part_spans({}))
        for kind, changed, flags in mutants(each.expression, each.pattern.flags, chance):
            pairs = enumerate(zip(changed, each.expression, strict=False))
            at = next((number for number, (one, other) in pairs if one != other), len(each.expression))
            if not any(start <= at < end for start, end in spans):
                mutant = replace(each.pattern, filling=fill_plain(changed), flags=flags, samples=())
                yield kind, f"{each.expression!r} -> {changed!r}", [(each, mutant)]


def of_parts(suites, watched, chance):
    """Yield mutants of parts, each in all patterns that use it."""
    files = [each.location for each in suites]
    for suite in suites:
        for name, text in suite.parts.items():
            plain = re.sub(r"\{\{[\w.-]+\}\}", lambda found: f"(?:{'x' * (len(found[0]) - 4)})", text)
            for kind, changed, _ in mutants(plain, frozenset(), chance):
                back = changed
                for found in re.finditer(r"\{\{[\w.-]+\}\}", text):
                    back = back.replace(f"(?:{'x' * (len(found[0]) - 4)})", found[0], 1)
                document = suite.document.replace(f"{name} = '{text}'", f"{name} = '{back}'")
                if document == suite.document or "'" in back or "xx" in back:
                    continue
                try:
                    suites_now = read_suites(files, SECTIONS, edited={suite.location: document})
                except FieldstickError:
                    continue
                pairs = [
                    (watched[one.name, p.name], replace(p, samples=()))
                    for one in suites_now
                    for p in one.patterns.values()
                    if (one.name, p.name) in watched and p.filling.text({}) != watched[one.name, p.name].expression
                ]
                yield kind, f"part {suite.name}:{name} {text!r} -> {back!r}", pairs


def main() -> None:
    """Print the shares for the demo and for what is harvested."""
    chance = random.Random(SEED)
    with tempfile.TemporaryDirectory() as folder:
        os.system(f"{sys.executable} -m fieldstick demo --into {folder}/larkmoor > {folder}/told 2>&1")
        os.chdir(f"{folder}/larkmoor")
        demo = Workspace().suites([os.getcwd()])
        with watching():
            for name, suites in (("the demo", demo), (f"{HARVESTED} harvested expressions", [drawn_suite(chance)])):
                meant, before, after, missed = measure(list(suites), chance)
                told = ", ".join(f"{kind} {count}" for kind, count in sorted(missed.items())) or "none"
                print(
                    f"{name}: of {meant:,} mutants that mean something else, {before / meant:.1%} are noticed by the "
                    f"samples, {after / meant:.1%} with those that are proposed; wanted at least 95 %; missed: {told}"
                )


if __name__ == "__main__":
    main()
