"""I-Regexp, the interoperable notation of RFC 9485: read by its grammar, for what it asks of a whole text.

Each reading function's docstring is the rule of the grammar (section 4) that it implements. What stands in a text of it
takes part in no captures: its parentheses group alone. A dot takes all but line feed and carriage return (section 5).
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.analysis.meanings import of_category
from fieldstick.analysis.rendering.terms import Choice, One, Row, Term, Turns
from fieldstick.errors import SyntaxFault
from fieldstick.lean import compiled_later
from fieldstick.syntax.characters import CharacterSet

if TYPE_CHECKING:
    import re

ENGINE = "rfc9485"
"""What the notation is called among those of engines."""

MOST_DEPTH = 200
"""Groups within groups that are read."""

_DOT = ~CharacterSet.of_text("\n\r")
_SPECIAL = frozenset("()*+.?[\\]{|}")
"""Characters that are no NormalChar."""

_ESCAPABLE = frozenset("()*+-.?[\\]^{|}")
_CONTROLS = {"n": "\n", "r": "\r", "t": "\t"}
_CATEGORY = compiled_later(r"\{(L[lmotu]?|M[cen]?|N[dlo]?|P[c-fios]?|Z[lps]?|S[ckmo]?|C[cfno]?)\}")
_QUANTIFIER = compiled_later(r"\*|\+|\?|\{([0-9]+)(?:(,)([0-9]+)?)?\}")


def iregexp(text: str) -> Term:
    """Return what an I-Regexp asks for of a whole text. Raises SyntaxFault with the place where it is none."""
    reader = _Reader(text)
    term = reader.branches(0)
    if reader.at < len(text):
        raise reader.fault("nothing is open that this could close")
    return term


class _Reader:
    def __init__(self, text: str) -> None:
        self._text, self.at = text, 0

    def fault(self, rule: str, start: int | None = None) -> SyntaxFault:
        """Return what is wrong at the present place."""
        begin = self.at if start is None else start
        return SyntaxFault(self._text, begin, max(self.at, begin + 1), rule)

    def _next(self) -> str:
        return self._text[self.at : self.at + 1]

    def _take(self, character: str) -> bool:
        found = self._next() == character
        self.at += found
        return found

    def branches(self, depth: int) -> Term:
        """i-regexp = branch *( "|" branch )"""
        start, options = self.at, [self._branch(depth)]
        while self._take("|"):
            options.append(self._branch(depth))
        return options[0] if len(options) == 1 else Choice((start, self.at), tuple(options))

    def _branch(self, depth: int) -> Term:
        """branch = *piece"""
        start, pieces = self.at, []
        while self._next() not in ("", "|", ")"):
            pieces.append(self._piece(depth))
        return pieces[0] if len(pieces) == 1 else Row((start, self.at), tuple(pieces))

    def _piece(self, depth: int) -> Term:
        """piece = atom [ quantifier ]; quantifier = ( "*" / "+" / "?" ) / range-quantifier"""
        start, atom = self.at, self._atom(depth)
        found = _QUANTIFIER.match(self._text, self.at)
        if found is None:
            return atom
        self.at = found.end()
        least, most = self._counts(found, start)
        return Turns((start, self.at), atom, least, most, "greedy")

    def _counts(self, found: re.Match[str], start: int) -> tuple[int, int | None]:
        """range-quantifier = "{" QuantExact [ "," [ QuantExact ] ] "}" """
        simple: dict[str, tuple[int, int | None]] = {"*": (0, None), "+": (1, None), "?": (0, 1)}
        if found[0] in simple:
            return simple[found[0]]
        if max(len(each or "") for each in (found[1], found[3])) > 9:
            raise self.fault("a repeat of more turns than anything reads", start)
        least = int(found[1])
        most = least if found[2] is None else int(found[3]) if found[3] else None
        if most is not None and most < least:
            raise self.fault(f"{found[0]} has more as its least than as its most", start)
        return least, most

    def _atom(self, depth: int) -> Term:
        """atom = NormalChar / charClass / ( "(" i-regexp ")" ); charClass has "." and the escapes"""
        start, character = self.at, self._next()
        if character == "(":
            if depth == MOST_DEPTH:
                raise self.fault(f"groups lie more than {MOST_DEPTH} deep in one another")
            self.at += 1
            inner = self.branches(depth + 1)
            if not self._take(")"):
                raise self.fault("a group without its closing parenthesis", start)
            return inner if isinstance(inner, One | Choice | Turns) else Row((start, self.at), (inner,))
        if character == "[":
            return self._expression()
        if character == "\\":
            return self._one(start, self._escape())
        if character == ".":
            self.at += 1
            return self._one(start, _DOT)
        if character in _SPECIAL:
            raise self.fault(f"{character} stands for itself only after a backslash")
        return self._one(start, self._character())

    def _one(self, start: int, characters: CharacterSet) -> One:
        return One((start, self.at), characters, (characters,), (characters,))

    def _character(self) -> CharacterSet:
        """Return the character here, which is no half of a surrogate pair."""
        character = self._next()
        if "\ud800" <= character <= "\udfff":
            raise self.fault("half of a surrogate pair")
        self.at += 1
        return CharacterSet.of_text(character)

    def _escape(self) -> CharacterSet:
        r"""SingleCharEsc / charClassEsc: a backslash and one of ()*+-.?[\]^{|}nrt, or a property"""
        start = self.at
        self.at += 1
        character = self._next()
        self.at += 1
        if character in ("p", "P"):
            found = _CATEGORY.match(self._text, self.at)
            if found is None:
                raise self.fault("a property is one of the general categories of Unicode, as in \\p{Lu}", start)
            self.at = found.end()
            taken = of_category(found[1])
            return taken if character == "p" else ~taken
        if character in _CONTROLS:
            return CharacterSet.of_text(_CONTROLS[character])
        if character and character in _ESCAPABLE:
            return CharacterSet.of_text(character)
        self.at = min(self.at, len(self._text))
        raise self.fault(f"\\{character} means nothing in RFC 9485", start)

    def _expression(self) -> One:
        """charClassExpr = "[" [ "^" ] ( "-" / CCE1 ) *CCE1 [ "-" ] "]" """
        start = self.at
        self.at += 1
        negated = self._take("^")
        items: list[CharacterSet] = []
        while self._next() != "]" or not items:
            if not self._next():
                raise self.fault("a class without its closing bracket", start)
            if self._next() == "-":
                if items and self._text[self.at + 1 : self.at + 2] != "]":
                    raise self.fault("a hyphen stands first or last in a class, else after a backslash")
                items.append(self._character())
            else:
                items.append(self._item())
        self.at += 1
        taken = CharacterSet.of(run for each in items for run in each.intervals)
        return One((start, self.at), ~taken if negated else taken, tuple(items), tuple(items), negated)

    def _item(self) -> CharacterSet:
        """CCE1 = ( CCchar [ "-" CCchar ] ) / charClassEsc"""
        start = self.at
        first = self._class_character()
        if len(first) != 1 or self._next() != "-" or self._text[self.at + 1 : self.at + 2] in ("]", ""):
            return first
        self.at += 1
        last = self._class_character()
        if len(last) != 1:
            raise self.fault("a property is no end of a range", start)
        low, high = first.intervals[0][0], last.intervals[0][0]
        if high < low:
            raise self.fault(f"{self._text[start : self.at]} is a range from its end to its start", start)
        return CharacterSet(((low, high),))

    def _class_character(self) -> CharacterSet:
        """CCchar / charClassEsc: what stands for itself in a class, which "-", "[" and "]" do not, or an escape"""
        character = self._next()
        if character == "\\":
            return self._escape()
        if character in ("-", "[", "]", ""):
            raise self.fault(f"{character or 'the end'} stands for itself in a class only after a backslash")
        return self._character()
