"""Any stretch of a signal that is computed in pages: each page lies at a multiple of its size and is always computed
whole, so that a stretch computed alone equals the same stretch of the whole to the bit. The last few are kept.
"""

import threading
from collections import OrderedDict
from collections.abc import Callable
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from wedge_turn.core.audio import Block

Page = tuple[NDArray[np.floating[Any]], ...]  # parts of float32 where that holds all there is

PAGE: Final = 65_536
CACHED_FRAMES: Final = 12 * PAGE  # frames that are kept, or six pages where those are longer
LOOKAHEAD: Final = 4 * PAGE  # frames that may be computed ahead without losing the page that is being read


class Pages:
    """`compute` gives frames [start, start + size) for a start that is a multiple of `size`, in parts that each are
    (frames, channels).
    """

    def __init__(self, compute: Callable[[int], Page], frames: int, size: int = PAGE) -> None:
        self._compute = compute
        self._frames = frames
        self._size = size
        self._most = max(6, CACHED_FRAMES // size)
        self._recent: OrderedDict[int, Page] = OrderedDict()
        self._computing: dict[int, threading.Lock] = {}
        self._lock = threading.Lock()

    def end_ahead(self, start: int) -> int:
        """Up to which frame may be computed ahead of one that is read, without losing a page before it is read: as many
        pages as that are kept besides, which were read last.
        """
        return min(self._frames, (start // self._size + self._most // 2) * self._size)

    def read(self, start: int, frames: int, part: int, channels: int) -> Block:
        """Frames [start, start + frames) of a part, of one channel or as many as are asked for; one goes into all of
        them. Silence outside the signal.
        """
        first, last = max(start, 0), min(start + frames, self._frames)
        out = (np.empty if (first, last) == (start, start + frames) else np.zeros)((frames, channels))
        for at in range(first // self._size * self._size, last, self._size):
            page = self._page(at)[part]
            begin, end = max(first, at), min(last, at + self._size)
            out[begin - start : end - start] = page[begin - at : end - at]
        return out

    def _page(self, start: int) -> Page:
        """A page from among those kept, or computed now; two who ask for one page compute it once."""
        with self._lock:
            if start in self._recent:
                self._recent.move_to_end(start)
                return self._recent[start]
            lock = self._computing.setdefault(start, threading.Lock())
        with lock:
            with self._lock:
                if start in self._recent:
                    return self._recent[start]
            page = self._compute(start)
            with self._lock:
                self._recent[start] = page
                self._computing.pop(start, None)
                while len(self._recent) > self._most:
                    self._recent.popitem(last=False)
        return page
