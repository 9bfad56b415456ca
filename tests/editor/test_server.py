"""The language server, driven by the library's own client: the installed program, its standard input and output."""

import asyncio
import functools
import json
import random
import re
import subprocess
from collections.abc import Awaitable, Callable
from pathlib import Path
from typing import Any

import pytest
from lsprotocol import types as lsp
from pygls.lsp.client import LanguageClient
from pygls.uris import from_fs_path

from jaklet.core.language.verbs import VERBS
from jaklet.editor.annotations import TYPES
from tests.conftest import JAKLET, Office

LIMIT = 20.0
MOST = 200.0


class Session:
    """An editor with files open."""

    def __init__(self, office: Office, client: LanguageClient) -> None:
        self.office, self.client = office, client
        self.found: dict[str, list[lsp.Diagnostic]] = {}
        self.told = asyncio.Event()
        self.versions: dict[str, int] = {}

    def uri(self, name: str) -> str:
        return from_fs_path(str((self.office.folder / name).resolve())) or ""

    def open(self, name: str) -> str:
        text = (self.office.folder / name).read_text()
        self.versions[name] = 1
        self.client.text_document_did_open(
            lsp.DidOpenTextDocumentParams(lsp.TextDocumentItem(self.uri(name), "yaml", 1, text))
        )
        return text

    def change(self, name: str, text: str) -> None:
        """Have another text in a file, without saving it."""
        self.versions[name] += 1
        document = lsp.VersionedTextDocumentIdentifier(self.versions[name], self.uri(name))
        self.told.clear()
        whole = lsp.TextDocumentContentChangeWholeDocument(text)
        self.client.text_document_did_change(lsp.DidChangeTextDocumentParams(document, [whole]))

    async def until(self, holds: Callable[[], Any], what: str) -> Any:
        end = asyncio.get_running_loop().time() + LIMIT
        while not (answer := holds()):
            assert asyncio.get_running_loop().time() < end, f"{what}: {self.found}"
            self.told.clear()
            try:
                await asyncio.wait_for(self.told.wait(), 1)
            except TimeoutError:
                continue
        return answer

    def codes(self, name: str) -> list[str]:
        return [str(one.code) for one in self.found.get(self.uri(name), [])]

    def at(
        self, name: str, text: str, words: str, after: bool = False
    ) -> tuple[lsp.TextDocumentIdentifier, lsp.Position]:
        """Return the position of words in a text, or behind them."""
        index = text.index(words) + (len(words) if after else 0)
        before = text[:index]
        line = before.count("\n")
        units = len((before[before.rfind("\n") + 1 :]).encode("utf-16-le")) // 2
        return lsp.TextDocumentIdentifier(self.uri(name)), lsp.Position(line, units)

    async def complete(self, name: str, text: str, words: str) -> list[str]:
        asked = lsp.CompletionParams(*self.at(name, text, words, after=True))
        answer = await self.client.text_document_completion_async(asked)
        items = answer.items if isinstance(answer, lsp.CompletionList) else answer or []
        return [one.label for one in items]


def edit(office: Office, story: Callable[[Session], Awaitable[None]], encoding: str = "utf-16") -> None:
    """Run the server, and do with it what a story says. `encoding`: of positions, the one that the editor has."""

    async def run() -> None:
        client = LanguageClient("tests", "1")
        session = Session(office, client)

        @client.feature(lsp.TEXT_DOCUMENT_PUBLISH_DIAGNOSTICS)  # type: ignore[untyped-decorator]
        def _(told: lsp.PublishDiagnosticsParams) -> None:
            session.found[told.uri] = [*told.diagnostics]
            session.told.set()

        general = lsp.GeneralClientCapabilities(position_encodings=[lsp.PositionEncodingKind(encoding)])
        await client.start_io(JAKLET, "lsp", cwd=str(office.folder), env=office.env)
        await client.initialize_async(
            lsp.InitializeParams(capabilities=lsp.ClientCapabilities(general=general), root_uri=session.uri("."))
        )
        client.initialized(lsp.InitializedParams())
        await asyncio.wait_for(story(session), MOST)
        await asyncio.wait_for(client.shutdown_async(None), LIMIT)
        client.exit(None)
        await asyncio.wait_for(client.stop(), LIMIT)  # type: ignore[no-untyped-call]

    asyncio.run(run())


