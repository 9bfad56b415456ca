"""What a shell is told when a word is being written: names of the config, from a small file that is kept for that.

The shells' scripts are Typer's (`jaklet --install-completion`), and so is the way in which they ask and are answered;
but nothing of it is loaded, as each key in a shell waits for the answer. What commands and options there are stands in
`commands.json`, which `make docs` makes of the commands.
"""

import json
import os
import re
import shlex
import sys
from collections.abc import Callable, Iterable, Iterator, Mapping
from functools import cache
from pathlib import Path
from typing import Any, NamedTuple

from jaklet.locations import COMPLETES, HERE, config_file

VERSION = 1  # of what is kept


class WordCompletion(NamedTuple):
    """A word that can be written, and what it is."""

    word: str
    told: str = ""


def answer_shell(environment: Mapping[str, str]) -> bool:
    """Answer a shell; false where the usual way is to: it asks for its script, or is another shell than these."""
    way = environment.get(COMPLETES, "")
    answer = _ANSWERS.get(way.removeprefix("complete_"))
    if answer is None:
        return False
    words, begun = _asked(way, environment)
    fitting = [one for one in proposals(words, begun) if one.word.startswith(begun)]
    if way == "complete_bash":  # it puts in what it is told to the letter
        fitting = _quoted(fitting, _is_open(environment.get("COMP_WORDS", "")))
    sys.stdout.write(answer(fitting))
    if environment.get("_TYPER_COMPLETE_FISH_ACTION") == "is-args":
        sys.stdout.flush()
        os._exit(0 if fitting else 1)
    return True


def _quoted(found: list[WordCompletion], is_open: bool) -> list[WordCompletion]:
    """Return words as bash has to write them. `is_open`: within quotes, which one word alone would close."""
    if not is_open:
        return [one._replace(word=re.sub(r"([^\w@%+=:,./-])", r"\\\1", one.word)) for one in found]
    goes_on = len(found) == 1 and " " not in found[0].word
    return [*found, found[0]._replace(word=f"{found[0].word} ")] if goes_on else found


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


def proposals(words: list[str], begun: str) -> list[WordCompletion]:
    """Return the completions of a word. `words`: those before it; `begun`: its first letters."""
    at = _walked(words)
    if at.open:
        takes = at.options[at.open][1]
        return [*map(WordCompletion, takes)] if isinstance(takes, list) else [*OF_OPTIONS.get(at.open, _nothing)()]
    if begun.startswith("-"):
        again = at.node.get("again", ())
        return [
            WordCompletion(name, told)
            for name, (told, _) in at.options.items()
            if name not in at.given or name in again
        ]
    below = {} if at.words else at.node.get("commands", {})
    found = [WordCompletion(name, one["told"]) for name, one in below.items()]
    found += map(WordCompletion, at.node.get("words", ()) if not at.words else ())
    of = OF_COMMANDS.get(" ".join(at.path))
    return [*found, *of(begun)] if of and (not below or at.node.get("usual")) else found


@cache
def _table() -> Mapping[str, Any]:
    """Return the table of commands, options and verbs that `tools/make_commands.py` has written."""
    table: Mapping[str, Any] = json.loads(Path(__file__).with_name("commands.json").read_bytes())
    return table


class _CommandPosition(NamedTuple):
    """How far a command line leads. `node`: what is told of the command; `open`: an option that waits for its value."""

    path: list[str]
    node: Mapping[str, Any]
    options: Mapping[str, tuple[str, Any]]
    given: set[str]
    words: int
    open: str


def _walked(words: list[str]) -> _CommandPosition:
    node = _table()
    path, given, count, open_ = list[str](), set[str](), 0, ""
    options = node["options"]
    for word in words:
        if open_:
            open_ = ""
        elif word.startswith("-"):
            name = word.partition("=")[0]
            given.add(name)
            open_ = name if options.get(name, ("", False))[1] and "=" not in word else ""
        elif not count and word in node.get("commands", {}):
            node = node["commands"][word]
            path.append(word)
            options = {**node["options"], **node.get("commands", {}).get(node.get("usual"), {}).get("options", {})}
        else:
            count += 1
    return _CommandPosition(path, node, options, given, count, open_)


