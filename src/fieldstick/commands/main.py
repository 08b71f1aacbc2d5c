"""The command line: its commands, loaded when they are asked for, and what every one of them does on failure."""

from __future__ import annotations

import importlib
import os
import sys
from typing import TYPE_CHECKING

import click

from fieldstick._version import __version__
from fieldstick.ending import INTERRUPT, ending_signal, hear_all, hear_none, undisturbed
from fieldstick.engines.budget import be_patient
from fieldstick.errors import (
    EXIT_DEFECT,
    EXIT_SIGNALLED,
    EXIT_WRONG,
    ExpressionError,
    FieldstickError,
    SuiteFileError,
    SyntaxFault,
)
from fieldstick.lean import PUT_OFF, UNTYPED, leanly

if TYPE_CHECKING:
    from collections.abc import Callable

    from click.shell_completion import CompletionItem

GROUPS = {
    "Start here": {
        "demo": "Lay out the demo data and walk through the job with it.",
        "completion": "Print or install completion for a shell.",
    },
    "Look and draft": {
        "survey": "Show what kinds and shapes of text a source holds.",
        "propose": "Propose expressions from examples.",
        "try": "Run a draft expression over a source and draw where it lands.",
        "draft": "Run a draft over a source, live, as it is typed.",
        "explain": "Say in plain words what an expression asks for.",
        "why": "Say why a text fits or does not, and what would change that.",
        "which": "Say which of all patterns fit a text.",
        "notation": "Look expression notation up, by topic and engine.",
    },
    "Keep and share": {
        "new": "Start a suite: a file that already checks clean.",
        "keep": "Keep a draft as a named pattern of a suite.",
        "sample": "Add a sample to a pattern.",
        "schema": "Print the JSON Schema of the suite file, for editors.",
        "lsp": "Serve editors: suites are checked as they are typed.",
    },
    "Check and guard": {
        "check": "Run every pattern against its samples.",
        "baseline": "Record what check found, for later runs to be held against.",
        "compare": "Say what behaves differently between two versions.",
        "gaps": "Say what no sample decides, and which would.",
        "hazards": "Name what is likely to bite later, in whole suites.",
        "report": "Write a page with tables and charts of a check.",
        "history": "Show how the figures of checks moved.",
        "engines": "List the engines that patterns can run on.",
    },
    "Put to work": {
        "extract": "Turn fitting texts into rows of typed fields.",
        "validate": "Accept or reject rows, each reject with its reason.",
        "select": "Keep the texts that fit, or those that do not.",
        "rewrite": "Put something in place of each match; preview it first.",
        "split": "Cut texts up at each match, into rows or columns.",
        "route": "Sort texts into kinds: a file a kind, and counts.",
        "lookup": "Find the row that fits a value, and give other columns of it.",
        "handover": "Write the pattern for the program where it will run.",
    },
}
"""Every command with its summary, under headings, in the order of the work."""

TRACE = "FIELDSTICK_TRACE"
"""The variable of the environment that has a defect shown with all its calls."""

COMMANDS = {name: summary for commands in GROUPS.values() for name, summary in commands.items()}

_ASKED_TO_COMPLETE = "_FIELDSTICK_COMPLETE"

_MODULES = {"try": "trying"}
"""Modules that cannot be named as their command is."""


class LazyCommands(click.Group):
    """Imports a command's module only when that command is run or asked about, and then calls `on_loaded`."""

    on_loaded: Callable[[], None] = staticmethod(lambda: None)

    def list_commands(self, ctx: click.Context) -> list[str]:
        """Return the commands in the order of the work."""
        return list(COMMANDS)

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        """Return the command of that name; None when there is none."""
        if cmd_name not in COMMANDS:
            return None
        with leanly(PUT_OFF, UNTYPED):
            importlib.import_module("msgspec")
        module = importlib.import_module(f"fieldstick.commands.{_MODULES.get(cmd_name, cmd_name)}")
        command: click.Command = module.command
        if _ASKED_TO_COMPLETE in os.environ:
            from fieldstick.commands.completing import add_completions

            add_completions(command)
        self.on_loaded()
        return command

    def shell_complete(self, ctx: click.Context, incomplete: str) -> list[CompletionItem]:
        """Complete the name of a command without importing any."""
        if incomplete.startswith("-"):
            return click.Command.shell_complete(self, ctx, incomplete)
        from click.shell_completion import CompletionItem

        return [CompletionItem(name, help=words) for name, words in COMMANDS.items() if name.startswith(incomplete)]

    def resolve_command(
        self, ctx: click.Context, args: list[str]
    ) -> tuple[str | None, click.Command | None, list[str]]:
        """Find the command that the arguments name; of an unknown one, name the nearest."""
        if args and args[0] not in COMMANDS and not args[0].startswith("-") and not ctx.resilient_parsing:
            from fieldstick.errors import hint

            raise click.UsageError(f"there is no command '{args[0]}'{hint(args[0], COMMANDS)}", ctx)
        return super().resolve_command(ctx, args)

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        """List the commands under their headings, without importing them."""
        width = max(map(len, COMMANDS))
        for heading, commands in GROUPS.items():
            with formatter.section(heading):
                formatter.write_dl([(f"{name:<{width}}", summary) for name, summary in commands.items()])


def _show_version(context: click.Context, parameter: click.Parameter, asked: bool) -> None:
    verbose = context.params.get("verbose")
    if context.resilient_parsing or not (asked or verbose):
        return
    if not asked:
        raise click.UsageError("--verbose goes with --version", context)
    click.echo(f"fieldstick {__version__}")
    if verbose:
        from fieldstick.kernels.walkers import words

        click.echo(f"Python {'.'.join(map(str, sys.version_info[:3]))}\nwalkers: {words()}")
    context.exit()


