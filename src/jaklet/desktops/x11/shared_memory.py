"""Pictures for the server through memory that it shares with us (MIT-SHM 1.2): in a tenth of the time of the socket.

Only a server on this machine can do that, and it need not. The memory is marked for removal as soon as both have it,
so that nothing is left however we end.
"""

import ctypes
from typing import Any, Final

import xcffib
import xcffib.shm
import xcffib.xproto as xp

from jaklet.desktops.x11.wire import Wire

LEAST: Final = 4 << 20  # bytes
MOST: Final = 64 << 20
_OURS_ALONE: Final = 0o600
_IPC_PRIVATE, _IPC_CREAT, _IPC_RMID = 0, 0o1000, 0  # sys/ipc.h
_FAILED: Final = ctypes.c_void_p(-1).value


class SharedMemory:
    """Some memory of which the server copies pictures."""

    def __init__(self, wire: Wire, extension: Any, size: int) -> None:
        """Raises `OSError` where the system or the server has none to share."""
        self._wire, self._extension, self.size = wire, extension, size
        system = ctypes.CDLL(None, use_errno=True)
        system.shmat.restype = ctypes.c_void_p
        self._system = system
        number = system.shmget(_IPC_PRIVATE, ctypes.c_size_t(size), _IPC_CREAT | _OURS_ALONE)
        if number < 0:
            raise OSError(ctypes.get_errno(), "no memory can be shared")
        try:
            self._at = system.shmat(number, None, 0)
            if self._at == _FAILED:
                raise OSError(ctypes.get_errno(), "no memory can be shared")
            self._segment: int = wire.connection.generate_id()
            try:
                extension.AttachChecked(self._segment, number, True).check()
            except (xcffib.XcffibException, xp.AccessError) as fault:
                system.shmdt(ctypes.c_void_p(self._at))
                raise OSError("the server shares no memory with us") from fault
        finally:
            system.shmctl(number, _IPC_RMID, None)
        self._used = 0

    def put(self, pixels: bytes, drawable: int, pen: int, size: tuple[int, int], depth: int) -> None:
        """Let the server copy a picture into something that it draws on. It is no larger than the memory."""
        if self._used + len(pixels) > self.size:
            self._wait()
        ctypes.memmove(self._at + self._used, pixels, len(pixels))
        wide, high = size
        self._extension.PutImage(
            drawable, pen, wide, high, 0, 0, wide, high, 0, 0, depth, xp.ImageFormat.ZPixmap, False, self._segment,
            self._used,
        )  # fmt: skip
        self._used += len(pixels)

    def _wait(self) -> None:
        """Begin at the front again, once the server has copied all: it answers in order."""
        self._wire.core.GetInputFocus().reply()
        self._used = 0

    def close(self) -> None:
        """Share it no longer."""
        self._wait()
        self._extension.Detach(self._segment)
        self._system.shmdt(ctypes.c_void_p(self._at))


class SharedSegments:
    """Memory that is shared as far as it is needed, and where that can be."""

    def __init__(self, wire: Wire) -> None:
        self._wire = wire
        self._memory: SharedMemory | None = None
        try:
            self._extension: Any = wire.connection(xcffib.shm.key)
            self._extension.QueryVersion().reply()
            self._works = True
        except Exception:  # the library tells of a missing extension in its own ways
            self._works = False

    def put(self, pixels: bytes, drawable: int, pen: int, size: tuple[int, int], depth: int) -> bool:
        """Let the server copy a picture; False where it has to be sent otherwise."""
        if not self._works or len(pixels) > MOST:
            return False
        if self._memory is None or self._memory.size < len(pixels):
            try:
                size_needed = max(LEAST, 1 << (len(pixels) - 1).bit_length())
                fresh = SharedMemory(self._wire, self._extension, size_needed)
            except OSError:
                self._works = False
                return False
            if self._memory:
                self._memory.close()
            self._memory = fresh
        self._memory.put(pixels, drawable, pen, size, depth)
        return True
