"""What can be asked of a listener over its control socket. A new method is one entry in `METHODS`."""

from collections.abc import Callable, Mapping, Sequence
from typing import Any, Final, Protocol

from jaklet.core.actions.layouts.saving import save_as
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.ports.layout_store import LayoutStore
from jaklet.core.actions.requests import action_asked, recalling
from jaklet.core.actions.tasks import TaskOutcome
from jaklet.core.keys.firing import chords_asked
from jaklet.core.language.kept import plain_kept
from jaklet.core.language.verbs import SAVE
from jaklet.core.values.errors import JakletError
from jaklet.core.values.layouts import name_fault, no_such_name, number_of
from jaklet.core.values.sentences import Action, Ref
from jaklet.listener.control_client import ElsewhereError
from jaklet.listener.firing import Firing
from jaklet.listener.overlay_process import HelpedScreen
from jaklet.listener.rpc import Answer, Method, ParamsError, text_param
from jaklet.listener.session import ListenerSession
from jaklet.listener.tasks import Then

Params = Mapping[str, Any]


class ServedListener(Protocol):
    """What a listener lets others ask for."""

    session: ListenerSession
    shelf: LayoutStore

    def status(self) -> dict[str, Any]:
        """Return the listener's status as data."""
        ...

    def reload(self, then: Callable[[dict[str, Any]], None]) -> None:
        """Read the config again; `then` is told what came of it."""
        ...

    def stop(self) -> None:
        """Listen no longer."""
        ...

    def hear(self) -> None:
        """Hear the keys that mean something now."""
        ...

    def look(self) -> Moment:
        """Return the desk as it is now."""
        ...

    def config_texts(self) -> dict[str, str]:
        """Return the texts of the config files in use, by their whole paths."""
        ...

    def described(self) -> Any:
        """Return the desk as data."""
        ...

    def follow(self) -> None:
        """Tell the client that asks of what happens."""
        ...

    @property
    def screen(self) -> HelpedScreen:
        """What shows things over the windows."""
        ...

    def goes_by(self, path: str) -> bool:
        """Return whether this is its config, and as it was when it was read."""
        ...


def _status(listener: ServedListener, _params: Params, answer: Answer) -> None:
    """How the listener does: since when, what it goes by, the layer, the last actions."""
    answer(listener.status())


def _reload(listener: ServedListener, _params: Params, answer: Answer) -> None:
    """Read and check the config again; with errors in it, the old one stays."""
    listener.reload(answer)


def _pause(listener: ServedListener, _params: Params, answer: Answer) -> None:
    """Let keys and events be, until `resume`."""
    listener.session.pause(True)
    answer({"paused": True})


def _resume(listener: ServedListener, _params: Params, answer: Answer) -> None:
    """Listen again."""
    listener.session.pause(False)
    answer({"paused": False})


def _stop(listener: ServedListener, _params: Params, answer: Answer) -> None:
    """End the listener; all chords are free again."""
    answer({"stopped": True})
    listener.stop()


def _act(listener: ServedListener, params: Params, answer: Answer) -> None:
    """Do an action, or what a word stands for; the answer comes when it has ended."""
    text, sure = text_param(params, "action", "go berths"), params.get("sure") is True
    asked = action_asked(text, listener.session.config, sure)
    if asked.harsh:
        raise ElsewhereError("this can lose work", 'add {"sure": true} if that is meant')
    window = params.get("window")
    listener.session.act(asked.action, listener.look(), _answering(answer), window if isinstance(window, int) else None)


def _answering(answer: Answer) -> Then:
    """Return a function that answers when an action has ended."""

    def ended(outcome: TaskOutcome, seconds: float, told: Sequence[str]) -> None:
        end = {"done": outcome.done, "line": outcome.line, "more": list(outcome.more), "told": list(told)}
        answer(end | {"seconds": round(seconds, 4)})

    return ended


def _recall(listener: ServedListener, params: Params, answer: Answer) -> None:
    """Set the desk up as a layout says; the answer comes when it has ended."""
    action = recalling(text_param(params, "layout", "departures"))
    listener.session.act(action, listener.look(), _answering(answer))