@click.group(cls=LazyCommands, context_settings={"help_option_names": ["-h", "--help"]})
@click.option("--version", is_flag=True, callback=_show_version, help="Show the version and exit.")
@click.option("--verbose", is_flag=True, is_eager=True, help="With --version, show what it runs on too.")
def cli(version: bool, verbose: bool) -> None:
    """Keep shared suites of extraction and validation patterns, check them, and put them to work."""


def main(arguments: list[str] | None = None) -> int:
    """Run the command line, write what is left of its output, and return its status."""
    # Until a command is at hand there is nothing to tidy up.
    LazyCommands.on_loaded = staticmethod(hear_all)
    status = run(arguments)
    if status > EXIT_SIGNALLED:
        # Asked once more, there is nothing left to end.
        hear_none()
    try:
        sys.stdout.flush()
    except BrokenPipeError:
        _silence_output()
    except OSError as error:
        status = _unwritten(error)
    return status


def run(arguments: list[str] | None = None) -> int:
    """Run the command line and return its exit status; every failure the user can mend is a sentence."""
    for stream in (sys.stdout, sys.stderr):
        if hasattr(stream, "reconfigure"):
            stream.reconfigure(errors="backslashreplace")
    if _ASKED_TO_COMPLETE in os.environ:
        # What a shell is told differs from what Click would tell it.
        importlib.import_module("fieldstick.commands.completing")
    try:
        status = cli.main(args=arguments, prog_name="fieldstick", standalone_mode=False)
        return status if isinstance(status, int) else 0
    except SyntaxFault as error:
        _show_fault(error)
        return error.exit_status
    except ExpressionError as error:
        fault = _fault_of(error)
        if fault is not None:
            _show_fault(fault)
        else:
            _say(f"fieldstick: {error}")
        return error.exit_status
    except FieldstickError as error:
        _say(str(error) if isinstance(error, SuiteFileError) else f"fieldstick: {error}")
        return error.exit_status
    except click.ClickException as error:
        return _show(error)
    except (click.Abort, KeyboardInterrupt) as error:
        return _ended(error)
    except BrokenPipeError:
        _silence_output()
        return 0
    except OSError as error:
        return _unwritten(error) if error.filename is None else _failed(f"{error.filename}: {error.strerror or error}")
    except MemoryError:
        return _failed("there is not enough memory for this")
    except Exception as error:
        # What a signal raises while a class is made, as when a module is loaded, comes wrapped.
        return _ended(error) if isinstance(error.__cause__, KeyboardInterrupt) else _defect(error)
    finally:
        be_patient(None)


def _ended(error: BaseException) -> int:
    number = ending_signal(error)
    with undisturbed():
        _say(f"fieldstick: {'interrupted' if number == INTERRUPT else 'ended by a signal'}")
    return EXIT_SIGNALLED + number


def _fault_of(error: ExpressionError) -> SyntaxFault | None:
    """Return what is wrong with an expression that an engine refuses, with its place, as every command says it.

    None where our own reading finds nothing wrong.
    """
    if error.given is None:
        return None
    from fieldstick.syntax.parser import parse

    try:
        parse(*error.given)
    except SyntaxFault as fault:
        return fault
    return None


def _failed(words: str) -> int:
    _say(f"fieldstick: {words}")
    return EXIT_WRONG


def _unwritten(error: OSError) -> int:
    """Say that standard output cannot be written; what is still buffered goes nowhere."""
    _silence_output()
    return _failed(f"standard output cannot be written: {error.strerror or error}")


def _defect(error: Exception) -> int:
    """Say that Fieldstick itself is at fault, and how to report it."""
    import traceback

    where = traceback.extract_tb(error.__traceback__)[-1]
    if os.environ.get(TRACE):
        traceback.print_exc()
    _say(
        f"fieldstick: a defect of Fieldstick {__version__} itself: {type(error).__name__} in {where.name}, "
        f"{os.path.basename(where.filename)}:{where.lineno}; please report it with the command, and with what "
        f"{TRACE}=1 in the environment adds"
    )
    return EXIT_DEFECT


def _show(error: click.ClickException) -> int:
    context = getattr(error, "ctx", None)
    path = context.command_path if context else "fieldstick"
    if isinstance(error, click.exceptions.NoArgsIsHelpError):
        error.show()
        return EXIT_WRONG
    import re

    # Where the library lays choices out in lines, they stand in one.
    message = re.sub(r"\s*\n\s*", " ", error.format_message()).rstrip(".")
    _say(f"fieldstick: {message}; see '{path} --help'")
    return EXIT_WRONG


def _show_fault(fault: SyntaxFault) -> None:
    """Print an expression that cannot be read, with a mark under what is wrong with it."""
    from fieldstick.reporting.document import Mark, Ruled
    from fieldstick.reporting.terminal import Terminal

    start, end = fault.span
    mark = Mark(start, max(end, start + 1), kind="match", tone="stop")
    Terminal.of(sys.stderr).show([Ruled(fault.expression, (mark,), indent=2)])
    _say(f"fieldstick: the expression cannot be read: {fault}")


def _say(message: str) -> None:
    from fieldstick.reporting.cells import Charset, visible

    charset = Charset(sys.stderr.encoding or "utf-8")
    for line in message.split("\n"):
        click.echo(visible(line, charset), err=True)


def _silence_output() -> None:
    """Send what is still buffered nowhere: the reader of the pipe has gone."""
    nowhere = os.open(os.devnull, os.O_WRONLY)
    os.dup2(nowhere, sys.stdout.fileno())
