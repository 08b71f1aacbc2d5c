"""The language server, asked by a client over standard input and output."""

from __future__ import annotations

import asyncio
import os
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from lsprotocol import types
from pygls.lsp.client import LanguageClient

from fieldstick.lsp.answers import Desk as Suites
from fieldstick.lsp.keys import choices_of, keys_of
from fieldstick.lsp.names import Encoding, SuiteText
from fieldstick.lsp.server import path_of

if TYPE_CHECKING:
    from collections.abc import Awaitable, Callable

    from desk import Desk

Said = dict[str, list[types.Diagnostic]]

COMMON = """format = 1
suite = "common"

[parts]
plot = '[A-F]\\d{2}'
row = '{{plot}}/\\d'
"""

PLOTS = """format = 1
suite = "plots"
borrow = { common = "common.suite.toml" }

[parts]
measure = '\\d+\\.\\d'

[patterns.reading]
about = "What a probe read"
expression = 'plot=(?P<plot>{{common.plot}}) moisture=(?P<moisture>{{measure}})%'
fields.moisture = { type = "decimal", most = 100 }
positive = ['plot=B07 moisture=31.4%', 'plot=G07 moisture=31.4%']
negative = ['plot=B07 moisture=31%']

[patterns.note]
expression = '(?:a+)+!'
positive = ['aa!']

[patterns.either]
any_of = ["reading", "note"]
positive = ['aa!']
"""


@given(st.lists(st.text("aé😀 =[]'", max_size=12), max_size=5), st.data())
def test_places_are_counted_as_the_protocol_counts_them(lines: list[str], data: st.DataObject) -> None:
    text = SuiteText("\n".join(lines))
    position = data.draw(st.integers(0, len(text.text)))
    line, character = text.place(position)
    before = text.text[:position]
    assert line == before.count("\n")
    assert character == len(before.rpartition("\n")[2].encode("utf-16-le")) // 2
    assert text.at(line, character) == position


@given(st.text("aé\n", max_size=12), st.text("aé\n", max_size=12))
def test_a_change_is_the_shortest_stretch_that_differs(before: str, after: str) -> None:
    start, end, new = SuiteText(before).changed_to(after)
    assert before[:start] + new + before[end:] == after
    assert before[start:end][:1] != new[:1] or not new or start == end
    assert before[start:end][-1:] != new[-1:] or not new or start == end


class Editor:
    """An editor with a server of its own, one file open in it."""

    def __init__(self, client: LanguageClient, file: Path, said: Said, encoding: Encoding) -> None:
        self.client, self.uri, self._said, self._encoding = client, file.as_uri(), said, encoding
        self.text = SuiteText(file.read_text(encoding="utf-8"))
        self._version = 1

    def type(self, text: str) -> None:
        """Replace what the file holds."""
        self._said.clear()
        self._version += 1
        self.text = SuiteText(text)
        self.client.text_document_did_change(
            types.DidChangeTextDocumentParams(
                types.VersionedTextDocumentIdentifier(self._version, self.uri),
                [types.TextDocumentContentChangeWholeDocument(text)],
            )
        )

    def open(self, uri: str, text: str) -> None:
        """Open a file."""
        self._said.clear()
        document = types.TextDocumentItem(uri, "toml", 1, text)
        self.client.text_document_did_open(types.DidOpenTextDocumentParams(document))

    async def diagnostics(self) -> list[types.Diagnostic]:
        """Wait for what is said of the file."""
        for _ in range(400):
            if self.uri in self._said:
                return self._said[self.uri]
            await asyncio.sleep(0.05)
        raise AssertionError("nothing was said")

    def at(self, words: str, beyond: int = 0) -> dict[str, Any]:
        """Return a place in the file, as what is asked of one has it."""
        line, character = self.text.place(self.text.text.index(words) + beyond, self._encoding)
        document = types.TextDocumentIdentifier(self.uri)
        return {"text_document": document, "position": types.Position(line, character)}

    def read(self, place: types.Range) -> str:
        """Return what stands at a place of the file."""
        start, end = self._span(place)
        return self.text.text[start:end]

    def _span(self, place: types.Range) -> tuple[int, int]:
        start, end = (self.text.at(each.line, each.character, self._encoding) for each in (place.start, place.end))
        return start, end

    def applied(self, edit: types.WorkspaceEdit | None) -> str:
        """Return the text of the file, or of another one, after a change of one stretch."""
        assert edit is not None and edit.changes is not None
        ((uri, (change,)),) = edit.changes.items()
        if uri != self.uri:
            self.text = SuiteText(Path(path_of(uri)).read_text(encoding="utf-8"))
        start, end = self._span(change.range)
        return self.text.text[:start] + change.new_text + self.text.text[end:]