def _of(kind: str) -> list[WordCompletion]:
    return [WordCompletion(word, told) for word, told in config_names().get(kind, {}).items()]


def _sentences(text: str) -> Iterator[WordCompletion]:
    """Yield the actions with one word more than there is, and the words of the config."""
    known = config_names()
    if " " not in text:  # the grammar is not needed yet, and takes as long to load as all the rest
        for words in (_table()["verbs"], known.get("word", {})):
            yield from (WordCompletion(word, told) for word, told in words.items())
        return
    from jaklet.core.language.continuing import continuations, split_at_word

    said, _ = split_at_word(text)
    for word in continuations(said, {kind: [*of] for kind, of in known.items()}):
        yield WordCompletion(said + word)


def _nothing(_begun: str = "") -> Iterable[WordCompletion]:
    return ()


def _codes(_begun: str) -> Iterator[WordCompletion]:
    from jaklet.core.values.findings import CATALOGUE

    return (WordCompletion(code, one.title) for code, one in CATALOGUE.items())


def _kinds(_begun: str) -> Iterator[WordCompletion]:
    from jaklet.core.values.kinds import KIND_NAMES

    return map(WordCompletion, KIND_NAMES)


def _keyboards() -> Iterator[WordCompletion]:
    from jaklet.core.keys.keyboards import NAMES, THIS

    return map(WordCompletion, (*NAMES, THIS))


def _desks() -> Iterator[WordCompletion]:
    return map(WordCompletion, (*HERE, "tabletop:"))


# By command, and by option: what can be written there beside the words that the command itself knows.
OF_COMMANDS: Mapping[str, Callable[[str], Iterable[WordCompletion]]] = {
    "act": _sentences,
    "explain": _codes,
    "pick": _kinds,
    **{name: lambda _: _of("chord") for name in ("fire", "rehearse", "keys why")},
    **{name: lambda _: _of("app") for name in ("keys for",)},
    **{
        f"layout {name}": lambda _: _of("layout")
        for name in _table()["commands"]["layout"]["commands"]
        if name != "list"
    },
}
OF_OPTIONS: Mapping[str, Callable[[], Iterable[WordCompletion]]] = {
    "--desk": _desks,
    "--app": lambda: _of("app"),
    "--layer": lambda: _of("layer"),
    "--display": lambda: _of("display"),
    "--keyboard": _keyboards,
}


def config_names() -> Mapping[str, Mapping[str, str]]:
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
    from jaklet.cli.resources import checked_config
    from jaklet.core.values.chords import keys_written
    from jaklet.core.values.errors import JakletError
    from jaklet.files import write_whole

    try:
        result = checked_config(None)
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


def _in_bash(found: list[WordCompletion]) -> str:
    return "\n".join(one.word for one in found) + "\n"


def _in_zsh(found: list[WordCompletion]) -> str:
    def plain(text: str) -> str:
        for old, new in (('"', '""'), ("'", "''"), ("$", "\\$"), ("`", "\\`"), (":", r"\\:")):
            text = text.replace(old, new)
        return text

    rows = [f'"{plain(one.word)}":"{plain(one.told)}"' if one.told else f'"{plain(one.word)}"' for one in found]
    return "_arguments '*: :((" + "\n".join(rows) + "))'\n" if rows else "_files\n"


def _in_fish(found: list[WordCompletion]) -> str:
    return "\n".join(f"{one.word}\t{' '.join(one.told.split())}" if one.told else one.word for one in found) + "\n"


_ANSWERS: Mapping[str, Callable[[list[WordCompletion]], str]] = {"bash": _in_bash, "zsh": _in_zsh, "fish": _in_fish}
