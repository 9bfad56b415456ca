"""The event loop of a real desk: chords in, actions out; reload on request, or when a file changes; a clean end."""

import contextlib
import gc
import os
import signal
import time
from collections import deque
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final, NamedTuple

from jaklet.core.actions.events import happened
from jaklet.core.actions.ports import ChordDesktop, Ended, History, Moment, Notice, Refusal, Shelf
from jaklet.core.actions.tasks import Outcome
from jaklet.core.keys.keymap import ESCAPE, NOTHING, REST
from jaklet.core.language.verbs import traits_of
from jaklet.core.values.chords import Chord, Keys, keys_written
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk
from jaklet.core.values.errors import DeskError, JakletError
from jaklet.core.values.sentences import Action
from jaklet.core.values.words import counted, printable
from jaklet.listener.control import ControlServer, socket_path
from jaklet.listener.guard import report
from jaklet.listener.methods import methods_of
from jaklet.listener.rpc import notification
from jaklet.listener.session import Session
from jaklet.listener.tasks import NEVER

if TYPE_CHECKING:
    from jaklet.listener.file_watch import FileWatch

YOUNG: Final = 5000  # objects more than at the last collection, which the automatic one would take at 700
OLD: Final = 3  # collections of the young before all is looked through; what is garbage until then is some 2 MB
QUIET: Final = 0.3  # seconds without a change, after which the files are read: editors write in several steps
PAUSE: Final = 0.05  # seconds after a fault of our own, so that one which comes again and again takes no processor
MOST_DONE: Final = 20  # actions that `status` tells of
LAYER: Final = "layer"  # the topic of notices
STOP: Final = (signal.SIGTERM, signal.SIGINT)


class Loaded(NamedTuple):
    """A config that was read and checked: None if it has errors, and what was found, in lines. `files`: it is in."""

    config: Config | None
    lines: tuple[str, ...]
    files: tuple[Path, ...] = ()


class Done(NamedTuple):
    """An action that has ended: when (seconds since the epoch), its chord, what it was, and how it went."""

    at: float
    keys: str
    action: str
    done: bool
    line: str
    seconds: float


class Around(NamedTuple):
    """What a listener has around it. `describe`: a desk as data; `post`: shows a notice; `watch`: of the files."""

    describe: Callable[[Desk, Config], Any] | None = None
    post: Callable[[Notice], None] | None = None
    watch: "FileWatch | None" = None
    files: tuple[Path, ...] = ()
    findings: tuple[str, ...] = ()


ALONE: Final = Around()


