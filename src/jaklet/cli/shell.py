"""What a shell is told when a word is being written: names of the config, from a small file that is kept for that.

The shells' scripts are Typer's (`jaklet --install-completion`), and so is the way in which they ask and are answered;
only for the words here nothing of it is loaded, as each key in a shell waits for the answer.
"""

import json
import os
import re
import shlex
import sys
from collections.abc import Callable, Iterator, Mapping
from pathlib import Path
from typing import Any, NamedTuple

from jaklet.where import COMPLETES, config_file

LAYOUT_COMMANDS = ["recall", "show", "diff", "draw", "history", "restore", "rename", "copy", "remove", "edit", "save"]
VERSION = 1  # of what is kept


class Proposal(NamedTuple):
    """A word that can be written, and what it is."""

    word: str
    told: str = ""


def answered(environment: Mapping[str, str]) -> bool:
    """Answer a shell, if what is being written is one of the words here; false where the usual way is to answer."""
    way = environment.get(COMPLETES, "")
    answer = _ANSWERS.get(way.removeprefix("complete_"))
    if answer is None:
        return False
    words, begun = _asked(way, environment)
    found = proposals(words, begun)
    if found is None:
        return False
    fitting = [one for one in found if one.word.startswith(begun)]
    sys.stdout.write(answer(fitting))
    if environment.get("_TYPER_COMPLETE_FISH_ACTION") == "is-args":
        sys.stdout.flush()
        os._exit(0 if fitting else 1)
    return True


def _asked(way: str, environment: Mapping[str, str]) -> tuple[list[str], str]:
    """Return the words before the one that is being written, without the program, and the beginning of that one."""
    if way == "complete_bash":
        words = _split(environment.get("COMP_WORDS", ""))
        number = int(environment.get("COMP_CWORD", "0") or 0)
        return words[1:number], words[number] if number < len(words) else ""
    line = environment.get("_TYPER_COMPLETE_ARGS", "")
    words = _split(line)[1:]
    return (words[:-1], words[-1]) if (words and not line.endswith(" ")) or _is_open(line) else (words, "")


def _split(line: str) -> list[str]:
    """Return the words of a command line, the last of which may have a quote that is not closed yet."""
    lexer = shlex.shlex(line, posix=True)
    lexer.whitespace_split, lexer.commenters = True, ""
    words: list[str] = []
    try:
        words.extend(lexer)
    except ValueError:
        words.append(lexer.token)
    return words


def _is_open(line: str) -> bool:
    return (len(re.findall(r"(?<!\\)\"", line)) % 2 or line.count("'") % 2) == 1


def proposals(words: list[str], begun: str) -> list[Proposal] | None:
    """Return what can be written there; None where it is no name of the config."""
    last = words[-1] if words else ""
    plain = [word for word in words if not word.startswith("-")]
    if last == "--desk":
        return [Proposal(word) for word in ("x11", "plasma", "tabletop:")]
    if last == "--app":
        return _of("app")
    if last.startswith("-") or begun.startswith("-"):
        return None
    match plain[:2]:
        case ["act"]:
            return [*_sentences(begun)]
        case ["fire", *_]:
            return _of("chord")
        case ["explain"]:
            from jaklet.core.values.findings import CATALOGUE

            return [Proposal(code, one.title) for code, one in CATALOGUE.items()]
        case ["layout", command] if command in LAYOUT_COMMANDS:
            return _of("layout")
    return None


def _of(kind: str) -> list[Proposal]:
    return [Proposal(word, told) for word, told in names().get(kind, {}).items()]


def _sentences(text: str) -> Iterator[Proposal]:
    """Yield the actions with one word more than there is, and the words of the config."""
    from jaklet.core.language.continuing import begun, continuations
    from jaklet.core.language.verbs import VERBS

    known = names()
    said, _ = begun(text)
    for word in continuations(said, {kind: [*of] for kind, of in known.items()}):
        yield Proposal(said + word, VERBS[word].help.split(".")[0] if not said else "")
    if not said:
        yield from (Proposal(word, told) for word, told in known.get("word", {}).items())


def names() -> Mapping[str, Mapping[str, str]]:
    """Return the names of the config in use, by kind, each with a line on it: as kept, or read anew."""
    config = os.path.realpath(config_file(None))
    kept = _cache(config)
    try:
        told: Any = json.loads(kept.read_text())
        if told["version"] == VERSION and all(_stamp(path) == stamp for path, stamp in told["files"].items()):
            names: Mapping[str, Mapping[str, str]] = told["names"]
            return names
    except (OSError, ValueError, KeyError, TypeError, AttributeError):
        pass
    return _read(config, kept)


def _cache(config: str) -> Path:
    import zlib

    base = os.environ.get("XDG_CACHE_HOME", "")
    folder = Path(base) if os.path.isabs(base) else Path.home() / ".cache"
    return folder / "jaklet" / f"names-{zlib.crc32(config.encode()):08x}.json"


def _stamp(path: str) -> int:
    try:
        return os.stat(path).st_mtime_ns
    except OSError:
        return 0


def _read(config: str, kept: Path) -> Mapping[str, Mapping[str, str]]:
    """Read the names from the config, and keep them."""
    from jaklet.cli.resources import checked
    from jaklet.core.values.chords import keys_written
    from jaklet.core.values.errors import JakletError
    from jaklet.files import write_whole

    try:
        result = checked(None)
    except JakletError:
        return {}
    of, reading = result.config, result.reading
    found: dict[str, dict[str, str]] = {
        "app": {name: " ".join(app.command) for name, app in of.apps.items()},
        "place": {name: place.note or str(place) for name, place in of.places.items()},
        "display": dict(of.displays),
        "workspace": {name: f"workspace {number}" for name, number in of.workspaces.items()},
        "layer": {name: layer.note for name, layer in of.layers.items()},
        "macro": {name: macro.note for name, macro in of.macros.items()},
        "word": {name: word.note or str(word.action) for name, word in of.words.items()},
        "layout": {one.layout.name: one.layout.note for one in reading.laid},
        "chord": {keys_written(one.keys): str(one.action) for one in of.live if not one.layer},
    }
    for one in reading.laid:
        if one.layout.number is not None:
            found["layout"][str(one.layout.number)] = one.layout.name
    paths = {config, os.path.join(os.path.dirname(config), "layouts"), *map(str, reading.files.values())}
    told = {"version": VERSION, "files": {path: _stamp(path) for path in paths}, "names": found}
    try:
        kept.parent.mkdir(parents=True, exist_ok=True)
        write_whole(kept, json.dumps(told))
    except OSError:
        pass  # it is read again the next time
    return found


def _in_bash(found: list[Proposal]) -> str:
    return "\n".join(one.word for one in found) + "\n"


def _in_zsh(found: list[Proposal]) -> str:
    def plain(text: str) -> str:
        for old, new in (('"', '""'), ("'", "''"), ("$", "\\$"), ("`", "\\`"), (":", r"\\:")):
            text = text.replace(old, new)
        return text

    rows = [f'"{plain(one.word)}":"{plain(one.told)}"' if one.told else f'"{plain(one.word)}"' for one in found]
    return "_arguments '*: :((" + "\n".join(rows) + "))'\n" if rows else "_files\n"


def _in_fish(found: list[Proposal]) -> str:
    return "\n".join(f"{one.word}\t{' '.join(one.told.split())}" if one.told else one.word for one in found) + "\n"


_ANSWERS: Mapping[str, Callable[[list[Proposal]], str]] = {"bash": _in_bash, "zsh": _in_zsh, "fish": _in_fish}
