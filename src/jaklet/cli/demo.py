"""jaklet demo"""

import os
import sys
from pathlib import Path
from typing import Annotated

import typer

from jaklet.cli import terminal
from jaklet.core.errors import DeskError


def demo(
    x11: Annotated[bool, typer.Option("--x11", help="Use real windows on the X server of $DISPLAY.")] = False,
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

    from jaklet.demo.harbour import write_files
    from jaklet.demo.story import CLOSING, environment, tell

    ink = terminal.ink_for()
    with tempfile.TemporaryDirectory(prefix="jaklet-demo-") as folder:
        write_files(Path(folder))
        if x11:
            _use_displays(Path(folder))
        desk = "x11" if x11 else "tabletop:tabletop.yaml"
        variables = environment(os.environ, folder, desk)

        def run(command: tuple[str, ...]) -> int:
            sys.stdout.flush()
            return subprocess.run([sys.executable, "-m", "jaklet", *command], cwd=folder, env=variables).returncode

        where = f"on the X server {os.environ.get('DISPLAY')}" if x11 else "on a simulated desk"
        terminal.say(f"The harbour office of Port Ellery, {where}.")
        went = tell(run, terminal.say, lambda text: ink(text, "strong"))
        for command in CLOSING if x11 else ():
            run(command)
    terminal.say("\nPlay with it yourself: jaklet demo --write harbour")
    raise typer.Exit(0 if went else 1)


def _write(folder: Path) -> None:
    from jaklet.demo.harbour import write_files

    names = write_files(folder)
    terminal.say(f"wrote {len(names)} files into {folder}. To work with them:")
    terminal.say(f"  cd {folder}")
    terminal.say("  export JAKLET_CONFIG=jaklet.yaml JAKLET_DESK=tabletop:tabletop.yaml")
    terminal.say("  jaklet check; jaklet press super+b super+left; jaklet desk")
    terminal.say("On a real X server, add the demo's programs and its desktop entry instead:")
    terminal.say(
        '  export PATH="$PWD/bin:$PATH" XDG_DATA_DIRS="$PWD/share:/usr/local/share:/usr/share" JAKLET_DESK=x11'
    )


def _use_displays(folder: Path) -> None:
    """Give the demo's display names to the displays that this X server has."""
    if not os.environ.get("DISPLAY"):
        raise DeskError("there is no X server here, as DISPLAY is not set", "without --x11 the demo needs none")
    from jaklet.cli.opening import opened_desk

    with opened_desk("x11") as desktop:
        displays = desktop.look().desk.displays
    config = folder / "jaklet.yaml"
    text = config.read_text(encoding="utf-8")
    text = text.replace("name: DP-1", f"name: {displays[0].name}").replace("name: HDMI-1", f"name: {displays[-1].name}")
    config.write_text(text, encoding="utf-8")
