"""Finds the forms that texts have, in one of several ways.

Texts that are cut alike are read piece by piece. Where they have too many forms for that, it is looked for what all of
them hold in the same order, or what they are aligned by. Which way holds best of texts that were not seen is not for
here to say.
"""

from __future__ import annotations

from collections import defaultdict
from typing import TYPE_CHECKING, Literal, get_args

from fieldstick.drafting.proposals.affixes import by_affixes
from fieldstick.drafting.proposals.aligning import by_alignment, keys_of, kinds_of, with_keys
from fieldstick.drafting.proposals.asides import parted_by_aside
from fieldstick.drafting.proposals.cutting import Cut, tokens_of
from fieldstick.drafting.proposals.few_lines import parted_by_head
from fieldstick.drafting.proposals.gutters import by_gutters
from fieldstick.drafting.proposals.heads import by_beginning, by_ending, by_heads, by_names
from fieldstick.drafting.proposals.inner_lists import by_inner_lists
from fieldstick.drafting.proposals.keyed import by_keys
from fieldstick.drafting.proposals.listing import by_items
from fieldstick.drafting.proposals.parting import by_parting, by_shared, by_shared_text, by_stretches
from fieldstick.drafting.proposals.phrases import rows_of_collocations, rows_of_phrases, told_apart
from fieldstick.drafting.proposals.pieces import Choice, Piece, ended_alike
from fieldstick.drafting.proposals.prose import with_prose_whole
from fieldstick.drafting.proposals.shapes import MOST_FORMS, RARE, by_shape, of_rows

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.drafting.proposals.cutting import Token
    from fieldstick.drafting.proposals.pieces import Form

Way = (
    Cut
    | Literal["shared", "common", "parted", "parted chunks", "again", "names again", "headed"]
    | Literal["begun", "begun chunks", "begun names", "ended", "items", "shared text"]
    | Literal["aligned runs", "aligned marks", "aligned names", "chosen runs"]
    | Literal["phrases", "chosen phrases", "values", "chosen values", "keyed runs", "keyed names"]
    | Literal["pairs", "affixes", "lists", "gutters", "runs beside", "values beside", "chosen values beside"]
    | Literal["said"]
)
"""A way of finding forms: by a cut, by what all texts share, of the commonest shapes alone, or with shapes aligned."""

_ALIGNED: dict[Way, Cut] = {"aligned runs": "runs", "aligned marks": "marks", "aligned names": "names"}
BESIDE: dict[Way, Way] = {
    "runs beside": "runs",
    "values beside": "values",
    "chosen values beside": "chosen values",
}
"""Ways in which what stands behind an aside is read."""

_BEGUN: dict[Way, Cut] = {"begun": "runs", "begun chunks": "chunks"}
_KEYED: dict[Way, Cut] = {"keyed runs": "runs", "keyed names": "names"}

WAYS: tuple[Way, ...] = tuple(way for ways in get_args(Way) for way in get_args(ways))


def forms_by(way: Way, texts: Sequence[str], needed: set[str]) -> list[Form] | None:
    """Return the forms of texts that are found in one way; None where these are too many.

    Texts of a rare form may be left out, but none that is `needed`.
    """
    found = _found_by(way, texts, needed)
    return None if found is None else [with_prose_whole(ended_alike(form)) for form in found]


