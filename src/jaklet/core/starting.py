"""A first config, written from what is installed: which programs, which keys, and the text of the file."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import Final, NamedTuple

from jaklet.core.desk import Display
from jaklet.core.entries import DesktopEntry
from jaklet.core.keys.chords import Chord, parse_keys


class Role(NamedTuple):
    """A kind of program that most desks have. `category`: of the Desktop Menu Specification, appendix A."""

    app: str
    category: str
    letters: str  # for its key, the first that is free


ROLES: Final = (
    Role("web", "WebBrowser", "bwn"),
    Role("terminal", "TerminalEmulator", "txm"),
    Role("editor", "TextEditor", "evn"),
    Role("files", "FileManager", "foy"),
)
# What else gets a key: the chords that would do, the action, and why it is there.
_OTHERS: Final = (
    (("super+z", "super+grave", "ctrl+alt+z"), "focus last", "back to the window used before"),
    (("super+h", "ctrl+alt+h"), "focus left", "the windows around this one"),
    (("super+l", "ctrl+alt+l"), "focus right", ""),
    (("super+k", "ctrl+alt+k"), "focus up", ""),
    (("super+j", "ctrl+alt+j"), "focus down", ""),
    (("super+left", "ctrl+super+left"), "place left 1/2", "halves of the display"),
    (("super+right", "ctrl+super+right"), "place right 1/2", ""),
    (("super+up", "ctrl+super+up"), "place full", ""),
    (("super+1", "ctrl+alt+1"), "recall 1", "a layout; two keys one after the other save it, so that no slip does"),
    (("super+s 1", "super+d 1", "ctrl+alt+s 1"), "save 1", ""),
)


def wanted_chords() -> list[Chord]:
    """Return every chord that a first config may use."""
    letters = [
        text for role in ROLES for letter in role.letters for text in (f"super+{letter}", f"super+shift+{letter}")
    ]
    return [parse_keys(text)[0] for text in (*letters, *(text for texts, _, _ in _OTHERS for text in texts))]


class Chosen(NamedTuple):
    """A program for a role, if there is one."""

    role: Role
    entry: DesktopEntry | None


def chosen(
    entries: Iterable[DesktopEntry],
    works: Callable[[DesktopEntry], bool],
    ids: Mapping[str, Sequence[str]],
    programs: Mapping[str, str],
) -> list[Chosen]:
    """Return a program for each role, of those that are shown in menus and work.

    By category, `ids` are the entries that the user has chosen as defaults, and `programs` the default programs; where
    there is no default, it is the first by name.
    """
    fit = [entry for entry in entries if entry.shown and not entry.hidden and entry.command and works(entry)]
    found = []
    for role in ROLES:
        wanted, program = list(ids.get(role.category, ())), programs.get(role.category)

        def rank(entry: DesktopEntry, wanted: list[str] = wanted, program: str | None = program) -> tuple[object, ...]:
            place = wanted.index(entry.id) if entry.id in wanted else len(wanted)
            is_default = entry.command[0].rpartition("/")[2] == program
            return place, not is_default, entry.in_terminal, entry.name.casefold(), entry.id

        able = [entry for entry in fit if role.category in entry.categories]
        entry = min(able, key=rank, default=None)
        if entry:
            fit.remove(entry)
        found.append(Chosen(role, entry))
    return found


def config_text(programs: Sequence[Chosen], displays: Sequence[Display], free: Callable[[Chord], bool]) -> str:
    """Return the text of a first config. `free`: whether no other program holds a chord."""
    names = ("main", "side", "third", "fourth")
    lines = [
        "# Your keys, programs and places. After each edit: jaklet check && jaklet reload",
        "settings:",
        "  gap: 0                       # pixels between windows",
        "",
    ]
    if displays:
        order = sorted(displays, key=lambda display: not display.primary)
        lines.append("displays:                      # your names for the monitors")
        lines += [f"  {name}: {{name: {display.name}}}" for name, display in zip(names, order, strict=False)]
        lines.append("")
    lines.append("apps:                          # `jaklet apps suggest` writes entries for open windows")
    lines += [_app_line(one) for one in programs]
    if not any(one.entry for one in programs):
        lines.append("  {}")
    lines += ["", "bindings:"]
    taken: set[Chord] = set()

    def first_free(texts: Iterable[str]) -> str | None:
        for text in texts:
            chord = parse_keys(text)[0]
            if chord not in taken and free(chord):
                taken.add(chord)
                return text
        return None

    why = "launch it, go to it, on to its next window"
    for role, entry in programs:
        if entry and (key := first_free(f"super+{letter}" for letter in role.letters)):
            lines.append(_binding(key, f"go {role.app}", why))
            why = ""
            if back := first_free((key.replace("super+", "super+shift+"),)):
                lines.append(_binding(back, f"go {role.app} backwards", ""))
    for texts, action, note in _OTHERS:
        if key := first_free(texts):
            lines.append(_binding(key, action, note))
    return "\n".join(lines) + "\n"


def _binding(key: str, action: str, why: str) -> str:
    line = f"  {key}: {action}"
    return f"{line:<30} # {why}" if why else line


def _app_line(one: Chosen) -> str:
    if one.entry is None:
        return f"  # {one.role.app}: {{launch: PROGRAM}}   # no {one.role.category} is installed"
    return f"  {one.role.app}: {{entry: {one.entry.id}}}"
