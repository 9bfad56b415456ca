"""What can be asked of a listener over its control socket. A new method is one entry in `METHODS`."""

from collections.abc import Callable, Mapping
from typing import Any, Final, Protocol

from jaklet.core.actions.ports.desk import Moment
from jaklet.core.actions.ports.shelf import Shelf
from jaklet.core.actions.tasks import Outcome
from jaklet.core.language.actions import parse_action
from jaklet.core.language.verbs import is_harsh, traits_of
from jaklet.core.values.errors import JakletError, SentenceError
from jaklet.core.values.sentences import Action
from jaklet.listener.rpc import Answer, Method, ParamsError, text_param
from jaklet.listener.session import Session

Params = Mapping[str, Any]


class Serving(Protocol):
    """What a listener lets others ask for."""

    session: Session
    shelf: Shelf

    def status(self) -> dict[str, Any]:
        """Return how it does."""
        ...

    def reload(self) -> dict[str, Any]:
        """Read the config again, and return what came of it."""
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

    def described(self) -> Any:
        """Return the desk as data."""
        ...

    def follow(self) -> None:
        """Tell the client that asks of what happens."""
        ...


def _status(listener: Serving, _params: Params, answer: Answer) -> None:
    """How the listener does: since when, what it goes by, the layer, the last actions."""
    answer(listener.status())


def _reload(listener: Serving, _params: Params, answer: Answer) -> None:
    """Read and check the config again; with errors in it, the old one stays."""
    answer(listener.reload())


def _pause(listener: Serving, _params: Params, answer: Answer) -> None:
    """Let keys and events be, until `resume`."""
    listener.session.pause(True)
    answer({"paused": True})


def _resume(listener: Serving, _params: Params, answer: Answer) -> None:
    """Listen again."""
    listener.session.pause(False)
    answer({"paused": False})


def _stop(listener: Serving, _params: Params, answer: Answer) -> None:
    """End the listener; all chords are free again."""
    answer({"stopped": True})
    listener.stop()


def _act(listener: Serving, params: Params, answer: Answer) -> None:
    """Do an action, or what a word stands for; the answer comes when it has ended."""
    text, config = text_param(params, "action", "go berths"), listener.session.config
    word = config.word(text)
    try:
        action = word.action if word else parse_action(text)
    except SentenceError as fault:
        raise ParamsError(fault.message, fault.remedy) from fault
    if traits_of(action).by_key:
        raise JakletError(f"only a key can do {action.verb!r}", "bind it to a chord; or ask for pause or resume")
    if is_harsh(action) and not (params.get("sure") is True or (word and word.sure)):
        raise JakletError("this can lose work", 'add {"sure": true} if that is meant')
    _known(action, listener)

    def ended(outcome: Outcome, seconds: float) -> None:
        answer({"done": outcome.done, "line": outcome.line, "more": list(outcome.more), "seconds": round(seconds, 4)})

    listener.session.act(action, listener.look(), ended)


def _known(action: Action, listener: Serving) -> None:
    """Raise where an action names something that the config does not have."""
    config = listener.session.config
    there: dict[str, Mapping[str, object]] = {"app": config.apps, "place": config.places, "macro": config.macros}
    for name in action.names():
        if name.kind in there and name.name not in there[name.kind]:
            raise JakletError(f"no {name.kind} is called {name.name!r}", f"add it to `{name.kind}s` in the config")


def _desk(listener: Serving, _params: Params, answer: Answer) -> None:
    """The desk as it is: displays, windows from front to back, the focus."""
    answer(listener.described())


def _layouts(listener: Serving, _params: Params, answer: Answer) -> None:
    """The names of the layouts, and which of them stands."""
    answer({"layouts": listener.shelf.names(), "stands": listener.session.layout})


def _follow(listener: Serving, _params: Params, answer: Answer) -> None:
    """Be told of actions, notices, layers and windows from now on, as notifications called `event`."""
    listener.follow()
    answer({"following": True})


METHODS: Final[Mapping[str, Callable[[Serving, Params, Answer], None]]] = {
    "status": _status,
    "reload": _reload,
    "pause": _pause,
    "resume": _resume,
    "stop": _stop,
    "act": _act,
    "desk": _desk,
    "layouts": _layouts,
    "follow": _follow,
}


def methods_of(listener: Serving) -> dict[str, Method]:
    """Return the methods, each bound to a listener; they answer once its keys are heard: someone may press them."""

    def bound(method: Callable[[Serving, Params, Answer], None]) -> Method:
        def asked(params: Params, answer: Answer) -> None:
            def answered(result: Any) -> None:
                listener.hear()
                answer(result)

            method(listener, params, answered)

        return asked

    return {name: bound(method) for name, method in METHODS.items()}
