"""Write `docs/desks.md` from the abilities and the kinds of desks.

Run: python tools/make_desks.py
"""

from pathlib import Path

from jaklet.core.language.verbs import VERBS
from jaklet.core.values.desk_abilities import Ability
from jaklet.desktops.addresses import known_desks

OUT = Path(__file__).parent.parent / "docs" / "desks.md"
HEAD = """# Desks, and what they can do

Desktops differ in their abilities. Jaklet says beforehand what a desktop cannot do:

- `jaklet desk --list` shows the abilities of each kind of desk.
- `jaklet check` reports what your config needs and this desk lacks (JK701). `jaklet listen` says the same when it starts.
- An action that needs such an ability answers "this desktop cannot …", and nothing of it is begun. Its key is left to
  the programs.

On X11 some abilities depend on the window manager (`_NET_SUPPORTED`) and on the extensions of the server. A tabletop has
all abilities that its file does not take away: `lacks: [stack, pass on]`. So you can try a config for another desktop.

In a session on Wayland that is neither GNOME's nor Plasma's, no desk is chosen: commands say so and end with status 1.
`--desk x11` (or `JAKLET_DESK=x11`) is the X server in it, where programs of X alone are seen and heard.

"""
PLASMA = """
## Plasma on Wayland

Jaklet chooses this desk in a session of Plasma on Wayland (`XDG_SESSION_TYPE=wayland`, `XDG_CURRENT_DESKTOP=KDE`), or with
`--desk plasma`. `--desk x11` means the X server for older programs. Tested with KWin 5.27, programs of Wayland and X side
by side, two outputs, and a scale of 1.5; and with Plasma 6 ([releases](#releases)).

There is nothing to set up. The same config, layouts, macros, trials and overlay work as on X11, except where `check` says
otherwise (JK701).

```
jaklet demo --plasma           # the story with real windows of Wayland
jaklet check --live            # which chords the desktop has, and what for
jaklet listen
```

| different from X11 | on Plasma |
|---|---|
| chords | are global shortcuts of the desktop. The system's settings list them under Jaklet |
| a chord that the desktop has | is refused with its owner's name. `settings: {take over: [super+left, super+d]}` borrows it while the listener runs; `jaklet stop` gives it back |
| Ctrl+Alt+F1 to F12, a lone modifier | never reach a program. Nothing is shown [while a modifier is held](overlay.md) |
| number pad | `super+kp_1` is `super+1` with Num Lock on and `super+end` with it off |
| AltGr | part of a chord only where it changes what the key types |
| a key with a scope | works while an app of its scope is in front. After a change of focus it takes some 2 ms to follow |
| the second key of a sequence | is a global shortcut while Jaklet waits for it. Any other key goes to the program |
| a layer, the finder, letters on windows | take the whole keyboard, 4 to 8 ms after the key before. The desktop's own shortcuts go on. A key that ends a layer is not passed on (`other keys: leave and pass on`) |
| order of windows | a window is raised only with the focus: each gets it for some milliseconds, and its former owner gets it back. `place`, `pair` and `go` need none of that |
| `press`, `type` | need your permission. `jaklet doctor` says how to grant it, to whom it applies, and how to withdraw it |
| `class`, `instance`, `role` | for a program of Wayland: `class` is the app id (usually its desktop entry), `instance` the file name, and there is no role. For a program of X, KWin gives the class in small letters; `class: BerthBoard` still matches |
| limits of size | known for windows of X. A Wayland window's own answer is read back instead |
| maximised earlier | assumed where the window fills the work area exactly |
| a scale of 1.5 | all figures are logical pixels. KWin enlarges what Jaklet shows |
| `overlay: {display: pointer}` | is the first display: Plasma does not say where the pointer is |

`jaklet autostart off` and `jaklet stop` remove everything. A script of Jaklet runs in KWin as long as a command or listener
does. It does a few fixed things with checked numbers and answers one connection of the bus. When that connection is gone,
it removes itself and the chords within five seconds. Borrowed chords are noted in `plasma-lent.json` in the state folder, and
the next `jaklet listen`, `stop` or `autostart off` gives them back. When the compositor restarts, the listener goes on with it.
"""
GNOME = """
## GNOME on Wayland

Jaklet chooses this desk in a session of GNOME on Wayland (`XDG_CURRENT_DESKTOP` with `GNOME`), or with `--desk gnome`. It needs an
extension in GNOME Shell, which comes with Jaklet:

```
jaklet set-up gnome            # writes and enables it; then log out and in once
jaklet doctor                  # says whether it answers, and what to do if not
jaklet demo --gnome            # the story with real windows of Wayland
jaklet set-up gnome --remove   # takes it out again, without a trace
```

After an update of Jaklet or of GNOME, `listen` and `doctor` say when the extension has to be written anew. Run with GNOME Shell 43, 48
and 51, programs of Wayland and X side by side, two monitors.

| different from X11 | on GNOME |
|---|---|
| a chord that the shell has | is refused with its owner's name; see [below](#chords-that-the-desktop-has) |
| Super by itself | opens the overview. Chords with Super work all the same, also while the overview is open |
| a key with a scope | works while an app of its scope is in front |
| the second key of a sequence | is a shortcut while Jaklet waits for it. Any other key goes to the program |
| a layer, the finder, letters on windows | take the whole keyboard, the shell's own shortcuts included. A click beside them goes to the window as ever. A key that ends a layer is not passed on (`other keys: leave and pass on`) |
| `repeat`, `on release` | on 43 and 44 all keys are Jaklet's while such a key is held |
| a modifier that is held | shows nothing: the shell does not tell of it |
| `press`, `type` | need no permission. Letters that no key has reach programs of Wayland that know input methods, and programs of X; Caps Lock is off for the while |
| `class`, `instance`, `role` | for a program of Wayland: `class` is the app id, `instance` its desktop entry, and there is no role |
| workspaces | GNOME makes and drops them by itself, unless the settings say otherwise: an empty one that Jaklet makes stays for three seconds |
| windows on other displays | are on all workspaces where the settings say "workspaces on primary display only", which is GNOME's default |
| the locked screen | gives all keys back. The listener goes on when it is unlocked |
| a scale of 1.5 or 2 | all figures are those of the shell: physical pixels, or logical ones where fractions are switched on. What Jaklet shows is drawn in the display's own pixels, and sharp in both cases |

The extension does nothing until a command or a listener begins a conversation with it, and follows the windows only as long as that
lasts. It answers programs that the Python interpreter of Jaklet runs, in the same file system, and no others. It does a fixed set of
things with checked values, runs no code that it is sent, and gives everything back when the connection goes.

## Chords that the desktop has

GNOME and Plasma name the owner of a chord: `jaklet check --live` and `listen` say so. `settings: {take over: [super+left, super+d]}` borrows
chords while the listener runs. They are noted in `gnome-lent.json` or `plasma-lent.json` in the state folder, and come back however the listener
ends; where even that failed, `doctor` says so, and the next `jaklet listen` or `jaklet stop` gives them back.
"""
MANAGERS = """
## Window managers on X11

Tested with real servers, windows and key events, and judged by the server's own tree, geometry and properties. Jaklet knows
no manager by name: it asks each in the ways that it understands, and remembers by name and version what worked.
`make managers MANAGER=command` tests any other.

"""
RELEASES = """
## Releases

The columns are from runs of `make today RELEASE=…` (`trixie`, `sid`, or `here` for this machine) on the desktops and the Python of that
release. The tests that are shared by all desks and a day's work of keys and layouts run on real compositors and managers.

"""
RELEASES_MARK, MANAGERS_MARK = "<!-- releases -->", "<!-- managers -->"


