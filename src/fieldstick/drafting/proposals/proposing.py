"""Proposes expressions from examples, from tight to loose, each verified and with a text that it takes beyond them."""

from __future__ import annotations

import re
from itertools import compress
from operator import not_
from typing import TYPE_CHECKING, Any

from msgspec import Struct
from msgspec.structs import replace

from fieldstick.analysis.automaton.asked import Reading
from fieldstick.analysis.effort import Effort
from fieldstick.analysis.examples import examples
from fieldstick.analysis.relation import relation_of
from fieldstick.drafting.context import Beside, MatchCase
from fieldstick.drafting.diagnosis import MOST_STEPS, diagnose
from fieldstick.drafting.proposals.beginnings import LONGEST, beginning_of, thinned, with_anything_after
from fieldstick.drafting.proposals.choosing import HOLDS, best_written
from fieldstick.drafting.proposals.cutting import cut_as_shown_by
from fieldstick.drafting.proposals.following_lines import first_lines, heads_of_prose, with_following
from fieldstick.drafting.proposals.log_heads import with_head
from fieldstick.drafting.proposals.naming import called, field_name
from fieldstick.drafting.proposals.odd_ones import odd_ones
from fieldstick.drafting.proposals.polishing import polished, without_idle
from fieldstick.drafting.proposals.spelled_fields import ungrouped
from fieldstick.drafting.proposals.spelling import LEVELS, listed_of
from fieldstick.drafting.proposals.taking_texts import taken_by, takes
from fieldstick.drafting.proposals.weighing import Written
from fieldstick.drafting.proposals.whole_values import renumbered, with_whole_names, with_whole_values
from fieldstick.drafting.ranking import neighbours
from fieldstick.engines.probing import batch_of
from fieldstick.lean import compiled_later
from fieldstick.matching.shapes import shape_of
from fieldstick.suites.fieldtypes import FieldSpec, Unconverted
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import Alternation

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping, Sequence

    from fieldstick.drafting.proposals.numerals import Table
    from fieldstick.drafting.proposals.spelling import Level


class Proposed(Struct, frozen=True):
    """An expression that is proposed, its level, and the tables of its typed fields by name.

    `fit` are the different examples that it takes, `takes` the texts it takes of those that must be refused. `beyond`
    is a text that it takes and a tighter one does not, or of the tightest, one that is no example. `left_out` are the
    first of the examples that it does not take, a few of them.
    """

    level: Level
    expression: str
    fields: dict[str, dict[str, Any]]
    fit: int
    takes: tuple[str, ...] = ()
    beyond: str | None = None
    left_out: tuple[str, ...] = ()

    @property
    def has_several_forms(self) -> bool:
        """Whether it is one of several forms or another as a whole, in which nothing is a field."""
        return isinstance(parse(self.expression).tree, Alternation)

    def fits(self, text: str) -> bool:
        """Tell whether it fits a text as a whole: its expression does, and what its typed fields capture converts."""
        return _converting(self.expression, self.fields, [text]) == self.fields


COMPARING = 100_000
"""States of automata that are gone through to tell whether two proposals take the same texts."""

LONGEST_RECORD = 20_000
"""Code points of a record up to which its first lines are told from any number of others behind them."""

MOST_NAMED = 3
"""Examples that are named of those that a proposal leaves out."""

LONG_EXPRESSION, FEW_STEPS = 400, 60_000
"""Code points of an expression from which on a rare form is worth no more than so many steps."""

MOST_TAKEN_IN = 3
"""Changes that are made to take in examples of a rare form."""


def propose(
    texts: Sequence[str], fitting: Sequence[str] = (), missing: Sequence[str] = (), *, name: str | None = None
) -> list[Proposed]:
    """Return expressions for texts, from tight to loose; each takes all of `fitting`.

    A text may stand among `texts` more than once: how often says whether all that there are were seen. A field that is
    the only one is called after `name`.

    Those that take one of `missing` say so, and come last. Where texts have several forms, a rare one may be left out.
    What follows the beginning of a very long text may be anything.
    """
    known = [*dict.fromkeys((*fitting, *texts))]
    if not known:
        return []
    first = _first_lines(known)
    if first is not None:
        begin = {**{each: each for each in missing}, **first}
        return _of_beginnings(texts, fitting, missing, begin, name, lambda made: with_following(made, first))
    if max(map(len, known)) > LONGEST:
        begin = {each: beginning_of(each) for each in (*known, *missing)}
        return _of_beginnings(texts, fitting, missing, begin, name, lambda made: with_anything_after(made, known))
    with cut_as_shown_by(known):
        return _proposed(texts, fitting, missing, known, name)


