"""Reads what an expression means to the engine that it was written for."""

from __future__ import annotations

from collections.abc import Callable  # noqa: TC003 - what operations are is read when the program runs
from typing import TYPE_CHECKING

from fieldstick.analysis.automaton.threads import boundary_in_nothing
from fieldstick.analysis.character_sets import kind_of_character
from fieldstick.analysis.constructs_of import construct_of
from fieldstick.analysis.meanings import (
    CASED,
    CATEGORIES,
    LONG_NAMES,
    POSIX,
    class_of,
    folds_alike,
    known_characters,
    posix_class,
)
from fieldstick.analysis.rendering.dialects import JAVA, JAVASCRIPT, SHORT_FOLDING
from fieldstick.analysis.rendering.iregexp import ENGINE, iregexp
from fieldstick.analysis.rendering.places import LINE_FEED, among_many_ends, inner_line_start, one_of
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
    left_out,
    may_be_empty,
)
from fieldstick.lean import compiled_later
from fieldstick.syntax.characters import EVERYTHING, CharacterSet
from fieldstick.syntax.classes import NESTING, OPERATIONS, TAKING_AWAY
from fieldstick.syntax.parser import FLAG_NAMES, parse, scoped
from fieldstick.syntax.probes import probes_of, reads_as_expected, standing
from fieldstick.syntax.tree import (
    Alternation,
    Anchor,
    Aside,
    Backreference,
    Character,
    CharClass,
    Conditional,
    Dot,
    FlagSetting,
    Group,
    Look,
    Node,
    Quoted,
    Range,
    Repeat,
    Sequence,
    SetOperation,
    Shorthand,
    spelled,
)

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.analysis.rendering.terms import PlaceKind
    from fieldstick.syntax.tree import ClassItem, Span

_ASCII = CharacterSet(((0, 0x7F),))
_BLANKS = CharacterSet.of_text("\t \xa0\u1680\u180e\u202f\u205f\u3000") | CharacterSet(((0x2000, 0x200A),))
_HEX_DIGITS = CharacterSet.of_text("0123456789abcdefABCDEF")
_LINE_ENDS = CharacterSet.of_text("\n\x0b\x0c\r\x85\u2028\u2029")

LIKE_PYTHON = ("python", "regex", "pcre2", "pcre2-ucp", "perl", "php", "dotnet")
"""Engines whose `$` stands before a line feed that ends the text too."""

_TOLD_ASCII = ("python", "regex", "perl", "ruby", "oniguruma")
"""Engines that have a flag like `ascii`; those that know ASCII alone have their own classes under it too."""

_OF_LINES = ("text-start", "dollar", "multiline")
_AS_A_WHOLE = ("possessive", "upper-bound", "conditional", "atomic", "octal", "unicode")
"""Constructs of which some uses are read otherwise by an engine that has them: none is taken for granted."""

_BY_ANY_NAME = LONG_NAMES | {each: each for each in CATEGORIES}
_JAVA_POSIX = frozenset({name.capitalize() for name in POSIX if name not in ("word", "xdigit")} | {"ASCII", "XDigit"})
"""Names of properties that are POSIX classes of ASCII in Java (its class Pattern, "POSIX character classes")."""

_OPERATIONS: dict[str, Callable[[CharacterSet, CharacterSet], CharacterSet]] = {
    "&&": lambda one, other: one & other,
    "--": lambda one, other: one - other,
    "~~": lambda one, other: (one | other) - (one & other),
}

ALWAYS_LINES = ("oniguruma", "ruby")
"""Engines whose `^` and `$` stand at every line, whatever the flags."""

HEX_BY_H = ALWAYS_LINES
"""Engines whose `\\h` is a hexadecimal digit."""

NOT_AFTER_THE_LAST = ("pcre2", "pcre2-ucp", "perl", "php", "oniguruma", "ruby")
"""Engines whose `^` does not stand after a line feed that ends the text."""


