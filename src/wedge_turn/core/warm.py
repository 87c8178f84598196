"""Compiles every kernel into Numba's cache: `python -m wedge_turn.core.warm`, run once by `make setup`."""

from wedge_turn.core.audio import kernels as audio
from wedge_turn.core.centre import kernels as centre
from wedge_turn.core.measure import kernels as measure


def warm_up() -> None:
    audio.warm_up()
    measure.warm_up()
    centre.warm_up()


if __name__ == "__main__":
    warm_up()