def test_it_ends_quietly_in_the_middle_of_changes(office: Office) -> None:
    """What a change makes due has nobody to be told to; an editor may end without asking for it, too."""

    def sent(method: str, params: Any, number: int | None = None) -> bytes:
        asked = {"jsonrpc": "2.0", "method": method, "params": params} | ({"id": number} if number else {})
        body = json.dumps(asked).encode()
        return f"Content-Length: {len(body)}\r\n\r\n".encode() + body

    uri = from_fs_path(str(office.config.resolve()))
    begin = [
        sent("initialize", {"capabilities": {}, "processId": None, "rootUri": None}, 1),
        sent("initialized", {}),
        sent("textDocument/didOpen", {"textDocument": {"uri": uri, "languageId": "yaml", "version": 1, "text": ""}}),
    ]
    changes = [
        sent(
            "textDocument/didChange",
            {"textDocument": {"uri": uri, "version": n}, "contentChanges": [{"text": f"apps: {{a{n}: {{}}}}\n"}]},
        )
        for n in range(2, 40)
    ]
    for end, status in (([sent("shutdown", None, 2), sent("exit", None)], 0), ([sent("exit", None)], 1), ([], 1)):
        for shown in (changes, changes[:1]):
            told = b"".join([*begin, *shown, *end])
            done = subprocess.run(
                [JAKLET, "lsp"], cwd=office.folder, env=office.env, input=told, capture_output=True, timeout=LIMIT
            )
            assert (done.returncode, done.stderr.decode()) == (status, "")


def test_a_mistake_is_underlined_as_it_is_typed(office: Office) -> None:
    """From text that is not saved; in one line, and nothing of the others is lost; in every file of the config."""

    async def story(session: Session) -> None:
        text = session.open("jaklet.yaml")
        await session.until(lambda: session.uri("jaklet.yaml") in session.found, "the first findings")
        assert "JK302" not in session.codes("jaklet.yaml")
        broken = text.replace("super+b: go berths\n", "super+b: go ferry   # 🚢 ä\n  super+f: go\n")
        session.change("jaklet.yaml", broken)
        await session.until(lambda: {"JK301", "JK302"} <= {*session.codes("jaklet.yaml")}, "both findings")
        one = next(one for one in session.found[session.uri("jaklet.yaml")] if one.code == "JK302")
        line = broken.splitlines()[one.range.start.line]
        assert line[one.range.start.character : one.range.end.character] == "ferry"
        assert "ferry" in one.message
        # Half a line: the sections beside it are still read.
        session.change("jaklet.yaml", broken.replace("  radio:", "  radio: {launch: [\n  radio:"))
        await session.until(lambda: "JK101" in session.codes("jaklet.yaml"), "the finding about YAML")
        session.change("jaklet.yaml", text.replace("  charts:", "  chart:"))
        await session.until(lambda: "JK302" in session.codes("layouts/arrivals.yaml"), "a finding in a layout")
        session.change("jaklet.yaml", text)
        await session.until(lambda: "JK302" not in session.codes("layouts/arrivals.yaml"), "none any more")

    edit(office, story)


def test_a_tabletop_is_read_as_one(office: Office) -> None:
    async def story(session: Session) -> None:
        text = session.open("tabletop.yaml")
        uri = session.uri("tabletop.yaml")
        await session.until(lambda: uri in session.found, "the first findings")
        assert session.found[uri] == []
        for old, new, said, at in (
            ("workspaces: 4", "workspaces: four", "should be a whole number, and this is 'four'", "four"),
            ("workspaces: 4", "workspaces: 4\nlacks: [stack, flying]", "'flying' is no ability", "flying"),
            ("2560x1440+0+0", "2560x1440", "should be a geometry", "2560x1440"),
            ("workspaces: 4", "workspaces: 4\nwindows: [{program: lettres}]", "did you mean letters?", "lettres"),
            ("workspaces: 4", "workspaces: [", "does not parse as YAML", ""),
        ):
            changed = text.replace(old, new, 1)
            assert changed != text, old
            session.change("tabletop.yaml", changed)
            told = functools.partial(lambda said: [one for one in session.found[uri] if said in one.message], said)
            (one,) = await session.until(told, said)
            if at:
                line = changed.splitlines()[one.range.start.line]
                assert line[one.range.start.character : one.range.end.character].strip("'\"") == at
        changed = text.replace("workspaces: 4", "workspaces: 4\nla")
        session.change("tabletop.yaml", changed)
        await session.until(lambda: session.found[uri], "a finding")
        assert "lacks" in await session.complete("tabletop.yaml", changed, "workspaces: 4\nla")
        session.change("tabletop.yaml", text)
        await session.until(lambda: not session.found[uri], "nothing wrong any more")
        assert not session.codes("jaklet.yaml")  # the config beside it is read, and has nothing of it
        session.change("tabletop.yaml", changed)
        await session.until(lambda: session.found[uri], "a finding")
        session.client.text_document_did_close(lsp.DidCloseTextDocumentParams(lsp.TextDocumentIdentifier(uri)))
        await session.until(lambda: not session.found[uri], "nothing said of a file that is closed")

    edit(office, story)


