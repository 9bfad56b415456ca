"""Where things are, by the environment: the config file, the desk that is here, the socket of its listener.

One small module, as the quickest commands load it, and each more of them takes a millisecond.
"""

import os

TYPE_CHECKING = False
if TYPE_CHECKING:
    from collections.abc import Callable, Mapping

FILE = "jaklet.yaml"
VARIABLE = "JAKLET_CONFIG"
COMPLETES = "_JAKLET_COMPLETE"  # by which a shell asks what can come next
X11, PLASMA, GNOME = "x11", "plasma", "gnome"


def config_file(given: "str | None") -> str:
    """Return the path of the config: the one given, else $JAKLET_CONFIG, else the standard place.

    That is in $XDG_CONFIG_HOME (XDG base directories). A folder stands for the `jaklet.yaml` in it.
    """
    given = given or os.environ.get(VARIABLE)
    if not given:
        return os.path.join(base_folder("XDG_CONFIG_HOME", "~/.config"), "jaklet", FILE)
    path = os.path.expanduser(given)
    return os.path.join(path, FILE) if os.path.isdir(path) or given.endswith("/") else path


def base_folder(variable: str, usual: str) -> str:
    """Return a base folder of the user: the one that a variable names, else the usual one (XDG base directories)."""
    base = os.environ.get(variable, "")
    # "All paths set in these environment variables must be absolute."
    return base if os.path.isabs(base) else os.path.expanduser(usual)


def x11_here(environment: "Mapping[str, str]") -> str:
    """Return the X server's display; empty where none is meant (X(7), DISPLAY NAMES)."""
    return environment.get("DISPLAY", "")


def x11_listener(where: str) -> str:
    """Return the name of the listener of a display; its screen is no part of it, as one listener hears all of them."""
    return f"x11{where.removesuffix('.0')}"


def _on_wayland(environment: "Mapping[str, str]", desktop: str) -> str:
    """Return the socket of a desktop's session on Wayland; empty where it is none (XDG_CURRENT_DESKTOP)."""
    is_meant = desktop in environment.get("XDG_CURRENT_DESKTOP", "").split(":")
    on_wayland = environment.get("XDG_SESSION_TYPE") == "wayland"
    return environment.get("WAYLAND_DISPLAY", "wayland-0") if is_meant and on_wayland else ""


def plasma_here(environment: "Mapping[str, str]") -> str:
    """Return the socket of a session of Plasma on Wayland; empty where it is none."""
    return _on_wayland(environment, "KDE")


def plasma_listener(where: str) -> str:
    """Return the name of the listener of a session: sockets are in folders of their user, as listeners' are."""
    return f"{PLASMA}-{os.path.basename(where)}"


def gnome_here(environment: "Mapping[str, str]") -> str:
    """Return the socket of a session of GNOME on Wayland; empty where it is none."""
    return _on_wayland(environment, "GNOME")


def gnome_listener(where: str) -> str:
    """Return the name of the listener of a session."""
    return f"{GNOME}-{os.path.basename(where)}"


def unknown_session(environment: "Mapping[str, str]") -> str:
    """Return the name of a session on Wayland that is no desk here; empty for any other (XDG_CURRENT_DESKTOP).

    The X server in such a session is a desk only where it is asked for: it has windows and keys of programs of X alone.
    """
    if environment.get("XDG_SESSION_TYPE") != "wayland" or plasma_here(environment) or gnome_here(environment):
        return ""
    return environment.get("XDG_CURRENT_DESKTOP", "").split(":")[-1] or "an unknown desktop"


def no_listener(_where: str) -> str:
    """Return no name: no keys are heard there."""
    return ""


# Each kind of desk that is found by the environment: where one is, and the name of its listener.
HERE: "Mapping[str, tuple[Callable[[Mapping[str, str]], str], Callable[[str], str]]]" = {
    GNOME: (gnome_here, gnome_listener),
    PLASMA: (plasma_here, plasma_listener),  # before X11: an X server for its older programs is there, too
    X11: (x11_here, x11_listener),
}


def listener_here(desk: "str | None", environment: "Mapping[str, str]") -> str:
    """Return the name of the listener of the desk that is here, or of this kind; empty where there is none."""
    if not desk and unknown_session(environment):
        return ""
    for name, (here, listener) in HERE.items():
        if desk in (None, "", name) and (where := here(environment)):
            return listener(where)
    return ""


def socket_path(listener: str) -> "str | None":
    """Return where the control socket of a listener is; None where there is no folder for it (XDG base directories)."""
    runtime = os.environ.get("XDG_RUNTIME_DIR")
    if not runtime or not os.path.isdir(runtime):
        return None
    plain = "".join(c if c.isalnum() or c in "_.-" else "_" for c in listener)
    return os.path.join(runtime, "jaklet", f"{plain}.sock")