def too_long(texts: Sequence[str]) -> list[str]:
    """Return the texts of which `propose` reads what they begin with alone."""
    long = [text for text in texts if len(text) > LONGEST]
    return long if long and _first_lines(texts) is None else []


def _first_lines(known: Sequence[str]) -> Mapping[str, str] | None:
    """Return the first lines of records, by text, where any number of others follow; None where that is not so."""
    if max(map(len, known)) > LONGEST_RECORD:
        return None
    return first_lines(known) or heads_of_prose(known)


def _proposed(
    texts: Sequence[str], fitting: Sequence[str], missing: Sequence[str], known: Sequence[str], name: str | None
) -> list[Proposed]:
    """Return expressions for texts that are not very long."""
    found: list[Proposed] = []
    examples = [*fitting, *thinned(texts)]
    best = best_written(examples, fitting)
    # What is made otherwise than all others is no rare form of the like.
    odd = odd_ones(known) - {*fitting}
    even = [each for each in known if each not in odd]
    listed = _listed(examples)
    if listed is not None:
        best["tight"] = listed
    names: int | None = None
    for level in LEVELS:
        if level not in best:
            continue
        expression, fields = _called(name, best[level], known)
        fields = _converting(expression, fields, _parted(expression, known)[0]) or {}
        expression = _kept_out(_taken_in(expression, fields, even), missing, known)
        if level != "loose":
            expression, fields = renumbered(with_whole_values(expression, fields, examples), fields)
            # What is a list now is no number any more.
            fields = _converting(expression, fields, _parted(expression, known)[0]) or {}
        # All levels have the same fields.
        expression, names = with_whole_names(expression, fields, examples, names)
        expression, fields = renumbered(expression, fields)
        calm = polished(expression)
        # What makes it calm must lose nothing that is known.
        expression = calm if all(taken_by(calm, _parted(expression, known)[0])) else expression
        expression, fields = renumbered(without_idle(expression, known), fields)
        expression, fields = with_head(expression, fields)
        if any(_is_same(each.expression, expression) for each in found):
            continue
        wrongly = tuple(each for each in missing if takes(expression, each))
        fit, left_out = _taken_of(expression, known)
        found.append(Proposed(level, expression, fields, fit, wrongly, left_out=left_out))
    return sorted(found, key=lambda each: len(each.takes))


def _is_same(one: str, other: str) -> bool:
    """Tell whether two expressions are known to take the same texts."""
    return one == other or relation_of(Reading(one), Reading(other), Effort(COMPARING)).relation == "same"


def _of_beginnings(
    texts: Sequence[str],
    fitting: Sequence[str],
    missing: Sequence[str],
    begin: Mapping[str, str],
    name: str | None,
    with_rest: Callable[[str], str],
) -> list[Proposed]:
    """Return expressions for what texts begin with, by text, and what follows that."""
    known = [*dict.fromkeys((*fitting, *texts))]
    begun = {begin[each] for each in known}
    refused = [begin[each] for each in missing if begin[each] not in begun]
    found = []
    for each in propose([begin[text] for text in texts], [begin[text] for text in fitting], refused, name=name):
        expression = with_rest(each.expression)
        wrongly = tuple(text for text in missing if takes(expression, text))
        fit, left_out = _taken_of(expression, known)
        found.append(replace(each, expression=expression, fit=fit, takes=wrongly, left_out=left_out))
    return sorted(found, key=lambda each: len(each.takes))


def _listed(examples: Sequence[str]) -> Written | None:
    """Return a choice of all texts, where there are hardly others."""
    choice = listed_of(examples)
    return Written(f"(?P<value>{choice})", {}) if choice is not None else None


