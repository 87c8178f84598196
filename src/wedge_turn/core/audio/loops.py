"""The inner loops over raw PCM: those of `kernels`, without Numba where their machine code is kept."""

from typing import TYPE_CHECKING

from wedge_turn.core.machine_code import Kernels

if TYPE_CHECKING:
    from wedge_turn.core.audio import kernels as loops
else:
    loops = Kernels("wedge_turn.core.audio.kernels")

__all__ = ["loops"]