def edited(desk: Desk, steps: Callable[[Editor], Awaitable[None]], encoding: Encoding = "utf-16") -> None:
    """Begin a server on the folder, open the suite of plots, and go through steps."""
    desk.write("common.suite.toml", COMMON)
    desk.write("plots.suite.toml", PLOTS)
    file = desk.folder / "plots.suite.toml"

    async def run() -> None:
        client = LanguageClient("desk", "1")
        said: Said = {}

        @client.feature(types.TEXT_DOCUMENT_PUBLISH_DIAGNOSTICS)
        def _published(asked: types.PublishDiagnosticsParams) -> None:
            said[asked.uri] = list(asked.diagnostics)

        await client.start_io(sys.executable, "-m", "fieldstick", "lsp", cwd=desk.folder)
        general = types.GeneralClientCapabilities(position_encodings=[types.PositionEncodingKind(encoding)])
        capabilities = types.ClientCapabilities(general=general if encoding != "utf-16" else None)
        await client.initialize_async(types.InitializeParams(capabilities, os.getpid(), root_uri=desk.folder.as_uri()))
        client.initialized(types.InitializedParams())
        client.text_document_did_open(
            types.DidOpenTextDocumentParams(types.TextDocumentItem(file.as_uri(), "toml", 1, PLOTS))
        )
        try:
            await asyncio.wait_for(steps(Editor(client, file, said, encoding)), 60)
        finally:
            await client.shutdown_async(None)
            client.exit(None)
            assert await asyncio.wait_for(client._server.wait(), 20) == 0  # type: ignore[union-attr]
            await client.stop()

    asyncio.run(run())


def test_mistakes_failing_samples_and_hazards_stand_on_their_lines(desk: Desk) -> None:
    async def steps(editor: Editor) -> None:
        found = await editor.diagnostics()
        failing = next(each for each in found if each.code == "sample")
        assert failing.severity == types.DiagnosticSeverity.Error and "G07" in failing.message
        assert "positive = [" in editor.read(failing.range)
        hazard = next(each for each in found if each.code == "nested-repeats")
        assert editor.read(hazard.range).startswith("(?:a+)+!") and hazard.severity == types.DiagnosticSeverity.Warning
        editor.type(PLOTS.replace("most = 100", "mst = 100").replace('"note"]', '"notes"]'))
        said = {editor.read(each.range): each.message for each in await editor.diagnostics()}
        assert "most" in said['fields.moisture = { type = "decimal", mst = 100 }']
        assert "note" in said['any_of = ["reading", "notes"]']
        editor.type("format = 1\nsuite = 'plots'\n[patterns.x")
        assert [each.code for each in await editor.diagnostics()] == ["mistake"]

    edited(desk, steps)


def test_hovering_tells_what_a_piece_asks_for_and_what_a_sample_captured(desk: Desk) -> None:
    async def steps(editor: Editor) -> None:
        async def told(words: str, beyond: int) -> str:
            hover = await editor.client.text_document_hover_async(types.HoverParams(**editor.at(words, beyond)))
            assert hover is not None and isinstance(hover.contents, types.MarkupContent)
            return hover.contents.value

        assert "the part 'measure'" in await told("(?P<moisture>", 2)
        assert "a digit" in await told("{{common.plot", 10)
        drawn = await told("[patterns.reading]", 12)
        assert "What a probe read" in drawn and "moisture" in drawn.splitlines()[-2]
        counts = await editor.client.text_document_code_lens_async(
            types.CodeLensParams(types.TextDocumentIdentifier(editor.uri))
        )
        words = [each.command.title for each in counts or () if each.command is not None]
        assert words == ["1 of 3 samples fail", "1 sample passes", "1 sample passes"]

    edited(desk, steps)


def test_parts_and_members_are_found_and_renamed_across_suites(desk: Desk) -> None:
    async def steps(editor: Editor) -> None:
        place = editor.at("{{common.plot", 11)
        found = await editor.client.text_document_definition_async(types.DefinitionParams(**place))
        assert isinstance(found, types.Location) and found.uri.endswith("common.suite.toml")
        assert found.range.start == types.Position(4, 0)
        member = await editor.client.text_document_definition_async(types.DefinitionParams(**editor.at('"note"', 2)))
        assert isinstance(member, types.Location) and editor.read(member.range) == "note"
        uses = await editor.client.text_document_references_async(
            types.ReferenceParams(context=types.ReferenceContext(True), **place)
        )
        assert sorted(os.path.basename(each.uri) for each in uses or ()) == [
            "common.suite.toml", "common.suite.toml", "plots.suite.toml",
        ]  # fmt: skip
        edit = await editor.client.text_document_rename_async(types.RenameParams(new_name="square", **place))
        assert edit is not None and edit.changes is not None
        made = {os.path.basename(uri): [each.new_text for each in edits] for uri, edits in edit.changes.items()}
        assert made == {"common.suite.toml": ["square", "square"], "plots.suite.toml": ["square"]}
        for name in ("row", "9"):
            try:
                await editor.client.text_document_rename_async(types.RenameParams(new_name=name, **place))
            except Exception as error:
                assert name in str(error)
            else:
                raise AssertionError("it was renamed")

    edited(desk, steps)


