"""The story of the demo: what the harbour master types, step by step."""

from collections.abc import Callable, Iterable, Mapping
from typing import Final, NamedTuple


class StoryPart(NamedTuple):
    """What is told, the commands (without `jaklet`), and the exit status they should have.

    `seen`: something is over the windows after each command but the last, and is to be looked at.
    """

    told: str
    commands: tuple[tuple[str, ...], ...]
    status: int = 0
    seen: bool = False


STORY: Final = (
    StoryPart(
        "A first config is checked before it is used. Every fault is told at once.", (("check", "first-try"),), 1
    ),
    StoryPart("The mended one has none.", (("check",),)),
    StoryPart("A key brings a program up; another puts its window in place.", (("fire", "super+b", "super+left"),)),
    StoryPart("The next two programs, the second on the other display.", (
        ("fire", "super+r", "super+right"),
        ("fire", "super+t", "super+q"),
    )),
    StoryPart("Back to the berths: the program runs, so the key goes to it.", (("fire", "super+b"), ("desk",))),
    StoryPart("This is how the desk should be for departures. It gets a name and a number.", (
        ("layout", "save", "departures", "--number", "1", "--note", "Berths large, radio beside, tide gauge on quay"),
        ("layout", "show", "departures"),
    )),
    StoryPart("Then the day happens: windows are moved about, hidden, closed.", (
        ("act", "place berths at 700,300 size 900x600"),
        ("act", "place radio full on quay"),
        ("act", "minimise tides"),
        ("act", "close radio"),
        ("desk",),
    )),
    StoryPart("What would a recall do? Nothing is changed yet.", (("fire", "super+1", "--dry-run"),)),
    StoryPart("One key, and all is back: launched, placed, in order, in focus.", (("fire", "super+1"), ("desk",))),
    StoryPart("A second recall finds nothing to do.", (("fire", "super+1"),)),
    StoryPart("The windows on the display share it, and a step back undoes that.", (
        ("act", "spread rows"),
        ("undo", "--list"),
        ("undo",),
    )),
    StoryPart("A small correction is saved over it. The former version is kept, and comes back if it was an error.", (
        ("act", "place radio right 1/4"),
        ("layout", "save", "departures"),
        ("layout", "history", "departures"),
        ("layout", "restore", "departures@1"),
    )),
    StoryPart("All layouts, and the keys to them.", (("layout", "list"),)),
    StoryPart("One key for the whole morning: a macro. What would it do?", (("act", "run start of day", "--dry-run"),)),
    StoryPart("The config has tests of its own: keys pressed on a desk that is not there.", (
        ("trial",),
        ("trial", "--prove"),
    )),
)  # fmt: skip

# What needs real windows and a listener: each is closed again by Escape.
ON_SCREEN: Final = tuple(
    StoryPart(told, (*(("fire", *keys) for keys in shown), ("fire", "escape")), seen=True)
    for told, shown in (
        ("Keys can show things over the windows. The finder: everything by a few letters.",
         (("ctrl+alt+f",), ("r", "a"))),
        ("The keys that are live.", (("ctrl+alt+h",),)),
        ("A grid: two letters are two corners.", (("ctrl+alt+g",), ("s",))),
        ("A letter on each window: one key goes there.", (("ctrl+alt+w",),)),
        ("A layer is on: its keys stand at the lower edge.", (("super+w",),)),
    )
)  # fmt: skip

APPS: Final = ("berths", "radio", "tides")  # that have windows in it
CLOSING: Final = tuple(("act", f"close {app}") for app in APPS)


def among_others(own_workspace: bool) -> tuple[StoryPart, ...]:
    """Return the story as it is told on a desk with windows of others, which it leaves alone.

    `own_workspace`: none of them is where it plays, so that sharing a display is among its own windows.
    """
    own = tuple(word for app in APPS for word in ("--app", app))
    steps = []
    for step in STORY:
        if not own_workspace and any("spread" in word for command in step.commands for word in command):
            continue
        saving = (command[:2] == ("layout", "save") for command in step.commands)
        commands = tuple(
            (*command, *own) if saves else command for command, saves in zip(step.commands, saving, strict=True)
        )
        steps.append(step._replace(commands=commands))
    return tuple(steps)


def tell(
    story: Iterable[StoryPart],
    run: Callable[[tuple[str, ...]], int],
    say: Callable[[str], None],
    title: Callable[[str], str],
    look: Callable[[], None] = lambda: None,
    before: int = 0,
) -> bool:
    """Tell the story; `run` does one command and returns its exit status. True if every step went as told.

    `look`: waits while something is to be looked at. `before`: chapters that were told already.
    """
    went = True
    for number, step in enumerate(story, before + 1):
        say("\n" + title(f"{number}. {step.told}"))
        for at, command in enumerate(step.commands):
            if step.seen and at:
                look()
            say(title(f"$ jaklet {typed_words(command)}"))
            status = run(command)
            if status != step.status:
                say(f"this was to end with status {step.status}, and ended with {status}")
                went = False
    return went


def typed_words(words: tuple[str, ...]) -> str:
    """Return words as one would type them."""
    return " ".join(f'"{word}"' if " " in word else word for word in words)


def environment(base: Mapping[str, str], folder: str, desk: str) -> dict[str, str]:
    """Return the environment in which the story runs: all files and state in one folder."""
    path = f"{folder}/bin:{base.get('PATH', '')}"
    data = f"{folder}/share:{base.get('XDG_DATA_DIRS') or '/usr/local/share:/usr/share'}"
    own = {"JAKLET_CONFIG": folder, "JAKLET_DESK": desk, "XDG_STATE_HOME": f"{folder}/state", "XDG_DATA_DIRS": data}
    return {**base, **own, "PATH": path}
