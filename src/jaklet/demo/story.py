"""The story of the demo: what the harbour master types, step by step."""

from collections.abc import Callable, Iterable, Mapping
from typing import Final, NamedTuple


class Step(NamedTuple):
    """What is told, the commands (without `jaklet`), and the exit status they should have."""

    told: str
    commands: tuple[tuple[str, ...], ...]
    status: int = 0


STORY: Final = (
    Step("A first config is checked before it is used. Every fault comes out at once.", (("check", "first-try"),), 1),
    Step("The mended one has none.", (("check",),)),
    Step("A key brings a program up; another puts its window in place.", (("press", "super+b", "super+left"),)),
    Step("The next two programs, the second on the other display.", (
        ("press", "super+r", "super+right"),
        ("press", "super+t", "super+q"),
    )),
    Step("Back to the berths: the program runs, so the key goes to it.", (("press", "super+b"), ("desk",))),
    Step("This is how the desk should be for departures. It gets a name and a number.", (
        ("layout", "save", "departures", "--number", "1", "--note", "Berths large, radio beside, tide gauge on quay"),
        ("layout", "show", "departures"),
    )),
    Step("Then the day happens: windows are moved about, hidden, closed.", (
        ("act", "place berths at 700,300 size 900x600"),
        ("act", "place radio full on quay"),
        ("act", "minimise tides"),
        ("act", "close radio"),
        ("desk",),
    )),
    Step("What would a recall do? Nothing is changed yet.", (("press", "super+1", "--dry-run"),)),
    Step("One key, and all is back: launched, placed, in order, in focus.", (("press", "super+1"), ("desk",))),
    Step("A second recall finds nothing to do.", (("press", "super+1"),)),
    Step("The windows on the display share it, and a step back undoes that.", (
        ("act", "spread rows"),
        ("undo", "--list"),
        ("undo",),
    )),
    Step("A small correction is saved over it. The former version is kept, and comes back if that was not meant.", (
        ("act", "place radio right 1/4"),
        ("layout", "save", "departures"),
        ("layout", "history", "departures"),
        ("layout", "restore", "departures@1"),
    )),
    Step("All layouts, and the keys to them.", (("layout", "list"),)),
    Step("One key for the whole morning: a macro. What would it do?", (("act", "run start of day", "--dry-run"),)),
    Step("The config has tests of its own: keys pressed on a desk that is not there.", (
        ("trial",),
        ("trial", "--prove"),
    )),
)  # fmt: skip

APPS: Final = ("berths", "radio", "tides")  # that have windows in it
CLOSING: Final = tuple(("act", f"close {app}") for app in APPS)


def among_others(own_workspace: bool) -> tuple[Step, ...]:
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
    story: Iterable[Step],
    run: Callable[[tuple[str, ...]], int],
    say: Callable[[str], None],
    title: Callable[[str], str],
) -> bool:
    """Tell the story; `run` does one command and returns its exit status. True if every step went as told."""
    went = True
    for number, step in enumerate(story, 1):
        say("\n" + title(f"{number}. {step.told}"))
        for command in step.commands:
            say(title(f"$ jaklet {typed(command)}"))
            status = run(command)
            if status != step.status:
                say(f"this was to end with status {step.status}, and ended with {status}")
                went = False
    return went


def typed(words: tuple[str, ...]) -> str:
    """Return words as one would type them."""
    return " ".join(f'"{word}"' if " " in word else word for word in words)


def environment(base: Mapping[str, str], folder: str, desk: str) -> dict[str, str]:
    """Return the environment in which the story runs: all files and state in one folder."""
    path = f"{folder}/bin:{base.get('PATH', '')}"
    data = f"{folder}/share:{base.get('XDG_DATA_DIRS') or '/usr/local/share:/usr/share'}"
    own = {"JAKLET_CONFIG": folder, "JAKLET_DESK": desk, "XDG_STATE_HOME": f"{folder}/state", "XDG_DATA_DIRS": data}
    return {**base, **own, "PATH": path}
