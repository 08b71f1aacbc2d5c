"""`handover`: the pattern for the program or form where it will run."""

from __future__ import annotations

import os
import re
import sys
from typing import TYPE_CHECKING

import click
from msgspec.structs import replace

from fieldstick.analysis.rendering.dialects import DIALECTS
from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, option
from fieldstick.commands.pattern_options import pattern_options
from fieldstick.commands.saying import print_text, say
from fieldstick.engines.registry import engine_named
from fieldstick.errors import UsageError, hint
from fieldstick.files import write_all_whole
from fieldstick.handover.forms.kinds import FORMS, form_of
from fieldstick.handover.functions.languages import FUNCTIONS, function
from fieldstick.handover.handing import handed
from fieldstick.handover.literals import LITERALS
from fieldstick.lean import compiled_later
from fieldstick.operations.form import Form
from fieldstick.suites.finding import split_address
from fieldstick.suites.overrides import Overrides
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    from fieldstick.handover.handing import Handed
    from fieldstick.workspace import Chosen

_OBEYED = compiled_later("[\\x00-\\x08\\x0b-\\x1f\\x7f-\\x9f]")
"""Characters that a terminal does not show but obeys; in a pipe or file they are what was written."""

_WRITTEN_HERE = ("The samples of ", "Written from the pattern ")
"""What a file that was written by this says of itself."""

KINDS = (*LITERALS, *FUNCTIONS, *FORMS)


@headed_command(short_help="Write the pattern for the program or form where it will run.")
@click.argument("what", required=False, metavar="EXPRESSION|SUITE:PATTERN|SUITE:FORM")
@pattern_options
@heading("What is written")
@option("--as", "kind", type=click.Choice(KINDS), metavar="KIND", required=True, help="What to write it as; see above.")
@option("--engine", metavar="E", help="The engine that reads a literal, where it isn't the usual one.")
@option(
    "--written-for", metavar="E", help="What an EXPRESSION is written for: an engine, or rfc9485.  [default: python]"
)
@option("--to", metavar="FILE", help="Write it to FILE, and a function's tests beside it.  [default: standard output]")
def command(
    what: str | None,
    expression: str | None,
    overrides: Overrides,
    kind: str,
    engine: str | None,
    written_for: str | None,
    to: str | None,
) -> None:
    """Write a pattern for the program that will use it. Its expression is first written for the engine that reads it
    there, so that it means the same, and tried on that engine with the pattern's samples.

    \b
    A literal:           python javascript typescript java kotlin csharp go rust ruby
                         php perl sql shell powershell yaml json toml xml rfc9485
    A function, tested:  python-function javascript-function java-function
                         go-function php-function ruby-function
    A schema or form:    json-schema openapi table-schema html xsd

    A schema or form is made of a form of the suite too. What cannot be carried, a typed bound, a take, is named in a
    comment of what is written and on standard error.
    """
    if engine is not None:
        engine_named(engine)
        if kind not in LITERALS:
            raise UsageError(f"--engine goes with a literal; {kind} says itself which engine reads it")
    workspace = Workspace()
    form = None
    if kind in FORMS and what is not None and expression is None:
        form = workspace.operation(what, Form, "forms", or_pattern=True)
    name = ""
    if form is not None:
        if overrides != Overrides():
            raise UsageError("a form is handed over as it is kept; leave out what changes a pattern")
        found = form_of((workspace.suite(split_address(what or "")[0]), form), kind)
    else:
        chosen = workspace.pattern(what, overrides, expression=expression)
        if written_for is not None:
            chosen = _written_for(chosen, written_for)
        if kind in FORMS:
            found = form_of(chosen, kind)
        elif kind in FUNCTIONS:
            name, found = function(chosen, kind, _stem(to))
        else:
            found = handed(chosen, kind, engine)
    _write(found, to, name)
    for words in dict.fromkeys((*found.left, found.tried)):
        say(words)


def _written_for(chosen: Chosen, engine: str) -> Chosen:
    """Return an expression as one that is written for an engine. Raises UsageError for a pattern, which says itself."""
    if chosen.is_kept:
        raise UsageError("--written-for goes with an expression; a pattern names its engines in its suite")
    if engine not in DIALECTS:
        raise UsageError(f"there is no notation '{engine}'{hint(engine, DIALECTS)}")
    return replace(chosen, pattern=replace(chosen.pattern, engines=(engine,)))


def _stem(to: str | None) -> str | None:
    """Return the name that a function's file is given, without its ending; None where it is left to the language."""
    if to is None or to == "-" or os.path.isdir(to):
        return None
    stem = os.path.splitext(os.path.basename(to))[0]
    if re.fullmatch(r"[A-Za-z_][A-Za-z0-9_]*", stem) is None:
        raise UsageError(f"'{to}': a function's file is named by letters, digits and lines below, as its language asks")
    return stem


def _write(found: Handed, to: str | None, name: str) -> None:
    """Write what is handed over, and what goes beside it: all or nothing."""
    text = found.text if found.text.endswith("\n") else found.text + "\n"
    if to is None or to == "-":
        if sys.stdout.isatty() and _OBEYED.search(text):
            raise UsageError("what is written holds a character that a terminal would obey; --to FILE writes it")
        print_text(text)
        (test, _), *members = found.beside or (("", ""),)
        if members:
            say(f"Its tests and its members go beside it: --to FOLDER writes all {len(members) + 2} files.")
        elif test:
            say(f"Its tests go beside it: --to FILE writes both, as {name} and {test}.")
        return
    folder = to if os.path.isdir(to) else os.path.dirname(to)
    if os.path.isdir(to) and not name:
        raise UsageError(f"'{to}' is a folder; name the file to write")
    main = os.path.join(folder, name) if name else to
    files = [(main, text), *((os.path.join(folder, each), content) for each, content in found.beside)]
    for path, content in files[1:]:
        _check_own(path, content)
    write_all_whole(files)
    for at, (path, _) in enumerate(files[1:]):
        say(f"{'Its tests' if at == 0 else 'Beside it'}: {path}")


def _check_own(path: str, content: str) -> None:
    """Raise UsageError for a file that was not written by this: what somebody wrote there is not lost."""
    if not os.path.lexists(path):
        return
    head = next(line for line in content.splitlines() if line.strip('/#" ').startswith(_WRITTEN_HERE))
    try:
        with open(path, encoding="utf-8") as file:
            own = head in file.read().splitlines()
    except (OSError, UnicodeDecodeError):
        own = False
    if not own:
        raise UsageError(f"'{path}', which goes beside it, is there already and was written by somebody else; move it")
