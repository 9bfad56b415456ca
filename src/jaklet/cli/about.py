"""What Jaklet runs on, for a report of a fault: nothing of the user's own."""

from collections.abc import Iterator


def about() -> Iterator[str]:
    """Yield lines: the interpreter, the system, the libraries, the desks that are here."""
    import os
    import platform
    from importlib.metadata import PackageNotFoundError, requires, version

    from jaklet.desktops.addresses import KINDS

    yield f"Python {platform.python_version()} on {platform.system()} {platform.release()}, {platform.machine()}"
    libraries = []
    for line in requires("jaklet") or ():
        name = next(part for part in line.replace("<", ">").replace("=", ">").replace(";", ">").split(">"))
        if "extra ==" not in line:
            try:
                libraries.append(f"{name} {version(name)}")
            except PackageNotFoundError:
                libraries.append(f"{name} (missing)")
    yield f"with {', '.join(sorted(libraries, key=str.lower))}"
    here = [name for name, kind in KINDS.items() if kind.here and kind.here(os.environ)]
    session = [os.environ.get(name, "") for name in ("XDG_CURRENT_DESKTOP", "XDG_SESSION_TYPE")]
    told = " ".join(part for part in session if part) or "not told"
    yield f"desks here: {', '.join(here) or 'none'} (session: {told})"
