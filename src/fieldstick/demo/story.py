"""The story that `demo` tells: what happens, the edits made to the files, the commands run on them."""

from __future__ import annotations

from importlib import resources
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.errors import UsageError

if TYPE_CHECKING:
    from collections.abc import Iterator
    from importlib.resources.abc import Traversable


class Tell(Struct, frozen=True):
    """A paragraph."""

    words: str


class Edit(Struct, frozen=True):
    """A line of a file that is changed: `before` becomes `after`."""

    file: str
    before: str
    after: str


class Run(Struct, frozen=True):
    """A command of Fieldstick, run in the demo's folder.

    `status` is how it must end for the story to go on; `shown` how many lines of its output are shown, None for all.
    """

    arguments: tuple[str, ...]
    status: int = 0
    shown: int | None = None


Step = Tell | Edit | Run

_FRAME = 'frame=(?P<frame>\\d{6}) "(?P<beast>{{beast}})"'
_TIGHTENED = 'frame=0*(?P<frame>\\d{1,6}) "(?P<beast>\\w+)"'
_MENDED = 'frame=(?=\\d{6} )0*(?P<frame>\\d+) "(?P<beast>{{beast}})"'
_CANDIDATE = "{{head}} probe=(?P<plot>{{common.plot}}) battery=(?P<volts>[23]\\.\\d{2})V(?P<low> LOW)?"

_LABEL, _STRICTER = r"LMF-[SPB]-\d{6}(?:/\d{1,2})?", r"LMF-[SPB]-\d{6}(?:/[2-9]|/[1-9]\d)?"

STORY: tuple[Step, ...] = (
    Tell(
        "Larkmoor is an upland field station. Its data desk keeps five suites of patterns: what the loggers write, "
        "what people may type into the permit form, how specimens and rings are recorded, what field notes mention. "
        "First, is all well?"
    ),
    Run(("check",)),
    Tell(
        "All of it. Now somebody tidies the pattern for camera frames: leading zeros are noise, and a beast is a "
        "word, surely. It looks right, and it matches the line they have in front of them."
    ),
    Edit("loggers.suite.toml", _FRAME, _TIGHTENED),
    Run(("check", "--only", "loggers:trap-frame"), status=1),
    Tell(
        "Three samples regressed: a mountain hare is two words, and a frame number that is not padded to six now gets "
        "through, as does a capital. One more passes, but captures another frame number than before, as was meant. So "
        "the pattern is mended: six digits are asked for again before the zeros are dropped, and a beast may have "
        "several words."
    ),
    Edit("loggers.suite.toml", _TIGHTENED, _MENDED),
    Run(("check", "--only", "loggers:trap-frame"), status=1),
    Tell(
        "Every sample passes, and still the check fails: the frame number is captured otherwise than recorded, and "
        "whoever uses the pattern should not find that out alone. It was meant; it is recorded as the new baseline."
    ),
    Run(("baseline", "--yes", "loggers.suite.toml")),
    Run(("check",)),
    Tell(
        "Next time the question comes first. A cell that shows four volts is broken, somebody says; what would a "
        "tighter expression do in the place of the one that is kept? Nothing is changed by asking."
    ),
    Run(("compare", "loggers:battery", "-e", _CANDIDATE), shown=30),
    Tell(
        "No sample minds, but fifteen lines of the month's log would no longer fit: whoever watches the batteries "
        "would never hear of those cells. The pattern stays as it is."
    ),
    Tell(
        "Samples and a month of lines are what has been seen. Two ways to write a specimen's number can be held "
        "against each other on every text there is, seen or not:"
    ),
    Run(("compare", "-e", _LABEL, "-e", _STRICTER), shown=4),
    Tell(
        "Proven, with a shortest text that shows it. The same proof finds what no sample of a pattern decides: with "
        "the marked piece otherwise, every sample would come out as it does now."
    ),
    Run(("gaps", "records:specimen-number", "--show", "3"), status=1),
    Tell(
        "Each of these texts would settle a piece; gaps --add goes through them. And what is likely to bite later, in "
        "all suites at once?"
    ),
    Run(("hazards",)),
    Tell(
        "Two are known, and accepted where they stand: the expression of a whole report, which some text would keep "
        "busy, has a budget of its own, and a day without a weather mark is meant."
    ),
    Tell(
        "New data comes in: permit codes as people typed them. Before any pattern is written or changed, what shapes "
        "are there?"
    ),
    Run(("survey", "data/permits-2026.csv", "--column", "Permit code", "--top", "6")),
    Tell("Small letters, dashes for hyphens, codes cut short. Why does the pattern turn one of them away?"),
    Run(("why", "permits:permit-code", "lm-2026-0412-r")),
    Tell(
        "The code will be asked for on a web page too, where another engine reads the pattern. Does it let digits of "
        "another alphabet through?"
    ),
    Run(("why", "permits:permit-code", "LM-20\u0662\u0666-0417-R"), shown=5),
    Run(("explain", "permits:permit-code", "--engine", "ecmascript", "--depth", "1")),
    Tell(
        "Here it does, for a digit may be of any alphabet; there it would not, and the names of groups are written "
        "otherwise: one expression, and a bad value passes on one engine alone. What means the same there is given, "
        "and check --engine judges the samples on the real engines."
    ),
    Tell(
        "Enough looked at: the patterns go to work. Who wrote what in the month's log? A route tries its patterns in "
        "order; each line goes as it stands to the file of its kind."
    ),
    Run(("route", "loggers:line-kind", "data/loggers-2026-05.log", "--into", "kinds"), status=1),
    Tell(
        "One line has a byte that is no UTF-8. It is not lost, and the status says that it is there. Next, the "
        "batteries as rows of typed fields; a text with a value out of bounds would be turned away."
    ),
    Run(("extract", "loggers:battery", "kinds/battery.log", "--to", "battery.csv")),
    Run(("extract", "loggers:battery", "kinds/battery.log", "--template", "{at:first 10}  {plot}  {volts} V"), shown=4),
    Tell("The permits, row by row: what is rejected, why, and what to tell whoever filled the form in."),
    Run(
        ("validate", "data/permits-2026.csv", "--form", "permits:permit", "--rejects", "rejects.csv", "--show", "2"),
        status=1,
    ),
    Tell("Visitors may read the field notes, but not where the ouzels nest. A rewrite shows first what it would do."),
    Run(("rewrite", "notes:blur-position", "data/field-notes.txt")),
    Run(("rewrite", "notes:blur-position", "data/field-notes.txt", "--to", "notes-for-visitors.txt")),
    Tell("And what was ringed at each site, whatever stands around its name in the books?"),
    Run(
        (
            "lookup",
            "records:ringed-at",
            "data/ringing-2026.csv",
            "--for",
            "data/sites.csv",
            "--parameter",
            "site=Locality",
        ),
        shown=5,
    ),
)

