"""Cuts texts into pieces, and finds the forms that they have.

A text is cut into words, numbers and what parts them, finer or coarser; pieces that make up a date or a time are one
together. Texts that are cut alike are read piece by piece; those with a stretch more are the same with a part that may
be left out. Where texts have too many forms for that, it is looked for what all of them hold in the same order, and
anything between. Which way holds best of texts that were not seen is not for here to say.
"""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from functools import lru_cache
from itertools import pairwise
from typing import TYPE_CHECKING, Any, Literal

from msgspec import Struct, field

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Mapping, Sequence

FEW_FORMS, MOST_FORMS, FOR_A_FORM = 3, 5, 6
"""Ways in which examples are cut that are told from one another, of few examples and of many; so many for each."""

RARE = 12
"""One in so many examples may be of a form that is left out."""

Cut = Literal["runs", "marks", "words", "names", "chunks", "whole"]
"""How far what stands together is one piece: digits apart from letters, both, `_` and `-` too, all but blanks, all.

`marks` are as `runs`, but that one mark may stand in the place of another.
"""

CUTS: tuple[Cut, ...] = ("runs", "marks", "words", "names", "chunks", "whole")

Way = (
    Cut
    | Literal["shared", "common", "aligned runs", "aligned marks", "aligned names", "keyed runs", "keyed names"]
    | Literal["parted", "parted chunks", "again"]
)
"""A way of finding forms: by a cut, by what all texts share, of the commonest shapes alone, or with shapes aligned."""

_ALIGNED: dict[Way, Cut] = {"aligned runs": "runs", "aligned marks": "marks", "aligned names": "names"}

_KEYED: dict[Way, Cut] = {"keyed runs": "runs", "keyed names": "names"}

WAYS: tuple[Way, ...] = (*CUTS, "shared", "common", "parted", "parted chunks", "again", *_ALIGNED, *_KEYED)

FEWEST_OF_KEY, MOST_KEYS = 3, 12
"""Texts from which on a word that comes in them is one to align by, and different such words."""

MOST_ALIGNED = 24
"""Pieces of a form that shapes are aligned to."""

LONGEST_AGAIN = 4
"""Pieces that come again together, at the most."""

FEWEST_ALIKE = 4
"""Pieces from which on what all of them begin or end with is taken to stay."""


CAPITALISED = " Aa"
"""What the kind of a word ends with that begins with a capital, where words are aligned by their kinds."""


class Special(Struct, frozen=True):
    """Pieces that are one together: the name of the field they make, how they are found and spelled, and its table."""

    name: str
    found: str
    spelled: str
    table: dict[str, Any]


SPECIAL: dict[str, Special] = {
    f"s{number}": each
    for number, each in enumerate(
        (
            Special(
                "at",
                r"\d{4}-\d\d-\d\dT\d\d:\d\d:\d\dZ",
                r"\d{4}-\d{2}-\d{2}T\d{2}:\d{2}:\d{2}Z",
                {"type": "timestamp"},
            ),
            Special(
                "at",
                r"\d{4}-\d\d-\d\d \d\d:\d\d:\d\d",
                r"\d{4}-\d{2}-\d{2} \d{2}:\d{2}:\d{2}",
                {"type": "timestamp"},
            ),
            Special("day", r"\d{4}-\d\d-\d\d", r"\d{4}-\d{2}-\d{2}", {"type": "date"}),
            Special(
                "day",
                r"\d{1,2}\.\d{1,2}\.\d{4}",
                r"\d{1,2}\.\d{1,2}\.\d{4}",
                {"type": "date", "layout": "%d.%m.%Y"},
            ),
            Special("time", r"\d\d:\d\d:\d\d", r"\d{2}:\d{2}:\d{2}", {"type": "time"}),
            Special("time", r"\d\d:\d\d", r"\d{2}:\d{2}", {"type": "time"}),
        )
    )
}

_FOUND = re.compile("|".join(rf"(?P<{name}>(?<![\w.:-]){each.found}(?![\w:-]|\.\d))" for name, each in SPECIAL.items()))
_NUMBER = re.compile(
    r"(?<![\w.,])[-+]?"
    r"(?:\d{1,3}(?:,\d{3})+(?:\.\d+)?(?![\w,]|\.\d)"
    r"|\d{1,3}(?:\.\d{3})+,\d+(?![\w.]|,\d)"
    r"|(?:\d+(?:[.,]\d+)?|\.\d+)(?:[eE][-+]?\d+)?(?!\w*\d)(?![.,]\d))"
)
"""Numbers: in groups of three with a decimal point or comma, or as they stand, with an exponent too."""

