"""Pictures for surfaces: pixels in memory that the compositor can read (wl_shm)."""

import mmap
import os
from typing import Any, Final

ARGB: Final = 0  # wl_shm.format: blue, green, red, opacity in each pixel


def picture(memory: Any, pixels: bytes, wide: int, high: int) -> Any:
    """Return a buffer with these pixels, four bytes each. The compositor has the memory for as long as it needs it."""
    descriptor = os.memfd_create("jaklet", os.MFD_CLOEXEC)
    try:
        os.ftruncate(descriptor, len(pixels))
        with mmap.mmap(descriptor, len(pixels)) as view:
            view[:] = pixels
        pool = memory.create_pool(descriptor, len(pixels))
    finally:
        os.close(descriptor)
    buffer = pool.create_buffer(0, wide, high, wide * 4, ARGB)
    pool.destroy()
    return buffer
