"""Says what was met while sources were read: what could not be read as asked, by line."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.commands.saying import say
from fieldstick.data.rows import second_of
from fieldstick.reporting.source_words import source_words

if TYPE_CHECKING:
    from collections.abc import Iterable

    from fieldstick.data.source import Source


def say_source_notes(sources: Iterable[Source]) -> bool:
    """Say on standard error what was met, and return whether something was not read as it should be."""
    trouble = False
    for source in sources:
        for words in source_words(source):
            say(f"{source.name}: {words}")
            trouble = True
        for name in dict.fromkeys(source.namesakes):
            say(f"{source.name}: beside '{name}' there is '{second_of(name)}'; later columns of one name are numbered")
    return trouble
