"""A check as one self-contained page: verdict, charts, what needs attention, trials, slowest texts, every suite.

Whatever came out of a suite or a text goes through Jinja's escaping, and control characters are shown as symbols.
Rulers are drawn twice, for a wide and a narrow page, and the page's own style shows the one that has room.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from msgspec.structs import replace

from fieldstick.data.extras import needed
from fieldstick.reporting.cells import Charset, visible
from fieldstick.reporting.charts import Drawing
from fieldstick.reporting.check_report import attention_blocks, suite_columns
from fieldstick.reporting.document import Labelled, Mark, Ruled, Said, Table, said
from fieldstick.reporting.lines import Page, lines_of
from fieldstick.reporting.marks import marks_of
from fieldstick.reporting.trial_report import trials_report
from fieldstick.reporting.words import counted, difference_lines, sample_name, sample_place, verdict
from fieldstick.runs.measures import numeric_fields, slowest_texts
from fieldstick.suites.suite import Pattern

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Sequence

    from fieldstick.comparing.history import RunFigures
    from fieldstick.reporting.document import Block
    from fieldstick.runs.results import CheckResult, PatternResult, SampleResult, SuiteResult

WIDE, NARROW = 100, 40
"""Cells of a ruler where there is room, and where there is little."""

LONGEST_TEXT = 1_200
"""Code points of a text that are drawn; the rest is counted."""

MOST_SAMPLES = 6
"""Samples that pass and are drawn, of each pattern; those that do not are all drawn elsewhere."""

MOST_SLOW = 10
MOST_FIELDS = 6
"""Slowest texts, and numeric fields, that are shown."""

_CHARSET = Charset("utf-8")


def check_as_page(result: CheckResult, runs: Sequence[RunFigures] = (), *, when: str = "") -> str:
    """Write a check as a page; `runs` are those recorded before, oldest first, `when` says when it was made.

    Raises UsageError where Jinja2 or Matplotlib is not installed.
    """
    jinja: Any = needed("jinja2", "a page with charts", "report")
    environment = jinja.Environment(
        loader=jinja.PackageLoader("fieldstick.reporting"),
        autoescape=True,
        trim_blocks=True,
        lstrip_blocks=True,
        undefined=jinja.StrictUndefined,
    )
    words = verdict(result)
    drawing = Drawing()
    charts = [
        drawing.outcomes(result),
        drawing.shares(result, runs),
        drawing.passing(runs),
        drawing.times(result),
        *(drawing.values(each) for each in numeric_fields(result, MOST_FIELDS)),
    ]
    page: str = environment.get_template("page.html.j2").render(
        verdict=words[0].upper() + words[1:],
        state="good" if result.all_well else "bad",
        when=when,
        columns=suite_columns(result),
        suites=[_suite(each) for each in result.suites],
        charts=[each for each in charts if each is not None],
        markup=jinja.utils.markupsafe.Markup,
        attention=_nodes(attention_blocks(result)),
        trials=_nodes(trials_report(result)),
        slow=[{**_plain(each), "text": _shown(each.text, 120)} for each in slowest_texts(result, MOST_SLOW)],
    )
    return page


def _plain(row: Any) -> dict[str, Any]:
    return {key: getattr(row, key) for key in row.__struct_fields__}


def _shown(text: str, most: int = LONGEST_TEXT) -> str:
    cut = text if len(text) <= most else f"{text[:most]}… ({len(text):,} characters)"
    return "".join(each if each == "\n" else visible(each, _CHARSET) for each in cut)


def _suite(suite: SuiteResult) -> dict[str, Any]:
    return {
        "name": suite.suite.name,
        "about": _shown(suite.suite.about),
        "owner": suite.suite.owner and _shown(suite.suite.owner),
        "file": _shown(suite.suite.file),
        "totals": suite.totals,
        "patterns": [_pattern(suite, each) for each in suite.patterns],
    }


def _pattern(suite: SuiteResult, each: PatternResult) -> dict[str, Any]:
    pattern = each.pattern
    passing = [sample for sample in each.samples if sample.outcome == "pass"]
    failing = [sample for sample in each.samples if sample.outcome != "pass"]
    # A page of a thousand patterns is still one that can be opened: those that pass are drawn as examples.
    drawn = [*failing[:MOST_SAMPLES], *passing[:MOST_SAMPLES]]
    written = None
    if isinstance(pattern, Pattern):
        written = pattern.filling.expression if pattern.filling is not None else None
    return {
        "name": pattern.name,
        "about": _shown(pattern.about),
        "expression": None if written is None else _shown(written),
        "members": _members(pattern),
        "passed": len(passing),
        "samples": len(each.samples),
        "seconds": each.seconds,
        "drawn": [
            {"name": sample_name(sample), "outcome": sample.outcome, "nodes": _nodes(_sample(suite, sample))}
            for sample in drawn
        ],
        "more": len(each.samples) - len(drawn),
    }


def _members(pattern: Any) -> str | None:
    if isinstance(pattern, Pattern) and pattern.combination is not None:
        return f"{pattern.combination}: {', '.join(member.name for member in pattern.members)}"
    return None


def _sample(suite: SuiteResult, result: SampleResult) -> Iterator[Block]:
    yield said((sample_place(suite.suite, result), "quiet"))
    if result.sample.note:
        yield Labelled("note", result.sample.note)
    if result.produced is not None:
        yield Ruled(result.sample.text)
        yield Labelled("made", str(result.produced))
    elif not result.sample.text:
        yield said(("(no characters at all)", "quiet"))
    else:
        yield Ruled(result.sample.text, tuple(marks_of(result.reading)) if result.reading is not None else ())
    for difference in result.differences:
        expected, captured = difference_lines(difference)
        yield Labelled("expected", expected)
        yield Labelled("captured", captured)
    if result.words and result.outcome != "pass":
        yield Labelled("because", result.words)


def _nodes(blocks: Iterable[Block]) -> list[dict[str, Any]]:
    """Turn blocks into what the template writes: lines of pieces with their tones, words beside a label, tables."""
    return [_node(block) for block in blocks]


def _node(block: Block) -> dict[str, Any]:
    match block:
        case Said():
            pieces = [{"text": _shown(piece.text), "tone": piece.tone} for piece in block.pieces]
            return {"kind": "said", "pieces": pieces}
        case Labelled():
            return {"kind": "labelled", "label": block.label, "words": _shown(block.words), "tone": block.tone}
        case Table():
            rows = [[_shown(cell) for cell in row] for row in block.rows]
            return {"kind": "table", "header": block.header, "rows": rows}
        case Ruled():
            short = _shortened(block)
            more = len(block.text) - len(short.text)
            drawn = [_drawn(short, width) for width in (WIDE, NARROW)]
            left = f"and {counted(more, 'more character')}" if more else ""
            return {"kind": "ruled", "wide": drawn[0], "narrow": drawn[1], "more": left}
        case _:
            return {"kind": "ruled", "wide": _drawn(block, WIDE), "narrow": _drawn(block, NARROW), "more": ""}


def _shortened(block: Ruled) -> Ruled:
    """Return a text with its marks as far as it is drawn."""
    if len(block.text) <= LONGEST_TEXT:
        return replace(block, indent=0)
    marks = tuple(
        Mark(mark.start, min(mark.end, LONGEST_TEXT), mark.label, mark.kind, mark.tone)
        for mark in block.marks
        if mark.start < LONGEST_TEXT
    )
    return replace(block, text=block.text[:LONGEST_TEXT], marks=marks, indent=0)


def _drawn(block: Block, width: int) -> list[list[dict[str, str]]]:
    return [
        [{"text": visible(segment.text, _CHARSET), "tone": segment.tone} for segment in line]
        for line in lines_of([block], Page(width, _CHARSET))
    ]
