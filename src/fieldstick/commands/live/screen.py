"""The screen of the live view: two heaps, what fits and what does not, above the draft that parts them."""

from __future__ import annotations

import asyncio
import signal
from contextlib import suppress
from typing import TYPE_CHECKING, ClassVar

from msgspec import Struct
from rich.text import Text
from textual.app import App, ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal, Vertical, VerticalScroll
from textual.widgets import Input, OptionList, Static
from textual.widgets.option_list import Option

from fieldstick.commands.live.worker import Draft, Found
from fieldstick.drafting.outline import outline_as_written
from fieldstick.ending import SIGNALS
from fieldstick.errors import FieldstickError, SyntaxFault
from fieldstick.reporting.cells import visible
from fieldstick.reporting.document import Ruled
from fieldstick.reporting.lines import Page, lines_of
from fieldstick.reporting.marks import marks_of
from fieldstick.reporting.terminal import STYLES
from fieldstick.reporting.why_report import stop_marks
from fieldstick.reporting.words import counted
from fieldstick.runs.heaps import HeldText

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Sequence

    from fieldstick.commands.live.worker import Reader
    from fieldstick.reporting.document import Mark
    from fieldstick.reporting.ruler import Line
    from fieldstick.runs.heaps import Heaps
    from fieldstick.suites.overrides import Overrides

POLL = 0.04
"""Seconds between two looks at what was found."""

MOST_SHOWN = 40
"""Kinds and causes that a heap shows."""

KEYS = "F2+ F3− sample  F4 why  F5 mover  F6 keep  F7 undo  ⇥ heap  ↑↓ text  F10 leave"


class Kept(Struct):
    """Samples taken so far."""

    positive: list[str]
    negative: list[str]


class Entry(Struct, frozen=True):
    """What a heap shows as one: the text that is drawn, how many are like it, and how it looks."""

    text: HeldText
    count: str
    drawn: Text


def styled(lines: Iterable[Line]) -> Text:
    """Return lines of a document as Rich has them."""
    made = Text()
    for number, line in enumerate(lines):
        if number:
            made.append("\n")
        for segment in line:
            made.append(visible(segment.text), STYLES.get(segment.tone, ""))
    return made


