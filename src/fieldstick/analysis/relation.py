"""How the texts that two expressions take relate, proven by automaton, with shortest texts that show it.

Every text is confirmed by the engine before it is given. What cannot be proven is `undecided`, and why.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from msgspec import Struct

from fieldstick.analysis.automaton.asked import Reading, readings_of
from fieldstick.analysis.automaton.languages import OneByOne, joined_language, languages_of
from fieldstick.analysis.automaton.program import OutOfReach
from fieldstick.analysis.automaton.witnesses import GOALS, Search
from fieldstick.engines.probing import tried

if TYPE_CHECKING:
    from fieldstick.analysis.automaton.asked import Asked
    from fieldstick.analysis.automaton.languages import Language
    from fieldstick.analysis.automaton.witnesses import Goal
    from fieldstick.analysis.effort import Effort

Name = Literal["same", "narrower", "wider", "crossing", "apart", "undecided"]


class Relation(Struct, frozen=True):
    """How two expressions relate.

    `relation` is `same`, `narrower` (the first takes only texts that the second takes), `wider` (the other way round),
    `crossing` (each takes some that the other does not, and both take some), `apart` (no text is taken by both) or
    `undecided`. `only_first`, `only_second` and `both` are each a shortest text of its kind, the most readable of its
    length; None when there is none, or when it is not known. `why` says what stands in the way of a decision.
    """

    relation: Name
    only_first: str | None = None
    only_second: str | None = None
    both: str | None = None
    why: str = ""


_WANTED: dict[Goal, tuple[bool, bool]] = {
    "only-first": (True, False),
    "only-second": (False, True),
    "both": (True, True),
}
"""Whether the first and the second take a text of each goal."""


def relation_of(first: Asked, second: Asked, effort: Effort | None = None) -> Relation:
    """Return how two readings, or what several join to, relate; undecided where an effort that is given is spent.

    Raises SyntaxFault for what is no expression.
    """
    try:
        found = _texts(first, second, effort)
    except OutOfReach as error:
        return Relation("undecided", why=str(error))
    doubt = _doubt(found, first, second)
    if doubt:
        return Relation("undecided", why=doubt)
    return Relation(_named(found), found.get("only-first"), found.get("only-second"), found.get("both"))


def _texts(first: Asked, second: Asked, effort: Effort | None) -> dict[Goal, str]:
    tables = languages_of([*readings_of(first), *readings_of(second)], effort)
    each_one = iter(tables)
    search = Search(joined_language(first, each_one), joined_language(second, each_one))
    try:
        return search.run()
    except OutOfReach:
        if len(tables) > 2:
            raise
    # A text of one goal needs the sets of threads of the one language alone that must not take it.
    loosely = OneByOne(tables[0]), OneByOne(tables[1])
    pairs: dict[Goal, tuple[Language, Language]] = {
        "only-first": (loosely[0], tables[1]),
        "only-second": (tables[0], loosely[1]),
        "both": loosely,
    }
    found = search.found
    for goal in GOALS:
        if goal not in found:
            found |= Search(*pairs[goal], [goal]).run()
    return found


def _named(found: dict[Goal, str]) -> Name:
    match "only-first" in found, "only-second" in found:
        case False, False:
            return "same"
        case False, True:
            return "narrower"
        case True, False:
            return "wider"
    return "crossing" if "both" in found else "apart"


def _doubt(found: dict[Goal, str], first: Asked, second: Asked) -> str:
    """Return why the engine does not confirm the texts that were found; nothing when it does."""
    for goal, text in found.items():
        told = (takes(first, text), takes(second, text))
        if None in told:
            return "the engine takes too long on a text that would show it"
        if told != _WANTED[goal]:
            return f"the engine and the automaton differ on {text!r}; please report it"
    return ""


def takes(asked: Asked, text: str) -> bool | None:
    """Tell whether the engine takes a text; None when that takes it too long."""
    if isinstance(asked, Reading):
        return tried(asked.expression, asked.flags, asked.reach, text)
    told = [takes(part, text) for part in asked.parts]
    if None in told:
        return None
    return all(told) if asked.how == "all" else any(told) is (asked.how == "any")


__all__ = ["Name", "Relation", "relation_of", "takes"]