def _save(listener: ServedListener, params: Params, answer: Answer) -> None:
    """Keep the desk as it is under a name."""
    name = text_param(params, "layout", "departures")
    if number_of(name) is None and (fault := name_fault(name)):
        raise JakletError(*no_such_name(name, fault))
    moment = listener.look()
    action = Action(SAVE, (Ref("NAME", name, 0, 0),), f"{SAVE} {name}")
    listener.session.act_by(lambda context: save_as(name, context, moment), action, moment, _answering(answer))


def _fire(listener: ServedListener, params: Params, answer: Answer) -> None:
    """Do what chords are bound to, one after another; the answer has the lines to print."""
    texts = params.get("chords")
    if not isinstance(texts, list) or not all(isinstance(one, str) for one in texts):
        raise ParamsError("chords should be a list of texts", 'write it like: {"chords": ["super+b"]}')
    Firing(listener.session, listener.screen, listener.look, chords_asked(texts), answer).go_on()


def _desk(listener: ServedListener, _params: Params, answer: Answer) -> None:
    """The desk as it is: displays, windows from front to back, the focus."""
    answer(listener.described())


def _layouts(listener: ServedListener, _params: Params, answer: Answer) -> None:
    """The names of the layouts, and which of them stands."""
    answer({"layouts": listener.shelf.names(), "stands": listener.session.layout})


def _kept(listener: ServedListener, _params: Params, answer: Answer) -> None:
    """How everything stays arranged: what keys asked for, how displays are divided, what floats; null for nothing."""
    kept = listener.session.context().kept()
    answer(None if kept is None else plain_kept(kept))


def _follow(listener: ServedListener, _params: Params, answer: Answer) -> None:
    """Be told of actions, notices, layers and windows from now on, as notifications called `event`."""
    listener.follow()
    answer({"following": True})


def _overlay(listener: ServedListener, _params: Params, answer: Answer) -> None:
    """Be the one who shows things over the windows: told of what to show, and of keys, as notifications `overlay`."""
    listener.screen.came()
    answer({"shows": True, "files": listener.config_texts()})


def _closed(listener: ServedListener, params: Params, answer: Answer) -> None:
    """What was opened with this number is closed: the keyboard is free."""
    number = _number(params)
    listener.screen.closed(number)
    answer({"closed": number})


def _seen(listener: ServedListener, params: Params, answer: Answer) -> None:
    """What was told with this number has been dealt with, and all before it."""
    listener.screen.answered(_number(params))
    answer({"seen": True})


def _number(params: Params) -> int:
    number = params.get("number")
    if not isinstance(number, int):
        raise ParamsError("number should be a whole number", 'write it like: {"number": 1}')
    return number


METHODS: Final[Mapping[str, Callable[[ServedListener, Params, Answer], None]]] = {
    "status": _status,
    "reload": _reload,
    "pause": _pause,
    "resume": _resume,
    "stop": _stop,
    "act": _act,
    "recall": _recall,
    "save": _save,
    "fire": _fire,
    "desk": _desk,
    "layouts": _layouts,
    "kept": _kept,
    "follow": _follow,
    "overlay": _overlay,
    "closed": _closed,
    "seen": _seen,
}


def _same_config(listener: ServedListener, path: str) -> None:
    """Raise where a listener goes by another config, or its files have changed since they were read."""
    if not listener.goes_by(path):
        raise ElsewhereError(f"this listener does not go by {path}", "`jaklet reload` makes it read its config again")


def methods_of(listener: ServedListener) -> dict[str, Method]:
    """Return the methods, each bound to a listener; they answer once its keys are heard: someone may press them."""

    def bound(method: Callable[[ServedListener, Params, Answer], None]) -> Method:
        def asked(params: Params, answer: Answer) -> None:
            def answered(result: Any) -> None:
                listener.hear()
                answer(result)

            if "config" in params:  # it is for whoever goes by this config, as it is now
                _same_config(listener, text_param(params, "config", "/home/ellery/.config/jaklet/jaklet.yaml"))
            method(listener, params, answered)

        return asked

    return {name: bound(method) for name, method in METHODS.items()}
