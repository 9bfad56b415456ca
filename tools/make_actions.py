"""Write `docs/actions.md` from the verbs and their traits.

Run: python tools/make_actions.py
"""

from collections.abc import Callable, Iterator
from pathlib import Path

from jaklet.core.actions.begin import BEGINS
from jaklet.core.language.actions import action_usage
from jaklet.core.language.verbs import VERBS, Traits, Verb, VerbLoss

OUT = Path(__file__).parent.parent / "docs" / "actions.md"
MARK = "<!-- from the verbs, by `make docs` -->\n"
HEAD = """
| action | what it does | example |
|---|---|---|
"""
NOTES: tuple[tuple[str, Callable[[Traits], bool]], ...] = (
    ("`undo` takes back", lambda traits: traits.moves),
    ("With new windows (`opens`), and in a layout's `after`", lambda traits: traits.with_new),
    ("In a layout's `after`", lambda traits: traits.inside),
    ("Only as a key, or in a macro", lambda traits: traits.by_key),
    ("Heard in a pause, too", lambda traits: traits.in_pause),
    ("Can lose work: asks first, and a key needs `sure: true`", lambda traits: traits.loses is VerbLoss.WORK),
    ("With `all of`, many windows at once", lambda traits: traits.loses is VerbLoss.WINDOWS),
    ("The layout's former version stays in its history", lambda traits: traits.loses is VerbLoss.LAYOUT),
)


def page() -> str:
    """Return the whole page: what stands before the mark is written by hand."""
    rows = [(action_usage(verb).replace("|", "\\|"), about(verb), f"`{verb.example}`") for verb in VERBS.values()]
    table = "".join(f"| `{row[0]}` | {' | '.join(row[1:])} |\n" for row in rows)
    return OUT.read_text().partition(MARK)[0] + MARK + HEAD + table + "\n" + "".join(notes())


def notes() -> Iterator[str]:
    """Yield a line for each trait that a user should know of, with the verbs that have it."""
    for words, holds in NOTES:
        names = [f"`{name}`" for name, verb in VERBS.items() if holds(verb.traits)]
        if names:
            yield f"- {words}: {', '.join(names)}.\n"


def about(verb: Verb) -> str:
    """Return in words what a verb does: all that the function says which begins it."""
    return " ".join((BEGINS[verb.name].__doc__ or verb.help).split())


if __name__ == "__main__":
    OUT.write_text(page(), encoding="utf-8")
