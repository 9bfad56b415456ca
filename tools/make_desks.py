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

This page is made from the code by `make docs`.

"""


def page() -> str:
    """Return the whole page."""
    desks = known_desks()
    rows = [f"| ability | needed to | {' | '.join(one.written for one in desks)} | actions that need it |"]
    rows.append("|---" * (3 + len(desks)) + "|")
    for one in Ability:
        can = " | ".join("yes" if one.word in desk.can else "no" for desk in desks)
        verbs = [name for name, verb in VERBS.items() if one in {need.ability for need in verb.traits.needs}]
        rows.append(f"| `{one.word}` | {one.value} | {can} | {', '.join(verbs)} |")
    return HEAD + "\n".join(rows) + "\n"


if __name__ == "__main__":
    OUT.write_text(page())
