"""`notation`: the offline reference of expression notation, by topic and engine."""

from __future__ import annotations

from typing import TYPE_CHECKING

import click

from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, json_option, option
from fieldstick.commands.printing import print_json
from fieldstick.drafting.tracer import trace_all
from fieldstick.errors import UsageError, hint
from fieldstick.reporting.document import BLANK, Labelled, Ruled, cut, said
from fieldstick.reporting.marks import group_marks
from fieldstick.reporting.terminal import Terminal
from fieldstick.syntax.constructs import CONSTRUCTS, ENGINES, TOPICS, Construct, looked_up
from fieldstick.syntax.parser import parse

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.reporting.document import Block


@headed_command(short_help="Look expression notation up, by topic and engine.")
@click.argument("topic", required=False)
@heading("How")
@option("--engine", default="python", metavar="E", help="Whose notation, or all.  [default: python]")
@heading("What is written")
@json_option
def command(topic: str | None, engine: str, form: str) -> None:
    """Show the notation of a TOPIC (a construct like 'look-ahead' will do too), each with an example drawn.

    Without a TOPIC, every construct is listed on a line.
    """
    chosen = _chosen(topic, engine)
    if form == "json":
        print_json([_data(each) for each in chosen])
        return
    if topic is None:
        Terminal.of().show(_list(chosen))
        return
    for each in chosen:
        Terminal.of().show(_entry(each))


def _chosen(topic: str | None, engine: str) -> list[Construct]:
    if engine not in (*ENGINES, "all"):
        raise UsageError(f"the table knows no engine '{engine}'{hint(engine, (*ENGINES, 'all'))}")
    known = [each for each in CONSTRUCTS if engine == "all" or engine in each.engines]
    if topic is None:
        return known
    found = looked_up(topic, known)
    elsewhere = looked_up(topic)
    if found and not (len(elsewhere) < len(CONSTRUCTS) and _is_named(topic, elsewhere) and not _is_named(topic, found)):
        return found
    if elsewhere:
        each = elsewhere[0]
        here = f"; there it is {each.instead}" if each.instead and engine == "python" else ""
        means = f"; there it means: {each.otherwise[engine]}" if engine in each.otherwise else ""
        raise UsageError(f"{engine} does not have {each.form}{here}{means}")
    raise UsageError(f"there is no topic '{topic}'{hint(topic, [*TOPICS, *(each.key for each in CONSTRUCTS)])}")


def _is_named(topic: str, found: list[Construct]) -> bool:
    """Tell whether a construct is what is named, not one that merely has the word in its meaning."""
    return any(topic in (each.topic, each.key, *each.form.split(), *each.words.split()) for each in found)


def _list(chosen: list[Construct]) -> Iterator[Block]:
    topic = ""
    for each in chosen:
        if each.topic != topic:
            if topic:
                yield BLANK
            topic = each.topic
            yield said((topic, "strong"))
        mark = "*" if each.otherwise else " "
        yield said((f"  {each.form:<30}", "field0"), (f"{mark} ", "quiet"), cut(each.meaning, least=20))
    if any(each.otherwise for each in chosen):
        yield BLANK
        yield said(("  * means otherwise in some engine; 'fieldstick notation FORM' says in which", "quiet"))


def _entry(each: Construct) -> Iterator[Block]:
    yield said((each.form, "field0"), (f"  {each.key}", "quiet"))
    yield Labelled("means", each.meaning, indent=2)
    if "python" in each.engines and each.example:
        yield said("  ", (f"{'example':<9}  ", "quiet"), (each.example, "strong"))
        parsed = parse(each.example)
        matches = trace_all(parsed, each.text)
        marks = tuple(mark for spans in matches for mark in group_marks(each.text, spans, parsed.groups))
        if each.text or marks:
            yield Ruled(each.text, marks, indent=13)
    elif each.instead:
        yield Labelled("in python", each.instead, indent=2)
    for name in ENGINES:
        if name in each.otherwise:
            yield Labelled(name, each.otherwise[name], indent=2)
    yield Labelled("engines", ", ".join(name for name in ENGINES if name in each.engines), indent=2)
    yield BLANK


def _data(each: Construct) -> dict[str, object]:
    return {
        "key": each.key,
        "topic": each.topic,
        "form": each.form,
        "meaning": each.meaning,
        "example": each.example,
        "text": each.text,
        "engines": [name for name in ENGINES if name in each.engines],
        "instead": each.instead,
        "otherwise": dict(each.otherwise),
    }