@pytest.mark.parametrize("encoding", ["utf-8", "utf-16", "utf-32"])
def test_positions_are_in_the_units_of_the_editor(office: Office, encoding: str) -> None:
    office.edit("super+b: go berths", "super+b: {note: Übersee 🚢, do: go ferry}")

    async def story(session: Session) -> None:
        text = session.open("jaklet.yaml")
        await session.until(lambda: "JK302" in session.codes("jaklet.yaml"), "the finding")
        (one,) = (one for one in session.found[session.uri("jaklet.yaml")] if one.code == "JK302")
        line = text.splitlines()[one.range.start.line]
        size = {"utf-8": 1, "utf-16": 2, "utf-32": 4}[encoding]
        raw = line.encode(encoding.replace("-16", "-16-le").replace("-32", "-32-le"))
        cut = raw[size * one.range.start.character : size * one.range.end.character]
        assert cut.decode(encoding.replace("-16", "-16-le").replace("-32", "-32-le")) == "ferry"
        at = lsp.Position(one.range.end.line, one.range.end.character)
        document = lsp.TextDocumentIdentifier(session.uri("jaklet.yaml"))
        answer = await session.client.text_document_completion_async(lsp.CompletionParams(document, at))
        items = answer.items if isinstance(answer, lsp.CompletionList) else answer or []
        (berths,) = (item for item in items if item.label == "berths")
        assert isinstance(berths.text_edit, lsp.TextEdit)
        assert berths.text_edit.range == one.range

    edit(office, story, encoding)


def test_what_can_be_written_is_known(office: Office) -> None:
    office.jaklet("act", "go berths")

    async def story(session: Session) -> None:
        text = session.open("jaklet.yaml")
        await session.until(lambda: session.uri("jaklet.yaml") in session.found, "the first findings")
        for old, new, expected in (
            ("super+b: go berths\n", "super+b: g\n", {"go", "gather", "gaps"}),
            ("super+b: go berths\n", "super+b: go \n", {"berths", "radio", "tides"}),
            ("super+b: go berths\n", "super+b: go berths or \n", {"go", "minimise", "place"}),
            ("super+b: go berths\n", "super+b: {do: place \n", {"left", "wide", "full"}),
            ("super+b: go berths\n", "super+b: {no\n", {"note", "not in"}),
            ("super+b: go berths\n", "super+b: {do: go berths, only in: \n", {"berths", "radio"}),
            ("super+b: go berths\n", "super+\n", {"super+a"}),
            ("  gap: 8\n", "  when\n", {"when displays change"}),
            ("  gap: 8\n", "  when displays change: \n", {"recall", "offer", "leave"}),
            ("  gap: 8\n", "  overlay: {l\n", {"look"}),
            ("launch: radio-log,", "launch: ra\n", {"radio-log"}),
            ("window: {class: RadioLog}", "window: {class: B\n", {"BerthBoard"}),  # of a window that is open
            ("\nlayers:\n", "\nla\nlayers:\n", {"layers"}),
        ):
            changed = text.replace(old, new, 1)
            assert changed != text, old
            session.change("jaklet.yaml", changed)
            await session.until(session.told.is_set, "findings")
            got = await session.complete(
                "jaklet.yaml", changed, new.rstrip("\n").split("\n")[1] if new[0] == "\n" else new.rstrip("\n")
            )
            assert expected <= {*got}, (new, got[:40])
        layout = session.open("layouts/arrivals.yaml")
        changed = layout + "- {app: berths, place: left 1/2, st\n"
        session.change("layouts/arrivals.yaml", changed)
        assert "state" in await session.complete("layouts/arrivals.yaml", changed, "place: left 1/2, st")

    edit(office, story)


