"""jaklet pick"""

import sys
from typing import TYPE_CHECKING, Annotated

import typer

from jaklet.cli import terminal
from jaklet.cli.options import ConfigOption, DeskOption, Format, FormatOption
from jaklet.core.errors import StoreError, UsageError

if TYPE_CHECKING:
    from jaklet.cli.opening import Opened
    from jaklet.core.candidates import Candidate, Stock
    from jaklet.core.ports import ChordDesktop


def pick(
    kind: Annotated[
        str | None,
        typer.Argument(metavar="[KIND]", help="windows, apps, layouts, actions, hosts or all.", show_default=False),
    ] = None,
    words: Annotated[
        list[str] | None, typer.Argument(metavar="[WORDS]...", help="What to look for.", show_default=False)
    ] = None,
    printed: Annotated[bool, typer.Option("--print", help="Print what fits, best first, and do nothing.")] = False,
    config: ConfigOption = None,
    desk: DeskOption = None,
    form: FormatOption = Format.text,
) -> None:
    """Find a window, app, layout, action or host by a few letters, and do it.

    Words may stand in any order. Enter does the chosen one, Escape changes nothing, Tab goes to the next kind.
    Without a terminal, or with --print, what fits is printed: kind, name, detail, keys, action, parted by tabs.

    Example: jaklet pick windows

    Example: jaklet pick apps rad --print
    """
    from jaklet.cli.opening import opened, opened_desk
    from jaklet.core.candidates import ALL, KINDS
    from jaklet.core.words import did_you_mean, either

    if kind is not None and kind not in (ALL, *KINDS):
        known = (*KINDS, ALL)
        raise UsageError(f"there is no kind called {kind!r}", did_you_mean(kind, known, f"kinds are {either(known)}"))
    typed = " ".join(words or ())
    if printed or form is Format.json or not (sys.stdin.isatty() and sys.stdout.isatty()):
        with opened_desk(desk) as desktop:
            found = _filtered(_stock(opened(config, desk), desktop, kind or ALL), kind or ALL, typed)
        _print(found, form)
        raise typer.Exit(0 if found else 1)
    raise typer.Exit(0 if _on_screen(kind or ALL, typed, config, desk) else 1)


def _on_screen(kind: str, typed: str, config: str | None, desk: str | None) -> bool:
    """Show the finder and do what was chosen; True unless that failed."""
    import contextlib

    from jaklet.finder.screen import pick as pick_on_screen
    from jaklet.finder.state import Finder

    finder = Finder(kind, typed)
    with contextlib.ExitStack() as stack:

        def load() -> "tuple[Opened, ChordDesktop, list[Candidate]]":
            from jaklet.cli.opening import opened, opened_desk
            from jaklet.core.candidates import candidates

            ready = opened(config, desk)
            desktop = stack.enter_context(opened_desk(desk))
            return ready, desktop, candidates(_stock(ready, desktop))

        came: list[tuple[Opened, ChordDesktop]] = []

        def take(loaded: "tuple[Opened, ChordDesktop, list[Candidate]]") -> None:
            ready, desktop, found = loaded
            came.append((ready, desktop))
            finder.load(found, ready.config.settings.at_once)

        coloured = terminal.ink_for().coloured
        chosen = pick_on_screen(finder, load, take, coloured)
        if chosen is None:
            return True
        from jaklet.cli.desk import perform_task

        ready, desktop = came[0]
        desktop.wait(0)  # the desk may have changed while the finder was open
        return perform_task(lambda moment: chosen.begin(ready.context, moment), ready, desktop, dry_run=False)


def _stock(ready: "Opened", desktop: "ChordDesktop", kind: str = "all") -> "Stock":
    """Return all that there is to be picked from; what is not of the kind may be left out."""
    from jaklet.core.candidates import ALL, Stock
    from jaklet.installed.hosts import ssh_hosts

    layouts = []
    for name in ready.shelf.names() if kind in (ALL, "layouts") else ():
        try:
            layouts += [layout] if (layout := ready.shelf.find(name)) else []
        except StoreError:
            continue  # a layout at fault cannot be recalled, and `check` tells of it
    hosts = ssh_hosts() if kind in (ALL, "hosts") else []
    return Stock(ready.config, desktop.look().desk, tuple(layouts), tuple(hosts))


def _filtered(stock: "Stock", kind: str, typed: str) -> "list[Candidate]":
    from jaklet.core.candidates import candidates
    from jaklet.finder.state import Finder

    finder = Finder(kind, typed)
    finder.load(candidates(stock))
    return finder.found


def _print(found: "list[Candidate]", form: Format) -> None:
    from jaklet.core.words import printable

    if form is Format.json:
        terminal.say_json([{k: v for k, v in one._asdict().items() if k != "begin"} for one in found])
        return
    for one in found:
        cells = (one.kind, one.label, one.detail, " ".join(one.keys), one.does)
        terminal.say("\t".join(printable(cell) for cell in cells))
