"""The inner loops of the wedge: those of `kernels`, without Numba where their machine code is kept."""

from typing import TYPE_CHECKING

from wedge_turn.core.machine_code import Kernels

if TYPE_CHECKING:
    from wedge_turn.core.centre import kernels as loops
else:
    loops = Kernels("wedge_turn.core.centre.kernels")

__all__ = ["loops"]
