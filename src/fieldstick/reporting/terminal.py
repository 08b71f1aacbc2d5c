"""Where text output goes: its width, its characters, and its colours when it is a terminal."""

from __future__ import annotations

import os
import sys
from typing import TYPE_CHECKING, TextIO

from msgspec import Struct

from fieldstick.lean import compiled_later
from fieldstick.reporting.cells import Charset, visible
from fieldstick.reporting.lines import Page, lines_of

if TYPE_CHECKING:
    from collections.abc import Iterable

    from fieldstick.reporting.document import Block
    from fieldstick.reporting.ruler import Line

DEFAULT_WIDTH = 80
LEAST_WIDTH = 24

_WIDTH = compiled_later(r"[1-9][0-9]{0,3}")
"""What COLUMNS must hold to be followed; no terminal is wider."""

STYLES = {
    "field0": "cyan",
    "field1": "magenta",
    "field2": "green",
    "field3": "yellow",
    "field4": "bright_blue",
    "field5": "bright_red",
    "match": "bright_black",
    "stop": "bold red",
    "bad": "bold red",
    "warn": "yellow",
    "good": "green",
    "quiet": "bright_black",
    "strong": "bold",
}


def _width_of(stream: TextIO) -> int:
    try:
        return os.get_terminal_size(stream.fileno()).columns or DEFAULT_WIDTH
    except (OSError, ValueError):
        return DEFAULT_WIDTH


class Terminal(Struct, frozen=True):
    """A stream of text with a width in cells, a character set, colour or none, and whether it is a screen."""

    stream: TextIO
    width: int = DEFAULT_WIDTH
    charset: Charset = Charset()
    colour: bool = False
    is_screen: bool = False

    @classmethod
    def of(cls, stream: TextIO | None = None) -> Terminal:
        """Describe a stream, standard output unless told otherwise.

        Colour is for terminals, and for those only while NO_COLOR is unset (https://no-color.org).
        """
        stream = stream or sys.stdout
        tty = stream.isatty()
        asked = os.environ.get("COLUMNS", "")
        width = int(asked) if _WIDTH.fullmatch(asked) else _width_of(stream) if tty else DEFAULT_WIDTH
        colour = tty and not os.environ.get("NO_COLOR") and os.environ.get("TERM") != "dumb"
        return cls(stream, max(width, LEAST_WIDTH), Charset(stream.encoding or "utf-8"), colour, tty)

    def show(self, blocks: Iterable[Block]) -> None:
        """Write a document."""
        self.write(lines_of(blocks, Page(self.width, self.charset, self.is_screen)))

    def write(self, lines: Iterable[Line], indent: str = "") -> None:
        """Write lines, each after `indent`; whatever text they hold, no control character goes out."""
        if not self.colour:
            for line in lines:
                text = indent + "".join(segment.text for segment in line)
                self.stream.write(visible(text.rstrip(), self.charset) + "\n")
            return
        from rich.console import Console
        from rich.text import Text

        console = Console(file=self.stream, force_terminal=True, width=self.width, highlight=False, emoji=False)
        for line in lines:
            styled = Text(indent, no_wrap=True)
            for segment in line:
                styled.append(visible(segment.text, self.charset), STYLES.get(segment.tone, ""))
            styled.rstrip()
            console.print(styled, markup=False, soft_wrap=True)
