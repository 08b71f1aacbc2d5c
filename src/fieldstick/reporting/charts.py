"""Charts of a check as SVG that stands in a page: its colours are the page's own, in the light and in the dark."""

from __future__ import annotations

import io
import re
import warnings
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fieldstick.data.extras import needed

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.comparing.history import RunFigures
    from fieldstick.runs.measures import NumericField
    from fieldstick.runs.results import CheckResult

_COLOURS = {
    "text": "#010101",
    "line": "#020202",
    "good": "#030303",
    "bad": "#040404",
    "warn": "#050505",
    "one": "#060606",
    "two": "#070707",
    "three": "#080808",
    "four": "#090909",
}
"""Colours that stand for what the page calls them, and nothing else is drawn in."""

_WIDTH = 6.4
_OUTCOMES = (
    ("passed", "pass", "good"),
    ("fail", "fail", "bad"),
    ("error", "error", "warn"),
    ("timeout", "timed out", "three"),
)
MOST_BARS = 16
"""Bars of a chart; of more suites or patterns those of which most is to be seen."""


class Chart(Struct, frozen=True):
    """A chart: its title, the SVG, and in words what it shows, for whoever does not see it; `note` stands under it."""

    title: str
    svg: str
    words: str
    note: str = ""


class Drawing:
    """Draws charts; ids are unique among all that one drawing made. Raises UsageError without Matplotlib."""

    def __init__(self) -> None:
        self._library: Any = needed("matplotlib", "a page with charts", "report")
        self._figures: Any = needed("matplotlib.figure", "a page with charts", "report")
        self._count = 0

    def _axes(self, height: float) -> tuple[Any, Any]:
        figure = self._figures.Figure(figsize=(_WIDTH, height), layout="constrained")
        axes = figure.add_subplot()
        for side, spine in axes.spines.items():
            spine.set_visible(side in ("left", "bottom"))
            spine.set_color(_COLOURS["line"])
        axes.tick_params(colors=_COLOURS["text"], labelsize=9)
        for label in (axes.xaxis.label, axes.yaxis.label):
            label.set_color(_COLOURS["text"])
            label.set_fontsize(9)
        return figure, axes

    def _svg(self, figure: Any) -> str:
        self._count += 1
        for text in figure.findobj(self._library.text.Text):
            text.set_parse_math(False)
        sink = io.StringIO()
        settings = {"svg.fonttype": "none", "svg.hashsalt": f"chart {self._count}", "font.family": "sans-serif"}
        with self._library.rc_context(settings), warnings.catch_warnings():
            warnings.simplefilter("ignore")
            figure.savefig(sink, format="svg", transparent=True, metadata={"Date": None, "Creator": None})
        return _for_page(sink.getvalue(), f"c{self._count}-")

    def outcomes(self, result: CheckResult) -> Chart:
        """Draw how many samples of each suite passed, failed, could not be judged, timed out."""
        suites = sorted(result.suites, key=lambda each: each.totals.passed - each.totals.samples)[:MOST_BARS]
        names = [each.suite.name for each in suites]
        figure, axes = self._axes(0.8 + 0.3 * len(suites))
        left = [0.0] * len(suites)
        for key, label, colour in _OUTCOMES:
            counts = [float(getattr(each.totals, key)) for each in suites]
            if any(counts):
                axes.barh(range(len(suites)), counts, left=left, color=_COLOURS[colour], label=label, height=0.6)
                left = [one + other for one, other in zip(left, counts, strict=True)]
        self._named_bars(axes, names, "samples")
        self._legend(axes)
        words = "; ".join(f"{each.suite.name}: {each.totals.passed} of {each.totals.samples} pass" for each in suites)
        return Chart("Outcomes by suite", self._svg(figure), words)

    def _named_bars(self, axes: Any, names: Sequence[str], unit: str) -> None:
        axes.set_yticks(range(len(names)), names)
        axes.invert_yaxis()
        axes.use_sticky_edges = False
        axes.margins(x=0.03)
        axes.autoscale_view()
        axes.set_xlim(left=0)
        axes.set_xlabel(unit)
        axes.xaxis.set_major_locator(self._library.ticker.MaxNLocator(integer=unit == "samples"))

    def _over_runs(
        self, runs: Sequence[RunFigures], lines: Sequence[tuple[str, str, str, list[tuple[int, float]]]], unit: str
    ) -> Any:
        """Draw lines over runs, each with its name, colour, style and points, and return the figure."""
        figure, axes = self._axes(2.6)
        for name, colour, style, points in lines:
            axes.plot(
                [x for x, _ in points], [y for _, y in points],
                color=_COLOURS[colour], linestyle=style, marker="o", markersize=3, label=name,
            )  # fmt: skip
        axes.set_xlabel(f"runs, from {runs[0].when:%Y-%m-%d} to {runs[-1].when:%Y-%m-%d}")
        axes.set_ylabel(unit)
        axes.xaxis.set_major_locator(self._library.ticker.MaxNLocator(integer=True))
        if unit == "samples":
            axes.yaxis.set_major_locator(self._library.ticker.MaxNLocator(integer=True))
        axes.grid(axis="y", color=_COLOURS["line"], linewidth=0.5)
        self._legend(axes, least=1, columns=1)
        return figure

    def _legend(self, axes: Any, *, least: int = 2, columns: int = 4) -> None:
        handles, labels = axes.get_legend_handles_labels()
        if len(handles) >= least:
            place = {"loc": "lower left", "bbox_to_anchor": (0, 1), "ncols": columns, "frameon": False, "fontsize": 9}
            axes.legend(handles, labels, labelcolor=_COLOURS["text"], **place)

    def times(self, result: CheckResult) -> Chart | None:
        """Draw how long judging the samples of each pattern took; None where nothing took any time."""
        timed = [
            (f"{suite.suite.name}:{each.pattern.name}", each.seconds)
            for suite in result.suites
            for each in suite.patterns
        ]
        timed = sorted((each for each in timed if each[1]), key=lambda each: -each[1])[:MOST_BARS]
        if not timed:
            return None
        figure, axes = self._axes(0.8 + 0.24 * len(timed))
        axes.barh(range(len(timed)), [1000 * seconds for _, seconds in timed], color=_COLOURS["one"], height=0.6)
        self._named_bars(axes, [name for name, _ in timed], "milliseconds for all samples")
        words = "; ".join(f"{name}: {1000 * seconds:.1f} ms" for name, seconds in timed)
        return Chart("Time by pattern", self._svg(figure), words)

    def shares(self, result: CheckResult, runs: Sequence[RunFigures]) -> Chart | None:
        """Draw the share of fitting lines of each trial: over the recorded runs, or, without any, as it is now."""
        trials = [
            (suite.suite.name, each.trial.data, float(each.share())) for suite in result.suites for each in suite.trials
        ][:MOST_BARS]
        if not trials:
            return None
        if len(runs) < 2:
            figure, axes = self._axes(0.8 + 0.3 * len(trials))
            axes.barh(range(len(trials)), [100 * share for *_, share in trials], color=_COLOURS["one"], height=0.6)
            self._named_bars(axes, [f"{suite}:{data}" for suite, data, _ in trials], "share of texts that fit, %")
            axes.set_xlim(0, 100)
        else:
            lines = []
            for (colour, style), (suite, data, _) in zip(_LINES, trials, strict=False):
                points = [
                    (number, 100 * each.share)
                    for number, run in enumerate(runs, 1)
                    for each in run.trials
                    if (each.suite, each.data) == (suite, data)
                ]
                lines.append((f"{suite}:{data}", colour, style, points))
            figure = self._over_runs(runs, lines, "texts that fit, %")
        words = "; ".join(f"{suite}:{data}: {100 * share:.1f} %" for suite, data, share in trials)
        over = f" over {len(runs)} runs" if len(runs) > 1 else ""
        return Chart(f"Share of fitting texts by trial{over}", self._svg(figure), words, words)

    def passing(self, runs: Sequence[RunFigures]) -> Chart | None:
        """Draw how many samples passed in the recorded runs, of how many; None without two runs."""
        if len(runs) < 2:
            return None
        lines = [
            (label, colour, style, [(number, float(run.counts[key])) for number, run in enumerate(runs, 1)])
            for key, label, colour, style in (("samples", "samples", "two", "--"), ("passed", "pass", "good", "-"))
        ]
        figure = self._over_runs(runs, lines, "samples")
        first, last = runs[0].counts, runs[-1].counts
        words = (
            f"{first['passed']:,} of {first['samples']:,} passed first, {last['passed']:,} of {last['samples']:,} last"
        )
        return Chart(f"Samples that pass over {len(runs)} runs", self._svg(figure), words, words)

    def values(self, field: NumericField) -> Chart:
        """Draw how the values of a numeric field are distributed, with its bounds."""
        figure, axes = self._axes(2.0)
        axes.hist(field.values, bins=min(40, max(5, len(set(field.values)))), color=_COLOURS["one"])
        for bound in (field.least, field.most):
            if bound is not None:
                axes.axvline(bound, color=_COLOURS["bad"], linestyle="--", linewidth=1.2)
        axes.set_xlabel(f"{field.name}, {field.unit}" if field.unit else field.name)
        axes.set_ylabel("captured")
        low, high = min(field.values), max(field.values)
        limits = [f"{bound:g}" if bound is not None else "…" for bound in (field.least, field.most)]
        beyond = sum(
            (field.least is not None and each < field.least) or (field.most is not None and each > field.most)
            for each in field.values
        )
        shown = f"{len(field.values):,} values from {low:g} to {high:g} in {field.source}"
        words = f"{shown}; bounds {' to '.join(limits)}, {beyond:,} beyond"
        return Chart(f"{field.suite}:{field.pattern}, {field.name}", self._svg(figure), words, words)


_LINES = (
    ("one", "-"), ("two", "--"), ("three", "-."), ("four", ":"),
    ("one", ":"), ("two", "-"), ("three", "--"), ("four", "-."),
)  # fmt: skip


def _for_page(svg: str, prefix: str) -> str:
    """Return the SVG element alone, its ids unique in the page and its colours those of the page."""
    svg = svg[svg.index("<svg") :]
    svg = re.sub(r"<metadata>.*?</metadata>", "", svg, flags=re.DOTALL)
    svg = re.sub(r'\bid="([^"]+)"', rf'id="{prefix}\1"', svg)
    svg = re.sub(r'(xlink:href="#|url\(#)', rf"\1{prefix}", svg)
    for name, colour in _COLOURS.items():
        svg = svg.replace(colour, f"var(--{name})")
    # It takes the room that the page has for it.
    return re.sub(
        r'^<svg ([^>]*?)width="[^"]*" ?',
        r'<svg \1role="img" aria-hidden="true" ',
        re.sub(r'(<svg [^>]*?)height="[^"]*" ?', r"\1", svg, count=1),
        count=1,
    )
