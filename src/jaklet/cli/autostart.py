"""jaklet autostart: by a systemd user unit, or by a desktop entry in the autostart folder (XDG autostart)."""

import os
import shlex
import sys
from enum import StrEnum
from pathlib import Path
from typing import Annotated

import typer

from jaklet.cli import terminal
from jaklet.cli.options import ConfigOption
from jaklet.core.values.errors import JakletError

UNIT, ENTRY = "jaklet.service", "jaklet.desktop"


class AutostartAction(StrEnum):
    """What is to become of it."""

    on = "on"
    off = "off"


class StartMethod(StrEnum):
    """Who starts the listener."""

    systemd = "systemd"
    desktop = "desktop"


def autostart(
    switch: Annotated[
        AutostartAction | None, typer.Argument(help="Without it: say how it is.", show_default=False)
    ] = None,
    by: Annotated[
        StartMethod | None,
        typer.Option("--by", help="systemd where the session has it, else the desktop.", show_default=False),
    ] = None,
    config: ConfigOption = None,
) -> None:
    """Start the listener with the session, and again if it fails.

    Example: jaklet autostart on
    """
    from jaklet.cli.listener_calls import listener_status, tidy_after_listener

    unit, wanted, entry = _files()
    if switch is None:
        found = [path for path in (unit, entry) if path.exists()]
        terminal.say("\n".join(f"on, by {path}" for path in found) or "off: jaklet autostart on")
        return
    try:
        for path in (wanted, unit, entry):
            if path.is_symlink() or path.exists():
                path.unlink()
                terminal.say(f"removed {path}")
        if switch is AutostartAction.off:
            if listener_status(None) is None:
                tidy_after_listener()
            return
        if (by or (StartMethod.systemd if _has_systemd() else StartMethod.desktop)) is StartMethod.systemd:
            _write(unit, unit_text(_command(config, restarts=False)))
            wanted.parent.mkdir(parents=True, exist_ok=True)
            wanted.symlink_to(unit)
            terminal.say(f"wrote {unit}\nit starts with the next session; at once: systemctl --user start {UNIT}")
        else:
            _write(entry, entry_text(_command(config, restarts=True)))
            terminal.say(f"wrote {entry}\nit starts with the next session; at once: jaklet listen")
    except OSError as fault:
        raise JakletError(f"{fault.filename} cannot be written: {fault.strerror}", "see to its folder") from fault


def _files() -> tuple[Path, Path, Path]:
    """Return the unit, the link by which the session wants it, and the desktop entry (XDG base directories)."""
    home = Path(os.environ.get("XDG_CONFIG_HOME") or Path.home() / ".config")
    folder = home / "systemd" / "user"
    return folder / UNIT, folder / "graphical-session.target.wants" / UNIT, home / "autostart" / ENTRY


def _has_systemd() -> bool:
    return Path("/run/systemd/system").is_dir() and bool(os.environ.get("XDG_RUNTIME_DIR"))


def _command(config: str | None, *, restarts: bool) -> list[str]:
    """Return how the listener is started: by a whole path, as a session may have another PATH."""
    program = Path(sys.argv[0]).resolve()
    start = [str(program)] if program.name == "jaklet" else [sys.executable, "-m", "jaklet"]
    given = ["--config", str(Path(config).expanduser().resolve())] if config else []
    return [*start, "listen", *given, *(["--restart"] if restarts else [])]


def _write(path: Path, text: str) -> None:
    from jaklet.files import write_whole

    path.parent.mkdir(parents=True, exist_ok=True)
    write_whole(path, text)


def unit_text(command: list[str]) -> str:
    """Return a systemd user unit (systemd.service(5)). Status 1 is a config or desk that is not fit, 2 wrong use."""
    started = " ".join(f'"{part.translate(_IN_UNIT)}"' for part in command)
    return f"""[Unit]
Description=Jaklet: hotkeys and window layouts
PartOf=graphical-session.target
After=graphical-session.target

[Service]
ExecStart={started}
ExecReload=/bin/kill -HUP $MAINPID
Restart=on-failure
RestartSec=2
RestartPreventExitStatus=2

[Install]
WantedBy=graphical-session.target
"""


def entry_text(command: list[str]) -> str:
    """Return a desktop entry for the autostart folder (Desktop Entry Specification, The Exec key)."""
    quoted = ('"' + part.translate(_QUOTED) + '"' if shlex.quote(part) != part else part for part in command)
    started = " ".join(quoted).replace("%", "%%").replace("\\", "\\\\")
    return f"""[Desktop Entry]
Type=Application
Name=Jaklet
Comment=Hotkeys and window layouts
Exec={started}
Terminal=false
NoDisplay=true
"""


_IN_UNIT = str.maketrans({"\\": "\\\\", '"': '\\"', "%": "%%", "$": "$$"})
_QUOTED = str.maketrans({"\\": "\\\\", '"': '\\"', "`": "\\`", "$": "\\$"})