_WORDS = {
    "runs": re.compile(r"[^\W_]+|\s+|.", re.DOTALL),
    "marks": re.compile(r"[^\W_]+|\s+|.", re.DOTALL),
    "words": re.compile(r"[^\W_]+|\s+|.", re.DOTALL),
    "names": re.compile(r"[\w-]+|\s+|.", re.DOTALL),
    "chunks": re.compile(r"\S+|\s+"),
    "whole": re.compile(r".+", re.DOTALL),
}
_RUNS = re.compile(r"\d+|[^\W\d_]+")


class Token(Struct, frozen=True):
    """A piece of a text: a word, a number, what parts them, or several that are a date and the like together."""

    kind: str
    text: str


class Piece(Struct):
    """What stands at one place of every example of a form; `until` is what stands after a gap in all of them."""

    kind: str
    values: list[str] = field(default_factory=list)
    until: str = ""


class Choice(Struct):
    """What stands at one place in one of several forms, or in some texts not at all."""

    forms: list[Form]
    may_lack: bool


Form = list["Piece | list[Piece] | Choice"]
"""Pieces in order; a list of them in place of one may be left out, or with one of the kind `again`, come again."""


@lru_cache(maxsize=1 << 14)
def tokens_of(text: str, cut: Cut = "words") -> tuple[Token, ...]:
    """Cut a text into its pieces."""
    found: list[Token] = []
    at = 0
    specials = _FOUND.finditer(text) if cut != "whole" else ()
    for special in (*specials, None):
        end = special.start() if special is not None else len(text)
        found += _plain_tokens(text[at:end], cut)
        if special is not None:
            assert special.lastgroup is not None
            found.append(Token(special.lastgroup, special[0]))
            at = special.end()
    return tuple(found)


def _plain_tokens(text: str, cut: Cut) -> Iterator[Token]:
    at = 0
    numbers = _NUMBER.finditer(text) if cut not in ("chunks", "whole") else ()
    if cut == "names":
        # Digits alone are part of a name.
        numbers = (each for each in numbers if not each[0].isdecimal())
    for number in (*numbers, None):
        end = number.start() if number is not None else len(text)
        for each in _WORDS[cut].findall(text[at:end]):
            if cut == "marks" and len(each) == 1 and not each.isalnum():
                yield Token("mark", each)
            elif each.isspace():
                yield Token("blank", each)
            elif cut in ("chunks", "whole") or (cut == "names" and (each[0].isalnum() or each[0] in "_-")):
                yield Token("chunk", each)
            elif not each[0].isalnum():
                yield Token(each, each)
            elif cut == "words":
                yield Token("word", each)
            else:
                yield from (Token("number" if run.isdecimal() else "word", run) for run in _RUNS.findall(each))
        if number is not None:
            yield Token("word" if cut == "words" and number[0].isdecimal() else "number", number[0])
            at = number.end()


def forms_by(way: Way, texts: Sequence[str], needed: set[str]) -> list[Form] | None:
    """Return the forms of texts that are found in one way; None where these are too many.

    Texts of a rare form may be left out, but none that is `needed`.
    """
    if way == "common":
        return _commonest(texts, needed)
    if way in _ALIGNED:
        return _by_alignment([tokens_of(text, _ALIGNED[way]) for text in texts])
    if way in _KEYED:
        rows = [tokens_of(text, _KEYED[way]) for text in texts]
        keys = _keys_of(rows)
        kinds = _kinds_of(keys, rows)
        return _by_alignment([_with_keys(row, kinds) for row in rows], choices=True) if keys else None
    if way == "again":
        return _coming_again([tokens_of(text, "runs") for text in texts])
    if way in ("parted", "parted chunks"):
        return _by_parting(texts, "gap" if way == "parted" else "chunk")
    if way != "shared":
        return _by_shape(texts, needed, way)  # type: ignore[arg-type]
    shared = _by_shared(texts)
    return [shared] if any(isinstance(each, Piece) and each.kind not in ("gap", "blank") for each in shared) else None


