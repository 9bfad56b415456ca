"""From what is meant to its keys: other words for what a line of the sheet does, and the lines that do a thing."""

from collections.abc import Callable, Iterable, Mapping
from typing import Final

from jaklet.core.keys.sheet import SheetLine
from jaklet.core.values.chords import keys_written
from jaklet.core.values.config import Config
from jaklet.core.values.desktop_entries import DesktopEntry
from jaklet.core.values.regexes import regex
from jaklet.core.values.sentences import Action, Ref

# Shares as people say them; `half` finds `left 1/2`.
SPOKEN: Final = {
    "1/2": "half", "50%": "half", "1/3": "third", "2/3": "two thirds", "1/4": "quarter", "25%": "quarter",
    "3/4": "three quarters", "75%": "three quarters", "full": "whole all",
}  # fmt: skip
_SHARE: Final = regex(r"(?<![\w/.])(?:\d+/\d+|\d+%|full)(?![\w/])")
KINDS: Final = ("app", "layout", "layer", "macro", "place", "display")  # of what can be asked for by its name


def other_words(config: Config, entries: Iterable[DesktopEntry]) -> Callable[[SheetLine], str]:
    """Return the extra words by which lines can be found.

    Shares in words, what a place of the config is, and of each app its program and what desktop entries say of it.
    """
    by_app = {name: words for name, words in words_of_apps(config, entries).items() if words}

    def words(line: SheetLine) -> str:
        found: list[str] = []
        for action in line.actions:
            for one in action.every():
                for name in one.names():
                    if name.kind == "place" and name.name in config.places:
                        found.append(str(config.places[name.name]))
                    found += [by_app[name.name]] if name.kind == "app" and name.name in by_app else []
        text = " ".join([line.action, *found])
        found += [SPOKEN[share] for share in _SHARE.findall(text) if share in SPOKEN]
        return " ".join(found).casefold()

    return words


def words_of_apps(config: Config, entries: Iterable[DesktopEntry]) -> Mapping[str, str]:
    """Return for each app its program and windows, and name, kind and keywords of the entries that start it."""
    by_program: dict[str, list[str]] = {}
    for entry in entries:
        if entry.command:
            by_program.setdefault(_program(entry.command), []).extend((entry.name, entry.generic, *entry.keywords))
    found = {}
    for name, app in config.apps.items():
        program = _program(app.command)
        windows = (wanted for rule in app.rules for _, wanted in rule.parts)
        found[name] = " ".join((program, *windows, *by_program.get(program, ())))
    return found


def _program(command: tuple[str, ...]) -> str:
    return command[0].rpartition("/")[2] if command else ""


def lines_doing(lines: Iterable[SheetLine], action: Action, numbers: Mapping[str, str]) -> list[SheetLine]:
    """Return the lines that do this: some action of theirs is the same. `numbers`: of layouts, with their names."""
    wanted = _meant(action, numbers)
    return _those(lines, lambda its: any(_meant(one, numbers) == wanted for one in its.every()))


def lines_about(lines: Iterable[SheetLine], kind: str, name: str, numbers: Mapping[str, str]) -> list[SheetLine]:
    """Return the lines that name a thing: an app, a layout by name or number, a layer, a macro, a place, a display."""

    def known(word: str) -> str:
        return numbers.get(word, word) if kind == "layout" else word

    return _those(lines, lambda its: any(one.kind == kind and known(one.name) == known(name) for one in its.names()))


def _those(lines: Iterable[SheetLine], wanted: Callable[[Action], bool]) -> list[SheetLine]:
    """Return the lines with such an action; of a family those members alone, unless it is all of them."""
    found: list[SheetLine] = []
    for line in lines:
        its = [at for at, action in enumerate(line.actions) if wanted(action)]
        if len(its) == len(line.actions):
            found.append(line)
            continue
        for at in its:
            keys, action = line.chords[at], line.actions[at]
            found.append(line._replace(keys=keys_written(keys), action=action.text, chords=(keys,), actions=(action,)))
    return found


def _meant(action: Action, numbers: Mapping[str, str]) -> tuple[object, ...]:
    """Return an action without the ways in which it can be written."""
    return action.verb, *(_of(ref, numbers) for ref in action.refs)


def _of(ref: Ref, numbers: Mapping[str, str]) -> object:
    if ref.kind in ("LAYOUT", "NAME"):
        return numbers.get(ref.name, ref.name)
    return ref.place or ref.length or (ref.action and _meant(ref.action, numbers)) or (ref.kind, ref.name.casefold())
