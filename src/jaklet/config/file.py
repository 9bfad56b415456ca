"""Which file is the config (XDG base directories). Small: the quickest commands load it."""

import os

FILE = "jaklet.yaml"
VARIABLE = "JAKLET_CONFIG"


def config_file(given: str | None) -> str:
    """Return the path of the config: the one given, else $JAKLET_CONFIG, else the standard place.

    A folder stands for the `jaklet.yaml` in it.
    """
    given = given or os.environ.get(VARIABLE)
    if not given:
        base = os.environ.get("XDG_CONFIG_HOME", "")
        if not os.path.isabs(base):  # "all paths set in these environment variables must be absolute"
            base = os.path.expanduser("~/.config")
        return os.path.join(base, "jaklet", FILE)
    path = os.path.expanduser(given)
    return os.path.join(path, FILE) if os.path.isdir(path) or given.endswith("/") else path
