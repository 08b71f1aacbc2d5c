"""The notation of expressions: a list of constructs, and each with its example and what engines make of it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.drafting.tracer import trace_all
from fieldstick.engines.registry import BY_NAME
from fieldstick.reporting.document import BLANK, Labelled, Ruled, cut, said
from fieldstick.reporting.marks import group_marks
from fieldstick.runs.engine_hazards import listed
from fieldstick.syntax.parser import parse
from fieldstick.syntax.probes import difference_words, differing, probes_of, readings, standing

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.reporting.document import Block
    from fieldstick.syntax.constructs import Construct
    from fieldstick.syntax.probes import Probe

MOST_DIFFERENCES = 5
"""Differences of a construct that are told; all are in the JSON."""

NAMES = tuple(BY_NAME)


def has(construct: str, engine: str) -> bool:
    """Tell whether an engine has a construct, be it with a difference."""
    return standing(construct, engine) in ("has", "differs")


def notation_list(chosen: Sequence[Construct], engine: str) -> Iterator[Block]:
    """Yield a line for each construct, under topics; marked where the engine, or any, reads it otherwise."""
    engines = NAMES if engine in ("all", "python") else (engine,)
    topic = ""
    marked = False
    for each in chosen:
        if each.topic != topic:
            if topic:
                yield BLANK
            topic = each.topic
            yield said((topic, "strong"))
        differs = any(differing(each.key, name) for name in engines if standing(each.key, name) != "lacks")
        marked = marked or differs
        yield said((f"  {each.form:<30}", "field0"), ("* " if differs else "  ", "quiet"), cut(each.meaning, least=20))
    if marked:
        yield BLANK
        where = "some engine reads it otherwise" if len(engines) > 1 else f"{engine} reads some of it otherwise"
        yield said((f"  * {where}; 'fieldstick notation FORM' shows how", "quiet"))


def notation_entry(each: Construct, engine: str) -> Iterator[Block]:
    """Yield all about a construct."""
    yield said((each.form, "field0"), (f"  {each.key}", "quiet"))
    yield Labelled("means", each.meaning, indent=2)
    if has(each.key, "python") and each.example:
        yield said("  ", (f"{'example':<9}  ", "quiet"), (each.example, "strong"))
        parsed = parse(each.example)
        matches = trace_all(parsed, each.text)
        marks = tuple(mark for spans in matches for mark in group_marks(each.text, spans, parsed.groups))
        if each.text or marks:
            yield Ruled(each.text, marks, indent=13)
    elif each.instead:
        yield Labelled("in python", each.instead, indent=2)
    yield Labelled("engines", ", ".join(name for name in NAMES if has(each.key, name)), indent=2)
    lacking = [name for name in NAMES if standing(each.key, name) == "lacks"]
    if lacking:
        yield Labelled("refused by", ", ".join(lacking), indent=2)
    asked = NAMES if engine in ("all", "python") else (engine,)
    yield from _differences(each, [name for name in asked if name not in lacking])
    yield BLANK


def _differences(each: Construct, engines: Sequence[str]) -> Iterator[Block]:
    """Yield the probes that engines read otherwise, those that most of them do first."""
    found = [(probe, _by_reading(probe, engines)) for probe in probes_of(each.key)]
    found = sorted((each for each in found if each[1]), key=lambda each: -sum(map(len, each[1].values())))
    for number, (probe, by_reading) in enumerate(found):
        label = "otherwise" if number == 0 else ""
        if number == MOST_DIFFERENCES:
            yield Labelled("", f"and {len(found) - number} more; --format json has all", indent=2)
            return
        for reading, names in by_reading.items():
            yield Labelled(label, f"{listed(names)}: {difference_words(probe, reading)}", indent=2)
            label = ""


def _by_reading(probe: Probe, engines: Sequence[str]) -> dict[str, list[str]]:
    """Return the engines that read a probe otherwise than expected, by what they make of it."""
    made: dict[str, list[str]] = {}
    for name in engines:
        if probe in differing(probe.construct, name):
            made.setdefault(readings().by_probe[probe.key][name], []).append(name)
    return made


def entry_as_data(each: Construct) -> dict[str, object]:
    """Return a construct as plain data, with every reading of its probes."""
    recorded = readings().by_probe
    return {
        "key": each.key,
        "topic": each.topic,
        "form": each.form,
        "meaning": each.meaning,
        "example": each.example,
        "text": each.text,
        "instead": each.instead,
        "engines": {name: standing(each.key, name) for name in NAMES},
        "probes": [
            {
                "expression": probe.expression,
                "text": probe.text,
                "reach": probe.reach,
                "flags": probe.flags,
                "expected": probe.expected,
                "readings": dict(recorded.get(probe.key, {})),
            }
            for probe in probes_of(each.key)
        ],
    }
