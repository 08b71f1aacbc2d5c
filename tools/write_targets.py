"""Writes a page of docs/targets for each engine: what it lacks and reads otherwise, out of the recorded probes."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from fieldstick.analysis.meanings import NEAREST, class_of, known_characters, known_to
from fieldstick.engines.protocol import FLAGS
from fieldstick.engines.registry import ENGINES
from fieldstick.engines.speakers import SPEAKERS
from fieldstick.handover.functions.languages import FUNCTIONS
from fieldstick.handover.literals import LITERALS
from fieldstick.syntax.constructs import CONSTRUCTS
from fieldstick.syntax.probes import difference_words, differing, probes_of, readings, standing

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.engines.registry import EngineInfo

FOLDER = Path(__file__).resolve().parent.parent / "docs" / "targets"
MOST = 3
"""Readings of a construct that are shown."""

FORMS = {
    "json-schema": "ecmascript",
    "openapi": "ecmascript",
    "html": "ecmascript-v",
    "table-schema": "xsd",
    "xsd": "xsd",
}
CLASSES = {"digit": r"\d", "word": r"\w", "space": r"\s", "dot": ".", "boundary": r"\b stands beside"}


def page(info: EngineInfo) -> str:
    """Return the page of an engine."""
    lines = [f"# {info.name}", "", f"{info.what}. To have it here: {info.get}.", ""]
    lines += ["Generated from the recorded probes by `tools/write_targets.py`; a test asks each engine again.", ""]
    lines += _facts(info)
    if info.name != "python":
        lines += _table("What it lacks", info.name, "lacks")
        lines += _table("What it means something else by", info.name, "otherwise")
        lines += _table("What it has, and reads otherwise in places", info.name, "differs")
        lines += _classes(info.name)
    return "\n".join(lines).rstrip() + "\n"


def _facts(info: EngineInfo) -> Iterator[str]:
    kinds = [kind for kind, literal in LITERALS.items() if literal.engine == info.name]
    kinds += [kind for kind, language in FUNCTIONS.items() if info.name == language.ENGINE]
    kinds += [kind for kind, engine in FORMS.items() if engine == info.name and kind not in kinds]
    flags = SPEAKERS[info.name].flags if info.name in SPEAKERS else FLAGS
    yield f"- probed: {readings().versions.get(info.name, 'as the standard library of Python has it')}"
    yield f"- a text's budget is kept so: {info.budget}"
    yield f"- flags of a pattern that it has: {', '.join(flags) or 'none'}"
    if info.lacks:
        yield f"- in short it lacks: {info.lacks}"
    if kinds:
        yield f"- `handover --as` {', '.join(f'`{each}`' for each in kinds)}"
    else:
        yield f"- a literal for it: `handover --engine {info.name} --as` and a language that quotes it"
    yield ""


def _table(title: str, engine: str, how: str) -> Iterator[str]:
    rows = [each for each in CONSTRUCTS if standing(each.key, engine) == how]
    if not rows:
        return
    yield from (f"## {title}", "", "| notation | what it asks for | there |", "|---|---|---|")
    for each in rows:
        probes = differing(each.key, engine) or probes_of(each.key)
        told = list(dict.fromkeys(difference_words(one, readings().by_probe[one.key][engine]) for one in probes))
        more = f" (and {len(told) - MOST} more)" if len(told) > MOST else ""
        yield f"| {_cell(each.form, code=True)} | {_cell(each.meaning)} | {_cell('; '.join(told[:MOST]))}{more} |"
    yield ""


def _classes(engine: str) -> Iterator[str]:
    found = {kind: class_of(engine, kind) for kind in CLASSES}
    if not any(found.values()):
        return
    yield from ("## What its classes take", "", "| class | characters that Python's takes and it does not | it alone |")
    yield "|---|---|---|"
    known = known_to(engine)
    for kind, taken in found.items():
        if taken is None:
            continue
        here = NEAREST["unicode"](kind) & known
        fewer, more = len(here - taken), len((taken & known) - here)
        yield f"| {_cell(CLASSES[kind], code=True)} | {fewer:,} of {len(here):,} | {more:,} |"
    unknown = len(known_characters() - known)
    if unknown:
        yield from (
            "",
            f"{unknown:,} characters that Python's Unicode knows, it does not; they are left out of account.",
        )
    yield ""


def _cell(text: str, *, code: bool = False) -> str:
    """Write a text in a cell of a table of Markdown."""
    shown = "".join(each if each.isprintable() else f"U+{ord(each):04X}" for each in text).replace("|", "\\|")
    if not code:
        plain = shown.replace("\\|", "|")
        return "".join(f"\\{each}" if each in "\\*_[]<>`|" else each for each in plain)
    fence = "``" if "`" in shown else "`"
    return f"{fence}{' ' if fence == '``' else ''}{shown}{' ' if fence == '``' else ''}{fence}"


def pages() -> dict[str, str]:
    """Return all pages by their file names."""
    made = {f"{each.name}.md": page(each) for each in ENGINES}
    head = ["# Where patterns run, one page each", "", "| engine | what |", "|---|---|"]
    head += [f"| [{each.name}]({each.name}.md) | {each.what} |" for each in ENGINES]
    after = "Schemas and forms, which hold data themselves, are in [handover.md](../handover.md)."
    return {**made, "README.md": "\n".join([*head, "", after]) + "\n"}


def main() -> None:
    """Write."""
    FOLDER.mkdir(exist_ok=True)
    for name, text in pages().items():
        (FOLDER / name).write_text(text, encoding="utf-8")
    print(f"{len(pages())} pages in {FOLDER.name}")


if __name__ == "__main__":
    main()
