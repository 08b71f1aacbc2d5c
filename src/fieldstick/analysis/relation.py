"""How the texts that two expressions take relate, proven by automaton, with shortest texts that show it.

Every text is confirmed by the engine before it is given. What cannot be proven is `undecided`, and why.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from msgspec import Struct

from fieldstick.analysis.automaton.languages import Combined, OneByOne, Reading, languages_of
from fieldstick.analysis.automaton.program import OutOfReach
from fieldstick.analysis.automaton.witnesses import GOALS, Search
from fieldstick.engines.probing import tried

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.analysis.automaton.languages import Language
    from fieldstick.analysis.automaton.witnesses import Goal

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


def relation_of(first: Reading, second: Reading) -> Relation:
    """Return how two readings relate. Raises SyntaxFault for what is no expression."""
    return relation_of_several([first], [second])


def relation_of_several(firsts: Sequence[Reading], seconds: Sequence[Reading]) -> Relation:
    """Return how what any of some readings takes relates to what any of others takes."""
    try:
        found = _texts(firsts, seconds)
    except OutOfReach as error:
        return Relation("undecided", why=str(error))
    doubt = _doubt(found, firsts, seconds)
    if doubt:
        return Relation("undecided", why=doubt)
    return Relation(_named(found), found.get("only-first"), found.get("only-second"), found.get("both"))


def _texts(firsts: Sequence[Reading], seconds: Sequence[Reading]) -> dict[Goal, str]:
    languages = languages_of([*firsts, *seconds])
    first = Combined("any", languages[: len(firsts)]) if len(firsts) > 1 else languages[0]
    second = Combined("any", languages[len(firsts) :]) if len(seconds) > 1 else languages[-1]
    search = Search(first, second)
    try:
        return search.run()
    except OutOfReach:
        if len(languages) > 2:
            raise
    # A text of one goal needs the sets of threads of the one language alone that must not take it.
    loosely = OneByOne(languages[0]), OneByOne(languages[1])
    pairs: dict[Goal, tuple[Language, Language]] = {
        "only-first": (loosely[0], languages[1]),
        "only-second": (languages[0], loosely[1]),
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


def _doubt(found: dict[Goal, str], firsts: Sequence[Reading], seconds: Sequence[Reading]) -> str:
    """Return why the engine does not confirm the texts that were found; nothing when it does."""
    for goal, text in found.items():
        told = (any_takes(firsts, text), any_takes(seconds, text))
        if None in told:
            return "the engine takes too long on a text that would show it"
        if told != _WANTED[goal]:
            return f"the engine and the automaton differ on {text!r}; please report it"
    return ""


def any_takes(readings: Sequence[Reading], text: str) -> bool | None:
    """Tell whether the engine takes a text in any of several readings; None when one takes it too long."""
    told = [tried(each.expression, each.flags, each.reach, text) for each in readings]
    return None if None in told else any(told)


__all__ = ["Name", "Reading", "Relation", "any_takes", "relation_of", "relation_of_several"]
