"""Values of several words that come again and again, such as names, each told as one piece."""

from __future__ import annotations

from collections import Counter
from functools import lru_cache
from itertools import compress
from typing import TYPE_CHECKING

from fieldstick.drafting.proposals.cutting import Token, Told, tokens_of, told
from fieldstick.drafting.proposals.pieces import BETWEEN, Piece
from fieldstick.drafting.proposals.shapes import FEWEST_OF_KEY, MOST_FORMS
from fieldstick.drafting.proposals.spelling import MOST_LISTED, OFTEN

if TYPE_CHECKING:
    from collections.abc import Container, Iterator, Sequence

    from fieldstick.drafting.proposals.pieces import Form

NEARLY, CHANCE = 0.95, 100
"""Of the times that a word comes, how often another must stand beside it for both to be one value; and how many times
less likely than not at all it must be that they do so by chance.
"""

MOST_ROUNDS = 3
"""How often words are looked for that come with one another, those that were found being one word."""

MOST_SHAPES = 4 * MOST_FORMS
"""Ways in which texts are cut, letters apart from digits, beyond which these are one word together."""

LONGEST_SHORTENED = 3
"""Letters of a word that is shortened, with a point behind, at the most."""


def rows_of_phrases(texts: Sequence[str]) -> list[list[Token]] | None:
    """Cut texts into pieces, those of several words that come often whole; None where no text has such."""
    cut = [[*_stretches(row)] for row in _cut(texts)]
    made = _with_whole(cut, OFTEN)
    return made if sum(map(len, made)) < sum(len(each) for row in cut for each in row) else None


def rows_of_collocations(texts: Sequence[str]) -> list[list[Token]] | None:
    """Cut texts into pieces, words that come with one another whole; None where no text has such.

    They are one value where one of them hardly comes without the other, and that is no chance: less than one in
    `CHANCE` if it came anywhere as often as it does (collocation; Firth 1957). What several come before and others
    behind, as `to` in `drove to fen` and `walked to moss`, parts them instead.
    """
    return _rows_of_collocations(tuple(texts), told())


@lru_cache(maxsize=8)
def _rows_of_collocations(texts: tuple[str, ...], _: Told) -> list[list[Token]] | None:
    rows = _with_codes(_cut(texts))
    times = Counter(each.text for row in rows for each in row)
    rare = {each for each in times if any(map(str.isdecimal, each)) and times[each] < _often(rows)}
    found = False
    for _round in range(MOST_ROUNDS):
        words = [_words_in(row, rare) for row in rows]
        together = _collocations(rows, words)
        if not together:
            break
        found, rows = True, [_joined(row, own, together) for row, own in zip(rows, words, strict=True)]
    return rows if found else None


def _cut(texts: Sequence[str]) -> list[tuple[Token, ...]]:
    """Cut texts into pieces, letters apart from digits; where they come in any order, as of base 16, into words."""
    rows = [tokens_of(text, "runs") for text in texts]
    shapes = {tuple(each.kind for each in row) for row in rows}
    return rows if len(shapes) <= MOST_SHAPES else [tokens_of(text, "words") for text in texts]


def _with_codes(rows: Sequence[Sequence[Token]]) -> list[list[Token]]:
    """Make one word of what stands together where few that are different come often: `1y`, `O'Brae`, `St.` before more.

    A mark that stands alone for a word, as in `fen & mire`, is one.
    """
    return _with_whole([[*_codes(row)] for row in rows], _often(rows))


def _often(rows: Sequence[Sequence[Token]]) -> float:
    """Return how often a word that holds digits must come for it to be one of a few."""
    return max(OFTEN, len(rows) / MOST_LISTED)


def _codes(row: Sequence[Token]) -> Iterator[list[Token]]:
    """Yield letters and digits that stand together, with marks within and a point behind a few; and the rest alone."""
    made: list[Token] = []
    for at, each in enumerate(row):
        behind = [other.kind for other in row[at + 1 : at + 3]]
        last = made[-1] if made else Token("blank", "")
        if each.kind in ("word", "number"):
            joins = last.kind in ("word", "number", "'")
        elif each.text == "'":
            joins = last.kind == "word" and behind[:1] == ["word"]
        else:
            short = last.kind == "word" and len(last.text) <= LONGEST_SHORTENED
            joins = each.text == "." and short and behind == ["blank", "word"]
        if made and not joins:
            yield made
            made = []
        alone = each.text == "&" and last.kind == "blank" and behind == ["blank", "word"]
        made.append(Token("word", each.text) if alone else each)
    yield made


