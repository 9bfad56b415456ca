"""What can be asked of a listener over its control socket. A new method is one entry in `METHODS`."""

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, Any, Final

from jaklet.core.errors import JakletError, SentenceError
from jaklet.core.sentences import Action
from jaklet.core.tasks import Outcome
from jaklet.core.verbs import BY_KEY, VERBS, is_harsh, parse_action
from jaklet.listener.rpc import Answer, Method, ParamsError, text_param

if TYPE_CHECKING:
    from jaklet.listener.loop import Listener

Params = Mapping[str, Any]


def _status(listener: "Listener", _params: Params, answer: Answer) -> None:
    """How the listener does: since when, what it goes by, the layer, the last actions."""
    answer(listener.status())


def _reload(listener: "Listener", _params: Params, answer: Answer) -> None:
    """Read and check the config again; with errors in it, the old one stays."""
    answer(listener.reload())


def _pause(listener: "Listener", _params: Params, answer: Answer) -> None:
    """Let keys and events be, until `resume`."""
    listener.session.pause(True)
    answer({"paused": True})


def _resume(listener: "Listener", _params: Params, answer: Answer) -> None:
    """Listen again."""
    listener.session.pause(False)
    answer({"paused": False})


def _stop(listener: "Listener", _params: Params, answer: Answer) -> None:
    """End the listener; all chords are free again."""
    answer({"stopped": True})
    listener.stop()


def _act(listener: "Listener", params: Params, answer: Answer) -> None:
    """Do an action, or what a word stands for; the answer comes when it has ended."""
    text, config = text_param(params, "action", "go berths"), listener.session.config
    word = config.word(text)
    try:
        action = word.action if word else parse_action(text)
    except SentenceError as fault:
        raise ParamsError(fault.message, fault.remedy) from fault
    if VERBS[action.verb].traits & BY_KEY:
        raise JakletError(f"only a key can do {action.verb!r}", "bind it to a chord; or ask for pause or resume")
    if is_harsh(action) and not (params.get("sure") is True or (word and word.sure)):
        raise JakletError("this can lose work", 'add {"sure": true} if that is meant')
    _known(action, listener)

    def ended(outcome: Outcome, seconds: float) -> None:
        answer({"done": outcome.done, "line": outcome.line, "more": list(outcome.more), "seconds": round(seconds, 4)})

    listener.session.act(action, listener.look(), ended)


def _known(action: Action, listener: "Listener") -> None:
    """Raise where an action names something that the config does not have."""
    config = listener.session.config
    there: dict[str, Mapping[str, object]] = {"app": config.apps, "place": config.places, "macro": config.macros}
    for name in action.names():
        if name.kind in there and name.name not in there[name.kind]:
            raise JakletError(f"no {name.kind} is called {name.name!r}", f"add it to `{name.kind}s` in the config")


def _desk(listener: "Listener", _params: Params, answer: Answer) -> None:
    """The desk as it is: displays, windows from front to back, the focus."""
    answer(listener.described())


def _layouts(listener: "Listener", _params: Params, answer: Answer) -> None:
    """The names of the layouts, and which of them stands."""
    answer({"layouts": listener.shelf.names(), "stands": listener.session.layout})


def _follow(listener: "Listener", _params: Params, answer: Answer) -> None:
    """Be told of actions, notices, layers and windows from now on, as notifications called `event`."""
    listener.follow()
    answer({"following": True})


METHODS: Final[Mapping[str, Callable[["Listener", Params, Answer], None]]] = {
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


def methods_of(listener: "Listener") -> dict[str, Method]:
    """Return the methods, each bound to a listener."""

    def bound(method: Callable[["Listener", Params, Answer], None]) -> Method:
        return lambda params, answer: method(listener, params, answer)

    return {name: bound(method) for name, method in METHODS.items()}
