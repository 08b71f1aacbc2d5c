"""The language server, asked by a client over standard input and output."""

from __future__ import annotations

import asyncio
import os
import sys
from typing import TYPE_CHECKING, Any

from hypothesis import given
from hypothesis import strategies as st
from lsprotocol import types
from pygls.lsp.client import LanguageClient

from fieldstick.lsp.names import SuiteText

if TYPE_CHECKING:
    from collections.abc import Awaitable, Callable
    from pathlib import Path

    from desk import Desk

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


class Editor:
    """An editor with a server of its own, one file open in it."""

    def __init__(self, client: LanguageClient, file: Path, said: dict[str, list[types.Diagnostic]]) -> None:
        self.client, self.uri, self._said = client, file.as_uri(), said
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

    async def diagnostics(self) -> list[types.Diagnostic]:
        """Wait for what is said of the file."""
        for _ in range(400):
            if self.uri in self._said:
                return self._said[self.uri]
            await asyncio.sleep(0.05)
        raise AssertionError("nothing was said")

    def at(self, words: str, beyond: int = 0) -> dict[str, Any]:
        """Return a place in the file, as what is asked of one has it."""
        line, character = self.text.place(self.text.text.index(words) + beyond)
        document = types.TextDocumentIdentifier(self.uri)
        return {"text_document": document, "position": types.Position(line, character)}

    def read(self, place: types.Range) -> str:
        """Return what stands at a place of the file."""
        start, end = (self.text.at(each.line, each.character) for each in (place.start, place.end))
        return self.text.text[start:end]


def edited(desk: Desk, steps: Callable[[Editor], Awaitable[None]]) -> None:
    """Begin a server on the folder, open the suite of plots, and go through steps."""
    desk.write("common.suite.toml", COMMON)
    desk.write("plots.suite.toml", PLOTS)
    file = desk.folder / "plots.suite.toml"

    async def run() -> None:
        client = LanguageClient("desk", "1")
        said: dict[str, list[types.Diagnostic]] = {}

        @client.feature(types.TEXT_DOCUMENT_PUBLISH_DIAGNOSTICS)
        def _published(asked: types.PublishDiagnosticsParams) -> None:
            said[asked.uri] = list(asked.diagnostics)

        await client.start_io(sys.executable, "-m", "fieldstick", "lsp", cwd=desk.folder)
        capabilities = types.ClientCapabilities()
        await client.initialize_async(types.InitializeParams(capabilities, os.getpid(), root_uri=desk.folder.as_uri()))
        client.initialized(types.InitializedParams())
        client.text_document_did_open(
            types.DidOpenTextDocumentParams(types.TextDocumentItem(file.as_uri(), "toml", 1, PLOTS))
        )
        try:
            await asyncio.wait_for(steps(Editor(client, file, said)), 60)
        finally:
            await client.shutdown_async(None)
            client.exit(None)
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
            ((uri, (edit,)),) = action.edit.changes.items()
            (desk.folder / os.path.basename(uri)).write_text(edit.new_text, encoding="utf-8")
            return edit.new_text

        assert "plot = '[A-G]\\d{2}'" in await changed("positive = ['plot=B07", "A-F ends before 'G'")
        added = await changed("[patterns.note]", "add the positive sample")
        assert added.count("!'") == PLOTS.count("!'") + 1

    edited(desk, steps)
    assert "All 6 samples pass" in desk.run("check").out