def test_names_lead_to_where_they_are_defined_and_get_others_everywhere(office: Office) -> None:
    async def story(session: Session) -> None:
        text = session.open("jaklet.yaml")
        client = session.client
        await session.until(lambda: session.uri("jaklet.yaml") in session.found, "the first findings")
        at = session.at("jaklet.yaml", text, "go charts")
        place = lsp.Position(at[1].line, at[1].character + 4)
        defined = await client.text_document_definition_async(lsp.DefinitionParams(at[0], place))
        assert isinstance(defined, lsp.Location)
        assert text.splitlines()[defined.range.start.line].startswith("  charts:")
        used = await client.text_document_references_async(
            lsp.ReferenceParams(lsp.ReferenceContext(True), at[0], place)
        )
        assert used
        assert {one.uri for one in used} == {session.uri("jaklet.yaml"), session.uri("layouts/arrivals.yaml")}
        changed = await client.text_document_rename_async(lsp.RenameParams(at[0], place, "maps"))
        assert changed is not None
        assert changed.changes is not None
        for uri, edits in changed.changes.items():
            path = Path(uri.removeprefix("file://"))
            lines = path.read_text().splitlines(keepends=True)
            for one in sorted(edits, key=lambda one: (-one.range.start.line, -one.range.start.character)):
                row = lines[one.range.start.line]
                lines[one.range.start.line] = (
                    row[: one.range.start.character] + one.new_text + row[one.range.end.character :]
                )
            path.write_text("".join(lines))
        told = json.loads(office.jaklet("check", "--format", "json", status=None).stdout)
        assert [one for one in told["findings"] if one["severity"] == "error"] == []
        assert "charts:" not in re.sub(r"launch: charts", "", office.config.read_text())
        for words, inside, expected in (
            ("super+b: go berths", 2, "super+b"), ("super+b: go berths", 9, "go APP"), ("go berths", 4, "app berths"),
        ):  # fmt: skip
            at = session.at("jaklet.yaml", text, words)
            hover = await client.text_document_hover_async(
                lsp.HoverParams(at[0], lsp.Position(at[1].line, at[1].character + inside))
            )
            assert hover is not None
            assert isinstance(hover.contents, lsp.MarkupContent)
            assert expected in hover.contents.value
        symbols = await client.text_document_document_symbol_async(lsp.DocumentSymbolParams(at[0]))
        assert {"berths", "main", "arrange", "wide"} <= {one.name for one in symbols or []}
        found = await client.workspace_symbol_async(lsp.WorkspaceSymbolParams("arr"))
        assert {"arrange", "arrivals"} <= {one.name for one in found or []}
        with pytest.raises(Exception, match="sentences need that word"):
            await client.text_document_rename_async(lsp.RenameParams(at[0], place, "left"))

    edit(office, story)


