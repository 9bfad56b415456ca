"""Write `docs/desks.md` from the abilities and the kinds of desks.

Run: python tools/make_desks.py
"""

from pathlib import Path

from jaklet.core.language.verbs import VERBS
from jaklet.core.values.desk_abilities import Ability
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
`--desk plasma`; `--desk x11` means the X server that is there for older programs. Tried with KWin 5.27, programs of
Wayland and of X beside each other, two outputs, a scale of 1.5. What Plasma 6 spells otherwise is written and not tried.

There is nothing to set up. The same config, layouts, macros, trials and overlay do what they do on X11; what cannot be
done is said by `check` beforehand (JK701).

```
jaklet demo --plasma           # the story with real windows of Wayland
jaklet check --live            # which chords the desktop has, and what for
jaklet listen
```

| what is otherwise than on X11 | how it is |
|---|---|
| chords | they are global shortcuts of the desktop, listed in the system's settings under Jaklet, each by what it does |
| a chord that the desktop has | it is refused with its owner's name. To have it lent while the listener runs, and given back by `jaklet stop`: `settings: {take over: [super+left, super+d]}` |
| Ctrl+Alt+F1 to F12; a lone modifier | never reach a program; what is shown [while a modifier is held](overlay.md) is not |
| the number pad | `super+kp_1` is `super+1` with Num Lock on, `super+end` with it off: Plasma does not tell which key it was |
| AltGr | a part of a chord only where it changes what the key types |
| a key with a scope | it is heard only while an app in its scope is in front. From a change of focus until it is heard, or the program's again, it takes some 2 ms |
| the second key of a sequence | a global shortcut for as long as it is awaited; any other key goes to the program |
| a layer, the finder, letters on windows | all keys are ours, 4 to 8 ms after the key before. The desktop's own shortcuts go on. A key that ends a layer does so and is not given to the program (`other keys: leave and pass on`) |
| an order of windows | nothing is raised without the focus: each has it for some milliseconds, who had it has it in the end. `place`, `pair` and `go` need none of that |
| `press`, `type` | no program may by itself. `jaklet doctor` says how it is granted, for whom it holds then, and how it is taken back |
| `class`, `instance`, `role` | of a program of Wayland, `class` is the app id (most often the name of its desktop entry), `instance` the name of its file; it has no role (`check` says so). Of a program of X, KWin tells the class in small letters; `class: BerthBoard` fits that |
| limits of a size | of windows of X11 their server tells; of those of Wayland nobody tells how wide KWin's decoration is: what a window takes instead is read back |
| maximised before Jaklet looked | it is taken to be so where it fills the work area exactly |
| a scale of 1.5 | all is in logical pixels, as KWin places windows; what appears over the windows is made larger by KWin |
| `overlay: {display: pointer}` | nobody is told where the pointer is: it is the first display |
| activation tokens | one is given to who has the focus alone; so none is asked for, and the window is made active by the script |

Out of it again, without a trace: `jaklet autostart off`, `jaklet stop`. A script of Jaklet runs in KWin for as long as a
command or listener does. It does a few fixed things with checked numbers, answers one connection of the bus only, and
takes itself away within five seconds where that one has gone, with the chords of a listener that was killed. What was
lent is kept in `plasma-lent.json` in the state folder, and given back by the next `jaklet listen`, `stop` or `autostart
off`. When the compositor begins anew, the listener goes on with the new one.
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
