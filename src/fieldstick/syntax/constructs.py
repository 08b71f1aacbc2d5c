"""Constructs of expression notation, and the engines that have each: the one table everything asks.

`notation` prints it, the parser refuses by it, and what hands a pattern over to another engine will read it.
"""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from msgspec import Struct

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Mapping

ENGINES = ("python", "pcre2", "javascript", "java", "re2", "rust", "dotnet")
"""Engines in wide use whose notation the table knows; not all of them are run here."""


class Construct(Struct, frozen=True):
    """One construct: how it is written, what it means, an example, and the engines that have it.

    `example` is an expression that Python's engine reads when it is among `engines`, else one for show;
    `text` is what it is drawn on.
    """

    key: str
    topic: str
    form: str
    meaning: str
    engines: frozenset[str]
    example: str = ""
    text: str = ""
    instead: str = ""
    """What Python's engine has in its place, when it does not have it."""

    otherwise: Mapping[str, str] = {}
    """What the same notation means in an engine that reads it otherwise, whether or not it has this construct."""

    words: str = ""
    """Further words that it is looked up by."""


def _c(
    key: str,
    topic: str,
    form: str,
    meaning: str,
    engines: str,
    example: str,
    text: str,
    instead: str = "",
    words: str = "",
    **otherwise: str,
) -> Construct:
    """Make a construct; `engines` are names, `all`, or `all but` names; `otherwise` is by engine."""
    named = frozenset(engines.removeprefix("all but").split())
    everywhere = engines.startswith("all")
    chosen = frozenset(ENGINES) - (named - {"all"}) if everywhere else named
    return Construct(key, topic, form, meaning, chosen, example, text, instead, otherwise, words)


