"""Desktop entries (freedesktop Desktop Entry Specification 1.5): the text of one, and the command that it stands for.

No file is read here. What the specification leaves open is done as most launchers do it: single quotes and a backslash
outside of quotes, which it reserves, are read as a shell reads them.
"""

import re
from collections.abc import Mapping, Sequence
from typing import Final, NamedTuple

from jaklet.core.values.regexes import regex

Groups = Mapping[str, Mapping[str, str]]

MAIN: Final = "Desktop Entry"
_ACTION: Final = "Desktop Action "
_ESCAPES: Final = {"s": " ", "n": "\n", "t": "\t", "r": "\r", "\\": "\\"}
_LOCALE: Final = regex(r"([^_.@]+)(?:_([^.@]+))?(?:\.[^@]*)?(?:@(.+))?")
_NO_FILES: Final = "fFuUdDnNvm"  # codes for files, of which there are none here, and the deprecated ones


class EntryError(ValueError):
    """A desktop entry cannot be used, and why."""


class DesktopEntry(NamedTuple):
    """A program as its desktop entry tells of it.

    `command`: the argument list, empty where there is none. `actions`: id -> name and argument list.
    `activated`: it says that it is started over D-Bus. `try_exec`: the program that shows that it is installed.
    """

    id: str
    name: str
    command: tuple[str, ...] = ()
    wm_class: str = ""
    folder: str = ""
    try_exec: str = ""
    in_terminal: bool = False
    activated: bool = False
    hidden: bool = False
    shown: bool = True  # not marked NoDisplay
    categories: tuple[str, ...] = ()
    generic: str = ""  # what kind of program it is, such as Web Browser
    keywords: tuple[str, ...] = ()
    actions: Mapping[str, tuple[str, tuple[str, ...]]] = {}
    fault: str = ""  # why the command cannot be used


def groups_of(text: str) -> Groups:
    """Return groups and their raw values (section 3, "Basic format of the file"); of two equal keys the first."""
    groups: dict[str, dict[str, str]] = {}
    group: dict[str, str] = {}
    for line in text.split("\n"):
        line = line.strip()
        if line.startswith("[") and line.endswith("]"):
            group = groups.setdefault(line[1:-1], {})
        elif line and not line.startswith("#") and "=" in line:
            key, _, value = line.partition("=")
            group.setdefault(key.strip(), value.strip())
    return groups


def unescape_value(raw: str) -> str:
    r"""Return a value of type string (section 4): \s \n \t \r and \\ stand for characters."""
    return re.sub(r"\\(.)", lambda found: _ESCAPES.get(found[1], found[0]), raw)


def split_list(raw: str) -> tuple[str, ...]:
    """Return a value of type list: parts ended by semicolons, a backslash before one that is meant."""
    parts = re.findall(r"((?:\\.|[^\\;])*)(?:;|$)", raw)
    return tuple(unescape_value(part.replace("\\;", ";")) for part in parts if part.strip())


def locale_keys(locale: str) -> list[str]:
    """Return the suffixes of localised keys, the most exact first (section 5); `locale` as in LC_MESSAGES."""
    found = _LOCALE.fullmatch(locale)
    if not found:
        return []
    language, country, modifier = found.groups()
    forms = (
        (f"{language}_{country}@{modifier}", country and modifier),
        (f"{language}_{country}", country),
        (f"{language}@{modifier}", modifier),
        (language, True),
    )
    return [form for form, wanted in forms if wanted]


def localised_value(group: Mapping[str, str], key: str, locale: str) -> str:
    """Return a value in the user's language; as it stands without any where there is none."""
    return unescape_value(localised_raw(group, key, locale))


def localised_raw(group: Mapping[str, str], key: str, locale: str) -> str:
    """Return the same as it is written, for a value of type localestrings."""
    for suffix in locale_keys(locale):
        if f"{key}[{suffix}]" in group:
            return group[f"{key}[{suffix}]"]
    return group.get(key, "")