def _commonest(texts: Sequence[str], needed: set[str]) -> list[Form] | None:
    """Return the forms that most texts have, the others left out; None where these are too few, or one is needed."""
    if needed:
        return None
    by_shape: dict[tuple[str, ...], list[str]] = defaultdict(list)
    for text in texts:
        by_shape[tuple(each.kind for each in tokens_of(text, "runs"))].append(text)
    common = sorted(by_shape.values(), key=len, reverse=True)[:MOST_FORMS]
    kept = [text for some in common if len(some) * RARE >= len(texts) for text in some]
    return _by_shape(kept, set(), "runs") if len(kept) * 10 >= 7 * len(texts) else None


def form_of(texts: Sequence[str]) -> Form | None:
    """Return the one form of texts, of which none is left out; None where they have several."""
    cuts: tuple[Cut, ...] = ("runs", "words")
    made = [forms for cut in cuts if (forms := _by_shape(texts, set(texts), cut)) is not None and len(forms) == 1]
    if made:
        return min(made, key=_complexity)[0]
    # What blanks part says more than one class of all that stands there.
    parted = _by_shape(texts, set(texts), "chunks") if any(map(str.isspace, "".join(texts))) else None
    return parted[0] if parted is not None and len(parted) == 1 and _complexity(parted)[1] == 0 else None


def _complexity(forms: list[Form]) -> tuple[int, int]:
    """Tell how many forms there are, and how many of their parts may be left out."""
    inner = [parts_of(form) for form in forms]
    return len(forms) + sum(one for one, _ in inner), sum(one for _, one in inner)


def _by_shape(texts: Sequence[str], needed: set[str], cut: Cut) -> list[Form] | None:
    """Return the forms of texts, pieces by place; None where there are too many."""
    return _of_rows([tokens_of(text, cut) for text in texts], every=bool(needed))


