"""Asks every engine that is usable here which characters its classes take, and records how that differs.

With names, those engines alone are asked. What a class takes is recorded against what Python's takes, with Unicode or
ASCII alone, whichever is nearer; of characters that Python's Unicode does not know nothing is said. Under ignore-case,
each character that has case is asked about.
"""

from __future__ import annotations

import json
import sys
import unicodedata
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests"))
sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests" / "engines"))

from engines_here import started_server

from fieldstick.analysis.character_sets import cased_characters, characters_of
from fieldstick.analysis.meanings import FOLD, KINDS, NEAREST, SPELLINGS, known_characters, written_set
from fieldstick.engines.registry import BY_NAME, ENGINES, engine_named, why_unusable
from fieldstick.errors import ExpressionError, FieldstickError
from fieldstick.syntax.characters import CharacterSet
from fieldstick.syntax.parser import parse
from fieldstick.syntax.probes import standing

FILE = Path(__file__).resolve().parent.parent / "src" / "fieldstick" / "analysis" / "meanings.json"
BUDGET_MS = 60_000
NO_CATEGORY = r"[^\p{L}\p{M}\p{N}\p{P}\p{Z}\p{S}\p{Cc}\p{Cf}\p{Co}]"
"""What libxml2 does not know is in no category at all."""

SIZE = 0x800
"""Characters that are asked about at a time: some engines take long to tell places far into a text."""

PLAIN: frozenset[str] = frozenset()

BEYOND = CharacterSet(((0x10000, 0x10FFFF),))
"""Characters that are two to an engine of chars of UTF-16: nothing is said of them there."""

IN_CHARS = ("dotnet",)


def asked_about(engine: str) -> CharacterSet:
    """Return the characters that an engine is asked about."""
    return known_characters() - BEYOND if engine in IN_CHARS else known_characters()


def taken(engine: str, expression: str, *, parted: bool = False) -> CharacterSet | None:
    """Return the characters that an expression of one character takes; None where the engine does not have it."""
    try:
        made = engine_named(engine).compile(expression, PLAIN)
    except ExpressionError:
        return None
    if not BY_NAME[engine].captures:
        return _one_by_one(made)
    found = []
    for first, last in asked_about(engine).intervals:
        # A database is asked for each match anew.
        size = SIZE // 16 if engine == "postgres" else SIZE
        for start in range(first, last + 1, size):
            # Not every engine can be given the character of code 0; the next one stands for it.
            text = "".join(map(chr, range(start, min(last + 1, start + size)))).replace("\0", "\1")
            width = 2 if parted else 1
            for spans in made.matches("\n".join(text) if parted else text, "anywhere", BUDGET_MS, None):
                found.append((start + spans[0][0] // width, start + (spans[0][1] - 1) // width))
    return CharacterSet.of(found)


def _one_by_one(made: Any) -> CharacterSet:
    """Return the characters that are taken as whole values, of an engine that tells no places."""
    codes = [code for first, last in known_characters().intervals for code in range(first, last + 1)]
    answers = made.matches_many([chr(code) for code in codes], "whole", BUDGET_MS, 1)
    return CharacterSet.of(
        (code, code) for code, found in zip(codes, answers, strict=True) if isinstance(found, list) and found
    )


def recorded(taken_there: CharacterSet, kind: str, engine: str) -> dict[str, str]:
    """Return what differs from the nearer of Python's sets."""
    best = None
    if kind == "Cn" and engine in IN_CHARS:
        taken_there = taken_there | (BEYOND & known_characters())
    for base in NEAREST:
        python = NEAREST[base](kind) & (asked_about(engine) if kind != "Cn" else known_characters())
        made = {"base": base, "plus": written_set(taken_there - python), "minus": written_set(python - taken_there)}
        if best is None or len(made["plus"] + made["minus"]) < len(best["plus"] + best["minus"]):
            best = made
    assert best is not None
    return best


def folding(engine: str) -> dict[str, str] | None:
    """Return what each character that has case takes under ignore-case, where Python's engine has it otherwise."""
    asked = asked_about(engine)
    cased = "".join(each for each in cased_characters() if unicodedata.category(each) != "Cn" and each in asked)
    flags = frozenset({"ignore-case"})
    found = {}
    for character in cased:
        try:
            made = engine_named(engine).compile(character, flags)
        except ExpressionError:
            return None
        there = {cased[spans[0][0]] for spans in made.matches(cased, "anywhere", BUDGET_MS, None)}
        taken_here = characters_of(parse(character).tree, flags)
        here = {chr(code) for first, last in taken_here.intervals for code in range(first, last + 1)} & set(cased)
        if there != here:
            found[character] = "".join(sorted(there))
    return found


def main() -> None:
    """Record."""
    started_server()
    data = json.loads(FILE.read_text("utf-8")) if FILE.exists() else {}
    for info in ENGINES:
        if sys.argv[1:] and info.name not in sys.argv[1:]:
            continue
        if info.name == "python" or info.name == "sqlite" or why_unusable(info.name) is not None:
            continue
        made: dict[str, object] = {"version": engine_named(info.name).version()}
        try:
            for kind in KINDS:
                # Elsewhere what looks like one is a class of the letters of its name.
                if kind.startswith("posix ") and standing("posix-class", info.name) not in ("has", "differs"):
                    continue
                spelling = NO_CATEGORY if (info.name, kind) == ("xsd", "Cn") else SPELLINGS[kind]
                there = taken(info.name, spelling, parted=kind == "boundary")
                if there is not None:
                    made[kind] = recorded(there, kind, info.name)
            fold = folding(info.name) if info.captures else None
            if fold is not None:
                made[FOLD] = fold
        except FieldstickError as error:
            print(f"{info.name}: {error}")
        data[info.name] = made
        FILE.write_text(json.dumps(dict(sorted(data.items())), indent=0, ensure_ascii=True) + "\n", "utf-8")
        print(info.name, {kind: len(str(made.get(kind, ""))) for kind in (*KINDS, FOLD)})


if __name__ == "__main__":
    main()
