"""How this process asks the system for memory."""

import ctypes
from contextlib import suppress
from typing import Final

_M_ARENA_MAX: Final = -8  # malloc.h of glibc


def share_one_heap() -> None:
    """All threads take memory from one heap, where the C library is glibc.

    It gives each thread a heap of its own otherwise, and each keeps what its largest page once needed: computing the
    centre on two cores held half as much again. Few threads allocate at once here, and large arrays only.
    """
    with suppress(OSError, AttributeError, TypeError):
        ctypes.CDLL(None).mallopt(_M_ARENA_MAX, 1)