def _of_rows(rows: Sequence[Sequence[Token]], *, every: bool) -> list[Form] | None:
    """Return the forms of texts that are cut, pieces by place; of `every` text, or without those of rare forms."""
    by_shape: dict[tuple[str, ...], list[Sequence[Token]]] = defaultdict(list)
    for row in rows:
        by_shape[tuple(each.kind for each in row)].append(row)
    folded = _repeating(by_shape)
    if folded is not None:
        return [folded]
    most = min(MOST_FORMS, max(FEW_FORMS, len(rows) // FOR_A_FORM))
    if len(by_shape) > 4 * most:
        return None
    forms: list[Form] = []
    for shape in sorted(by_shape, key=lambda shape: (-len(shape), -len(by_shape[shape]))):
        pieces = _aligned(by_shape[shape])
        if not any(_take_in(known, shape, pieces) for known in forms):
            forms.append([*pieces])
    rare = [form for form in forms if _support(form) * RARE < len(rows) and not every]
    kept = [form for form in forms if form not in rare]
    lost = sum(map(_support, rare)) * RARE > len(rows)
    return None if len(kept) > most or lost else [_ended(form) for form in kept]


class Column(Struct):
    """A piece of one kind that some texts have: the token of each, by the text's number."""

    kind: str
    cells: dict[int, Token]

    @property
    def piece(self) -> Piece:
        """What stands there."""
        return Piece(self.kind.removesuffix(CAPITALISED), [each.text for each in self.cells.values()])


def _keys_of(rows: Sequence[Sequence[Token]]) -> set[str]:
    """Return the words that some texts have, and others do not, but several of them."""
    counts = Counter(each for row in rows for each in {token.text for token in row if token.kind in ("word", "chunk")})
    keys = {
        each
        for each, count in counts.items()
        if FEWEST_OF_KEY <= count < len(rows) and each.isalpha() and len(each) > 1
    }
    return keys if len(keys) <= MOST_KEYS else set()


def _kinds_of(keys: set[str], rows: Sequence[Sequence[Token]]) -> dict[str, str]:
    """Return the kind of each key: its own, or that of others which stand in its place and never beside it."""
    places: dict[str, set[int]] = defaultdict(set)
    within: dict[str, set[int]] = defaultdict(set)
    for number, row in enumerate(rows):
        for place, token in enumerate(row):
            if token.text in keys:
                places[token.text].add(place)
                within[token.text].add(number)
    kinds: dict[str, str] = {}
    for key in sorted(keys, key=lambda each: (-len(within[each]), each)):
        alike = [
            each
            for each in kinds
            if kinds[each] == each and places[each] & places[key] and not within[each] & within[key]
        ]
        kinds[key] = alike[0] if alike else key
        if alike:
            places[alike[0]] |= places[key]
            within[alike[0]] |= within[key]
    return kinds


def _with_keys(row: Sequence[Token], kinds: dict[str, str]) -> list[Token]:
    """Return pieces of a text, of which the words that are keys are each of a kind of its own."""
    found = []
    for each in row:
        kind = f"key {kinds[each.text]}" if each.text in kinds else each.kind
        if kind in ("word", "chunk") and each.text[0].isupper() and each.text[1:].islower():
            kind += CAPITALISED
        found.append(Token(kind, each.text))
    return found


def _by_alignment(rows: Sequence[Sequence[Token]], *, choices: bool = False) -> list[Form] | None:
    """Return the one form that all shapes are aligned to, one after the other, the commonest first.

    What not all texts have may be left out, or with `choices` be one of a few forms. None where that takes too many
    pieces.
    """
    by_shape: dict[tuple[str, ...], list[int]] = defaultdict(list)
    for number, tokens in enumerate(rows):
        by_shape[tuple(each.kind for each in tokens)].append(number)
    columns: list[Column] = []
    for shape in sorted(by_shape, key=lambda shape: (-len(by_shape[shape]), -len(shape))):
        columns = _with_shape(columns, shape, by_shape[shape], rows)
        if len(columns) > MOST_ALIGNED:
            return None
    form: Form = []
    slot: list[Column] = []
    for each in columns:
        if len(each.cells) < len(rows):
            slot.append(each)
            continue
        form += [*_slot(slot, len(rows), choices), each.piece]
        slot = []
    return [_ended([*form, *_slot(slot, len(rows), choices)])]


def _slot(columns: Sequence[Column], count: int, choices: bool) -> Form:
    """Return what stands between two pieces that all texts have: one of a few forms, else each piece if it is there."""
    numbers = {number for each in columns for number in each.cells}
    if choices and len({*map(frozenset, (each.cells for each in columns))}) > 1:
        rows = [[each.cells[number] for each in columns if number in each.cells] for number in sorted(numbers)]
        forms = _of_rows(rows, every=True)
        if forms is not None:
            return [Choice(forms, len(numbers) < count)]
    made: Form = []
    before: set[int] = set()
    for each in columns:
        present = set(each.cells)
        if made and isinstance(made[-1], list) and present == before:
            made[-1].append(each.piece)
        else:
            made.append([each.piece])
        before = present
    return made


def _with_shape(
    columns: Sequence[Column], shape: Sequence[str], numbers: Sequence[int], rows: Sequence[Sequence[Token]]
) -> list[Column]:
    kinds = [each.kind for each in columns]
    made: list[Column] = []
    at = place = 0
    for column, token in (*_common_places(kinds, shape), (len(kinds), len(shape))):
        made += columns[at:column]
        made += [
            Column(shape[each], {number: rows[number][each] for number in numbers}) for each in range(place, token)
        ]
        if column < len(kinds):
            columns[column].cells.update({number: rows[number][token] for number in numbers})
            made.append(columns[column])
        at, place = column + 1, token + 1
    return made


def _ended(form: Form) -> Form:
    """Tell what chunks have in the middle from what all of them begin and end with."""
    made: Form = []
    for each in form:
        if isinstance(each, list):
            made.append([inner for piece in each for inner in _ends(piece)])
        elif isinstance(each, Choice):
            made.append(each)
        else:
            for piece in _without_sign(each):
                made += _ends(piece) if isinstance(piece, Piece) else [piece]
    return made


def _without_sign(piece: Piece) -> Form:
    """Tell a sign that some chunks begin with from the rest of them."""
    signed = [each[0] for each in piece.values if each[:1] in ("+", "-")]
    if piece.kind != "chunk" or not FEWEST_OF_KEY <= len(signed) < len(piece.values) or "" in piece.values:
        return [piece]
    rest = [each.lstrip("+-") if each[0] in "+-" else each for each in piece.values]
    return [[Piece("mark", signed)], Piece("chunk", rest, piece.until)] if all(rest) else [piece]


def unlike_in(form: Form) -> int:
    """Return how many pieces are letters alone in some texts and digits alone in others, and both together in none."""
    found = 0
    for each in form:
        for values in [each.values] if isinstance(each, Piece) and each.kind in ("word", "chunk") else []:
            kinds = {(any(map(str.isalpha, value)), any(map(str.isdigit, value))) for value in values}
            found += {(True, False), (False, True)} <= kinds and (True, True) not in kinds
    return found


def parts_of(form: Form) -> tuple[int, int]:
    """Return how many choices more than one a form has, and how many parts that may be left out."""
    more = parts = 0
    for each in form:
        if isinstance(each, Choice):
            inner = [parts_of(one) for one in each.forms]
            more += len(each.forms) - 1 + sum(one for one, _ in inner)
            parts += each.may_lack + sum(one for _, one in inner)
        elif isinstance(each, list) and each[0].kind != "again":
            parts += 1
    return more, parts


def _ends(piece: Piece) -> list[Piece]:
    values = piece.values
    if piece.kind != "chunk" or len(values) < FEWEST_ALIKE or len(set(values)) == 1:
        return [piece]
    before = _shared_start(values)
    rests = [each[len(before) :] for each in values]
    either = _either_case(rests)
    rests = [each[1:] for each in rests] if either is not None else rests
    after = _shared_start([each[::-1] for each in rests])[::-1]
    middle = [each[: len(each) - len(after)] for each in rests]
    parts = [
        Piece("word", [before] * len(values)),
        *([either] if either is not None else []),
        Piece("chunk", middle, after[:1]),
        Piece("word", [after] * len(values)),
    ]
    return [each for each in parts if any(each.values)]


def _either_case(values: Sequence[str]) -> Piece | None:
    """Return the letter that all of many chunks begin with, small in some and a capital in others; None without one."""
    heads = Counter(each[:1] for each in values)
    one = len(heads) == 2 and len({each.casefold() for each in heads}) == 1 and min(heads.values()) >= FEWEST_OF_KEY
    return Piece("mark", [each[0] for each in values]) if one and all(each[1:] for each in values) else None


def _shared_start(values: Sequence[str]) -> str:
    """Return what texts begin with; of few, no letters or digits where they go on with more of the like."""
    least, most = min(values), max(values)
    size = next((at for at, each in enumerate(least) if not most.startswith(each, at)), len(least))
    found = least[:size]
    if len(values) < 3 * FEWEST_ALIKE and any(each[len(found) : len(found) + 1].isalnum() for each in values):
        found = re.sub(r"[^\W_]+\Z", "", found)
    return found


def _support(form: Form) -> int:
    return max((len(each.values) for each in form if isinstance(each, Piece)), default=0)


def _aligned(rows: Iterable[Sequence[Token]]) -> list[Piece]:
    columns = zip(*rows, strict=True)
    return [Piece(each[0].kind.removesuffix(CAPITALISED), [token.text for token in each]) for each in columns]


def _take_in(form: Form, shape: tuple[str, ...], pieces: list[Piece]) -> bool:
    """Take a shorter form into a longer one that has a stretch more; tell whether that is so."""
    bare = [each for each in form if isinstance(each, Piece)]
    if len(bare) < len(form):
        if any(isinstance(each, Choice) for each in form):
            return False
        full: list[Piece] = []
        for each in form:
            full += each if isinstance(each, list) else [each] if isinstance(each, Piece) else []
        for some in (bare, full):
            if [each.kind for each in some] == list(shape):
                for known, piece in zip(some, pieces, strict=True):
                    known.values += piece.values
                return True
        return False
    flat = [each.kind for each in bare]
    more = len(flat) - len(shape)
    # The stretch that ends as late as it can begins with what parts it from the rest.
    for at in range(len(shape), -1, -1):
        if more > 0 and flat[:at] == list(shape[:at]) and flat[at + more :] == list(shape[at:]):
            for known, piece in zip([*bare[:at], *bare[at + more :]], pieces, strict=True):
                known.values += piece.values
            form[at : at + more] = [bare[at : at + more]]
            return True
    return False


def _repeating(by_shape: Mapping[tuple[str, ...], list[Sequence[Token]]]) -> Form | None:
    """Return the form of texts of words parted alike, of any number; None where that is not what they are."""
    lengths = {len(shape) for shape in by_shape}
    parting = {kind for shape in by_shape for kind in shape[1::2]}
    words = {kind for shape in by_shape for kind in shape[::2]}
    if len(lengths) < 3 or words != {"word"} or len(parting) != 1 or any(length % 2 == 0 for length in lengths):
        return None
    rows = [tokens for some in by_shape.values() for tokens in some]
    between = [each.text for tokens in rows for each in tokens[1::2]]
    first = [tokens[0].text for tokens in rows]
    rest = [each.text for tokens in rows for each in tokens[2::2]]
    return [Piece("word", first), [Piece("again"), Piece(parting.pop(), between), Piece("word", rest)]]


def _by_parting(texts: Sequence[str], between: str) -> list[Form] | None:
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
    for number, column in enumerate(columns):
        kinds = {tuple(each.kind for each in cell) for cell in column}
        values = ["".join(each.text for each in cell) for cell in column]
        if number % 2:
            form.append(Piece("mark", values))
        elif len(kinds) == 1 and len(column[0]) == 1 and not letters:
            form.append(Piece(column[0][0].kind, values))
        elif any(values):
            # The last one ends before another of the marks that part them.
            until = columns[number + 1 if number + 1 < len(columns) else number - 1][0][0].text
            form.append(Piece(between, values, until))
    return [_ended(form)]


def _without_plus(token: Token) -> list[Token]:
    """Tell the sign from a number that begins with +, which more often stands between two."""
    plus = token.kind == "number" and token.text.startswith("+")
    return [Token("+", "+"), Token("number", token.text[1:])] if plus else [token]


def _parted(row: Sequence[Token], marks: set[str]) -> list[list[Token]]:
    """Return the pieces of a text between marks, and the marks, in turn."""
    found: list[list[Token]] = [[]]
    for token in row:
        if token.text in marks:
            found += [[token], []]
        else:
            found[-1].append(token)
    return found


def _coming_again(rows: Sequence[Sequence[Token]]) -> list[Form] | None:
    """Return the form of texts that are the same few pieces again and again, or words with marks and blanks between."""
    kinds = [[each.kind for each in row] for row in rows]
    if len({*map(len, kinds)}) < FEWEST_OF_KEY:
        return None
    for size in range(1, LONGEST_AGAIN + 1):
        unit = kinds[0][:size]
        if all(len(each) % size == 0 and each == unit * (len(each) // size) for each in kinds):
            return [_again([[row[at : at + size] for at in range(0, len(row), size)] for row in rows])]
    joined = [_words_and_between(row) for row in rows]
    if not all(len(row) % 2 and row[0].kind == "word" for row in joined):
        return None
    return [_again([[row[:1], *(row[at : at + 2] for at in range(1, len(row), 2))] for row in joined])]


def _again(rows: Sequence[Sequence[Sequence[Token]]]) -> Form:
    """Return the form of texts of a first stretch, and others that are alike among themselves."""
    first = _aligned([row[0] for row in rows])
    others = [stretch for row in rows for stretch in row[1:]]
    return [*first, [Piece("again"), *_aligned(others)]]


def _words_and_between(row: Sequence[Token]) -> list[Token]:
    """Put letters and digits that stand together by one word, and all that stands between words by one chunk."""
    found: list[Token] = []
    for token in row:
        kind = "word" if token.kind in ("word", "number") else "chunk"
        if found and found[-1].kind == kind:
            found[-1] = Token(kind, found[-1].text + token.text)
        else:
            found.append(Token(kind, token.text))
    return found


def _by_shared(texts: Sequence[str]) -> Form:
    """Return the one form of texts of many: what all of them hold in the same order, and anything between."""
    rows = [[each.text for each in tokens_of(text)] for text in texts]
    shared = rows[0]
    for row in rows[1:]:
        shared = _common(shared, row)
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
            kind = "word" if following[0].isalnum() else "blank" if following.isspace() else following
            form.append(Piece(kind, [following] * len(texts)))
    return form


def _common(one: Sequence[str], other: Sequence[str]) -> list[str]:
    """Return the longest that two rows of pieces hold in the same order."""
    return [one[place] for place, _ in _common_places(one, other)]


def _common_places(one: Sequence[str], other: Sequence[str]) -> list[tuple[int, int]]:
    """Return where in both the longest stands that two rows hold in the same order (Wagner and Fischer 1974)."""
    lengths = [[0] * (len(other) + 1) for _ in range(len(one) + 1)]
    for i in range(len(one) - 1, -1, -1):
        for j in range(len(other) - 1, -1, -1):
            same = one[i] == other[j]
            lengths[i][j] = lengths[i + 1][j + 1] + 1 if same else max(lengths[i + 1][j], lengths[i][j + 1])
    found: list[tuple[int, int]] = []
    i = j = 0
    while i < len(one) and j < len(other):
        if one[i] == other[j]:
            found.append((i, j))
            i, j = i + 1, j + 1
        elif lengths[i + 1][j] >= lengths[i][j + 1]:
            i += 1
        else:
            j += 1
    return found