def meaning(expression: str, flags: frozenset[str], engine: str) -> Term:
    """Return what an expression asks for, as an engine reads it.

    Raises SyntaxFault for what cannot be read, NotCarried for a piece whose meaning there is not known.
    """
    if engine == ENGINE:
        return iregexp(expression)
    parsed = parse(expression, flags, engine=engine)
    for construct, span in parsed.foreign:
        if construct == "flags-further-on" and standing(construct, engine) != "has":
            raise NotCarried(f"{engine} takes flags further on for something else", span)
    term = _Reader(engine).term(parsed.tree, parsed.flags)
    if standing("last-turn", engine) != "has":
        _check_references(term, engine)
    return term


def check_turns(turns: Turns, engine: str) -> None:
    """Raise NotCarried for a repeat after which groups, or the end of the match, are not what they are in Python."""
    if may_be_empty(turns.body) and (standing("empty-turn", engine) != "has" or engine == "dotnet"):
        raise NotCarried(f"{engine} reads a repeat of what may be empty otherwise", turns.span)
    if standing("last-turn", engine) != "has" and left_out(turns):
        words = "a group that a turn may leave out keeps, or loses, what an earlier turn captured"
        raise NotCarried(f"{words}; {engine} has it otherwise", turns.span)


def _check_references(term: Term, engine: str) -> None:
    """Raise NotCarried where what is referred to may be what an earlier turn captured."""
    every_one = list(every(term))
    left = {number for each in every_one if isinstance(each, Turns) for number in left_out(each)}
    for each in every_one:
        if isinstance(each, Again | Depending) and each.number in left:
            raise NotCarried(f"on {engine} a turn takes from the group what an earlier one captured", each.span)


