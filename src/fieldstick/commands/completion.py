"""`completion`: what a shell needs to complete commands, options and the names in suites."""

from __future__ import annotations

import os
from pathlib import Path

import click
from click.shell_completion import get_completion_class

from fieldstick.commands import completing
from fieldstick.commands.saying import print_text, tell
from fieldstick.errors import EXIT_PASSED, UsageError
from fieldstick.files import write_whole

SHELLS = ("bash", "zsh", "fish")


@click.command(short_help="Print or install completion for a shell.")
@click.argument("shell", required=False, type=click.Choice(SHELLS))
@click.option("--install", is_flag=True, help="Install it for you: a script of its own, and a line that reads it.")
def command(shell: str | None, install: bool) -> int:
    """Print the script with which bash, zsh or fish completes commands, options, suites, patterns, fields and kinds.

    The shell is that of the SHELL variable where none is named. With --install the script is written below your data
    folder (XDG_DATA_HOME) and a line that reads it is added once to ~/.bashrc or ~/.zshrc; fish finds its own.
    """
    chosen = shell or Path(os.environ.get("SHELL", "")).name
    if chosen not in SHELLS:
        raise UsageError(f"name the shell: {', '.join(SHELLS)}")
    script = _script(chosen)
    if not install:
        print_text(script)
        return EXIT_PASSED
    for words in _install(chosen, script):
        tell(words)
    return EXIT_PASSED


def _script(shell: str) -> str:
    from fieldstick.commands.main import cli

    found = get_completion_class(shell)
    assert found is not None
    return found(cli, {}, "fieldstick", completing.VARIABLE).source()


def _install(shell: str, script: str) -> list[str]:
    home = Path.home()
    if shell == "fish":
        folder = Path(os.environ.get("XDG_CONFIG_HOME") or home / ".config") / "fish" / "completions"
        folder.mkdir(parents=True, exist_ok=True)
        write_whole(folder / "fieldstick.fish", script)
        return [f"Written: {folder / 'fieldstick.fish'}. A new fish has it."]
    folder = Path(os.environ.get("XDG_DATA_HOME") or home / ".local" / "share") / "fieldstick"
    folder.mkdir(parents=True, exist_ok=True)
    file = folder / f"completion.{shell}"
    write_whole(file, script)
    start = home / ".bashrc" if shell == "bash" else Path(os.environ.get("ZDOTDIR") or home) / ".zshrc"
    line = f'[ -r "{file}" ] && . "{file}"  # completion of fieldstick'
    before = start.read_text(encoding="utf-8", errors="surrogateescape") if start.exists() else ""
    if line in before.splitlines():
        return [f"Written: {file}. {start} reads it already."]
    gap = "" if not before or before.endswith("\n") else "\n"
    with start.open("a", encoding="utf-8") as stream:
        stream.write(f"{gap}{line}\n")
    return [f"Written: {file}. {start} reads it from now on; a new {shell} has it."]
