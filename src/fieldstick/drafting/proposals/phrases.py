"""Values of several words that come again and again, such as names, each told as one piece."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

from fieldstick.drafting.proposals.cutting import Token, tokens_of
from fieldstick.drafting.proposals.pieces import Piece
from fieldstick.drafting.proposals.spelling import OFTEN

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.drafting.proposals.pieces import Form

BETWEEN = (" ", "-")
"""What stands between the words of one value."""


def rows_of_phrases(texts: Sequence[str]) -> list[list[Token]] | None:
    """Cut texts into pieces, those of several words that come often whole; None where no text has such."""
    cut = [[[*each] for each in _stretches(tokens_of(text, "runs"))] for text in texts]
    times = Counter(_text(each) for row in cut for each in row if len(each) > 1)
    often = {text for text, count in times.items() if count >= OFTEN}
    if not often:
        return None
    return [
        [
            token
            for each in row
            for token in ([Token("word", _text(each))] if len(each) > 1 and _text(each) in often else each)
        ]
        for row in cut
    ]


def _stretches(row: Sequence[Token]) -> Iterator[Sequence[Token]]:
    """Yield words with a blank or a hyphen between them together, but those with digits beside them; the rest alone."""
    words = [
        each.kind == "word"
        and all(other.kind != "number" for other in (*row[max(at - 1, 0) : at], *row[at + 1 : at + 2]))
        for at, each in enumerate(row)
    ]
    at = 0
    while at < len(row):
        end = at + 1
        while words[at] and end + 1 < len(row) and row[end].text in BETWEEN and words[end + 1]:
            end += 2
        yield row[at:end]
        at = end


def _text(row: Sequence[Token]) -> str:
    return "".join(each.text for each in row)


def without_shared_words(form: Form) -> Form:
    """Tell the words that all values at a place begin or end with from the rest of them."""
    made: Form = []
    for each in form:
        if isinstance(each, Piece) and each.kind == "word":
            made += _apart(each)
        else:
            made.append(each)
    return made


def _apart(piece: Piece) -> list[Piece]:
    values = [each.split(" ") for each in piece.values]
    fewest = min(map(len, values))
    if fewest < 2 or len(set(piece.values)) == 1:
        return [piece]
    head = next((at for at in range(fewest) if len({each[at] for each in values}) > 1), fewest - 1)
    tail = next((at for at in range(fewest - head) if len({each[-1 - at] for each in values}) > 1), fewest - head - 1)
    count = len(values)
    made: list[Piece] = []
    for word in values[0][:head]:
        made += [Piece("word", [word] * count), Piece("blank", [" "] * count)]
    made.append(Piece("word", [" ".join(each[head : len(each) - tail]) for each in values]))
    for word in values[0][len(values[0]) - tail :]:
        made += [Piece("blank", [" "] * count), Piece("word", [word] * count)]
    return made
