"""Writes what an expression means for another engine, or says why that cannot be."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.analysis.character_sets import cased_characters
from fieldstick.analysis.meanings import CASED, class_of, folds_alike, known_to
from fieldstick.analysis.rendering.dialects import DIALECTS, JAVASCRIPT, SHORT_FOLDING, group_name, literal
from fieldstick.analysis.rendering.iregexp import ENGINE
from fieldstick.analysis.rendering.meaning import check_turns, meaning
from fieldstick.analysis.rendering.reaches import is_mixed, trimmed, with_anything_around
from fieldstick.analysis.rendering.set_names import (
    by_properties,
    kind_of,
    property_sets,
    run_written,
    sets_with_a_name,
    shorthand_of,
)
from fieldstick.analysis.rendering.terms import (
    Again,
    Around,
    Atomic,
    Captured,
    Choice,
    Depending,
    NotCarried,
    One,
    Place,
    Row,
    Term,
    Turns,
    every,
    groups_in,
    may_be_empty,
    surely_set,
    with_options_ended,
    without_names,
    without_nested_counts,
)
from fieldstick.lean import compiled_later
from fieldstick.syntax.characters import CharacterSet
from fieldstick.syntax.parser import parse
from fieldstick.syntax.probes import standing

if TYPE_CHECKING:
    from fieldstick.analysis.rendering.dialects import Dialect
    from fieldstick.engines.protocol import Reach

MOST_OTHERS = 6
"""Runs of what a class does not take, below which it is written as all others."""

FEW_RUNS = 8
"""Runs of an item up to which it is written as it was."""

MOST_RUNS = 64
"""Runs of characters that a class is written out in: the digits of all alphabets are some sixty; more nobody reads."""

MANY_RUNS = 20
"""Runs from which on it is said that a class was written out, and how that is avoided."""

_FOLDING_TO_SEVERAL = ("perl", "ruby", "oniguruma")
"""Engines that take several letters for one under ignore-case: `ss` for the sharp s, `ff` for a ligature."""

_SEVERAL = compiled_later("ss|ff|fi|fl|st")
"""Pairs of ASCII that are one character's full case folding (Unicode, CaseFolding.txt, status F)."""

_DOTTED_I = 0x130
"""A capital I with a dot."""

_CASED = frozenset(f"\\{letter}{{{each}}}" for letter in "pP" for each in CASED)
_OF_ONE_CHAR = CharacterSet(((0, 0xFFFF),))


class Rendering(Struct, frozen=True):
    """An expression written for an engine, with the flags that it needs there.

    `numbers` says which group each group of the source is there, None for one that is not captured; `names` what the
    groups are called there. `notes` are what whoever uses it has to know.
    """

    engine: str
    expression: str
    flags: frozenset[str]
    numbers: tuple[int | None, ...] = ()
    names: tuple[str | None, ...] = ()
    notes: tuple[str, ...] = ()


class _OtherCase(Exception):
    """Case cannot be let go by a flag here: what the engine folds is not what is meant."""


def rendered(
    expression: str,
    flags: frozenset[str],
    target: str,
    *,
    source: str = "python",
    reach: Reach = "anywhere",
    foldable: bool = True,
    whole_values: bool = False,
    named: bool = True,
) -> Rendering:
    """Write an expression for another engine, so that within a reach it means there what it means in its own.

    One that is not `foldable` goes where no flag lets case go; with `whole_values` it is held against whole values
    there, whatever its reach; one that is not `named` has groups without names. Raises SyntaxFault for what cannot be
    read, NotCarried for a piece whose meaning cannot be kept.
    """
    term = trimmed(meaning(expression, flags, source), reach)
    if whole_values and reach != "whole":
        term, reach = with_anything_around(term, reach), "whole"
    if not named:
        term = without_names(term)
    dialect = DIALECTS[target]
    if dialect.named_last and is_mixed(term):
        term = without_names(term)
    if target == "xsd":
        term = with_options_ended(without_nested_counts(term))
    _check_kept(term, dialect, reach, source)
    if foldable and dialect.folds and "ignore-case" in flags | _flags_within(expression, source):
        try:
            return _Writer(dialect, term, folding=True).rendering()
        except _OtherCase:
            pass
    return _Writer(dialect, term, folding=False).rendering()


