"""Lines of keys with their values: those that have mostly the same keys are of one kind.

Some keys may be absent at times, and they may come in another order from line to line. Such lines are put together by
their keys before anything else is told of them, each as if it had all keys of its kind in the same order.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from typing import TYPE_CHECKING, NamedTuple

from fieldstick.lean import compiled_later
from fieldstick.matching.keys import KEY, common_order
from fieldstick.runs.line_marks import RECORD
from fieldstick.runs.line_slots import NOTHING, TYPED, template_piece

if TYPE_CHECKING:
    from collections.abc import Iterable, Mapping, Sequence

    from fieldstick.runs.line_templates import Form

FEWEST_PAIRS = 2
"""Keys with values that a line must have, one after the other."""

ALIKE, NEARLY_ALL = 0.5, 0.66
"""How alike the keys of lines of one kind are, as the share that both have of those that one has, beside the keys of
all lines; and, where all that one has the other has too, of all keys (P. Jaccard, 1912).
"""

COMMON = 200
"""One line in so many may lack a key that all are taken to have."""

MOST_SETS = 2_000
"""Different sets of keys up to which lines are put together by them."""

ANY_ORDER = "⟨keys in any order⟩"

_PAIR = compiled_later(rf"[(\[{{]?(?:⟨maybe )?({KEY}=)")
_LABELLED = compiled_later(r"(?:⟨maybe )?([^\W\d][^:=⟨⟩]{0,39}(?:: | ?= ?))")
"""A key with its value, and a line of a record that begins with what its value is of."""
_CLOSED_BY = {"(": ")", "[": "]", "{": "}"}
_BETWEEN = ",;"
_MAYBE = compiled_later(r"⟨maybe ([^:=]+(?:: | ?= ?))(.*)⟩")
_SLOT_NAME = compiled_later(r"[a-z]+(?: text)?")

Pieces = tuple[str, ...]


class _Keyed(NamedTuple):
    """Pieces of a line: what stands before its keys, these with their values, what parts these, and what stands behind.

    A bracket around the keys stands with the first and the last of them. A `mark` stands between all pieces, if any.
    """

    head: Pieces
    pairs: Pieces
    keys: Pieces
    between: str
    brackets: tuple[str, str]
    tail: Pieces
    mark: str

    def holding(self, pairs: Sequence[str]) -> Pieces:
        """Return the pieces of the line with others in the place of its keys."""
        opening, closing = self.brackets
        parted = [f"{each}{self.between}" for each in pairs[:-1]] + [f"{pairs[-1]}{closing}"]
        made = (*self.head, opening + parted[0], *parted[1:], *self.tail)
        return tuple(each for piece in made for each in (self.mark, piece))[1:] if self.mark else made


def keyed_together(several: Mapping[Pieces, list[Form]], mark: str = "") -> Mapping[Pieces, list[Form]]:
    """Return forms by their pieces, those of lines that have mostly the same keys by the same ones.

    A `mark` is a piece that stands between all others, where no blanks do.
    """
    keyed = {pieces: found for pieces in several if (found := _keyed(pieces, mark)) is not None}
    lines = Counter[Pieces]()
    for pieces, each in keyed.items():
        lines[each.keys] += sum([form.count for form in several[pieces]])
    if len(lines) < 2:
        return several
    groups = [sequences for sequences in _groups(lines, of_records=mark == RECORD) if len(sequences) > 1]
    number_of = {keys: number for number, sequences in enumerate(groups) for keys in sequences}
    counts: list[dict[str, Counter[str]]] = [defaultdict(Counter) for _ in groups]
    for pieces, each in keyed.items():
        if each.keys in number_of:
            count = sum([form.count for form in several[pieces]])
            for key, pair in zip(each.keys, each.pairs, strict=True):
                counts[number_of[each.keys]][key][pair] += count
    written = [_written(sequences, told) for sequences, told in zip(groups, counts, strict=True)]
    made: dict[Pieces, list[Form]] = {}
    for pieces, forms in several.items():
        found = keyed.get(pieces)
        if found is not None and found.keys in number_of:
            pieces = found.holding(written[number_of[found.keys]])
        made.setdefault(pieces, []).extend(forms)
    return made


def _keyed(pieces: Pieces, mark: str) -> _Keyed | None:
    """Return pieces as those of a line of keys, each there once and right behind another; None for another line."""
    pair = _LABELLED if mark == RECORD else _PAIR
    if sum(["=" in each or (mark == RECORD and ": " in each) for each in pieces]) < FEWEST_PAIRS:
        return None
    if mark == RECORD:
        pieces = tuple(f"{each} {NOTHING}" if each.endswith(":") else each for each in pieces)
    if mark:
        if any(each != mark for each in pieces[1::2]):
            return None
        pieces = pieces[::2]
    pieces = tuple(each for each in pieces if each != ANY_ORDER)
    start = next((at for at, each in enumerate(pieces) if pair.match(each)), 0)
    end = len(pieces) - next((at for at, each in enumerate(reversed(pieces)) if pair.match(each)), 0)
    own = list(pieces[start:end])
    opening = own[0][:1] if own and own[0][:1] in _CLOSED_BY else ""
    closing = _CLOSED_BY.get(opening, "")
    if opening and own[-1].endswith(closing) and opening not in own[-1]:
        own[0], own[-1] = own[0][1:], own[-1][:-1]
    else:
        opening = closing = ""
    ends = {each[-1:] if each[-1:] in _BETWEEN else "" for each in own[:-1]}
    between = ends.pop() if len(ends) == 1 else ""
    pairs = tuple(_plain(each.rstrip(_BETWEEN)) for each in own)
    found = [pair.match(each) for each in pairs]
    keys = tuple(each[1] for each in found if each is not None)
    if len(keys) < max(FEWEST_PAIRS, len(own)) or len(set(keys)) < len(keys):
        return None
    return _Keyed(pieces[:start], pairs, keys, between, (opening, closing), pieces[end:], mark)


def _plain(pair: str) -> str:
    """Return a pair that may be absent as it is where it is there."""
    found = _MAYBE.fullmatch(pair)
    if found is None:
        return pair
    return found[1] + (f"⟨{found[2]}⟩" if _SLOT_NAME.fullmatch(found[2]) else found[2])


def _groups(lines: Counter[Pieces], *, of_records: bool) -> Iterable[dict[Pieces, int]]:
    """Return sequences of keys by how many lines have them, those of one kind together.

    What all lines have tells no kinds apart, but records of which all begin alike are of one.
    """
    sets = Counter[frozenset[str]]()
    for keys, count in lines.items():
        sets[frozenset(keys)] += count
    if len(sets) > MOST_SETS:
        return []
    having = Counter[str]()
    for some, count in sets.items():
        having.update(dict.fromkeys(some, count))
    common = {key for key, count in having.items() if (sets.total() - count) * COMMON <= sets.total()}
    common = set() if of_records else common
    kinds: list[list[frozenset[str]]] = []
    ranked = [some for some, _ in sets.most_common()]
    for some in (each for each in ranked if each - common):
        home = next((kind for kind in kinds if _are_alike(kind, some, common)), None)
        if home is None:
            kinds.append([some])
        else:
            home.append(some)
    # What has no key beside those of all lines is of any of their kinds, or of one of its own.
    bare = [each for each in ranked if not each - common]
    if bare and len(kinds) == 1 and any(_are_nested(kinds[0], each) for each in bare):
        kinds[0] += bare
    elif bare:
        kinds.append(bare)
    of = {some: number for number, kind in enumerate(kinds) for some in kind}
    made: list[dict[Pieces, int]] = [{} for _ in kinds]
    for keys, count in lines.most_common():
        made[of[frozenset(keys)]][keys] = count
    return made


def _are_alike(kind: Sequence[frozenset[str]], some: frozenset[str], common: set[str]) -> bool:
    """Tell whether lines with some keys are of a kind: have nearly those of its commonest, or others that it has."""
    one, other = kind[0] - common, some - common
    if len(one & other) >= ALIKE * len(one | other) or _are_nested(kind, some):
        return True
    return bool(one & other) and some <= frozenset().union(*kind) and frozenset.intersection(*kind) <= some


def _are_nested(kind: Sequence[frozenset[str]], some: frozenset[str]) -> bool:
    """Tell whether lines with some keys have nearly those of others of a kind, and none beside these, or vice versa."""
    return any((some <= each or each <= some) and len(each & some) >= NEARLY_ALL * len(each | some) for each in kind)


def _written(sequences: Mapping[Pieces, int], counts: Mapping[str, Counter[str]]) -> Pieces:
    """Return the keys of lines with some sequences of them, as all of these are taken to have them."""
    order = common_order(sequences)
    absent = {key for key in counts if not all(key in keys for keys in sequences)}
    made = []
    for key in order if order is not None else sorted(counts, key=lambda key: key in absent):
        piece = template_piece(counts[key])
        found = TYPED.fullmatch(piece[len(key) :])
        made.append(f"⟨maybe {key}{found[1] if found else piece[len(key) :]}⟩" if key in absent else piece)
    return (*made, *([ANY_ORDER] if order is None else []))