class Listener:
    """Hears chords on one desk and does what they are bound to."""

    def __init__(
        self,
        desktop: ChordDesktop,
        desk_name: str,
        config_path: Path,
        config: Config,
        shelf: Shelf,
        load: Callable[[], Loaded],
        tell: Callable[[str], None],
        history: History | None = None,
        around: Around = ALONE,
    ) -> None:
        self._around = around
        self._since = time.time()
        self._done: deque[Done] = deque(maxlen=MOST_DONE)
        self._findings = around.findings
        self._read_at = NEVER  # when the files, which have changed, are to be read
        self._later: list[Notice] = []  # of layers, until their keys are heard
        self._stepped: tuple[Desk, bool, tuple[Ended, ...]] | None = None  # what the tasks were resumed with
        self._before: Desk | None = None  # as those who follow were told last
        self.shelf = shelf
        self._desktop = desktop
        self._name = desk_name
        self._config_path = config_path
        self._load = load
        self._say = tell
        self.session = Session(desktop, config, shelf, self._ended, history, self._posted, broken=self._broken)
        self._stopping = False
        self._hearing = NOTHING
        self._described = tuple(binding.described for binding in config.live)
        self._refused: dict[Chord | None, str] = {}
        path = socket_path(desk_name)
        self._control = ControlServer(path, methods_of(self), self._broken) if path else None
        if around.watch:
            around.watch.follow(around.files)
        if path is None:
            tell("XDG_RUNTIME_DIR is not set, so `jaklet reload` cannot reach this listener; kill -HUP does")

    def run(self) -> None:
        """Listen until told to stop."""
        with _signals() as (wake, came):
            self._say(f"listening on {self._name}: {self._grab()}")
            self._desktop.watch([wake, *self._descriptors()])
            self.session.step(self._desktop.look())
            while not self._stopping:
                try:
                    self._round()
                except DeskError:
                    raise
                except Exception as fault:  # whatever it was, the keys of all other actions go on
                    self._broken("the listener", fault)
                    time.sleep(PAUSE)
                for number in came():
                    self._signal(number)
                _tidy()
            self._desktop.grab(NOTHING)
            self._say("stopped: all chords are free again")

    def _round(self) -> None:
        """Wait for what comes next, and do what is to be done about it: keys first."""
        control, until = self._control, min(self.session.deadline, self._read_at)
        if control:
            until = 0.0 if control.waiting else min(until, control.deadline)
        moment = self._desktop.wait(until)
        keys = self._desktop.key_events()
        for event in keys:
            try:
                passed = self.session.key(event, moment)
            except DeskError:
                raise
            except Exception as fault:  # a key is answered, whatever becomes of it
                self._broken(f"key {event.chord}", fault)
                passed = True
            if event.waits:
                self._desktop.answer(passed)
            moment = self._desktop.look()
            self.hear()
        if keys or self._is_news(moment):
            self.session.step(moment)
            self.hear()
        self._report_lost()
        self._look_at_files(moment.now)
        if control:
            self._tell_followers(moment.desk)
            control.serve()
            self.hear()
        self.session.prepare(self._desktop.look())

    def _broken(self, what: str, fault: Exception) -> str:
        return report(what, fault, self._say)

    def _is_news(self, moment: Moment) -> bool:
        """Return whether anything is otherwise than it was; clients alone are no reason to look at every task."""
        seen = moment.desk, moment.settled, tuple(moment.ended)
        before, self._stepped = self._stepped, seen
        return (
            before is None or before[0] is not seen[0] or before[1:] != seen[1:] or moment.now >= self.session.deadline
        )

    def _descriptors(self) -> list[int]:
        watch = self._around.watch
        return [*(self._control.descriptors() if self._control else ()), *([watch.descriptor] if watch else ())]

    def close(self) -> None:
        """Take the control socket away."""
        if self._control:
            self._control.close()

    def stop(self) -> None:
        """Listen no longer, once what is being done now is done."""
        self._stopping = True

    def look(self) -> Moment:
        """Return the desk as it is now."""
        return self._desktop.look()

    def described(self) -> Any:
        """Return the desk as data."""
        if self._around.describe is None:
            raise JakletError("this listener cannot describe its desk")
        return self._around.describe(self._desktop.look().desk, self.session.config)

    def follow(self) -> None:
        """Tell the client whose request this is of what happens."""
        if self._control:
            self._control.follow()
            self._before = self._desktop.look().desk

    def _tell(self, what: str, **params: Any) -> None:
        """Tell those who follow."""
        if self._control and self._control.is_followed:
            self._control.tell(notification("event", {"what": what, **params}))

    def _tell_followers(self, desk: Desk) -> None:
        """Tell those who follow of windows, the focus and displays."""
        if not (self._control and self._control.is_followed):
            return
        before, self._before = self._before, desk
        if before is not None and before is not desk:
            for one in happened(before, desk, self.session.config):
                self._tell("happened", event=one.kind, name=one.name, window=one.window)

    def _posted(self, notice: Notice) -> None:
        """Tell of something; of a layer once its keys are heard, as someone may press them at the word."""
        if notice.topic == LAYER:
            self._later.append(notice)
        else:
            self._show(notice)

    def _show(self, notice: Notice) -> None:
        """Show a notice where that can be, and keep it in the log."""
        if notice.topic == LAYER:
            self._tell("layer", layer=self.session.layer)
        else:
            self._tell("notice", text=notice.text, failed=notice.failed)
        if not notice.failed:  # of a failure the log tells where the action ends
            self._say(printable(notice.text))
        if self._around.post and self.session.config.settings.notices:
            self._around.post(Notice(printable(notice.text), notice.failed, notice.topic))

    def _look_at_files(self, now: float) -> None:
        """Read the config again once its files have changed and have been left alone for a moment."""
        watch = self._around.watch
        if watch and watch.changed():
            self._read_at = now + QUIET
        elif now >= self._read_at:
            self._read_at = NEVER
            self.reload()

    def _signal(self, number: int) -> None:
        if number in STOP:
            self._stopping = True
        elif number == signal.SIGHUP:
            self.reload()

    def reload(self) -> dict[str, Any]:
        """Read and check the config again; with errors, the old one stays. Return what came of it."""
        try:
            loaded = self._load()
        except JakletError as fault:  # the file itself may be gone, as between an editor's delete and its rename
            loaded = Loaded(None, (f"{fault.message}; {fault.remedy}",))
        except Exception as fault:
            loaded = Loaded(None, (self._broken("reading the config", fault),))
        lines = list(loaded.lines)
        if loaded.config is None:
            first = lines[0] if lines else "it cannot be read"
            self._posted(Notice(f"the config was not reloaded: {first}", failed=True, topic="reload"))
            lines.append("the old config stays in use")
        else:
            self.session.config = loaded.config
            if self._around.watch and loaded.files:
                self._around.watch.follow(loaded.files)
            self._findings = loaded.lines
            self._described = tuple(binding.described for binding in loaded.config.live)
            lines.append(f"reloaded: {self._grab(lines)}")
        for line in lines:
            self._say(line)
        gc.collect()  # the old config refers to itself, and several of them at once are tens of megabytes
        return {"done": loaded.config is not None, "lines": lines}

    def status(self) -> dict[str, Any]:
        """Return what a client may want to know of this listener."""
        return {
            "pid": os.getpid(),
            "desk": self._name,
            "config": str(self._config_path),
            "layer": self.session.layer,
            "chords": [str(chord) for chord in sorted(self.session.chords) if chord not in self._refused],
            "refused": {str(chord): reason for chord, reason in self._refused.items()},
            "bindings": self._described,
            "since": self._since,
            "paused": self.session.paused,
            "layout": self.session.layout,
            "under way": self.session.under_way,
            "actions": [done._asdict() for done in self._done],
            "warnings": list(self._findings),
            "watching": self._around.watch is not None,
            "keyboard": self._desktop.holding(),
        }

    def _grab(self, lines: list[str] | None = None) -> str:
        """Grab all chords that begin something; report those that cannot be, and return how many bindings work."""
        self._spell()
        refusals = self._hear()
        for refusal in refusals:
            if lines is None:
                self._say(_told(refusal))
            else:
                lines.append(_told(refusal))
        live = self.session.config.live
        refused = {refusal.chord for refusal in refusals}
        # A layer takes the whole keyboard while it is on, so that nobody else can hold its keys.
        working = sum(bool(binding.layer) or binding.keys[0] not in refused for binding in live)
        return f"{working} of {counted(len(live), 'binding')}" if refusals else counted(working, "binding")

    def _spell(self) -> None:
        """Find out which chords of the config are one key on this keyboard."""
        self.session.spell(self._desktop.twins(chord for one in self.session.config.live for chord in one.keys))

    def _hear(self) -> list[Refusal]:
        """Grab the keys that mean something now."""
        self._hearing = self.session.hearing
        refusals = self._desktop.grab(self._hearing)
        if self.session.state == REST:
            self._refused = {refusal.chord: refusal.reason for refusal in refusals if refusal.chord != ESCAPE}
        return refusals

    def hear(self) -> None:
        """Hear what means something now, and then tell of the layers that were entered and left."""
        self._hear_what_counts()
        while self._later:
            self._show(self._later.pop(0))

    def _hear_what_counts(self) -> None:
        """Hear the keys of a layer, or the next ones of a sequence, while it is under way, and no longer."""
        if self.session.hearing is self._hearing:
            return
        for refusal in self._hear():
            if refusal.chord is None:
                self._say(f"layer {self.session.layer} is left: {refusal.reason}")
                self.session.leave()
                self._hear()
                return
            if refusal.chord != ESCAPE:  # without it, time still ends the sequence
                self._say(_told(refusal))

    def _report_lost(self) -> None:
        """Tell of keys that waited too long, and of what is otherwise on another keyboard."""
        for late in self._desktop.lost():
            self._say(f"{late.chord or 'a key'}: {late.reason}")
        refusals = self._desktop.remapped()
        if refusals is None:
            return
        self._spell()
        refused = {refusal.chord: refusal.reason for refusal in refusals}
        for refusal in refusals:
            if self._refused.get(refusal.chord) != refusal.reason:
                self._say(_told(refusal))
        if self.session.state == REST:
            for chord in self._refused.keys() - refused.keys():
                self._say(f"{chord} can be used again")
            self._refused = refused
        else:  # only the keys of a layer or a sequence were tried
            self._refused |= refused

    def _ended(self, keys: Keys, action: Action, outcome: Outcome) -> None:
        written, took = keys_written(keys) or action.verb, self.session.took
        plain = outcome.done or not keys
        line = printable(f"{written}: {outcome.line}" if plain else f"{written}: {action}: {outcome.line}")
        if not (outcome.done and traits_of(action).noticed):  # else it stands in the log already, as what it said
            self._say(line)
        for more in outcome.more:
            self._say(f"  {printable(more)}")
        chord = keys_written(keys) if keys else ""
        done = Done(time.time(), chord, printable(str(action)), outcome.done, printable(outcome.line), round(took, 4))
        self._done.append(done)
        self._tell("action", **done._asdict())


def _tidy() -> None:
    """Collect garbage between two keys, as the interpreter would do it in the middle of one (5 ms with 200 windows)."""
    young, _, old = gc.get_count()
    if young > YOUNG:
        gc.collect(2 if old > OLD else 1)


def _told(refusal: Refusal) -> str:
    return f"{refusal.chord} cannot be used: {refusal.reason}"


@contextlib.contextmanager
def _signals() -> Any:
    """Turn signals into a descriptor to watch, and a call that returns those that came."""
    read, write = os.pipe()
    os.set_blocking(read, False)
    os.set_blocking(write, False)
    handled = (*STOP, signal.SIGHUP)
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
