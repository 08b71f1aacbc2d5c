"""Probes of notation: tiny expressions, each with a text and the reading that it is expected to have.

What every engine makes of each is recorded beside, in `readings.json`, by `tools/record_readings.py`; a test asks each
engine again. An engine has a construct when it reads the first probe of it as expected; where it reads a further one
otherwise, it has the construct with a difference, and that probe shows it.

A reading is written as places of code points: matches parted by blanks, each `start-end` and then, after commas, those
of its groups, `-` for one that took no part. No match is nothing at all; `refused` is an expression that the engine
does not take, `failed` a text on which it breaks down.
"""

from __future__ import annotations

import json
from functools import cache
from importlib.resources import files
from typing import TYPE_CHECKING, Literal

from msgspec import Struct

if TYPE_CHECKING:
    from collections.abc import Mapping

YES_OR_NO = frozenset({"xsd", "sqlite"})
"""Engines of which no places can be had: of a whole value they say whether it fits."""

Standing = Literal["has", "differs", "otherwise", "lacks", "unknown"]
"""How an engine stands to a construct: has it, has it with a difference, means something else by it, refuses it."""


class Probe(Struct, frozen=True):
    """An expression, a text, and how the notation's meaning has it read; `flags` by their letters."""

    construct: str
    expression: str
    text: str
    expected: str
    reach: Literal["whole", "anywhere"] = "whole"
    flags: str = ""

    @property
    def key(self) -> str:
        """What it is recorded under."""
        return json.dumps([self.expression, self.text, self.reach, self.flags], ensure_ascii=True)


def _w(construct: str, expression: str, *cases: tuple[str, str | bool], flags: str = "") -> list[Probe]:
    """Return probes of a whole value: texts with yes, no, or the places of the groups."""
    made = []
    for text, expected in cases:
        whole = f"0-{len(text)}"
        if isinstance(expected, bool):
            reading = whole if expected else ""
        else:
            reading = expected if expected in ("", "refused") else f"{whole},{expected}"
        made.append(Probe(construct, expression, text, reading, "whole", flags))
    return made


def _a(construct: str, expression: str, *cases: tuple[str, str], flags: str = "") -> list[Probe]:
    """Return probes of matches anywhere: texts with the reading."""
    return [Probe(construct, expression, text, expected, "anywhere", flags) for text, expected in cases]


