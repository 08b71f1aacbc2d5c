"""Constructs of expression notation, and the engines that have each: the one table everything asks.

`notation` prints it, the parser refuses by it, and what hands a pattern over to another engine will read it.
"""

from __future__ import annotations

from dataclasses import dataclass

ENGINES = ("python", "pcre2", "javascript", "java", "re2", "rust", "dotnet")
"""Engines in wide use whose notation the table knows; not all of them are run here."""

_ALL = frozenset(ENGINES)
_BACKTRACKING = _ALL - {"re2", "rust"}


@dataclass(frozen=True, slots=True)
class Construct:
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
    key: str, topic: str, form: str, meaning: str, engines: frozenset[str], example: str, text: str, instead: str = ""
) -> Construct:
    return Construct(key, topic, form, meaning, engines, example, text, instead)


# fmt: off
CONSTRUCTS: tuple[Construct, ...] = (
    _c("literal", "characters", "a", "the character itself", _ALL, "plot", "the plot B07"),
    _c(
        "escaped",
        "characters",
        r"\. \* \[",
        "a character that means something else, as itself",
        _ALL,
        r"3\.5",
        "3.5 or 315",
    ),
    _c("dot", "characters", ".", "any character but a line feed; with dotall, that too", _ALL, "B.7", "B07 B-7"),
    _c("control", "characters", r"\n \t \r", "line feed, tab, carriage return", _ALL, r"\t", "a\tb"),
    _c("hex", "characters", r"\x41", "the character with this code, two hexadecimal digits", _ALL, r"\xb0", "54°12′"),
    _c(
        "unicode",
        "characters",
        r"\u2032",
        "the character with this code, four hexadecimal digits",
        frozenset({"python", "javascript", "java", "dotnet", "rust"}),
        r"\u2032",
        "54°12′",
    ),
    _c(
        "unicode-name",
        "characters",
        r"\N{DEGREE SIGN}",
        "the character with this name",
        frozenset({"python", "java"}),
        r"\N{DEGREE SIGN}",
        "54°12′",
    ),
    _c(
        "braced-code",
        "characters",
        r"\x{2032}",
        "the character with this code",
        frozenset({"pcre2", "java", "re2", "rust"}),
        r"\x{2032}",
        "54°12′",
        r"\u2032 or \U0001F426",
    ),
    _c(
        "escape-character",
        "characters",
        r"\e",
        "the escape character, code 1B",
        frozenset({"pcre2", "java", "dotnet"}),
        r"\e",
        "",
        r"\x1b",
    ),
    _c(
        "quoted-run",
        "characters",
        r"\Q...\E",
        "everything between as itself",
        frozenset({"pcre2", "java", "re2"}),
        r"\Qa.b\E",
        "a.b",
        "a backslash before each special character, or a parameter {{=name}}",
    ),
    _c("class", "classes", "[abc] [a-f]", "one of these characters, or of this range", _ALL, "[A-F]", "B07 G07"),
    _c("negated-class", "classes", "[^abc]", "one character that is none of these", _ALL, "[^ ]", "a b"),
    _c("digit", "classes", r"\d \D", "a digit of any alphabet; anything but one", _ALL, r"\d\d", "B07"),
    _c("word", "classes", r"\w \W", "a letter or digit of any alphabet, or _; anything but one", _ALL, r"\w", "ø-7"),
    _c("space", "classes", r"\s \S", "a blank, tab, line end or other space; anything but one", _ALL, r"\s", "a b"),
    _c(
        "property",
        "classes",
        r"\p{L} \P{L}",
        "a character with this Unicode property; one without",
        _ALL - {"python"},
        r"\p{L}",
        "Møse 7",
        r"[^\W\d_] is a letter",
    ),
    _c(
        "horizontal-space",
        "classes",
        r"\h",
        "a blank or tab, no line end",
        frozenset({"pcre2", "java"}),
        r"\h",
        "a\tb",
        r"[ \t]",
    ),
    _c(
        "line-end",
        "classes",
        r"\R",
        "a line end of any kind",
        frozenset({"pcre2", "java"}),
        r"\R",
        "a\nb",
        r"(?:\r\n|[\n\r])",
    ),
    _c(
        "cluster",
        "classes",
        r"\X",
        "a character with its combining marks",
        frozenset({"pcre2", "java"}),
        r"\X",
        "e\u0301",
    ),
    _c("not-line-end", "classes", r"\N", "anything but a line end", frozenset({"pcre2"}), r"\N", "a\nb", "[^\\n]"),
    _c(
        "posix-class",
        "classes",
        "[[:alpha:]]",
        "a letter, and so on by name",
        frozenset({"pcre2", "re2", "rust"}),
        "[[:alpha:]]",
        "a7",
        r"[^\W\d_], \d, \s and their like",
    ),
    _c(
        "set-operation",
        "classes",
        "[a-z&&[^aeiou]] [a-z--[aeiou]]",
        "what is in both; what is in the first alone",
        frozenset({"java", "rust", "javascript", "dotnet"}),
        "[a-z&&[^aeiou]]",
        "owl",
        "(?![aeiou])[a-z]",
    ),
    _c("star", "quantifiers", "a*", "any number, as many as possible", _ALL, r"\d*", "B07"),
    _c("plus", "quantifiers", "a+", "one or more, as many as possible", _ALL, r"\d+", "B07"),
    _c("optional", "quantifiers", "a?", "one or none, one if possible", _ALL, "B-?07", "B07 B-07"),
    _c("bounds", "quantifiers", "a{2} a{2,4} a{2,}", "exactly 2; 2 to 4; 2 or more", _ALL, r"\d{2,3}", "7 07 0071"),
    _c("lazy", "quantifiers", "a*? a+? a??", "as few as possible", _ALL, '".+?"', '"a" "b"'),
    _c(
        "possessive",
        "quantifiers",
        "a*+ a++ a?+",
        "as many as possible, and none is given back",
        frozenset({"python", "pcre2", "java"}),
        r"\d++",
        "007",
    ),
    _c("text-start", "anchors", "^", "the start of the text; with multiline, of a line", _ALL, "^B", "B07 B08"),
    _c(
        "dollar",
        "anchors",
        "$",
        "the end of the text or before a line feed that ends it; with multiline, the end of a line",
        _ALL,
        "7$",
        "B07 C07",
    ),
    _c("absolute-start", "anchors", r"\A", "the start of the text", _ALL - {"javascript"}, r"\AB", "B07 B08"),
    _c(
        "absolute-end",
        "anchors",
        r"\Z",
        "in Python the very end of the text; elsewhere also before a line feed that ends it",
        frozenset({"python", "pcre2", "java", "dotnet"}),
        r"7\Z",
        "B07 C07",
    ),
    _c("very-end", "anchors", r"\z", "the very end of the text", _ALL - {"javascript", "python"}, r"7\z", "B07", r"\Z"),
    _c(
        "boundary",
        "anchors",
        r"\b \B",
        "between a word character and none; anywhere else",
        _ALL,
        r"\bin\b",
        "in the inn",
    ),
    _c("word-start", "anchors", r"\<", "the start of a word", frozenset({"rust"}), r"\<in", "in", r"\b(?=\w)"),
    _c("word-end", "anchors", r"\>", "the end of a word", frozenset({"rust"}), r"in\>", "in", r"\b(?<=\w)"),
    _c(
        "last-match-end",
        "anchors",
        r"\G",
        "where the match before ended",
        frozenset({"pcre2", "java", "dotnet"}),
        r"\G\d",
        "07",
    ),
    _c(
        "keep-out",
        "anchors",
        r"\K",
        "what came before is left out of the match",
        frozenset({"pcre2"}),
        r"B\K\d",
        "B07",
        "(?<=...)",
    ),
    _c(
        "capture", "groups", "(a)", "a capture group, numbered by its opening parenthesis", _ALL, r"([A-F])(\d+)", "B07"
    ),
    _c(
        "named",
        "groups",
        "(?P<name>a)",
        "a capture group with a name",
        frozenset({"python", "pcre2", "re2", "rust"}),
        r"(?P<row>[A-F])\d+",
        "B07",
    ),
    _c(
        "named-angle",
        "groups",
        "(?<name>a)",
        "a capture group with a name",
        _ALL - {"python"},
        r"(?<row>[A-F])",
        "B07",
        "(?P<name>a)",
    ),
    _c(
        "named-quote",
        "groups",
        "(?'name'a)",
        "a capture group with a name",
        frozenset({"pcre2", "dotnet"}),
        r"(?'row'[A-F])",
        "B07",
        "(?P<name>a)",
    ),
    _c("plain", "groups", "(?:a)", "a group that captures nothing", _ALL, "(?:B|C)07", "C07"),
    _c("alternation", "groups", "a|b", "the first option that leads to a match", _ALL, "in|out", "going out"),
    _c("backreference", "groups", r"\1", "what group 1 captured, once more", _BACKTRACKING, r"(\w)\1", "moss"),
    _c(
        "python-reference",
        "groups",
        "(?P=name)",
        "what the group captured, once more",
        frozenset({"python", "pcre2"}),
        r"(?P<c>\w)(?P=c)",
        "moss",
    ),
    _c(
        "named-reference",
        "groups",
        r"\k<name>",
        "what the group captured, once more",
        _BACKTRACKING - {"python"},
        r"(?<c>\w)\k<c>",
        "moss",
        "(?P=name)",
    ),
    _c(
        "group-by-letter",
        "groups",
        r"\g{1}",
        "what group 1 captured, once more",
        frozenset({"pcre2"}),
        r"(\w)\g{1}",
        "moss",
        r"\1",
    ),
    _c(
        "atomic",
        "groups",
        "(?>a)",
        "a group that gives nothing back",
        frozenset({"python", "pcre2", "java", "dotnet"}),
        r"(?>\d+)7",
        "007",
    ),
    _c(
        "branch-reset",
        "groups",
        "(?|a|b)",
        "options that number their groups alike",
        frozenset({"pcre2"}),
        r"(?|(a)|(b))",
        "b",
    ),
    _c(
        "recursion",
        "groups",
        "(?R) (?1) (?&name)",
        "the whole expression, or a group's, once more",
        frozenset({"pcre2"}),
        r"\((?R)?\)",
        "(())",
    ),
    _c(
        "conditional",
        "groups",
        "(?(1)a|b)",
        "a if group 1 took part, else b",
        frozenset({"python", "pcre2", "dotnet"}),
        r"(<)?\w+(?(1)>)",
        "<a> b",
    ),
    _c("comment", "groups", "(?#...)", "a comment", frozenset({"python", "pcre2", "dotnet"}), r"B(?#row)\d+", "B07"),
    _c(
        "look-ahead",
        "look-around",
        "(?=a) (?!a)",
        "if a follows; if it does not",
        _BACKTRACKING,
        r"\d+(?=%)",
        "8.2C 31%",
    ),
    _c(
        "look-behind",
        "look-around",
        "(?<=a) (?<!a)",
        "if a stands before; if it does not",
        _BACKTRACKING,
        r"(?<==)\w+",
        "probe=B07",
    ),
    _c(
        "flags",
        "flags",
        "(?i) (?im)",
        "flags for the whole expression; here only at its start",
        frozenset({"python", "pcre2", "java", "re2", "rust", "dotnet"}),
        "(?i)stoat",
        "Stoat",
    ),
    _c(
        "scoped-flags", "flags", "(?i:a) (?-i:a)", "flags on or off within the group", _ALL, "(?i:st)oat", "STOAT SToat"
    ),
    _c("ignore-case", "flags", "i", "capitals and small letters are one", _ALL, "(?i)b07", "B07"),
    _c("multiline", "flags", "m", "^ and $ stand at every line", _ALL, "(?m)^b", "a\nb"),
    _c("dotall", "flags", "s", "the dot takes line feeds too", _ALL, "(?s)a.b", "a\nb"),
    _c(
        "verbose",
        "flags",
        "x",
        "blanks and # comments in the expression are left out",
        _ALL - {"javascript", "re2"},
        "(?x) B \\d+ # plot",
        "B07",
    ),
    _c("ascii", "flags", "a", r"\w, \d, \s and \b know ASCII alone", frozenset({"python"}), r"(?a)\d", "٧7"),
)
# fmt: on

BY_KEY = {construct.key: construct for construct in CONSTRUCTS}
TOPICS = tuple(dict.fromkeys(construct.topic for construct in CONSTRUCTS))