def _found_by(way: Way, texts: Sequence[str], needed: set[str]) -> list[Form] | None:
    if way == "common":
        return _commonest(texts, needed)
    if way in _ALIGNED:
        return by_alignment([tokens_of(text, _ALIGNED[way]) for text in texts])
    if way in _KEYED:
        rows = [tokens_of(text, _KEYED[way]) for text in texts]
        kinds = kinds_of(keys_of(rows), rows)
        return by_alignment([with_keys(row, kinds) for row in rows], choices=True) if kinds else None
    if way == "again":
        return by_stretches([tokens_of(text, "runs") for text in texts], ("word", "number"))
    if way == "names again":
        return by_stretches([tokens_of(text, "names") for text in texts], ("word", "number", "chunk"))
    if way == "headed":
        return by_heads(texts)
    if way == "items":
        return by_items(texts)
    if way == "pairs":
        return by_keys(texts)
    if way == "affixes":
        return by_affixes(texts)
    if way == "chosen runs":
        found = by_alignment([tokens_of(text, "runs") for text in texts], choices=True)
        # Forms that have nothing in common are found by how texts are cut.
        return None if found is None or any(map(_is_of_forms, found)) else found
    if way in ("phrases", "chosen phrases"):
        return _of_words(rows_of_phrases(texts), needed, aligned=way == "chosen phrases")
    if way in ("values", "chosen values"):
        return _of_words(rows_of_collocations(texts), needed, aligned=way == "chosen values")
    if way == "lists":
        return by_inner_lists(texts)
    if way == "gutters":
        return by_gutters(texts)
    if way == "said":
        return _said(texts)
    if way in BESIDE:
        return _beside(texts, needed, BESIDE[way])
    if way == "begun names":
        return by_names(texts, needed)
    if way == "ended":
        return by_ending(texts)
    if way in _BEGUN:
        return by_beginning(texts, _BEGUN[way])
    if way == "shared text":
        return by_shared_text(texts)
    if way in ("parted", "parted chunks"):
        return by_parting(texts, "gap" if way == "parted" else "chunk")
    if way != "shared":
        return by_shape(texts, needed, way)  # type: ignore[arg-type]
    shared = by_shared(texts)
    return [shared] if any(isinstance(each, Piece) and each.kind not in ("gap", "blank") for each in shared) else None


def _beside(texts: Sequence[str], needed: set[str], way: Way) -> list[Form] | None:
    """Return the form of texts of which some have an aside; what stands behind it is read in one way."""
    parted = parted_by_aside(texts)
    if parted is None:
        return None
    cuts: tuple[Cut, ...] = ("runs", "words", "chunks")
    heads = (forms_by(cut, parted.heads, {*parted.heads} if needed else set()) for cut in cuts)
    head = next((each[0] for each in heads if each is not None and len(each) == 1), None)
    tail = forms_by(way, parted.tails, {*parted.tails} if needed else set())
    return [[*head, *parted.aside, *tail[0]]] if head is not None and tail and len(tail) == 1 else None


def _said(texts: Sequence[str]) -> list[Form] | None:
    """Return the form of a few lines of a log whose heads have one, whatever is said behind them."""
    said = parted_by_head(texts)
    if said is None:
        return None
    cuts: tuple[Cut, ...] = ("runs", "names", "words", "chunks")
    ways = (forms_by(cut, said.heads, {*said.heads}) for cut in cuts)
    found = [forms[0] for forms in ways if forms is not None and len(forms) == 1]
    # Of a name that some write with a hyphen nothing may be left out.
    head = next((each for each in found if all(isinstance(part, Piece) for part in each)), found[0] if found else None)
    return [[*head, Piece("prose", said.rests)]] if head is not None else None


def _of_words(rows: list[list[Token]] | None, needed: set[str], *, aligned: bool) -> list[Form] | None:
    """Return the forms of texts of which words are whole values; None where there are no such."""
    if rows is None:
        return None
    found = by_alignment(rows, choices=True) if aligned else of_rows(rows, every=bool(needed))
    return None if found is None or any(map(_is_of_forms, found)) else [told_apart(each) for each in found]


def _is_of_forms(form: Form) -> bool:
    """Tell whether a form is but one of several, of which some are of several pieces."""
    return len(form) == 1 and isinstance(form[0], Choice) and any(len(each) > 1 for each in form[0].forms)


def _commonest(texts: Sequence[str], needed: set[str]) -> list[Form] | None:
    """Return the forms that most texts have, the others left out; None where these are too few, or one is needed."""
    if needed:
        return None
    shapes: dict[tuple[str, ...], list[str]] = defaultdict(list)
    for text in texts:
        shapes[tuple(each.kind for each in tokens_of(text, "runs"))].append(text)
    common = sorted(shapes.values(), key=len, reverse=True)[:MOST_FORMS]
    kept = [text for some in common if len(some) * RARE >= len(texts) for text in some]
    return by_shape(kept, set(), "runs") if len(kept) * 10 >= 7 * len(texts) else None
