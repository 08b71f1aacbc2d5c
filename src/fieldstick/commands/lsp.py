"""`lsp`: the language server for suite files."""

from __future__ import annotations

from fieldstick.commands.option_groups import command as headed_command
from fieldstick.errors import EXIT_PASSED, UsageError


@headed_command(short_help="Serve editors: suites are checked as they are typed.")
def command() -> int:
    """Serve an editor over standard input and output (Language Server Protocol 3.17).

    Mistakes, failing samples and hazards are shown where they stand; what a piece asks for, on hovering; keys, parts,
    patterns and fields are completed; parts and members are found, and renamed across suites; changes that mend a
    failing sample are offered. docs/editors.md has settings for editors.
    """
    try:
        from fieldstick.lsp.server import serve
    except ImportError as error:
        raise UsageError(f"lsp needs {error.name}: pip install 'fieldstick[lsp]'") from error
    try:
        serve()
    except OSError as error:
        raise UsageError(f"lsp speaks over standard input and output: {error.strerror or error}") from None
    return EXIT_PASSED
