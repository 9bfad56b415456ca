"""The event loop of a desk: chords in, actions out, round after round, and a clean end."""

import contextlib
import gc
import os
import signal
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any, Final, NamedTuple

from jaklet.core.actions.ports.chord_source import ChordSource, KeyEdge
from jaklet.core.actions.ports.desktop import Desktop, Moment, ProgramExit
from jaklet.core.actions.ports.history import History
from jaklet.core.actions.ports.layout_store import LayoutStore
from jaklet.core.actions.tasks import TaskOutcome
from jaklet.core.actions.work import Work
from jaklet.core.keys.binding_changes import pending
from jaklet.core.keys.keymap import leads_on
from jaklet.core.language.verbs import ENTER, RECALL, traits_of
from jaklet.core.values.chords import Keys, keys_written
from jaklet.core.values.config import EVERYTHING, LOG, NEVER, OVERLAY, Config
from jaklet.core.values.desk import Desk
from jaklet.core.values.errors import DeskError, JakletError
from jaklet.core.values.notices import Notice
from jaklet.core.values.sentences import Action
from jaklet.desktops.learned_returns import LearnedReturns
from jaklet.listener.chord_hearing import HeardChords
from jaklet.listener.control import ControlServer
from jaklet.listener.counting import Counting, Save
from jaklet.listener.followers import Followers
from jaklet.listener.log import LAYER, Log
from jaklet.listener.methods import methods_of
from jaklet.listener.overlay_process import HelpedScreen, Process
from jaklet.listener.place_walks import PlaceWalks
from jaklet.listener.reload import ConfigSource, LoadedConfig, Reload
from jaklet.listener.reports import Reports
from jaklet.listener.session import NO_RETURNS, ListenerSession, WindowReturns
from jaklet.listener.worker import PromptHistory, PromptLayoutStore, WorkerThread
from jaklet.locations import socket_path

YOUNG: Final = 5000  # objects more than at the last collection, which the automatic one would take at 700
OLD: Final = 3  # collections of the young before all is looked through; what is garbage until then is some 2 MB
PAUSE: Final = 0.05  # seconds after a fault of our own, so that one which comes again and again takes no processor
STOP: Final = (signal.SIGTERM, signal.SIGINT)
CHORD: Final = "chord"  # the topic of what is said of a key's action, where all of them are


class Workplace(NamedTuple):
    """The desk that is listened on: where its chords come from, the name of its listener, and what it remembers."""

    desktop: Desktop
    chords: ChordSource
    name: str
    shelf: LayoutStore
    history: History | None = None
    returns: LearnedReturns | None = None


class ListenerPorts(NamedTuple):
    """Whom a listener tells. `say`: a line; `show`: a notice on the desktop; `describe`: a desk as data.

    `overlay` starts the helper that shows things over the windows. `beside`: what does what may have to wait.
    """

    say: Callable[[str], None]
    show: Callable[[Notice], None] | None = None
    describe: Callable[[Desk, Config], Any] | None = None
    overlay: Callable[[], Process] | None = None
    use: Save | None = None
    beside: WorkerThread | None = None