def test_keys_parts_patterns_and_fields_are_completed(desk: Desk) -> None:
    async def steps(editor: Editor) -> None:
        await editor.diagnostics()

        async def offered(typed: str, after: str) -> set[str]:
            editor.type(PLOTS.replace(after, after + typed, 1))
            found = await editor.client.text_document_completion_async(
                types.CompletionParams(**editor.at(after, len(after + typed)))
            )
            assert isinstance(found, list)
            return {each.label for each in found}

        assert await offered("{{", "expression = 'plot=") == {"measure", "common."}
        assert await offered("{{common.", "expression = 'plot=") == {"plot", "row"}
        assert {"reach", "take", "positive"} <= await offered("\nre", 'about = "What a probe read"')
        assert await offered('\nreach = "', 'about = "What a probe read"') == {"whole", "start", "anywhere"}
        assert {"reading", "note"} <= await offered('"', "any_of = [")
        assert await offered("\nfields.", 'about = "What a probe read"') == {"plot", "moisture"}

    edited(desk, steps)


def test_a_failing_sample_is_mended_by_what_would_and_samples_are_added(desk: Desk) -> None:
    async def steps(editor: Editor) -> None:
        async def changed(words: str, wanted: str) -> str:
            line = editor.at(words)["position"].line
            place = types.Range(types.Position(line, 0), types.Position(line, 1))
            actions = await editor.client.text_document_code_action_async(
                types.CodeActionParams(types.TextDocumentIdentifier(editor.uri), place, types.CodeActionContext([]))
            )
            action = next(each for each in actions or () if wanted in each.title)
            assert isinstance(action, types.CodeAction) and action.edit is not None and action.edit.changes is not None
            made = editor.applied(action.edit)
            (desk.folder / os.path.basename(next(iter(action.edit.changes)))).write_text(made, encoding="utf-8")
            editor.text = SuiteText(PLOTS)
            return made

        assert "plot = '[A-G]\\d{2}'" in await changed("positive = ['plot=B07", "A-F ends before 'G'")
        added = await changed("[patterns.note]", "add the positive sample")
        assert added.count("!'") == PLOTS.count("!'") + 1

    edited(desk, steps)
    assert "All 6 samples pass" in desk.run("check").out


@pytest.mark.parametrize("encoding", ["utf-8", "utf-16", "utf-32"])
def test_places_are_those_of_the_encoding_that_was_agreed_on(desk: Desk, encoding: Encoding) -> None:
    async def steps(editor: Editor) -> None:
        editor.type(PLOTS.replace("plot=(?P<plot>", "(?:é😀 )?plot=(?P<plot>").replace('"plots"', '"é😀" # ='))
        found = await editor.client.text_document_definition_async(types.DefinitionParams(**editor.at("{{measure", 3)))
        assert isinstance(found, types.Location) and editor.read(found.range) == "measure"
        edit = await editor.client.text_document_rename_async(
            types.RenameParams(new_name="share", **editor.at("{{measure", 3))
        )
        assert edit is not None and edit.changes is not None
        assert {editor.read(each.range) for each in edit.changes[editor.uri]} == {"measure"}

    edited(desk, steps, encoding)


def test_what_borrows_is_checked_again_and_a_file_that_is_not_there_is_named(desk: Desk) -> None:
    async def steps(editor: Editor) -> None:
        assert any("G07" in each.message for each in await editor.diagnostics())
        editor.open((desk.folder / "common.suite.toml").as_uri(), COMMON.replace("[A-F]", "[A-G]"))
        assert not any("G07" in each.message for each in await editor.diagnostics())
        nowhere = types.TextDocumentIdentifier((desk.folder / "none.suite.toml").as_uri())
        with pytest.raises(Exception, match=r"none\.suite\.toml is not open, and cannot be read"):
            await editor.client.text_document_hover_async(types.HoverParams(nowhere, types.Position(0, 0)))

    edited(desk, steps)