class _Reader:
    """Reads trees for one engine."""

    def __init__(self, engine: str) -> None:
        self._engine = engine

    def term(self, node: Node, flags: frozenset[str]) -> Term:
        """Return what a node asks for, under flags."""
        self._check_known(node, flags)
        match node:
            case Character() | Dot() | Shorthand() | CharClass():
                return self._one(node, flags)
            case Sequence():
                each = zip(node.items, self._each_with_flags(node, flags), strict=False)
                items = [self.term(item, held) for item, held in each if not isinstance(item, Aside | FlagSetting)]
                return Row(node.span, tuple(items))
            case Alternation():
                return self._choice(node, flags)
            case Repeat():
                if node.most == 0 and self._engine == "perl":
                    raise NotCarried("Perl does not always read a repeat of none as nothing", node.span)
                body = self.term(node.item, flags)
                if node.mode == "possessive" and self._engine == "python" and not isinstance(body, One):
                    # A turn that came to its end is not gone back into either.
                    body = Atomic(node.span, body)
                return Turns(node.span, body, node.least, node.most, node.mode)
            case Group():
                return self._group(node, flags)
            case Look():
                return Around(node.span, self.term(node.body, flags), node.ahead, node.negated)
            case Backreference():
                return Again(node.span, node.number, "ignore-case" in flags)
            case Conditional():
                other = Row(node.span, ()) if node.otherwise is None else self.term(node.otherwise, flags)
                return Depending(node.span, node.number, self.term(node.then, flags), other)
            case Anchor():
                return self._place(node, flags)
            case Quoted():
                letters = [self._character(each, node.span, flags) for each in node.text]
                return Row(node.span, tuple(letters))
            case FlagSetting() | Aside():
                return Row(node.span, ())
        raise NotCarried("its meaning is not known elsewhere", node.span)

    def _check_known(self, node: Node, flags: frozenset[str]) -> None:
        """Raise NotCarried for a construct that the engine does not have with this meaning."""
        if self._engine == "python":
            return
        construct = construct_of(node, flags)
        if construct is None or (construct in _OF_LINES and self._engine in ALWAYS_LINES):
            return
        if isinstance(node, Character) and _is_read(node.spelling, construct, self._engine):
            return
        if construct == "horizontal-space" and self._engine in HEX_BY_H:
            return
        stands = standing(construct, self._engine)
        if stands in ("lacks", "otherwise") or (stands == "differs" and construct in _AS_A_WHOLE):
            raise NotCarried(f"{self._engine} reads {spelled(node)} otherwise", node.span)

    def _choice(self, node: Alternation, flags: frozenset[str]) -> Term:
        options = []
        for option in node.options:
            options.append(self.term(option, flags))
            *_, flags = self._each_with_flags(option, flags)
            if self._engine in ALWAYS_LINES and _sets_flags_further_on(option) and option is not node.options[-1]:
                raise NotCarried(
                    f"flags in an option, which {self._engine} takes the options after it into", option.span
                )
        return Choice(node.span, tuple(options))

    def _each_with_flags(self, node: Node, flags: frozenset[str]) -> Iterator[frozenset[str]]:
        """Yield the flags that hold for each item of an option, and those after it."""
        for item in node.items if isinstance(node, Sequence) else (node,):
            yield flags
            if isinstance(item, FlagSetting):
                flags = (flags | self._flags(item.flags, item.span)) - self._flags(item.off, item.span)
        yield flags

    def _flags(self, letters: str, span: Span) -> frozenset[str]:
        """Return flags by their letters; `u` is no flag of Python's that would change anything."""
        names = FLAG_NAMES | {"m": "dotall"} if self._engine in ALWAYS_LINES else FLAG_NAMES
        for letter in letters:
            if letter not in names and self._engine != "python":
                raise NotCarried(f"the flag {letter} of {self._engine}", span)
        return frozenset([names[letter] for letter in letters if letter in names])

    def _group(self, node: Group, flags: frozenset[str]) -> Term:
        if node.kind == "branch-reset":
            raise NotCarried("options that number their groups alike", node.span)
        if node.kind == "flags" and self._engine != "python":
            flags = (flags | self._flags(node.on, node.span)) - self._flags(node.off, node.span)
        body = self.term(node.body, scoped(flags, node) if self._engine == "python" else flags)
        if node.kind == "capture":
            assert node.number is not None
            return Captured(node.span, body, node.number, node.name)
        return Atomic(node.span, body) if node.kind == "atomic" else body

    def _character(self, character: str, span: Span, flags: frozenset[str]) -> One:
        plain = CharacterSet.of_text(character)
        taken = self._folded(plain, span, flags) if "ignore-case" in flags else plain
        return One(span, taken, (taken,), (plain,))

    def _folded(self, plain: CharacterSet, span: Span, flags: frozenset[str]) -> CharacterSet:
        if "ascii" in flags and self._engine in ("python", "regex"):
            letters = [chr(code) for first, last in (plain & _ASCII).intervals for code in range(first, last + 1)]
            return plain | CharacterSet.of_text("".join(letters).swapcase())
        found = folds_alike(self._engine, plain)
        if found is None:
            raise NotCarried(f"{self._engine} does not tell what it lets case stand for", span)
        return found

    def _one(self, node: Node, flags: frozenset[str]) -> Term:
        if isinstance(node, Shorthand) and node.name == "line-end":
            pair = Row(node.span, (self._character("\r", node.span, flags), self._character("\n", node.span, flags)))
            single = one_of(node.span, _LINE_ENDS)
            return Atomic(node.span, Choice(node.span, (pair, single)))
        match node:
            case Character():
                return self._character(node.character, node.span, flags)
            case Dot():
                taken = EVERYTHING if "dotall" in flags else self._dot(node.span)
                return one_of(node.span, taken)
            case Shorthand():
                taken = self._kind(node, flags)
                return one_of(node.span, taken)
            case CharClass() if not node.items and not node.negated:
                return Around(node.span, Row(node.span, ()), True, True)
            case CharClass():
                return self._class(node, flags)
        raise NotCarried("its meaning is not known elsewhere", node.span)

    def _dot(self, span: Span) -> CharacterSet:
        found = class_of(self._engine, "dot")
        if found is None:
            raise NotCarried(f"what the dot takes on {self._engine} is not known", span)
        return ~(known_characters() - found)

    def _class(self, node: CharClass, flags: frozenset[str]) -> One:
        found = self._combined(node, flags)
        if found is not None:
            return one_of(node.span, found)
        plain: list[CharacterSet] = []
        taken: list[CharacterSet] = []
        for item in node.items:
            before, after = self._item(item, flags)
            plain.append(before)
            taken.append(after)
        union = CharacterSet.of(pair for each in taken for pair in each.intervals)
        return One(node.span, ~union if node.negated else union, tuple(taken), tuple(plain), node.negated)

    def _combined(self, node: CharClass, flags: frozenset[str]) -> CharacterSet | None:
        """Return what a class takes that is made of several by operations; None for any other."""
        if not node.items:
            return None
        *before, last = node.items
        if self._engine in TAKING_AWAY and isinstance(last, CharClass) and before and _is_hyphen(before[-1]):
            inner = self._class(last, flags).characters
            union = self._union(tuple(before[:-1]), node.span, flags)
            return (~union if node.negated else union) - inner
        if not any(isinstance(each, SetOperation) for each in node.items):
            return None
        taken, sign, waiting = None, "", []
        for item in (*node.items, None):
            if item is not None and not isinstance(item, SetOperation):
                waiting.append(item)
                continue
            found = self._union(tuple(waiting), node.span, flags)
            taken = found if taken is None else _OPERATIONS[sign](taken, found)
            if item is not None:
                if item.spelling not in OPERATIONS.get(self._engine, ()):
                    raise NotCarried(f"{item.spelling} between classes", item.span)
                sign, waiting = item.spelling, []
        assert taken is not None
        return ~taken if node.negated else taken

    def _union(self, items: tuple[ClassItem, ...], span: Span, flags: frozenset[str]) -> CharacterSet:
        """Return what any of several items of a class takes, which are combined with others."""
        if "ignore-case" in flags:
            raise NotCarried("classes that are combined while case is let go", span)
        if not items:
            raise NotCarried("an operation between classes of which one is missing", span)
        return CharacterSet.of(pair for each in items for pair in self._item(each, flags)[1].intervals)

    def _item(self, item: ClassItem, flags: frozenset[str]) -> tuple[CharacterSet, CharacterSet]:
        """Return what an item of a class takes, before and after case is let go."""
        for each in (item.first, item.last) if isinstance(item, Range) else (item,):
            self._check_known(each, flags)
        match item:
            case Character():
                plain = CharacterSet.of_text(item.character)
            case Range() if self._engine == "java-unicode" and "ignore-case" in flags:
                raise NotCarried(
                    "Java asks a range about each case of a character, not about what stands in it", item.span
                )
            case Range():
                plain = CharacterSet(((ord(item.first.character), ord(item.last.character)),))
            case Shorthand():
                taken = self._kind(item, flags)
                return taken, taken
            case CharClass() if self._engine in NESTING:
                inner = self._class(item, flags)
                whole = CharacterSet.of(pair for each in inner.plain for pair in each.intervals)
                return (~whole if inner.negated else whole), inner.characters
            case SetOperation():
                raise NotCarried(f"{item.spelling} between classes", item.span)
            case _:
                raise NotCarried("an item of a class whose meaning is not known elsewhere", item.span)
        return plain, (self._folded(plain, item.span, flags) if "ignore-case" in flags else plain)

    def _kind(self, node: Shorthand, flags: frozenset[str]) -> CharacterSet:
        found = self._named(node, flags)
        if found is None:
            raise NotCarried(f"what {node.spelling} takes on {self._engine} is not known", node.span)
        return ~found if node.negated else found

    def _named(self, node: Shorthand, flags: frozenset[str]) -> CharacterSet | None:
        name = node.name
        if name in ("digit", "word", "space"):
            if self._engine == "python" or ("ascii" in flags and self._engine in _TOLD_ASCII):
                return kind_of_character(name, ascii_alone="ascii" in flags)
            found = class_of(self._under(flags), name)
            if found is not None and "ignore-case" in flags and self._engine in SHORT_FOLDING:
                # The kelvin sign is a k there, and the long s an s.
                return folds_alike(self._engine, found)
            return found
        if name == "horizontal-space":
            return _HEX_DIGITS if self._engine in HEX_BY_H else _BLANKS
        if name == "not-line-end":
            return ~LINE_FEED
        if name.startswith("posix "):
            return self._posix(name.removeprefix("posix "), flags)
        if name.startswith("property "):
            return self._property(name.removeprefix("property "), flags)
        return None

    def _posix(self, name: str, flags: frozenset[str]) -> CharacterSet | None:
        """Return what a POSIX class takes; None where that is not known, as of letters of one case let go."""
        if name not in POSIX or ("ignore-case" in flags and name in ("upper", "lower")):
            return None
        if "ascii" in flags and self._engine in _TOLD_ASCII:
            return posix_class(name, ascii_alone=True)
        return class_of(self._under(flags), f"posix {name}")

    def _property(self, name: str, flags: frozenset[str]) -> CharacterSet | None:
        """Return the characters of a general category of Unicode, by either name; None for another property.

        Of letters of one case it is left open what they are when case is let go: engines differ.
        """
        plain = name.removeprefix("^")
        if plain != name:
            found = self._property(plain, flags)
            return None if found is None else ~found
        if self._engine == "java" and name in _JAVA_POSIX and "ignore-case" not in flags:
            return posix_class(name.lower(), ascii_alone=True)
        name = _BY_ANY_NAME.get(name.removeprefix("gc=").removeprefix("General_Category="), name)
        if name not in CATEGORIES or ("ignore-case" in flags and name in CASED):
            return None
        return class_of(self._engine, name)

    def _place(self, node: Anchor, flags: frozenset[str]) -> Term:
        engine, lines = self._engine, "multiline" in flags or self._engine in ALWAYS_LINES
        if engine in JAVA or (engine in JAVASCRIPT and lines):
            found = among_many_ends(node, lines, engine)
            if found is not None:
                return found
        match node.name:
            case "text-start":
                return Place(node.span, "text-start")
            case "text-end":
                return Place(node.span, "text-end" if engine in ("python", "regex", "postgres") else "final")
            case "very-end":
                return Place(node.span, "text-end")
            case "line-start":
                if not lines:
                    return Place(node.span, "text-start")
                return inner_line_start(node.span) if engine in NOT_AFTER_THE_LAST else Place(node.span, "line-start")
            case "line-end":
                alone: PlaceKind = "final" if engine in LIKE_PYTHON else "text-end"
                return Place(node.span, "line-end" if lines else alone)
            case "not-boundary" if engine == "re2":
                raise NotCarried("RE2 finds a place beside no boundary within a character", node.span)
            case "boundary" | "not-boundary":
                in_nothing = engine != "python" or boundary_in_nothing(r"\B")
                return Place(node.span, node.name, self._words(node.span, flags), in_nothing)
        raise NotCarried(f"the place {node.spelling}", node.span)

    def _under(self, flags: frozenset[str]) -> str:
        """Return the engine whose classes hold: the flag `ascii` takes Unicode from one that was told of it."""
        plain = {"pcre2-ucp": "pcre2", "java-unicode": "java"}
        return plain.get(self._engine, self._engine) if "ascii" in flags else self._engine

    def _words(self, span: Span, flags: frozenset[str]) -> CharacterSet:
        if self._engine == "python" or ("ascii" in flags and self._engine in _TOLD_ASCII):
            return kind_of_character("word", ascii_alone="ascii" in flags)
        found = class_of(self._under(flags), "boundary")
        if found is not None and "ignore-case" in flags and self._engine in JAVASCRIPT:
            found = folds_alike(self._engine, found)
        if found is None:
            raise NotCarried(f"what a boundary stands beside on {self._engine} is not known", span)
        return found


def _is_read(spelling: str, construct: str, engine: str) -> bool:
    """Tell whether an engine reads this spelling of a character, whatever it makes of others of the construct."""
    as_this = {"octal": spelling == "\\0", "unicode": bool(_OF_FOUR.fullmatch(spelling))}
    if not as_this.get(construct, False):
        return False
    same = [each for each in probes_of(construct) if each.expression in ("\\0", "\\u2032")]
    return bool(same) and all(reads_as_expected(each, engine) for each in same)


_OF_FOUR = compiled_later(r"\\u(?![Dd][89A-Fa-f])[0-9A-Fa-f]{4}")
"""A character by four digits that is no surrogate."""


def _sets_flags_further_on(node: Node) -> bool:
    items = node.items if isinstance(node, Sequence) else ()
    return any(isinstance(item, FlagSetting) for item in items[1:])


def _is_hyphen(item: ClassItem) -> bool:
    return isinstance(item, Character) and item.spelling == "-"
