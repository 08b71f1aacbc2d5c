"""`notation`: the offline reference of expression notation, by topic and engine."""

from __future__ import annotations

import click

from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, json_option, option
from fieldstick.commands.printing import print_json
from fieldstick.errors import UsageError, hint
from fieldstick.reporting.notation_report import NAMES, entry_as_data, has, notation_entry, notation_list
from fieldstick.reporting.terminal import Terminal
from fieldstick.syntax.constructs import CONSTRUCTS, TOPICS, Construct, looked_up
from fieldstick.syntax.probes import standing


@headed_command(short_help="Look expression notation up, by topic and engine.")
@click.argument("topic", required=False)
@heading("How")
@option("--engine", default="python", metavar="E", help="Whose notation, or all.  [default: python]")
@heading("What is written")
@json_option
def command(topic: str | None, engine: str, form: str) -> None:
    """Show the notation of a TOPIC (a construct like 'look-ahead' will do too), each with an example drawn.

    Without a TOPIC, every construct is listed on a line. What engines make of a construct was found by asking each
    of them with tiny expressions and texts; where one reads some otherwise than the construct's meaning, it is told.
    """
    chosen = _chosen(topic, engine)
    if form == "json":
        print_json([entry_as_data(each) for each in chosen])
        return
    if topic is None:
        Terminal.of().show(notation_list(chosen, engine))
        return
    for each in chosen:
        Terminal.of().show(notation_entry(each, engine))


def _chosen(topic: str | None, engine: str) -> list[Construct]:
    if engine not in (*NAMES, "all"):
        raise UsageError(f"there is no engine '{engine}'{hint(engine, (*NAMES, 'all'), most=20)}")
    known = [each for each in CONSTRUCTS if engine == "all" or has(each.key, engine)]
    if topic is None:
        return known
    found = looked_up(topic, known)
    elsewhere = looked_up(topic)
    if found and not (len(elsewhere) < len(CONSTRUCTS) and _is_named(topic, elsewhere) and not _is_named(topic, found)):
        return found
    if elsewhere:
        each = elsewhere[0]
        here = f"; there it is {each.instead}" if each.instead and engine == "python" else ""
        means = "; there it means something else" if standing(each.key, engine) == "otherwise" else ""
        raise UsageError(f"{engine} does not have {each.form}{here}{means}")
    raise UsageError(f"there is no topic '{topic}'{hint(topic, [*TOPICS, *(each.key for each in CONSTRUCTS)])}")


def _is_named(topic: str, found: list[Construct]) -> bool:
    """Tell whether a construct is what is named, not one that merely has the word in its meaning."""
    return any(topic in (each.topic, each.key, *each.form.split(), *each.words.split()) for each in found)