def written_out(expression: str, flags: frozenset[str], engine: str) -> str:
    """Write in Python's notation, without flags, what an expression means to another engine as it is written.

    Raises SyntaxFault for what cannot be read, NotCarried for a piece whose meaning there is not known.
    """
    return _Writer(DIALECTS["python"], meaning(expression, flags, engine), folding=False).rendering().expression


def _flags_within(expression: str, source: str) -> frozenset[str]:
    if source == ENGINE:
        return frozenset()
    return parse(expression, engine=source).flags


def _check_kept(term: Term, dialect: Dialect, reach: Reach, source: str) -> None:
    """Raise NotCarried for what the engine has no other way to mean, or its source means by itself."""
    name = dialect.name
    if not dialect.captures and reach != "whole":
        raise NotCarried(f"{name} judges whole values alone", term.span)
    everything = every(term)
    captures = dialect.captures and any(isinstance(each, Captured) for each in everything)
    language_alone = reach == "whole" and not captures
    for each in everything:
        if name == "xsd" and isinstance(each, Turns | Choice):
            _check_counts(each)
        if isinstance(each, Choice) or (isinstance(each, Turns) and each.mode == "lazy"):
            if dialect.longest_first and not language_alone:
                raise NotCarried(f"{name} takes the longest match, not the first that is found", each.span)
            if isinstance(each, Turns) and not dialect.lazy and not language_alone:
                raise NotCarried(f"{name} has no lazy repeats", each.span)
        if isinstance(each, Turns) and (each.least, each.most) != (1, 1):
            for engine in (name, source) if not language_alone and source in DIALECTS else ():
                check_turns(each, engine)


def _check_counts(term: Turns | Choice) -> None:
    """Raise NotCarried where libxml2 would mix up what it has counted (seen in 2.9 to 2.14)."""
    if isinstance(term, Turns) and (term.least, term.most) == (1, 1):
        return
    if isinstance(term, Turns) and _is_counted(term) and may_be_empty(term.body):
        raise NotCarried("libxml2 loses count of turns that may be empty", term.span)
    for each in [term.body] if isinstance(term, Turns) else term.options:
        if any(isinstance(within, Turns) and _is_counted(within) for within in every(each)):
            raise NotCarried("libxml2 loses count of counted repeats in repeats and options", term.span)


def _is_counted(turns: Turns) -> bool:
    return turns.least > 1 or (turns.most or 1) > 1


