"""What `pick` can find: windows, apps, layouts, actions, hosts. A new kind is one entry in `KINDS`."""

from collections.abc import Callable, Iterator, Mapping
from functools import partial
from typing import Final, NamedTuple

from jaklet.core.actions.begin import begin
from jaklet.core.actions.launching import failure_told, focus_window
from jaklet.core.actions.pick_candidate import Candidate
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import Task, TaskContext, TaskOutcome, TaskRequest
from jaklet.core.keys.keymap import leads_on
from jaklet.core.language.actions import parse_action
from jaklet.core.language.verbs import is_harsh, traits_of
from jaklet.core.values.changes import Launch
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk
from jaklet.core.values.layouts import Layout
from jaklet.core.values.words import counted


class CandidateSources(NamedTuple):
    """All that there is to be picked from. Hosts are names that the user's SSH client knows."""

    config: Config
    desk: Desk
    layouts: tuple[Layout, ...] = ()
    hosts: tuple[str, ...] = ()


def _doing(sentence: str) -> Callable[[TaskContext, Moment], Task]:
    return lambda context, moment: begin(parse_action(sentence), context, moment)


def _keys(config: Config, kind: str, *names: str) -> tuple[str, ...]:
    """Return the chords and words whose action is listed with a kind of things, and names one of these."""
    named = frozenset(names)
    bound = [(binding.written, binding.action) for binding in config.live]
    bound += [(name, word.action) for name, word in config.words.items()]
    return tuple(
        key
        for key, action in bound
        if kind in traits_of(action).listed and any(ref.name in named for ref in action.refs)
    )


def windows(stock: CandidateSources) -> Iterator[Candidate]:
    """Yield the windows, the one used last first; the one in front comes last, as one is there already."""
    desk, config = stock.desk, stock.config
    rank = {wid: i for i, wid in enumerate(desk.recent)}
    front = desk.family(desk.front).id if desk.front else None
    for window in sorted(desk.main_windows, key=lambda w: (w.id == front, rank.get(w.id, len(rank)))):
        app = config.claims.app_of(window, desk)
        place = config.role_of(desk.display_of(window.frame))
        on = window.workspace
        elsewhere = "" if on is None or on == desk.workspace else f", {config.workspace_told(on)}"
        state = ", minimised" if window.minimised else ""

        does = f"focus window 0x{window.id:x}"
        yield Candidate(
            "windows",
            f"{app or window.cls or 'window'}: {window.title}" if window.title else app or window.cls or "window",
            f"on {place}{elsewhere}{state}",
            _keys(config, "windows", app) if app else (),
            does,
            _doing(does),
        )


def app_candidates(stock: CandidateSources) -> Iterator[Candidate]:
    """Yield the apps in the order of the config."""
    for name, app in stock.config.apps.items():
        own = stock.config.claims.windows_of(name, stock.desk)
        detail = counted(len(own), "window") if own else "not running" if app.command else "not running, no launch"
        yield Candidate("apps", name, detail, _keys(stock.config, "apps", name), f"go {name}", _doing(f"go {name}"))


def layouts(stock: CandidateSources) -> Iterator[Candidate]:
    """Yield the layouts by number, then by name."""
    for layout in sorted(stock.layouts, key=lambda one: (one.number is None, one.number or 0, one.name)):
        numbered = "" if layout.number is None else f"number {layout.number}"
        detail = ", ".join(part for part in (numbered, layout.note) if part)
        keys = _keys(stock.config, "layouts", layout.name, *(() if layout.number is None else (str(layout.number),)))
        yield Candidate("layouts", layout.name, detail, keys, f"recall {layout.name}", _doing(f"recall {layout.name}"))


def actions(stock: CandidateSources) -> Iterator[Candidate]:
    """Yield the actions of keys and words, each once. One that can lose work is there where it is bound as sure.

    Of families that recall, the layouts that there are stand among the layouts already.
    """
    found: dict[str, tuple[list[str], list[str]]] = {}
    keys_of = (
        one
        for one in stock.config.live
        if not (one.family and "layouts" in traits_of(one.action).listed)
        and not leads_on(one.action)
        and not traits_of(one.action).by_key
    )
    bound = [(one.written, one.action, one.note, one.sure) for one in keys_of]
    bound += [(name, one.action, one.note, one.sure) for name, one in stock.config.words.items()]
    for key, action, note, sure in bound:
        if is_harsh(action) and not sure:
            continue
        keys, notes = found.setdefault(action.text, ([], []))
        keys.append(key)
        notes += [note] if note and note not in notes else []
    for text, (keys, notes) in found.items():
        yield Candidate("actions", text, "; ".join(notes), tuple(keys), text, _doing(text))


def host_candidates(stock: CandidateSources) -> Iterator[Candidate]:
    """Yield the hosts; one is opened in the user's terminal program."""
    for host in stock.hosts:
        yield Candidate("hosts", host, "ssh", (), f"ssh {host}", partial(_opened, host))


def _opened(host: str, context: TaskContext, moment: Moment) -> Task:
    """Open a host in the terminal program, and go to its window."""
    settings, before = context.config.settings, {window.id for window in moment.desk.windows}
    name, until = f"ssh {host}", moment.now + settings.wait  # no app can have this name, so that none is meant by it
    # A name that began with a dash would be an option; the reader of hosts leaves such names out.
    moment = yield TaskRequest(
        (Launch(name, (*settings.terminal, "ssh", host)),), until, ("wait for its window; focus it",)
    )
    while True:
        new = [window for window in moment.desk.windows if window.id not in before]
        if new:
            return (yield from focus_window(new[-1], context, moment, "open and in front"))
        failed = next((one for one in moment.ended if one.app == name and one.status), None)
        if failed or moment.now >= until:
            told = (
                failure_told(failed, moment.said(name))
                if failed
                else (f"{name} showed no window within {settings.wait:g} s", ())
            )
            return TaskOutcome(False, *told)
        moment = yield TaskRequest((), until)


KINDS: Final[Mapping[str, Callable[[CandidateSources], Iterator[Candidate]]]] = {
    "windows": windows,
    "apps": app_candidates,
    "layouts": layouts,
    "actions": actions,
    "hosts": host_candidates,
}


def candidates(stock: CandidateSources) -> list[Candidate]:
    """Return all candidates, kind by kind."""
    return [candidate for kind in KINDS.values() for candidate in kind(stock)]
