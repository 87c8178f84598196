"""Numba, loaded when a kernel is first called: that takes half a second and a hundred megabytes, which a command on a
few files, or a server that nobody looks at, can do without.

What NumPy can do as well is left to it until Numba is there, or until so much was left to it that loading Numba pays.
"""

import sys
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import cached_property, update_wrapper
from typing import Any, Final, Generic, ParamSpec, TypeVar

P = ParamSpec("P")
R = TypeVar("R")
_LOCK: Final = threading.RLock()
# Moving so many bytes takes NumPy about half a second longer than kernels, which is what loading Numba takes.
NUMBA_BREAK_EVEN_BYTES: Final = 800_000_000
_USUAL: Final = sys.getswitchinterval()


class Kernel(Generic[P, R]):
    """A function over arrays that is compiled, or loaded from Numba's cache, when it is first called."""

    def __init__(self, function: Callable[P, R], options: dict[str, Any]) -> None:
        self._function, self._options = function, options
        update_wrapper(self, function)

    def __call__(self, *args: P.args, **kwargs: P.kwargs) -> R:
        result = self.compiled(*args, **kwargs)
        _use.loaded = True
        return result

    @cached_property
    def compiled(self) -> Callable[P, R]:
        """What Numba makes of the function. It takes the function's place in its module, and so do those it calls."""
        with _LOCK:
            njit = _numba().njit
            names = self._function.__globals__
            for name in self._function.__code__.co_names:
                if isinstance(called := names.get(name), Kernel):
                    names[name] = called.compiled
            made: Callable[P, R] = njit(cache=True, nogil=True, **self._options)(self._function)
            names[self._function.__name__] = made
            return made


class _Use:
    """Whether a kernel was called yet, and how many bytes NumPy was given instead."""

    loaded = False
    without = 0


_use: Final = _Use()


def use_kernel(size: int) -> bool:
    """Whether to have a kernel go through so many bytes; if not they are counted, and left to NumPy."""
    if not _use.loaded:
        _use.without += size
    return _use.loaded or _use.without > NUMBA_BREAK_EVEN_BYTES


@contextmanager
def shorten_switch_interval() -> Iterator[None]:
    """Let other threads run every 50 µs and not every 5 ms, while this one loads Numba: a thread that moves bytes needs
    the interpreter often and briefly.
    """
    sys.setswitchinterval(_USUAL / 100)
    try:
        yield
    finally:
        sys.setswitchinterval(_USUAL)


def _numba() -> Any:
    """Numba without linear algebra: for that it would load a large part of SciPy, a tenth of the time that a command
    takes to start, and no kernel here multiplies matrices.
    """
    import numba
    from numba.np import linalg

    linalg.ensure_blas = _no_blas
    return numba


def _no_blas() -> None:
    raise ImportError("kernels have no linear algebra")


def kernel(**options: Any) -> Callable[[Callable[P, R]], Callable[P, R]]:
    """A decorator for functions that Numba compiles, cached and without the interpreter's lock, with these options."""

    def decorate(function: Callable[P, R]) -> Callable[P, R]:
        return Kernel(function, options)

    return decorate
