"""Pictures for surfaces: pixels in memory that the compositor can read (wl_shm)."""

import mmap
import os
from typing import Any, Final

CLEAR: Final = 0  # wl_shm.format argb8888: blue, green, red, opacity in each pixel
SOLID: Final = 1  # xrgb8888: the fourth byte is not used


def picture(memory: Any, pixels: bytes, wide: int, high: int, form: int = SOLID) -> Any:
    """Return a buffer with these pixels, four bytes each; it goes once the compositor needs it no more."""
    descriptor = os.memfd_create("jaklet", os.MFD_CLOEXEC)
    try:
        os.ftruncate(descriptor, len(pixels))
        with mmap.mmap(descriptor, len(pixels)) as view:
            view[:] = pixels
        pool = memory.create_pool(descriptor, len(pixels))
    finally:
        os.close(descriptor)
    buffer = pool.create_buffer(0, wide, high, wide * 4, form)
    pool.destroy()
    buffer.dispatcher["release"] = _released
    return buffer


def _released(buffer: Any) -> None:
    buffer.destroy()
