"""What parts texts: marks that all have equally often, what all of them share, the same few pieces again and again."""

from __future__ import annotations

from bisect import bisect_left
from collections import Counter
from itertools import pairwise
from typing import TYPE_CHECKING

from fieldstick.drafting.context import common_start
from fieldstick.drafting.proposals.aligning import common_places
from fieldstick.drafting.proposals.cutting import Token, tokens_of
from fieldstick.drafting.proposals.odd_ones import has_digit
from fieldstick.drafting.proposals.pieces import Piece, coming_again
from fieldstick.drafting.proposals.shapes import FEWEST_OF_KEY, MOST_PIECES, ended, form_of, is_with_special
from fieldstick.drafting.proposals.spelling import listed_of
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Container, Sequence

    from fieldstick.drafting.proposals.pieces import Form

MOST_BETWEEN = 3
"""Ways in which words are parted up to which these may be the same again and again, where some are tabs."""

LONGEST_AGAIN = 4
"""Pieces that come again together, at the most."""


FEWEST_SHARED, LEAST_SHARED = 8, 3
"""Texts from which on it is no chance that all of them hold so many characters that are no digits."""

LONGEST_SHARED_OF = 400
"""Code points of the shortest text up to which it is looked for what all texts hold."""


def by_parting(texts: Sequence[str], between: str) -> list[Form] | None:
    """Return the form of texts that marks part which all of them have equally often, in one order, or None.

    `between` is the kind of what stands between them, where that is more than one piece.
    """
    letters = {each for text in texts for each in text if each.isalpha()}
    if len(set(map(str.casefold, letters))) == 1 and all(sum(map(str.isalpha, text)) == 1 for text in texts):
        # The only letter there is, as that of an exponent, parts as a mark does.
        rows = [[Token(each, each) for each in text] for text in texts]
    else:
        rows = [[piece for each in tokens_of(text, "runs") for piece in _without_plus(each)] for text in texts]
        letters = set()
    counts = [Counter(each.kind for each in row if each.kind == each.text and not each.kind.isalnum()) for row in rows]
    marks = {each for each in counts[0] if len({count[each] for count in counts}) == 1}
    if len({tuple(each.kind for each in row if each.kind in marks) for row in rows}) > 1:
        marks = {max(sorted(marks), key=lambda each: counts[0][each])}
    marks |= letters
    if not marks:
        return None
    form: Form = []
    columns = list(zip(*(_parted(row, marks) for row in rows), strict=True))
    if len(columns) > MOST_PIECES:
        return None
    for number, column in enumerate(columns):
        kinds = {tuple(each.kind for each in cell) for cell in column}
        values = ["".join(each.text for each in cell) for cell in column]
        if number % 2:
            form.append(Piece("mark", values))
        elif len(kinds) == 1 and len(column[0]) == 1 and not letters:
            form.append(Piece(column[0][0].kind, values))
        elif any("\t" in each.strip() for each in values):
            # A tab parts what stands beside it more than any mark does.
            return None
        elif any(values):
            # The last one ends before another of the marks that part them.
            until = columns[number + 1 if number + 1 < len(columns) else number - 1][0][0].text
            form += _with_key_apart(column, Piece(between, values, until))
    return [ended(form)]


_BEHIND_KEY = ("=", ":")


def _with_key_apart(column: Sequence[Sequence[Token]], piece: Piece) -> Form:
    """Tell the word that all cells of a column end with, behind a blank, from the value before it: it is a key."""
    if piece.until not in _BEHIND_KEY or not all(len(cell) > 2 for cell in column):
        return [piece]
    rows = [cell[-2:] for cell in column]
    if any((row[0].kind, row[1].kind) != ("blank", "word") for row in rows) or len({row[1].text for row in rows}) > 1:
        return [piece]
    blanks, keys = ([row[at].text for row in rows] for at in range(2))
    values = [each[: -len(blank + key)] for each, blank, key in zip(piece.values, blanks, keys, strict=True)]
    inner = form_of(values)
    value: Form = inner if inner is not None and is_with_special(inner) else [Piece(piece.kind, values, " ")]
    return [*value, Piece("blank", blanks), Piece("word", keys)]


def _without_plus(token: Token) -> list[Token]:
    """Tell the sign from a number that begins with +, which more often stands between two."""
    plus = token.kind == "number" and token.text.startswith("+")
    return [Token("+", "+"), Token("number", token.text[1:])] if plus else [token]