def words_of(line: str) -> list[str]:
    """Split an Exec line into words, quotes taken off (section 7, "The Exec key"); raises `EntryError`."""
    words: list[str] = []
    word: list[str] | None = None
    at = 0
    while at < len(line):
        c = line[at]
        at += 1
        if c in " \t\n":
            if word is not None:
                words.append("".join(word))
            word = None
            continue
        word = [] if word is None else word
        if c in "\"'":
            part, at = _quoted(line, at, c)
            word.append(part)
        elif c == "\\" and at < len(line):
            word.append(line[at])
            at += 1
        else:
            word.append(c)
    if word is not None:
        words.append("".join(word))
    return words


def _quoted(line: str, at: int, quote: str) -> tuple[str, int]:
    part: list[str] = []
    while at < len(line):
        c = line[at]
        at += 1
        if c == quote:
            return "".join(part), at
        if c == "\\" and quote == '"' and at < len(line) and line[at] in '"`$\\':
            c = line[at]
            at += 1
        part.append(c)
    raise EntryError("a quote in its Exec line is not closed")


def expand_field_codes(words: Sequence[str], *, name: str, icon: str, path: str) -> tuple[str, ...]:
    """Return words with their field codes filled in, for a launch without files; raises `EntryError`."""
    command: list[str] = []
    for word in words:
        if word == "%i":
            command += ["--icon", icon] if icon else []
        elif len(word) == 2 and word[0] == "%" and word[1] in _NO_FILES:
            continue
        else:
            command.append(re.sub(r"%(.?)", lambda code: _code(code[1], name, icon, path), word, flags=re.DOTALL))
    if not command or not command[0]:
        raise EntryError("its Exec line is empty")
    return tuple(command)


def _code(code: str, name: str, icon: str, path: str) -> str:
    values = {"%": "%", "c": name, "k": path, "i": icon}
    if code in values:
        return values[code]
    if code and code in _NO_FILES:
        return ""
    raise EntryError(f"its Exec line has %{code}, which stands for nothing")


def parse_entry(entry_id: str, text: str, path: str = "", locale: str = "C") -> DesktopEntry:
    """Return the values of a desktop entry; raises `EntryError` where it is none or not of an application."""
    groups = groups_of(text)
    main = groups.get(MAIN)
    if main is None:
        raise EntryError(f"it has no group [{MAIN}]")
    if main.get("Type", "Application") != "Application":
        raise EntryError(f"it is of type {main['Type']}, and no application")
    name, icon = localised_value(main, "Name", locale), localised_value(main, "Icon", locale)
    actions: dict[str, tuple[str, tuple[str, ...]]] = {}
    for action in split_list(main.get("Actions", "")):
        group = groups.get(_ACTION + action, {})
        command, _ = _command(group, localised_value(group, "Name", locale), icon, path)
        actions[action] = localised_value(group, "Name", locale), command
    command, fault = _command(main, name, icon, path)
    return DesktopEntry(
        id=entry_id,
        name=name,
        command=command,
        wm_class=unescape_value(main.get("StartupWMClass", "")),
        folder=unescape_value(main.get("Path", "")),
        try_exec=unescape_value(main.get("TryExec", "")),
        in_terminal=_true(main, "Terminal"),
        activated=_true(main, "DBusActivatable"),
        hidden=_true(main, "Hidden"),
        shown=not _true(main, "NoDisplay"),
        categories=split_list(main.get("Categories", "")),
        generic=localised_value(main, "GenericName", locale),
        keywords=split_list(localised_raw(main, "Keywords", locale)),
        actions=actions,
        fault=fault,
    )


def _true(group: Mapping[str, str], key: str) -> bool:
    return group.get(key, "false") in ("true", "1")  # `1` is of older versions of the specification


def _command(group: Mapping[str, str], name: str, icon: str, path: str) -> tuple[tuple[str, ...], str]:
    if "Exec" not in group:
        return (), "it has no Exec line"
    try:
        return expand_field_codes(words_of(unescape_value(group["Exec"])), name=name, icon=icon, path=path), ""
    except EntryError as fault:
        return (), str(fault)