class DraftScreen(App[None]):
    """The live view. `keep` writes the draft with its samples to a suite and returns words that say so."""

    CSS = """
    Screen { layout: vertical; }
    #heaps { height: 1fr; }
    .heap { width: 1fr; }
    .heap > Static { height: 1; padding: 0 1; text-style: bold; }
    .heap > OptionList { height: 1fr; border: none; padding: 0; scrollbar-size-vertical: 1; background: transparent; }
    .heap > OptionList:focus { border: none; }
    OptionList > .option-list--option-highlighted { background: transparent; color: $foreground; text-style: none; }
    .chosen > OptionList > .option-list--option-highlighted { background: $surface-lighten-2; color: $foreground; }
    .chosen > Static { text-style: bold underline; }
    #left { border-right: vkey $surface-lighten-2; }
    #why { display: none; height: 1fr; padding: 0 1; }
    #moved { height: 2; padding: 0 1; }
    #piece { height: 1; padding: 0 1; }
    #prompt { height: 1; }
    #mark { width: 2; }
    Input { border: none; height: 1; padding: 0; background: transparent; }
    Input:focus { border: none; }
    #keys { height: 1; padding: 0 1; color: $text-muted; }
    """
    ENABLE_COMMAND_PALETTE = False
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("f2", "take('positive')", priority=True),
        Binding("f3", "take('negative')", priority=True),
        Binding("f4", "why", priority=True),
        Binding("f5", "mover", priority=True),
        Binding("f6", "keep", priority=True),
        Binding("f7,ctrl+z", "undo", priority=True),
        Binding("tab", "other_heap", priority=True),
        Binding("up", "move(-1)", priority=True),
        Binding("down", "move(1)", priority=True),
        Binding("escape", "return", priority=True),
        Binding("f10,ctrl+q", "quit", priority=True),
    ]

    def __init__(
        self,
        reader: Reader,
        expression: str,
        overrides: Overrides,
        keep: Callable[[str, str, Kept], str],
    ) -> None:
        super().__init__()
        self._reader, self._overrides, self._keep = reader, overrides, keep
        self._first = expression
        self.ended_by: int | None = None
        """The signal that ended this."""

        self._number = 0
        self._outcomes = b""
        self._settled: list[str] = []
        self._entries: dict[str, list[Entry]] = {"fits": [], "misses": []}
        self._heap = "misses"
        self._mover = -1
        self._moving: list[tuple[str, HeldText]] = []
        self._at_mover = False
        self._kept = Kept([], [])
        self._moved = 0
        self._last: Heaps | None = None
        self._asking_name = False
        self._asked_draft = ""
        """The draft while a name is asked for on its line."""
        self._asked_about: str | None = None
        """The draft that was asked about last."""

    def compose(self) -> ComposeResult:
        """Lay the screen out."""
        with Horizontal(id="heaps"):
            for side, name in (("left", "fits"), ("right", "misses")):
                with Vertical(id=side, classes="heap"):
                    yield Static(name, id=f"{name}-head", markup=False)
                    heap = OptionList(id=name)
                    heap.can_focus = False
                    yield heap
        with VerticalScroll(id="why"):
            yield Static(id="why-text", markup=False)
        yield Static(id="moved", markup=False)
        yield Static(id="piece", markup=False)
        with Horizontal(id="prompt"):
            yield Static("›", id="mark", markup=False)
            yield Input(self._first, id="draft", select_on_focus=False)
        yield Static(KEYS, id="keys", markup=False)

    def on_mount(self) -> None:
        """Begin to ask, and to look for what is found; a signal ends this as leaving does, when the screen is drawn."""
        for each in SIGNALS:
            if each != signal.SIGINT and signal.getsignal(each) != signal.SIG_IGN:
                # Some systems, and threads beside the main one, have no such handlers.
                with suppress(NotImplementedError, RuntimeError, ValueError):
                    asyncio.get_running_loop().add_signal_handler(each, self._end_by, each)
        self._input.focus()
        self._input.cursor_position = len(self._first)
        self.set_interval(POLL, self._poll)
        self._say("reading …")
        self._ask()
        self.watch(self._input, "selection", self._tell_piece, init=False)
        self._tell_piece()
        self._show_heap()

    def _end_by(self, number: int) -> None:
        self.ended_by = number
        self.exit()

    @property
    def _input(self) -> Input:
        return self.query_one("#draft", Input)

    def on_input_changed(self, event: Input.Changed) -> None:
        """Ask about the draft as it is now."""
        if not self._asking_name and self._draft != self._asked_about:
            self._tell_piece()
            self._ask()

    def on_input_submitted(self, event: Input.Submitted) -> None:
        """Keep under the name that was given."""
        if not self._asking_name:
            return
        name, draft = event.value, self._draft
        self._end_name()
        try:
            self._say(self._keep(name, draft, self._kept), "good")
        except FieldstickError as error:
            self._say(str(error), "bad")

    @property
    def _draft(self) -> str:
        return self._asked_draft if self._asking_name else self._input.value

    def _ask(self) -> None:
        self._number += 1
        self._at_mover = False
        self._asked_about = self._draft
        self._reader.ask(Draft(self._number, self._draft, self._overrides, self._outcomes, *self._samples))

    @property
    def _samples(self) -> tuple[tuple[str, ...], tuple[str, ...]]:
        return tuple(self._kept.positive), tuple(self._kept.negative)

    def _poll(self) -> None:
        for found in self._reader.found():
            if found.number == -1:
                self._say(found.fault or "", "bad")
            elif found.number == self._number:
                self._take_in(found)

    def _take_in(self, found: Found) -> None:
        if found.why is not None:
            self.query_one("#why-text", Static).update(styled(found.why))
            self.query_one("#heaps").display = False
            self.query_one("#why").display = True
        elif found.fault is not None:
            self._say(f"cannot be read: {found.fault}", "bad")
        elif found.heaps is not None:
            self._last = found.heaps
            self._show(found.heaps, whole=found.whole)
            if found.whole:
                self._settle(found.heaps, found.broken)

    def _show(self, heaps: Heaps, *, whole: bool) -> None:
        page = Page(max(20, self.size.width // 2 - 4))

        def drawn(text: str, marks: Sequence[Mark]) -> Text:
            return styled(lines_of([Ruled(text, tuple(marks), indent=0)], page))

        among = f" of the first {heaps.looked_at:,}" if heaps.texts > heaps.looked_at else ""
        going = "" if whole else " …"
        self._entries["fits"] = [
            Entry(each.first, f"{each.count:,}{among} like this", drawn(each.first.text, marks_of(each.result)))
            for each in heaps.kinds[:MOST_SHOWN]
        ]
        self._entries["misses"] = [
            Entry(
                HeldText(each.first.source, each.first.number, each.first.text),
                f"{each.count:,}: {each.words}",
                drawn(each.first.text, stop_marks(each.first.stop) if each.first.stop is not None else ()),
            )
            for each in heaps.causes[:MOST_SHOWN]
        ]
        for name in self._entries:
            self._fill(name)
        share = f" · {100 * heaps.fit / heaps.texts:.1f} %" if heaps.texts else ""
        self.query_one("#fits-head", Static).update(Text(f"fits {heaps.fit:,}{share}{going}", STYLES["good"]))
        gave_up = f" · {heaps.gave_up:,} given up" if heaps.gave_up else ""
        self.query_one("#misses-head", Static).update(
            Text(f"misses {heaps.missed:,}{gave_up}{going}", STYLES["bad"] if heaps.missed else STYLES["good"])
        )

    def _fill(self, name: str) -> None:
        entries = self._entries[name]
        heap = self.query_one(f"#{name}", OptionList)
        highlighted = heap.highlighted or 0
        heap.clear_options()
        for entry in entries:
            taken = "+ " if entry.text.text in self._kept.positive else ""
            taken = "− " if entry.text.text in self._kept.negative else taken
            heap.add_option(
                Option(Text.assemble((f"{taken}{entry.count}\n", STYLES["warn"] if taken else "dim"), entry.drawn))
            )
        if entries:
            heap.highlighted = min(highlighted, len(entries) - 1)
        self._show_heap()

    def _settle(self, heaps: Heaps, broken: tuple[str, ...]) -> None:
        """Say what the draft moved, and hold the next one against it."""
        if heaps.halted is not None:
            self._say(heaps.halted, "bad")
            return
        movers = heaps.movers
        self._outcomes = heaps.outcomes
        if not self._settled or self._settled[-1] != self._draft:
            self._settled.append(self._draft)
        samples = self._samples_words(broken)
        if movers is None:
            self._say(f"{counted(heaps.texts, 'text')}{samples}")
            return
        self._moving = [("→ fits", each) for each in movers.first_gained]
        self._moving += [("→ misses", each) for each in movers.first_lost]
        self._mover = -1
        self._moved = movers.gained + movers.lost
        if not self._moving:
            self._say(f"nothing moved{samples}", "bad" if broken else "quiet")
            return
        words = f"+{movers.gained:,} fit now, −{movers.lost:,} no longer{samples}"
        self._say(f"{words}\n{self._moving[0][1].text}", "bad" if broken else "warn")

    def _samples_words(self, broken: tuple[str, ...] = ()) -> str:
        kept = self._kept
        if not kept.positive and not kept.negative:
            return ""
        words = f" · samples: {len(kept.positive)} positive, {len(kept.negative)} negative"
        return f"{words}, {len(broken)} wrong: {broken[0]}" if broken else words

    def _say(self, words: str, tone: str = "quiet") -> None:
        shown = "\n".join(visible(line) for line in words.split("\n", 1))
        self.query_one("#moved", Static).update(Text(shown, STYLES.get(tone, "")))

    def _tell_piece(self) -> None:
        """Tell the piece under the cursor in words."""
        at, told = self._input.cursor_position, self.query_one("#piece", Static)
        if self._asking_name:
            return
        try:
            outlined = outline_as_written(self._draft, frozenset(self._overrides.flags))
        except SyntaxFault as fault:
            told.update(Text(visible(f"at {fault.span[0]}: {fault}"), STYLES["bad"]))
            return
        lines = [each for each in outlined if each.span[0] <= max(at - 1, 0) < each.span[1]]
        if not lines:
            told.update("")
            return
        line = min(lines, key=lambda each: each.span[1] - each.span[0])
        told.update(Text.assemble((visible(line.source), "bold"), "  ", visible(line.words)))

    def _show_heap(self) -> None:
        for name in ("fits", "misses"):
            heap = self.query_one(f"#{name}").parent
            if heap is not None:
                heap.set_class(name == self._heap, "chosen")

    @property
    def _selected(self) -> HeldText | None:
        if self._at_mover and 0 <= self._mover < len(self._moving):
            return self._moving[self._mover][1]
        at, entries = self.query_one(f"#{self._heap}", OptionList).highlighted, self._entries[self._heap]
        return entries[at].text if at is not None and at < len(entries) else None

    def action_move(self, step: int) -> None:
        """Go to another text of the heap."""
        self._at_mover = False
        heap = self.query_one(f"#{self._heap}", OptionList)
        if heap.option_count:
            heap.highlighted = max(0, min(heap.option_count - 1, (heap.highlighted or 0) + step))

    def action_other_heap(self) -> None:
        """Go to the other heap."""
        self._at_mover = False
        self._heap = "fits" if self._heap == "misses" else "misses"
        self._show_heap()

    def action_take(self, kind: str) -> None:
        """Take the selected text as a sample, or no longer."""
        chosen = self._selected
        if chosen is None:
            return
        ours, theirs = self._kept.positive, self._kept.negative
        if kind == "negative":
            ours, theirs = theirs, ours
        if chosen.text in theirs:
            theirs.remove(chosen.text)
        if chosen.text in ours:
            ours.remove(chosen.text)
        else:
            ours.append(chosen.text)
        if self._last is not None:
            self._show(self._last, whole=True)
        self._say(f"{kind}{self._samples_words()}\n{chosen.text}", "good")

    def action_why(self) -> None:
        """Ask why the selected text fits or does not."""
        chosen = self._selected
        if chosen is not None and not self._asking_name:
            self._number += 1
            width = max(20, self.size.width - 4)
            asked = Draft(self._number, self._draft, self._overrides, b"", *self._samples, chosen.text, width)
            self._reader.ask(asked)

    def action_mover(self) -> None:
        """Go to the next text that the last keystrokes moved."""
        if not self._moving:
            self._say("nothing moved")
            return
        self._mover = (self._mover + 1) % len(self._moving)
        self._at_mover = True
        way, text = self._moving[self._mover]
        self._say(f"{way}  {self._mover + 1} of {self._moved:,}, line {text.number}\n{text.text}", "warn")

    def action_undo(self) -> None:
        """Go back to the draft before the last one that was counted."""
        while self._settled and self._settled[-1] == self._draft:
            self._settled.pop()
        if self._settled:
            self._input.value = self._settled[-1]
            self._input.cursor_position = len(self._settled[-1])

    def action_keep(self) -> None:
        """Ask for the name to keep the draft under."""
        if self._asking_name:
            return
        self._asked_draft, self._asking_name = self._input.value, True
        self._input.value = ""
        self._say("keep as SUITE:NAME, or FILE.suite.toml:NAME; Esc to go back")
        self.query_one("#piece", Static).update(Text(visible(self._asked_draft), STYLES["quiet"]))

    def _end_name(self) -> None:
        self._input.value = self._asked_draft
        self._asking_name = False
        self._input.cursor_position = len(self._asked_draft)
        self._tell_piece()

    def action_return(self) -> None:
        """Leave what was asked for, and come back to the heaps."""
        if self._asking_name:
            self._end_name()
            self._say("")
        self.query_one("#why").display = False
        self.query_one("#heaps").display = True
