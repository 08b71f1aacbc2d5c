"""The language server (LSP 3.17) over standard input and output: what the protocol asks, answered by `answers`."""

from __future__ import annotations

import asyncio
import logging
import os
from importlib.metadata import version
from pathlib import Path
from typing import TYPE_CHECKING, Protocol
from urllib.parse import unquote, urlparse
from urllib.request import url2pathname

from lsprotocol import types
from pygls.exceptions import JsonRpcInvalidParams
from pygls.lsp.server import LanguageServer

from fieldstick.errors import UsageError
from fieldstick.lsp.answers import Desk

if TYPE_CHECKING:
    from collections.abc import Iterable

    from fieldstick.lsp.answers import Change, Use
    from fieldstick.lsp.names import Encoding, SuiteText

WAIT = 0.2
"""Seconds without a key after which a file is checked."""

_SEVERITY = {
    "error": types.DiagnosticSeverity.Error,
    "warning": types.DiagnosticSeverity.Warning,
    "note": types.DiagnosticSeverity.Information,
}


class Server(LanguageServer):
    """The server with the suites that it knows."""

    def __init__(self) -> None:
        super().__init__("fieldstick", version("fieldstick"))
        self.desk = Desk()
        self._waiting: dict[str, asyncio.Task[None]] = {}

    def taken_in(self, uri: str) -> None:
        """Take in what a file holds now, and check it once nothing more is typed."""
        self.desk.put(path_of(uri), self.workspace.get_text_document(uri).source)
        if uri in self._waiting:
            self._waiting[uri].cancel()
        self._waiting[uri] = asyncio.get_running_loop().create_task(self._checked(uri))

    async def _checked(self, uri: str) -> None:
        await asyncio.sleep(WAIT)
        self.publish(uri)
        # What borrows from it may have other outcomes now.
        borrowers = self.desk.borrowers(path_of(uri))
        for other in self._waiting:
            if os.path.realpath(path_of(other)) in borrowers:
                self.publish(other)

    @property
    def encoding(self) -> Encoding:
        """What characters are counted in, as was agreed."""
        return types.PositionEncodingKind(self.workspace.position_encoding or "utf-16").value

    def range(self, text: SuiteText, start: int, end: int) -> types.Range:
        """Return a stretch of a text as the protocol has it."""
        first, last = (types.Position(*text.place(each, self.encoding)) for each in (start, end))
        return types.Range(first, last)

    def publish(self, uri: str) -> None:
        """Say what is to be said of a file."""
        file = path_of(uri)
        text = self.desk.text(file)
        found = []
        for each in self.desk.findings(file):
            start, end = text.line_span(each.line)
            if each.column > 1:
                start = min(end, text.at(max(each.line, 1) - 1, 0) + each.column - 1)
            place = self.range(text, start, max(end, start))
            found.append(types.Diagnostic(place, each.message, _SEVERITY[each.level], each.rule, source="fieldstick"))
        self.text_document_publish_diagnostics(types.PublishDiagnosticsParams(uri, found))

    def shut(self, uri: str) -> None:
        """Forget what an open file held."""
        waiting = self._waiting.pop(uri, None)
        if waiting is not None:
            waiting.cancel()
        self.desk.drop(path_of(uri))


def path_of(uri: str) -> str:
    """Return the path of a file URI (RFC 8089)."""
    return url2pathname(unquote(urlparse(uri).path))


def uri_of(file: str) -> str:
    """Return the URI of a file."""
    return Path(file).absolute().as_uri()


def _location(server: Server, use: Use) -> types.Location:
    text = server.desk.text(use.file)
    return types.Location(uri_of(use.file), server.range(text, use.named.start, use.named.end))


class _Asked(Protocol):
    """What is asked of a place in a file."""

    @property
    def text_document(self) -> types.TextDocumentIdentifier: ...

    @property
    def position(self) -> types.Position: ...


def _opened_text(server: Server, asked: types.TextDocumentIdentifier) -> tuple[str, SuiteText]:
    """Return a file that is asked about, and its text."""
    file = path_of(asked.uri)
    try:
        return file, server.desk.text(file)
    except OSError as error:
        raise JsonRpcInvalidParams(f"{file} is not open, and cannot be read: {error.strerror}") from None


def _position(server: Server, asked: _Asked) -> tuple[str, int]:
    file, text = _opened_text(server, asked.text_document)
    return file, text.at(asked.position.line, asked.position.character, server.encoding)


def _replaced(server: Server, change: Change) -> types.WorkspaceEdit:
    edits = {}
    for file, text in change.texts.items():
        before = server.desk.text(file)
        start, end, new = before.changed_to(text)
        edits[uri_of(file)] = [types.TextEdit(server.range(before, start, end), new)]
    return types.WorkspaceEdit(changes=edits)