def _called(name: str | None, written: Written, known: Sequence[str]) -> tuple[str, dict[str, dict[str, Any]]]:
    """Return an expression and its fields, the only field called after the column that the texts are of.

    Different values without a blank in them are a field, too, whatever they are made of.
    """
    groups = list(re.compile(written.expression).groupindex)
    new = field_name(name.rpartition("/")[2]) if name is not None else ""
    if not groups and not new and len(known) > 1 and all(known) and not any(map(_BLANK.search, known)):
        new = called(known)
    if not new or len(groups) > 1:
        return written.expression, written.fields
    if not groups:
        return f"(?P<{new}>{ungrouped(written.expression)})", {}
    expression = written.expression.replace(f"(?P<{groups[0]}>", f"(?P<{new}>", 1)
    tables = list(written.fields.values())
    return expression, {new: tables[0]} if tables else {}


_BLANK = compiled_later(r"\s")


def _taken_in(expression: str, fields: dict[str, Table], known: Sequence[str]) -> str:
    """Return an expression that takes the examples of a rare form too, where a small change lets it.

    What more it takes of the texts near to examples must not be worse than what it left out of these, and typed fields
    must still convert.
    """
    near = neighbours(known[:MOST_HELD])
    for _ in range(MOST_TAKEN_IN):
        held, lost = _parted(expression, known)
        if not lost:
            break
        beside = Beside((*held[:MOST_HELD], *lost[1:MOST_HELD]))
        before = sum(taken_by(expression, near))
        steps = MOST_STEPS if len(expression) <= LONG_EXPRESSION else FEW_STEPS
        case = MatchCase(expression, frozenset(), "whole", lost[0])
        for repair in diagnose(case, beside=beside, steps=steps).repairs:
            made = repair.case
            if made.text != lost[0] or made.flags or made.reach != "whole" or repair.breaks:
                continue
            more = (sum(taken_by(made.expression, near)) - before) / len(near)
            gained, _ = _parted(made.expression, lost)
            if (
                more <= HOLDS * len(gained) / len(known)
                and _converting(made.expression, fields, [*held, *gained]) == fields
            ):
                expression = made.expression
                break
        else:
            break
    return expression


def _converting(expression: str, fields: Mapping[str, Table], texts: Sequence[str]) -> dict[str, Table] | None:
    """Return those of typed fields that convert all that is captured of texts; None where one of them does not fit."""
    found = batch_of(expression, frozenset(), "whole", texts)
    if found is None:
        return None
    rows = [(text, places) for text, places in zip(texts, found, strict=True) if places is not None]
    if len(rows) < len(texts):
        return None
    groups = re.compile(expression).groupindex
    captured = {
        name: [text[slice(*places[groups[name]])] for text, places in rows if places[groups[name]][0] >= 0]
        for name in fields
        if name in groups
    }
    return {name: fields[name] for name, values in captured.items() if _all_convert(FieldSpec(**fields[name]), values)}


def _all_convert(spec: FieldSpec, values: Sequence[str]) -> bool:
    try:
        return all(spec.convert(each) is not None for each in values)
    except Unconverted:
        return False


def _parted(expression: str, known: Sequence[str]) -> tuple[list[str], list[str]]:
    """Return the texts that an expression takes, and those that it does not."""
    taken = taken_by(expression, known)
    return [*compress(known, taken)], [*compress(known, map(not_, taken))]


def _taken_of(expression: str, known: Sequence[str]) -> tuple[int, tuple[str, ...]]:
    """Return how many examples an expression takes, and the first of the others."""
    held, lost = _parted(expression, known)
    return len(held), tuple(lost[:MOST_NAMED])


def _kept_out(expression: str, missing: Sequence[str], known: Sequence[str]) -> str:
    """Return an expression narrowed until it takes no text that must be refused, as far as no example is lost."""
    held = (*compress(known, taken_by(expression, known)),)
    beside = Beside(held[:MOST_HELD], tuple(missing))
    for text in missing:
        if not takes(expression, text):
            continue
        repairs = diagnose(MatchCase(expression, frozenset(), "whole", text), beside=beside).repairs
        better = next((each.case for each in repairs if not each.breaks and not each.case.flags), None)
        if better is not None and better.reach == "whole" and all(taken_by(better.expression, held)):
            expression = better.expression
    return expression


MOST_HELD = 40
"""Examples that are held against each change that would keep a text out."""


