"""What window managers differ in, and the ways to ask for it: those of the open standards first.

What a way has brought about is read back when the desk has come to rest. Where it is not what was asked, the next way
is tried; what works is what the next request of this kind begins with. No manager is known by its name here: each is
taken as it answers.

A window that lands beside its place in every way, always by the same few pixels, is asked for once more with that taken
off. Where that works it is remembered for windows of its class.
"""

import re
from collections.abc import Callable, Mapping, Sequence
from typing import Any, Final, NamedTuple

import xcffib.xproto as xp

from jaklet.core.values.changes import Change, Minimise, Move, Reveal, Send, Stack
from jaklet.core.values.desk import Desk, WindowShape
from jaklet.core.values.geometry import Insets, Rect
from jaklet.core.values.stacking import stands_on_top, to_activate
from jaklet.desktops.window_hints import NORTH_WEST, STATIC
from jaklet.desktops.x11.requests import ADD, PAGER, REMOVE, ask_for, move_by_message, windows_to_raise
from jaklet.desktops.x11.wire import Wire

MOST_GIVEN_UP: Final = 500  # windows for which no way has worked that are remembered
MOST_OFF: Final = 40  # pixels: no title bar is higher
PATIENT: Final = 6  # how often in turn all ways are tried for a window that none works for


class RequestContext(NamedTuple):
    """What a request is made from. `time`: the server's, of what the user did; `front`: who is to have the focus.

    `edges`: how wide a window's frame is, as its manager says it; `gravity`: that of a window (ICCCM 4.1.2.3).
    """

    wire: Wire
    desk: Desk
    time: int
    front: int | None
    edges: Callable[[int], Insets]
    gravity: Callable[[int], int]


class RequestWay(NamedTuple):
    """One way to ask for one kind of change. `name`: by which it is remembered, so that it is never changed.

    `ask` returns the windows that become active by it, in turn. `needs`: what the manager lists in _NET_SUPPORTED.
    """

    name: str
    ask: Callable[[Any, RequestContext], Sequence[int]]
    needs: str = ""


def _as_usual(change: Change, asking: RequestContext) -> Sequence[int]:
    """Ask in the way of the open standards."""
    ask_for(change, asking.wire, asking.desk, asking.time)
    return ()


def _move_corner(change: Move, asking: RequestContext) -> Sequence[int]:
    """Give the corner of the frame, as of a window with the usual gravity; for managers that know no static one."""
    window = asking.desk.by_id[change.window]
    x, y, width, height = window.border.inside(change.frame)
    edges = asking.edges(change.window)
    move_by_message(change.window, (x - edges.left, y - edges.top, width, height), NORTH_WEST, asking.wire)
    return ()


