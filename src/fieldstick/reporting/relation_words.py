"""How two expressions relate, in words and as data."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.reporting.cells import visible

if TYPE_CHECKING:
    from fieldstick.analysis.relation import Relation

MOST_SHOWN = 120
"""Characters of a text that are shown: of a longer one its ends."""


def text_words(text: str) -> str:
    """Quote a text, its control characters as symbols, so that even an empty one is seen."""
    if not text:
        return "the empty text"
    shown = visible(text)
    if len(shown) > MOST_SHOWN:
        shown = f"{shown[: MOST_SHOWN // 2]} … {shown[-MOST_SHOWN // 2 :]}"
    return f"'{shown}'"


def relation_words(relation: Relation) -> str:
    """Say how the newer of two expressions, the first of the relation, relates to the older."""
    gained, lost = (None if text is None else text_words(text) for text in (relation.only_first, relation.only_second))
    match relation.relation:
        case "same":
            return "same: it takes just the texts that it took"
        case "narrower":
            return f"narrower: it no longer takes {lost}"
        case "wider":
            return f"wider: it takes {gained} too"
        case "crossing":
            return f"crossing: it no longer takes {lost}, and takes {gained} instead"
        case "apart":
            return f"apart: it takes no text that it took; not {lost}, but {gained}"
        case _:
            return f"undecided: {relation.why}"


def relation_as_data(relation: Relation | None) -> dict[str, Any] | None:
    """Return how the newer of two expressions relates to the older as plain data."""
    if relation is None:
        return None
    return {
        "relation": relation.relation,
        "gained": relation.only_first,
        "lost": relation.only_second,
        "both": relation.both,
        "why": relation.why or None,
    }
