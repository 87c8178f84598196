"""Loading what a window will ask for, when the first one opens: until then a server takes little memory."""

import gc
import importlib
import threading

from wedge_turn.core.warm import warm_up


class Preloader:
    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._begun = False

    def start(self) -> None:
        """Load it in the background; once."""
        with self._lock:
            if not self._begun:
                self._begun = True
                threading.Thread(target=preload, name="preload", daemon=True).start()


def preload() -> None:
    """Load and compile what answers need, so that none waits for it, and leave it out of later garbage collections,
    which would otherwise stop everything for a quarter of a second now and then to look through it.
    """
    warm_up()
    importlib.import_module("wedge_turn.core.centre.extraction")  # with what else is loaded where it is first needed
    gc.collect()
    gc.freeze()