def made() -> Server:
    """Return a server with all that it answers."""
    server = Server()
    feature = server.feature

    @feature(types.INITIALIZED)
    def _initialized(server: Server, _: types.InitializedParams) -> None:
        root = server.workspace.root_path
        if root is not None:
            server.desk.folder = root

    @feature(types.TEXT_DOCUMENT_DID_OPEN)
    async def _opened(server: Server, asked: types.DidOpenTextDocumentParams) -> None:
        server.taken_in(asked.text_document.uri)

    @feature(types.TEXT_DOCUMENT_DID_CHANGE)
    async def _changed(server: Server, asked: types.DidChangeTextDocumentParams) -> None:
        server.taken_in(asked.text_document.uri)

    @feature(types.TEXT_DOCUMENT_DID_CLOSE)
    def _closed(server: Server, asked: types.DidCloseTextDocumentParams) -> None:
        server.shut(asked.text_document.uri)

    @feature(types.TEXT_DOCUMENT_COMPLETION, types.CompletionOptions(trigger_characters=["{", ".", "'", '"']))
    def _completed(server: Server, asked: types.CompletionParams) -> list[types.CompletionItem]:
        found = server.desk.completions(*_position(server, asked))
        return [types.CompletionItem(label, detail=detail) for label, detail in found]

    @feature(types.TEXT_DOCUMENT_HOVER)
    def _hovered(server: Server, asked: types.HoverParams) -> types.Hover | None:
        words = server.desk.hover(*_position(server, asked))
        return types.Hover(types.MarkupContent(types.MarkupKind.Markdown, words)) if words is not None else None

    @feature(types.TEXT_DOCUMENT_DEFINITION)
    def _defined(server: Server, asked: types.DefinitionParams) -> types.Location | None:
        use = server.desk.definition(*_position(server, asked))
        return _location(server, use) if use is not None else None

    @feature(types.TEXT_DOCUMENT_REFERENCES)
    def _referred(server: Server, asked: types.ReferenceParams) -> list[types.Location]:
        return [_location(server, use) for use in server.desk.uses(*_position(server, asked))]

    @feature(types.TEXT_DOCUMENT_PREPARE_RENAME)
    def _renamable(server: Server, asked: types.PrepareRenameParams) -> types.Range | None:
        file, position = _position(server, asked)
        text = server.desk.text(file)
        named = text.name_at(position)
        return server.range(text, named.start, named.end) if named is not None else None

    @feature(types.TEXT_DOCUMENT_RENAME)
    def _renamed(server: Server, asked: types.RenameParams) -> types.WorkspaceEdit:
        edits: dict[str, list[types.TextEdit]] = {}
        try:
            uses = server.desk.renamed(*_position(server, asked), asked.new_name)
        except UsageError as error:
            raise JsonRpcInvalidParams(str(error)) from None
        for use in uses:
            place = _location(server, use)
            edits.setdefault(place.uri, []).append(types.TextEdit(place.range, asked.new_name))
        return types.WorkspaceEdit(changes=edits)

    @feature(types.TEXT_DOCUMENT_CODE_ACTION, types.CodeActionOptions([types.CodeActionKind.QuickFix]))
    def _acted(server: Server, asked: types.CodeActionParams) -> list[types.CodeAction]:
        file = path_of(asked.text_document.uri)
        found: list[types.CodeAction] = []
        for line in range(asked.range.start.line + 1, asked.range.end.line + 2):
            for change in server.desk.changes(file, line):
                edit = _replaced(server, change)
                found.append(types.CodeAction(change.title, types.CodeActionKind.QuickFix, edit=edit))
        return found

    @feature(types.TEXT_DOCUMENT_CODE_LENS)
    def _counted(server: Server, asked: types.CodeLensParams) -> list[types.CodeLens]:
        file, text = _opened_text(server, asked.text_document)
        places = {
            each.name: server.range(text, each.start, each.end) for each in text.defined if each.kind == "pattern"
        }
        counts = server.desk.samples(file).items()
        return list(_lenses((places[name], *count) for name, count in counts if name in places))

    return server


def _lenses(counts: Iterable[tuple[types.Range, int, int]]) -> Iterable[types.CodeLens]:
    for place, passed, samples in counts:
        some = "1 sample passes" if samples == 1 else f"{samples} samples pass"
        words = some if passed == samples else f"{samples - passed} of {samples} samples fail"
        yield types.CodeLens(place, command=types.Command(words, ""))


class _Answered(logging.Filter):
    """Keeps what was answered with an error in words out of the log."""

    def filter(self, record: logging.LogRecord) -> bool:
        """Tell whether a record is to be logged."""
        return not (record.exc_info and isinstance(record.exc_info[1], JsonRpcInvalidParams))


def serve() -> None:
    """Serve until the other side ends it.

    The server closes what it reads from and writes to; the command's own standard output is left as it is.
    """
    logging.getLogger("pygls.protocol.json_rpc").addFilter(_Answered())
    with open(os.dup(0), "rb") as asked, open(os.dup(1), "wb") as said:
        made().start_io(asked, said)