def test_what_an_editor_shows_of_its_own_accord(office: Office) -> None:
    async def story(session: Session) -> None:
        text = session.open("jaklet.yaml")
        client = session.client
        await session.until(lambda: session.uri("jaklet.yaml") in session.found, "the first findings")
        config, lines = lsp.TextDocumentIdentifier(session.uri("jaklet.yaml")), text.splitlines()
        whole = lsp.Range(lsp.Position(0, 0), lsp.Position(len(lines), 0))
        # What marks stand for, and the frames of places as `place draw` has them.
        hints = await client.text_document_inlay_hint_async(lsp.InlayHintParams(config, whole)) or []
        told = {(lines[one.position.line][: one.position.character].split()[-1], str(one.label)) for one in hints}
        assert {("super+<n>", "<n>: 1…9"), ("ctrl+alt+<side>", "<side>: left, right, up, down")} <= told
        assert ("quay", "1904x1064+2568+8 on quay") in told  # of `place full on quay`: 1920x1080 and a gap of 8 around
        drawn = json.loads(office.jaklet("place", "draw", "--format", "json").stdout)["places"]
        for one in drawn:
            at_ = one["frame"]
            assert (one["name"], f"{at_['width']}x{at_['height']}+{at_['x']}+{at_['y']} on main") in told
        first = await client.text_document_inlay_hint_async(
            lsp.InlayHintParams(config, lsp.Range(lsp.Position(0, 0), lsp.Position(5, 0)))
        )
        assert len(first or []) < len(hints)
        for words, inside, expected in (
            ("super+q: place full on quay", 15, "on quay\n\nplace"),
            ("  wide:", 3, "on main\n"),
            ("show layout arrivals", 13, "┌"),
        ):
            at = session.at("jaklet.yaml", text, words)
            hover = await client.text_document_hover_async(
                lsp.HoverParams(at[0], lsp.Position(at[1].line, at[1].character + inside))
            )
            assert hover is not None, words
            assert isinstance(hover.contents, lsp.MarkupContent)
            assert expected in hover.contents.value, hover.contents.value
        # The words of actions, decoded as the protocol says.
        answer = await client.text_document_semantic_tokens_full_async(lsp.SemanticTokensParams(config))
        assert answer is not None
        line = column = 0
        found: dict[tuple[str, str], int] = {}
        for at_ in range(0, len(answer.data), 5):
            down, along, length, kind, _ = answer.data[at_ : at_ + 5]
            column = column + along if not down else along
            line += down
            assert length > 0
            word = lines[line].encode("utf-16-le")[2 * column : 2 * (column + length)].decode("utf-16-le")
            found[word, TYPES[kind]] = found.get((word, TYPES[kind]), 0) + 1
        assert {("go", "function"), ("berths", "class"), ("<side>", "parameter"), ("or", "keyword")} <= {*found}
        assert {word for word, kind in found if kind == "function"} <= {*VERBS}
        folds = await client.text_document_folding_range_async(lsp.FoldingRangeParams(config)) or []
        heads = {lines[one.start_line].split(":")[0] for one in folds}
        assert {"apps", "bindings", "layers", "settings"} <= heads
        for one in folds:
            assert lines[one.end_line].strip()
            assert one.end_line + 1 == len(lines) or one.start_line < one.end_line
        # Formatting changes nothing that is said: trailing space goes, but not where it is part of a text.
        options = lsp.DocumentFormattingParams(config, lsp.FormattingOptions(2, True))
        assert not await client.text_document_formatting_async(options)
        session.change("jaklet.yaml", text.replace("super+b: go berths\n", "super+b: go berths  \t\n") + "\n\n")
        (edit_,) = await client.text_document_formatting_async(options) or []
        assert edit_.new_text == text
        for kept in (text + "\nwords:\n  a: |\n    go berths  \n    b\n", text + "\nwords: [  \n"):
            session.change("jaklet.yaml", kept)
            assert not await client.text_document_formatting_async(options)

    edit(office, story)


def test_findings_have_remedies_that_can_be_chosen(office: Office) -> None:
    async def story(session: Session) -> None:
        text = session.open("jaklet.yaml")
        changed = text.replace("  super+r: go radio\n", "  super+r: go radio\n  super+R: go tides\n").replace(
            "super+b: go berths\n", "ctrl+c: go berths\n"
        )
        session.change("jaklet.yaml", changed)
        found = await session.until(
            lambda: [
                one for one in session.found.get(session.uri("jaklet.yaml"), []) if one.data and one.data["cures"]
            ],
            "curable findings",
        )
        asked = lsp.CodeActionParams(
            lsp.TextDocumentIdentifier(session.uri("jaklet.yaml")), found[0].range, lsp.CodeActionContext(found)
        )
        actions = await session.client.text_document_code_action_async(asked)
        titles = [one.title for one in actions or []]
        assert any(title.startswith("bind ") for title in titles), titles
        silence = next(one for one in actions or [] if one.title.startswith("silence"))
        assert isinstance(silence, lsp.CodeAction)
        assert silence.edit is not None
        assert silence.edit.changes is not None
        (one,) = silence.edit.changes[session.uri("jaklet.yaml")]
        lines = changed.splitlines(keepends=True)
        lines.insert(one.range.start.line, one.new_text)
        before = len(session.codes("jaklet.yaml"))
        session.change("jaklet.yaml", "".join(lines))
        await session.until(lambda: len(session.codes("jaklet.yaml")) == before - 1, "the finding to be silenced")

    edit(office, story)


