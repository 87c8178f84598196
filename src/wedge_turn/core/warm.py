"""Compiles every kernel, once: `python -m wedge_turn.core.warm`, run by `make setup`."""

import contextlib
import importlib
from typing import Final

from wedge_turn.core import machine_code

_KERNELS: Final = [f"wedge_turn.core.{part}.kernels" for part in ("audio", "measure", "centre")]


def warm_up() -> None:
    """Have Numba compile what no machine code is kept of, and keep it where the place can be written to."""
    for name in _KERNELS:
        if not machine_code.is_kept(name):
            module = importlib.import_module(name)
            module.warm_up()
            with contextlib.suppress(OSError):
                machine_code.store(module)


if __name__ == "__main__":
    warm_up()
