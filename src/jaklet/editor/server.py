"""A language server (Language Server Protocol 3.17) for the files of Jaklet, on standard input and output."""

import logging
import sys
from collections.abc import Callable
from typing import Any

from lsprotocol import types as lsp
from pygls.exceptions import JsonRpcInternalError
from pygls.lsp.server import LanguageServer

from jaklet.editor.annotations import TYPES
from jaklet.editor.answers import Editor, EditorPorts
from jaklet.editor.framing import Messages


class _Server(LanguageServer):
    """The library's server, but that what cannot be sent is not told of by sending: that would have no end."""

    def report_server_error(self, error: Exception, source: Any) -> None:
        """Tell the editor of what went wrong, unless nothing reaches it."""
        if source is not JsonRpcInternalError:
            super().report_server_error(error, source)


def serve(outside: EditorPorts, version: str) -> int:
    """Serve an editor until it ends; return the exit status: 1 if it did not ask for that first (LSP, Exit)."""
    made = _Server("jaklet", version)
    editor = Editor(made, outside)
    features: dict[str, Callable[[Any], Any]] = {
        lsp.TEXT_DOCUMENT_DID_OPEN: lambda asked: editor.opened(asked.text_document.uri),
        lsp.TEXT_DOCUMENT_DID_SAVE: lambda asked: editor.opened(asked.text_document.uri),
        lsp.TEXT_DOCUMENT_DID_CLOSE: lambda asked: editor.closed(asked.text_document.uri),
        lsp.TEXT_DOCUMENT_DID_CHANGE: lambda asked: editor.changed(asked.text_document.uri),
        lsp.TEXT_DOCUMENT_HOVER: editor.hover,
        lsp.TEXT_DOCUMENT_DEFINITION: editor.definition,
        lsp.TEXT_DOCUMENT_REFERENCES: editor.references,
        lsp.TEXT_DOCUMENT_RENAME: editor.rename,
        lsp.TEXT_DOCUMENT_DOCUMENT_SYMBOL: editor.symbols,
        lsp.WORKSPACE_SYMBOL: editor.every_symbol,
        lsp.TEXT_DOCUMENT_INLAY_HINT: editor.hints,
        lsp.TEXT_DOCUMENT_FOLDING_RANGE: editor.folds,
        lsp.TEXT_DOCUMENT_FORMATTING: editor.tidy,
        lsp.SHUTDOWN: lambda _: editor.end(asked=True),
        lsp.EXIT: lambda _: editor.end(),
    }
    for name, answer in features.items():
        made.feature(name)(_alone(answer))
    made.feature(lsp.TEXT_DOCUMENT_COMPLETION, lsp.CompletionOptions(trigger_characters=[" ", ":", "{", ","]))(
        _alone(editor.complete)
    )
    made.feature(lsp.TEXT_DOCUMENT_CODE_ACTION, lsp.CodeActionOptions([lsp.CodeActionKind.QuickFix]))(
        _alone(editor.actions)
    )
    made.feature(lsp.TEXT_DOCUMENT_SEMANTIC_TOKENS_FULL, lsp.SemanticTokensLegend([*TYPES], []))(_alone(editor.tokens))
    logging.getLogger("pygls").setLevel(logging.CRITICAL)  # who sent what has no form is told so, and nobody else
    messages: Any = Messages(sys.stdin.buffer, made.protocol.structure_message, _write)
    made.start_io(messages)
    return 0 if editor.asked_to_end else 1


def _write(data: bytes) -> None:
    sys.stdout.buffer.write(data)
    sys.stdout.buffer.flush()


def _alone(answer: Callable[[Any], Any]) -> Callable[[Any], Any]:
    """Return a function of its own, as the library marks those that it is given.

    Of a file that is neither open nor there nothing is told.
    """

    def answered(asked: Any) -> Any:
        try:
            return answer(asked)
        except OSError:
            return None

    return answered