def with_beyond(found: Sequence[Proposed], texts: Sequence[str]) -> list[Proposed]:
    """Return proposals with a text that each takes beyond the one before it, the first beyond the examples."""
    made: list[Proposed] = []
    known = set(texts)
    for before, each in zip((None, *found), found, strict=False):
        if before is not None:
            text = relation_of(Reading(each.expression), Reading(before.expression)).only_first
        else:
            text = next((text for text in examples(parse(each.expression), most=8) if text not in known), None)
        likely = [] if text is None else [text, _with_values(text, each, texts)]
        others = (
            other
            for other in (*likely, *neighbours(texts[:MOST_HELD]))
            if other not in known and each.fits(other) and not (before is not None and before.fits(other))
        )
        made.append(replace(each, beyond=next(others, None)))
    return made


def _with_values(text: str, made: Proposed, texts: Sequence[str]) -> str:
    """Return a text that an expression takes with values in its typed fields that convert: those of an example."""
    expression = re.compile(made.expression)
    example = next(filter(None, map(expression.fullmatch, texts)), None)
    found = expression.fullmatch(text)
    if example is None or found is None:
        return text
    typed = [name for name in made.fields if found[name] is not None and example[name] is not None]
    for name in sorted(typed, key=found.start, reverse=True):
        if not _all_convert(FieldSpec(**made.fields[name]), [found[name]]):
            text = text[: found.start(name)] + example[name] + text[found.end(name) :]
    return text


MOST_SAMPLES = 5
"""Samples of a kind that are chosen, beside the texts that are given."""


def samples_for(chosen: Proposed, texts: Sequence[str], missing: Sequence[str]) -> tuple[list[str], list[str]]:
    """Return texts that a proposal takes, and texts that it refuses, chosen for being different.

    Refused are those that must be, and texts near to examples. Of a very long text it is what it begins with.
    """
    begun = dict.fromkeys(map(beginning_of, texts))
    fitting, _ = _parted(chosen.expression, list(filter(_is_text, begun)))
    by_shape: dict[str, list[str]] = {}
    for each in fitting:
        by_shape.setdefault(shape_of(each), []).append(each)
    ends = sorted(fitting, key=len)
    wanted = [*(some[0] for some in by_shape.values()), *ends[:1], *ends[-1:], *fitting]
    positive = list(dict.fromkeys(wanted))[:MOST_SAMPLES]
    written = {each for text in fitting for each in text if not each.isprintable()}
    near = [
        each
        for each in (neighbours(fitting[:MOST_SAMPLES]) if fitting else ())
        if _is_text(each) and all(character.isprintable() or character in written for character in each)
    ]
    refused = [each for each in near if each.strip() and not takes(chosen.expression, each)]
    # What has no other characters than examples have is what might come by mistake.
    own = set("".join(fitting))
    refused.sort(key=lambda each: sum(character not in own for character in each))
    firsts: dict[str, str] = {}
    for each in refused:
        if shape_of(each) not in by_shape:
            firsts.setdefault(shape_of(each), each)
    odd = [*firsts.values()]
    negative = [
        *(each for each in missing if not takes(chosen.expression, each)),
        *_unconverted(chosen, positive),
        *odd[:1],
        # One of another length says more than one more of the same.
        *sorted(odd[1:], key=lambda each: len(each) == len(odd[0]))[:1],
    ]
    return positive, list(dict.fromkeys(negative))


def _unconverted(chosen: Proposed, texts: Sequence[str]) -> list[str]:
    """Return a text of which the expression fits and a date, a time or the like that it holds is none; or nothing."""
    moments = [name for name, table in chosen.fields.items() if table["type"] in ("date", "time", "timestamp")]
    compiled = re.compile(chosen.expression)
    for text in texts:
        found = compiled.fullmatch(text)
        for name in moments if found is not None else ():
            start, end = found.span(name)  # type: ignore[union-attr]
            for two in re.compile(r"\d\d").finditer(text, max(start, 0), max(end, 0)):
                made = f"{text[: two.start()]}77{text[two.end() :]}"
                if compiled.fullmatch(made) and not chosen.fits(made):
                    return [made]
    return []


def _is_text(text: str) -> bool:
    """Tell whether a file can hold a text: not a byte that is undecodable."""
    return text.isascii() or not any("\ud800" <= each <= "\udfff" for each in text)
