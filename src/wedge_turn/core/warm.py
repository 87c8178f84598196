"""Compiles every kernel, once: `python -m wedge_turn.core.warm`, run by `make setup`; Numba keeps what it compiled."""

import importlib
from typing import Final

_KERNELS: Final = [
    "wedge_turn.core.audio.kernels",
    "wedge_turn.core.measure.kernels",
    "wedge_turn.core.centre.kernels",
    "wedge_turn.core.centre.voice.network",
    "wedge_turn.proof.kernels",
]


def warm_up() -> None:
    """Have Numba compile every kernel, or load it from its cache."""
    for name in _KERNELS:
        importlib.import_module(name).warm_up()


if __name__ == "__main__":
    warm_up()