@pytest.mark.parametrize("edits", [150, pytest.param(10_000, marks=pytest.mark.slow)])
def test_any_edits_leave_the_same_findings_as_a_check(office: Office, edits: int) -> None:
    """Half characters and half lines among them; nothing of it ends the server."""

    async def story(session: Session) -> None:
        text, chance = session.open("jaklet.yaml"), random.Random(11)
        letters = "abc{}[]:,\"'\n  -#&*!|>%@`äß🚢\t" + "super+"
        for _ in range(edits):
            at, size = chance.randrange(len(text) + 1), chance.choice((0, 0, 1, 3, 40))
            text = (
                text[:at]
                + "".join(chance.choice(letters) for _ in range(chance.choice((0, 1, 1, 4))))
                + text[at + size :]
            )
            session.change("jaklet.yaml", text)
            if chance.random() < 0.1:
                line = chance.randrange(text.count("\n") + 1)
                await session.client.text_document_completion_async(
                    lsp.CompletionParams(
                        lsp.TextDocumentIdentifier(session.uri("jaklet.yaml")), lsp.Position(line, chance.randrange(30))
                    )
                )
            if chance.random() < 0.02:
                text = (office.folder / "jaklet.yaml").read_text()
        office.config.write_text(text)
        session.change("jaklet.yaml", text)
        told = json.loads(office.jaklet("check", "--format", "json", status=None).stdout)
        wanted = sorted(one["code"] for one in told["findings"] if one["path"] == "jaklet.yaml")
        await session.until(lambda: sorted(session.codes("jaklet.yaml")) == wanted, f"{wanted}")

    edit(office, story)


def framed(message: Any, length: object = None) -> bytes:
    body = json.dumps(message).encode()
    return f"Content-Length: {len(body) if length is None else length}\r\n\r\n".encode() + body


def asks(number: int, method: str, params: Any) -> dict[str, Any]:
    return {"jsonrpc": "2.0", "id": number, "method": method, "params": params}


POSITION = {"textDocument": {"uri": "file:///nowhere/jaklet.yaml"}, "position": {"line": 0, "character": 0}}
ODD = {  # what comes before a request that has to be answered, and the error codes of what else is answered
    "a length that is none": (framed(asks(2, "textDocument/hover", POSITION), "abc"), []),
    "a length below nothing": (framed(asks(2, "textDocument/hover", POSITION), -5), []),
    "a length without end": (framed(asks(2, "textDocument/hover", POSITION), 99999999999), []),
    "a length that reaches into the next message": (framed(asks(2, "textDocument/hover", POSITION), 500), []),
    "a message that is no JSON": (b"Content-Length: 5\r\n\r\n{oops", []),
    "parameters of another form": (framed(asks(2, "textDocument/hover", {"textDocument": 7})), [-32602]),
    "half a character": (
        framed(asks(2, "textDocument/hover", {**POSITION, "textDocument": {"uri": "file:///\ud800"}})), [],
    ),
    "a header of another kind": (b"Hello: you\r\n\r\n", []),
}  # fmt: skip


@pytest.mark.parametrize("odd", ODD)
def test_what_is_no_message_is_passed_over(odd: str, office: Office) -> None:
    """The next request is answered, and the server ends when it is asked to."""
    before, codes = ODD[odd]
    begin = framed(asks(1, "initialize", {"processId": None, "rootUri": None, "capabilities": {}}))
    end = framed(asks(9, "shutdown", None)) + framed({"jsonrpc": "2.0", "method": "exit"})
    sent = begin + before + framed(asks(3, "textDocument/hover", POSITION)) + end
    done = subprocess.run(
        [JAKLET, "lsp"], input=sent, cwd=office.folder, env=office.env, capture_output=True, timeout=60
    )
    assert done.returncode == 0, done.stderr
    bodies = re.findall(rb"\r\n\r\n(\{.*?\})(?=Content-|$)", done.stdout, re.DOTALL)
    told = {one["id"]: one for one in map(json.loads, bodies) if "id" in one}
    assert told.keys() >= {1, 3, 9}, done.stdout
    assert "result" in told[3]
    assert [one["error"]["code"] for one in told.values() if "error" in one] == codes
    assert b"Traceback" not in done.stderr
