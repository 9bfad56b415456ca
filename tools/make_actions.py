"""Write `docs/actions.md` from the verbs and their traits.

Run: python tools/make_actions.py
"""

from pathlib import Path

from jaklet.core.actions.begin import BEGINS
from jaklet.core.language.actions import action_usage
from jaklet.core.language.verbs import VERBS, Traits, Verb, VerbLoss

OUT = Path(__file__).parent.parent / "docs" / "actions.md"
MARK = "<!-- from the verbs, by `make docs` -->\n"
HEAD = """
| action | what it does | example | good to know |
|---|---|---|---|
"""


def page() -> str:
    """Return the whole page: what stands before the mark is written by hand."""
    rows = [
        (action_usage(verb).replace("|", "\\|"), about(verb), f"`{verb.example}`", "; ".join(notes(verb.traits)))
        for verb in VERBS.values()
    ]
    return (
        OUT.read_text().partition(MARK)[0]
        + MARK
        + HEAD
        + "".join(f"| `{row[0]}` | {' | '.join(row[1:])} |\n" for row in rows)
    )


def about(verb: Verb) -> str:
    """Return in words what a verb does: all that the function says which begins it."""
    return " ".join((BEGINS[verb.name].__doc__ or verb.help).split())


def notes(traits: Traits) -> list[str]:
    """Return what a user should know of a verb, by its traits."""
    lost = {
        VerbLoss.WORK: "can lose work: asks first, and a key needs `sure: true`",
        VerbLoss.WINDOWS: "with `all of`, many windows at once",
        VerbLoss.LAYOUT: "what the layout held before stays in its history",
    }
    every = (
        (traits.loses in lost, lost.get(traits.loses, "")),
        (traits.moves, "`undo` takes it back"),
        (traits.with_new, "can be done with new windows (`opens`) and in a layout's `after`"),
        (traits.inside, "can stand in a layout's `after`"),
        (traits.by_key, "only as a key, or in a macro"),
        (traits.in_pause, "heard in a pause, too"),
    )
    return [told for so, told in every if so]


if __name__ == "__main__":
    OUT.write_text(page(), encoding="utf-8")
