"""A first config, written from what is installed: which programs, which keys, and the text of the file."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import Final, NamedTuple

from jaklet.core.values.chords import Chord, parse_keys
from jaklet.core.values.desk import Display
from jaklet.core.values.desktop_entries import DesktopEntry


class ProgramRole(NamedTuple):
    """A kind of program that most desks have. `category`: of the Desktop Menu Specification, appendix A."""

    app: str
    category: str
    letters: str  # for its key, the first that is free


ROLES: Final = (
    ProgramRole("web", "WebBrowser", "bwn"),
    ProgramRole("terminal", "TerminalEmulator", "txm"),
    ProgramRole("editor", "TextEditor", "evn"),
    ProgramRole("files", "FileManager", "foy"),
)


class ActionGroup(NamedTuple):
    """Actions that get their keys together: half of four directions would be a fault of its own. `ways`: of keys."""

    why: str
    actions: tuple[str, ...]
    ways: tuple[tuple[str, ...], ...]


def _with(modifiers: Iterable[str], keys: str) -> tuple[tuple[str, ...], ...]:
    return tuple(tuple(f"{held}+{key}" for key in keys.split()) for held in modifiers)


_OTHERS: Final = (
    ActionGroup("back to the window used before", ("focus last",), (("super+z",), ("super+grave",), ("ctrl+alt+z",))),
    ActionGroup(
        "the windows around this one",
        ("focus left", "focus down", "focus up", "focus right"),
        _with(("super", "ctrl+alt", "ctrl+super", "super+shift"), "h j k l"),
    ),
    ActionGroup(
        "halves of the display, and all of it",
        ("place left 1/2", "place right 1/2", "place full"),
        _with(("super", "ctrl+super", "super+shift", "ctrl+alt"), "left right up"),
    ),
    ActionGroup(
        "a layout; two keys one after the other save it, so that no slip does",
        ("recall 1", "save 1"),
        (("super+1", "super+s 1"), ("super+1", "super+d 1"), ("ctrl+alt+1", "ctrl+alt+s 1")),
    ),
)


def ways_of(role: ProgramRole) -> list[tuple[str, ...]]:
    """Return the keys that would do to go to a program and back through its windows, the best first."""
    ways = []
    for held in ("super", "ctrl+alt"):
        for letter in role.letters:
            both = f"{held}+{letter}", f"{held}+shift+{letter}"
            ways += [both, both[:1]]
    return ways


def wanted_chords() -> list[Chord]:
    """Return every chord that a first config may use."""
    ways = [*(way for role in ROLES for way in ways_of(role)), *(way for group in _OTHERS for way in group.ways)]
    return list(dict.fromkeys(parse_keys(text)[0] for way in ways for text in way))


class RoleProgram(NamedTuple):
    """A program for a role, if there is one."""

    role: ProgramRole
    entry: DesktopEntry | None


def programs_for_roles(
    entries: Iterable[DesktopEntry],
    works: Callable[[DesktopEntry], bool],
    ids: Mapping[str, Sequence[str]],
    programs: Mapping[str, str],
) -> list[RoleProgram]:
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
        found.append(RoleProgram(role, entry))
    return found


def config_text(programs: Sequence[RoleProgram], displays: Sequence[Display], free: Callable[[Chord], bool]) -> str:
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
    taken: set[Chord] = set()

    def first_free(ways: Iterable[tuple[str, ...]]) -> tuple[str, ...]:
        """Return the first way whose keys are all free, and take them; none if there is no such way."""
        for way in ways:
            chords = {parse_keys(text)[0] for text in way}
            if not chords & taken and all(free(chord) for chord in chords):
                taken.update(chords)
                return way
        return ()

    keys = {one.role: first_free(ways_of(one.role)) for one in programs if one.entry}
    lines.append("apps:                          # `jaklet apps suggest` writes lines for open windows")
    lines += [_app_line(one, bool(keys.get(one.role))) for one in programs]
    if not any(keys.values()):
        lines.append("  {}")
    lines += ["", "bindings:"]
    why = "launch it, go to it, on to its next window"
    for role, way in keys.items():
        actions = (f"go {role.app}", f"go {role.app} backwards")
        lines += [_binding(*one) for one in zip(way, actions, (why, ""), strict=False)]
        why = "" if way else why
    for group in _OTHERS:
        notes = (group.why, *[""] * len(group.actions))
        lines += [_binding(*one) for one in zip(first_free(group.ways), group.actions, notes, strict=False)]
    return "\n".join(lines) + "\n"


def _binding(key: str, action: str, why: str) -> str:
    line = f"  {key}: {action}"
    return f"{line:<30} # {why}" if why else line


def _app_line(one: RoleProgram, has_key: bool) -> str:
    if one.entry is None:
        return f"  # {one.role.app}: {{launch: PROGRAM}}   # no {one.role.category} is installed"
    line = f"{one.role.app}: {{entry: {one.entry.id}}}"
    return f"  {line}" if has_key else f"  # {line}   # no key is free for it"