class _Writer:
    """Writes one term."""

    def __init__(self, dialect: Dialect, term: Term, *, folding: bool) -> None:
        self._dialect, self._term, self._folding = dialect, term, folding
        self._may_be_empty = may_be_empty(term)
        captured = sorted((each for each in every(term) if isinstance(each, Captured)), key=lambda each: each.number)
        self._captured = {each.number: each for each in captured}
        self._some_named = any(each.name for each in captured)
        self._set: frozenset[int] = frozenset()
        self._behind = False
        self._numbers: dict[int, int] = {}
        self._names: dict[int, str | None] = {}
        self._opened = 0
        self._notes: list[str] = []

    def rendering(self) -> Rendering:
        """Write it. Raises NotCarried, or _OtherCase where it cannot be done by the flag."""
        expression = self._written(self._term, alone=True)
        if self._folding and self._dialect.name in _FOLDING_TO_SEVERAL and _SEVERAL.search(expression.casefold()):
            raise _OtherCase
        groups = range(1, max(self._captured, default=0) + 1)
        numbers = tuple(self._numbers.get(number) for number in groups)
        names = tuple(self._names.get(number) for number in groups)
        for number, name in self._names.items():
            was = self._captured[number].name
            if was is not None and was != name:
                self._notes.append(f"the group {was} is {name or f'number {self._numbers[number]}'} there")
        if self._dialect.captures and numbers != tuple(groups):
            self._notes.append("groups have other numbers there")
        flags = frozenset({"ignore-case"}) if self._folding else frozenset[str]()
        return Rendering(self._dialect.name, expression, flags, numbers, names, tuple(dict.fromkeys(self._notes)))

    def _written(self, term: Term, *, alone: bool = False) -> str:
        """Return a term written; one that stands `alone` needs nothing around its options."""
        match term:
            case One():
                return self._one(term)
            case Place():
                return self._place(term)
            case Row():
                return "".join([self._in_row(each) for each in term.terms])
            case Choice():
                return self._choice(term) if alone else f"{self._dialect.plain}{self._choice(term)})"
            case Turns():
                return self._turns(term)
            case Captured():
                return self._capture(term)
            case Atomic():
                return self._atomic(term)
            case Around():
                return self._around(term)
            case Again():
                return self._again(term)
            case Depending():
                return self._depending(term)
        raise NotCarried("its meaning is not known elsewhere", term.span)

    def _in_row(self, term: Term) -> str:
        made = self._written(term)
        self._set |= surely_set(term)
        return made

    def _choice(self, term: Choice) -> str:
        before = self._set
        made = []
        for option in term.options:
            self._set = before
            made.append(self._written(option, alone=True))
        self._set = before
        return "|".join(made)

    def _turns(self, term: Turns) -> str:
        dialect = self._dialect
        if term.mode == "possessive" and not (dialect.possessive and dialect.atomic == "has"):
            return self._atomic(Atomic(term.span, Turns(term.span, term.body, term.least, term.most, "greedy")))
        if not groups_in(term.body):
            if term.most == 0:
                return ""
            if _width(term.body) == 0:
                # A place is the same place each time.
                return self._written(term.body) if term.least else ""
        elif _width(term.body) == 0 and dialect.flat_behind:
            raise NotCarried(f"{dialect.name} repeats no place", term.span)
        if max(term.least, term.most or 0) > dialect.most:
            raise NotCarried(f"{dialect.name} counts to {dialect.most:,} alone", term.span)
        if (term.least, term.most) == (1, 1):
            return self._written(term.body)
        before = self._set
        body = self._written(term.body)
        self._set = before
        if not _is_unit(term.body):
            body = f"{dialect.plain}{body})"
        mode = "?" if term.mode == "lazy" and dialect.lazy else "+" if term.mode == "possessive" else ""
        return body + _quantifier(term.least, term.most) + mode

    def _capture(self, term: Captured) -> str:
        dialect = self._dialect
        if not dialect.captures:
            return f"{dialect.plain}{self._written(term.body, alone=True)})"
        self._opened += 1
        self._numbers[term.number] = self._opened
        name = group_name(term.name, term.number, dialect)
        if name is None and dialect.only_named_capture and self._some_named:
            # Beside a named group a plain one captures nothing.
            name = f"group{term.number}"
        self._names[term.number] = name
        opening = dialect.capture.format(name) if name is not None and dialect.capture is not None else "("
        return f"{opening}{self._written(term.body, alone=True)})"

    def _atomic(self, term: Atomic) -> str:
        dialect = self._dialect
        if dialect.atomic == "has":
            return f"(?>{self._written(term.body, alone=True)})"
        if isinstance(term.body, One):
            return self._written(term.body)
        if dialect.atomic == "lacks":
            raise NotCarried(f"{dialect.name} has nothing that gives nothing back", term.span)
        # What a look-ahead found is not gone back into: captured there, it is taken as it is.
        self._opened += 1
        number = self._opened
        body = self._written(term.body, alone=True)
        return f"(?:(?=({body}))\\{number})"

    def _around(self, term: Around) -> str:
        dialect = self._dialect
        if not (dialect.ahead if term.ahead else dialect.behind):
            raise NotCarried(f"{dialect.name} has no {'look-ahead' if term.ahead else 'look-behind'}", term.span)
        if not term.ahead and not _one_width(term.body):
            raise NotCarried("a look-behind of no one width", term.span)
        if dialect.flat_behind and self._behind:
            raise NotCarried(f"{dialect.name} has no look-around in a look-behind", term.span)
        if dialect.longest_first and groups_in(term.body):
            raise NotCarried(f"{dialect.name} captures nothing in look-around", term.span)
        opening = "(?" + ("" if term.ahead else "<") + ("!" if term.negated else "=")
        before, outer = self._set, self._behind
        self._behind = outer or not term.ahead
        made = f"{opening}{self._written(term.body, alone=True)})"
        self._set, self._behind = before, outer
        return made

    def _again(self, term: Again) -> str:
        dialect = self._dialect
        if dialect.reference is None:
            raise NotCarried(f"{dialect.name} has no references", term.span)
        if term.folded and not self._folding:
            raise NotCarried("a reference that lets case go, where the flag would let go of more", term.span)
        if term.number not in self._set and standing("unset-reference", dialect.name) not in ("has", "differs"):
            raise NotCarried(
                f"a reference to a group that took no part fits nothing; on {dialect.name} it does", term.span
            )
        if term.number not in self._numbers:
            raise NotCarried("a reference to a group that is not captured there", term.span)
        name = self._names[term.number]
        if dialect.named_reference is not None and name is not None:
            return dialect.named_reference.format(name)
        # A digit that follows is not of the number.
        return f"{dialect.plain}{dialect.reference.format(self._numbers[term.number])})"

    def _depending(self, term: Depending) -> str:
        dialect = self._dialect
        if dialect.conditional is None:
            raise NotCarried(f"{dialect.name} has no options that depend on a group", term.span)
        opening = dialect.conditional.format(self._numbers.get(term.number, term.number))
        before = self._set
        then = self._written(term.then)
        self._set = before
        otherwise = self._written(term.otherwise)
        self._set = before
        return f"{opening}{then}|{otherwise})"

    def _place(self, term: Place) -> str:
        dialect = self._dialect
        simple = {
            "text-start": dialect.start,
            "text-end": dialect.end,
            "final": dialect.before_the_last,
            "line-start": dialect.line_start,
            "line-end": dialect.line_end,
        }
        if term.kind in ("boundary", "not-boundary"):
            return self._boundary(term)
        spelled = simple[term.kind]
        if spelled is not None:
            return spelled
        if term.kind == "final" and dialect.ahead and dialect.end is not None:
            return rf"(?=\n?{dialect.end})"
        if term.kind == "line-start" and dialect.behind:
            return r"(?<![^\n])"
        if term.kind == "line-end" and dialect.ahead:
            return r"(?![^\n])"
        raise NotCarried(f"{dialect.name} has no words for this place", term.span)

    def _boundary(self, term: Place) -> str:
        dialect = self._dialect
        assert term.words is not None
        words = term.words & known_to(dialect.name)
        spelling = r"\b" if term.kind == "boundary" else r"\B"
        # Whether there is a place beside no boundary in the empty text, engines differ: it is written out.
        doubtful = term.kind == "not-boundary" and self._may_be_empty
        if (
            dialect.boundary
            and class_of(dialect.name, "boundary") == words
            and not self._folding_words()
            and not doubtful
        ):
            return spelling
        if not (dialect.ahead and dialect.behind) or (self._behind and dialect.flat_behind):
            raise NotCarried(
                f"{dialect.name} has a boundary of other characters; the flag ascii makes them the same", term.span
            )
        word = self._one(One(term.span, term.words, (term.words,), (term.words,)))
        before, after = f"(?<={word})", f"(?={word})"
        not_before, not_after = f"(?<!{word})", f"(?!{word})"
        if term.kind == "boundary":
            return f"(?:{before}{not_after}|{not_before}{after})"
        guard = "" if term.in_nothing or not self._may_be_empty else f"(?!{dialect.start}{dialect.end})"
        return f"(?:{before}{after}|{guard}{not_before}{not_after})"

    def _folding_words(self) -> bool:
        """Tell whether the flag lets a boundary stand beside other characters."""
        return self._folding and self._dialect.name in JAVASCRIPT

    def _one(self, term: One) -> str:
        return self._class(term, folding=self._folding)

    def _class(self, term: One, *, folding: bool) -> str:
        dialect = self._dialect
        known = known_to(dialect.name)
        wanted = term.characters & known
        if folding:
            self._check_folds(term)
        if dialect.in_chars and term.characters - _OF_ONE_CHAR:
            if not wanted or len(term.characters) == 1:
                raise NotCarried(f"a character beyond U+FFFF is two to {dialect.name}", term.span)
            self._notes.append(f"a character beyond U+FFFF is two to {dialect.name}, and left out of account")
        if wanted == known:
            return dialect.everything
        if kind_of(dialect.name, "dot") == wanted:
            return "."
        items = term.plain if folding else term.items
        named = None if folding else shorthand_of(term.characters, dialect.name)
        if named is not None:
            return named
        if not term.negated and len(items) == 1:
            bare = self._bare(items[0])
            if bare is not None:
                return bare
        for characters, sign in ((term.characters, ""), (~term.characters, "^")):
            named = by_properties(characters, dialect.name) if not folding else None
            if named is not None:
                return f"[{sign}{named}]"
        if not wanted:
            raise NotCarried("a class that takes nothing", term.span)
        if not folding and len(items) == 1 and not term.negated and self._short(items[0]) is not None:
            return f"[{self._short(items[0])}]"
        near = self._near(term) if not folding else None
        if near is not None and dialect.takes_away:
            return near
        try:
            return f"[{self._listed(term, items, folding=folding)}]"
        except NotCarried:
            if near is None:
                raise
            return near

    def _near(self, term: One) -> str | None:
        """Write a set as a named one with a few characters more, and a few less, where that is short; None where not.

        A class of XML Schema can have another taken away (part 2, appendix F, production 16), and one of .NET.
        """
        name, takes_away = self._dialect.name, self._dialect.takes_away
        if min(len(each.intervals) for each in (term.characters, ~term.characters)) <= FEW_RUNS:
            return None
        known = known_to(name)
        sets = property_sets(name) if takes_away else {**sets_with_a_name(name), **property_sets(name)}
        for characters, sign in ((term.characters & known, ""), (~term.characters & known, "^")):
            for taken, named in sets.items():
                more, less = characters & ~taken, taken & ~characters
                if max(len(more.intervals), len(less.intervals)) > FEW_RUNS or (less and not takes_away):
                    continue
                runs, others = (self._runs(each) for each in (more, less))
                if not less:
                    return f"[{sign}{named}{runs}]"
                both = f"{self._dialect.plain}[^{named}{runs}]|[{others}])"
                return f"[{named}{runs}-[{others}]]" if not sign else both
        return None

    def _listed(self, term: One, items: tuple[CharacterSet, ...], *, folding: bool) -> str:
        """Return what stands between the brackets: the items as they were, or all characters where that is shorter."""
        runs = sum([0 if self._short(each) else len(each.intervals) for each in items])
        others = ~term.characters
        fewest = min(len(term.characters.intervals), MOST_OTHERS)
        if not folding and not term.negated and len(others.intervals) < fewest:
            return f"^{self._item(others, term)}"
        if runs > FEW_RUNS and not folding and len(term.characters.intervals) < runs:
            return self._item(term.characters, term)
        written = [self._item(each, term) for each in items]
        # A hyphen that no backslash may stand before is itself in the first place.
        return ("^" if term.negated else "") + "".join(sorted(written, key="-".__ne__))

    def _short(self, characters: CharacterSet) -> str | None:
        """Return the name that a set has in a class; None for none."""
        return shorthand_of(characters, self._dialect.name) or by_properties(characters, self._dialect.name)

    def _check_folds(self, term: One) -> None:
        """Raise _OtherCase where the flag makes another set of what is written."""
        taken = CharacterSet.of(pair for each in term.plain for pair in self._under_flag(each).intervals)
        made = ~taken if term.negated else taken
        known = known_to(self._dialect.name)
        if made & known != term.characters & known:
            raise _OtherCase

    def _under_flag(self, characters: CharacterSet) -> CharacterSet:
        """Return what a set takes under the flag as it is written: shorthands let case go in JavaScript and RE2."""
        name = self._dialect.name
        shorthand = shorthand_of(characters, name)
        if shorthand in _CASED:
            raise _OtherCase
        if shorthand is not None and name not in SHORT_FOLDING:
            return characters
        if name == "java-unicode" and any(last > first for first, last in characters.intervals):
            # A range lets case go of what it is asked about there, not of what stands in it.
            raise _OtherCase
        if name in _FOLDING_TO_SEVERAL and not _folds_to_one(characters):
            raise _OtherCase
        if name == "dotnet" and any(
            first < last and first <= _DOTTED_I <= last for first, last in characters.intervals
        ):
            # In a range it is an i as well there, and by itself it is not.
            raise _OtherCase
        found = folds_alike(name, characters)
        if found is None:
            raise _OtherCase
        return found

    def _runs(self, characters: CharacterSet) -> str:
        """Return the runs of a set as they stand in a class."""
        return "".join([run_written(first, last, self._dialect) for first, last in characters.intervals])

    def _bare(self, characters: CharacterSet) -> str | None:
        """Return a set as it is written outside a class; None where it takes one."""
        if len(characters) == 1:
            if not characters <= self._dialect.holds:
                raise NotCarried(f"{self._dialect.name} cannot hold this character", self._term.span)
            return literal(chr(characters.intervals[0][0]), self._dialect, in_class=False)
        return shorthand_of(characters, self._dialect.name)

    def _item(self, characters: CharacterSet, term: One) -> str:
        dialect = self._dialect
        shorthand = self._short(characters)
        if shorthand is not None:
            return shorthand
        if len(characters.intervals) > MOST_RUNS:
            raise NotCarried(
                f"{dialect.name} has no words for these characters; the flag ascii makes them few", term.span
            )
        if len(characters.intervals) > MANY_RUNS:
            self._notes.append(
                f"{dialect.name} has no word for a class of {len(characters.intervals)} runs of characters, which is "
                "written out; the flag ascii makes it short"
            )
        return self._runs(characters & dialect.holds)


