"""Tells records of a line or a few, and any number of others behind them: lines that begin with a blank, by which a
program says where something went wrong, or prose.
"""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

from fieldstick.drafting.proposals.beginnings import as_one
from fieldstick.drafting.proposals.labelled_lines import labelled_rows
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

NAME = "lines"

FEWEST_FOLLOWED = 3
"""Texts that must have such lines."""

WORDS_OF_PROSE, OF_PROSE = 4, 0.3
"""Words of a line of prose, of which there are more, and the share of lines that have the same word at one place."""

_FOLLOWING = compiled_later(r"\n[ \t][^\n]*(?:\n[^\n]+)*\n*\Z")
_BESIDE = compiled_later(r"\n[^ \t\n]")


def first_lines(texts: Sequence[str]) -> Mapping[str, str] | None:
    """Return what texts begin with, by text, before lines that begin with a blank; None where those are not any number.

    They are not where all texts have as many, or where they go on with the value of a label.
    """
    behind = {text: found[0] for text in texts if (found := _FOLLOWING.search(text)) is not None}
    if len(behind) < FEWEST_FOLLOWED or len({rest.strip("\n").count("\n") for rest in behind.values()}) < 2:
        return None
    if labelled_rows(texts) is not None:
        return None
    return {text: text[: len(text) - len(behind.get(text, ""))].rstrip("\n") for text in texts}


def heads_of_prose(texts: Sequence[str]) -> Mapping[str, str] | None:
    """Return the first lines of texts, by text, where prose is behind these in more lines or fewer; else None."""
    heads = {text: text.partition("\n")[0] for text in texts}
    behind = [rest.split("\n") for text, head in heads.items() if (rest := text[len(head) + 1 :].rstrip("\n"))]
    lines = [line for rest in behind for line in rest if line]
    if len(behind) < FEWEST_FOLLOWED or len(set(map(len, behind))) < 2 or labelled_rows(texts) is not None:
        return None
    wordy = [words for line in lines if len(words := line.split()) > WORDS_OF_PROSE]
    often = max((Counter(words).most_common(1)[0][1] for words in zip(*wordy, strict=False)), default=0)
    return heads if 2 * len(wordy) >= len(lines) and often <= OF_PROSE * len(wordy) else None


def with_following(expression: str, first: Mapping[str, str]) -> str:
    """Return an expression for what texts begin with, and the lines behind that as a field."""
    behind = {text[len(start) :] for text, start in first.items()}
    beside = any(map(_BESIDE.search, behind)) or any(each.startswith("\n\n") for each in behind)
    inner = r"\n+[^\n]+" if beside else r"\n[ \t][^\n]*"
    ends = {len(each) - len(each.rstrip("\n")) for each in behind}
    end = r"\n" * ends.pop() if len(ends) == 1 else r"\n*"
    times = "*" if any(not each.strip() for each in behind) else "+"
    field = f"(?P<{NAME}>(?:{inner}){times})" if f"(?P<{NAME}>" not in expression else f"(?:{inner}){times}"
    return as_one(expression) + field + end