WRITTEN = st.text("[]{}=.\n'\"# aé_-7", max_size=60)


@given(WRITTEN, st.integers(0, 60))
def test_whatever_is_half_written_is_looked_through(middle: str, position: int) -> None:
    text = SuiteText(PLOTS[:90] + middle + PLOTS[90:])
    at = min(position + 80, len(text.text))
    for each in (*text.used, *text.defined):
        assert text.text[each.start : each.end] == each.name
        assert text.at(*text.place(each.start)) == each.start
    named = text.name_at(at)
    assert named is None or named.start <= at <= named.end
    inside = text.expression_at(at)
    assert inside is None or 0 <= inside[1] <= len(inside[0])
    assert text.pattern_at(at) is None or text.table_at(at).startswith("patterns")


@pytest.mark.parametrize(
    ("written", "defined", "used"),
    [
        ("[parts]\nplot = 'x'\n'odd-name' = 'y'", ["plot", "odd-name"], []),
        ("parts.plot = 'x'\n[patterns.a]\n[patterns.a.fields.f]\n[[patterns.a.positive]]", ["a", "plot"], []),
        ("[patterns . a]\nexpression = '{{plot}}\\{{x}}{{=site}}{{c.row}}'", ["a"], ["plot", "c.row"]),
        ('[routes.r]\norder = [\n  "a",   # first\n  "c:b",\n]\notherwise = "a"', [], ["a", "c.b"]),
        ("[rewrites.r]\npattern = 'a'\nsteps = ['r']\n[[trials]]\nroute = 'r'\npatterns = ['b']", [], ["a", "b"]),
    ],
)
def test_names_are_found_where_they_are_defined_and_used(written: str, defined: list[str], used: list[str]) -> None:
    text = SuiteText(written)
    assert [each.name for each in text.defined] == defined
    assert [f"{each.alias}.{each.name}" if each.alias else each.name for each in text.used] == used


@pytest.mark.parametrize(
    ("written", "marked", "expression"),
    [
        ("expression = 'a|b'", "|", ("a|b", 1)),
        ("[parts]\nplot = 'ab'", "b'", ("ab", 1)),
        ("expression = '''\n a'b'''", "b", (" a'b", 3)),
        ('expression = "ab"', 'b"', ("ab", 1)),
        (r'expression = "\\d"', "d", None),
        ("about = 'a|b'", "|", None),
        ("[splits.x]\nat = '[;,]'", ";", ("[;,]", 1)),
    ],
)
def test_a_place_in_an_expression_is_told(written: str, marked: str, expression: tuple[str, int] | None) -> None:
    text = SuiteText(written)
    assert text.expression_at(written.index(marked)) == expression


def test_suites_that_borrow_are_known_by_either_spelling_and_what_is_open_counts(tmp_path: Path) -> None:
    (tmp_path / "common.suite.toml").write_text(COMMON, encoding="utf-8")
    (tmp_path / "a.suite.toml").write_text(PLOTS, encoding="utf-8")
    tabled = PLOTS.replace('borrow = { common = "common.suite.toml" }\n', "").replace('"plots"', '"b"')
    (tmp_path / "b.suite.toml").write_text(f'{tabled}\n[borrow]\ncommon = "common.suite.toml"\n', encoding="utf-8")
    desk = Suites(str(tmp_path))
    file = str(tmp_path / "common.suite.toml")
    uses = desk.uses(file, COMMON.index("plot"))
    assert sorted(os.path.basename(each.file)[0] for each in uses) == ["a", "b", "c", "c"]
    # What is typed and not saved counts in the suites that borrow.
    assert desk.samples(str(tmp_path / "a.suite.toml"))["reading"] == (2, 3)
    desk.put(file, COMMON.replace("[A-F]", "[A-G]"))
    assert desk.samples(str(tmp_path / "a.suite.toml"))["reading"] == (3, 3)
    desk.drop(file)
    assert desk.samples(str(tmp_path / "a.suite.toml"))["reading"] == (2, 3)
    desk.put(file, "format = 1\n[parts")
    assert desk.samples(str(tmp_path / "a.suite.toml")) == {}
    assert [each.rule for each in desk.findings(file)] == ["mistake"]
    assert desk.completions(file, 0) and desk.changes(file, 1) == [] and desk.definition(file, 0) is None