def _with_whole(cut: Sequence[Sequence[Sequence[Token]]], often: float) -> list[list[Token]]:
    """Make one word of each stretch of several pieces that comes as often as that."""
    times = Counter(_text(each) for row in cut for each in row if len(each) > 1)
    return [
        [
            token
            for each in row
            for token in ([Token("word", _text(each))] if len(each) > 1 and times[_text(each)] >= often else each)
        ]
        for row in cut
    ]


def _joined(row: Sequence[Token], words: Sequence[bool], together: Container[tuple[str, str]]) -> list[Token]:
    made: list[Token] = []
    for at, each in enumerate(row):
        if words[at] and _is_behind_word(row, words, at) and (row[at - 2].text, each.text) in together:
            between = made.pop()
            made[-1] = Token("word", made[-1].text + between.text + each.text)
        else:
            made.append(each)
    return made


def _is_behind_word(row: Sequence[Token], words: Sequence[bool], at: int) -> bool:
    return at >= 2 and words[at - 2] and row[at - 1].text in BETWEEN


def _collocations(rows: Sequence[Sequence[Token]], words: Sequence[Sequence[bool]]) -> set[tuple[str, str]]:
    times: Counter[str] = Counter()
    pairs: Counter[tuple[str, str]] = Counter()
    for row, own in zip(rows, words, strict=True):
        for at in compress(range(len(row)), own):
            times[row[at].text] += 1
            if _is_behind_word(row, own, at):
                pairs[row[at - 2].text, row[at].text] += 1

    def tells(one: str, other: str, count: int) -> bool:
        """Tell whether the other stands beside nearly every one, and does not stand nearly everywhere."""
        return count >= NEARLY * times[one] and min(1.0, times[other] / len(rows)) ** times[one] < 1 / CHANCE

    found = {
        (one, other)
        for (one, other), count in pairs.items()
        if count >= FEWEST_OF_KEY and (tells(one, other, count) or tells(other, one, count))
    }
    before, behind = Counter(other for _, other in found), Counter(one for one, _ in found)
    parting = {each for each in before if before[each] > 1 and behind[each] > 1}
    return {pair for pair in found if not parting.intersection(pair)}


def _words_in(row: Sequence[Token], rare: Container[str] = ()) -> list[bool]:
    """Tell of each piece whether it is a word of letters alone, with no digits beside it, and no key, nor `rare`."""
    kinds = ["", *(each.kind for each in row), ""]
    return [
        own == "word" and before != "number" and behind not in ("number", "=") and each.text not in rare
        for each, before, own, behind in zip(row, kinds, kinds[1:], kinds[2:], strict=False)
    ]


def _stretches(row: Sequence[Token]) -> Iterator[Sequence[Token]]:
    """Yield words with a blank or a hyphen between them together, but those with digits beside them; the rest alone."""
    words = _words_in(row)
    at = 0
    while at < len(row):
        end = at + 1
        while words[at] and end + 1 < len(row) and row[end].text in BETWEEN and words[end + 1]:
            end += 2
        yield row[at:end]
        at = end


def _text(row: Sequence[Token]) -> str:
    return "".join(each.text for each in row)


def told_apart(form: Form) -> Form:
    """Tell words apart where all values at a place have as many, else those that all begin or end with."""
    made: Form = []
    for each in form:
        if isinstance(each, Piece) and each.kind == "word":
            made += _apart(each)
        elif isinstance(each, list):
            made.append([part for piece in each for part in (_apart(piece) if piece.kind == "word" else [piece])])
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
    if fewest == max(map(len, values)):
        head, tail = fewest - 1, 0
    made: list[Piece] = []
    for at in range(head):
        made += [Piece("word", [each[at] for each in values]), Piece("blank", [" "] * len(values))]
    made.append(Piece("word", [" ".join(each[head : len(each) - tail]) for each in values]))
    for at in range(-tail, 0):
        made += [Piece("blank", [" "] * len(values)), Piece("word", [each[at] for each in values])]
    return made
