"""Who a session tells what has come of something."""

from collections.abc import Callable
from typing import NamedTuple

from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import TaskOutcome
from jaklet.core.values.chords import Keys
from jaklet.core.values.config import Binding
from jaklet.core.values.notices import Notice
from jaklet.core.values.sentences import Action
from jaklet.listener.guard import reraise


class Reports(NamedTuple):
    """Who is told of what.

    `ended`: with the chords, how their action ended and the seconds it took. `post`: what the user is told besides.
    `watch`: each step of a macro. `broken`: a fault of Jaklet's own, which it returns in words. `fired`: that a key was
    pressed, or let go of, which does something. `gave_up`: that a sequence has not gone on, with its chords.
    """

    ended: Callable[[Keys, Action, TaskOutcome, float], None]
    post: Callable[[Notice], None] = lambda _notice: None
    watch: Callable[[Action, TaskOutcome, Moment], None] | None = None
    broken: Callable[[str, Exception], str] = reraise
    fired: Callable[[Binding], None] = lambda _binding: None
    gave_up: Callable[[Keys], None] = lambda _begun: None
