"""Says things: results to standard output, everything else to standard error."""

from __future__ import annotations

import sys

import click

from fieldstick.reporting.cells import Charset, visible


def encodable(text: str) -> str:
    """Return a text with what standard output cannot write shown as visible symbols."""
    charset = Charset(sys.stdout.encoding or "utf-8")
    return (
        text if charset.can_show(text) else "".join(each if each == "\n" else visible(each, charset) for each in text)
    )


def print_text(text: str) -> None:
    """Print a text that is made already to standard output."""
    sys.stdout.write(encodable(text))


def say(words: str) -> None:
    """Write a line to standard error."""
    click.echo(visible(words, Charset(sys.stderr.encoding or "utf-8")), err=True)


def tell(words: str) -> None:
    """Write a line to standard output; what a suite or a file name holds reaches no terminal as a control sequence."""
    click.echo(visible(words, Charset(sys.stdout.encoding or "utf-8")))