# fmt: off
_PROBES: tuple[list[Probe], ...] = (
    _w("literal", "plot", ("plot", True), ("Plot", False), ("plot ", False)),
    _w("literal", "a-b:c", ("a-b:c", True)),
    _w("literal", "]}", ("]}", True)),
    _w("literal", "é′", ("é′", True)),
    _w("escaped", r"\.\*\[\+\?\(\)\^\$\|\\\]\{\}", (r".*[+?()^$|\]{}", True)),
    _w("escaped", r"a\-b", ("a-b", True)),
    _w("escaped", r"a\/b", ("a/b", True)),
    _w("escaped", r"\#\ ", ("# ", True)),
    _w("escaped", r"\%\"\'\@\!", ("%\"'@!", True)),
    _w("escaped", r"\_", ("_", True)),
    _w("escaped", r"\é", ("é", True)),
    _w("dot", "a.b", ("a-b", True), ("a\nb", False), ("a\rb", True), ("a\u2028b", True), ("a\x85b", True), ("a\x0bb", True)),
    _w("control", r"\n\t\r", ("\n\t\r", True)),
    _w("control", r"\f\v", ("\f\v", True)),
    _w("control", r"\a", ("\a", True)),
    _w("hex", r"\x41\xb0", ("A°", True)),
    _w("unicode", r"\u2032", ("′", True)),
    _w("unicode", r"\ud83d\udc26", ("🐦", False)),
    _w("unicode", r"\U0001F426", ("🐦", True)),
    _w("octal", r"\101", ("A", True)),
    _w("octal", r"\07", ("\x07", True)),
    _w("octal", r"\0101", ("\x081", True), ("A", False)),
    _w("octal", r"\0", ("\x00", True)),
    _w("octal", r"[\101]", ("A", True)),
    _w("braced-unicode", r"\u{2032}", ("′", True)),
    _w("braced-unicode", r"\u{1F426}", ("🐦", True)),
    _w("unicode-name", r"\N{DEGREE SIGN}", ("°", True)),
    _w("braced-code", r"\x{2032}", ("′", True)),
    _w("braced-code", r"\x{1F426}", ("🐦", True)),
    _w("escape-character", r"\e", ("\x1b", True)),
    _w("quoted-run", r"\Qa.b\E+", ("a.bb", True), ("axb", False)),
    _w("quoted-run", r"\Qa.b", ("a.b", True)),
    _w("class", "[abc][a-f]", ("bd", True), ("bg", False)),
    _w("class", "[a-]", ("-", True), ("b", False)),
    _w("class", "[-a]", ("-", True)),
    _w("class", "[a^]", ("^", True)),
    _w("class", "[a.|*+?(){}$]", ("|", True), ("*", True), ("}", True), ("b", False)),
    _w("class", r"[\]\\\-\^]", ("]", True), ("\\", True), ("-", True), ("^", True)),
    _w("class", r"[\d.]", ("7", True), (".", True), ("d", False)),
    _w("class", r"[\w-]", ("-", True), ("b", True)),
    _w("class", r"[a-c-e]", ("-", True), ("d", False)),
    _w("class", r"[\n\t]", ("\n", True)),
    _w("class", "[ab c]", (" ", True)),
    _w("class", "[[]", ("[", True)),
    _w("class", "[[a]", ("[", True)),
    _w("class", "[a/]", ("/", True)),
    _w("class", "[#&~]", ("&", True)),
    _w("bracket-first", "[]a]", ("]", True), ("a", True), ("]a", False), ("a]", False)),
    _w("bracket-first", "[^]a]", ("b", True), ("]", False)),
    _w("backspace", r"[\b]", ("\b", True)),
    _w("negated-class", "[^abc]", ("d", True), ("b", False), ("\n", True), ("🐦", True)),
    _w("digit", r"\d", ("7", True), ("x", False), ("٧", True), ("𝟘", True), ("²", False)),
    _w("digit", r"\D", ("x", True), ("7", False), ("٧", False), ("\n", True)),
    _w("digit", r"[\d]", ("٧", True)),
    _w("word", r"\w", ("a", True), ("_", True), ("-", False), ("é", True), ("ø", True), ("٧", True), ("²", True), ("ª", True), ("\u0301", False), ("字", True), ("🐦", False), ("Ⅻ", True), ("‿", False)),
    _w("word", r"\W", ("-", True), ("é", False), ("a", False)),
    _w("word", r"[\w]", ("é", True)),
    _w("space", r"\s", (" ", True), ("\t", True), ("\n", True), ("a", False), ("\x0b", True), ("\x0c", True), ("\xa0", True), ("\u2003", True), ("\u2028", True), ("\x85", True), ("\x1c", True), ("\ufeff", False), ("\u200b", False), ("\u180e", False)),
    _w("space", r"\S", ("a", True), ("\xa0", False)),
    _w("space", r"[\s]", ("\xa0", True)),
    _w("property", r"\p{L}", ("é", True), ("7", False)),
    _w("property", r"\P{L}", ("7", True), ("é", False)),
    _w("property", r"\p{Lu}", ("É", True), ("é", False)),
    _w("property", r"\pL", ("é", True)),
    _w("property", r"\p{Greek}", ("λ", True), ("l", False)),
    _w("property", r"\p{Script=Greek}", ("λ", True)),
    _w("property", r"\p{IsGreek}", ("λ", True)),
    _w("property", r"\p{Alphabetic}", ("é", True)),
    _w("property", r"\p{^L}", ("7", True)),
    _w("property", r"[\p{L}\d]", ("é", True), ("7", True)),
    _w("property", r"\p{IsAlphabetic}", ("é", True)),
    _w("property", r"\p{Uppercase_Letter}", ("É", True)),
    _w("horizontal-space", r"\h", ("\t", True), ("\n", False), ("h", False), ("\xa0", True)),
    _w("line-end", r"\R", ("\r\n", True), ("\n", True), ("\u2028", True), ("\x85", True), ("R", False)),
    _w("cluster", r"\X", ("e\u0301", True), ("X", True), ("🇸🇪", True)),
    _w("not-line-end", r"\N", ("a", True), ("\n", False)),
    _w("posix-class", "[[:alpha:]]", ("b", True), ("7", False), ("é", True), ("a]", False)),
    _w("posix-class", "[[:digit:][:space:]]", ("7", True), (" ", True), ("a", False)),
    _w("posix-class", "[[:^alpha:]]", ("7", True), ("b", False)),
    _w("posix-class", "[[:punct:]]", ("!", True), ("$", True), ("a", False)),
    _w("posix-class", "[[:word:]]", ("_", True)),
    _w("set-operation", "[a-z&&[^aeiou]]", ("b", True), ("e", False)),
    _w("set-operation", "[[a-z]&&[^aeiou]]", ("b", True), ("e", False)),
    _w("set-difference", "[[a-z]--[aeiou]]", ("b", True), ("e", False)),
    _w("set-difference", "[a-z--[aeiou]]", ("b", True), ("e", False)),
    _w("set-subtraction", "[a-z-[aeiou]]", ("b", True), ("e", False)),
    _w("star", "ab*", ("a", True), ("abbb", True), ("b", False)),
    _w("plus", "ab+", ("ab", True), ("a", False)),
    _w("optional", "ab?", ("a", True), ("ab", True), ("abb", False)),
    _w("bounds", "a{2}b{1,3}c{2,}", ("aabbcc", True), ("abcc", False), ("aabbbbcc", False)),
    _w("bounds", "a{0}b", ("b", True), ("ab", False)),
    _w("bounds", "a{2,2}", ("aa", True)),
    _w("bounds", "(?:a{2}){3}", ("aaaaaa", True)),
    _w("bounds", "a{1001}", ("a" * 1001, True)),
    _w("upper-bound", "a{,2}", ("", True), ("aa", True), ("aaa", False), ("a{,2}", False)),
    _w("lone-brace", "a{", ("a{", True)),
    _w("lone-brace", "a{x}", ("a{x}", True)),
    _w("lone-brace", "a{1", ("a{1", True)),
    _w("lone-brace", "a{1, 2}", ("a{1, 2}", True), ("aa", False)),
    _w("lone-brace", "a{}", ("a{}", True)),
    _a("lazy", '".+?"', ('"a" "b"', "0-3 4-7")),
    _a("lazy", "a{1,3}?", ("aaa", "0-1 1-2 2-3")),
    _a("lazy", "a??b", ("ab", "0-2")),
    _w("lazy", "(a+?)(a*)", ("aaa", "0-1,1-3")),
    _w("possessive", "a++b", ("aab", True)),
    _w("possessive", "a++a", ("aaa", False)),
    _w("possessive", "a?+a", ("a", False)),
    _w("possessive", "a{1,2}+a", ("aa", False)),
    _w("empty-turn", "(?:a*)*b", ("aab", True), ("b", True)),
    _w("empty-turn", "(a*)*b", ("aab", "2-2")),
    _w("empty-turn", "(a|)+b", ("ab", "1-1")),
    _w("empty-turn", "(a*)+", ("", "0-0")),
    _w("empty-turn", "(?:(a)|b)*", ("ab", "0-1")),
    _w("empty-turn", "(){0,2}", ("", "0-0")),
    _w("empty-turn", "a?()*", ("a", "1-1")),
    _w("empty-turn", "(a*?){2}", ("aa", "0-2")),
    _a("empty-turn", "(a+|){2}^", ("aa", "0-0,0-0")),
    _a("text-start", "^a", ("ab\na", "0-1")),
    _a("text-start", "b^a", ("ba", "")),
    _a("text-start", "(?:^a|b)c", ("acbc", "0-2 2-4")),
    _a("dollar", "a$", ("a", "0-1"), ("a\n", "0-1"), ("a\nb", ""), ("a\r\n", ""), ("a\r", ""), ("a\u2028", ""), ("a\n\n", "")),
    _w("dollar", "a$", ("a", True), ("a\n", False)),
    _a("absolute-start", r"\Aa", ("ab\na", "0-1")),
    _a("absolute-start", r"\Aa", ("ab\na", "0-1"), flags="m"),
    _a("absolute-end", r"a\Z", ("a", "0-1"), ("a\n", ""), ("ab", "")),
    _a("very-end", r"a\z", ("a", "0-1"), ("a\n", ""), ("az", "")),
    _a("boundary", r"\bin\b", ("in the inn", "0-2"), ("in-in", "0-2 3-5")),
    _a("boundary", r"\b", ("é", "0-0 1-1"), ("a", "0-0 1-1"), ("", ""), ("٧", "0-0 1-1")),
    _a("boundary", r"\bø", ("ø", "0-1"), ("eø", "")),
    _a("boundary", r"\B", ("ab", "1-1"), ("é", "")),
    _a("boundary", r"\Ba\B", ("bab", "1-2")),
    _a("word-start", r"\<in", ("in inn bin", "0-2 3-5"), ("<in", "1-3")),
    _a("word-end", r"in\>", ("in inn bin", "0-2 8-10")),
    _a("last-match-end", r"\Ga", ("aab", "0-1 1-2"), ("ba", "")),
    _a("keep-out", r"a\Kb", ("ab", "1-2"), ("aKb", "")),
    _w("capture", "(a)(b(c))", ("abc", "0-1,1-3,2-3")),
    _w("capture", "((a)|(b))", ("b", "0-1,-,0-1")),
    _w("capture", "()a", ("a", "0-0")),
    _w("named", "(?P<row>[A-F])x", ("Bx", "0-1")),
    _w("named-angle", "(?<row>[A-F])x", ("Bx", "0-1")),
    _w("named-angle", "(?<row>a)(b)", ("ab", "0-1,1-2")),
    _w("named-angle", "(?<row_1>a)", ("a", "0-1")),
    _w("named-angle", "(?<row-1>a)", ("a", "refused")),
    _w("named-quote", "(?'row'[A-F])x", ("Bx", "0-1")),
    _w("duplicate-name", "(?<n>a)|(?<n>b)", ("b", "-,0-1")),
    _w("plain", "(?:ab)+", ("abab", True)),
    _a("alternation", "in|inn", ("inn", "0-2"), ("out", "")),
    _w("alternation", "in|inn", ("inn", True)),
    _a("alternation", "inn|in", ("inn", "0-3")),
    _a("alternation", "(?:a|ab)(?:c|bcd)", ("abcd", "0-4")),
    _a("alternation", "(a|ab)(c|bcd)(d*)", ("abcd", "0-4,0-1,1-4,4-4")),
    _w("alternation", "a||b", ("", True), ("b", True)),
    _w("alternation", "(|a)", ("a", "0-1"), ("", "0-0")),
    _w("backreference", r"(a|b)\1", ("aa", "0-1"), ("ab", "")),
    _w("backreference", r"(a)\1{2}", ("aaa", "0-1")),
    _w("backreference", r"(a)(?:\1)1", ("aa1", "0-1")),
    _w("backreference", r"(a)(b)(c)(d)(e)(f)(g)(h)(i)(j)\10", ("abcdefghijj", "0-1,1-2,2-3,3-4,4-5,5-6,6-7,7-8,8-9,9-10")),
    _w("backreference", r"(a)\1", ("aA", "0-1"), flags="i"),
    _w("unset-reference", r"(a)?\1b", ("b", False), ("aab", "0-1")),
    _w("unset-reference", r"(?:(a)|b)\1", ("b", False), ("aa", "0-1")),
    _w("last-turn", "(a|b)*", ("ab", "1-2"), ("", "-")),
    _w("last-turn", "(?:(a)|(b))*", ("ab", "0-1,1-2")),
    _w("last-turn", "(?:(a)?b)*", ("abb", "0-1")),
    _w("last-turn", "((a)|b)*", ("ab", "1-2,0-1")),
    _w("python-reference", "(?P<c>a|b)(?P=c)", ("bb", "0-1"), ("ab", "")),
    _w("named-reference", r"(?<c>a|b)\k<c>", ("bb", "0-1"), ("ab", "")),
    _w("named-reference", r"(?<c>a|b)\k{c}", ("bb", "0-1")),
    _w("group-by-letter", r"(a|b)\g{1}", ("bb", "0-1")),
    _w("group-by-letter", r"(a|b)\g{-1}", ("bb", "0-1")),
    _w("atomic", "(?>a+)b", ("aab", True)),
    _w("atomic", "(?>a+)a", ("aa", False)),
    _w("atomic", "(?>a|ab)c", ("abc", False)),
    _w("branch-reset", "(?|(a)|(b))", ("b", "0-1")),
    _w("recursion", r"\((?R)?\)", ("(())", True), ("(()", False)),
    _w("recursion", r"(\((?1)?\))", ("(())", "0-4")),
    _w("conditional", r"(<)?a(?(1)>|b)", ("<a>", "0-1"), ("ab", "-"), ("<ab", "")),
    _w("comment", "a(?#row)b", ("ab", True)),
    _a("look-ahead", r"a(?=b)", ("ab ac", "0-1")),
    _a("look-ahead", r"a(?!b)", ("ab ac", "3-4")),
    _w("look-ahead", r"(?=(a+))a*b", ("aab", "0-2")),
    _w("look-ahead", r"(?!(a))b", ("b", "-")),
    _w("look-ahead", r"(?=a)*b", ("b", True)),
    _a("look-behind", "(?<=a)b", ("ab cb", "1-2")),
    _a("look-behind", "(?<!a)b", ("ab cb", "4-5")),
    _a("look-behind", r"(?<=\b)b", ("b", "0-1")),
    _a("look-behind", "(?<=(a))b", ("ab", "1-2,0-1")),
    _a("look-behind", "(?<=ab|cd)e", ("abe", "2-3")),
    _a("look-behind-width", "(?<=a|bc)d", ("bcd", "2-3")),
    _a("look-behind-width", "(?<=a{1,3}b)c", ("aabc", "3-4")),
    _a("look-behind-width", "(?<=a+b)c", ("aabc", "3-4")),
    _w("flags", "(?i)ab", ("AB", True), ("ac", False)),
    _w("flags", "(?is)a.b", ("A\nB", True)),
    _w("flags", "a|(?i)b", ("B", "refused")),
    _w("flags", "(?u)a", ("a", True)),
    _w("flags-further-on", "a(?i)b", ("aB", True), ("AB", False)),
    _w("flags-further-on", "(a(?i)b)c", ("aBc", "0-2"), ("aBC", "")),
    _w("scoped-flags", "(?i:a)b", ("Ab", True), ("AB", False)),
    _w("scoped-flags", "(?-i:a)b", ("aB", True), ("AB", False), flags="i"),
    _w("scoped-flags", "(?s:.).", ("\na", True), ("a\n", False)),
    _w("ignore-case", "b07", ("B07", True), ("b07", True), flags="i"),
    _w("ignore-case", "[a-f]", ("B", True), ("G", False), flags="i"),
    _w("ignore-case", "[^a-f]", ("B", False), flags="i"),
    _a("multiline", "^b$", ("a\nb\nc", "2-3"), ("a\r\nb\r\nc", ""), ("b\n", "0-1"), ("a\u2028b\u2028c", ""), flags="m"),
    _a("multiline", "^", ("a\n", "0-0 2-2"), ("\n", "0-0 1-1"), flags="m"),
    _a("multiline", "$", ("a\n", "1-1 2-2"), flags="m"),
    _w("dotall", "a.b", ("a\nb", True), ("a\r\nb", False), flags="s"),
    _w("verbose", "a b # plot", ("ab", True), ("a b", False), flags="x"),
    _w("verbose", r"a\ b", ("a b", True), flags="x"),
    _w("verbose", "[a b]", (" ", True), ("a", True), flags="x"),
    _w("verbose", "[#]", ("#", True), flags="x"),
    _w("verbose", "a {2}", ("aa", True), flags="x"),
    _w("verbose", "a\xa0b", ("a\xa0b", True), flags="x"),
    _w("ascii", r"\d", ("7", True), ("٧", False), flags="a"),
    _w("ascii", r"\w\s", ("a ", True), ("é ", False), ("a\xa0", False), flags="a"),
    _a("ascii", r"\b", ("é", ""), flags="a"),
    _w("ascii", r"(?a)\d", ("7", True), ("٧", False)),
    _a("several-matches", "ab?", ("abaab", "0-2 2-3 3-5")),
    _a("several-matches", "aa", ("aaa", "0-2")),
    _a("empty-match", "a*", ("ba", "0-0 1-2 2-2"), ("", "0-0"), ("aab", "0-2 2-2 3-3")),
    _a("empty-match", "a*?", ("a", "0-0 0-1 1-1")),
    _a("empty-match", "a|", ("ba", "0-0 1-2 2-2")),
    _a("empty-match", r"\b|a", ("a", "0-0 0-1 1-1")),
    _a("empty-match", "(?=a)", ("aa", "0-0 1-1")),
    _a("empty-match", "", ("🐦", "0-0 1-1")),
    _w("astral", ".", ("🐦", True)),
    _w("astral", "🐦+", ("🐦🐦", True)),
    _w("astral", "[🐦🦉]", ("🦉", True)),
    _w("astral", "[🐦-🦉]", ("🐨", True)),
    _w("astral", r"\W", ("🐦", True)),
    _w("astral", "[^a]", ("🐦", True)),
    _w("astral", ".{2}", ("🐦🦉", True)),
    _a("astral", "b", ("🐦b🐦b", "1-2 3-4")),
    _w("astral", "(.)(.)", ("🐦b", "0-1,1-2")),
    _w("astral", "𐐀", ("𐐨", True), flags="i"),
    _w("folding", "k", ("K", True), ("\u212a", True), flags="i"),
    _w("folding", "s", ("S", True), ("ſ", True), flags="i"),
    _w("folding", "é", ("É", True), flags="i"),
    _w("folding", "ß", ("ẞ", True), ("ss", False), ("SS", False), flags="i"),
    _w("folding", "ss", ("ß", False), flags="i"),
    _w("folding", "i", ("İ", True), ("ı", True), ("I", True), flags="i"),
    _w("folding", "İ", ("i", True), ("i\u0307", False), flags="i"),
    _w("folding", "ı", ("I", True), flags="i"),
    _w("folding", "σ", ("Σ", True), ("ς", True), flags="i"),
    _w("folding", "[a-z]", ("\u212a", True), ("ſ", True), flags="i"),
    _w("folding", "[^k]", ("\u212a", False), flags="i"),
    _w("folding", r"\W", ("\u212a", False), flags="i"),
    _w("folding", "ǆ", ("ǅ", True), ("Ǆ", True), flags="i"),
    _w("folding", "ﬀ", ("ff", False), flags="i"),
    _w("folding", "ａ", ("Ａ", True), flags="i"),
    _w("folding", "k", ("\u212a", False), ("K", True), flags="ia"),
)
# fmt: on

