"""Tells the few words that many texts begin with from what comes after them."""

from __future__ import annotations

from collections import Counter, defaultdict
from itertools import takewhile
from typing import TYPE_CHECKING

from fieldstick.drafting.context import common_start
from fieldstick.drafting.proposals.cutting import Token, tokens_of
from fieldstick.drafting.proposals.odd_ones import MOST_ODD
from fieldstick.drafting.proposals.pieces import Piece, aligned
from fieldstick.drafting.proposals.shapes import ended, form_of
from fieldstick.drafting.proposals.special_pieces import SPECIAL
from fieldstick.drafting.proposals.spelling import listed_of
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Container, Sequence

    from fieldstick.drafting.proposals.cutting import Cut
    from fieldstick.drafting.proposals.pieces import Form

FEWEST_BEFORE_PROSE = 4
"""Pieces that stand before prose, at the least: two with a blank after each."""

FEWEST_WAYS = 6
"""Ways to go on, no two alike, from which on it is prose that is gone on with."""

ARTICLES = frozenset(("a", "an", "the"))
"""Words of which one stands where sentences begin, now and then."""

WITH_BLANK = 2
"""Pieces that a word and the blank behind it are."""

FEWEST_BEHIND_PROSE = 2
"""Pieces that stand behind prose, at the least: what parts them from it, and one more."""

FEWEST_OF_HEAD, MOST_HEADS, LEAST_LETTERS = 2, 8, 2
"""Texts that begin with a word for it to be one of few, how many such words there are, and how long one is."""


_BEGUN_NUMBER = compiled_later(r"\d[\d.,:]*$")


def by_heads(texts: Sequence[str]) -> list[Form] | None:
    """Return the form of texts that begin with one of a few words or marks, and have anything after it, or None."""
    shared = common_start(texts)
    groups: dict[str, list[str]] = defaultdict(list)
    for text in dict.fromkeys(each[len(shared) :] for each in texts):
        groups[text[: LEAST_LETTERS if text[:1].isalpha() else 1]].append(text)
    if not 1 < len(groups) <= MOST_HEADS or min(map(len, groups.values())) < FEWEST_OF_HEAD:
        return None
    heads: dict[str, str] = {}
    for begun in groups.values():
        head = common_start(begun)
        if any(each[len(head) : len(head) + 1].isdecimal() for each in begun):
            # A first digit that numbers have alike is part of them, and so is a point behind it.
            head = _BEGUN_NUMBER.sub("", head)
        if not head or head[:1].isdecimal() or head[:1].isspace():
            return None
        heads |= dict.fromkeys(begun, head)
    found = [heads[each[len(shared) :]] for each in texts]
    rests = [text[len(shared) + len(head) :] for text, head in zip(texts, found, strict=True)]
    before: Form = [Piece("word", [shared] * len(texts))] if shared else []
    return [[*before, Piece("key heads", found), *_rest(rests)]] if any(rests) else None


def by_beginning(texts: Sequence[str], cut: Cut = "runs") -> list[Form] | None:
    """Return the form of texts whose pieces begin alike and go on as prose does: anything after a blank; or None.

    Where all but blanks is one piece, they must go on in one of a few ways: else prose would tell where it begins.
    """
    if (hashed := _behind_hash(texts)) is not None:
        return [hashed]
    rows = [tokens_of(text, cut) for text in texts]
    size = max((number for number, kind in enumerate(_shared_kinds(rows), 1) if kind == "blank"), default=0)
    size = _before_sentence(rows, size)
    rests = ["".join(each.text for each in row[size:]) for row in rows]
    varies = _go_on_in_many_ways([row[size:] for row in rows]) and cut == "runs"
    fewest = WITH_BLANK if varies or (rows and all(map(_begins_with_time, rows))) else FEWEST_BEFORE_PROSE
    if size < fewest or not all(rests) or (cut == "chunks" and listed_of(rests) is None):
        return None
    return [ended([*aligned([row[:size] for row in rows]), Piece("prose", rests)])]


def by_ending(texts: Sequence[str]) -> list[Form] | None:
    """Return the form of texts whose pieces end alike, and maybe begin alike, with prose between; or None."""
    rows = [tokens_of(text, "runs") for text in texts]
    kinds = _shared_kinds([row[::-1] for row in rows])
    # Within a word or a number nothing ends.
    behind = max((number for number, kind in enumerate(kinds, 1) if kind not in ("word", "number")), default=0)
    if behind < FEWEST_BEHIND_PROSE:
        return None
    bodies, tails = [row[:-behind] for row in rows], aligned([row[-behind:] for row in rows])
    shortest = min(map(len, bodies))
    kinds = _shared_kinds(bodies)
    before = max((at for at, kind in enumerate(kinds, 1) if kind == "blank" and at < shortest), default=0)
    if before == WITH_BLANK and all(body[0].text.islower() for body in bodies):
        # A small word that prose begins with is part of it.
        before = 0
    before = _before_sentence(bodies, before)
    prose = [body[before:] for body in bodies]
    if not all(prose) or not _go_on_in_many_ways(prose) or any(row[-1].kind == "blank" for row in prose):
        return None
    heads = aligned([body[:before] for body in bodies]) if before else []
    return [ended([*heads, Piece("prose", ["".join(each.text for each in row) for row in prose]), *tails])]


