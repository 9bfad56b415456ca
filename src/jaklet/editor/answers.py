"""The answers to what an editor asks (Language Server Protocol 3.17), from the files as the editor has them.

Files are checked as a whole, with the texts that the editor has, shortly after the last change.
"""

import asyncio
import gc
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any, Final, NamedTuple

from lsprotocol import types as lsp
from pygls.lsp.server import LanguageServer
from pygls.uris import from_fs_path, to_fs_path
from pygls.workspace import TextDocument

from jaklet.config.paths import TABLETOP, config_of, kind_of
from jaklet.core.language.slots import name_problem
from jaklet.core.values.errors import JakletError
from jaklet.core.values.findings import ERROR, WARNING, Finding
from jaklet.core.values.layouts import number_of
from jaklet.core.values.spans import Spot
from jaklet.editor.annotations import TYPES, folds, hints, tidied, tokens
from jaklet.editor.completion import CHORD, KEY, NAME, PROGRAM, VALUE, VERB, CompletionSources, choices
from jaklet.editor.config_index import Check, ConfigIndex, FileTexts, NameOccurrence
from jaklet.editor.cursor_path import cursor_path_at
from jaklet.editor.hover import Drawn, Why, hover_text
from jaklet.yaml_files.reader import SourceFile, says_the_same

CALM: Final = 0.02  # seconds after a change in which another may come
PAUSE: Final = 2.0  # seconds without a check, after which a tenth of one is free
SOURCE: Final = "jaklet"
SEVERITIES: Final = {ERROR: lsp.DiagnosticSeverity.Error, WARNING: lsp.DiagnosticSeverity.Warning}
ICONS: Final = {
    KEY: lsp.CompletionItemKind.Property, VALUE: lsp.CompletionItemKind.EnumMember,
    VERB: lsp.CompletionItemKind.Function, NAME: lsp.CompletionItemKind.Variable,
    CHORD: lsp.CompletionItemKind.Event, PROGRAM: lsp.CompletionItemKind.File,
}  # fmt: skip
SYMBOLS: Final = {
    "app": lsp.SymbolKind.Class, "place": lsp.SymbolKind.Constant, "display": lsp.SymbolKind.Object,
    "layer": lsp.SymbolKind.Namespace, "macro": lsp.SymbolKind.Function, "layout": lsp.SymbolKind.Struct,
    "word": lsp.SymbolKind.Key, "workspace": lsp.SymbolKind.Number,
}  # fmt: skip
NOT_RENAMED: Final = {"layout": "a layout's name is its file's: jaklet layout rename"}


class EditorPorts(NamedTuple):
    """Whom the server asks.

    `check` reads and checks a config; `why` tells about a chord; `here`: what is there beside the files; `drawn`: a
    layout as a drawing in text; `tabletop`: what is wrong with the text of a tabletop.
    """

    check: Check
    why: Why
    here: CompletionSources
    drawn: Drawn
    tabletop: Callable[[SourceFile], list[Finding]]


