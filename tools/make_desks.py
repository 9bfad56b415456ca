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
    return f"{HEAD}{chr(10).join(rows)}\n{MANAGERS}{MARK}{tried}{MARK}\n"


if __name__ == "__main__":
    OUT.write_text(page(OUT.read_text()))