def page(present: str) -> str:
    """Return the whole page. `present`: as it is now, with the tables of releases and of window managers in it."""
    desks = known_desks()
    rows = [f"| ability | needed to | {' | '.join(one.written for one in desks)} | actions that need it |"]
    rows.append("|---" * (3 + len(desks)) + "|")
    for one in Ability:
        can = " | ".join("yes" if one.word in desk.can else "no" for desk in desks)
        rows.append(f"| `{one.word}` | {one.value} | {can} | {_verbs_that_need(one)} |")
    releases, managers = (_marked(present, mark) for mark in (RELEASES_MARK, MANAGERS_MARK))
    return f"{HEAD}{chr(10).join(rows)}\n{PLASMA}{GNOME}{RELEASES}{releases}\n{MANAGERS}{managers}\n"


def _marked(present: str, mark: str) -> str:
    """Return a table that comes from runs, as it is now, with its marks."""
    return f"{mark}{present.partition(mark)[2].partition(mark)[0] or chr(10)}{mark}"


def _verbs_that_need(ability: Ability) -> str:
    """Return the verbs that need an ability, or those that do not where these are fewer."""
    need = {name for name, verb in VERBS.items() if ability in {need.ability for need in verb.traits.needs}}
    if 2 * len(need) > len(VERBS):
        return f"all but {', '.join(name for name in VERBS if name not in need)}"
    return ", ".join(name for name in VERBS if name in need)


if __name__ == "__main__":
    OUT.write_text(page(OUT.read_text()))