def _folds_to_one(characters: CharacterSet) -> bool:
    """Tell whether no character of a set of few is several when case is let go."""
    if len(characters) > len(known_to("python")) // 2:
        return False
    cased = (each for each in cased_characters() if each in characters)
    return all(len(each.casefold()) == 1 for each in cased)


def _quantifier(least: int, most: int | None) -> str:
    simple = {(0, None): "*", (1, None): "+", (0, 1): "?"}
    if (least, most) in simple:
        return simple[least, most]
    if least == most:
        return f"{{{least}}}"
    return f"{{{least},{'' if most is None else most}}}"


def _is_unit(term: Term) -> bool:
    """Tell whether what is written of a term can be followed by a quantifier."""
    if isinstance(term, Row):
        return len(term.terms) == 1 and _is_unit(term.terms[0])
    return isinstance(term, One | Captured | Choice | Again | Atomic)


def _one_width(term: Term) -> bool:
    return _width(term) is not None


def _width(term: Term) -> int | None:
    """Return how many characters a term takes; None for no one number."""
    match term:
        case One():
            return 1
        case Row():
            found = [_width(each) for each in term.terms]
            return None if None in found else sum(each for each in found if each is not None)
        case Choice():
            several = {_width(each) for each in term.options}
            return several.pop() if len(several) == 1 else None
        case Turns():
            each = _width(term.body)
            return each * term.least if each is not None and term.least == term.most else None
        case Captured() | Atomic():
            return _width(term.body)
        case Place() | Around():
            return 0
    return None


__all__ = ["NotCarried", "Rendering", "rendered"]
