"""Constructs of expression notation: the one table everything asks.

`notation` prints it, the parser refuses by it; `probes` find out which engines have each, and how they read it.
"""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from msgspec import Struct

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable


class Construct(Struct, frozen=True):
    """One construct: how it is written, what it means, an example. Which engines have it, `probes` tell.

    `example` is an expression that is drawn on `text`, where Python's engine has the construct.
    """

    key: str
    topic: str
    form: str
    meaning: str
    example: str = ""
    text: str = ""
    instead: str = ""
    """What Python's engine has in its place, when it does not have it."""

    words: str = ""
    """Further words that it is looked up by."""


def _c(
    key: str, topic: str, form: str, meaning: str, example: str, text: str, instead: str = "", *, words: str = ""
) -> Construct:
    return Construct(key, topic, form, meaning, example, text, instead, words)


# fmt: off
CONSTRUCTS: tuple[Construct, ...] = (
    _c("literal", "characters", "a", "the character itself", "plot", "the plot B07"),
    _c("escaped", "characters", r"\. \* \[", "a character that means something else, as itself", r"3\.5", "3.5 or 315"),
    _c("dot", "characters", ".", "any character but a line feed; with dotall, that too", "B.7", "B07 B-7", words="any"),
    _c("control", "characters", r"\n \t \r", "line feed, tab, carriage return", r"\t", "a\tb"),
    _c("hex", "characters", r"\x41", "the character with this code, two hexadecimal digits", r"\xb0", "54°12′"),
    _c("unicode", "characters", r"\u2032", "the character with this code, four hexadecimal digits", r"\u2032", "54°12′"),
    _c("octal", "characters", r"\101 \07", "the character with this code, up to three octal digits", r"\101", "A07"),
    _c("braced-unicode", "characters", r"\u{2032}", "the character with this code", r"\u{2032}", "54°12′", r"\u2032 or \U0001F426"),
    _c("unicode-name", "characters", r"\N{DEGREE SIGN}", "the character with this name", r"\N{DEGREE SIGN}", "54°12′"),
    _c("braced-code", "characters", r"\x{2032}", "the character with this code", r"\x{2032}", "54°12′", r"\u2032 or \U0001F426"),
    _c("escape-character", "characters", r"\e", "the escape character, code 1B", r"\e", "", r"\x1b"),
    _c("quoted-run", "characters", r"\Q...\E", "everything between as itself", r"\Qa.b\E", "a.b", "a backslash before each special character, or a parameter {{=name}}"),
    _c("class", "classes", "[abc] [a-f]", "one of these characters, or of this range", "[A-F]", "B07 G07", words="[ ] range set"),
    _c("bracket-first", "classes", "[]a] [^]a]", "a closing bracket in the first place is itself", "[]a]", "a]b"),
    _c("backspace", "classes", r"[\b]", "in a class, the backspace character", r"[\b]", "a\x08b"),
    _c("negated-class", "classes", "[^abc]", "one character that is none of these", "[^ ]", "a b", words="[^ not"),
    _c("digit", "classes", r"\d \D", "a digit of any alphabet; anything but one", r"\d\d", "B07", words="number"),
    _c("word", "classes", r"\w \W", "a letter or digit of any alphabet, or _; anything but one", r"\w", "ø-7", words="letter"),
    _c("space", "classes", r"\s \S", "a blank, tab, line end or other space; anything but one", r"\s", "a b", words="blank white"),
    _c("property", "classes", r"\p{L} \P{L}", "a character with this Unicode property; one without", r"\p{L}", "Møse 7", r"[^\W\d_] is a letter"),
    _c("horizontal-space", "classes", r"\h", "a blank, tab, no-break or other space that ends no line", r"\h", "a\tb", r"[^\S\n\v\f\r\x85\u2028\u2029]"),
    _c("line-end", "classes", r"\R", "a line end of any kind: CR LF as one, LF, VT, FF, CR, U+0085, U+2028, U+2029", r"\R", "a\nb", r"(?:\r\n|[\n\v\f\r\x85\u2028\u2029])"),
    _c("cluster", "classes", r"\X", "a character with its combining marks", r"\X", "é"),
    _c("not-line-end", "classes", r"\N", "anything but a line feed, whatever the flags", r"\N", "a\nb", r"[^\n]"),
    _c("posix-class", "classes", "[[:alpha:]]", "a letter, and so on by name", "[[:alpha:]]", "a7", r"[^\W\d_], \d, \s and their like"),
    _c("set-operation", "classes", "[a-z&&[^aeiou]]", "what is in both classes", "[a-z&&[^aeiou]]", "owl", "(?![aeiou])[a-z]", words="&& intersection"),
    _c("set-difference", "classes", "[a-z--[aeiou]]", "what is in the first class alone", "[a-z--[aeiou]]", "owl", "(?![aeiou])[a-z]", words="--"),
    _c("set-subtraction", "classes", "[a-z-[aeiou]]", "what is in the first class alone", "[a-z-[aeiou]]", "owl", "(?![aeiou])[a-z]"),
    _c("star", "quantifiers", "a*", "any number, as many as possible", r"\d*", "B07", words="* greedy many"),
    _c("plus", "quantifiers", "a+", "one or more, as many as possible", r"\d+", "B07", words="+ greedy"),
    _c("optional", "quantifiers", "a?", "one or none, one if possible", "B-?07", "B07 B-07", words="? greedy"),
    _c("bounds", "quantifiers", "a{2} a{2,4} a{2,}", "exactly 2; 2 to 4; 2 or more", r"\d{2,3}", "7 07 0071", words="{2} {2,4} {2,} { } {n} {n,m} greedy times"),
    _c("upper-bound", "quantifiers", "a{,4}", "at most 4", r"\d{,2}%", "7% 07%", words="{,4} {,n}"),
    _c("lazy", "quantifiers", "a*? a+? a??", "as few as possible", '".+?"', '"a" "b"', words="*? +? ?? reluctant few"),
    _c("possessive", "quantifiers", "a*+ a++ a?+", "as many as possible, and none is given back", r"\d++", "007", words="*+ ++ ?+"),
    _c("text-start", "anchors", "^", "the start of the text; with multiline, of a line", "^B", "B07 B08", words="begin"),
    _c("dollar", "anchors", "$", "the end of the text or before a line feed that ends it; with multiline, the end of a line", "7$", "B07 C07", words="end"),
    _c("absolute-start", "anchors", r"\A", "the start of the text", r"\AB", "B07 B08"),
    _c("absolute-end", "anchors", r"\Z", "the very end of the text", r"7\Z", "B07 C07"),
    _c("very-end", "anchors", r"\z", "the very end of the text", r"7\z", "B07", r"\Z"),
    _c("boundary", "anchors", r"\b \B", "between a word character and none; anywhere else", r"\bin\b", "in the inn", words="edge"),
    _c("word-start", "anchors", r"\<", "the start of a word", r"\<in", "in", r"\b(?=\w)"),
    _c("word-end", "anchors", r"\>", "the end of a word", r"in\>", "in", r"\b(?<=\w)"),
    _c("last-match-end", "anchors", r"\G", "where the match before ended", r"\G\d", "07"),
    _c("keep-out", "anchors", r"\K", "what came before is left out of the match", r"B\K\d", "B07", "(?<=...)"),
    _c("capture", "groups", "(a)", "a capture group, numbered by its opening parenthesis", r"([A-F])(\d+)", "B07", words="( ) group"),
    _c("named", "groups", "(?P<name>a)", "a capture group with a name", r"(?P<row>[A-F])\d+", "B07"),
    _c("named-angle", "groups", "(?<name>a)", "a capture group with a name", "(?<row>[A-F])", "B07", "(?P<name>a)"),
    _c("named-quote", "groups", "(?'name'a)", "a capture group with a name", "(?'row'[A-F])", "B07", "(?P<name>a)"),
    _c("plain", "groups", "(?:a)", "a group that captures nothing", "(?:B|C)07", "C07", words="(?:"),
    _c("alternation", "groups", "a|b", "the first option that leads to a match", "in|out", "going out", words="| or"),
    _c("backreference", "groups", r"\1", "what group 1 captured, once more", r"(\w)\1", "moss", words="reference"),
    _c("python-reference", "groups", "(?P=name)", "what the group captured, once more", r"(?P<c>\w)(?P=c)", "moss"),
    _c("named-reference", "groups", r"\k<name>", "what the group captured, once more", r"(?<c>\w)\k<c>", "moss", "(?P=name)"),
    _c("group-by-letter", "groups", r"\g{1}", "what group 1 captured, once more", r"(\w)\g{1}", "moss", r"\1"),
    _c("atomic", "groups", "(?>a)", "a group that gives nothing back", r"(?>\d+)%", "31% 7", words="(?>"),
    _c("branch-reset", "groups", "(?|a|b)", "options that number their groups alike", "(?|(a)|(b))", "b"),
    _c("recursion", "groups", "(?R) (?1) (?&name)", "the whole expression, or a group's, once more", r"\((?R)?\)", "(())"),
    _c("conditional", "groups", "(?(1)a|b)", "a if group 1 took part, else b", r"(<)?\w+(?(1)>)", "<a> b"),
    _c("comment", "groups", "(?#...)", "a comment", r"B(?#row)\d+", "B07"),
    _c("look-ahead", "look-around", "(?=a) (?!a)", "if a follows; if it does not", r"\d+(?=%)", "8.2C 31%", words="(?= (?! lookahead followed"),
    _c("look-behind", "look-around", "(?<=a) (?<!a)", "if a stands before; if it does not", r"(?<==)\w+", "probe=B07", words="(?<= (?<! lookbehind preceded"),
    _c("look-behind-width", "look-around", "(?<=a+) (?<=a|bc)", "if text of no one length stands before", "(?<=a|bc)d", "bcd", "(?:(?<=a)|(?<=bc))d"),
    _c("flags", "flags", "(?i) (?im)", "flags for the whole expression; here only at its start", "(?i)stoat", "Stoat"),
    _c("flags-further-on", "flags", "a(?i)b", "flags from there on", "a(?i)b", "aB", "a(?i:b)"),
    _c("scoped-flags", "flags", "(?i:a) (?-i:a)", "flags on or off within the group", "(?i:st)oat", "STOAT SToat"),
    _c("ignore-case", "flags", "i", "capitals and small letters are one", "(?i)b07", "B07", words="case"),
    _c("multiline", "flags", "m", "^ and $ stand at every line, which a line feed ends", "(?m)^b", "a\nb"),
    _c("dotall", "flags", "s", "the dot takes line feeds too", "(?s)a.b", "a\nb"),
    _c("verbose", "flags", "x", "blanks and # comments in the expression are left out", r"(?x) B \d+ # plot", "B07"),
    _c("ascii", "flags", "a", r"\w, \d, \s and \b know ASCII alone", r"(?a)\d", "٧7"),
    _c("lone-brace", "quantifiers", "a{ a{x}", "a brace that opens no bounds is itself", "a{x}", "a{x}"),
    _c("empty-turn", "quantifiers", "(a*)*", "a turn that takes nothing ends the repeat", "(?:B*)*7", "BB7"),
    _c("unset-reference", "groups", r"(a)?\1", "a reference to a group that took no part fits nothing", r"(B)?\1", "BB"),
    _c("last-turn", "groups", "(a|b)*", "a group in a repeat keeps what its last turn captured", "(?:([A-F])|([0-9]))+", "B7"),
    _c("duplicate-name", "groups", "(?<n>a)|(?<n>b)", "two groups of one name, in options that exclude each other", "(?<n>a)|(?<n>b)", "b", "two names"),
    _c("several-matches", "matching", "a a", "matches are found one after the other, none overlapping", "[ab]b?", "abb"),
    _c("empty-match", "matching", "a*", "a match of nothing counts too, wherever one can stand", "B*", "AB7"),
    _c("astral", "matching", "\U0001f426", "a character beyond U+FFFF is one character", ".", "\U0001f4267"),
    _c("folding", "matching", "ſ K İ ß", "without regard to case, letters of any alphabet meet their other case", "(?i)k", "K K"),
)
# fmt: on


def looked_up(word: str, constructs: Iterable[Construct] = CONSTRUCTS) -> list[Construct]:
    """Return the constructs that a topic, a key, a piece of notation or a word stands for, the nearest kind first."""
    known = list(constructs)
    kinds: tuple[Callable[[Construct], bool], ...] = (
        lambda each: word in (each.topic, each.key),
        lambda each: word in each.form.split() or word in each.words.split(),
        lambda each: (
            word.lower() in re.findall(r"[a-z]+", f"{each.key} {each.topic} {each.meaning} {each.words}".lower())
        ),
        lambda each: len(word) > 1 and any(word in form for form in each.form.split()),
    )
    return next((found for kind in kinds if (found := [each for each in known if kind(each)])), [])


BY_KEY = {construct.key: construct for construct in CONSTRUCTS}
TOPICS = tuple(dict.fromkeys(construct.topic for construct in CONSTRUCTS))