# fmt: off
CONSTRUCTS: tuple[Construct, ...] = (
    _c("literal", "characters", "a", "the character itself", "all", "plot", "the plot B07"),
    _c("escaped", "characters", r"\. \* \[", "a character that means something else, as itself", "all", r"3\.5", "3.5 or 315"),
    _c("dot", "characters", ".", "any character but a line feed; with dotall, that too", "all", "B.7", "B07 B-7", words="any",
       javascript="a carriage return, U+2028 and U+2029 are left out too", java="a carriage return, U+0085, U+2028 and U+2029 are left out too"),
    _c("control", "characters", r"\n \t \r", "line feed, tab, carriage return", "all", r"\t", "a\tb"),
    _c("hex", "characters", r"\x41", "the character with this code, two hexadecimal digits", "all", r"\xb0", "54°12′"),
    _c("unicode", "characters", r"\u2032", "the character with this code, four hexadecimal digits", "all but pcre2 re2", r"\u2032", "54°12′"),
    _c("octal", "characters", r"\101 \07", "the character with this code, up to three octal digits", "python pcre2 javascript re2 dotnet", r"\101", "A07",
       javascript="only without the flag u", java="a reference to a group; octal codes begin with \\0 there", rust="refused"),
    _c("braced-unicode", "characters", r"\u{2032}", "the character with this code", "javascript rust", r"\u{2032}", "54°12′", r"\u2032 or \U0001F426",
       javascript="only with the flag u or v"),
    _c("unicode-name", "characters", r"\N{DEGREE SIGN}", "the character with this name", "python java", r"\N{DEGREE SIGN}", "54°12′"),
    _c("braced-code", "characters", r"\x{2032}", "the character with this code", "pcre2 java re2 rust", r"\x{2032}", "54°12′", r"\u2032 or \U0001F426"),
    _c("escape-character", "characters", r"\e", "the escape character, code 1B", "pcre2 java dotnet", r"\e", "", r"\x1b"),
    _c("quoted-run", "characters", r"\Q...\E", "everything between as itself", "pcre2 java re2", r"\Qa.b\E", "a.b", "a backslash before each special character, or a parameter {{=name}}"),
    _c("class", "classes", "[abc] [a-f]", "one of these characters, or of this range", "all", "[A-F]", "B07 G07", words="[ ] range set"),
    _c("bracket-first", "classes", "[]a] [^]a]", "a closing bracket in the first place is itself", "all but javascript", "[]a]", "a]b",
       javascript="an empty class, which nothing fits, then a]"),
    _c("backspace", "classes", r"[\b]", "in a class, the backspace character", "python pcre2 javascript dotnet", r"[\b]", "a\bb"),
    _c("negated-class", "classes", "[^abc]", "one character that is none of these", "all", "[^ ]", "a b", words="[^ not"),
    _c("digit", "classes", r"\d \D", "a digit of any alphabet; anything but one", "all", r"\d\d", "B07", words="number",
       javascript="0 to 9 alone", java="0 to 9 alone", re2="0 to 9 alone", pcre2="0 to 9 alone, unless it is told to know Unicode"),
    _c("word", "classes", r"\w \W", "a letter or digit of any alphabet, or _; anything but one", "all", r"\w", "ø-7", words="letter",
       javascript="ASCII alone", java="ASCII alone", re2="ASCII alone", pcre2="ASCII alone, unless it is told to know Unicode"),
    _c("space", "classes", r"\s \S", "a blank, tab, line end or other space; anything but one", "all", r"\s", "a b", words="blank white",
       java="of ASCII alone: no no-break space", re2="of ASCII alone, and no vertical tab", pcre2="of ASCII alone, unless it is told to know Unicode"),
    _c("property", "classes", r"\p{L} \P{L}", "a character with this Unicode property; one without", "all but python", r"\p{L}", "Møse 7", r"[^\W\d_] is a letter",
       javascript="only with the flag u or v", dotnet="by short names and blocks, as \\p{IsGreek}; no scripts", java="scripts are \\p{IsGreek}"),
    _c("horizontal-space", "classes", r"\h", "a blank, tab, no-break or other space that ends no line", "pcre2 java", r"\h", "a\tb", r"[^\S\n\v\f\r\x85\u2028\u2029]"),
    _c("line-end", "classes", r"\R", "a line end of any kind: CR LF as one, LF, VT, FF, CR, U+0085, U+2028, U+2029", "pcre2 java", r"\R", "a\nb", r"(?:\r\n|[\n\v\f\r\x85\u2028\u2029])"),
    _c("cluster", "classes", r"\X", "a character with its combining marks", "pcre2 java", r"\X", "é"),
    _c("not-line-end", "classes", r"\N", "anything but a line feed, whatever the flags", "pcre2", r"\N", "a\nb", r"[^\n]"),
    _c("posix-class", "classes", "[[:alpha:]]", "a letter, and so on by name", "pcre2 re2 rust", "[[:alpha:]]", "a7", r"[^\W\d_], \d, \s and their like",
       python="a class of these very characters, then ]", javascript="a class of these very characters, then ]", java="these very characters", dotnet="a class of these very characters, then ]",
       re2="ASCII alone", rust="ASCII alone"),
    _c("set-operation", "classes", "[a-z&&[^aeiou]]", "what is in both classes", "java rust javascript", "[a-z&&[^aeiou]]", "owl", "(?![aeiou])[a-z]", words="&& intersection",
       javascript="only with the flag v, each range in brackets of its own: [[a-z]&&[^aeiou]]", python="the class ends at its first ]", pcre2="the class ends at its first ]",
       re2="the class ends at its first ]", dotnet="the class ends at its first ]"),
    _c("set-difference", "classes", "[a-z--[aeiou]]", "what is in the first class alone", "rust javascript dotnet", "[a-z--[aeiou]]", "owl", "(?![aeiou])[a-z]", words="--",
       javascript="only with the flag v, each range in brackets of its own: [[a-z]--[aeiou]]", dotnet="[a-z-[aeiou]] is usual there", java="these very characters",
       python="the class ends at its first ]", pcre2="the class ends at its first ]", re2="the class ends at its first ]"),
    _c("set-subtraction", "classes", "[a-z-[aeiou]]", "what is in the first class alone", "dotnet", "[a-z-[aeiou]]", "owl", "(?![aeiou])[a-z]",
       java="one class beside another: all of both", rust="one class beside another: all of both", python="the class ends at its first ]", pcre2="the class ends at its first ]"),
    _c("star", "quantifiers", "a*", "any number, as many as possible", "all", r"\d*", "B07", words="* greedy many"),
    _c("plus", "quantifiers", "a+", "one or more, as many as possible", "all", r"\d+", "B07", words="+ greedy"),
    _c("optional", "quantifiers", "a?", "one or none, one if possible", "all", "B-?07", "B07 B-07", words="? greedy"),
    _c("bounds", "quantifiers", "a{2} a{2,4} a{2,}", "exactly 2; 2 to 4; 2 or more", "all", r"\d{2,3}", "7 07 0071", words="{2} {2,4} {2,} { } {n} {n,m} greedy times"),
    _c("upper-bound", "quantifiers", "a{,4}", "at most 4", "python", r"\d{,2}%", "7% 07%", words="{,4} {,n}",
       pcre2="these very characters, before version 10.43", javascript="these very characters, or refused with the flag u", re2="these very characters", dotnet="these very characters",
       java="refused", rust="refused"),
    _c("lazy", "quantifiers", "a*? a+? a??", "as few as possible", "all", '".+?"', '"a" "b"', words="*? +? ?? reluctant few"),
    _c("possessive", "quantifiers", "a*+ a++ a?+", "as many as possible, and none is given back", "python pcre2 java", r"\d++", "007", words="*+ ++ ?+",
       rust="a repeat of a repeat, which gives back"),
    _c("text-start", "anchors", "^", "the start of the text; with multiline, of a line", "all", "^B", "B07 B08", words="begin"),
    _c("dollar", "anchors", "$", "the end of the text or before a line feed that ends it; with multiline, the end of a line", "all", "7$", "B07 C07", words="end",
       javascript="the very end of the text", re2="the very end of the text", rust="the very end of the text", java="also before CR LF, CR, U+0085, U+2028 or U+2029 that ends it"),
    _c("absolute-start", "anchors", r"\A", "the start of the text", "all but javascript", r"\AB", "B07 B08"),
    _c("absolute-end", "anchors", r"\Z", "the very end of the text", "python pcre2 java dotnet", r"7\Z", "B07 C07",
       pcre2="also before a line feed that ends it", java="also before a line end that ends it", dotnet="also before a line feed that ends it"),
    _c("very-end", "anchors", r"\z", "the very end of the text", "all but python javascript", r"7\z", "B07", r"\Z"),
    _c("boundary", "anchors", r"\b \B", "between a word character and none; anywhere else", "all", r"\bin\b", "in the inn", words="edge",
       javascript="by word characters of ASCII alone", re2="by word characters of ASCII alone", pcre2="by word characters of ASCII alone, unless it is told to know Unicode"),
    _c("word-start", "anchors", r"\<", "the start of a word", "rust", r"\<in", "in", r"\b(?=\w)"),
    _c("word-end", "anchors", r"\>", "the end of a word", "rust", r"in\>", "in", r"\b(?<=\w)"),
    _c("last-match-end", "anchors", r"\G", "where the match before ended", "pcre2 java dotnet", r"\G\d", "07"),
    _c("keep-out", "anchors", r"\K", "what came before is left out of the match", "pcre2", r"B\K\d", "B07", "(?<=...)"),
    _c("capture", "groups", "(a)", "a capture group, numbered by its opening parenthesis", "all", r"([A-F])(\d+)", "B07", words="( ) group"),
    _c("named", "groups", "(?P<name>a)", "a capture group with a name", "python pcre2 re2 rust", r"(?P<row>[A-F])\d+", "B07"),
    _c("named-angle", "groups", "(?<name>a)", "a capture group with a name", "all but python", "(?<row>[A-F])", "B07", "(?P<name>a)"),
    _c("named-quote", "groups", "(?'name'a)", "a capture group with a name", "pcre2 dotnet", "(?'row'[A-F])", "B07", "(?P<name>a)"),
    _c("plain", "groups", "(?:a)", "a group that captures nothing", "all", "(?:B|C)07", "C07", words="(?:"),
    _c("alternation", "groups", "a|b", "the first option that leads to a match", "all", "in|out", "going out", words="| or"),
    _c("backreference", "groups", r"\1", "what group 1 captured, once more", "all but re2 rust", r"(\w)\1", "moss", words="reference",
       javascript="of a group that took no part: nothing, which always fits"),
    _c("python-reference", "groups", "(?P=name)", "what the group captured, once more", "python pcre2", r"(?P<c>\w)(?P=c)", "moss"),
    _c("named-reference", "groups", r"\k<name>", "what the group captured, once more", "pcre2 javascript java dotnet", r"(?<c>\w)\k<c>", "moss", "(?P=name)"),
    _c("group-by-letter", "groups", r"\g{1}", "what group 1 captured, once more", "pcre2", r"(\w)\g{1}", "moss", r"\1"),
    _c("atomic", "groups", "(?>a)", "a group that gives nothing back", "python pcre2 java dotnet", r"(?>\d+)%", "31% 7", words="(?>"),
    _c("branch-reset", "groups", "(?|a|b)", "options that number their groups alike", "pcre2", "(?|(a)|(b))", "b"),
    _c("recursion", "groups", "(?R) (?1) (?&name)", "the whole expression, or a group's, once more", "pcre2", r"\((?R)?\)", "(())"),
    _c("conditional", "groups", "(?(1)a|b)", "a if group 1 took part, else b", "python pcre2 dotnet", r"(<)?\w+(?(1)>)", "<a> b"),
    _c("comment", "groups", "(?#...)", "a comment", "python pcre2 dotnet", r"B(?#row)\d+", "B07"),
    _c("look-ahead", "look-around", "(?=a) (?!a)", "if a follows; if it does not", "all but re2 rust", r"\d+(?=%)", "8.2C 31%", words="(?= (?! lookahead followed"),
    _c("look-behind", "look-around", "(?<=a) (?<!a)", "if a stands before; if it does not", "all but re2 rust", r"(?<==)\w+", "probe=B07", words="(?<= (?<! lookbehind preceded",
       python="of one length alone", pcre2="each option of one length", java="of bounded length"),
    _c("look-behind-width", "look-around", "(?<=a+) (?<=a|bc)", "if text of no one length stands before", "javascript java dotnet", "(?<=a|bc)d", "bcd", "(?:(?<=a)|(?<=bc))d",
       pcre2="options of different lengths, each of one"),
    _c("flags", "flags", "(?i) (?im)", "flags for the whole expression; here only at its start", "all but javascript", "(?i)stoat", "Stoat",
       pcre2="from there on, also further on", java="from there on, also further on", re2="from there on, also further on", rust="from there on, also further on", dotnet="from there on, also further on"),
    _c("flags-further-on", "flags", "a(?i)b", "flags from there on", "pcre2 java re2 rust dotnet", "a(?i)b", "aB", "a(?i:b)"),
    _c("scoped-flags", "flags", "(?i:a) (?-i:a)", "flags on or off within the group", "all but javascript", "(?i:st)oat", "STOAT SToat"),
    _c("ignore-case", "flags", "i", "capitals and small letters are one", "all", "(?i)b07", "B07", words="case",
       java="ASCII alone, unless it is told otherwise", pcre2="ASCII alone, unless it is told to know Unicode", dotnet="the kelvin sign is no k, the long s no s"),
    _c("multiline", "flags", "m", "^ and $ stand at every line, which a line feed ends", "all", "(?m)^b", "a\nb", java="CR, U+0085, U+2028 and U+2029 end a line too", javascript="CR, U+2028 and U+2029 end a line too"),
    _c("dotall", "flags", "s", "the dot takes line feeds too", "all", "(?s)a.b", "a\nb"),
    _c("verbose", "flags", "x", "blanks and # comments in the expression are left out", "all but javascript re2", r"(?x) B \d+ # plot", "B07",
       java="in a class too", rust="in a class too"),
    _c("ascii", "flags", "a", r"\w, \d, \s and \b know ASCII alone", "python", r"(?a)\d", "٧7"),
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
