"""While writing: how soon an editor and a shell are told. python -m benchmarks.editing [--write]

The server is the installed program, driven by the library's own client over pipes. From a change that is sent until the
findings of it are there; 20 ms of it are waited for more changes. The floor of a shell's answer is the same Python,
isolated, that does nothing.
"""

import asyncio
import os
import re
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from lsprotocol import types as lsp
from pygls.lsp.client import LanguageClient
from tests.conftest import JAKLET

from benchmarks.measure import Row, percentile, report
from jaklet.demo.harbour import write_files

MARK = "<!-- editing -->"
COUNTS = {100: (40, "findings 50 ms"), 10_000: (12, "findings 300 ms")}
SHELL = (
    ("a command", "jaklet ", "1"),
    ("a layout", "jaklet layout recall ", "3"),
    ("an action", "jaklet act ", "2"),
    ("its second word", 'jaklet act "go ', "2"),
)
KEYS = "abcdefghijklmnopqrstuvwxyz"


def config(count: int) -> str:
    """Return a config with so many bindings, in layers."""
    lines = ["apps:", *(f"  app{n}: {{launch: sh, window: {{class: App{n}}}}}" for n in range(20))]
    lines += ["bindings:", "  super+b: go app1", "layers:"]
    for layer in range(max(1, count // 100)):
        lines += [f"  layer{layer}:", "    bindings:"]
        lines += [f"      {held}{key}: go app{(at + layer) % 20}" for at, (held, key) in enumerate(_chords())]
    return "\n".join(lines) + "\n"


def _chords() -> list[tuple[str, str]]:
    return [(held, key) for held in ("", "super+", "ctrl+alt+", "super+ctrl+") for key in KEYS][:100]


async def _edited(folder: Path, count: int, times: int) -> tuple[list[float], list[float], float]:
    path = folder / "jaklet.yaml"
    text = config(count)
    path.write_text(text)
    client, told = LanguageClient("bench", "1"), asyncio.Event()

    @client.feature(lsp.TEXT_DOCUMENT_PUBLISH_DIAGNOSTICS)  # type: ignore[untyped-decorator]
    def _(_told: lsp.PublishDiagnosticsParams) -> None:
        told.set()

    await client.start_io(JAKLET, "lsp", cwd=str(folder))
    await client.initialize_async(lsp.InitializeParams(capabilities=lsp.ClientCapabilities()))
    client.initialized(lsp.InitializedParams())
    uri = path.as_uri()
    client.text_document_did_open(lsp.DidOpenTextDocumentParams(lsp.TextDocumentItem(uri, "yaml", 1, text)))
    await told.wait()
    found, completed = [], []
    for number in range(times):
        changed = text.replace("super+b: go app1", f"super+b: go ferry{number}")
        told.clear()
        start = time.perf_counter()
        client.text_document_did_change(
            lsp.DidChangeTextDocumentParams(
                lsp.VersionedTextDocumentIdentifier(number + 2, uri),
                [lsp.TextDocumentContentChangeWholeDocument(changed)],
            )
        )
        await told.wait()
        found.append((time.perf_counter() - start) * 1000)
        line = next(at for at, row in enumerate(changed.split("\n")) if "ferry" in row)
        start = time.perf_counter()
        asked = lsp.CompletionParams(lsp.TextDocumentIdentifier(uri), lsp.Position(line, len("  super+b: go ")))
        await client.text_document_completion_async(asked)
        completed.append((time.perf_counter() - start) * 1000)
    process = client._server
    status = Path(f"/proc/{process.pid}/status").read_text() if process else ""
    memory = int(re.search(r"VmRSS:\s+(\d+)", status)[1]) / 1024  # type: ignore[index]
    await client.shutdown_async(None)
    client.exit(None)
    await client.stop()  # type: ignore[no-untyped-call]
    return found, completed, memory


def rows() -> list[Row]:
    """Measure the server and the shells' answers."""
    result = []
    with tempfile.TemporaryDirectory() as name:
        for count, (times, aim) in COUNTS.items():
            found, completed, memory = asyncio.run(_edited(Path(name), count, times))
            for what, values, wanted in (("findings after a change", found, aim), ("completion", completed, "50 ms")):
                told = f"{statistics.median(values):.0f} ms, {percentile(values, 0.95):.0f} ms"
                result.append(Row(f"{what}, {count:,} bindings: p50, p95", told, "", "", wanted))
            result.append(Row(f"memory of the server, {count:,} bindings", f"{memory:.0f} MB", "", "", "under 120 MB"))
        result += _shells(Path(name) / "office")
    return result


def _shells(folder: Path) -> list[Row]:
    write_files(folder)
    env = {**os.environ, "JAKLET_CONFIG": str(folder), "XDG_CACHE_HOME": str(folder / "cache")}
    env |= {"_JAKLET_COMPLETE": "complete_bash"}
    result = []
    for what, words, number in SHELL:
        ours: list[float] = []
        bare: list[float] = []
        for _ in range(21):
            for command, times in (([JAKLET], ours), ([sys.executable, "-I", "-c", "pass"], bare)):
                start = time.perf_counter()
                subprocess.run(
                    command, env={**env, "COMP_WORDS": words, "COMP_CWORD": number}, check=True, capture_output=True
                )
                times.append((time.perf_counter() - start) * 1000)
        a, b = statistics.median(ours), statistics.median(bare)
        result.append(
            Row(f"completion in a shell: {what}", f"{a:.0f} ms", f"{b:.0f} ms", f"{a / b:.1f}", "within 100 ms")
        )
    return result


if __name__ == "__main__":
    report(rows(), MARK)
