"""What is asked for from outside, by a command or a client: from its text to what is done, or why it is not.

Commands and listeners both go through here, so that they know the same things and say the same words.
"""

from typing import NamedTuple

from jaklet.core.actions.macros.running import no_such_macro
from jaklet.core.actions.ports.layout_store import LayoutStore
from jaklet.core.language.actions import parse_action
from jaklet.core.language.place_grammar import unknown_place
from jaklet.core.language.verbs import RECALL, is_harsh, traits_of
from jaklet.core.values.config import Config
from jaklet.core.values.errors import JakletError, SentenceError, UsageError
from jaklet.core.values.forms import NamedPlace
from jaklet.core.values.layouts import Layout, no_such_layout
from jaklet.core.values.sentences import Action, Ref
from jaklet.core.values.words import did_you_mean


class ActionRequest(NamedTuple):
    """An action that was asked for. `harsh`: it can lose work, and nobody has said yet that this is meant."""

    action: Action
    harsh: bool = False


def action_asked(text: str, config: Config, sure: bool = False) -> ActionRequest:
    """Return the action that a sentence, or a word of the config, stands for; raises `UsageError`.

    `sure`: it was said that it may lose work.
    """
    word = config.word(text)
    try:
        action = word.action if word else parse_action(text)
    except SentenceError as fault:
        remedy = did_you_mean(text.strip(), config.words, fault.remedy) if fault.unknown else fault.remedy
        raise UsageError(fault.message, fault.pointed_at(text, remedy)) from fault
    if traits_of(action).by_key:
        raise UsageError(f"only a key can do {action.verb!r}, while a listener runs", "bind it under `bindings`")
    _all_known(action, config)
    return ActionRequest(action, is_harsh(action) and not (sure or (word is not None and word.sure)))


def _all_known(action: Action, config: Config) -> None:
    """Raise where an action names an app, a macro or a place that is not defined."""
    for ref in (ref for one in action.every() for ref in one.refs):
        if ref.kind == "APP" and ref.name not in config.apps:
            remedy = did_you_mean(ref.name, config.apps, "add it to `apps` in the config")
            raise UsageError(f"no app is called {ref.name!r}", remedy)
        if ref.kind == "MACRO" and ref.name not in config.macros:
            raise UsageError(*no_such_macro(ref.name, config.macros))
        form = ref.place.form if ref.place else None
        if isinstance(form, NamedPlace) and form.name not in config.places:
            raise UsageError(f"no place is called {form.name!r}", unknown_place(form.name, config.places))


def layout_asked(word: str, shelf: LayoutStore) -> Layout:
    """Return the layout with this name or number; raises with the nearest name where there is none."""
    layout = shelf.find(word)
    if layout is None:
        raise JakletError(*no_such_layout(word, shelf.names()))
    return layout


def recalling(word: str) -> Action:
    """Return the action that recalls a layout by its name, number or version, or `last`."""
    return Action(RECALL, (Ref("LAYOUT", word, 0, 0),), f"{RECALL} {word}")