_ENDING = (
    "That is the round: check, change, check, record, put to work. The files are yours in {folder}; try next\n"
    "  fieldstick explain records:species                 the same expression in plain words\n"
    "  fieldstick check --only permits --format json      the same result for a program\n"
    "  fieldstick check --report junit=check.xml          for a build server\n"
    "  fieldstick report --to page.html                   the same on a page, with charts\n"
    "  fieldstick gaps --add                              go through what no sample decides, one by one\n"
    "  fieldstick route loggers:line-kind --overlaps      which kinds want the same texts, whatever the data\n"
    "  fieldstick check --watch                           and then save a suite in an editor\n"
    "  fieldstick select loggers:any-line data/loggers-2026-05.log --not      lines that nobody meant\n"
    "  fieldstick rewrite loggers:for-visitors data/loggers-2026-05.log       two rewrites in order, previewed\n"
    "  fieldstick new my-first                            a suite of your own, which already checks clean\n"
    "The log, the tables, the notes and the reply that these patterns are about lie in data/."
)


def ending(folder: str) -> str:
    """Say what to try next in the folder."""
    return _ENDING.format(folder=folder)


def lay_out(folder: Path) -> int:
    """Copy the demo's files into `folder` and return how many there are.

    Raises UsageError, before anything is written, when one of them is there already.
    """
    files = dict(_files(resources.files("fieldstick.demo") / "larkmoor", Path()))
    there = [name for name in files if (folder / name).exists() or (folder / name).is_symlink()]
    if there:
        raise UsageError(f"{folder / there[0]} is there already; nothing was written. Choose a folder with --into DIR")
    try:
        for name, content in files.items():
            target = folder / name
            target.parent.mkdir(parents=True, exist_ok=True)
            with target.open("xb") as stream:
                stream.write(content)
    except OSError as error:
        raise UsageError(f"{error.filename or folder}: cannot be written: {error.strerror or error}") from None
    return len(files)


def _files(folder: Traversable, path: Path) -> Iterator[tuple[Path, bytes]]:
    for entry in sorted(folder.iterdir(), key=lambda each: each.name):
        if entry.is_dir():
            yield from _files(entry, path / entry.name)
        else:
            yield path / entry.name, entry.read_bytes()


def apply_edit(folder: Path, edit: Edit) -> tuple[int, str, str]:
    """Make an edit and return the number of the line with its text before and after.

    Raises UsageError when the line is not there as the story expects it.
    """
    path = folder / edit.file
    lines = path.read_text(encoding="utf-8").splitlines(keepends=True)
    for number, line in enumerate(lines):
        if edit.before in line:
            lines[number] = line.replace(edit.before, edit.after)
            path.write_text("".join(lines), encoding="utf-8")
            return number + 1, line.rstrip("\n"), lines[number].rstrip("\n")
    raise UsageError(f"{path} is not as the story left it; lay the demo out anew with --into DIR")