def test_each_line_of_a_sample_that_is_a_table_means_it(tmp_path: Path) -> None:
    file = tmp_path / "plots.suite.toml"
    tabled = "format = 1\nsuite = 'p'\n[patterns.plot]\nexpression = '[A-F]\\d'\n\n[[patterns.plot.positive]]\n"
    file.write_text(tabled + "note = 'x'\ntext = 'G7'\n\n[[patterns.plot.positive]]\ntext = 'A1'\n", encoding="utf-8")
    offered = [{each.title for each in Suites(str(tmp_path)).changes(str(file), line)} for line in range(1, 12)]
    assert any("A-F ends before 'G'" in each for each in offered[6])
    assert offered[5] == offered[6] == offered[7] and not offered[9] and not offered[10]


def test_what_cannot_be_read_is_marked_where_it_stands(tmp_path: Path) -> None:
    desk = Suites(str(tmp_path))
    file = str(tmp_path / "plots.suite.toml")
    text = PLOTS.replace('borrow = { common = "common.suite.toml" }', "").replace("{{common.plot}}", "(B")
    desk.put(file, text + '[patterns.code]\nexpression = "\\\\d[z-a]"\n')
    lines = text.splitlines()
    told = [(each.line, each.column) for each in desk.findings(file) if each.rule == "mistake"]
    line = next(number for number, each in enumerate(lines, 1) if "(B" in each)
    # A failing sample is not told of each: the expression is.
    assert told == [(line, lines[line - 1].index("(?P<plot>") + 1), (len(lines) + 2, 19)]
    # A part that nothing here uses is one for others.
    desk.put(file, "format = 1\nsuite = 'p'\n[parts]\nplot = 'x('\nrow = '{{plot}}'\nseen = '{{=n}}[b-a]'\n")
    assert [(each.line, each.column) for each in desk.findings(file)] == [(4, 9), (6, 16)]


def test_other_toml_that_an_editor_opens_is_none_of_its_business(tmp_path: Path) -> None:
    desk = Suites(str(tmp_path))
    file = str(tmp_path / "pyproject.toml")
    desk.put(file, "[project]\nname = 'x'\nexpression = '('\n")
    assert desk.findings(file) == [] and desk.completions(file, 0) == [] and desk.samples(file) == {}
    assert desk.hover(file, 36) is None and desk.changes(file, 1) == []
    # What says that it is a suite is one by any name.
    desk.put(file, "format = 1\nsuite = 'x'\n[patterns.x]\nexpression = '('\n")
    assert [each.rule for each in desk.findings(file)] == ["mistake"] and desk.completions(file, 0)


def test_each_change_that_is_offered_mends_what_it_is_offered_for(tmp_path: Path) -> None:
    (tmp_path / "common.suite.toml").write_text(COMMON, encoding="utf-8")
    file = tmp_path / "plots.suite.toml"
    file.write_text(PLOTS, encoding="utf-8")
    desk = Suites(str(tmp_path))
    line = PLOTS[: PLOTS.index("positive = ['plot")].count("\n") + 1
    offered = desk.changes(str(file), line)
    assert len(offered) > 1
    for change in offered:
        for path, text in change.texts.items():
            desk.put(path, text)
        assert desk.samples(str(file))["reading"][0] >= 2, change.title
        failing = [each.message for each in desk.findings(str(file)) if each.rule == "sample"]
        assert not any("G07" in each for each in failing), change.title
        for path in change.texts:
            desk.drop(path)


@pytest.mark.parametrize(
    ("table", "has", "lacks"),
    [
        ("", {"format", "suite", "patterns", "routes"}, {"expression"}),
        ("patterns.x", {"expression", "reach", "positive"}, {"order"}),
        ("patterns.x.fields.m", {"type", "least", "unit"}, {"expression"}),
        ("patterns.x.negative", {"text", "message", "with"}, {"type"}),
        ("routes.kind", {"order", "otherwise", "samples"}, {"reach"}),
        ("trials", {"data", "route", "counts"}, {"order"}),
        ("nowhere.x", set(), {"format"}),
    ],
)
def test_the_keys_of_a_table_are_those_of_the_format(table: str, has: set[str], lacks: set[str]) -> None:
    assert has <= set(keys_of(table)) and not lacks & set(keys_of(table))


@pytest.mark.parametrize(
    ("table", "key", "choices"),
    [
        ("patterns.x", "reach", {"whole", "start", "anywhere"}),
        ("patterns.x", "flags", {"ignore-case", "multiline", "dotall", "verbose", "ascii"}),
        ("patterns.x.fields.m", "type", {"text", "integer", "decimal", "date", "time", "timestamp", "boolean"}),
        ("patterns.x", "fields.m.type", {"text", "integer", "decimal", "date", "time", "timestamp", "boolean"}),
        ("patterns.x", "about", set()),
    ],
)
def test_closed_lists_are_offered_whole(table: str, key: str, choices: set[str]) -> None:
    assert set(choices_of(table, key)) == choices
