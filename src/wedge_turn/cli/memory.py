"""How this process asks the system for memory, and how often it looks for what it can give back."""

import atexit
import ctypes
import gc
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


def collect_seldom() -> None:
    """Look through what was made for cycles after twenty thousand objects instead of seven hundred, and not at the end.

    What is imported stays: looking through it again and again takes a tenth of the start. At the end the system takes
    back all memory anyway.
    """
    gc.set_threshold(20_000, 20, 20)
    atexit.register(gc.freeze)