class Editor:
    """The books of the files that are open, and what an editor asks of them."""

    def __init__(self, server: LanguageServer, outside: EditorPorts) -> None:
        self._server, self._outside = server, outside
        self._books: dict[Path, ConfigIndex] = {}  # by their config
        self._told: dict[Path, set[Path]] = {}  # the files of which findings were told, by config
        self._due: dict[Path, asyncio.TimerHandle] = {}
        self._ended = self.asked_to_end = False
        self._rest: asyncio.TimerHandle | None = None

    # --- files ---

    def opened(self, uri: str) -> None:
        """Check the config that a file belongs to, which was opened or saved."""
        self._check(config_of(_path(uri)))

    def closed(self, uri: str) -> None:
        """Check it as it is on disk; of a file that no config has, nothing is said any more."""
        path = _path(uri)
        config = config_of(path)
        self._check(config)
        if path not in self._told.get(config, ()):
            self._publish(path, [])

    def changed(self, uri: str) -> None:
        """Check it soon: more changes may come."""
        config = config_of(_path(uri))
        if config in self._due:
            self._due.pop(config).cancel()
        if not self._ended:
            self._due[config] = asyncio.get_running_loop().call_later(CALM, self._check, config)

    def end(self, *, asked: bool = False) -> None:
        """Check no more: what is found now could not be told. `asked`: the editor says that it is about to end."""
        self._ended, self.asked_to_end = True, self.asked_to_end or asked
        for one in (*self._due.values(), *([self._rest] if self._rest else [])):
            one.cancel()

    def _check(self, config: Path) -> None:
        self._due.pop(config, None)
        for uri, one in self._server.workspace.text_documents.items():
            if kind_of(_path(uri), one.source) == TABLETOP and config_of(_path(uri)) == config:
                self._check_tabletop(_path(uri), one)
        if kind_of(config, self._text(config)) == TABLETOP:
            return
        open_ = {_path(uri): one.source for uri, one in self._server.workspace.text_documents.items()}
        try:
            book = ConfigIndex(config, open_, self._outside.check)
        except JakletError as fault:
            self._server.window_log_message(lsp.LogMessageParams(lsp.MessageType.Warning, fault.message))
            return
        former = self._books.get(config)  # it goes when all is told, as that takes a while
        self._books[config] = book
        found = book.findings()
        for path in self._told.get(config, set()) - found.keys():
            self._publish(path, [])
        for path, findings in found.items():
            self._publish(path, [self._diagnostic(one, book.texts) for one in findings])
        self._told[config] = {*found}
        del former
        self._tidy_when_calm()

    def _text(self, path: Path) -> str:
        document = self._server.workspace.text_documents.get(_uri(path))
        return document.source if document else ""

    def _check_tabletop(self, path: Path, document: TextDocument) -> None:
        source = SourceFile(str(path), document.source)
        texts = FileTexts({source.path: source}, {source.path: path})
        self._publish(path, [self._diagnostic(one, texts) for one in self._outside.tabletop(source)])

    def _tidy_when_calm(self) -> None:
        """Free what books that are no more have left; that is not done by itself, as it would be amid the typing."""
        if self._rest:
            self._rest.cancel()
        self._rest = asyncio.get_running_loop().call_later(PAUSE, gc.collect)

    def _publish(self, path: Path, diagnostics: list[lsp.Diagnostic]) -> None:
        self._server.text_document_publish_diagnostics(lsp.PublishDiagnosticsParams(_uri(path), diagnostics))

    def _diagnostic(self, one: Finding, texts: FileTexts) -> lsp.Diagnostic:
        also = [
            lsp.DiagnosticRelatedInformation(self._location(spot, texts), word)
            for spot, word in one.also
            if spot.path in texts.files
        ]
        return lsp.Diagnostic(
            self._range(one.spot, texts), f"{one.cause}\n{one.remedy}".strip(),
            SEVERITIES.get(one.severity, lsp.DiagnosticSeverity.Information), code=one.code, source=SOURCE,
            related_information=also, data={"cures": [*one.cures]},
        )  # fmt: skip

    # --- places: ours count characters from 1, the protocol's units of its encoding from 0 ---

    def _range(self, spot: Spot, texts: FileTexts) -> lsp.Range:
        text, units = texts.sources[spot.path].line(spot.line), self._server.workspace.position_codec
        columns = spot.column, spot.end
        first, last = (lsp.Position(spot.line - 1, units.client_num_units(text[: at - 1])) for at in columns)
        return lsp.Range(first, last)

    def _location(self, spot: Spot, texts: FileTexts) -> lsp.Location:
        return lsp.Location(_uri(texts.files[spot.path]), self._range(spot, texts))

    def _at(self, uri: str, position: lsp.Position) -> tuple[ConfigIndex | None, Path, int, int]:
        """Return the book of a file, the file, and the line and column from 0, in characters."""
        path = _path(uri)
        document = self._server.workspace.get_text_document(uri)
        inside = document.position_codec.position_from_client_units(document.lines, position)
        return self._books.get(config_of(path)), path, inside.line, inside.character

    # --- what is asked ---

    def complete(self, asked: lsp.CompletionParams) -> list[lsp.CompletionItem]:
        """Return the completions at a position."""
        book, path, line, column = self._at(asked.text_document.uri, asked.position)
        if book is None:
            return []
        lines = [one.rstrip("\r\n") for one in self._server.workspace.get_text_document(asked.text_document.uri).lines]
        place = cursor_path_at(lines, line, column)
        found = choices(book, kind_of(path, "\n".join(lines)), place, self._outside.here)
        items, units = [], self._server.workspace.position_codec
        for number, one in enumerate(found):
            typed = units.client_num_units(place.before[len(place.before) - one.replaces :])
            start = lsp.Position(asked.position.line, max(0, asked.position.character - typed))
            text = f"{one.text}: " if one.kind == KEY else one.text
            edit = lsp.TextEdit(lsp.Range(start, asked.position), text)
            items.append(
                lsp.CompletionItem(
                    one.text, kind=ICONS[one.kind], detail=one.told.split(".")[0][:80] or None,
                    documentation=one.told or None, sort_text=f"{number:04}", filter_text=one.text, text_edit=edit,
                )
            )  # fmt: skip
        return items

    def hover(self, asked: lsp.HoverParams) -> lsp.Hover | None:
        """Return the hover text at a position, or None."""
        book, path, line, column = self._at(asked.text_document.uri, asked.position)
        outside = self._outside
        found = (
            hover_text(book, path, line + 1, column + 1, outside.why, outside.here.desk, outside.drawn)
            if book
            else None
        )
        if book is None or found is None:
            return None
        text = lsp.MarkupContent(lsp.MarkupKind.PlainText, found[0])
        return lsp.Hover(text, self._range(found[1], book.texts))

    # --- what it shows of its own accord ---

    def hints(self, asked: lsp.InlayHintParams) -> list[lsp.InlayHint]:
        """Return the inlay hints of a file: the values of family marks, and the frames of places."""
        path = _path(asked.text_document.uri)
        book = self._books.get(config_of(path))
        shown = book.shown.get(path) if book else None
        if book is None or shown is None:
            return []
        lines = range(asked.range.start.line + 1, asked.range.end.line + 2)
        return [
            lsp.InlayHint(self._range(one.spot, book.texts).end, one.text, padding_left=True, tooltip=one.more or None)
            for one in hints(book, shown, self._outside.here.desk())
            if one.spot.line in lines
        ]

    def tokens(self, asked: lsp.SemanticTokensParams) -> lsp.SemanticTokens:
        """Return the semantic tokens of a file, each by its distance from the one before (LSP, Semantic Tokens)."""
        path = _path(asked.text_document.uri)
        book = self._books.get(config_of(path))
        data: list[int] = []
        line = column = 0
        if book is None or path not in book.shown:
            return lsp.SemanticTokens(data)
        for one in tokens(book, book.shown[path]):
            start, end = (place := self._range(one.spot, book.texts)).start, place.end
            column = 0 if start.line != line else column
            data += [start.line - line, start.character - column, end.character - start.character]
            data += [TYPES.index(one.type), 0]
            line, column = start.line, start.character
        return lsp.SemanticTokens(data)

    def folds(self, asked: lsp.FoldingRangeParams) -> list[lsp.FoldingRange]:
        """Return the ranges that can be folded."""
        text = self._server.workspace.get_text_document(asked.text_document.uri).source
        return [lsp.FoldingRange(first, last) for first, last in folds(text.split("\n"))]

    def tidy(self, asked: lsp.DocumentFormattingParams) -> list[lsp.TextEdit]:
        """Return the text without space at the ends of lines; nothing where that would change what it says."""
        text = self._server.workspace.get_text_document(asked.text_document.uri).source
        new = tidied(text)
        if new == text or not says_the_same(text, new):
            return []
        every = lsp.Range(lsp.Position(0, 0), lsp.Position(text.count("\n") + 1, 0))
        return [lsp.TextEdit(every, new)]

    def _named(self, uri: str, position: lsp.Position) -> tuple[ConfigIndex, NameOccurrence] | None:
        book, path, line, column = self._at(uri, position)
        named = book.at(path, line + 1, column + 1) if book else None
        return (book, named) if book and named else None

    def definition(self, asked: lsp.DefinitionParams) -> lsp.Location | None:
        """Return where what is named there is defined."""
        found = self._named(asked.text_document.uri, asked.position)
        defined = found[0].definition(found[1]) if found else None
        return self._location(defined.spot, found[0].texts) if found and defined else None

    def references(self, asked: lsp.ReferenceParams) -> list[lsp.Location]:
        """Return where the same is named."""
        found = self._named(asked.text_document.uri, asked.position)
        if found is None:
            return []
        every = found[0].every(found[1])
        return [
            self._location(one.spot, found[0].texts)
            for one in every
            if asked.context.include_declaration or not one.defines
        ]

    def rename(self, asked: lsp.RenameParams) -> lsp.WorkspaceEdit | None:
        """Return the edits that give a thing another name; raises `ValueError` for a name that it cannot have."""
        found = self._named(asked.text_document.uri, asked.position)
        if found is None:
            return None
        book, named = found
        problem = NOT_RENAMED.get(named.kind) or name_problem(asked.new_name)
        if number_of(named.name) is not None or book.definition(named) is None:
            problem = f"{named.name} is not defined in these files"
        elif asked.new_name in book.names(named.kind):
            problem = f"there is a {named.kind} {asked.new_name} already"
        if problem:
            raise ValueError(problem)
        edits: dict[str, list[lsp.TextEdit]] = {}
        for one in book.every(named):
            uri = _uri(book.files[one.spot.path])
            edits.setdefault(uri, []).append(lsp.TextEdit(self._range(one.spot, book.texts), asked.new_name))
        return lsp.WorkspaceEdit(changes=edits)

    def symbols(self, asked: lsp.DocumentSymbolParams) -> list[lsp.DocumentSymbol]:
        """Return the symbols that a file defines."""
        path = _path(asked.text_document.uri)
        book = self._books.get(config_of(path))
        found = []
        for one in book.named if book else ():
            if book and one.defines and book.files.get(one.spot.path) == path:
                place = self._range(one.spot, book.texts)
                found.append(lsp.DocumentSymbol(one.name, SYMBOLS[one.kind], place, place, detail=one.kind))
        return found

    def every_symbol(self, asked: lsp.WorkspaceSymbolParams) -> list[lsp.WorkspaceSymbol]:
        """Return the symbols of all files that have this in their names."""
        return [
            lsp.WorkspaceSymbol(
                self._location(one.spot, book.texts), one.name, SYMBOLS[one.kind], container_name=one.kind
            )
            for book in self._books.values()
            for one in book.named
            if one.defines and asked.query.lower() in one.name.lower()
        ]

    def actions(self, asked: lsp.CodeActionParams) -> list[lsp.CodeAction]:
        """Return the code actions for findings: a free chord in its place, or a silence with a reason."""
        return [action for one in asked.context.diagnostics for action in self._about(one, asked.text_document.uri)]

    def _about(self, one: lsp.Diagnostic, uri: str) -> Iterator[lsp.CodeAction]:
        if one.source != SOURCE:
            return
        data: Any = one.data or {}
        for number, chord in enumerate(data.get("cures", ())):
            edit = lsp.WorkspaceEdit(changes={uri: [lsp.TextEdit(one.range, chord)]})
            yield lsp.CodeAction(
                f"bind {chord} instead", lsp.CodeActionKind.QuickFix, [one], edit=edit, is_preferred=number == 0
            )
        if one.severity != lsp.DiagnosticSeverity.Error:
            document = self._server.workspace.get_text_document(uri)
            text = document.lines[one.range.start.line] if one.range.start.line < len(document.lines) else ""
            indent = text[: len(text) - len(text.lstrip())]
            start = lsp.Position(one.range.start.line, 0)
            line = f"{indent}# silence {one.code}: it is meant\n"
            edit = lsp.WorkspaceEdit(changes={uri: [lsp.TextEdit(lsp.Range(start, start), line)]})
            yield lsp.CodeAction(f"silence {one.code} here", lsp.CodeActionKind.QuickFix, [one], edit=edit)


def _path(uri: str) -> Path:
    return Path(to_fs_path(uri) or "").resolve()


def _uri(path: Path) -> str:
    return from_fs_path(str(path)) or ""
