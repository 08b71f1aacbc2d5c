"""An expression as a literal of a language: quoted so that the language reads it back as it is.

Each function takes the expression as it is written for the language's engine, and its flags there.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable  # noqa: TC003 - what a field is is read when the program runs
from typing import TYPE_CHECKING
from xml.sax.saxutils import escape

from msgspec import Struct

if TYPE_CHECKING:
    from collections.abc import Mapping

Flags = frozenset[str]

_HASH = ("# ", "")


_CONTROLS = {"\n": "\\n", "\r": "\\r", "\t": "\\t"}


def _escaped(text: str, quote: str, more: str = "", long: str = "") -> str:
    """Write a text between quotes: backslashes, the quote and `more` escaped, what cannot be seen by its code.

    Beyond U+FFFF a character is written by `long`, where it is given, or by the halves of its pair.
    """
    made = []
    for character in text:
        if character in _CONTROLS:
            made.append(_CONTROLS[character])
        elif character in ("\\", quote) or character in more:
            made.append(f"\\{character}")
        elif character.isprintable():
            made.append(character)
        elif ord(character) > 0xFFFF and long:
            made.append(long.format(ord(character)))
        else:
            coded = character.encode("utf-16-be")
            made += [f"\\u{coded[at] << 8 | coded[at + 1]:04x}" for at in range(0, len(coded), 2)]
    return f"{quote}{''.join(made)}{quote}"


def in_double_quotes(text: str, more: str = "", long: str = "") -> str:
    """Write a text as a string in double quotes, `more` escaped too, as many languages read it."""
    return _escaped(text, '"', more, long)


def _python(expression: str, flags: Flags) -> str:
    given = " | ".join(f"re.{flag.replace('-', '').upper()}" for flag in sorted(flags))
    raw = expression.isprintable() and '"' not in expression and not expression.endswith("\\")
    text = f'r"{expression}"' if raw else repr(expression)
    return f"re.compile({text}{', ' + given if given else ''})"


def _javascript(expression: str, flags: Flags) -> str:
    """A literal between slashes: ends of lines by their escapes (ECMA-262, 12.9.5), nothing is an empty group."""
    ends = {"\n": "\\n", "\r": "\\r", "\u2028": "\\u2028", "\u2029": "\\u2029"}
    body = "".join(ends.get(each, each) for each in expression) or "(?:)"
    return f"/{body}/u{'i' if 'ignore-case' in flags else ''}"


def _java(expression: str, flags: Flags) -> str:
    given = ", Pattern.CASE_INSENSITIVE" if "ignore-case" in flags else ""
    return f"Pattern.compile({_escaped(expression, chr(34))}{given})"


def _kotlin(expression: str, flags: Flags) -> str:
    given = ", RegexOption.IGNORE_CASE" if "ignore-case" in flags else ""
    return f"Regex({_escaped(expression, chr(34), '$')}{given})"


def _csharp(expression: str, flags: Flags) -> str:
    """A verbatim string, in which a quote is doubled; one with what cannot be seen has escapes."""
    plain = expression.replace('"', '""')
    text = f'@"{plain}"' if expression.isprintable() else _escaped(expression, '"', long="\\U{:08x}")
    options = "RegexOptions.CultureInvariant" + (" | RegexOptions.IgnoreCase" if "ignore-case" in flags else "")
    return f"new Regex({text}, {options})"


def _go(expression: str, flags: Flags) -> str:
    text = _with_flag(expression, flags)
    raw = text.isprintable() and "`" not in text
    return f"regexp.MustCompile({f'`{text}`' if raw else _escaped(text, chr(34), long=chr(92) + 'U{:08x}')})"


def _rust(expression: str, flags: Flags) -> str:
    text = _with_flag(expression, flags)
    marks = "#"
    while f'"{marks}' in text:
        marks += "#"
    return f'Regex::new(r{marks}"{text}"{marks})'


def _with_flag(expression: str, flags: Flags) -> str:
    return f"(?i){expression}" if "ignore-case" in flags else expression


def _ruby(expression: str, flags: Flags) -> str:
    text = _escaped(expression, '"', "#", "\\u{{{:x}}}")
    return f"Regexp.new({text}{', Regexp::IGNORECASE' if 'ignore-case' in flags else ''})"


def _php(expression: str, flags: Flags) -> str:
    """A pattern for preg functions: between tildes, in single quotes, where backslash and quote are escaped."""
    text = re.sub(r"(\\.)|~", lambda found: found[1] or r"\~", expression, flags=re.DOTALL)
    quoted = text.replace("\\", "\\\\").replace("'", "\\'")
    return f"'~{quoted}~u{'i' if 'ignore-case' in flags else ''}'"


def _perl(expression: str, flags: Flags) -> str:
    """A text in single quotes, given to `qr`: nothing in it stands for a variable."""
    quoted = expression.replace("\\", "\\\\").replace("'", "\\'")
    return f"do {{ use utf8; my $e = '{quoted}'; qr/$e/{'i' if 'ignore-case' in flags else ''} }}"


def _sql(expression: str, flags: Flags) -> str:
    """A string constant of standard SQL, quotes doubled; with the operator that reads it."""
    quoted = expression.replace("'", "''")
    return f"~{'*' if 'ignore-case' in flags else ''} '{quoted}'"


def sqlite_literal(expression: str, flags: Flags) -> str:
    """A string constant with the operator that the program sqlite3 has for expressions, for whole values."""
    quoted = expression.replace("'", "''")
    return f"REGEXP '^({quoted})$'"


def _shell(expression: str, flags: Flags) -> str:
    """A word of the POSIX shell: single quotes, each of its own between others."""
    return "'" + expression.replace("'", "'\\''") + "'"


def _powershell(expression: str, flags: Flags) -> str:
    return "'" + expression.replace("'", "''").replace("\u2018", "\u2018\u2018").replace("\u2019", "\u2019\u2019") + "'"


def _json(expression: str, flags: Flags) -> str:
    return json.dumps(expression)


def _quoted(expression: str) -> str:
    """Write a text in double quotes as JSON does, each character beyond ASCII as itself: no half of a pair."""
    return json.dumps(expression, ensure_ascii=False).replace("\x7f", "\\u007f")


def _yaml(expression: str, flags: Flags) -> str:
    """A scalar in single quotes where it holds what can be seen alone, else one in double quotes, as JSON has."""
    return "'" + expression.replace("'", "''") + "'" if expression.isprintable() else _quoted(expression)


def _toml(expression: str, flags: Flags) -> str:
    literal = "'" not in expression and expression.isprintable()
    return f"'{expression}'" if literal else _quoted(expression)


def _xml(expression: str, flags: Flags) -> str:
    return escape(expression, {"\n": "&#10;", "\r": "&#13;", "\t": "&#9;", '"': "&quot;"})


class Literal(Struct, frozen=True):
    """A language: the engine that reads an expression there, and how it is quoted.

    `flags` tells whether the literal can carry ignore-case; without, the expression has to do without a flag.
    `comment` is what stands before and after a line of comment, None where there is none.
    """

    engine: str
    quoted: Callable[[str, Flags], str]
    flags: bool = True
    comment: tuple[str, str] | None = ("// ", "")


LITERALS: Mapping[str, Literal] = {
    "python": Literal("python", _python, comment=_HASH),
    "javascript": Literal("ecmascript", _javascript),
    "typescript": Literal("ecmascript", _javascript),
    "java": Literal("java", _java),
    "kotlin": Literal("java", _kotlin),
    "csharp": Literal("dotnet", _csharp),
    "go": Literal("re2", _go),
    "rust": Literal("rust", _rust),
    "ruby": Literal("ruby", _ruby, comment=_HASH),
    "php": Literal("php", _php),
    "perl": Literal("perl", _perl, comment=_HASH),
    "sql": Literal("postgres", _sql, comment=("-- ", "")),
    "shell": Literal("pcre2", _shell, False, _HASH),
    "powershell": Literal("dotnet", _powershell, False, _HASH),
    "json": Literal("ecmascript", _json, False, None),
    "yaml": Literal("ecmascript", _yaml, False, _HASH),
    "toml": Literal("python", _toml, False, _HASH),
    "rfc9485": Literal("rfc9485", lambda expression, flags: expression, False, None),
    "xml": Literal("xsd", _xml, False, ("<!-- ", " -->")),
}
"""What an expression can be written as."""
