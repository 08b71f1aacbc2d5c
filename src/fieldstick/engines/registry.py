"""The engines that patterns can run on: what each is, how to get it, and the one object that asks it."""

from __future__ import annotations

from functools import cache
from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.errors import EngineUnusable, nearest

if TYPE_CHECKING:
    from collections.abc import Mapping

    from fieldstick.engines.protocol import Engine

_EXTRA = "pip install 'fieldstick[engines]'"
_ENDED = "its process is ended"
_JAVASCRIPT = "atomic, possessive, verbose"
_LINEAR = "none is needed: its time is linear; else its process is ended"


class EngineInfo(Struct, frozen=True):
    """An engine: what it is, where it comes from, how it keeps a text's budget, what it lacks.

    `captures` tells whether groups and places can be had of it; of an engine that says yes or no alone, samples are
    judged by that.
    """

    name: str
    what: str
    get: str
    budget: str = _ENDED
    lacks: str = ""
    captures: bool = True


ENGINES: tuple[EngineInfo, ...] = (
    EngineInfo(
        "python",
        "re, of Python's standard library",
        "there always",
        "a timer signal, or a helper's end",
        "properties, \\h, \\R, recursion",
    ),
    EngineInfo("regex", "the package regex, version 0 of its notation", _EXTRA),
    EngineInfo("re2", "RE2, by google-re2", _EXTRA, _LINEAR, "look-around, references"),
    EngineInfo("rust", "the crate regex, by regex-rs", _EXTRA, _LINEAR, "look-around, references"),
    EngineInfo("pcre2", "PCRE2 in UTF mode", _EXTRA),
    EngineInfo("pcre2-ucp", "PCRE2 in UTF mode, with Unicode classes (UCP)", _EXTRA),
    EngineInfo("ecmascript", "V8 with the flag u, by mini-racer", _EXTRA, lacks=_JAVASCRIPT),
    EngineInfo("ecmascript-v", "V8 with the flag v", _EXTRA, lacks=_JAVASCRIPT),
    EngineInfo("oniguruma", "Oniguruma in its own syntax", _EXTRA, lacks="^ and $ of the text alone"),
    EngineInfo(
        "xsd",
        "patterns of XML Schema, by libxml2 through lxml",
        _EXTRA,
        lacks="anchors, places, look-around",
        captures=False,
    ),
    EngineInfo("perl", "Perl", "Debian: perl"),
    EngineInfo("java", "java.util.regex", "Debian: default-jdk-headless", lacks="Unicode in \\d \\w \\s and case"),
    EngineInfo(
        "java-unicode",
        "java.util.regex with UNICODE_CHARACTER_CLASS",
        "Debian: default-jdk-headless",
        lacks="conditionals, recursion",
    ),
    EngineInfo(
        "dotnet",
        ".NET's Regex, by Mono; a character beyond U+FFFF is two there",
        "Debian: mono-csharp-shell",
        lacks="the flag ascii, possessive",
    ),
    EngineInfo("ruby", "Ruby", "Debian: ruby", lacks="^ and $ of the text alone"),
    EngineInfo("php", "PHP's preg functions with the modifier u", "Debian: php-cli", lacks="the flag ascii"),
    EngineInfo("node", "Node.js with the flag u", "Debian: nodejs", lacks=_JAVASCRIPT),
    EngineInfo(
        "postgres",
        "~ and regexp_match of a PostgreSQL server; the longest match counts, not the first option",
        f"{_EXTRA}, and FIELDSTICK_POSTGRES=postgresql://…",
        lacks="names of groups, flags further on",
    ),
    EngineInfo(
        "sqlite",
        "REGEXP of the program sqlite3",
        "Debian: sqlite3",
        _LINEAR,
        "places, look-around, references",
        captures=False,
    ),
)

BY_NAME: Mapping[str, EngineInfo] = {each.name: each for each in ENGINES}


def engine_named(name: str) -> Engine:
    """Return the engine of that name, which may still not be usable here: asking it will tell.

    Raises EngineUnusable for a name that stands for none.
    """
    if name not in BY_NAME:
        near = nearest(name, BY_NAME)
        meant = f"; did you mean '{near}'?" if near else ""
        raise EngineUnusable(name, f"there is no such engine; there are {', '.join(BY_NAME)}{meant}")
    return _made(name)


def why_unusable(name: str) -> str | None:
    """Return why an engine cannot be used here; None for one that can."""
    try:
        engine_named(name).version()
    except EngineUnusable as error:
        return error.why
    return None


@cache
def _made(name: str) -> Engine:
    if name == "python":
        from fieldstick.engines import python

        return python.ENGINE
    from fieldstick.engines.speakers import SPEAKERS, companion_engine

    return companion_engine(SPEAKERS[name])