def by_names(texts: Sequence[str], needed: Container[str]) -> list[Form] | None:
    """Return the form of texts whose names and numbers begin alike, and all or some of which say more behind; or None.

    A few that begin otherwise, or end in blanks, are left out, but none that is `needed`.
    """
    rows = [_with_blanks_joined(tokens_of(text, "names")) for text in texts]
    size = _size_of_heads([[each.kind for each in row] for row in rows])
    if size < FEWEST_BEFORE_PROSE:
        return None
    kinds = Counter(tuple(each.kind for each in row[:size]) for row in rows).most_common(1)[0][0]
    heads: list[list[Token]] = []
    blanks, rests, left_out = [], [], []
    for text, row in zip(texts, rows, strict=True):
        behind = row[size:]
        ends = not behind or (behind[0].kind == "blank" and len(behind) > 1)
        if not ends or tuple(each.kind for each in row[:size]) != kinds:
            left_out.append(text)
            continue
        heads.append(row[:size])
        if behind:
            blanks.append(behind[0].text)
            rests.append("".join(each.text for each in behind[1:]))
    if not rests or len(left_out) * MOST_ODD > len(texts) or any(each in needed for each in left_out):
        return None
    more = [Piece("blank", blanks), Piece("prose", rests)]
    head = aligned(heads)
    return [ended([*head, more] if len(rests) < len(heads) else [*head, *more])]


def _size_of_heads(rows: Sequence[Sequence[str]]) -> int:
    """Return how many pieces nearly all texts begin with that are of the same kinds."""
    left, size = [*rows], 0
    while True:
        kinds = Counter(row[size] for row in left if len(row) > size)
        kind, count = max(kinds.items(), key=lambda item: item[1], default=("", 0))
        if count * MOST_ODD < (MOST_ODD - 1) * len(rows):
            return size
        left = [row for row in left if len(row) > size and row[size] == kind]
        size += 1


def _with_blanks_joined(row: Sequence[Token]) -> list[Token]:
    """Make one piece of blanks and tabs that stand together."""
    found: list[Token] = []
    for each in row:
        if found and each.kind == found[-1].kind == "blank":
            found[-1] = Token("blank", found[-1].text + each.text)
        else:
            found.append(each)
    return found


_HASH = compiled_later(r"([0-9a-f]{7,})(\s+)(\S.*)")
"""A number of base 16 that names something, and what is said of it."""


def _behind_hash(texts: Sequence[str]) -> Form | None:
    """Return the form of texts that begin with a number of base 16, of as many digits each, and go on as prose does."""
    found = [each for each in map(_HASH.fullmatch, texts) if each is not None]
    if len(found) < len(texts) or len({len(each[1]) for each in found}) > 1:
        return None
    if sum(each[1].isalnum() and not each[1].isdecimal() for each in found) * 2 <= len(texts):
        return None
    hashes, blanks, rests = ([each[place] for each in found] for place in (1, 2, 3))
    return [Piece("word", hashes), Piece("blank", blanks), Piece("prose", rests)]


def _before_sentence(rows: Sequence[Sequence[Token]], size: int) -> int:
    """Return how many pieces stand before what rows go on with, less the word that a sentence begins with, as `The`."""
    while size > 1 and any(row[size - WITH_BLANK].text.lower() in ARTICLES for row in rows):
        size -= WITH_BLANK
    return size


def _shared_kinds(rows: Sequence[Sequence[Token]]) -> list[str]:
    """Return the kinds of the pieces that all rows begin with."""
    columns = zip(*rows, strict=False)
    return [column[0].kind for column in takewhile(lambda column: len({each.kind for each in column}) == 1, columns)]


def _go_on_in_many_ways(rows: Sequence[Sequence[Token]]) -> bool:
    """Tell whether hardly one text goes on as another does: it is prose, whatever stands before it."""
    ways = {tuple(each.kind for each in row) for row in rows}
    return len(ways) >= FEWEST_WAYS and len(ways) * 2 > len(rows)


def _begins_with_time(row: Sequence[Token]) -> bool:
    """Tell whether a text begins with a moment, or with seconds and a fraction: it is a line of a log."""
    first = next((each for each in row if each.kind != "blank"), None)
    return first is not None and (first.kind in SPECIAL or (first.kind == "number" and "." in first.text))


def _rest(rests: Sequence[str]) -> Form:
    filled = [each for each in rests if each]
    form = form_of(filled)
    if form is None:
        return ended([Piece("chunk", [*rests])])
    pieces = [each for each in form if isinstance(each, Piece)]
    return form if len(filled) == len(rests) or len(pieces) < len(form) else [pieces]
