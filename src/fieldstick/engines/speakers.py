"""The program that speaks for each engine that runs in a process of its own."""

from __future__ import annotations

from fieldstick.engines.companion_engine import SIDES, Speaker, companion_engine

_WITHOUT_VERBOSE = ("ignore-case", "multiline", "dotall", "ascii")
_WITHOUT_ASCII = ("ignore-case", "multiline", "dotall", "verbose")
_JAVA = ("-XX:+UseSerialGC", "-XX:TieredStopAtLevel=1", "-Xmx512m", str(SIDES / "JavaSide.java"))

_ALL = (
    Speaker("regex", "regex_module"),
    Speaker("re2", "re2", flags=_WITHOUT_VERBOSE),
    Speaker("rust", "rust", flags=_WITHOUT_ASCII),
    Speaker("pcre2", "pcre2"),
    Speaker("pcre2-ucp", "pcre2_ucp"),
    Speaker("ecmascript", "ecmascript", flags=_WITHOUT_VERBOSE, bounded=False),
    Speaker("ecmascript-v", "ecmascript_v", flags=_WITHOUT_VERBOSE, bounded=False),
    Speaker("oniguruma", "oniguruma"),
    Speaker("xsd", "xsd", flags=(), reaches=("whole",)),
    Speaker("perl", program="perl", arguments=(str(SIDES / "perl.pl"),), names="perl"),
    Speaker("java", program="java", arguments=_JAVA, bounded=False, names="java"),
    Speaker("java-unicode", program="java", arguments=(*_JAVA, "unicode"), bounded=False, names="java"),
    Speaker("dotnet", program="csharp", arguments=(str(SIDES / "dotnet.cs"),), flags=_WITHOUT_ASCII, bounded=False),
    Speaker("ruby", program="ruby", arguments=("--disable=gems", str(SIDES / "ruby.rb"))),
    Speaker("php", program="php", arguments=("-n", str(SIDES / "php.php")), flags=_WITHOUT_ASCII),
    Speaker(
        "node",
        program="node",
        arguments=(str(SIDES / "node.js"), "u"),
        flags=_WITHOUT_VERBOSE,
        bounded=False,
        names="javascript",
    ),
    Speaker("postgres", "postgres", flags=_WITHOUT_ASCII, by_clock=True),
    Speaker("sqlite", "sqlite", flags=(), reaches=("whole",), by_clock=True),
)

SPEAKERS = {each.engine: each for each in _ALL}

__all__ = ["SPEAKERS", "companion_engine"]
