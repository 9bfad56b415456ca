"""Write `docs/desks.md` from the abilities and the kinds of desks.

Run: python tools/make_desks.py
"""

from pathlib import Path

from jaklet.core.language.verbs import VERBS
from jaklet.core.values.abilities import Ability
from jaklet.desktops.addresses import known_desks

OUT = Path(__file__).parent.parent / "docs" / "desks.md"
HEAD = """# Desks, and what they can do

Not every desktop can do everything. Jaklet says so before it matters: `jaklet desk --list` for each kind of desk,
`jaklet check` (JK701) for what your config needs and the desk here lacks, `jaklet listen` when it begins, and each
action in its answer: "this desktop cannot …". Nothing of such an action is begun, and a key that could not work is
left to the programs.

On X11 some depend on the window manager, by what it lists in `_NET_SUPPORTED`, and on the server's extensions. A
tabletop can do everything, unless its file says otherwise: `lacks: [stack, pass on]`. So a config for another desktop
can be tried here.

The table of abilities is made from the code by `make docs`, that of window managers from a run by `make managers`.

"""
PLASMA = """
## Plasma on Wayland

Chosen by itself in a session of Plasma on Wayland (`XDG_SESSION_TYPE=wayland`, `XDG_CURRENT_DESKTOP=KDE`), or with
`--desk plasma`; `--desk x11` means the X server that is there for older programs. Tried with KWin 5.27, programs of X
and two outputs; what Plasma 6 spells otherwise is written and not tried.

What works: `jaklet desk`, `act`, `layout save`, `recall`, `undo`, `pick`. Windows are seen, launched, gone to, placed
to the pixel, minimised, maximised, made fullscreen, kept above, closed, sent to other workspaces, with your apps,
places and layouts.

| what does not, or not yet | why, and what is done about it |
|---|---|
| keys | they are to come by the desktop's global shortcuts; `listen` refuses, `check` says so (JK701) |
| the order behind the window in front | KWin raises nothing without giving it the focus; a recall says so |
| capitals of `class`, `instance` | KWin tells small letters; a rule `class: BerthBoard` fits `berthboard` |
| limits known beforehand | the decoration's width is not told; what a window takes instead is read back |
| maximised before Jaklet looked | it is taken to be so where it fills the work area exactly |
| pressing, typing, idle time | Wayland lets no program do it unasked |
| new workspaces | the desktop's settings say how many there are |

There is nothing to set up, and nothing to undo: a script of Jaklet runs in KWin for as long as a command does. It does
a few fixed things with checked numbers, answers one connection of the bus only, and takes itself away within five
seconds where that one has gone.
"""
MANAGERS = """
## Window managers on X11

What was tried with real servers, windows and key events, and judged by the server itself: its tree, geometry and
properties. Each manager is asked in the ways that it understands; what worked is remembered by its name and version, so
that the next session begins with it. No manager is known by its name to the program: `make managers MANAGER=command`
tries any other. What a manager cannot do is said in the words below.

"""
MARK = "<!-- managers -->"


def page(present: str) -> str:
    """Return the whole page. `present`: as it is now, with the table of window managers in it."""
    desks = known_desks()
    rows = [f"| ability | needed to | {' | '.join(one.written for one in desks)} | actions that need it |"]
    rows.append("|---" * (3 + len(desks)) + "|")
    for one in Ability:
        can = " | ".join("yes" if one.word in desk.can else "no" for desk in desks)
        verbs = [name for name, verb in VERBS.items() if one in {need.ability for need in verb.traits.needs}]
        rows.append(f"| `{one.word}` | {one.value} | {can} | {', '.join(verbs)} |")
    tried = present.partition(MARK)[2].partition(MARK)[0] or "\n"
    return f"{HEAD}{chr(10).join(rows)}\n{PLASMA}{MANAGERS}{MARK}{tried}{MARK}\n"


if __name__ == "__main__":
    OUT.write_text(page(OUT.read_text()))