def _configure(change: Move, asking: RequestContext) -> Sequence[int]:
    """Ask as the program itself would (ICCCM 4.1.5): by its gravity, which says which point the manager keeps."""
    window = asking.desk.by_id[change.window]
    x, y, width, height = window.border.inside(change.frame)
    edges, gravity = asking.edges(change.window), asking.gravity(change.window)
    if gravity != STATIC:
        column, row = (gravity - 1) % 3, (gravity - 1) // 3  # 1 to 9: north west, north, ..., south east
        x -= (edges.left, (edges.left - edges.right) // 2, -edges.right)[column]
        y -= (edges.top, (edges.top - edges.bottom) // 2, -edges.bottom)[row]
    return _configure_at(change.window, (x, y, width, height), asking)


def _configure_plain(change: Move, asking: RequestContext) -> Sequence[int]:
    """The same, for managers that take the corner for that of the client area, whatever its gravity."""
    return _configure_at(change.window, asking.desk.by_id[change.window].border.inside(change.frame), asking)


def _configure_at(wid: int, client: tuple[int, int, int, int], asking: RequestContext) -> Sequence[int]:
    flags = xp.ConfigWindow
    mask = flags.X | flags.Y | flags.Width | flags.Height
    asking.wire.core.ConfigureWindow(wid, mask, list(client))
    return ()


def _configure_by_detour(change: Move, asking: RequestContext) -> Sequence[int]:
    """Move it away first, and then where it is to be: some managers hold back what stands at an edge already."""
    x, y, width, height = asking.desk.display_of(change.frame).work
    _configure(Move(change.window, Rect(x + width // 4, y + height // 4, width // 2, height // 2)), asking)
    return _configure(change, asking)


def _activate(change: Reveal, asking: RequestContext) -> Sequence[int]:
    turn = [change.window] if asking.front is None else [change.window, asking.front]
    return _made_active(turn, asking)


def _send_by_way_of_here(change: Send, asking: RequestContext) -> Sequence[int]:
    """Send it to the workspace that is shown, and on from there, where a manager shows nothing that comes from afar."""
    here = Send(change.window, asking.desk.workspace)
    for one in (here, change):
        ask_for(one, asking.wire, asking.desk, asking.time)
    return ()


def _send_by_state(change: Send, asking: RequestContext) -> Sequence[int]:
    """Let a window stick or not (EWMH _NET_WM_STATE_STICKY), and send it."""
    wire = asking.wire
    sticks = ADD if change.workspace is None else REMOVE
    wire.tell_manager(change.window, "_NET_WM_STATE", (sticks, wire.atoms["_NET_WM_STATE_STICKY"], 0, PAGER))
    if change.workspace is not None:
        ask_for(change, wire, asking.desk, asking.time)
    return ()


def _configure_above(change: Stack, asking: RequestContext) -> Sequence[int]:
    for wid in windows_to_raise(change.windows, asking.desk):
        asking.wire.core.ConfigureWindow(wid, xp.ConfigWindow.StackMode, [xp.StackMode.Above])
    return ()


def _activate_in_turn(change: Stack, asking: RequestContext) -> Sequence[int]:
    """Make windows active from the back to the front; who had the focus has it in the end."""
    return _made_active(to_activate(asking.desk, change.windows, asking.front), asking)


def _made_active(turn: list[int], asking: RequestContext) -> list[int]:
    for wid in turn:
        asking.wire.tell_manager(wid, "_NET_ACTIVE_WINDOW", (PAGER, asking.time, asking.front or 0))
    return turn


ACTIVATE: Final = "activate"
WAYS: Final[Mapping[type, tuple[RequestWay, ...]]] = {
    Move: (
        RequestWay("message, static", _as_usual, "_NET_MOVERESIZE_WINDOW"),
        RequestWay("message, corner", _move_corner, "_NET_MOVERESIZE_WINDOW"),
        RequestWay("configure", _configure),
        RequestWay("configure, plain", _configure_plain),
        RequestWay("configure, by a detour", _configure_by_detour),
    ),
    Reveal: (RequestWay("map", _as_usual), RequestWay(ACTIVATE, _activate)),
    Send: (
        RequestWay("message", _as_usual),
        RequestWay("message, by way of here", _send_by_way_of_here),
        RequestWay("state", _send_by_state, "_NET_WM_STATE_STICKY"),
    ),
    Stack: (
        RequestWay("restack", _as_usual, "_NET_RESTACK_WINDOW"),
        RequestWay("configure", _configure_above),
        RequestWay(ACTIVATE, _activate_in_turn),
    ),
}


class Offset(NamedTuple):
    """By how much a window lands to the right of and below what is asked for, in pixels."""

    x: int = 0
    y: int = 0

    def taken_off(self, change: Change) -> Change:
        """Return the frame to ask for, so that a window lands where it is to be."""
        if not isinstance(change, Move) or not any(self):
            return change
        x, y, width, height = change.frame
        return change._replace(frame=Rect(x - self.x, y - self.y, width, height))


NONE: Final = Offset()
_OFFSET: Final = re.compile(r"(-?\d{1,2}) (-?\d{1,2})")


class RequestAttempt(NamedTuple):
    """A change that was asked for. `first`: the way it began with; `times`: how often it has been asked for.

    `off`: what was taken off in it; `missed`: by how much the window missed its place the time before.
    """

    change: Change
    kind: str
    first: int
    way: int
    times: int = 1
    off: Offset = NONE
    missed: Offset = NONE

    def next(self, ways: int) -> int:
        """Return the way to go on with: the first one twice, as changes can be in each other's way, then the others."""
        return (self.first + self.times - 1) % ways if self.times > 1 else self.first


DOUBTS: Final = 3  # how often another way has to be what works, until one that has worked before is not the first


class RequestLadders:
    """Which way each kind of change is asked for in, and what is still to be read back."""

    def __init__(
        self,
        supports: Callable[[str], bool],
        learned: Callable[[], Mapping[str, str]] = dict,
        keep: Callable[[str, str], None] = lambda _kind, _way: None,
    ) -> None:
        """Begin with what was `learned` of this manager before, by kind; `keep` is told of what is learned now.

        What was learned is read when something is asked for the first time.
        """
        self._ways = {
            kind: tuple(way for way in ways if not way.needs or supports(way.needs)) for kind, ways in WAYS.items()
        }
        self._read, self._keep = learned, keep
        self._learned: dict[str, str] | None = None
        self._tried: dict[tuple[type, int], RequestAttempt] = {}
        self._given_up: dict[tuple[type, int], int] = {}  # how often no way has worked for a window
        self._doubts: dict[str, int] = {}  # by kind, of those whose way has worked

    def begin(self) -> dict[str, str]:
        """Read what was learned before, if that is not done yet; return the way that is known to work, by kind."""
        if self._learned is None:
            self._learned = dict(self._read())
            self._doubts = dict.fromkeys(self._learned, 0)
        return self._learned

    def ask(self, change: Change, asking: RequestContext) -> Sequence[int]:
        """Send the requests for a change, in the way that is known to work, or the first.

        Returns the windows that become active by it, in turn.
        """
        ways = self._ways.get(type(change))
        if isinstance(change, Minimise):
            for other in (Move, Reveal):
                self._tried.pop((other, change.window), None)
        if ways is None or (isinstance(change, Move) and change.window not in asking.desk.by_id):
            ask_for(change, asking.wire, asking.desk, asking.time)
            return ()
        kind = _kind(change, asking)
        way = next((i for i, one in enumerate(ways) if one.name == self.begin().get(kind)), 0)
        off = self._offset(change, asking.desk)
        if self._given_up.get(_key(change), 0) < PATIENT:
            self._tried[_key(change)] = RequestAttempt(change, kind, way, way, off=off)
        return ways[way].ask(off.taken_off(change), asking)

    def is_activating(self, change: Change) -> bool:
        """Return whether a change will be asked for in a way that needs the time of what the user did."""
        return not isinstance(change, Move) and self.begin().get(_word(change)) == ACTIVATE

    def read_back(self, desk: Desk, is_mapped: Callable[[int], bool]) -> bool:
        """Now that the desk has come to rest: learn from what is so; True if anything is not, and has other ways.

        `is_mapped`: whether the server shows a window.
        """
        tried, self._tried = self._tried, {}
        for key, one in tried.items():
            ways = self._ways[type(one.change)]
            if not _is_so(one.change, desk, is_mapped):
                if len(ways) > 1:
                    self._tried[key] = one
            else:
                self._learn(one.kind, ways[one.way].name)
                self._learn_offset(one, desk)
                self._given_up.pop(key, None)
        return bool(self._tried)

    def _offset(self, change: Change, desk: Desk) -> Offset:
        """Return by how much windows of this class are known to miss their places."""
        if not isinstance(change, Move):
            return NONE
        told = self.begin().get(_off_word(change, desk))
        found = _OFFSET.fullmatch(told) if told else None
        return Offset(int(found[1]), int(found[2])) if found else NONE

    def _learn_offset(self, one: RequestAttempt, desk: Desk) -> None:
        """Take in that a window stands where it is to be, with this much taken off."""
        if (
            isinstance(one.change, Move)
            and one.change.window in desk.by_id
            and one.off != self._offset(one.change, desk)
        ):
            word, told = _off_word(one.change, desk), f"{one.off.x} {one.off.y}"
            self.begin()[word] = told
            self._keep(word, told)

    def _learn(self, kind: str, way: str) -> None:
        """Take in that a way has worked."""
        learned = self.begin()
        if learned.get(kind) == way:
            self._doubts[kind] = 0
            return
        self._doubts[kind] = self._doubts.get(kind, DOUBTS) + 1
        if self._doubts[kind] >= DOUBTS:
            learned[kind], self._doubts[kind] = way, 0
            self._keep(kind, way)

    def again(self, asking: RequestContext) -> Sequence[int]:
        """Ask in the next way for all that was tried; return the windows that become active by it, in turn."""
        tried, self._tried = self._tried, {}
        passing: list[int] = []
        for key, one in tried.items():
            ways = self._ways[type(one.change)]
            way = one.next(len(ways))
            missed = _missed(one.change, asking.desk)
            # What was known to be taken off is so once more; another way is another start.
            off = one.off if one.times == 1 else NONE
            if one.times <= len(ways):
                self._tried[key] = one._replace(way=way, times=one.times + 1, off=off, missed=missed)
            elif missed == one.missed != NONE and not any(one.off):
                off = missed
                self._tried[key] = one._replace(way=way, times=one.times + 1, off=off)
            else:  # back where it began: what is best in all is what it is left with
                self._give_up(key)
            passing += ways[way].ask(off.taken_off(one.change), asking)
        return passing

    def _give_up(self, key: tuple[type, int]) -> None:
        """Ask no more in other ways for this window: it is the window that will not, and not its manager."""
        self._given_up[key] = self._given_up.get(key, 0) + 1
        while len(self._given_up) > MOST_GIVEN_UP:
            del self._given_up[next(iter(self._given_up))]


def _key(change: Change) -> tuple[type, int]:
    """Return the key of a change: a later change with the same key takes its place."""
    return type(change), 0 if isinstance(change, Stack) else change[0]  # type: ignore[return-value]  # the others have a window first


def _word(change: Change) -> str:
    return type(change).__name__.lower()


def _off_word(change: Move, desk: Desk) -> str:
    """Return the name that the offset of a window is remembered under."""
    window = desk.by_id.get(change.window)
    return f"off, {window.cls if window else ''}"


def _missed(change: Change, desk: Desk) -> Offset:
    """Return by how much a window misses its place; nothing where it is far away, or of another size."""
    window = desk.by_id.get(change.window) if isinstance(change, Move) else None
    if window is None or not isinstance(change, Move) or window.frame[2:] != change.frame[2:]:
        return NONE
    missed = Offset(window.frame.x - change.frame.x, window.frame.y - change.frame.y)
    return missed if max(map(abs, missed)) <= MOST_OFF else NONE


def _kind(change: Change, asking: RequestContext) -> str:
    """Return the name that a change's way is learned under. A manager can treat windows without a frame otherwise."""
    word = _word(change)
    if isinstance(change, Send):
        return f"{word} to all" if change.workspace is None else word
    if not isinstance(change, Move):
        return word
    window = asking.desk.by_id[change.window]
    edges = asking.edges(change.window)
    return f"{word} {'framed' if any(edges) else 'bare'}{'' if edges == window.border else ', shadow'}"


def _is_so(change: Change, desk: Desk, is_mapped: Callable[[int], bool]) -> bool:
    """Return whether a change has come about, or is none of the manager's business any more.

    A window that stands at its corner with another size than was asked has said itself what it takes.
    """
    if isinstance(change, Stack):
        return stands_on_top([wid for wid in change.windows if wid in desk.by_id], desk)
    window = desk.by_id.get(change[0])  # type: ignore[arg-type]  # as above
    if window is None:
        return True
    if isinstance(change, Reveal):
        return not window.minimised and (not desk.in_view(window) or is_mapped(window.id))
    if isinstance(change, Send):
        return window.workspace == change.workspace and (not desk.in_view(window) or is_mapped(window.id))
    if isinstance(change, Move):
        return (
            window.minimised
            or window.shape in (WindowShape.MAXIMISED, WindowShape.FULLSCREEN)
            or window.frame[:2] == change.frame[:2]
        )
    return True
