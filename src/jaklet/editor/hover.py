"""What is told of what stands at a place: a chord, an action, a name."""

from collections.abc import Callable, Iterator
from pathlib import Path

from jaklet.checks.run import CheckedConfig
from jaklet.core.language.actions import action_usage
from jaklet.core.language.verbs import VERBS
from jaklet.core.values.chords import Keys
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk
from jaklet.core.values.layouts import Layout
from jaklet.core.values.sentences import Action
from jaklet.core.values.spans import Spot
from jaklet.editor.annotations import frames, places_of
from jaklet.editor.config_index import ConfigIndex, NameOccurrence

Why = Callable[[CheckedConfig, Keys], str]
Here = Callable[[], Desk | None]
Drawn = Callable[[Layout, Config, Desk | None], str]


def hover_text(
    book: ConfigIndex, path: Path, line: int, column: int, why: Why, here: Here, drawn: Drawn
) -> tuple[str, Spot] | None:
    """Return lines on what stands there, and where it stands; None for nothing.

    `why` tells all about a chord; `here`: the desk; `drawn`: a layout as a drawing.
    """
    named = book.at(path, line, column)
    if named:
        return "\n".join(_of(named, book, here, drawn)), named.spot
    shown = book.shown.get(path)
    for bound in book.checked.reading.every_bound():
        spot = bound.key.spot
        if (spot.path, spot.line) == (shown, line) and spot.column <= column <= spot.end:
            return why(book.checked, bound.keys), spot
    for deed in book.checked.reading.deeds:
        spot = deed.value.spot
        if (spot.path, spot.line) == (shown, line) and spot.column <= column <= spot.end:
            verb = VERBS[deed.action.verb]
            return "\n\n".join(
                [*_framed(deed.action, book, here), action_usage(verb), verb.help, f"Example: {verb.example}"]
            ), spot
    return None


def _framed(action: Action, book: ConfigIndex, here: Here) -> Iterator[str]:
    """Yield the frames that the places of an action have on the desk, a line for each display."""
    places = places_of(action)
    desk = here() if places else None
    if desk:
        yield "\n".join(line for place in places for line in frames(place, desk, book.checked.config))


def _of(named: NameOccurrence, book: ConfigIndex, here: Here, drawn: Drawn) -> list[str]:
    """Return lines on a thing with a name: what it is by the config."""
    config, name = book.checked.config, named.name
    lines = [f"{named.kind} {name}"]
    if named.kind == "app" and name in config.apps:
        app = config.apps[name]
        lines += [f"launched by: {' '.join(app.command)}"] if app.command else []
        rules = ["  ".join(f"{part} {wanted}" for part, wanted in rule.parts) for rule in app.rules]
        lines += [f"its windows: {' or '.join(rules)}"]
    elif named.kind == "place" and name in config.places:
        desk = here()
        lines += [str(config.places[name]), *(frames(config.places[name], desk, config) if desk else ())]
    elif named.kind == "display" and name in config.displays:
        lines += [f"connector {config.displays[name]}"]
    elif named.kind == "workspace" and name in config.workspaces:
        lines += [f"number {config.workspaces[name]}"]
    elif named.kind == "layer" and name in config.layers:
        lines += [config.layers[name].note] if config.layers[name].note else []
    elif named.kind == "layout":
        for laid in book.checked.reading.laid:
            if name in (laid.layout.name, str(laid.layout.number)):
                lines += [laid.layout.note] if laid.layout.note else []
                lines += ["", drawn(laid.layout, config, here()), ""]
    used = len(book.every(named)) - bool(book.definition(named))
    if not book.definition(named):
        lines.append("it is not defined")
    return [*lines, f"named in {used} {'place' if used == 1 else 'places'}"]