PROBES: tuple[Probe, ...] = tuple(probe for several in _PROBES for probe in several)


class Readings(Struct, frozen=True):
    """What engines made of the probes: the version that each had, and by probe its reading of each engine."""

    versions: Mapping[str, str]
    by_probe: Mapping[str, Mapping[str, str]]


@cache
def readings() -> Readings:
    """Return what is recorded of every engine."""
    data = json.loads(files("fieldstick.syntax").joinpath("readings.json").read_text("utf-8"))
    return Readings(data["versions"], data["probes"])


def reads_as_expected(probe: Probe, engine: str) -> bool | None:
    """Tell whether an engine reads a probe as expected; None where that is not known, or cannot be asked of it."""
    found = readings().by_probe.get(probe.key, {}).get(engine)
    if found is None:
        return None
    if engine in YES_OR_NO and found not in ("refused", "failed"):
        return bool(found) == bool(probe.expected) if probe.expected != "refused" else False
    return found == probe.expected


@cache
def probes_of(construct: str) -> tuple[Probe, ...]:
    """Return the probes of a construct, the one that decides whether an engine has it first."""
    return tuple(each for each in PROBES if each.construct == construct)


@cache
def standing(construct: str, engine: str) -> Standing:
    """Tell how an engine stands to a construct."""
    found = [(each, reads_as_expected(each, engine)) for each in probes_of(construct)]
    known = [(each, as_expected) for each, as_expected in found if as_expected is not None]
    if not known:
        return "unknown"
    first, has = known[0]
    if has:
        return "has" if all(as_expected for _, as_expected in known) else "differs"
    return "lacks" if readings().by_probe[first.key][engine] in ("refused", "failed") else "otherwise"


@cache
def differing(construct: str, engine: str) -> tuple[Probe, ...]:
    """Return the probes of a construct that an engine reads otherwise."""
    return tuple(each for each in probes_of(construct) if reads_as_expected(each, engine) is False)


def difference_words(probe: Probe, reading: str) -> str:
    """Say how an engine reads a probe that is meant otherwise."""
    flags = f" with {probe.flags}" if probe.flags else ""
    shown = f"{probe.expression}{flags}"
    text = repr(probe.text) if probe.text.isprintable() else ascii(probe.text)
    if reading == "refused":
        return f"refuse {shown}"
    if reading == "failed":
        return f"break down on {text} with {shown}"
    verb = "fits" if probe.reach == "whole" else "matches in"
    if not reading:
        return f"{shown} {'does not fit' if probe.reach == 'whole' else 'matches nowhere in'} {text}"
    if not probe.expected or probe.expected == "refused":
        return f"{shown} {verb} {text}"
    return f"{shown} {verb} {text} at {reading}, where {probe.expected} is meant"