class ListenerLoop:
    """Hears chords on one desk and does what they are bound to."""

    def __init__(self, place: Workplace, source: ConfigSource, first: LoadedConfig, outside: ListenerPorts) -> None:
        """Make ready. `first`: the config to begin with; raises `JakletError` if another one listens on this desk."""
        assert first.config is not None
        self.since = time.time()
        self.name, self._desktop, self._outside = place.name, place.desktop, outside
        self._chords = place.chords
        self.beside = outside.beside or WorkerThread()
        self.shelf: LayoutStore = PromptLayoutStore(place.shelf, self.beside)
        history = PromptHistory(place.history, self.beside) if place.history else None
        self._stepped: tuple[Desk, bool, tuple[ProgramExit, ...]] | None = None  # what the tasks were resumed with
        self._walks = PlaceWalks()
        self._owed = 0  # keys that are answered once what is open over the windows has dealt with them
        self.followers = Followers()
        self.log = Log(outside.say, self._show, self.followers)
        self.config_files = Reload(source, first, self.log, self._use, self.beside.do_then)
        self.counting = Counting(outside.use)
        self.counting.on &= first.config.settings.counts
        counting = self.counting
        reports = Reports(
            self._ended, self.log.post, broken=self.log.broken, fired=counting.fired, gave_up=counting.gave_up
        )
        self.screen = HelpedScreen(outside.overlay, self._unseen)
        self.session = ListenerSession(
            place.desktop, first.config, self.shelf, reports, history, screen=self.screen, do=self.beside.do,
            returns=self._returns(place),
        )  # fmt: skip
        self.heard = HeardChords(place.chords, self.session, place.desktop.abilities, self.log)
        self._stopping = False
        path = socket_path(place.name)
        self._control = ControlServer(Path(path), methods_of(self), self.log.broken) if path else None
        self.followers.control = self.screen.control = self._control
        if path is None:
            outside.say("XDG_RUNTIME_DIR is not set, so `jaklet reload` cannot reach this listener; kill -HUP does")

    def _returns(self, place: Workplace) -> WindowReturns:
        known = place.returns
        if known is None:
            return NO_RETURNS

        def learn(cls: str, after: float) -> None:
            longest = known.learn(cls, after)
            self.beside.do(Work(lambda: known.keep(cls, longest)))

        def stays(cls: str) -> None:
            if known.after(cls):
                self.beside.do(Work(lambda: known.stays(cls)))

        return WindowReturns(known.after, learn, stays)

    def _show(self, notice: Notice) -> None:
        """Show a notice where the config wants it; over the windows, only what went wrong or was to be said."""
        where = self.session.config.settings.notices
        if where == OVERLAY and self.screen.works:
            if notice.topic == LAYER and self.session.config.settings.overlay.hints != NEVER:
                return  # its keys are shown instead
            if self.screen.say(notice, self._desktop.look().desk):
                return
        if self._outside.show and where != LOG:
            self._outside.show(notice)

    def _ended(self, keys: Keys, action: Action, outcome: TaskOutcome, took: float) -> None:
        """Tell how an action ended; for those who are shown what keys do, over the windows as well."""
        self.log.ended(keys, action, outcome, took)
        if outcome.done and action.verb == RECALL:
            self.counting.recalled(action.text)
        is_seen = traits_of(action).by_key or traits_of(action).noticed  # by itself
        moment = self._desktop.look()
        step = self._walks.step(action, moment.desk, self.session.config, moment.now) if keys and outcome.done else None
        if step and self.session.config.settings.overlay.alternatives:
            self.screen.walk(*step, moment.desk)
        if keys and outcome.done and not is_seen and self.session.config.settings.overlay.says == EVERYTHING:
            self.screen.say(Notice(f"{keys_written(keys)}   {outcome.line}", topic=CHORD), moment.desk)

    def _unseen(self, why: str) -> None:
        """Tell that something could not be shown, where that can be seen."""
        self.log.say(why)
        if self._outside.show and self.session.config.settings.notices != LOG:
            self._outside.show(Notice(why, failed=True))

    def _use(self, config: Config, tell: Callable[[str], None]) -> str:
        """Go by another config; return how many of its bindings work."""
        self.session.use(config)
        self.counting.on = self._outside.use is not None and config.settings.counts
        self.screen.reloaded(self.config_files.texts)
        self._warm()
        works = self.heard.begin(tell)
        self._make_ready()
        return works

    def run(self) -> None:
        """Listen until told to stop, by a signal too."""
        with _signals() as (wake, came):
            self.begin([wake])
            while not self._stopping:
                try:
                    self.round()
                except DeskError:
                    raise
                except Exception as fault:  # whatever it was, the keys of all other actions go on
                    self.log.broken("the listener", fault)
                    time.sleep(PAUSE)
                for number in came():
                    self._signal(number)
                tidy()
            self.end()

    def begin(self, wakes: list[int]) -> None:
        """Begin to listen. `wakes`: descriptors besides its own on which it is to wake up."""
        self.log.say(f"listening on {self.name}: {self.heard.begin(self.log.say)}")
        control = self._control.descriptors() if self._control else []
        descriptors = [*self.config_files.descriptors, *self._chords.descriptors(), self.beside.descriptor]
        self._desktop.watch([*wakes, *control, *descriptors])
        self.session.step(self._desktop.look())
        self._make_ready()
        self._warm()

    def _warm(self) -> None:
        """Let the helper begin before it is needed, where a key is there to show something."""
        if any(leads_on(one.action) and one.action.verb != ENTER for one in self.session.config.live):
            self.screen.warm()

    def end(self) -> None:
        """Let go of all chords, and end what shows things."""
        self.screen.end()
        self.counting.end()
        self.heard.end()
        self.beside.end()
        self.log.say("stopped: all chords are free again")

    def round(self) -> None:
        """Wait for what comes next, and do what is to be done about it: keys first."""
        moment = self._desktop.wait(self._until())
        heard = self._take_keys(moment)
        if heard:
            moment = self._desktop.look()
        if self._is_news(moment) | heard | self.beside.look():
            self._follow(moment)
        self._tend(moment)

    def _until(self) -> float:
        """Return when something is to be done by itself at the latest."""
        until = min(
            self.session.deadline, self.config_files.deadline, self._chords.due, self.screen.deadline,
            self.counting.deadline,
        )  # fmt: skip
        if self._control:
            return 0.0 if self._control.waiting else min(until, self._control.deadline)
        return until

    def _take_keys(self, moment: Moment) -> bool:
        """Begin what keys are bound to; return whether there were any."""
        heard = False
        for event in self._chords.key_events():
            self.screen.hold(event.held, moment.desk, self.session.config.settings.overlay.held)  # any key ends it
            if event.edge is KeyEdge.HOLD:
                continue
            if heard:
                moment = self._desktop.look()
            heard = True
            try:
                passed = self.session.key(event, moment)
            except DeskError:
                raise
            except Exception as fault:  # a key is answered, whatever becomes of it
                self.log.broken(f"key {event.chord}", fault)
                passed = True
            if event.waits and passed:
                self._chords.answer(passed)
            self._owed += event.waits and not passed  # it is answered when what follows is heard as it is to be
            self.hear()
        return heard

    def _follow(self, moment: Moment) -> None:
        """Go on with what is under way, as the desk or a key has changed."""
        self.session.step(moment)
        self.hear()
        if self.counting.on:
            self.counting.looks(self.session.config.front_app(moment.desk), self.session.is_busy, moment.desk)
        self._make_ready()

    def _make_ready(self) -> None:
        """Show what keys mean now, where the config wants that, and do what the next key would have to wait for."""
        moment = self._desktop.look()
        if self.session.config.settings.overlay.hints != NEVER:
            self.screen.follow(self.session.state, moment.desk)
        self.session.prepare(moment)

    def _tend(self, moment: Moment) -> None:
        """Look after all that is no key and no window: clients, files, what is shown, what is refused."""
        if moment.now >= self.counting.deadline:
            self.counting.look()
        self.heard.look()
        self.config_files.look(moment.now)
        if self._control:
            self.followers.look(moment.desk, self.session.config)
            if self._control.serve() | self.screen.look():
                self.hear()
                self._make_ready()

    def _is_news(self, moment: Moment) -> bool:
        """Return whether anything is otherwise than it was; clients alone are no reason to look at every task."""
        seen = moment.desk, moment.settled, tuple(moment.ended)
        before, self._stepped = self._stepped, seen
        return (
            before is None or before[0] is not seen[0] or before[1:] != seen[1:] or moment.now >= self.session.deadline
        )

    def _signal(self, number: int) -> None:
        if number in STOP:
            self._stopping = True
        elif number == signal.SIGHUP:
            self.reload()

    def close(self) -> None:
        """Take the control socket away."""
        if self._control:
            self._control.close()

    # --- what others may ask for ---

    def stop(self) -> None:
        """Listen no longer, once what is being done now is done."""
        self._stopping = True

    def reload(self, then: Callable[[dict[str, Any]], None] = lambda _told: None) -> None:
        """Read the config again; `then` is told what came of it."""
        self.config_files.read(then)

    def hear(self) -> None:
        """Hear the keys that mean something now.

        A key that something open over the windows has got may close it: the next one is the program's then, and waits.
        """
        self.heard.follow()
        while self._owed and not self.screen.busy:
            self._owed -= 1
            self._chords.answer(False)

    def look(self) -> Moment:
        """Return the desk as it is now."""
        return self._desktop.look()

    def config_texts(self) -> dict[str, str]:
        """Return the texts of the config files in use, by their whole paths."""
        return dict(self.config_files.texts)

    def described(self) -> Any:
        """Return the desk as data."""
        if self._outside.describe is None:
            raise JakletError("this listener cannot describe its desk")
        return self._outside.describe(self._desktop.look().desk, self.session.config)

    def goes_by(self, path: str) -> bool:
        """Return whether this is its config, and as it was when it was read."""
        return self.config_files.is_current(path)

    def follow(self) -> None:
        """Tell the client whose request this is of what happens."""
        self.followers.add(self._desktop.look().desk)

    def _layout(self) -> str:
        """Return the layout that stands; empty for none, and where its file has gone."""
        name = self.session.layout
        try:
            return name if not name or name in self.shelf.names() else ""
        except JakletError:
            return name

    def status(self) -> dict[str, Any]:
        """Return the listener's status as data."""
        session = self.session
        told_refused = {str(chord): reason for chord, reason in self.heard.refused.items()}
        return {
            "pid": os.getpid(),
            "desk": self.name,
            "since": self.since,
            "paused": session.paused,
            "config": str(self.config_files.path),
            "watching": self.config_files.watches,
            "current": self.config_files.is_current(str(self.config_files.path)),
            "bindings": self.config_files.bindings,
            "chords": [str(chord) for chord in self.heard.chords],
            "layer": session.layer,
            "layout": self._layout(),
            "arranged": session.keeper.told(self._desktop.look().desk),
            "keyboard": self._chords.holding(),
            "under_way": session.under_way,
            "refused": told_refused,
            "unusable": list(pending(session.config, self.config_files.bindings, told_refused).refused),
            "not_reloaded": list(self.config_files.refused),
            "warnings": list(self.config_files.findings),
            "actions": [done._asdict() for done in self.log.done],
        }


def tidy() -> None:
    """Collect garbage between two keys, as the interpreter would do it in the middle of one (5 ms with 200 windows)."""
    young, _, old = gc.get_count()
    if young > YOUNG:
        gc.collect(2 if old > OLD else 1)


@contextlib.contextmanager
def _signals() -> Any:
    """Turn signals into a descriptor to watch, and a call that returns those that came."""
    read, write = os.pipe()
    os.set_blocking(read, False)
    os.set_blocking(write, False)
    handled = (*STOP, signal.SIGHUP, signal.SIGCHLD)  # the last wakes the loop when a helper ends, or is stopped
    before = {number: signal.signal(number, lambda *_: None) for number in handled}
    former = signal.set_wakeup_fd(write, warn_on_full_buffer=False)

    def came() -> bytes:
        try:
            return os.read(read, 64)
        except BlockingIOError:
            return b""

    try:
        yield read, came
    finally:
        signal.set_wakeup_fd(former)
        for number, handler in before.items():
            signal.signal(number, handler)
        os.close(read)
        os.close(write)
