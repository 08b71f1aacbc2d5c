"""Constructs of expression notation, and the engines that have each: the one table everything asks.

`notation` prints it, the parser refuses by it, and what hands a pattern over to another engine will read it.
"""

from __future__ import annotations

from msgspec import Struct

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


def _c(
    key: str, topic: str, form: str, meaning: str, engines: str, example: str, text: str, instead: str = ""
) -> Construct:
    """Make a construct; `engines` are names, `all`, or `all but` names."""
    named = frozenset(engines.removeprefix("all but").split())
    everywhere = engines.startswith("all")
    chosen = frozenset(ENGINES) - (named - {"all"}) if everywhere else named
    return Construct(key, topic, form, meaning, chosen, example, text, instead)


# fmt: off
CONSTRUCTS: tuple[Construct, ...] = (
    _c("literal", "characters", "a", "the character itself", "all", "plot", "the plot B07"),
    _c("escaped", "characters", r"\. \* \[", "a character that means something else, as itself", "all", r"3\.5", "3.5 or 315"),
    _c("dot", "characters", ".", "any character but a line feed; with dotall, that too", "all", "B.7", "B07 B-7"),
    _c("control", "characters", r"\n \t \r", "line feed, tab, carriage return", "all", r"\t", "a\tb"),
    _c("hex", "characters", r"\x41", "the character with this code, two hexadecimal digits", "all", r"\xb0", "54°12′"),
    _c("unicode", "characters", r"\u2032", "the character with this code, four hexadecimal digits", "all but pcre2 re2", r"\u2032", "54°12′"),
    _c("unicode-name", "characters", r"\N{DEGREE SIGN}", "the character with this name", "python java", r"\N{DEGREE SIGN}", "54°12′"),
    _c("braced-code", "characters", r"\x{2032}", "the character with this code", "pcre2 java re2 rust", r"\x{2032}", "54°12′", r"\u2032 or \U0001F426"),
    _c("escape-character", "characters", r"\e", "the escape character, code 1B", "pcre2 java dotnet", r"\e", "", r"\x1b"),
    _c("quoted-run", "characters", r"\Q...\E", "everything between as itself", "pcre2 java re2", r"\Qa.b\E", "a.b", "a backslash before each special character, or a parameter {{=name}}"),
    _c("class", "classes", "[abc] [a-f]", "one of these characters, or of this range", "all", "[A-F]", "B07 G07"),
    _c("negated-class", "classes", "[^abc]", "one character that is none of these", "all", "[^ ]", "a b"),
    _c("digit", "classes", r"\d \D", "a digit of any alphabet; anything but one", "all", r"\d\d", "B07"),
    _c("word", "classes", r"\w \W", "a letter or digit of any alphabet, or _; anything but one", "all", r"\w", "ø-7"),
    _c("space", "classes", r"\s \S", "a blank, tab, line end or other space; anything but one", "all", r"\s", "a b"),
    _c("property", "classes", r"\p{L} \P{L}", "a character with this Unicode property; one without", "all but python", r"\p{L}", "Møse 7", r"[^\W\d_] is a letter"),
    _c("horizontal-space", "classes", r"\h", "a blank or tab, no line end", "pcre2 java", r"\h", "a\tb", r"[ \t]"),
    _c("line-end", "classes", r"\R", "a line end of any kind", "pcre2 java", r"\R", "a\nb", r"(?:\r\n|[\n\r])"),
    _c("cluster", "classes", r"\X", "a character with its combining marks", "pcre2 java", r"\X", "é"),
    _c("not-line-end", "classes", r"\N", "anything but a line end", "pcre2", r"\N", "a\nb", r"[^\n]"),
    _c("posix-class", "classes", "[[:alpha:]]", "a letter, and so on by name", "pcre2 re2 rust", "[[:alpha:]]", "a7", r"[^\W\d_], \d, \s and their like"),
    _c("set-operation", "classes", "[a-z&&[^aeiou]] [a-z--[aeiou]]", "what is in both; what is in the first alone", "javascript java rust dotnet", "[a-z&&[^aeiou]]", "owl", "(?![aeiou])[a-z]"),
    _c("star", "quantifiers", "a*", "any number, as many as possible", "all", r"\d*", "B07"),
    _c("plus", "quantifiers", "a+", "one or more, as many as possible", "all", r"\d+", "B07"),
    _c("optional", "quantifiers", "a?", "one or none, one if possible", "all", "B-?07", "B07 B-07"),
    _c("bounds", "quantifiers", "a{2} a{2,4} a{2,}", "exactly 2; 2 to 4; 2 or more", "all", r"\d{2,3}", "7 07 0071"),
    _c("lazy", "quantifiers", "a*? a+? a??", "as few as possible", "all", '".+?"', '"a" "b"'),
    _c("possessive", "quantifiers", "a*+ a++ a?+", "as many as possible, and none is given back", "python pcre2 java", r"\d++", "007"),
    _c("text-start", "anchors", "^", "the start of the text; with multiline, of a line", "all", "^B", "B07 B08"),
    _c("dollar", "anchors", "$", "the end of the text or before a line feed that ends it; with multiline, the end of a line", "all", "7$", "B07 C07"),
    _c("absolute-start", "anchors", r"\A", "the start of the text", "all but javascript", r"\AB", "B07 B08"),
    _c("absolute-end", "anchors", r"\Z", "in Python the very end of the text; elsewhere also before a line feed that ends it", "python pcre2 java dotnet", r"7\Z", "B07 C07"),
    _c("very-end", "anchors", r"\z", "the very end of the text", "all but python javascript", r"7\z", "B07", r"\Z"),
    _c("boundary", "anchors", r"\b \B", "between a word character and none; anywhere else", "all", r"\bin\b", "in the inn"),
    _c("word-start", "anchors", r"\<", "the start of a word", "rust", r"\<in", "in", r"\b(?=\w)"),
    _c("word-end", "anchors", r"\>", "the end of a word", "rust", r"in\>", "in", r"\b(?<=\w)"),
    _c("last-match-end", "anchors", r"\G", "where the match before ended", "pcre2 java dotnet", r"\G\d", "07"),
    _c("keep-out", "anchors", r"\K", "what came before is left out of the match", "pcre2", r"B\K\d", "B07", "(?<=...)"),
    _c("capture", "groups", "(a)", "a capture group, numbered by its opening parenthesis", "all", r"([A-F])(\d+)", "B07"),
    _c("named", "groups", "(?P<name>a)", "a capture group with a name", "python pcre2 re2 rust", r"(?P<row>[A-F])\d+", "B07"),
    _c("named-angle", "groups", "(?<name>a)", "a capture group with a name", "all but python", "(?<row>[A-F])", "B07", "(?P<name>a)"),
    _c("named-quote", "groups", "(?'name'a)", "a capture group with a name", "pcre2 dotnet", "(?'row'[A-F])", "B07", "(?P<name>a)"),
    _c("plain", "groups", "(?:a)", "a group that captures nothing", "all", "(?:B|C)07", "C07"),
    _c("alternation", "groups", "a|b", "the first option that leads to a match", "all", "in|out", "going out"),
    _c("backreference", "groups", r"\1", "what group 1 captured, once more", "all but re2 rust", r"(\w)\1", "moss"),
    _c("python-reference", "groups", "(?P=name)", "what the group captured, once more", "python pcre2", r"(?P<c>\w)(?P=c)", "moss"),
    _c("named-reference", "groups", r"\k<name>", "what the group captured, once more", "pcre2 javascript java dotnet", r"(?<c>\w)\k<c>", "moss", "(?P=name)"),
    _c("group-by-letter", "groups", r"\g{1}", "what group 1 captured, once more", "pcre2", r"(\w)\g{1}", "moss", r"\1"),
    _c("atomic", "groups", "(?>a)", "a group that gives nothing back", "python pcre2 java dotnet", r"(?>\d+)%", "31% 7"),
    _c("branch-reset", "groups", "(?|a|b)", "options that number their groups alike", "pcre2", "(?|(a)|(b))", "b"),
    _c("recursion", "groups", "(?R) (?1) (?&name)", "the whole expression, or a group's, once more", "pcre2", r"\((?R)?\)", "(())"),
    _c("conditional", "groups", "(?(1)a|b)", "a if group 1 took part, else b", "python pcre2 dotnet", r"(<)?\w+(?(1)>)", "<a> b"),
    _c("comment", "groups", "(?#...)", "a comment", "python pcre2 dotnet", r"B(?#row)\d+", "B07"),
    _c("look-ahead", "look-around", "(?=a) (?!a)", "if a follows; if it does not", "all but re2 rust", r"\d+(?=%)", "8.2C 31%"),
    _c("look-behind", "look-around", "(?<=a) (?<!a)", "if a stands before; if it does not", "all but re2 rust", r"(?<==)\w+", "probe=B07"),
    _c("flags", "flags", "(?i) (?im)", "flags for the whole expression; here only at its start", "all but javascript", "(?i)stoat", "Stoat"),
    _c("scoped-flags", "flags", "(?i:a) (?-i:a)", "flags on or off within the group", "all", "(?i:st)oat", "STOAT SToat"),
    _c("ignore-case", "flags", "i", "capitals and small letters are one", "all", "(?i)b07", "B07"),
    _c("multiline", "flags", "m", "^ and $ stand at every line", "all", "(?m)^b", "a\nb"),
    _c("dotall", "flags", "s", "the dot takes line feeds too", "all", "(?s)a.b", "a\nb"),
    _c("verbose", "flags", "x", "blanks and # comments in the expression are left out", "all but javascript re2", r"(?x) B \d+ # plot", "B07"),
    _c("ascii", "flags", "a", r"\w, \d, \s and \b know ASCII alone", "python", r"(?a)\d", "٧7"),
)
# fmt: on

BY_KEY = {construct.key: construct for construct in CONSTRUCTS}
TOPICS = tuple(dict.fromkeys(construct.topic for construct in CONSTRUCTS))