def _parted(row: Sequence[Token], marks: set[str]) -> list[list[Token]]:
    """Return the pieces of a text between marks, and the marks, in turn."""
    found: list[list[Token]] = [[]]
    for token in row:
        if token.kind in marks:
            found += [[token], []]
        else:
            found[-1].append(token)
    return found


def by_stretches(rows: Sequence[Sequence[Token]], words: Container[str]) -> list[Form] | None:
    """Return the form of texts that are the same few pieces again and again, or words with marks and blanks between.

    `words` are the kinds of pieces that words are made of.
    """
    kinds = [[each.kind for each in row] for row in rows]
    if len({*map(len, kinds)}) < FEWEST_OF_KEY:
        return None
    for size in range(1, LONGEST_AGAIN + 1):
        unit = kinds[0][:size]
        if all(len(each) % size == 0 and each == unit * (len(each) // size) for each in kinds):
            return [coming_again([[row[at : at + size] for at in range(0, len(row), size)] for row in rows])]
    joined = [_words_and_between(row, words) for row in rows]
    between = {each.text for row in joined for each in row if each.kind != "word"}
    if len(between) > MOST_BETWEEN and any("\t" in each for each in between):
        return None
    if all(map(str.isspace, between)):
        joined = [[each if each.kind == "word" else Token("blank", each.text) for each in row] for row in joined]
    if not all(len(row) % 2 and row[0].kind == "word" for row in joined) or max(map(len, joined)) == 1:
        return None
    if all(has_digit(row[0].text) for row in joined) and not any(has_digit(row[2].text) for row in joined if row[2:]):
        # What words follow is no word of theirs.
        return None
    return [coming_again([[row[:1], *(row[at : at + 2] for at in range(1, len(row), 2))] for row in joined])]


def _words_and_between(row: Sequence[Token], words: Container[str]) -> list[Token]:
    """Put what words are made of by one word where it stands together, and all between words by one chunk."""
    found: list[Token] = []
    for token in row:
        kind = "word" if token.kind in words else "chunk"
        if found and found[-1].kind == kind:
            found[-1] = Token(kind, found[-1].text + token.text)
        else:
            found.append(Token(kind, token.text))
    return found


_ENDS_IN_PIECE = compiled_later(r"\d+[.,]?\Z|(?<![^\W\d_])[^\W\d_]{1,2}\Z")
_BEGINS_IN_PIECE = compiled_later(r"\A[.,]?\d+|\A[^\W\d_]{1,2}(?![^\W\d_])")


def by_shared_text(texts: Sequence[str]) -> list[Form] | None:
    """Return the form of texts of several that hold the same letters or marks, wherever these are cut, or None."""
    if len(texts) < FEWEST_SHARED:
        return None
    start, end = common_start(texts)[:1], common_start([each[::-1] for each in texts])[:1]
    start, end = ("" if each.isalnum() or each.isspace() or min(map(len, texts)) < 2 else each for each in (start, end))
    form = _around_shared([each.removeprefix(start).removesuffix(end) for each in texts], end)
    form[:0] = [Piece(start, [start] * len(texts))] if start else []
    form += [Piece(end, [end] * len(texts))] if end else []
    return [form] if any(each.kind == "key shared" for each in form if isinstance(each, Piece)) else None


def _around_shared(texts: list[str], until: str) -> Form:
    """Return the form of texts around the longest that all of them hold."""
    shared = longest_shared(texts)
    shared = _within_pieces(shared, [text.partition(shared) for text in texts]) if shared else ""
    if not shared:
        return [Piece("gap", texts, until)] if any(texts) else []
    cut = [text.partition(shared) for text in texts]
    before, after = [each[0] for each in cut], [each[2] for each in cut]
    return [
        *_around_shared(before, shared[0]),
        Piece("key shared", [shared] * len(texts)),
        *_around_shared(after, until),
    ]


def _within_pieces(shared: str, cut: Sequence[tuple[str, str, str]]) -> str:
    """Return what is shared without digits, or a letter or two, that belong to what is beside it in some text."""
    ends, begins = [each[2][:1] for each in cut], [each[0][-1:] for each in cut]
    for expression, beside in ((_ENDS_IN_PIECE, ends), (_BEGINS_IN_PIECE, begins)):
        found = expression.search(shared)
        if found is not None and any(each.isalpha() if found[0].isalpha() else each.isdecimal() for each in beside):
            shared = shared[: found.start()] + shared[found.end() :]
    return shared if sum(not each.isspace() for each in shared) >= LEAST_SHARED else ""


def longest_shared(texts: Sequence[str]) -> str:
    """Return the longest that all texts hold, of letters and marks that are no chance; nothing where there is none.

    What all texts hold of one size, they hold of each smaller one: the greatest is found by halving.
    """
    least = min(texts, key=len)
    if len(least) > LONGEST_SHARED_OF:
        return ""

    def shared(size: int) -> list[str]:
        """Return all of a size that all texts hold, in order."""
        held = dict.fromkeys(least[at : at + size] for at in range(len(least) - size + 1))
        return [each for each in held if all(each in text for text in texts)]

    size = bisect_left(range(LEAST_SHARED, len(least) + 1), True, key=lambda each: not shared(each)) + LEAST_SHARED - 1
    for each in range(size, LEAST_SHARED - 1, -1):
        found = next(filter(_is_no_chance, shared(each)), None)
        if found is not None:
            return found
    return ""


def _is_no_chance(text: str) -> bool:
    counts = sum(not each.isdecimal() and not each.isspace() for each in text)
    return text == text.strip() and counts >= LEAST_SHARED


def by_shared(texts: Sequence[str]) -> Form:
    """Return the one form of texts of many: what all of them hold in the same order, and anything between."""
    rows = [[each.text for each in tokens_of(text)] for text in texts]
    shared = rows[0]
    for row in rows[1:]:
        shared = _common(shared, row)
    if len(shared) > MOST_PIECES:
        return [Piece("gap", [*texts])]
    form: Form = []
    gaps: list[list[str]] = [[] for _ in range(len(shared) + 1)]
    for row in rows:
        places, at = [], 0
        for each in shared:
            at = row.index(each, at)
            places.append(at)
            at += 1
        for number, (one, other) in enumerate(pairwise([-1, *places, len(row)])):
            gaps[number].append("".join(row[one + 1 : other]))
    for number, gap in enumerate(gaps):
        following = shared[number] if number < len(shared) else ""
        if any(gap):
            # The last one ends before another of the mark before it.
            until = following or "".join(each for each in shared[-1:] if not each.isalnum() and not each.isspace())
            form.append(Piece("gap", gap, until))
        if following:
            kind = "word" if any(map(str.isalnum, following)) else "blank" if following.isspace() else following
            form.append(Piece(kind, [following] * len(texts)))
    return _with_gaps_joined(form)


def _with_gaps_joined(form: Form) -> Form:
    """Make one piece of words of which some texts have more than others: that all have one or two is chance."""
    made: Form = []
    if len(form) <= MOST_BEFORE_PROSE:
        return form
    for each in form:
        made.append(each)
        while (joined := _joined_gaps(made)) is not None:
            made[-3:] = [joined]
    return made


def _joined_gaps(form: Form) -> Piece | None:
    """Return the words at the end of a form as one piece; None where there are others."""
    if len(form) < MOST_BEFORE_PROSE:
        return None
    one, blank, rest = form[-3:]
    if not (isinstance(one, Piece) and isinstance(blank, Piece) and isinstance(rest, Piece)):
        return None
    if (one.kind, blank.kind, rest.kind) != ("gap", "blank", "gap") or set(blank.values) != {" "}:
        return None
    if not any(" " in each for each in rest.values) or not _are_prose(one.values) or listed_of(one.values) is not None:
        return None
    return Piece("gap", [" ".join(each) for each in zip(one.values, rest.values, strict=True)], rest.until)


MOST_BEFORE_PROSE = 3
"""Pieces of a text that is nothing but words: these are told one by one."""


PROSE = 0.8
"""The share of words without a digit in them from which on they are those of a text."""


def _are_prose(words: Sequence[str]) -> bool:
    """Tell whether words are no numbers nor codes."""
    return sum(not has_digit(each) for each in words) >= PROSE * len(words)


def _common(one: Sequence[str], other: Sequence[str]) -> list[str]:
    """Return the longest that two rows of pieces hold in the same order."""
    going = iter(other)
    if all(each in going for each in one):
        # Most often the other holds all of it.
        return list(one)
    return [one[place] for place, _ in common_places(one, other)]
