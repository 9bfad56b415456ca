"""jaklet demo"""

import contextlib
import os
import sys
from collections.abc import Callable, Iterator, Mapping
from pathlib import Path
from typing import Annotated, NamedTuple

import typer

from jaklet.cli import terminal
from jaklet.locations import GNOME, PLASMA, X11

LOOK = 2.0  # seconds that something is to be looked at


def demo(
    x11: Annotated[bool, typer.Option("--x11", help="Use real windows on the X server of $DISPLAY.")] = False,
    plasma: Annotated[
        bool, typer.Option("--plasma", help="Use real windows in this session of Plasma on Wayland.")
    ] = False,
    gnome: Annotated[
        bool, typer.Option("--gnome", help="Use real windows in this session of GNOME on Wayland.")
    ] = False,
    write: Annotated[
        str | None,
        typer.Option(
            "--write", metavar="FOLDER", help="Only write the demo's files, to play with.", show_default=False
        ),
    ] = None,
) -> None:
    """Show what Jaklet does, in short steps.

    The harbour office of Port Ellery is set up for the day. It runs
    on a simulated desk in a folder of its own; your config and your windows are left alone.

    Example: jaklet demo --write harbour
    """
    if write is not None:
        _write(Path(write))
        return
    import subprocess
    import tempfile

    from jaklet.core.values.errors import UsageError
    from jaklet.core.values.words import listed
    from jaklet.demo.harbour import WAYLAND_WINDOWS, X11_WINDOWS, write_files
    from jaklet.demo.story import CLOSING, ON_SCREEN, STORY, among_others, environment, tell

    kinds = [kind for kind, is_meant in ((X11, x11), (PLASMA, plasma), (GNOME, gnome)) if is_meant]
    if len(kinds) > 1:
        raise UsageError(f"{listed([f'--{kind}' for kind in kinds])} are {len(kinds)} desks", "choose one of them")
    kind = kinds[0] if kinds else ""
    ink = terminal.ink_for()
    with tempfile.TemporaryDirectory(prefix="jaklet-demo-") as folder:
        write_files(Path(folder), WAYLAND_WINDOWS if kind in (PLASMA, GNOME) else X11_WINDOWS)
        around = _look_around(Path(folder), kind) if kind else None
        variables = environment(os.environ, folder, kind or "tabletop:tabletop.yaml")

        def run(command: tuple[str, ...]) -> int:
            sys.stdout.flush()
            return subprocess.run([sys.executable, "-m", "jaklet", *command], cwd=folder, env=variables).returncode

        where = "on a simulated desk"
        if kind:
            where = {PLASMA: "on Plasma", GNOME: "on GNOME"}.get(kind, f"on the X server {os.environ.get('DISPLAY')}")
        terminal.say(f"The harbour office of Port Ellery, {where}.")
        for command in around.before if around else ():
            run(command)
        story = STORY if around is None else among_others(own_workspace=bool(around.before))
        title: Callable[[str], str] = lambda text: ink(text, "strong")  # noqa: E731
        went = tell(story, run, terminal.say, title)
        if around:
            with _listening(folder, variables) as why_not:
                if why_not:
                    terminal.say(f"\nWhat keys show over the windows is left out: {why_not}")
                else:
                    went &= tell(ON_SCREEN, run, terminal.say, title, _look, len(story))
        for command in (*CLOSING, *around.after) if around else ():
            run(command)
    terminal.say("\nPlay with it yourself: jaklet demo --write harbour")
    raise typer.Exit(0 if went else 1)


@contextlib.contextmanager
def _listening(folder: str, variables: Mapping[str, str]) -> Iterator[str]:
    """Let a listener go by the demo's config: what is seen over the windows needs one. Yields why there is none."""
    import subprocess

    command = [sys.executable, "-m", "jaklet", "listen"]
    with subprocess.Popen(
        command, cwd=folder, env=variables, text=True, stdout=subprocess.PIPE, stderr=subprocess.STDOUT
    ) as listener:
        assert listener.stdout
        line = ""
        for line in listener.stdout:
            if line.startswith("listening on"):
                break
        try:
            yield "" if line.startswith("listening on") else line.strip() or "no listener can be started"
        finally:
            listener.terminate()
            listener.communicate()


def _look() -> None:
    """Wait while something is to be looked at; without a terminal nobody does."""
    import time

    time.sleep(LOOK if sys.stdout.isatty() else 0.0)


def _write(folder: Path) -> None:
    from jaklet.demo.harbour import write_files

    names = write_files(folder)
    _use(folder)
    terminal.say(f"wrote {len(names)} files into {folder}. To work with them:")
    terminal.say(f"  cd {folder}")
    terminal.say("  export JAKLET_CONFIG=jaklet.yaml JAKLET_DESK=tabletop:tabletop.yaml")
    terminal.say("  export XDG_STATE_HOME=$PWD/state   # with a year of use that is made up: jaklet use --since 365d")
    terminal.say("  jaklet check; jaklet fire super+b super+left; jaklet desk")
    terminal.say(
        "On a real X server, add the demo's programs and its desktop entry instead; on Plasma or GNOME, their names:"
    )
    terminal.say(
        '  export PATH="$PWD/bin:$PATH" XDG_DATA_DIRS="$PWD/share:/usr/local/share:/usr/share" JAKLET_DESK=x11'
    )


def _use(folder: Path) -> None:
    """Make up a year of use of the demo's keys, as a listener would have counted it."""
    from datetime import date

    from jaklet.cli.resources import opened_config
    from jaklet.core.values.use_counts import name_of
    from jaklet.counters.use_counts import UseCounts
    from jaklet.demo.year import made_up

    config = opened_config(str(folder), f"tabletop:{folder / 'tabletop.yaml'}").config
    for day, counted in made_up([name_of(one) for one in config.live], [*config.apps], date.today()):
        UseCounts(lambda: folder / "state" / "jaklet", lambda day=day: day).add(counted)  # type: ignore[misc]


class _Around(NamedTuple):
    """What is done before and after the story, so that the user's own windows are as they were."""

    before: tuple[tuple[str, ...], ...]
    after: tuple[tuple[str, ...], ...]


def _look_around(folder: Path, kind: str) -> _Around:
    """Give the demo's display names to the displays that there are; find a workspace on which nothing is."""
    from jaklet.cli.resources import opened_desk
    from jaklet.desktops.addresses import address_here

    address_here(kind, f"without --{kind} the demo needs none")

    with opened_desk(kind) as desktop:
        desk = desktop.look().desk
    config = folder / "jaklet.yaml"
    text = config.read_text(encoding="utf-8")
    first, last = desk.displays[0].name, desk.displays[-1].name
    text = text.replace("name: DP-1", f"name: {first}").replace("name: HDMI-1", f"name: {last}")
    config.write_text(text, encoding="utf-8")
    used = {window.workspace for window in desk.windows}
    free = next((number for number in range(1, desk.workspaces + 1) if number not in used), None)
    before: tuple[tuple[str, ...], ...] = (("act", f"workspace {free}"),) if free else ()
    after: tuple[tuple[str, ...], ...] = (("act", f"workspace {desk.workspace}"),) if free else ()
    if desk.active is not None:
        after += (("act", f"focus window 0x{desk.active:x}"),)
    return _Around(before, after)
